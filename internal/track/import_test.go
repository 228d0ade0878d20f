package track_test

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/calendar"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
	"orario/internal/track"
	"orario/internal/worldtest"
)

// todo is one VTODO; more holds further lines.
func todo(uid, due, title, more string) string {
	return "BEGIN:VTODO\r\nUID:" + uid + "\r\nDUE;TZID=Europe/Lisbon:" + due + "\r\nSUMMARY:" + title + "\r\n" + more + "END:VTODO\r\n"
}

func cal(parts ...string) string {
	return "BEGIN:VCALENDAR\r\nVERSION:2.0\r\n" + strings.Join(parts, "") + "END:VCALENDAR\r\n"
}

func take(t testing.TB, w *worldtest.World, name, text string) track.Imported {
	done, err := w.Track.Import(context.Background(), w.Student, track.Import{Upload: w.Upload(name, []byte(text)), Name: name, Purpose: track.PurposeDue})
	require.NoError(t, err)
	return *done
}

func titles(t testing.TB, w *worldtest.World) (out []string) {
	h, err := w.Track.Horizon(context.Background(), w.Student)
	require.NoError(t, err)
	for _, l := range h.Lines {
		out = append(out, fmt.Sprintf("%s %s %s", l.Course, l.Title, l.Due.Format("2 Jan 15:04")))
	}
	return out
}

func TestACalendarComesOnceHoweverOftenItIsGiven(t *testing.T) {
	w := planned(t)
	ctx := context.Background()
	first := cal(todo("a", "20270120T170000", "HYD 214: Buoys", ""), todo("b", "20270121T170000", "Bread", "CATEGORIES:BAK 1\r\n"), todo("c", "20261101T170000", "Long past", ""), todo("d", "20270122T170000", "Void", "STATUS:CANCELLED\r\n"))
	assert.Equal(t, track.Imported{Added: 2}, take(t, w, "x.ics", first))
	assert.ElementsMatch(t, []string{"HYD 214 Buoys 20 Jan 17:00", "BAK 1 Bread 21 Jan 17:00"}, titles(t, w))
	assert.Equal(t, track.Imported{Same: 2}, take(t, w, "again.ics", first))

	// What the student did stays; what the calendar changed is changed.
	list, err := w.DB.Assignments(ctx, w.Student)
	require.NoError(t, err)
	buoys := list[0].ID
	require.NoError(t, w.Track.SetWork(ctx, w.Student, buoys, track.Work{Minutes: 90, Done: 30}))
	d, err := w.Track.DraftOf(ctx, w.Student, buoys)
	require.NoError(t, err)
	form, err := w.Track.Correct(ctx, w.Student, d.CourseID, "forms", "PDF")
	require.NoError(t, err)
	d.Asks, d.Title = append(d.Asks, *form), "Buoys of the harbour"
	require.NoError(t, w.Track.Change(ctx, w.Student, *d))
	moved := cal(todo("a", "20270125T120000", "HYD 214: Buoys", ""), todo("b", "20270121T170000", "Bread", "STATUS:CANCELLED\r\nCATEGORIES:BAK 1\r\n"))
	preview, err := w.Track.Preview(ctx, w.Student, track.Import{Upload: w.Upload("x.ics", []byte(moved)), Purpose: track.PurposeDue})
	require.NoError(t, err)
	require.Len(t, preview.Items, 2)
	assert.Equal(t, []string{"cancelled", "changed"}, []string{preview.Items[0].Now, preview.Items[1].Now})
	assert.Equal(t, track.Imported{Changed: 1, Cancelled: 1}, take(t, w, "x.ics", moved))
	assert.Equal(t, []string{"HYD 214 Buoys of the harbour 25 Jan 12:00"}, titles(t, w))
	l := line(t, w, buoys)
	assert.Equal(t, []int{90, 30}, []int{l.EffortMinutes, l.DoneMinutes})
	assert.NotNil(t, l.DueWas)

	h, err := w.Track.Horizon(ctx, w.Student)
	require.NoError(t, err)
	require.Len(t, h.Changes, 2, "what she took over herself is no news to her")
	assert.Equal(t, "HYD 214: Buoys of the harbour is due Mon 25 Jan 12:00, no longer Wed 20 Jan 17:00.", h.Changes[0].Text)
	require.NoError(t, w.Track.Seen(ctx, w.Student, h.Changes[1].ID))
	h, err = w.Track.Horizon(ctx, w.Student)
	require.NoError(t, err)
	assert.Len(t, h.Changes, 1, "what came later is not seen yet")

	// Put away by the student, it stays away, until its calendar moves it.
	require.NoError(t, w.Track.Remove(ctx, w.Student, buoys))
	take(t, w, "x.ics", moved)
	assert.Empty(t, titles(t, w))
}

