package intake_test

import (
	"context"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/calendar"
	"orario/internal/intake"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/schedule"
	"orario/internal/worldtest"
)

func TestACalendarComesOnceHoweverOftenItIsGiven(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	first := worldtest.Calendar(
		worldtest.Todo("a", "20270120T170000", "HYD 214: Buoys", ""),
		worldtest.Todo("b", "20270121T170000", "Bread", "CATEGORIES:BAK 1\r\n"),
		worldtest.Todo("c", "20261101T170000", "Long past", ""),
		worldtest.Todo("d", "20270122T170000", "Void", "STATUS:CANCELLED\r\n"),
	)
	assert.Equal(t, intake.Imported{Added: 2}, w.Take("x.ics", first))
	assert.ElementsMatch(t, []string{"HYD 214 Buoys 20 Jan 17:00", "BAK 1 Bread 21 Jan 17:00"}, w.Titles())
	assert.Equal(t, intake.Imported{Same: 2}, w.Take("again.ics", first))

	// What the student did stays; what the calendar changed is changed.
	list, err := w.DB.Assignments(ctx, query.AssignmentsParams{StudentID: w.Student})
	require.NoError(t, err)
	buoys := list[0].ID
	require.NoError(t, w.Agenda.SetWork(ctx, w.Student, buoys, schedule.Work{Minutes: 90, Done: 30}))
	d, err := w.Intake.DraftOf(ctx, w.Student, buoys)
	require.NoError(t, err)
	form, err := w.Intake.Correct(ctx, w.Student, d.CourseID, "forms", "PDF")
	require.NoError(t, err)
	d.Asks, d.Title = append(d.Asks, *form), "Buoys of the harbour"
	require.NoError(t, w.Intake.Change(ctx, w.Student, *d))
	moved := worldtest.Calendar(
		worldtest.Todo("a", "20270125T120000", "HYD 214: Buoys", ""),
		worldtest.Todo("b", "20270121T170000", "Bread", "STATUS:CANCELLED\r\nCATEGORIES:BAK 1\r\n"),
	)
	preview, err := w.Intake.Preview(
		ctx,
		w.Student,
		intake.Import{Upload: w.Upload("x.ics", []byte(moved)), Purpose: intake.PurposeDue},
	)
	require.NoError(t, err)
	require.Len(t, preview.Items, 2)
	assert.Equal(t, []string{"cancelled", "changed"}, []string{preview.Items[0].Now, preview.Items[1].Now})
	assert.Equal(t, intake.Imported{Changed: 1, Cancelled: 1}, w.Take("x.ics", moved))
	assert.Equal(t, []string{"HYD 214 Buoys of the harbour 25 Jan 12:00"}, w.Titles())
	l := w.Line(buoys)
	assert.Equal(t, []int{90, 30}, []int{l.EffortMinutes, l.DoneMinutes})
	assert.NotNil(t, l.DueWas)

	h, err := w.Agenda.Horizon(ctx, w.Student)
	require.NoError(t, err)
	require.Len(t, h.Changes, 2, "what she took over herself is no news to her")
	assert.Equal(
		t,
		"HYD 214: Buoys of the harbour is due Mon 25 Jan 12:00, no longer Wed 20 Jan 17:00.",
		h.Changes[0].Text,
	)
	require.NoError(t, w.Agenda.Seen(ctx, w.Student, h.Changes[1].ID))
	h, err = w.Agenda.Horizon(ctx, w.Student)
	require.NoError(t, err)
	assert.Len(t, h.Changes, 1, "what came later is not seen yet")

	// Put away by the student, it stays away, until its calendar moves it.
	require.NoError(t, w.Intake.Remove(ctx, w.Student, buoys))
	w.Take("x.ics", moved)
	assert.Empty(t, w.Titles())
}

func TestATableIsTakenOverByItsColumns(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	text := "was;wann;wo\nBuoys;2027-01-20 17:00;HYD 214\nBread;2027-01-21;BAK 1\n"
	in := intake.Import{Upload: w.Upload("x.csv", []byte(text)), Purpose: intake.PurposeDue}
	p, err := w.Intake.Preview(ctx, w.Student, in)
	require.NoError(t, err)
	assert.Equal(t, "table", p.Kind)
	assert.NotEmpty(t, p.Trouble)
	in.Columns = []string{"title", "due", "course"}
	p, err = w.Intake.Preview(ctx, w.Student, in)
	require.NoError(t, err)
	require.Len(t, p.Items, 2)
	in.Without = []string{p.Items[1].Key}
	done, err := w.Intake.Import(ctx, w.Student, in)
	require.NoError(t, err)
	assert.Equal(t, intake.Imported{Added: 1}, *done)
	assert.Equal(t, []string{"HYD 214 Buoys 20 Jan 17:00"}, w.Titles())

	table, err := w.Agenda.Table(ctx, w.Student)
	require.NoError(t, err)
	again, err := calendar.FromTable(firstColumns(table, 7), calendar.Around(worldtest.Monday), time.UTC)
	require.NoError(t, err, "what goes out can come in")
	require.Len(t, again, 1)
	assert.Equal(t, "2027-01-20T17:00:00Z", again[0].Due)
}

func firstColumns(table string, n int) string {
	var out []string
	for row := range strings.Lines(table) {
		out = append(out, strings.Join(strings.SplitN(strings.TrimSpace(row), ",", n+1)[:n], ","))
	}
	return strings.Join(out, "\n")
}

