package track_test

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/planner"
	"orario/internal/account"
	"orario/internal/prepare"
	"orario/internal/track"
	"orario/internal/worldtest"
)

// monday is the clock of these tests: a Monday morning in Lisbon, where it is UTC in winter.
var monday = time.Date(2027, 1, 11, 8, 0, 0, 0, time.UTC)

// planned is a world on that Monday, in which the student works from 18 to 20 o'clock and wants no margin.
func planned(t testing.TB) *worldtest.World {
	w := worldtest.New(t)
	w.Sync()
	w.At(monday)
	settings := account.Settings{MostADay: 600, Block: 30}
	for day := range settings.Week {
		settings.Week[day] = []planner.Hours{{From: 18 * 60, To: 20 * 60}}
	}
	require.NoError(t, w.Accounts.SetSettings(context.Background(), w.Student, settings))
	return w
}

// own adds an assignment from one line and gives its id.
func own(t testing.TB, w *worldtest.World, line string, weight float64) int64 {
	ctx := context.Background()
	d, err := w.Track.Typed(ctx, w.Student, line)
	require.NoError(t, err)
	require.Empty(t, d.Questions, line)
	d.Weight = weight
	id, err := w.Track.Add(ctx, w.Student, *d)
	require.NoError(t, err)
	return id
}

func line(t testing.TB, w *worldtest.World, id int64) track.Line {
	h, err := w.Track.Horizon(context.Background(), w.Student)
	require.NoError(t, err)
	for _, l := range h.Lines {
		if l.ID == id {
			return l
		}
	}
	t.Fatalf("assignment %d is not on the Horizon", id)
	return track.Line{}
}

func at(day, hour int) time.Time { return time.Date(2027, 1, day, hour, 0, 0, 0, time.UTC) }

// Two hours an evening: A (3 h, due Wednesday) and B (3 h, due Thursday) fit, with two hours to spare.
func TestAPlanIsLaidTriedAndKept(t *testing.T) {
	w := planned(t)
	ctx := context.Background()
	a := own(t, w, "A HYD 13 Jan 23:00 ~3h", 10)
	b := own(t, w, "B HYD 14 Jan 23:00 ~3h", 10)
	block := func(day, from, day2, to int) track.Block { return track.Block{Start: at(day, from), End: at(day2, to)} }
	assert.Equal(t, []track.Block{block(11, 18, 11, 20), block(12, 18, 12, 19)}, line(t, w, a).Blocks)
	assert.Equal(t, []track.Block{block(12, 19, 12, 20), block(13, 18, 13, 20)}, line(t, w, b).Blocks)
	// Run backwards: B fills Thursday, A Wednesday and an hour of Tuesday, and the hour before that is B's again.
	assert.Equal(t, at(12, 19), *line(t, w, a).LatestStart)
	assert.Equal(t, at(12, 18), *line(t, w, b).LatestStart)

	plan, err := w.Track.Plan(ctx, w.Student)
	require.NoError(t, err)
	assert.True(t, plan.Fits)
	wish := track.Wish{Pins: []track.Pin{{AssignmentID: b, Start: at(11, 18), End: at(11, 20)}}, NotBefore: []track.Begin{}}
	tried, err := w.Track.Try(ctx, w.Student, track.Trial{Wish: wish})
	require.NoError(t, err)
	require.NotEmpty(t, tried.Changes)
	assert.Contains(t, strings.Join(tried.Changes, " "), "HYD 214 A would be finished Wed 13 Jan 19:00, not Tue 12 Jan 19:00.")
	assert.Len(t, line(t, w, b).Blocks, 2, "nothing is saved by trying")
	require.NoError(t, w.Track.Keep(ctx, w.Student, wish))
	got := line(t, w, b).Blocks
	require.Len(t, got, 2)
	assert.True(t, got[0].Pinned)
	assert.Equal(t, at(11, 18), got[0].Start)

	// "What if I start on Thursday?"
	late := track.Wish{NotBefore: []track.Begin{{AssignmentID: a, At: at(13, 22)}}}
	tried, err = w.Track.Try(ctx, w.Student, track.Trial{Wish: late})
	require.NoError(t, err)
	assert.False(t, tried.Fits)
	assert.Contains(t, strings.Join(tried.Changes, " "), "A would be finished")
	assert.NotEmpty(t, tried.Proof)
}

