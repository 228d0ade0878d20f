package schedule_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	core "orario/core/agenda"
	"orario/internal/intake"
	"orario/internal/refusal"
	"orario/internal/schedule"
	"orario/internal/worldtest"
)

// Two hours an evening: A (3 h, due Wednesday) and B (3 h, due Thursday) fit, with two hours to spare.
func TestAPlanIsLaidTriedAndKept(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	a := w.Own("A HYD 13 Jan 23:00 ~3h", 10)
	b := w.Own("B HYD 14 Jan 23:00 ~3h", 10)
	block := func(day, from, day2, to int) core.Block {
		return core.Block{Start: worldtest.At(day, from), End: worldtest.At(day2, to)}
	}
	assert.Equal(t, []core.Block{block(11, 18, 11, 20), block(12, 18, 12, 19)}, w.Line(a).Blocks)
	assert.Equal(t, []core.Block{block(12, 19, 12, 20), block(13, 18, 13, 20)}, w.Line(b).Blocks)
	// Run backwards: B fills Thursday, A Wednesday and an hour of Tuesday, and the hour before that is B's again.
	assert.Equal(t, worldtest.At(12, 19), *w.Line(a).LatestStart)
	assert.Equal(t, worldtest.At(12, 18), *w.Line(b).LatestStart)

	plan, err := w.Agenda.Plan(ctx, w.Student)
	require.NoError(t, err)
	assert.True(t, plan.Fits)
	wish := core.Wish{
		Pins:      []core.Pin{{AssignmentID: b, Start: worldtest.At(11, 18), End: worldtest.At(11, 20)}},
		NotBefore: []core.Begin{},
	}
	tried, err := w.Agenda.Try(ctx, w.Student, core.Trial{Wish: wish})
	require.NoError(t, err)
	require.NotEmpty(t, tried.Changes)
	assert.Contains(
		t,
		strings.Join(tried.Changes, " "),
		"HYD 214 A would be finished Wed 13 Jan 19:00, not Tue 12 Jan 19:00.",
	)
	assert.Len(t, w.Line(b).Blocks, 2, "nothing is saved by trying")
	require.NoError(t, w.Agenda.Keep(ctx, w.Student, wish))
	got := w.Line(b).Blocks
	require.Len(t, got, 2)
	assert.True(t, got[0].Pinned)
	assert.Equal(t, worldtest.At(11, 18), got[0].Start)

	// "What if I start on Thursday?"
	late := core.Wish{NotBefore: []core.Begin{{AssignmentID: a, At: worldtest.At(13, 22)}}}
	tried, err = w.Agenda.Try(ctx, w.Student, core.Trial{Wish: late})
	require.NoError(t, err)
	assert.False(t, tried.Fits)
	assert.Contains(t, strings.Join(tried.Changes, " "), "A would be finished")
	assert.NotEmpty(t, tried.Proof)
}

// A stretch is dragged, dragged on, dragged back and let go of; each time from what was tried before.
func TestAStretchIsMovedAboutAndLetGo(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	a := w.Own("A HYD 15 Jan 23:00 ~3h", 10) // Monday and an hour of Tuesday
	b := w.Own("B HYD 16 Jan 23:00 ~1h", 10)
	wish := core.Wish{Pins: []core.Pin{}, NotBefore: []core.Begin{}}
	shift := func(start, end, to time.Time) core.Wish {
		s := core.Shift{AssignmentID: a, Start: start, End: end}
		if !to.IsZero() {
			s.To = &to
		}
		tried, err := w.Agenda.Try(ctx, w.Student, core.Trial{Wish: wish, Shift: &s})
		require.NoError(t, err)
		return tried.Wish
	}
	// The second stretch is held where it is put; the work begins as before.
	wish = shift(worldtest.At(12, 18), worldtest.At(12, 19), worldtest.At(13, 18))
	assert.Equal(
		t,
		core.Wish{
			Pins:      []core.Pin{{AssignmentID: a, Start: worldtest.At(13, 18), End: worldtest.At(13, 19)}},
			NotBefore: []core.Begin{},
		},
		wish,
	)
	// The first one moved later: work begins only then.
	wish = shift(worldtest.At(11, 18), worldtest.At(11, 20), worldtest.At(14, 18))
	assert.Equal(t, []core.Begin{{AssignmentID: a, At: worldtest.At(14, 18)}}, wish.NotBefore)
	assert.Len(t, wish.Pins, 2)
	wish.Pins = wish.Pins[1:]
	// Later still, the pin and the beginning go along; earlier, the beginning is forgotten.
	wish = shift(worldtest.At(14, 18), worldtest.At(14, 20), worldtest.At(15, 18))
	assert.Equal(
		t,
		core.Wish{
			Pins:      []core.Pin{{AssignmentID: a, Start: worldtest.At(15, 18), End: worldtest.At(15, 20)}},
			NotBefore: []core.Begin{{AssignmentID: a, At: worldtest.At(15, 18)}},
		},
		wish,
	)
	wish.Pins = append(wish.Pins, core.Pin{AssignmentID: b, Start: worldtest.At(11, 18), End: worldtest.At(11, 19)})
	wish = shift(worldtest.At(15, 18), worldtest.At(15, 20), worldtest.At(12, 18))
	assert.Empty(t, wish.NotBefore)
	wish = shift(worldtest.At(12, 18), worldtest.At(12, 20), time.Time{})
	assert.Equal(
		t,
		[]core.Pin{{AssignmentID: b, Start: worldtest.At(11, 18), End: worldtest.At(11, 19)}},
		wish.Pins,
		"the others' stay",
	)
}

