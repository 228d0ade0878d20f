package doctor_test

import (
	"compress/gzip"
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/internal/contents"
	"orario/internal/doctor"
	"orario/internal/mariadb"
	"orario/internal/mariadb/mariadbtest"
	"orario/internal/mariadb/query"
	"orario/internal/worldtest"
)

var inUse = []string{"version.digest", "handout.digest", "submission_file.digest"}

func look(t *testing.T, w *worldtest.World) (bad, good []string) {
	found, err := doctor.Case{
		DB: w.DB, Unseal: w.Vault.Unseal, Work: t.TempDir(), Margin: 1, InUse: inUse, Now: time.Now(),
	}.Look(context.Background())
	require.NoError(t, err)
	for _, f := range found {
		if f.Bad {
			bad = append(bad, f.Text)
		} else {
			good = append(good, f.Text)
		}
	}
	return bad, good
}

func TestTheDoctor(t *testing.T) {
	w := worldtest.New(t)
	w.AddStudent("20419", "rui@alvarim.example") // at the same site
	essay := w.Publish(worldtest.Essay())
	w.Add(essay, "Quintal_HYD214_chart-datum.txt", []byte("An essay."))
	_, err := w.DB.SQL.Exec("UPDATE site SET name = 'Campus'")
	require.NoError(t, err)
	_, err = w.DB.SQL.Exec("UPDATE job SET run_at = NOW(3) + INTERVAL 1 HOUR")
	require.NoError(t, err)
	bad, good := look(t, w)
	assert.Empty(t, bad)
	assert.Contains(t, good, "no job is stuck")
	assert.Contains(t, good, "2 sites are connected")
	for _, c := range []struct{ does, undoes, want string }{
		{
			"UPDATE job SET run_at = NOW(3) - INTERVAL 11 MINUTE, failure = 'why' WHERE kind = 'sync'",
			"UPDATE job SET run_at = NOW(3) + INTERVAL 1 HOUR",
			`2 jobs of kind "sync" wait for over 10m0s (tried 0 times, last: why)`,
		},
		{"UPDATE job SET tries = 5 WHERE kind = 'sync'", "UPDATE job SET tries = 0", "failed five times or more"},
		{
			"UPDATE content SET digest = REVERSE(digest)", "UPDATE content SET digest = REVERSE(digest)",
			"the content of 1 file in version is lost",
		},
		{
			"INSERT INTO content (digest, bytes, created_at) VALUES (REPEAT('a', 64), 0, NOW() - INTERVAL 4 DAY)",
			"DELETE FROM content WHERE digest = REPEAT('a', 64)", "1 content belong to nothing",
		},
		{
			"UPDATE enrolment SET clock_offset_ms = 40000", "UPDATE enrolment SET clock_offset_ms = 0",
			"differs from this machine's by 40s",
		},
		{"UPDATE site SET notice = 'It is down.'", "UPDATE site SET notice = ''", "for 2 of 2 students: It is down."},
		{
			"UPDATE site SET token = CONCAT('v1:', REVERSE(SUBSTRING(token, 4)))",
			"UPDATE site SET token = CONCAT('v1:', REVERSE(SUBSTRING(token, 4)))", "cannot be read",
		},
	} {
		t.Run(c.want, func(t *testing.T) {
			_, err := w.DB.SQL.Exec(c.does)
			require.NoError(t, err)
			bad, _ := look(t, w)
			require.Len(t, bad, 1)
			assert.Contains(t, bad[0], c.want)
			_, err = w.DB.SQL.Exec(c.undoes)
			require.NoError(t, err)
		})
	}
	bad, _ = look(t, w)
	assert.Empty(t, bad, "and well again")
}

// dump writes rows as text.
func dump(t *testing.T, db *mariadb.DB, query string) string {
	rows, err := db.SQL.Query(query)
	require.NoError(t, err)
	defer rows.Close()
	var out strings.Builder
	for rows.Next() {
		var a, b string
		require.NoError(t, rows.Scan(&a, &b))
		fmt.Fprintln(&out, a, b)
	}
	require.NoError(t, rows.Err())
	return out.String()
}