// A stretch is dragged, dragged on, dragged back and let go of; each time from what was tried before.
func TestAStretchIsMovedAboutAndLetGo(t *testing.T) {
	w := planned(t)
	ctx := context.Background()
	a := own(t, w, "A HYD 15 Jan 23:00 ~3h", 10) // Monday and an hour of Tuesday
	b := own(t, w, "B HYD 16 Jan 23:00 ~1h", 10)
	wish := track.Wish{Pins: []track.Pin{}, NotBefore: []track.Begin{}}
	shift := func(start, end, to time.Time) track.Wish {
		s := track.Shift{AssignmentID: a, Start: start, End: end}
		if !to.IsZero() {
			s.To = &to
		}
		tried, err := w.Track.Try(ctx, w.Student, track.Trial{Wish: wish, Shift: &s})
		require.NoError(t, err)
		return tried.Wish
	}
	// The second stretch is held where it is put; the work begins as before.
	wish = shift(at(12, 18), at(12, 19), at(13, 18))
	assert.Equal(t, track.Wish{Pins: []track.Pin{{AssignmentID: a, Start: at(13, 18), End: at(13, 19)}}, NotBefore: []track.Begin{}}, wish)
	// The first one moved later: work begins only then.
	wish = shift(at(11, 18), at(11, 20), at(14, 18))
	assert.Equal(t, []track.Begin{{AssignmentID: a, At: at(14, 18)}}, wish.NotBefore)
	assert.Len(t, wish.Pins, 2)
	wish.Pins = wish.Pins[1:]
	// Later still, the pin and the beginning go along; earlier, the beginning is forgotten.
	wish = shift(at(14, 18), at(14, 20), at(15, 18))
	assert.Equal(t, track.Wish{Pins: []track.Pin{{AssignmentID: a, Start: at(15, 18), End: at(15, 20)}}, NotBefore: []track.Begin{{AssignmentID: a, At: at(15, 18)}}}, wish)
	wish.Pins = append(wish.Pins, track.Pin{AssignmentID: b, Start: at(11, 18), End: at(11, 19)})
	wish = shift(at(15, 18), at(15, 20), at(12, 18))
	assert.Empty(t, wish.NotBefore)
	wish = shift(at(12, 18), at(12, 20), time.Time{})
	assert.Equal(t, []track.Pin{{AssignmentID: b, Start: at(11, 18), End: at(11, 19)}}, wish.Pins, "the others' stay")
}

func TestAWishThatCannotBeIsRefused(t *testing.T) {
	w := planned(t)
	ctx := context.Background()
	a := own(t, w, "A HYD 13 Jan 23:00 ~3h", 10)
	pin := func(from, to int) track.Pin { return track.Pin{AssignmentID: a, Start: at(11, from), End: at(11, to)} }
	var complaint prepare.Complaint
	for name, wish := range map[string]track.Wish{"backwards": {Pins: []track.Pin{pin(20, 18)}}, "overlapping": {Pins: []track.Pin{pin(10, 12), pin(11, 13)}}} {
		_, err := w.Track.Try(ctx, w.Student, track.Trial{Wish: wish})
		assert.ErrorAs(t, err, &complaint, name)
		assert.ErrorAs(t, w.Track.Keep(ctx, w.Student, wish), &complaint, name)
	}
	_, err := w.Track.Try(ctx, w.Student, track.Trial{Wish: track.Wish{Pins: []track.Pin{{AssignmentID: a + 99, Start: at(11, 10), End: at(11, 11)}}}})
	assert.ErrorIs(t, err, prepare.ErrNotFound)
}

