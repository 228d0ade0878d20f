package agenda

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/coursework"
)

func TestWhatIsSaidFollowsFromTheTimeThatIsLeft(t *testing.T) {
	// Monday has four hours from 17:00; an hour of work that is due at 20:00 must begin by 18:59.
	for name, c := range map[string]struct {
		now    time.Time
		change []func(*coursework.Assignment)
		want   string
	}{
		"two days ahead": {at(1, 12, 0), nil, ""},
		"a day ahead": {
			at(2, 10, 0),
			nil,
			"first: HYD 214 Ripple: 1 h of work left, 8 h 59 min of slack until send-by Mon 2 Nov 19:59.",
		},
		"two hours ahead": {
			at(2, 17, 30),
			nil,
			"last: HYD 214 Ripple: send by Mon 2 Nov 19:59, 1 h 29 min of slack.",
		},
		"the latest start": {at(2, 18, 59), nil, "start: HYD 214 Ripple: 1 h of work are left"},
		"not startable in time": {
			at(2, 18, 59).Add(30 * time.Second),
			nil,
			"start: HYD 214 Ripple: 1 h of work are left",
		},
		"the last hour": {
			at(2, 19, 0),
			nil,
			"due: HYD 214 Ripple: due Mon 2 Nov 20:00; nothing is taken after that.",
		},
		"past": {at(2, 20, 1), nil, ""},
		"nothing left to do": {at(2, 19, 59).Add(-3 * time.Hour), []func(*coursework.Assignment){done(60)},
			"first: HYD 214 Ripple: 0 min of work left, 3 h of slack"},
		"sent": {at(2, 19, 0), []func(*coursework.Assignment){sent(at(2, 18, 55))}, ""},
		"sent, and no receipt": {at(2, 19, 10), []func(*coursework.Assignment){sent(at(2, 18, 55))},
			"proof: HYD 214 Ripple: sent Mon 2 Nov 18:55, and no receipt has come."},
		"sent and proved": {at(2, 19, 10), []func(*coursework.Assignment){sent(at(2, 18, 55), proved)}, ""},
		"opening": {
			at(1, 9, 0),
			[]func(*coursework.Assignment){opens(t, "2026-11-01T08:00")},
			"opens: HYD 214 Ripple: opened Sun 1 Nov 08:00, due Mon 2 Nov 20:00.",
		},
		"opened long ago": {at(1, 9, 0), []func(*coursework.Assignment){opens(t, "2026-10-30T08:00")}, ""},
		"put away": {
			at(2, 19, 0),
			[]func(*coursework.Assignment){func(a *coursework.Assignment) { a.Cancelled = true }},
			"",
		},
	} {
		t.Run(name, func(t *testing.T) {
			s := newScene(t)
			s.now = c.now
			s.add("Ripple", "2026-11-02T20:00", 60, c.change...)
			said := s.lay().Reminders(c.now)
			if c.want == "" {
				assert.Empty(t, said)
				return
			}
			require.Len(t, said, 1)
			kind, _, _ := strings.Cut(said[0].Mark, "/")
			assert.Contains(t, kind+": "+said[0].Text, c.want)
		})
	}
}

func done(minutes int) func(*coursework.Assignment) {
	return func(a *coursework.Assignment) { a.Done = minutes }
}

func TestANewDueTimeIsWorthANewReminder(t *testing.T) {
	mark := func(due string) string {
		s := newScene(t)
		s.add("Ripple", due, 0)
		said := s.lay().Reminders(monday)
		require.Len(t, said, 1)
		return said[0].Mark
	}
	assert.Equal(t, mark("2026-11-02T20:00"), mark("2026-11-02T20:00"))
	assert.NotEqual(t, mark("2026-11-02T20:00"), mark("2026-11-02T22:00"))
}

func TestTheInstitutionsClockCounts(t *testing.T) {
	s := newScene(t)
	s.work.Courses[0].Enrolment = &coursework.Enrolment{Clock: 30 * time.Minute} // its clock is ahead of ours
	s.add("Ripple", "2026-11-02T20:00", 0)
	p := s.lay()
	assert.True(
		t,
		strings.HasPrefix(p.Reminders(at(2, 18, 31))[0].Mark, "due/"),
		"an hour before by its clock, 89 minutes by ours",
	)
	assert.True(t, strings.HasPrefix(p.Reminders(at(2, 18, 29))[0].Mark, "last/"))
	next := p.Next(at(2, 18, 29), time.Hour)
	assert.Equal(t, at(2, 18, 30), next)
}

