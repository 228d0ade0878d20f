package schedule_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	core "orario/core/agenda"
	"orario/core/coursework"
	"orario/internal/courses"
	"orario/internal/desk"
	"orario/internal/intake"
	"orario/internal/refusal"
	"orario/internal/schedule"
	"orario/internal/submit"
	"orario/internal/worldtest"
)

func firstMoves(t testing.TB, h *schedule.Horizon) (out []string) {
	for _, m := range h.Moves {
		assert.NotEmpty(t, m.Reason)
		assert.NotEmpty(t, m.Button)
		out = append(out, m.Verb+" "+m.Title)
	}
	return out
}

// Pressure is stake / (1 + days left). With nothing to do beforehand the days are those to send-by: near and
// light 4 / (1 + 1), far and heavy 20 / (1 + 4), equal stakes by time.
func TestMovesAreRankedByWhatWaitingCosts(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	for _, a := range []struct {
		line   string
		weight float64
	}{{"Light HYD 12 Jan 08:00 ~1h", 4}, {"Heavy HYD 15 Jan 08:00 ~1h", 20}, {"Middle HYD 13 Jan 08:00 ~1h", 4}} {
		id := w.Own(a.line, a.weight)
		require.NoError(t, w.Agenda.LogWork(ctx, w.Student, id, 60))
	}
	h, err := w.Agenda.Horizon(ctx, w.Student)
	require.NoError(t, err)
	assert.Equal(
		t,
		[]string{"Add the files of Heavy", "Add the files of Light", "Add the files of Middle"},
		firstMoves(t, h),
	)
	// A day later the light one is due, and it outweighs.
	w.At(worldtest.Monday.Add(23 * time.Hour))
	h, err = w.Agenda.Horizon(ctx, w.Student)
	require.NoError(t, err)
	assert.Equal(
		t,
		[]string{"Add the files of Heavy", "Add the files of Light", "Add the files of Middle"},
		firstMoves(t, h),
		"20/(1+3) is still more than 4",
	)
	w.At(worldtest.Monday.Add(-3 * 24 * time.Hour))
	h, err = w.Agenda.Horizon(ctx, w.Student)
	require.NoError(t, err)
	assert.Equal(t, "Add the files of Heavy", firstMoves(t, h)[0])
}

// The verbs that an assignment of one's own goes through.
func TestMovesOfAnOwnAssignment(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	d, err := w.Intake.ReadText(ctx, w.Student, w.Published(), "Log\n\nSubmit one PDF by 12 January 2027, 20:00. Worth 10 points.")
	require.NoError(t, err)
	d.Weight, d.Minutes = 10, 60
	id, err := w.Intake.Add(ctx, w.Student, *d)
	require.NoError(t, err)
	move := func() string {
		h, err := w.Agenda.Horizon(ctx, w.Student)
		require.NoError(t, err)
		if len(h.Moves) == 0 {
			return ""
		}
		return h.Moves[0].Verb + "/" + h.Moves[0].Button
	}
	assert.Equal(t, "Confirm the brief of/Confirm", move())
	require.NoError(t, w.Intake.SettleAsk(ctx, w.Student, id, 1))
	assert.Equal(t, "Confirm the brief of/Confirm", move(), "not all of it")
	require.NoError(t, w.Intake.SettleAsk(ctx, w.Student, id, 0))
	assert.Equal(t, "Confirm the brief of/Confirm", move(), "the due time is confirmed by itself")
	for n := 1; w.Intake.SettleAsk(ctx, w.Student, id, n) == nil; n++ {
	}
	assert.ErrorIs(t, w.Intake.SettleAsk(ctx, w.Student, id, 99), refusal.ErrNotFound)
	assert.Equal(t, "Work on/Start", move())
	require.NoError(t, w.Agenda.LogWork(ctx, w.Student, id, 20))
	assert.Equal(t, "Work on/Continue", move())
	w.Add(id, "log.txt", []byte("What I saw."))
	assert.Equal(t, "Fix/See what must be fixed", move(), "a text is no PDF")
	w.At(worldtest.At(12, 21))
	h, err := w.Agenda.Horizon(ctx, w.Student)
	require.NoError(t, err)
	assert.Equal(t, coursework.Late, h.Lines[0].State)
	sent := worldtest.At(12, 21)
	require.NoError(t, w.Submit.Note(ctx, w.Student, id, 0, &sent, "by mail"))
	assert.Empty(t, move(), "it waits")
	w.At(worldtest.At(13, 10))
	assert.Equal(t, "Look for the receipt of/Open the Desk", move())
	_, err = w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true})
	var complaint refusal.Complaint
	assert.ErrorAs(t, err, &complaint, "no site takes it")
	assert.ErrorAs(t, w.Intake.Remove(ctx, w.Student, id), &complaint, "files are in its bundle")
	future := worldtest.At(20, 0)
	assert.ErrorAs(t, w.Submit.Note(ctx, w.Student, id, 0, &future, ""), &complaint, "still to come")
}