// Six hours of time before Wednesday night and nine of work: the cheapest to give up is not the fewest.
func TestTooMuchIsProvedAndPriced(t *testing.T) {
	w := planned(t)
	ctx := context.Background()
	big := own(t, w, "Big HYD 13 Jan 23:00 ~5h", 30)
	small := own(t, w, "Small HYD 13 Jan 23:00 ~2h", 2)
	other := own(t, w, "Other HYD 13 Jan 23:00 ~2h", 3)
	for _, id := range []int64{big, small, other} {
		d, err := w.Track.DraftOf(ctx, w.Student, id)
		require.NoError(t, err)
		none, err := w.Track.Correct(ctx, w.Student, d.CourseID, "late", "no late work")
		require.NoError(t, err)
		d.Asks = append(d.Asks, *none)
		require.NoError(t, w.Track.Change(ctx, w.Student, *d))
	}
	plan, err := w.Track.Plan(ctx, w.Student)
	require.NoError(t, err)
	assert.False(t, plan.Fits)
	assert.Contains(t, plan.Proof, "9 h of work and 6 h to do it in: too much by 3 h")
	require.Len(t, plan.Proposals, 2)
	fewest, cheapest := plan.Proposals[0], plan.Proposals[1]
	require.Len(t, fewest.Tasks, 1)
	assert.Equal(t, big, fewest.Tasks[0].AssignmentID)
	assert.Equal(t, "30 % of a course's mark", fewest.Cost)
	require.Len(t, cheapest.Tasks, 2)
	assert.Equal(t, "5 % of a course's mark", cheapest.Cost)

	h, err := w.Track.Horizon(ctx, w.Student)
	require.NoError(t, err)
	verbs := map[string]int{}
	for _, m := range h.Moves {
		verbs[m.Verb]++
	}
	assert.Equal(t, 2, verbs["Ask for more time for"])

	// Asked for and granted, with the answer as proof: now it fits.
	mail, err := w.Track.ExtensionOf(ctx, w.Student, small, "2027-01-16T18:00")
	require.NoError(t, err)
	assert.Contains(t, mail.Mail, "May I send it until Sat 16 Jan 18:00?")
	assert.Contains(t, mail.Mail, "student number 20418")
	require.NoError(t, w.Track.SetExtension(ctx, w.Student, small, track.Grant{State: "asked"}))
	assert.Equal(t, "asked", line(t, w, small).Extension)
	var complaint prepare.Complaint
	assert.ErrorAs(t, w.Track.SetExtension(ctx, w.Student, small, track.Grant{State: "granted", Due: "2027-01-12T10:00"}), &complaint, "earlier than due")
	assert.ErrorAs(t, w.Track.SetExtension(ctx, w.Student, small, track.Grant{State: "granted", Due: "soon"}), &complaint)
	require.NoError(t, w.Track.SetExtension(ctx, w.Student, small, track.Grant{State: "granted", Due: "2027-01-16T18:00", Upload: w.Upload("answer.txt", []byte("Until Saturday."))}))
	require.NoError(t, w.Track.SetExtension(ctx, w.Student, other, track.Grant{State: "granted", Due: "2027-01-16T18:00"}))
	assert.Equal(t, at(16, 18), line(t, w, small).Due)
	view, err := w.Track.ExtensionOf(ctx, w.Student, small, "")
	require.NoError(t, err)
	assert.NotZero(t, view.Proof)
	plan, err = w.Track.Plan(ctx, w.Student)
	require.NoError(t, err)
	assert.True(t, plan.Fits)
	require.NoError(t, w.Track.SetExtension(ctx, w.Student, small, track.Grant{}))
	assert.Equal(t, at(13, 23), line(t, w, small).Due, "taken back")
}