func TestQuietHours(t *testing.T) {
	night := Settings{QuietFrom: 22 * 60, QuietTo: 8 * 60}
	noon := Settings{QuietFrom: 12 * 60, QuietTo: 13*60 + 30}
	for name, c := range map[string]struct {
		s     Settings
		now   time.Time
		until time.Time
		quiet bool
	}{
		"by day":                      {night, at(2, 15, 0), at(2, 15, 0), false},
		"before the night":            {night, at(2, 21, 29), at(2, 21, 29), false},
		"shortly before, to its end":  {night, at(2, 21, 30), at(3, 8, 0), false},
		"as it begins":                {night, at(2, 22, 0), at(2, 22, 0), true},
		"after midnight":              {night, at(3, 3, 0), at(3, 3, 0), true},
		"its last minute":             {night, at(3, 7, 59), at(3, 7, 59), true},
		"as it ends":                  {night, at(3, 8, 0), at(3, 8, 0), false},
		"shortly before noon":         {noon, at(2, 11, 45), at(2, 13, 30), false},
		"at noon":                     {noon, at(2, 12, 0), at(2, 12, 0), true},
		"never, where both are equal": {Settings{QuietFrom: 600, QuietTo: 600}, at(2, 10, 0), at(2, 10, 0), false},
	} {
		t.Run(name, func(t *testing.T) {
			until, quiet := c.s.Ahead(c.now)
			assert.Equal(t, []any{c.until, c.quiet}, []any{until, quiet})
		})
	}
}

// Between an instant and the next one that the plan names nothing new may become worth saying; otherwise it would be
// said too late. Walked minute by minute over three days with every kind of assignment.
func TestNothingIsDueBetweenTwoLooks(t *testing.T) {
	s := newScene(t)
	s.settings.QuietFrom, s.settings.QuietTo = 0, 0
	s.add("plain", "2026-11-03T20:00", 60)
	s.add("opening", "2026-11-05T09:00", 90, opens(t, "2026-11-02T15:17"))
	s.add("without proof", "2026-11-10T20:00", 60, sent(at(2, 11, 58)))
	s.add("noted", "2026-11-10T20:00", 60, func(a *coursework.Assignment) {
		a.Parts[0].Noted = &coursework.Noted{At: at(2, 9, 41)}
	})
	s.add("by another clock", "2026-11-04T16:00", 30, func(a *coursework.Assignment) {
		a.Course = &coursework.Course{
			ID:        2,
			Code:      "NAV 120",
			Zone:      lisbon,
			Enrolment: &coursework.Enrolment{Clock: -17 * time.Minute},
		}
	})
	p := s.lay()
	marks := func(until time.Time) map[string]bool {
		set := map[string]bool{}
		for _, r := range p.Reminders(until) {
			set[r.Mark] = true
		}
		return set
	}
	seen, news := marks(monday), 0
	next := p.Next(monday, 6*time.Hour)
	for now := monday; now.Before(monday.Add(72 * time.Hour)); now = now.Add(time.Minute) {
		looked := !now.Before(next)
		for mark := range marks(now) {
			if !seen[mark] {
				news++
				require.True(t, looked, "%s became worth saying at %s, next look %s", mark, now, next)
				seen[mark] = true
			}
		}
		if looked {
			next = p.Next(now, 6*time.Hour)
			require.True(t, next.After(now))
		}
	}
	assert.Greater(t, news, 8)
}

func TestTheNextLook(t *testing.T) {
	s := newScene(t)
	p := s.lay()
	assert.Equal(t, at(2, 12, 30), p.Next(monday, 30*time.Minute), "at the most so long")
	assert.Equal(
		t,
		at(2, 21, 30),
		p.Next(monday, 48*time.Hour).UTC(),
		"before quiet hours it is said what falls into them",
	)
	assert.Equal(
		t,
		at(3, 8, 0),
		p.Next(at(2, 21, 45), 48*time.Hour).UTC(),
		"and after them it is said what was kept back",
	)
	s.settings.QuietFrom = s.settings.QuietTo
	assert.Equal(t, at(4, 12, 0), s.lay().Next(monday, 48*time.Hour))
}

func TestMarksFitTheirColumn(t *testing.T) {
	s := newScene(t)
	s.add(
		"Ripple",
		"2026-11-02T20:00",
		0,
		func(a *coursework.Assignment) { a.Parts[0].Name = strings.Repeat("ã", 300) },
	)
	said := s.lay().Reminders(monday)
	require.Len(t, said, 1)
	assert.LessOrEqual(t, len([]rune(said[0].Mark)), mostMark)
}
