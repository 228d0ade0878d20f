package prepare_test

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/tus/tusd/v2/pkg/handler"

	"orario/internal/contents"
	"orario/internal/prepare"
	"orario/internal/refusal"
	"orario/internal/submit"
	"orario/internal/workshop"
	"orario/internal/worldtest"
)

// begin asks for an upload of so many bytes, as a page does, and gives the answer.
func begin(t *testing.T, w *worldtest.World, bytes int) (int, string) {
	uploads := contents.Uploads{Store: contents.Store{DB: w.DB.SQL}, Admit: w.Prepare.Admit}
	handler, err := uploads.Handler("/", 1<<30)
	require.NoError(t, err)
	owner := contents.WithOwner(context.Background(), fmt.Sprint(w.Student))
	r := httptest.NewRequestWithContext(owner, http.MethodPost, "/", nil)
	r.Header.Set("Tus-Resumable", "1.0.0")
	r.Header.Set("Upload-Length", fmt.Sprint(bytes))
	answer := httptest.NewRecorder()
	handler.ServeHTTP(answer, r)
	return answer.Code, answer.Body.String()
}

func TestFilesHaveAQuota(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := lab(w)
	w.Prepare.Room.Quota = 10_000
	w.Add(id, "a.csv", make([]byte, 4000))
	w.Add(id, "again.csv", make([]byte, 4000)) // the same content takes no more room
	space, err := w.Prepare.Space(ctx, w.Student)
	require.NoError(t, err)
	assert.Equal(t, prepare.Space{Text: "4 kB of 10 kB are used"}, space)

	code, said := begin(t, w, 6001)
	assert.Equal(t, http.StatusInsufficientStorage, code)
	assert.Contains(t, said, "only 6 kB are left")
	code, _ = begin(t, w, 6000)
	assert.Equal(t, http.StatusCreated, code)
	code, _ = begin(t, w, 1)
	assert.Equal(t, http.StatusInsufficientStorage, code, "what is on its way counts")

	w.Prepare.Room.Quota = 4100
	space, err = w.Prepare.Space(ctx, w.Student)
	require.NoError(t, err)
	assert.True(t, space.Near)
	w.Prepare.Room.Quota = 1
	_, err = w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true})
	if err != nil {
		assert.NotContains(t, err.Error(), "room", "sending asks for none")
	}
}

// A recording that goes up while it is made has no length at first; it is held to the quota all the same.
func TestARecordingIsHeldToTheQuotaWhileItIsMade(t *testing.T) {
	w := worldtest.New(t)
	w.Prepare.Room.Quota = 3 << 20
	uploads := contents.Uploads{Store: contents.Store{DB: w.DB.SQL}, Admit: w.Prepare.Admit}
	ctx := contents.WithOwner(context.Background(), fmt.Sprint(w.Student))
	up, err := uploads.NewUpload(ctx, handler.FileInfo{SizeIsDeferred: true, MetaData: handler.MetaData{"filename": "talk.webm"}})
	require.NoError(t, err)
	n, err := up.WriteChunk(ctx, 0, bytes.NewReader(make([]byte, 10<<20)))
	assert.ErrorContains(t, err, "only 0 bytes are left")
	assert.Equal(t, int64(3<<20), n, "what fits is kept")
}

func TestNewFilesWaitWhereTheDiskIsFull(t *testing.T) {
	w := worldtest.New(t)
	w.Prepare.Room = prepare.Room{Margin: 1000, Free: func(context.Context) (int64, bool) { return 1500, true }}
	code, _ := begin(t, w, 500)
	assert.Equal(t, http.StatusCreated, code)
	code, said := begin(t, w, 501)
	assert.Equal(t, http.StatusInsufficientStorage, code)
	assert.Contains(t, said, "What lies in your bundles can be sent all the same")
	w.Prepare.Room.Free = func(context.Context) (int64, bool) { return 0, false }
	code, _ = begin(t, w, 501)
	assert.Equal(t, http.StatusCreated, code, "not known is not full")

	free, known := w.DB.Free(context.Background())
	assert.True(t, known, "the tests' database runs here")
	assert.Positive(t, free)
}

func TestAFileIsRemovedForGood(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	essay := w.Publish(worldtest.Essay())
	item := w.Add(essay, "Quintal_HYD214_chart-datum.txt", []byte("An essay."))
	s, err := w.Prepare.State(ctx, w.Student, essay, 0)
	require.NoError(t, err)
	version := s.Items[0].Version
	complains(t, w.Prepare.RemoveVersion(ctx, w.Student, version), "lies in a bundle")
	removable := func(id int64) bool {
		sheet, err := w.Library.Sheet(ctx, w.Student, id)
		require.NoError(t, err)
		return sheet.Removable
	}
	assert.False(t, removable(version))
	other, _ := w.AddStudent("30001", "other@orario.example")
	require.Error(t, w.Prepare.RemoveVersion(ctx, other, version), "it is somebody else's")
	require.NoError(t, w.Prepare.Remove(ctx, w.Student, item))
	assert.True(t, removable(version), "the page offers what is done")
	require.NoError(t, w.Prepare.RemoveVersion(ctx, w.Student, version))
	require.Error(t, w.Prepare.RemoveVersion(ctx, w.Student, version), "twice")
	w.Add(essay, "Quintal_HYD214_chart-datum.txt", []byte("An essay."))
	w.Send(essay)
	versions, err := w.DB.Versions(ctx, w.Student)
	require.NoError(t, err)
	complains(t, w.Prepare.RemoveVersion(ctx, w.Student, versions[0].ID), "was sent, so it stays")
}

