package agenda

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/calendar"
	"orario/core/coursework"
)

func TestWhatGoesOutToOtherCalendars(t *testing.T) {
	for name, c := range map[string]struct {
		due    string
		change []func(*coursework.Assignment)
		want   []string
	}{
		"open": {"2026-11-03T20:00", nil, []string{"Send HYD 214 Ripple 3 Nov 19:59 alarm 2h0m0s",
			"HYD 214 Ripple is due 3 Nov 20:00 alarm 1h0m0s", "HYD 214 Ripple 2 Nov 17:00 to 21:00"}},
		"sent": {
			"2026-11-03T20:00",
			[]func(*coursework.Assignment){sent(monday)},
			[]string{"HYD 214 Ripple was due; sent 3 Nov 20:00 alarm 0s"},
		},
		"closed, not sent": {"2026-11-01T20:00", nil, nil},
		"put away": {
			"2026-11-03T20:00",
			[]func(*coursework.Assignment){func(a *coursework.Assignment) { a.Cancelled = true }},
			nil,
		},
	} {
		t.Run(name, func(t *testing.T) {
			s := newScene(t)
			s.add("Ripple", c.due, 240, c.change...)
			var got []string
			uids := map[string]bool{}
			for _, e := range s.lay().Calendar("https://orario.example") {
				text := e.Title + e.Start.Format(" 2 Jan 15:04")
				if e.Busy {
					text += e.End.Format(" to 15:04")
				} else {
					text += " alarm " + e.Alarm.String()
				}
				got = append(got, text)
				assert.False(t, uids[e.UID], "each has an id of its own")
				uids[e.UID] = true
				assert.Equal(t, "https://orario.example/desk/1", e.Link)
			}
			assert.Equal(t, c.want, got)
		})
	}
}

// An entry keeps its id when the plan moves it, so that no calendar program shows it twice.
func TestAnEntryKeepsItsId(t *testing.T) {
	s := newScene(t)
	s.add("Ripple", "2026-11-06T20:00", 240)
	ids := func() (list []string) {
		for _, e := range s.lay().Calendar("") {
			list = append(list, e.UID)
		}
		return list
	}
	before := ids()
	s.wish.NotBefore = []Begin{{1, at(4, 0, 0)}}
	assert.Equal(t, before, ids())
	assert.Contains(t, before, "due-1@orario")
}

func TestTheTableIsReadByOurOwnImport(t *testing.T) {
	s := newScene(t)
	s.add("Ripple", "2026-11-03T20:00", 240, opens(t, "2026-11-01T08:00"), late(perDay), closes(t, "2026-11-05T20:00"))
	s.add("=HYPERLINK(1)", "2026-11-04T20:00", 0)
	rows := s.lay().Table()
	require.Len(t, rows, 3)
	for _, r := range rows {
		assert.Len(t, r, len(rows[0]))
	}
	items, err := calendar.Rows(calendar.Match(rows[0]), rows[1:], calendar.Around(monday), lisbon)
	require.NoError(t, err)
	require.Len(t, items, 2)
	assert.Equal(
		t,
		[]string{"Ripple", "HYD 214", "2026-11-03T20:00:00Z", "2026-11-01T08:00:00Z", "2026-11-05T20:00:00Z", "20"},
		[]string{
			items[0].Title,
			items[0].Course,
			items[0].Due,
			items[0].Opens,
			items[0].Closes,
			fmt.Sprint(items[0].Points),
		},
	)
	assert.Equal(t, "'=HYPERLINK(1)", items[1].Title, "no formula")
	for text, want := range map[string]string{"": "", "a=b": "a=b", "+1": "'+1", "-1": "'-1", "@x": "'@x", "\tx": "'\tx", "\rx": "'\rx"} {
		assert.Equal(t, want, inert(text), "%q", text)
	}
}

func TestUntilWhenMoreTimeIsEnough(t *testing.T) {
	for name, c := range map[string]struct {
		minutes int
		begin   time.Time
		want    string
	}{
		"the work is done in time":   {60, monday, "2026-11-07T23:59"},
		"the work ends a day later":  {20 * 60, monday, "2026-11-08T23:59"},
		"no hours are left for work": {0, monday, "2026-11-07T23:59"},
	} {
		t.Run(name, func(t *testing.T) {
			s := newScene(t)
			s.add("Ripple", "2026-11-05T20:00", c.minutes)
			s.wish.NotBefore = []Begin{{1, c.begin}}
			e := s.lay().Of(1)
			assert.Equal(t, c.want, e.EnoughTime().In(lisbon).Format("2006-01-02T15:04"))
		})
	}
}

func TestTheMailThatAsksForMoreTime(t *testing.T) {
	s := newScene(t)
	s.work.Courses[0].Title, s.work.Courses[0].Instructor = "Hydrography", "Prof. Oda Farrobo"
	a := s.add("Ripple", "2026-11-05T20:00", 240)
	who := coursework.Enrolment{Number: "20418", Family: "Quintal", Given: "Nerea"}
	subject, text := s.lay().Of(1).AskForTime(who, "2026-11-09T23:59")
	assert.Equal(t, "HYD 214, Ripple: more time", subject)
	assert.Equal(t, `Dear Prof. Oda Farrobo,

Ripple in Hydrography (HYD 214) is due Thu 5 Nov 20:00. I reckon with 4 h of work, which do not fit beside what else is due before then.

May I send it until Mon 9 Nov 23:59? If less is possible, please tell me until when.

Thank you,
Nerea Quintal
student number 20418
`, text)
	a.Done, s.work.Courses[0].Instructor, who.Number = 90, "", ""
	_, text = s.lay().Of(1).AskForTime(who, "2026-11-09T23:59")
	assert.Contains(t, text, "Good day,\n")
	assert.Contains(t, text, "I have put 1 h 30 min into it and reckon with 2 h 30 min more, which")
	assert.NotContains(t, text, "student number", "where nobody gave one")
}