func TestATableIsTakenOverByItsColumns(t *testing.T) {
	w := planned(t)
	ctx := context.Background()
	text := "was;wann;wo\nBuoys;2027-01-20 17:00;HYD 214\nBread;2027-01-21;BAK 1\n"
	in := track.Import{Upload: w.Upload("x.csv", []byte(text)), Purpose: track.PurposeDue}
	p, err := w.Track.Preview(ctx, w.Student, in)
	require.NoError(t, err)
	assert.Equal(t, "table", p.Kind)
	assert.NotEmpty(t, p.Trouble)
	in.Columns = []string{"title", "due", "course"}
	p, err = w.Track.Preview(ctx, w.Student, in)
	require.NoError(t, err)
	require.Len(t, p.Items, 2)
	in.Without = []string{p.Items[1].Key}
	done, err := w.Track.Import(ctx, w.Student, in)
	require.NoError(t, err)
	assert.Equal(t, track.Imported{Added: 1}, *done)
	assert.Equal(t, []string{"HYD 214 Buoys 20 Jan 17:00"}, titles(t, w))

	table, err := w.Track.Table(ctx, w.Student)
	require.NoError(t, err)
	again, err := calendar.FromTable(firstColumns(table, 7), calendar.Around(monday), time.UTC)
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
	w := planned(t)
	ctx := context.Background()
	var complaint prepare.Complaint
	for name, text := range map[string]string{
		"broken": "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\n", "no time": cal("BEGIN:VTODO\r\nUID:a\r\nDUE:soon\r\nEND:VTODO\r\n"), "no due column": "title,when\nA,2027-01-20\n", "bad date": "title,due\nA,2027-01-20\nB,soon\n",
	} {
		_, err := w.Track.Import(ctx, w.Student, track.Import{Upload: w.Upload("x", []byte(text)), Purpose: track.PurposeDue})
		assert.ErrorAs(t, err, &complaint, name)
	}
	assert.Empty(t, titles(t, w))
	_, err := w.Track.Import(ctx, w.Student, track.Import{Upload: "none", Purpose: track.PurposeDue})
	assert.ErrorIs(t, err, prepare.ErrNotFound)
}

// An address is fetched again; one that fails costs a notice and nothing else.
func TestAFeedIsFetchedAgain(t *testing.T) {
	w := planned(t)
	ctx := context.Background()
	text, code := cal(todo("a", "20270120T170000", "Buoys", "CATEGORIES:HYD 214\r\n")), http.StatusOK
	server := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, _ *http.Request) { rw.WriteHeader(code); _, _ = rw.Write([]byte(text)) }))
	defer server.Close()
	_, err := w.Track.Import(ctx, w.Student, track.Import{URL: server.URL, Name: "the feed", Purpose: track.PurposeDue, Again: true})
	require.NoError(t, err)
	feeds, err := w.Track.Feeds(ctx, w.Student)
	require.NoError(t, err)
	require.Len(t, feeds, 1)
	job := query.Job{Subject: feeds[0].ID, StudentID: w.Student}
	text = cal(todo("a", "20270122T170000", "Buoys", "CATEGORIES:HYD 214\r\n"))
	again, err := w.Track.FetchFeed(ctx, job)
	require.NoError(t, err)
	assert.Equal(t, time.Hour, again)
	assert.Equal(t, []string{"HYD 214 Buoys 22 Jan 17:00"}, titles(t, w))
	text = "BEGIN:VCALENDAR\r\n"
	_, err = w.Track.FetchFeed(ctx, job)
	require.NoError(t, err)
	feeds, err = w.Track.Feeds(ctx, w.Student)
	require.NoError(t, err)
	assert.Contains(t, feeds[0].Notice, "could not be taken over")
	code = http.StatusGone
	_, err = w.Track.FetchFeed(ctx, job)
	require.NoError(t, err)
	feeds, err = w.Track.Feeds(ctx, w.Student)
	require.NoError(t, err)
	assert.Contains(t, feeds[0].Notice, "410 Gone")
	assert.Len(t, titles(t, w), 1)
}

// What the student filed in another course is found there again, by the preview and by the import alike.
func TestAMovedItemIsFoundWhereItWasPut(t *testing.T) {
	w := planned(t)
	ctx := context.Background()
	take(t, w, "x.ics", cal(todo("a", "20270120T170000", "Bread", "CATEGORIES:BAK 1\r\n")))
	list, err := w.DB.Assignments(ctx, w.Student)
	require.NoError(t, err)
	d, err := w.Track.DraftOf(ctx, w.Student, list[0].ID)
	require.NoError(t, err)
	d.CourseID = 1
	require.NoError(t, w.Track.Change(ctx, w.Student, *d))
	moved := cal(todo("a", "20270122T170000", "Bread", "CATEGORIES:BAK 1\r\n"))
	p, err := w.Track.Preview(ctx, w.Student, track.Import{Upload: w.Upload("x.ics", []byte(moved)), Purpose: track.PurposeDue})
	require.NoError(t, err)
	require.Len(t, p.Items, 1)
	assert.Equal(t, []string{"HYD 214", "changed"}, []string{p.Items[0].Course, p.Items[0].Now})
	assert.Equal(t, track.Imported{Changed: 1}, take(t, w, "x.ics", moved))
	assert.Equal(t, []string{"HYD 214 Bread 22 Jan 17:00"}, titles(t, w))
}

// What goes out is read by our own reader: send-by and due with alarms, and the planned work as busy time.
func TestTheStudentsOwnCalendar(t *testing.T) {
	w := planned(t)
	ctx := context.Background()
	own(t, w, "A HYD 13 Jan 23:00 ~3h", 10)
	require.NoError(t, w.Track.Renew(ctx, w.Student, true))
	token, err := w.Track.Link(ctx, w.Student)
	require.NoError(t, err)
	assert.Greater(t, len(token), 20)
	text, err := w.Track.Published(ctx, token, "https://orario.example")
	require.NoError(t, err)
	items, err := calendar.Read(text, calendar.Around(monday), time.UTC)
	require.NoError(t, err)
	require.Len(t, items, 4)
	busy := 0
	for _, i := range items {
		if !i.Free {
			busy++
		}
	}
	assert.Equal(t, 2, busy, "two stretches of work")
	assert.Equal(t, 2, strings.Count(text, "BEGIN:VALARM"))
	require.NoError(t, w.Track.Renew(ctx, w.Student, false))
	for _, old := range []string{token, ""} {
		_, err = w.Track.Published(ctx, old, "")
		assert.True(t, errors.Is(err, prepare.ErrNotFound), "%q", old)
	}
}