// What is usual in a course is proposed for a new assignment, not decided.
func TestWhatIsUsualIsProposed(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	course, err := w.Courses.Add(ctx, w.Student, courses.Sheet{
		Code:    "BAK 1",
		Zone:    "America/Halifax",
		Contact: "b@alvarim.example",
		Usual:   coursework.Usual{Forms: []string{"pdf"}, Late: "5% per day", Points: 12, Weight: 8, Minutes: 90},
	})
	require.NoError(t, err)
	d, err := w.Intake.Typed(ctx, w.Student, "Bread BAK 15 Jan 12:00 docx")
	require.NoError(t, err)
	assert.Equal(t, course, d.CourseID)
	assert.Equal(t, []any{8.0, 90}, []any{d.Weight, d.Minutes})
	said := map[string]string{}
	for _, a := range d.Asks {
		said[a.Label] = a.Text
		assert.Equal(t, a.From == "yours", a.Settled, a.Label)
	}
	assert.Equal(
		t,
		map[string]string{
			"due":      "Fri 15 Jan 2027 12:00",
			"forms":    "DOCX",
			"points":   "12 points",
			"lateness": "−5% a day",
		},
		said,
	)
	id, err := w.Intake.Add(ctx, w.Student, *d)
	require.NoError(t, err)
	assert.Equal(t, time.Date(2027, 1, 15, 16, 0, 0, 0, time.UTC), w.Line(id).Due, "in the course's zone")

	var complaint refusal.Complaint
	for name, sheet := range map[string]courses.Sheet{
		"the same code": {
			Code: "bak-1",
			Zone: "UTC"}, "no code": {Zone: "UTC"}, "no zone": {Code: "X 1",
			Zone: "Nowhere"}, "no address": {Code: "X 1",
			Zone:    "UTC",
			Contact: "b"}, "a late rule that cannot be read": {Code: "X 1",
			Zone:  "UTC",
			Usual: coursework.Usual{Late: "blue"},
		},
	} {
		_, err := w.Courses.Add(ctx, w.Student, sheet)
		assert.ErrorAs(t, err, &complaint, name)
	}
	require.NoError(t, w.Courses.Archive(ctx, w.Student, course, true))
	assert.Empty(t, w.Titles())
	desk, err := w.Desk.Desk(ctx, w.Student, id, 0)
	require.NoError(t, err, "it can still be looked at")
	assert.True(t, desk.Course.Archived)
	require.NoError(t, w.Courses.Archive(ctx, w.Student, course, false))
	assert.Len(t, w.Titles(), 1)
}

func TestDraftsThatCannotBeKept(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	good, err := w.Intake.Typed(ctx, w.Student, "A HYD 13 Jan 23:00")
	require.NoError(t, err)
	var complaint refusal.Complaint
	for name, spoil := range map[string]func(*intake.Draft){
		"no title": func(d *intake.Draft) { d.Title = " " }, "no course": func(d *intake.Draft) { d.CourseID = 0 }, "no due time": func(d *intake.Draft) { d.Asks = nil }, "a strange weight": func(d *intake.Draft) { d.Weight = 101 },
		"closes before due": func(d *intake.Draft) {
			ask, err := w.Intake.Correct(ctx, w.Student, d.CourseID, "closes", "2027-01-12T10:00")
			require.NoError(t, err)
			d.Asks = append(d.Asks, *ask)
		},
	} {
		d := *good
		spoil(&d)
		_, err := w.Intake.Add(ctx, w.Student, d)
		assert.ErrorAs(t, err, &complaint, name)
	}
	_, err = w.Intake.ReadText(ctx, w.Student, 0, "  ")
	assert.ErrorAs(t, err, &complaint)
	_, err = w.Intake.Correct(ctx, w.Student, 0, "pages", "many")
	assert.ErrorAs(t, err, &complaint)
	// Instructions that name another zone are kept in the course's.
	d, err := w.Intake.ReadText(ctx, w.Student, good.CourseID, "Due 15 January 2027, 18:00 Azores time. One PDF.")
	require.NoError(t, err)
	d.Title = "Far"
	id, err := w.Intake.Add(ctx, w.Student, *d)
	require.NoError(t, err)
	assert.Equal(t, time.Date(2027, 1, 15, 19, 0, 0, 0, time.UTC), w.Line(id).Due)
	desk, err := w.Desk.Desk(ctx, w.Student, id, 0)
	require.NoError(t, err)
	require.NotEmpty(t, desk.Read)
	assert.Contains(t, string([]rune(desk.Instructions)[desk.Read[0].Start:desk.Read[0].End]), "15 January 2027")
}

