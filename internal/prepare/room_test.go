package prepare_test

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/tus/tusd/v2/pkg/handler"

	"orario/internal/contents"
	"orario/internal/prepare"
	"orario/internal/submit"
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
		sheet, err := w.Desk.Sheet(ctx, w.Student, id)
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
