package desk_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/demo"
	"orario/internal/campus"
	api "orario/internal/campus/campusapi"
	"orario/internal/courses"
	"orario/internal/intake"
	"orario/internal/mariadb/query"
	"orario/internal/schedule"
	"orario/internal/worldtest"
)

func TestASyncChangesWhatTheSiteChangedAndNothingElse(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	essay := worldtest.Essay()
	id := w.Publish(essay)
	require.NoError(t, w.Agenda.SetWork(ctx, w.Student, id, schedule.Work{Minutes: 300, Done: 60}))
	require.NoError(t, w.Courses.Set(ctx, w.Student, w.Published(), courses.Sheet{Habit: "{family}"}))
	w.Add(id, "draft.txt", []byte("text"))
	w.Sync()
	essay.Due = time.Now().UTC().AddDate(0, 0, 6).Format("2006-01-02T15:04")
	essay.Title = "Chart datum, revised"
	assert.Equal(t, id, w.Publish(essay))

	desk, err := w.Desk.Desk(ctx, w.Student, id, 0)
	require.NoError(t, err)
	assert.Equal(t, "Chart datum, revised", desk.Line.Title)
	require.NotNil(t, desk.Line.DueWas, "a changed due time is shown as changed")
	assert.Equal(t, 300, desk.Line.EffortMinutes)
	assert.Equal(t, 60, desk.Line.DoneMinutes)
	assert.Len(t, desk.Items, 1)
	assert.Equal(t, "{family}", desk.Course.Habit)
	events, err := w.DB.EventsAfter(ctx, query.EventsAfterParams{StudentID: w.Student})
	require.NoError(t, err)
	var told []string
	for _, e := range events {
		if e.Text != "" {
			told = append(told, e.Kind)
		}
	}
	assert.Equal(t, []string{"new", "changed"}, told, "each once, however often it is synced")

	digest, size, err := w.Campus.AddHandout(ctx, []byte("a later handout"))
	require.NoError(t, err)
	essay.Handouts = append(essay.Handouts, api.Handout{Name: "rubric.pdf", Bytes: size, Digest: digest})
	w.Publish(essay)
	w.Sync()
	h, err := w.Agenda.Horizon(ctx, w.Student)
	require.NoError(t, err)
	require.Len(t, h.Changes, 3)
	assert.Equal(t, "HYD 214: the handout rubric.pdf is new with Chart datum, revised.", h.Changes[0].Text)
}

func TestACampusThatIsDownCostsANotice(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	w.Publish(worldtest.Essay())
	require.NoError(t, w.Campus.SetFaults(ctx, campus.Faults{Refuse: true}))
	job := query.Job{Kind: intake.SyncJob, Subject: w.Site, StudentID: w.Student}
	for range 2 {
		again, err := w.Intake.Sync(ctx, job)
		require.NoError(t, err)
		assert.Equal(t, time.Minute, again)
	}
	h, err := w.Agenda.Horizon(ctx, w.Student)
	require.NoError(t, err)
	require.Len(t, h.Notices, 1)
	assert.Contains(t, h.Notices[0], "answers that it is in trouble (503)")
	assert.Len(t, h.Lines, 1, "what is known stays")
	require.NoError(t, w.Campus.SetFaults(ctx, campus.Faults{}))
	w.Sync()
	h, err = w.Agenda.Horizon(ctx, w.Student)
	require.NoError(t, err)
	assert.Empty(t, h.Notices)
}

