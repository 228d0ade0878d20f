package track_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/internal/prepare"
	"orario/internal/track"
)

func firstMoves(t testing.TB, h *track.Horizon) (out []string) {
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
	w := planned(t)
	ctx := context.Background()
	for _, a := range []struct {
		line   string
		weight float64
	}{{"Light HYD 12 Jan 08:00 ~1h", 4}, {"Heavy HYD 15 Jan 08:00 ~1h", 20}, {"Middle HYD 13 Jan 08:00 ~1h", 4}} {
		id := own(t, w, a.line, a.weight)
		require.NoError(t, w.Track.LogWork(ctx, w.Student, id, 60))
	}
	h, err := w.Track.Horizon(ctx, w.Student)
	require.NoError(t, err)
	assert.Equal(t, []string{"Add the files of Heavy", "Add the files of Light", "Add the files of Middle"}, firstMoves(t, h))
	// A day later the light one is due, and it outweighs.
	w.At(monday.Add(23 * time.Hour))
	h, err = w.Track.Horizon(ctx, w.Student)
	require.NoError(t, err)
	assert.Equal(t, []string{"Add the files of Heavy", "Add the files of Light", "Add the files of Middle"}, firstMoves(t, h), "20/(1+3) is still more than 4")
	w.At(monday.Add(-3 * 24 * time.Hour))
	h, err = w.Track.Horizon(ctx, w.Student)
	require.NoError(t, err)
	assert.Equal(t, "Add the files of Heavy", firstMoves(t, h)[0])
}

// The verbs that an assignment of one's own goes through.
func TestMovesOfAnOwnAssignment(t *testing.T) {
	w := planned(t)
	ctx := context.Background()
	d, err := w.Track.ReadText(ctx, w.Student, 1, "Log\n\nSubmit one PDF by 12 January 2027, 20:00. Worth 10 points.")
	require.NoError(t, err)
	d.Weight, d.Minutes = 10, 60
	id, err := w.Track.Add(ctx, w.Student, *d)
	require.NoError(t, err)
	move := func() string {
		h, err := w.Track.Horizon(ctx, w.Student)
		require.NoError(t, err)
		if len(h.Moves) == 0 {
			return ""
		}
		return h.Moves[0].Verb + "/" + h.Moves[0].Button
	}
	assert.Equal(t, "Confirm the brief of/Confirm", move())
	require.NoError(t, w.Track.SettleAsk(ctx, w.Student, id, 1))
	assert.Equal(t, "Confirm the brief of/Confirm", move(), "not all of it")
	require.NoError(t, w.Track.SettleAsk(ctx, w.Student, id, 0))
	assert.ErrorIs(t, w.Track.SettleAsk(ctx, w.Student, id, 99), prepare.ErrNotFound)
	assert.Equal(t, "Work on/Start", move())
	require.NoError(t, w.Track.LogWork(ctx, w.Student, id, 20))
	assert.Equal(t, "Work on/Continue", move())
	w.Add(id, "log.txt", []byte("What I saw."))
	assert.Equal(t, "Fix/See what must be fixed", move(), "a text is no PDF")
	w.At(at(12, 21))
	h, err := w.Track.Horizon(ctx, w.Student)
	require.NoError(t, err)
	assert.Equal(t, track.Late, h.Lines[0].State)
	sent := at(12, 21)
	require.NoError(t, w.Track.NoteSent(ctx, w.Student, id, &sent, "by mail"))
	assert.Empty(t, move(), "it waits")
	w.At(at(13, 10))
	assert.Equal(t, "Look for the receipt of/Open the Desk", move())
	_, err = w.Submit.Start(ctx, w.Student, id, true, "")
	var complaint prepare.Complaint
	assert.ErrorAs(t, err, &complaint, "no site takes it")
	assert.ErrorAs(t, w.Track.Remove(ctx, w.Student, id), &complaint, "files are in its bundle")
	future := at(20, 0)
	assert.ErrorAs(t, w.Track.NoteSent(ctx, w.Student, id, &future, ""), &complaint, "still to come")
}