// Sheets took 3 h where 2 h were planned: (2 + 1.5) / (2 + 1) = 7/6 of what is planned for the next.
func TestPastWorkShiftsTheEstimate(t *testing.T) {
	w := planned(t)
	ctx := context.Background()
	done := own(t, w, "Sheet 1 HYD 12 Jan 23:00 ~2h", 5)
	next := own(t, w, "Sheet 2 HYD 20 Jan 23:00 ~2h", 5)
	other := own(t, w, "Essay HYD 20 Jan 22:00 ~2h", 5)
	require.NoError(t, w.Track.LogWork(ctx, w.Student, done, 180))
	sent := monday.Add(-time.Hour)
	require.NoError(t, w.Track.NoteSent(ctx, w.Student, done, &sent, "by hand"))
	assert.Equal(t, 140, line(t, w, next).PlanMinutes)
	assert.Contains(t, line(t, w, next).Estimate, "17 % longer")
	assert.Equal(t, 120, line(t, w, other).PlanMinutes, "an essay is no sheet")
	// Three figures, by PERT: (1 + 4·2 + 6)/6 h and 1.645 · 5/6 h more.
	require.NoError(t, w.Track.SetWork(ctx, w.Student, other, track.Work{Minutes: 120, Low: 60, High: 360}))
	assert.InDelta(t, 150+1.645*50, line(t, w, other).PlanMinutes, 1)
	var complaint prepare.Complaint
	assert.ErrorAs(t, w.Track.SetWork(ctx, w.Student, other, track.Work{Minutes: 120, Low: 180, High: 360}), &complaint)
	assert.ErrorAs(t, w.Track.LogWork(ctx, w.Student, next, -30), &complaint, "less than nothing")
}

func TestBusyTimesAreKeptFree(t *testing.T) {
	w := planned(t)
	ctx := context.Background()
	a := own(t, w, "A HYD 14 Jan 23:00 ~2h", 10)
	ics := "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:x\r\nSUMMARY:Choir\r\nDTSTART:20270111T180000Z\r\nDTEND:20270111T200000Z\r\nRRULE:FREQ=DAILY;COUNT=2\r\nEND:VEVENT\r\n" +
		"BEGIN:VEVENT\r\nUID:y\r\nSUMMARY:Birthday\r\nTRANSP:TRANSPARENT\r\nDTSTART;VALUE=DATE:20270113\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
	done, err := w.Track.Import(ctx, w.Student, track.Import{Upload: w.Upload("busy.ics", []byte(ics)), Name: "busy.ics", Purpose: track.PurposeBusy})
	require.NoError(t, err)
	assert.Equal(t, 2, done.Busy, "what takes no time is left out")
	assert.Equal(t, at(13, 18), line(t, w, a).Blocks[0].Start)
	week, err := w.Track.Week(ctx, w.Student, "")
	require.NoError(t, err)
	assert.Equal(t, "Choir", week.Days[0].Busy[0].Title)
	assert.Len(t, week.Days, 7)
	feeds, err := w.Track.Feeds(ctx, w.Student)
	require.NoError(t, err)
	require.NoError(t, w.Track.RemoveFeed(ctx, w.Student, feeds[0].ID))
	assert.Equal(t, at(11, 18), line(t, w, a).Blocks[0].Start)
}

func BenchmarkHorizon8x40(b *testing.B) {
	w := planned(b)
	ctx := context.Background()
	rows := []string{"title,course,due,points"}
	for course := range 8 {
		for n := range 40 {
			rows = append(rows, fmt.Sprintf("Work %d,CRS %d,%s,20", n, course, monday.AddDate(0, 0, 1+n*2).Add(time.Duration(course)*time.Hour).Format("2006-01-02T15:04")))
		}
	}
	done, err := w.Track.Import(ctx, w.Student, track.Import{Upload: w.Upload("all.csv", []byte(strings.Join(rows, "\n"))), Purpose: track.PurposeDue})
	require.NoError(b, err)
	require.Equal(b, 320, done.Added)
	b.ResetTimer()
	for range b.N {
		h, err := w.Track.Horizon(ctx, w.Student)
		require.NoError(b, err)
		require.Len(b, h.Lines, 320)
	}
}