// The way of one assignment through every state that the Horizon tells apart.
func TestTheWayOfAnAssignment(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	source := "The lowest water that the table expects is called zero, and everything is measured upwards from that line by common consent. "
	require.NoError(t, w.Campus.PublishReading(ctx, "reader", "The reader", source))
	essay := worldtest.Essay()
	essay.Sheet.Slots[0].Forms = []string{"pdf"}
	id := w.Publish(essay)
	require.NoError(t, w.Agenda.SetWork(ctx, w.Student, id, schedule.Work{Minutes: 120}))
	move := func() (string, string) {
		h, err := w.Agenda.Horizon(ctx, w.Student)
		require.NoError(t, err)
		if len(h.Moves) == 0 {
			return string(h.Lines[0].State), ""
		}
		return string(h.Lines[0].State), h.Moves[0].Verb
	}
	expect := func(state, verb string) {
		t.Helper()
		s, v := move()
		assert.Equal(t, []string{state, verb}, []string{s, v})
	}
	expect("open", "Work on")
	own := strings.Repeat("My own harbour has another zero, which I measured from the mole at night. ", 3)
	item := w.Add(id, "essay FINAL.docx", demo.DOCX("nerea", "Chart datum", source, own))
	expect("open", "Fix")
	require.NoError(t, w.Prepare.Fix(ctx, w.Student, item, "convert"))
	jobs, err := w.DB.JobsOf(ctx, w.Student)
	require.NoError(t, err)
	for _, job := range jobs {
		if job.Kind == "convert" {
			_, err := w.Prepare.Convert(ctx, job)
			require.NoError(t, err)
		}
	}
	expect("open", "Submit")
	desk, err := w.Desk.Desk(ctx, w.Student, id, 0)
	require.NoError(t, err)
	require.Len(t, desk.Items, 1)
	assert.Equal(t, "Quintal_HYD214_chart-datum.pdf", desk.Items[0].Name)
	assert.True(t, desk.Submit.Ready, "%+v", desk.Findings)
	assert.Contains(t, desk.Submit.Sentence, "as attempt 1 of 2")

	first := w.Send(id)
	expect("waiting", "")
	job := query.Job{Subject: first.ID, StudentID: w.Student}
	_, err = w.Review.FetchReport(ctx, job)
	require.NoError(t, err)
	expect("waiting", "Read the report of")
	reading, err := w.Review.Read(ctx, w.Student, first.ID)
	require.NoError(t, err)
	require.NotEmpty(t, reading.Passages)
	heaviest := reading.Passages[0]
	assert.Equal(t, "The reader", heaviest.SourceTitle)
	assert.Contains(t, string([]rune(reading.Text)[heaviest.Start:heaviest.End]), "called zero")
	assert.Contains(t, heaviest.Match, "called zero")
	require.NoError(t, w.Review.Handle(ctx, w.Student, first.ID, heaviest.N, "fixed"))

	require.NoError(t, w.Campus.Return(ctx, first.Number, 15, nil, false))
	_, err = w.Review.FetchReturn(ctx, job)
	require.NoError(t, err)
	expect("back", "Correct")

	w.Add(
		id,
		"Quintal_HYD214_chart-datum.pdf",
		pdf(t, w, "Chart datum", "Zero is where the table stops promising water.", own),
	)
	second := w.Send(id)
	assert.Equal(t, int32(2), second.Attempt)
	_, err = w.Review.FetchReport(ctx, query.Job{Subject: second.ID, StudentID: w.Student})
	require.NoError(t, err)
	reading, err = w.Review.Read(ctx, w.Student, second.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, reading.Gone, "the passage from the reader is gone")
	assert.Less(t, reading.Share, *reading.ShareWas)
	desk, err = w.Desk.Desk(ctx, w.Student, id, 0)
	require.NoError(t, err)
	require.Len(t, desk.Attempts, 2)
	require.NotNil(t, desk.Attempts[0].Changes)
	assert.NotEmpty(t, desk.Attempts[0].Changes.Changes)
	assert.True(t, desk.Submit.Shut, "both attempts are used")

	require.NoError(t, w.Campus.Return(ctx, second.Number, 20, nil, false))
	_, err = w.Review.FetchReturn(ctx, query.Job{Subject: second.ID, StudentID: w.Student})
	require.NoError(t, err)
	expect("done", "")
	hits, err := w.Library.Search(ctx, w.Student, "STOPS promising")
	require.NoError(t, err)
	require.NotEmpty(t, hits)
	assert.Equal(t, "file", hits[0].Kind)
	library, err := w.Library.All(ctx, w.Student)
	require.NoError(t, err)
	assert.Len(t, library, 3, "the original, its conversion, the corrected file")
}

func pdf(t *testing.T, w *worldtest.World, paragraphs ...string) []byte {
	data, err := w.Tools.ToPDF(context.Background(), "docx", demo.DOCX("nerea", paragraphs...))
	require.NoError(t, err)
	return data
}

// BenchmarkDesk reads and computes one Desk from MariaDB, beside the 320 assignments that its plan depends on.
func BenchmarkDesk(b *testing.B) {
	w := worldtest.Planned(b)
	w.Many(8, 40)
	w.Clock(time.Now)
	id := w.Publish(worldtest.Essay())
	w.Add(id, "Quintal_HYD214_chart-datum.txt", []byte("An essay on chart datum."))
	w.Pages(b, func() {
		d, err := w.Desk.Desk(context.Background(), w.Student, id, 0)
		require.NoError(b, err)
		require.Len(b, d.Items, 1)
	})
}