// An extension is for the part that it was granted for, and gives way to a later due time.
func TestAnExtensionIsForOnePart(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	d, err := w.Intake.Typed(ctx, w.Student, "Portfolio HYD ~3h")
	require.NoError(t, err)
	for _, p := range [][2]string{{"sketch", "2027-01-13T17:00"}, {"text", "2027-01-20T17:00"}} {
		ask, err := w.Intake.Correct(ctx, w.Student, d.CourseID, "due", p[1])
		require.NoError(t, err)
		ask.Thing = p[0]
		d.Asks = append(d.Asks, *ask)
	}
	id, err := w.Intake.Add(ctx, w.Student, *d)
	require.NoError(t, err)
	require.NoError(
		t,
		w.Agenda.SetExtension(ctx, w.Student, id, schedule.Grant{State: "granted", Due: "2027-01-15T12:00"}),
	)
	assert.Equal(t, worldtest.At(15, 12), w.Line(id).Due)
	assert.Equal(t, "granted", w.Line(id).Extension)
	now := worldtest.Monday
	require.NoError(t, w.Submit.Note(ctx, w.Student, id, 0, &now, ""))
	assert.Equal(t, worldtest.At(20, 17), w.Line(id).Due, "the text has its own time")
	assert.Empty(t, w.Line(id).Extension)

	w2 := worldtest.New(t)
	essay := worldtest.Essay()
	site := w2.Publish(essay)
	day := func(n int) string { return time.Now().UTC().AddDate(0, 0, n).Format("2006-01-02T15:04") }
	require.NoError(t, w2.Agenda.SetExtension(ctx, w2.Student, site, schedule.Grant{State: "granted", Due: day(6)}))
	granted := w2.Line(site).Due
	essay.Opens, essay.Due, essay.Closes = day(7), day(9), ""
	w2.Publish(essay)
	assert.True(t, w2.Line(site).Due.After(granted), "the site gave more time than that, and opens later")
}

func TestSeveralAtOnceKeepTheirEstimates(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	id := w.Own("A HYD 13 Jan 23:00", 10)
	require.NoError(
		t,
		w.Agenda.SetWork(ctx, w.Student, id, schedule.Work{Minutes: 120, Low: 60, High: 360, Done: 30}),
	)
	_, err := w.Agenda.Bulk(ctx, w.Student, []int64{id}, schedule.BulkEnough, 0)
	require.NoError(t, err)
	page, err := w.Desk.Desk(ctx, w.Student, id, 0)
	require.NoError(t, err)
	assert.Equal(t, desk.Effort{Low: 60, Likely: 120, High: 360}, page.Effort)
	assert.Equal(t, 30, page.Line.DoneMinutes)
}

// A stretch that was pinned for work that is done meanwhile is let go.
func TestDoneWorkHoldsNoHours(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	a := w.Own("A HYD 13 Jan 23:00 ~2h", 10)
	b := w.Own("B HYD 14 Jan 23:00 ~2h", 10)
	require.NoError(
		t,
		w.Agenda.Keep(
			ctx,
			w.Student,
			core.Wish{Pins: []core.Pin{{AssignmentID: a, Start: worldtest.At(11, 18), End: worldtest.At(11, 20)}}},
		),
	)
	assert.Equal(t, worldtest.At(12, 18), w.Line(b).Blocks[0].Start)
	require.NoError(t, w.Agenda.LogWork(ctx, w.Student, a, 120))
	assert.Empty(t, w.Line(a).Blocks)
	assert.Equal(t, worldtest.At(11, 18), w.Line(b).Blocks[0].Start)
}