func TestAWishThatCannotBeIsRefused(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	a := w.Own("A HYD 13 Jan 23:00 ~3h", 10)
	pin := func(from, to int) core.Pin {
		return core.Pin{AssignmentID: a, Start: worldtest.At(11, from), End: worldtest.At(11, to)}
	}
	var complaint refusal.Complaint
	for name, wish := range map[string]core.Wish{"backwards": {Pins: []core.Pin{pin(20, 18)}}, "overlapping": {Pins: []core.Pin{pin(10, 12), pin(11, 13)}}} {
		_, err := w.Agenda.Try(ctx, w.Student, core.Trial{Wish: wish})
		assert.ErrorAs(t, err, &complaint, name)
		assert.ErrorAs(t, w.Agenda.Keep(ctx, w.Student, wish), &complaint, name)
	}
	_, err := w.Agenda.Try(ctx, w.Student, core.Trial{
		Wish: core.Wish{
			Pins: []core.Pin{{AssignmentID: a + 99, Start: worldtest.At(11, 10), End: worldtest.At(11, 11)}},
		},
	})
	assert.ErrorIs(t, err, refusal.ErrNotFound)
}

// Six hours of time before Wednesday night and nine of work: the cheapest to give up is not the fewest.
func TestTooMuchIsProvedAndPriced(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	big := w.Own("Big HYD 13 Jan 23:00 ~5h", 30)
	small := w.Own("Small HYD 13 Jan 23:00 ~2h", 2)
	other := w.Own("Other HYD 13 Jan 23:00 ~2h", 3)
	for _, id := range []int64{big, small, other} {
		d, err := w.Intake.DraftOf(ctx, w.Student, id)
		require.NoError(t, err)
		none, err := w.Intake.Correct(ctx, w.Student, d.CourseID, "late", "no late work")
		require.NoError(t, err)
		d.Asks = append(d.Asks, *none)
		require.NoError(t, w.Intake.Change(ctx, w.Student, *d))
	}
	plan, err := w.Agenda.Plan(ctx, w.Student)
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

	h, err := w.Agenda.Horizon(ctx, w.Student)
	require.NoError(t, err)
	verbs := map[string]int{}
	for _, m := range h.Moves {
		verbs[m.Verb]++
	}
	assert.Equal(t, 2, verbs["Ask for more time for"])

	// Asked for and granted, with the answer as proof: now it fits.
	mail, err := w.Agenda.Extension(ctx, w.Student, small, "2027-01-16T18:00")
	require.NoError(t, err)
	assert.Contains(t, mail.Mail, "May I send it until Sat 16 Jan 18:00?")
	assert.Contains(t, mail.Mail, "student number 20418")
	require.NoError(t, w.Agenda.SetExtension(ctx, w.Student, small, schedule.Grant{State: "asked"}))
	assert.Equal(t, "asked", w.Line(small).Extension)
	var complaint refusal.Complaint
	assert.ErrorAs(
		t,
		w.Agenda.SetExtension(ctx, w.Student, small, schedule.Grant{State: "granted", Due: "2027-01-12T10:00"}),
		&complaint,
		"earlier than due",
	)
	assert.ErrorAs(
		t,
		w.Agenda.SetExtension(ctx, w.Student, small, schedule.Grant{State: "granted", Due: "soon"}),
		&complaint,
	)
	require.NoError(
		t,
		w.Agenda.SetExtension(ctx, w.Student, small, schedule.Grant{
			State:  "granted",
			Due:    "2027-01-16T18:00",
			Upload: w.Upload("answer.txt", []byte("Until Saturday.")),
		}),
	)
	require.NoError(
		t,
		w.Agenda.SetExtension(ctx, w.Student, other, schedule.Grant{State: "granted", Due: "2027-01-16T18:00"}),
	)
	assert.Equal(t, worldtest.At(16, 18), w.Line(small).Due)
	view, err := w.Agenda.Extension(ctx, w.Student, small, "")
	require.NoError(t, err)
	assert.NotZero(t, view.Proof)
	plan, err = w.Agenda.Plan(ctx, w.Student)
	require.NoError(t, err)
	assert.True(t, plan.Fits)
	require.NoError(t, w.Agenda.SetExtension(ctx, w.Student, small, schedule.Grant{}))
	assert.Equal(t, worldtest.At(13, 23), w.Line(small).Due, "taken back")
}