// Whatever way something comes, it counts, and what goes over the quota is refused in the transaction that adds it.
func TestTheQuotaHoldsOnEveryWay(t *testing.T) {
	ctx := context.Background()
	used := func(w *worldtest.World) string {
		space, err := w.Prepare.Space(ctx, w.Student)
		require.NoError(t, err)
		return space.Text
	}
	held := func() (*worldtest.World, int64) {
		w := worldtest.New(t)
		id := lab(w)
		w.Prepare.Room.Quota = 10_000
		w.Clock(time.Now) // which has the Workshop go by the same
		return w, id
	}
	t.Run("uploads that have finished and are not added", func(t *testing.T) {
		w, _ := held()
		w.Upload("a.csv", make([]byte, 9000))
		assert.Equal(t, "9 kB of 10 kB are used", used(w))
		code, _ := begin(t, w, 1001)
		assert.Equal(t, http.StatusInsufficientStorage, code)
	})
	t.Run("uploads that begin at once", func(t *testing.T) {
		w, _ := held()
		var begun atomic.Int64
		var all sync.WaitGroup
		for range 12 {
			all.Go(func() {
				if code, _ := begin(t, w, 4000); code == http.StatusCreated {
					begun.Add(1)
				}
			})
		}
		all.Wait()
		assert.LessOrEqual(t, begun.Load(), int64(2))
		var rows int
		require.NoError(t, w.DB.SQL.QueryRow("SELECT COUNT(*) FROM upload").Scan(&rows))
		assert.EqualValues(t, begun.Load(), rows, "what was refused leaves nothing")
	})
	t.Run("adding", func(t *testing.T) {
		w, id := held()
		upload := w.Upload("a.csv", make([]byte, 11_000)) // begun while there was room
		_, err := w.Prepare.AddUpload(ctx, w.Student, id, 0, upload, "")
		assert.ErrorContains(t, err, "11 kB would be kept for you, and your room is 10 kB")
		_, err = w.Prepare.Keep(ctx, w.Student, upload)
		assert.ErrorContains(t, err, "your room is 10 kB")
		_, err = w.Prepare.Bring(ctx, w.Student, "b.csv", bytes.NewReader(make([]byte, 10_001)))
		assert.ErrorContains(t, err, "your room is 10 kB")
		var rows int
		require.NoError(t, w.DB.SQL.QueryRow("SELECT COUNT(*) FROM version").Scan(&rows))
		assert.Zero(t, rows)
	})
	t.Run("writing", func(t *testing.T) {
		w, id := held()
		keep := func(version int64, n, revision int) (int, error) {
			return w.Workshop.Keep(ctx, w.Student, id, 0, version, strings.Repeat("x", n), revision)
		}
		_, err := keep(0, 6000, 0)
		require.NoError(t, err)
		_, err = keep(-1, 4001, 0)
		assert.ErrorContains(t, err, "your room is 10 kB")
		_, err = keep(0, 10_001, 1)
		assert.ErrorContains(t, err, "your room is 10 kB")
		_, err = keep(77, 1, 0)
		assert.ErrorIs(t, err, refusal.ErrNotFound, "on the pages of nothing")
		w.Prepare.Room.Quota = 5000
		w.Clock(time.Now)
		_, err = keep(0, 5999, 1)
		assert.ErrorContains(t, err, "is full")
	})
	t.Run("what is made", func(t *testing.T) {
		w, id := held()
		w.Add(id, "a.txt", []byte(strings.Repeat("Neap tides are small. ", 200)))
		versions, err := w.DB.Versions(ctx, w.Student)
		require.NoError(t, err)
		version := versions[0].ID
		piece := w.Work(id, "pack", []int64{version}, workshop.Wishes{})
		require.Equal(t, "made", piece.State)
		before := used(w)
		assert.NotContains(t, before, "4.4 kB", "it counts, too")
		w.Prepare.Room.Quota = 6000
		w.Clock(time.Now)
		piece = w.Work(id, "convert", []int64{version}, workshop.Wishes{Form: "pdf"})
		assert.Equal(t, "failed", piece.State)
		assert.Contains(t, piece.Trouble, "your room is 6 kB")
	})
}
