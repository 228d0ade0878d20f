package campus_test

import (
	"bytes"
	"context"
	"crypto/rand"
	"io"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/receipt"
	"orario/internal/courier"
	"orario/internal/worldtest"
)

// draft uploads a file into a new draft.
func draft(t *testing.T, site *courier.Site, name, slot string, data []byte) int64 {
	ctx := context.Background()
	d, err := site.OpenDraft(ctx, rand.Text(), "essay")
	require.NoError(t, err)
	u := courier.Upload{Draft: d.ID, Slot: slot, Name: name, Bytes: int64(len(data)), Sent: func(int64) {},
		Open: func(at int64) (io.Reader, error) { return bytes.NewReader(data[at:]), nil }}
	address, err := site.Begin(ctx, u)
	require.NoError(t, err)
	require.NoError(t, site.Continue(ctx, address, u))
	return d.ID
}

func TestTheTwoStepsAndTheSitesRules(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	essay := worldtest.Essay()
	essay.Sheet.Attempts.Invitation = true
	w.Publish(essay)
	site, err := courier.Connect(w.URL, w.Token)
	require.NoError(t, err)

	refused := func(d int64, declared bool, code string) {
		t.Helper()
		_, err := site.Submit(ctx, d, rand.Text(), declared, "")
		var no courier.Refused
		require.ErrorAs(t, err, &no)
		assert.Equal(t, code, no.Code, no.Reason)
	}
	text := []byte("An essay.")
	d := draft(t, site, "a.txt", "essay", text)
	assert.Equal(t, 0, w.Received(), "a draft never counts as submitted")
	refused(d, false, "declaration")
	refused(draft(t, site, "a.png", "essay", []byte("\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR")), true, "form")
	refused(draft(t, site, "a.txt", "map", text), true, "slot")
	empty, err := site.OpenDraft(ctx, rand.Text(), "essay")
	require.NoError(t, err)
	refused(empty.ID, true, "empty")

	key := rand.Text()
	var receipts sync.Map
	var asked sync.WaitGroup
	for range 6 { // the same key at the same time
		asked.Go(func() {
			r, err := site.Submit(ctx, d, key, true, "")
			if assert.NoError(t, err) {
				receipts.Store(r.Number, r)
			}
		})
	}
	asked.Wait()
	n := 0
	receipts.Range(func(_, value any) bool {
		n++
		described, err := site.Describe(ctx)
		require.NoError(t, err)
		public, err := receipt.ParseKey(described.PublicKey)
		require.NoError(t, err)
		assert.NoError(t, value.(courier.Receipt).Check(public))
		return true
	})
	assert.Equal(t, 1, n, "one key, one receipt")
	assert.Equal(t, 1, w.Received())

	refused(draft(t, site, "b.txt", "essay", text), true, "invitation")
	var number string
	receipts.Range(func(k, _ any) bool { number = k.(string); return false })
	require.NoError(t, w.Campus.Return(ctx, number, 12, nil, true))
	_, err = site.Submit(ctx, draft(t, site, "b.txt", "essay", text), rand.Text(), true, "")
	require.NoError(t, err)
	refused(draft(t, site, "c.txt", "essay", text), true, "attempts")

	require.NoError(t, w.Campus.MoveClock(ctx, 30*24*time.Hour))
	_, err = site.OpenDraft(ctx, rand.Text(), "essay")
	var no courier.Refused
	require.ErrorAs(t, err, &no)
	assert.Equal(t, "closed", no.Code)
	stranger, err := courier.Connect(w.URL, "wrong")
	require.NoError(t, err)
	_, err = stranger.Courses(ctx)
	assert.ErrorIs(t, err, courier.ErrToken)
}

func TestAReportComesAfterItsTurnaround(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	essay := worldtest.Essay()
	essay.Turnaround.FirstMinutes = 60
	w.Publish(essay)
	passage := "the lowest water that the table expects is called zero and everything is measured upwards from there"
	require.NoError(t, w.Campus.PublishReading(ctx, "reader", "The reader", "Once more: "+passage+". And so on."))
	site, err := courier.Connect(w.URL, w.Token)
	require.NoError(t, err)
	r, err := site.Submit(
		ctx,
		draft(t, site, "a.txt", "essay", []byte("I hold that "+passage+", as everybody knows by now or should.")),
		rand.Text(),
		true,
		"",
	)
	require.NoError(t, err)
	report, err := site.Report(ctx, r.Number)
	require.NoError(t, err)
	assert.Equal(t, "waiting", string(report.State))
	assert.WithinDuration(t, time.Now().Add(time.Hour), *report.ExpectedAt, time.Minute)
	require.NoError(t, w.Campus.MoveClock(ctx, 61*time.Minute))
	report, err = site.Report(ctx, r.Number)
	require.NoError(t, err)
	require.Equal(t, "ready", string(report.State))
	require.Len(t, report.Report.Passages, 1)
	assert.Equal(t, "reader", report.Report.Passages[0].Source)
	assert.Equal(t, "The reader", report.Sources[0].Title)
	again, err := site.Report(ctx, r.Number)
	require.NoError(t, err)
	assert.Equal(t, report, again, "made once")
}

func TestThePagesWork(t *testing.T) {
	w := worldtest.New(t)
	w.Publish(worldtest.Essay())
	site, err := courier.Connect(w.URL, w.Token)
	require.NoError(t, err)
	r, err := site.Submit(
		context.Background(),
		draft(t, site, "a.txt", "essay", []byte("x")),
		rand.Text(),
		true,
		"please <b>read</b>",
	)
	require.NoError(t, err)
	page := func(path string) string {
		answer, err := http.Get(w.URL + path)
		require.NoError(t, err)
		defer answer.Body.Close()
		text, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, answer.StatusCode, string(text))
		return string(text)
	}
	assert.Contains(t, page("/"), "Chart datum")
	assert.Contains(t, page("/mailbox"), r.Number)
	assert.Contains(t, page("/marking"), r.Number)
	assert.Contains(t, page("/marking/"+r.Number), "please &lt;b&gt;read")
	post := func(path string, form url.Values) int {
		answer, err := http.PostForm(w.URL+path, form)
		require.NoError(t, err)
		answer.Body.Close()
		return answer.StatusCode
	}
	assert.Equal(t, http.StatusBadRequest, post("/marking/"+r.Number, url.Values{"mark": {"21"}}), "of 20 points")
	assert.Equal(
		t,
		http.StatusOK,
		post(
			"/marking/"+r.Number,
			url.Values{"mark": {"17.5"}, "comments": {"Well read.\n2: Name the source."}, "invited": {"on"}},
		),
	)
	back, err := site.Return(context.Background(), r.Number)
	require.NoError(t, err)
	assert.Equal(t, 17.5, *back.Mark)
	assert.True(t, back.Invited)
	require.Len(t, back.Comments, 2)
	assert.False(t, back.Comments[0].Open)
	assert.Equal(t, 2.0, *back.Comments[1].Points)
	assert.Equal(t, http.StatusOK, post("/control", url.Values{"forward": {"90m"}}))
	assert.True(t, strings.Contains(page("/control"), "1h30m0s"))
	assert.Equal(t, http.StatusBadRequest, post("/control", url.Values{"forward": {"soon"}}))
}