// A backup is made while work goes on, is restored, and every receipt and digest in it is as it was.
func TestARestoreIsRehearsed(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	for n := range 3 {
		a := worldtest.Essay()
		a.Key, a.Title, a.Sheet.Name = fmt.Sprint("e", n), fmt.Sprint("Essay ", n), ""
		id := w.Publish(a)
		w.Add(id, "Quintal_HYD214_chart-datum.txt", []byte(strings.Repeat(fmt.Sprint("An essay ", n, ". "), 100_000*n+1)))
		w.Send(id)
	}
	const receipts = "SELECT submission_id, CONCAT(received, proof, agrees) FROM ledger ORDER BY 1 LIMIT 3"
	const files = "SELECT v.id, v.digest FROM version v JOIN content c ON c.digest = v.digest ORDER BY 1 LIMIT 3"
	before := dump(t, w.DB, receipts) + dump(t, w.DB, files)
	require.Contains(t, before, "APC-2026-000003")

	// Another student goes on adding files and removing them.
	var added atomic.Int64
	working, stop := context.WithCancel(ctx)
	var all sync.WaitGroup
	all.Go(func() {
		store := contents.Store{DB: w.DB.SQL}
		for n := 0; working.Err() == nil; n++ {
			digest, _, err := store.Put(working, strings.NewReader(strings.Repeat(fmt.Sprint(n), 300_000)))
			if err != nil {
				break
			}
			_, err = w.DB.SQL.ExecContext(working, "INSERT INTO version (student_id, name, digest, bytes, kind, facts, body, "+
				"created_at) VALUES (?, ?, ?, 1, 'txt', '{}', '', NOW())", w.Student, fmt.Sprint(n), digest)
			if err != nil {
				break
			}
			added.Add(1)
		}
	})
	require.Eventually(t, func() bool { return added.Load() > 3 }, 10*time.Second, time.Millisecond)
	source := mariadbtest.Source(t)
	var name string
	require.NoError(t, w.DB.SQL.QueryRow("SELECT DATABASE()").Scan(&name))
	file := filepath.Join(t.TempDir(), "all.sql.gz")
	told := int64(0)
	temporary := t.TempDir()
	t.Setenv("TMPDIR", temporary)
	require.NoError(t, mariadb.Backup(ctx, source, name, file, func(n int64) {
		told = n
		left, err := os.ReadDir(temporary)
		require.NoError(t, err)
		assert.Empty(t, left, "nothing with a password in it is there to be left")
	}))
	stop()
	all.Wait()
	info, err := os.Stat(file)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode())
	assert.Equal(t, info.Size(), told)

	into := name + "_back"
	t.Cleanup(func() { _, _ = w.DB.SQL.Exec("DROP DATABASE IF EXISTS " + into) })
	require.NoError(t, mariadb.Restore(ctx, source, into, file))
	back, err := mariadb.Open(ctx, source, into, mariadb.Migrations())
	require.NoError(t, err)
	defer back.Close()
	assert.Equal(t, before, dump(t, back, receipts)+dump(t, back, files))
	n, err := contents.Store{DB: back.SQL}.Verify(ctx)
	require.NoError(t, err)
	assert.GreaterOrEqual(t, n, 6)
	var torn int
	require.NoError(t, back.SQL.QueryRow("SELECT COUNT(*) FROM version v LEFT JOIN content c ON c.digest = v.digest "+
		"WHERE c.id IS NULL").Scan(&torn))
	assert.Zero(t, torn, "no file without its content, whatever went on meanwhile")
	_, err = back.SQL.Exec("UPDATE content_chunk SET data = CONCAT('x', SUBSTRING(data, 2)) LIMIT 1")
	require.NoError(t, err)
	_, err = contents.Store{DB: back.SQL}.Verify(ctx)
	assert.ErrorContains(t, err, "is not what it was")

	// What must not happen does not.
	assert.ErrorContains(t, mariadb.Restore(ctx, source, into, file), "is not empty")
	assert.ErrorContains(t, mariadb.Backup(ctx, source, name, file, func(int64) {}), "is there already")
	broken := filepath.Join(t.TempDir(), "broken")
	for what, spoil := range map[string]func([]byte) []byte{
		"cut off":        func(b []byte) []byte { return b[:len(b)/2] },
		"no backup":      func([]byte) []byte { return []byte("hello") },
		"empty":          func([]byte) []byte { return nil },
		"not a dump":     func([]byte) []byte { return gzipped(t, "SELECT 1;\n") },
		"ended half-way": func([]byte) []byte { return gzipped(t, "-- Dump completed\nSELECT 1;\n") },
	} {
		whole, err := os.ReadFile(file)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(broken, spoil(whole), 0o600))
		assert.Error(t, mariadb.Restore(ctx, source, into+"2", broken), what)
		var there int
		require.NoError(t, w.DB.SQL.QueryRow("SELECT COUNT(*) FROM information_schema.schemata WHERE schema_name = ?",
			into+"2").Scan(&there))
		assert.Zero(t, there, "%s: nothing was touched", what)
	}
	cancelled, cancel := context.WithCancel(ctx)
	cancel()
	aside := t.TempDir()
	require.Error(t, mariadb.Backup(cancelled, source, name, filepath.Join(aside, "x"), func(int64) {}))
	left, err := os.ReadDir(aside)
	require.NoError(t, err)
	assert.Empty(t, left)
}

func gzipped(t *testing.T, text string) []byte {
	var out strings.Builder
	w := gzip.NewWriter(&out)
	_, err := io.WriteString(w, text)
	require.NoError(t, err)
	require.NoError(t, w.Close())
	return []byte(out.String())
}

func TestANewerSchemaIsRefused(t *testing.T) {
	db := mariadbtest.Orario(t)
	ctx := context.Background()
	source, name := mariadbtest.Source(t), ""
	require.NoError(t, db.SQL.QueryRow("SELECT DATABASE()").Scan(&name))
	_, err := db.SQL.Exec("INSERT INTO goose_db_version (version_id, is_applied) VALUES (99, TRUE)")
	require.NoError(t, err)
	_, err = mariadb.Open(ctx, source, name, mariadb.Migrations())
	assert.ErrorContains(t, err, "has schema 99, made by a newer program")
}

func TestOnlyTheDemoIsLoadedAnew(t *testing.T) {
	db := mariadbtest.Orario(t)
	ctx := context.Background()
	source, name := mariadbtest.Source(t), ""
	require.NoError(t, db.SQL.QueryRow("SELECT DATABASE()").Scan(&name))
	_, err := db.AddStudent(ctx, query.AddStudentParams{Email: "a@alvarim.example", Zone: "UTC"})
	require.NoError(t, err)
	assert.ErrorContains(t, mariadb.DropDemo(ctx, source, name), "other accounts")
	_, err = db.SQL.Exec("UPDATE student SET demo = TRUE")
	require.NoError(t, err)
	require.NoError(t, mariadb.DropDemo(ctx, source, name))
	require.NoError(t, mariadb.DropDemo(ctx, source, name), "twice")
	assert.ErrorContains(t, mariadb.DropDemo(ctx, source, "x; DROP"), "no name")
	again, err := mariadb.Open(ctx, source, name, mariadb.Migrations()) // which the test then cleans up
	require.NoError(t, err)
	require.NoError(t, again.Close())
}