func TestBadCalendarsAreRefusedWhole(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	var complaint refusal.Complaint
	for name, text := range map[string]string{
		"broken": "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\n", "no time": worldtest.Calendar("BEGIN:VTODO\r\nUID:a\r\nDUE:soon\r\nEND:VTODO\r\n"), "no due column": "title,when\nA,2027-01-20\n", "bad date": "title,due\nA,2027-01-20\nB,soon\n",
	} {
		_, err := w.Intake.Import(
			ctx,
			w.Student,
			intake.Import{Upload: w.Upload("x", []byte(text)), Purpose: intake.PurposeDue},
		)
		assert.ErrorAs(t, err, &complaint, name)
	}
	assert.Empty(t, w.Titles())
	_, err := w.Intake.Import(ctx, w.Student, intake.Import{Upload: "none", Purpose: intake.PurposeDue})
	assert.ErrorIs(t, err, refusal.ErrNotFound)
}

// An address is fetched again; one that fails costs a notice and nothing else.
func TestAFeedIsFetchedAgain(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	text, code := worldtest.Calendar(
		worldtest.Todo("a", "20270120T170000", "Buoys", "CATEGORIES:HYD 214\r\n"),
	), http.StatusOK
	server := httptest.NewServer(
		http.HandlerFunc(
			func(rw http.ResponseWriter, _ *http.Request) { rw.WriteHeader(code); _, _ = rw.Write([]byte(text)) },
		),
	)
	defer server.Close()
	_, err := w.Intake.Import(
		ctx,
		w.Student,
		intake.Import{URL: server.URL, Name: "the feed", Purpose: intake.PurposeDue, Again: true},
	)
	require.NoError(t, err)
	feeds, err := w.Intake.Feeds(ctx, w.Student)
	require.NoError(t, err)
	require.Len(t, feeds, 1)
	job := query.Job{Subject: feeds[0].ID, StudentID: w.Student}
	text = worldtest.Calendar(worldtest.Todo("a", "20270122T170000", "Buoys", "CATEGORIES:HYD 214\r\n"))
	again, err := w.Intake.FetchFeed(ctx, job)
	require.NoError(t, err)
	assert.Equal(t, time.Hour, again)
	assert.Equal(t, []string{"HYD 214 Buoys 22 Jan 17:00"}, w.Titles())
	bad := "BEGIN:VTODO\r\nUID:b\r\nSUMMARY:Ropes\r\nDUE:soon\r\nEND:VTODO\r\n"
	text = worldtest.Calendar(worldtest.Todo("a", "20270123T170000", "Buoys", "CATEGORIES:HYD 214\r\n"), bad)
	preview, err := w.Intake.Preview(ctx, w.Student, intake.Import{URL: server.URL, Purpose: intake.PurposeDue})
	require.NoError(t, err)
	assert.Len(t, preview.Items, 1)
	require.Len(t, preview.LeftOut, 1)
	assert.Contains(t, preview.LeftOut[0], "Ropes")
	_, err = w.Intake.FetchFeed(ctx, job)
	require.NoError(t, err)
	assert.Equal(t, []string{"HYD 214 Buoys 23 Jan 17:00"}, w.Titles(), "the others are taken over")
	feeds, err = w.Intake.Feeds(ctx, w.Student)
	require.NoError(t, err)
	assert.Contains(t, feeds[0].Notice, "left out. Ropes")
	text = "BEGIN:VCALENDAR\r\n"
	_, err = w.Intake.FetchFeed(ctx, job)
	require.NoError(t, err)
	feeds, err = w.Intake.Feeds(ctx, w.Student)
	require.NoError(t, err)
	assert.Contains(t, feeds[0].Notice, "could not be taken over")
	code = http.StatusGone
	_, err = w.Intake.FetchFeed(ctx, job)
	require.NoError(t, err)
	feeds, err = w.Intake.Feeds(ctx, w.Student)
	require.NoError(t, err)
	assert.Contains(t, feeds[0].Notice, "410 Gone")
	assert.Len(t, w.Titles(), 1)
}

// What the student filed in another course is found there again, by the preview and by the import alike.
func TestAMovedItemIsFoundWhereItWasPut(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	w.Take("x.ics", worldtest.Calendar(worldtest.Todo("a", "20270120T170000", "Bread", "CATEGORIES:BAK 1\r\n")))
	list, err := w.DB.Assignments(ctx, query.AssignmentsParams{StudentID: w.Student})
	require.NoError(t, err)
	d, err := w.Intake.DraftOf(ctx, w.Student, list[0].ID)
	require.NoError(t, err)
	d.CourseID = w.Published()
	require.NoError(t, w.Intake.Change(ctx, w.Student, *d))
	moved := worldtest.Calendar(worldtest.Todo("a", "20270122T170000", "Bread", "CATEGORIES:BAK 1\r\n"))
	p, err := w.Intake.Preview(
		ctx,
		w.Student,
		intake.Import{Upload: w.Upload("x.ics", []byte(moved)), Purpose: intake.PurposeDue},
	)
	require.NoError(t, err)
	require.Len(t, p.Items, 1)
	assert.Equal(t, []string{"HYD 214", "changed"}, []string{p.Items[0].Course, p.Items[0].Now})
	assert.Equal(t, intake.Imported{Changed: 1}, w.Take("x.ics", moved))
	assert.Equal(t, []string{"HYD 214 Bread 22 Jan 17:00"}, w.Titles())
}