// Sheets took 3 h where 2 h were planned: (2 + 1.5) / (2 + 1) = 7/6 of what is planned for the next.
func TestPastWorkShiftsTheEstimate(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	done := w.Own("Sheet 1 HYD 12 Jan 23:00 ~2h", 5)
	next := w.Own("Sheet 2 HYD 20 Jan 23:00 ~2h", 5)
	other := w.Own("Essay HYD 20 Jan 22:00 ~2h", 5)
	require.NoError(t, w.Agenda.LogWork(ctx, w.Student, done, 180))
	sent := worldtest.Monday.Add(-time.Hour)
	require.NoError(t, w.Submit.Note(ctx, w.Student, done, 0, &sent, "by hand"))
	assert.Equal(t, 140, w.Line(next).PlanMinutes)
	assert.Contains(t, w.Line(next).Estimate, "17 % longer")
	assert.Equal(t, 120, w.Line(other).PlanMinutes, "an essay is no sheet")
	// Three figures, by PERT: (1 + 4·2 + 6)/6 h and 1.645 · 5/6 h more.
	require.NoError(t, w.Agenda.SetWork(ctx, w.Student, other, schedule.Work{Minutes: 120, Low: 60, High: 360}))
	assert.InDelta(t, 150+1.645*50, w.Line(other).PlanMinutes, 1)
	var complaint refusal.Complaint
	assert.ErrorAs(
		t,
		w.Agenda.SetWork(ctx, w.Student, other, schedule.Work{Minutes: 120, Low: 180, High: 360}),
		&complaint,
	)
	assert.ErrorAs(t, w.Agenda.LogWork(ctx, w.Student, next, -30), &complaint, "less than nothing")
}

func TestBusyTimesAreKeptFree(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	a := w.Own("A HYD 14 Jan 23:00 ~2h", 10)
	ics := "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:x\r\nSUMMARY:Choir\r\nDTSTART:20270111T180000Z\r\nDTEND:20270111T200000Z\r\nRRULE:FREQ=DAILY;COUNT=2\r\nEND:VEVENT\r\n" +
		"BEGIN:VEVENT\r\nUID:y\r\nSUMMARY:Birthday\r\nTRANSP:TRANSPARENT\r\nDTSTART;VALUE=DATE:20270113\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
	done, err := w.Intake.Import(
		ctx,
		w.Student,
		intake.Import{Upload: w.Upload("busy.ics", []byte(ics)), Name: "busy.ics", Purpose: intake.PurposeBusy},
	)
	require.NoError(t, err)
	assert.Equal(t, 2, done.Busy, "what takes no time is left out")
	assert.Equal(t, worldtest.At(13, 18), w.Line(a).Blocks[0].Start)
	week, err := w.Agenda.Week(ctx, w.Student, "")
	require.NoError(t, err)
	assert.Equal(t, "Choir", week.Days[0].Busy[0].Title)
	assert.Len(t, week.Days, 7)
	feeds, err := w.Intake.Feeds(ctx, w.Student)
	require.NoError(t, err)
	require.NoError(t, w.Intake.RemoveFeed(ctx, w.Student, feeds[0].ID))
	assert.Equal(t, worldtest.At(11, 18), w.Line(a).Blocks[0].Start)
}

// BenchmarkHorizon8x40 reads and computes the Horizon's data from MariaDB, of 8 courses with 40 assignments each.
func BenchmarkHorizon8x40(b *testing.B) {
	w := worldtest.Planned(b)
	w.Many(8, 40)
	ctx := context.Background()
	w.Pages(b, func() {
		h, err := w.Agenda.Horizon(ctx, w.Student)
		require.NoError(b, err)
		require.Len(b, h.Lines, 320)
	})
}