// What is usual in a course is proposed for a new assignment, not decided.
func TestWhatIsUsualIsProposed(t *testing.T) {
	w := planned(t)
	ctx := context.Background()
	course, err := w.Track.AddCourse(ctx, w.Student, track.CourseSheet{Code: "BAK 1", Zone: "America/Halifax", Contact: "b@alvarim.example", Usual: track.Usual{Forms: []string{"pdf"}, Late: "5% per day", Points: 12, Weight: 8, Minutes: 90}})
	require.NoError(t, err)
	d, err := w.Track.Typed(ctx, w.Student, "Bread BAK 15 Jan 12:00 docx")
	require.NoError(t, err)
	assert.Equal(t, course, d.CourseID)
	assert.Equal(t, []any{8.0, 90}, []any{d.Weight, d.Minutes})
	said := map[string]string{}
	for _, a := range d.Asks {
		said[a.Label] = a.Text
		assert.Equal(t, a.From == "yours", a.Settled, a.Label)
	}
	assert.Equal(t, map[string]string{"due": "Fri 15 Jan 2027 12:00", "forms": "DOCX", "points": "12 points", "lateness": "−5% a day"}, said)
	id, err := w.Track.Add(ctx, w.Student, *d)
	require.NoError(t, err)
	assert.Equal(t, time.Date(2027, 1, 15, 16, 0, 0, 0, time.UTC), line(t, w, id).Due, "in the course's zone")

	var complaint prepare.Complaint
	for name, sheet := range map[string]track.CourseSheet{
		"the same code": {Code: "bak-1", Zone: "UTC"}, "no code": {Zone: "UTC"}, "no zone": {Code: "X 1", Zone: "Nowhere"}, "no address": {Code: "X 1", Zone: "UTC", Contact: "b"}, "a late rule that cannot be read": {Code: "X 1", Zone: "UTC", Usual: track.Usual{Late: "blue"}},
	} {
		_, err := w.Track.AddCourse(ctx, w.Student, sheet)
		assert.ErrorAs(t, err, &complaint, name)
	}
	require.NoError(t, w.Track.ArchiveCourse(ctx, w.Student, course, true))
	assert.Empty(t, titles(t, w))
	desk, err := w.Track.Desk(ctx, w.Student, id)
	require.NoError(t, err, "it can still be looked at")
	assert.True(t, desk.Course.Archived)
	require.NoError(t, w.Track.ArchiveCourse(ctx, w.Student, course, false))
	assert.Len(t, titles(t, w), 1)
}

func TestDraftsThatCannotBeKept(t *testing.T) {
	w := planned(t)
	ctx := context.Background()
	good, err := w.Track.Typed(ctx, w.Student, "A HYD 13 Jan 23:00")
	require.NoError(t, err)
	var complaint prepare.Complaint
	for name, spoil := range map[string]func(*track.Draft){
		"no title": func(d *track.Draft) { d.Title = " " }, "no course": func(d *track.Draft) { d.CourseID = 0 }, "no due time": func(d *track.Draft) { d.Asks = nil }, "a strange weight": func(d *track.Draft) { d.Weight = 101 },
		"closes before due": func(d *track.Draft) {
			ask, err := w.Track.Correct(ctx, w.Student, d.CourseID, "closes", "2027-01-12T10:00")
			require.NoError(t, err)
			d.Asks = append(d.Asks, *ask)
		},
	} {
		d := *good
		spoil(&d)
		_, err := w.Track.Add(ctx, w.Student, d)
		assert.ErrorAs(t, err, &complaint, name)
	}
	_, err = w.Track.ReadText(ctx, w.Student, 0, "  ")
	assert.ErrorAs(t, err, &complaint)
	_, err = w.Track.Correct(ctx, w.Student, 0, "pages", "many")
	assert.ErrorAs(t, err, &complaint)
	// Instructions that name another zone are kept in the course's.
	d, err := w.Track.ReadText(ctx, w.Student, good.CourseID, "Due 15 January 2027, 18:00 Azores time. One PDF.")
	require.NoError(t, err)
	d.Title = "Far"
	id, err := w.Track.Add(ctx, w.Student, *d)
	require.NoError(t, err)
	assert.Equal(t, time.Date(2027, 1, 15, 19, 0, 0, 0, time.UTC), line(t, w, id).Due)
	desk, err := w.Track.Desk(ctx, w.Student, id)
	require.NoError(t, err)
	require.NotEmpty(t, desk.Read)
	assert.Contains(t, string([]rune(desk.Instructions)[desk.Read[0].Start:desk.Read[0].End]), "15 January 2027")
}
