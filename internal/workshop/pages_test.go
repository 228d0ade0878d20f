package workshop_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/inspect"
	"orario/demo"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/worldtest"
)

func TestThePagesOfADocumentAreMadeOnceAndKept(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := w.Publish(worldtest.Essay())
	w.Add(id, "essay.docx", demo.DOCX("nerea", "Tides", "The first paragraph.", "The second one."))
	of := versions(t, w, id)[0]
	v, err := w.DB.VersionFile(ctx, query.VersionFileParams{ID: of, StudentID: w.Student})
	require.NoError(t, err)

	left, leave := context.WithCancel(ctx)
	leave()
	_, err = w.Workshop.Pages(left, v.Digest, v.Kind, v.Bytes)
	require.ErrorIs(t, err, context.Canceled, "who leaves waits no longer")
	made, err := w.Workshop.Pages(ctx, v.Digest, v.Kind, v.Bytes)
	require.NoError(t, err)
	pdf, err := w.Workshop.Uploads.Read(ctx, made.Made)
	require.NoError(t, err)
	assert.Equal(t, "pdf", inspect.Kind("pages.pdf", pdf))
	assert.EqualValues(t, len(pdf), made.Bytes)
	pages, err := w.Workshop.Tools.PDFPages(ctx, pdf)
	require.NoError(t, err)
	require.Len(t, pages, 1)
	assert.Contains(t, pages[0], "The second one.")

	without := w.Workshop
	without.Tools = nil // which would fail if anything were made again
	again, err := without.Pages(ctx, v.Digest, v.Kind, v.Bytes)
	require.NoError(t, err)
	assert.Equal(t, made, again)

	_, _, err = w.Workshop.Uploads.Purge(ctx, time.Now().AddDate(0, 0, 3), "version.digest", "laid_out.made")
	require.NoError(t, err)
	_, err = without.Pages(ctx, v.Digest, v.Kind, v.Bytes)
	require.NoError(t, err, "they stay with the document")
	_, err = w.DB.SQL.Exec("DELETE FROM item")
	require.NoError(t, err)
	_, err = w.DB.SQL.Exec("DELETE FROM version")
	require.NoError(t, err)
	for range 2 { // what the first round frees, the second takes
		_, _, err = w.Workshop.Uploads.Purge(ctx, time.Now().AddDate(0, 0, 3), "version.digest", "laid_out.made")
		require.NoError(t, err)
	}
	var stay int
	require.NoError(t, w.DB.SQL.QueryRow("SELECT (SELECT COUNT(*) FROM laid_out) + (SELECT COUNT(*) FROM content "+
		"WHERE digest IN (?, ?))", v.Digest, made.Made).Scan(&stay))
	assert.Zero(t, stay, "and go with it")
}

func TestWhatHasNoPagesIsNotLaidOut(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	digest, size, err := w.Workshop.Uploads.Put(ctx, strings.NewReader(strings.Repeat("no document ", 170)))
	require.NoError(t, err)
	for _, kind := range []string{"txt", "pdf", "zip", "unknown", ""} {
		_, err := w.Workshop.Pages(ctx, digest, kind, size)
		assert.ErrorIs(t, err, refusal.ErrNotFound, kind)
	}
	_, err = w.Workshop.Pages(ctx, digest, "docx", 64<<20+1)
	assert.ErrorContains(t, err, "too much to be shown here")
}
