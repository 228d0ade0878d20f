package takeout_test

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/internal/intake"
	"orario/internal/mariadb/query"
	"orario/internal/takeout"
	"orario/internal/workshop"
	"orario/internal/worldtest"
)

// lived is a world in which the student has something of every kind.
func lived(t *testing.T) *worldtest.World {
	w := worldtest.New(t)
	ctx := context.Background()
	essay := w.Publish(worldtest.Essay())
	w.Add(essay, "Quintal_HYD214_chart-datum.txt", []byte("An essay about the datum."))
	w.Send(essay)
	versions, err := w.DB.Versions(ctx, w.Student)
	require.NoError(t, err)
	piece := w.Work(essay, "pack", []int64{versions[0].ID}, workshop.Wishes{})
	require.Equal(t, "made", piece.State)
	_, err = w.DB.SQL.Exec(`UPDATE workpiece_file SET name = 'C:..\\\\x"y.zip'`)
	require.NoError(t, err)
	w.Take("tides", worldtest.Calendar(worldtest.Todo("a", "20270120T170000", "Buoys", "CATEGORIES:HYD 214\r\n")))
	_, err = w.Intake.AddEnrolment(ctx, w.Student, intake.Enrolment{Institution: "B", Family: "Q", Given: "N", Zone: "UTC"})
	require.NoError(t, err)
	_, err = w.Accounts.Enter(ctx, w.Student, "laptop")
	require.NoError(t, err)
	return w
}

func TestEverythingIsGivenOut(t *testing.T) {
	w := lived(t)
	var out bytes.Buffer
	require.NoError(t, takeout.Write(context.Background(), w.DB.SQL, w.Student, &out))
	in, err := zip.NewReader(bytes.NewReader(out.Bytes()), int64(out.Len()))
	require.NoError(t, err)
	files := map[string]string{}
	for _, f := range in.File {
		r, err := f.Open()
		require.NoError(t, err)
		text, err := io.ReadAll(r)
		require.NoError(t, err)
		files[f.Name] = string(text)
	}
	var versions []struct {
		ID           int64
		Name, Digest string
	}
	require.NoError(t, json.Unmarshal([]byte(files["data/version.json"]), &versions))
	require.Len(t, versions, 1)
	sum := sha256.Sum256([]byte(files[fmt.Sprintf("files/%d-Quintal_HYD214_chart-datum.txt", versions[0].ID)]))
	assert.Equal(t, versions[0].Digest, hex.EncodeToString(sum[:]))
	bench := 0
	for name := range files {
		assert.NotContains(t, name, ":")
		assert.NotContains(t, name, `\`)
		if strings.HasPrefix(name, "bench/") {
			bench++
			assert.True(t, strings.HasSuffix(name, "-C-..--x-y.zip"), name)
		}
	}
	assert.Equal(t, 1, bench)
	receipts := 0
	for name, text := range files {
		receipts += strings.Count(name, "receipts/")
		assert.NotContains(t, text, "argon2id", name)
		assert.NotContains(t, text, w.Token, name)
		if strings.HasSuffix(name, ".json") {
			assert.True(t, json.Valid([]byte(text)), name)
		}
	}
	assert.Equal(t, 1, receipts)
	for _, name := range []string{"course", "assignment", "submission_file", "part", "student"} {
		assert.Greater(t, len(files["data/"+name+".json"]), 10, name)
	}
}

// Every table that holds something of a student is given out, or kept back for a reason.
func TestNoTableIsForgotten(t *testing.T) {
	w := lived(t)
	back := map[string]string{
		"session": "tells only the server something", "reset": "likewise", "reset_asked": "belongs to nobody", "job": "likewise", "event": "likewise", "touched": "likewise",
		"upload": "is a file when it is finished", "content": "is given out as files", "content_chunk": "likewise", "laid_out": "is made of files, and can be made again",
		"pass":  "tells only the server something",
		"guess": "belongs to nobody", "goose_db_version": "likewise", "site_key": "is public",
		"handout": "is the instructor's, and at the site",
	}
	var out bytes.Buffer
	require.NoError(t, takeout.Write(context.Background(), w.DB.SQL, w.Student, &out))
	in, err := zip.NewReader(bytes.NewReader(out.Bytes()), int64(out.Len()))
	require.NoError(t, err)
	given := map[string]bool{}
	for _, f := range in.File {
		given[strings.TrimSuffix(strings.TrimPrefix(f.Name, "data/"), ".json")] = true
	}
	for _, table := range tables(t, w) {
		assert.True(t, given[table] || back[table] != "", "%s is neither given out nor kept back", table)
	}
}

func tables(t *testing.T, w *worldtest.World) (names []string) {
	rows, err := w.DB.SQL.Query("SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE()")
	require.NoError(t, err)
	defer rows.Close()
	for rows.Next() {
		var name string
		require.NoError(t, rows.Scan(&name))
		names = append(names, name)
	}
	require.NoError(t, rows.Err())
	return names
}

// An account goes with everything in it, and nothing of another student's goes with it.
func TestAnAccountIsRemoved(t *testing.T) {
	w := lived(t)
	ctx := context.Background()
	count := func() map[string]int {
		n := map[string]int{}
		for _, table := range tables(t, w) {
			var rows int
			require.NoError(t, w.DB.SQL.QueryRow("SELECT COUNT(*) FROM "+table).Scan(&rows))
			n[table] = rows
		}
		return n
	}
	other, site := w.AddStudent("30001", "other@alvarim.example")
	_, err := w.Intake.Sync(ctx, query.Job{Subject: site, StudentID: other})
	require.NoError(t, err)
	before := count()
	require.Greater(t, before["submission"], 0)
	require.NoError(t, w.DB.RemoveStudent(ctx, w.Student))
	after := count()
	assert.Equal(t, 1, after["student"])
	assert.Equal(t, 1, after["site"])
	assert.Equal(t, 1, after["assignment"], "the other's own row of the same assignment")
	for _, table := range []string{
		"submission", "submission_file", "ledger", "item", "version", "feed", "session", "returned", "report",
	} {
		assert.Zero(t, after[table], table)
	}
	var left []string
	for _, table := range tables(t, w) {
		var n int
		err := w.DB.SQL.QueryRow(fmt.Sprintf("SELECT COUNT(*) FROM %s WHERE student_id = %d", table, w.Student)).Scan(&n)
		if err == nil && n > 0 {
			left = append(left, table)
		}
	}
	assert.Empty(t, left)
	uploads, gone, err := w.Submit.Contents.(interface {
		Purge(context.Context, time.Time, ...string) (int, int, error)
	}).Purge(ctx, time.Now().Add(48*time.Hour), "version.digest", "handout.digest", "submission_file.digest")
	require.NoError(t, err)
	assert.Positive(t, uploads)
	assert.Positive(t, gone, "the contents go with the next purge")
	require.NoError(t, w.DB.RemoveStudent(ctx, w.Student), "twice")
}
