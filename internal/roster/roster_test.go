package roster_test

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"regexp"
	"slices"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	api "orario/internal/campus/campusapi"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/roster"
	"orario/internal/worldtest"
)

func read(t testing.TB, s roster.Store, student int64) *roster.Roster {
	t.Helper()
	r, err := roster.Read(context.Background(), s, student, time.Now())
	require.NoError(t, err)
	return r
}

// Every load is one instant's, whatever a sync commits between two of its queries: a course's assignments are there all
// or none, and a title never stands with the due time that came before it.
func TestALoadDuringASyncSeesOneInstant(t *testing.T) {
	w := worldtest.New(t)
	w.Publish(worldtest.Essay())
	ctx := context.Background()
	var done atomic.Bool
	finished := make(chan error, 1)
	go func() {
		defer done.Store(true)
		for n := range 60 {
			key := fmt.Sprintf("NEW%d", n/10)
			err := w.Campus.PublishCourse(ctx, api.Course{Key: key, Code: key, Title: "New", Zone: "Europe/Lisbon"})
			for m := 0; m < 4 && err == nil; m++ {
				a := worldtest.Essay()
				a.Course, a.Key, a.Title = key, fmt.Sprintf("essay%d", m), fmt.Sprint("2027-01-20T20:", 10+n%50)
				a.Due, a.Closes = a.Title, ""
				err = w.Campus.PublishAssignment(ctx, a)
			}
			if err == nil {
				_, err = w.Intake.Sync(ctx, query.Job{Subject: w.Site, StudentID: w.Student})
			}
			if err != nil {
				finished <- err
				return
			}
		}
		finished <- nil
	}()
	loads := 0
	for ; !done.Load(); loads++ {
		r := read(t, w.DB, w.Student)
		require.Empty(t, r.Troubles)
		in := map[string]int{}
		for _, a := range r.Assignments {
			require.NotNil(t, a.Course)
			require.NotEmpty(t, a.Parts)
			if in[a.Course.Key]++; a.Course.Key != "HYD214" {
				require.Equal(t, a.Title, a.Parts[0].Window.Due.At().In(a.Course.Zone).Format("2006-01-02T15:04"))
			}
		}
		for _, c := range r.Courses {
			if c.Key != "HYD214" {
				require.Equal(t, 4, in[c.Key], c.Key)
			}
		}
		_ = r.Plan()
	}
	require.NoError(t, <-finished)
	assert.Greater(t, loads, 20)
}

// counting is a store whose snapshots count queries and the rows that the server reads for them.
type counting struct {
	*mariadb.DB
	queries, rows int
}

func (c *counting) Snapshot(ctx context.Context, read func(*query.Queries) error) error {
	tx, err := c.SQL.BeginTx(ctx, &sql.TxOptions{ReadOnly: true})
	if err != nil {
		return err
	}
	defer tx.Rollback()
	before := status(ctx, tx)
	if err := read(query.New(tx)); err != nil {
		return err
	}
	after := status(ctx, tx)
	c.queries, c.rows = after["Com_select"]-before["Com_select"], 0
	for name, n := range after {
		if name != "Com_select" {
			c.rows += n - before[name]
		}
	}
	return nil
}

// status are the session's counters: MariaDB, "Server Status Variables", Handler_read_* and Com_select.
func status(ctx context.Context, tx *sql.Tx) map[string]int {
	rows, err := tx.QueryContext(
		ctx,
		"SHOW SESSION STATUS WHERE Variable_name IN ('Com_select', 'Handler_read_first', "+
			"'Handler_read_key', 'Handler_read_next', 'Handler_read_prev', 'Handler_read_rnd', "+
			"'Handler_read_rnd_next')",
	)
	if err != nil {
		panic(err)
	}
	defer rows.Close()
	out := map[string]int{}
	for rows.Next() {
		var name string
		var n int
		if err := rows.Scan(&name, &n); err != nil {
			panic(err)
		}
		out[name] = n
	}
	return out
}

// fill gives a student n assignments of her own, each with a part, a sent attempt of one file, a receipt, a report, a
// return and a job.
func fill(t testing.TB, db *mariadb.DB, student int64, n int) {
	var course int64
	for _, statement := range []string{
		fmt.Sprintf("INSERT INTO course (student_id, site_key, code, title, zone, instructor) VALUES (%d, 'fill', 'FILL 1', 'Fill', 'Europe/Lisbon', '')", student),
		fmt.Sprintf(`INSERT INTO assignment (student_id, course_id, site_key, title, instructions, late, points, weight, sheet, first_report_minutes, later_report_minutes, source)
			SELECT %d, LAST_INSERT_ID(), CONCAT('k', seq), CONCAT('Sheet ', seq), REPEAT('Read all of it. ', 40), '{"kind":"none"}', 20, 1, '{"slots":[{"name":"work","required":true}]}', 0, 0, 'own' FROM seq_1_to_%d`, student, n),
	} {
		_, err := db.SQL.Exec(statement)
		require.NoError(t, err)
	}
	require.NoError(t, db.SQL.QueryRow("SELECT MAX(id) FROM course WHERE student_id = ?", student).Scan(&course))
	for _, statement := range []string{
		"INSERT INTO part (assignment_id, n, name, opens, due, closes, grace_minutes) SELECT id, 1, '', '', " +
			"'2027-01-20T20:00', '', 0 FROM assignment WHERE course_id = ?",
		"INSERT INTO attempt (student_id, part_id, number, state) SELECT a.student_id, p.id, 1, 'sent' FROM part " +
			"p JOIN assignment a ON a.id = p.assignment_id WHERE a.course_id = ?",
		"INSERT INTO version (student_id, name, digest, bytes, kind, facts, body, created_at) SELECT student_id, " +
			"title, SHA2(id, 256), 10, 'txt', '{\"kind\":\"txt\",\"bytes\":10}', '', NOW(3) FROM assignment " +
			"WHERE course_id = ?",
		"INSERT INTO item (student_id, attempt_id, slot, name, version_id) SELECT t.student_id, t.id, 'work', " +
			"'a.txt', (SELECT MAX(v.id) FROM version v WHERE v.student_id = t.student_id) FROM attempt t JOIN " +
			"part p ON p.id = t.part_id JOIN assignment a ON a.id = p.assignment_id WHERE a.course_id = ?",
		"INSERT INTO submission (student_id, attempt_id, idempotency_key, state, declared, comment, started_at, " +
			"total_bytes, accepted_at) SELECT t.student_id, t.id, LEFT(UUID(), 26), 'accepted', 1, '', NOW(3), " +
			"10, NOW(3) FROM attempt t JOIN part p ON p.id = t.part_id JOIN assignment a ON a.id = " +
			"p.assignment_id WHERE a.course_id = ?",
		"INSERT INTO ledger (student_id, submission_id, received, agrees, proof, recorded_at) SELECT " +
			"s.student_id, s.id, '{}', 1, '{}', NOW(3) FROM submission s JOIN attempt t ON t.id = s.attempt_id " +
			"JOIN part p ON p.id = t.part_id JOIN assignment a ON a.id = p.assignment_id WHERE a.course_id = ?",
		"INSERT INTO report (submission_id, student_id, state, share, body) SELECT s.id, s.student_id, 'ready', " +
			"0.1, '{}' FROM submission s JOIN attempt t ON t.id = s.attempt_id JOIN part p ON p.id = t.part_id " +
			"JOIN assignment a ON a.id = p.assignment_id WHERE a.course_id = ?",
		"INSERT INTO returned (submission_id, student_id, mark, points, comments, invited) SELECT s.id, " +
			"s.student_id, 12, 20, '[]', 0 FROM submission s JOIN attempt t ON t.id = s.attempt_id JOIN part p " +
			"ON p.id = t.part_id JOIN assignment a ON a.id = p.assignment_id WHERE a.course_id = ?",
		"INSERT INTO job (kind, subject, student_id, run_at) SELECT 'return', s.id, s.student_id, NOW(3) FROM " +
			"submission s JOIN attempt t ON t.id = s.attempt_id JOIN part p ON p.id = t.part_id JOIN assignment " +
			"a ON a.id = p.assignment_id WHERE a.course_id = ?",
		"INSERT INTO event (student_id, kind, assignment_id, text) SELECT student_id, 'new', id, '' FROM " +
			"assignment WHERE course_id = ?",
	} {
		_, err := db.SQL.Exec(statement, course)
		require.NoError(t, err, statement)
	}
	_, err := db.SQL.Exec(
		"ANALYZE TABLE assignment, part, attempt, item, version, submission, ledger, report, returned, job, event",
	)
	require.NoError(t, err)
}

// A load reads a student's own rows and no others: with two thousand assignments of somebody else beside them it reads
// about as many as before. A query without a usable index on the student would read thousands.
func TestALoadReadsNobodyElsesRows(t *testing.T) {
	w := worldtest.New(t)
	id := w.Publish(worldtest.Essay())
	w.Add(id, "Quintal_HYD214_chart-datum.txt", []byte("A chart datum is a promise."))
	w.Send(id)
	other, _ := w.AddStudent("20419", "rui@alvarim.example")
	fill(t, w.DB, w.Student, 20)

	c := &counting{DB: w.DB}
	read(t, c, w.Student)
	alone := c.rows
	require.Greater(t, alone, 20)
	fill(t, w.DB, other, 2000)
	c = &counting{DB: w.DB} // of which nothing is kept
	read(t, c, w.Student)
	assert.Greater(t, c.rows, alone/2)
	assert.Less(t, c.rows, 2*alone) // the server may join in another order
	assert.LessOrEqual(t, c.queries, 16)
	read(t, c, other)
	assert.Greater(t, c.rows, 2000*8, "the counters count")
	assert.LessOrEqual(t, c.queries, 16, "a hundred times the assignments, no query more")
	read(t, c, other)
	assert.Equal(t, 1, c.queries, "nothing has changed since")
}

// A roster is kept as long as nothing is noted as changed, so every change of a row in each table that it is read from
// has to be noted, whoever makes it.
func TestWhateverChangesIsSeen(t *testing.T) {
	w := worldtest.New(t)
	id := w.Publish(worldtest.Essay())
	w.Add(id, "Quintal_HYD214_chart-datum.txt", []byte("A chart datum is a promise."))
	w.Send(id)
	other, _ := w.AddStudent("20419", "rui@alvarim.example")
	for _, statement := range []string{
		"INSERT INTO report (submission_id, student_id, state, share, body) SELECT id, student_id, 'ready', 0.1, '{}' FROM submission LIMIT 1",
		"INSERT INTO returned (submission_id, student_id, points, comments, invited) SELECT id, student_id, 20, '[]', 0 FROM submission LIMIT 1",
		"INSERT INTO pin (student_id, assignment_id, start_at, end_at) SELECT student_id, id, NOW(), NOW() FROM assignment LIMIT 1",
		"INSERT INTO work (student_id, assignment_id, at, minutes) SELECT student_id, id, NOW(), 5 FROM assignment LIMIT 1",
		"INSERT INTO extension (part_id) SELECT id FROM part LIMIT 1",
		"INSERT INTO noted (part_id, at) SELECT id, NOW() FROM part LIMIT 1",
		"INSERT INTO handout (assignment_id, name, digest, bytes) SELECT id, 'h.txt', REPEAT('a', 64), 1 FROM assignment LIMIT 1",
		"INSERT INTO feed (student_id, name, url) SELECT id, 'f', '' FROM student LIMIT 1",
		"INSERT INTO busy (student_id, feed_id, title, start_at, end_at) SELECT student_id, id, 'b', NOW(), NOW() FROM feed LIMIT 1",
	} {
		changes(t, w, other, statement)
	}
	text, err := os.ReadFile("../mariadb/queries/roster.sql")
	require.NoError(t, err)
	tables := map[string]bool{}
	for _, found := range regexp.MustCompile(`(?:FROM|JOIN) ([a-z_]+)`).FindAllStringSubmatch(string(text), -1) {
		tables[found[1]] = true
	}
	delete(tables, "touched")
	assert.GreaterOrEqual(t, len(tables), 19)
	for table := range tables {
		t.Run(table, func(t *testing.T) {
			column := "student_id"
			switch table {
			case "student":
				column = "id"
			case "part", "handout":
				column = "assignment_id"
			case "extension", "noted":
				column = "part_id"
			}
			changes(t, w, other, fmt.Sprintf("UPDATE %s SET %s = %[2]s LIMIT 1", table, column))
			leaves := []string{"ledger", "report", "returned", "handout", "work", "pin", "busy", "extension", "noted", "item"}
			if slices.Contains(leaves, table) {
				changes(t, w, other, fmt.Sprintf("DELETE FROM %s LIMIT 1", table))
			}
		})
	}
}

// changes runs a statement that concerns the student, and sees that it is noted for her and for nobody else.
func changes(t *testing.T, w *worldtest.World, other int64, statement string) {
	t.Helper()
	ctx := context.Background()
	before, err := w.DB.Touched(ctx, w.Student)
	require.NoError(t, err)
	others, err := w.DB.Touched(ctx, other)
	require.NoError(t, err)
	result, err := w.DB.SQL.Exec(statement)
	require.NoError(t, err, statement)
	n, err := result.RowsAffected()
	require.NoError(t, err)
	require.NotZero(t, n, statement)
	after, err := w.DB.Touched(ctx, w.Student)
	require.NoError(t, err)
	assert.NotEqual(t, before, after, statement)
	still, err := w.DB.Touched(ctx, other)
	require.NoError(t, err)
	assert.Equal(t, others, still, statement)
}

// What goes with another row goes without a trigger of its own, so that the other's must be there.
func TestWhatTakesWatchedRowsWithItIsWatched(t *testing.T) {
	w := worldtest.New(t)
	rows, err := w.DB.SQL.Query("SELECT table_name, referenced_table_name FROM information_schema.referential_constraints " +
		"WHERE constraint_schema = DATABASE() AND delete_rule <> 'RESTRICT' AND table_name IN " +
		"(SELECT event_object_table FROM information_schema.triggers WHERE trigger_schema = DATABASE()) AND referenced_table_name NOT IN " +
		"(SELECT event_object_table FROM information_schema.triggers WHERE trigger_schema = DATABASE() AND event_manipulation = 'DELETE')")
	require.NoError(t, err)
	defer rows.Close()
	for rows.Next() {
		var table, by string
		require.NoError(t, rows.Scan(&table, &by))
		assert.Fail(t, table+" rows go with those of "+by+" unnoticed")
	}
	require.NoError(t, rows.Err())
}

func TestOldNotesGoAndTheRosterIsReadAgain(t *testing.T) {
	w := worldtest.New(t)
	id := w.Publish(worldtest.Essay())
	before := read(t, w.DB, w.Student)
	_, err := w.DB.SQL.Exec("UPDATE assignment SET title = 'Tides' WHERE id = ?", id)
	require.NoError(t, err)
	_, err = w.DB.SQL.Exec("UPDATE touched SET at = '2020-01-01'")
	require.NoError(t, err)
	_, err = w.DB.Purge(context.Background(), time.Now())
	require.NoError(t, err)
	assert.Equal(t, "Tides", read(t, w.DB, w.Student).Assignment(id).Title)
	assert.Equal(t, "Chart datum", before.Assignment(id).Title, "what was read stays as it was read")
}

func TestBusyTimesEndWhileNothingChanges(t *testing.T) {
	w := worldtest.New(t)
	end := time.Now().UTC().Add(time.Hour)
	_, err := w.DB.SQL.Exec("INSERT INTO feed (student_id, name, url) VALUES (?, 'f', '')", w.Student)
	require.NoError(t, err)
	_, err = w.DB.SQL.Exec("INSERT INTO busy (student_id, feed_id, title, start_at, end_at) "+
		"SELECT student_id, id, 'Choir', ?, ? FROM feed", end.Add(-time.Hour), end)
	require.NoError(t, err)
	for _, c := range []struct {
		now  time.Time
		want int
	}{{end.Add(-time.Minute), 1}, {end.Add(time.Minute), 0}, {end.Add(-2 * time.Minute), 1}} {
		r, err := roster.Read(context.Background(), w.DB, w.Student, c.now)
		require.NoError(t, err)
		assert.Len(t, r.Busy, c.want, c.now)
		assert.Equal(t, c.now, r.Now)
	}
}

// Whether a newer version lies in the Library is looked up by its name, and not among all files of the student.
func TestNewerVersionsAreLookedUpByName(t *testing.T) {
	w := worldtest.New(t)
	fill(t, w.DB, w.Student, 200)
	_, err := w.DB.SQL.Exec("UPDATE attempt SET state = 'preparing'")
	require.NoError(t, err)
	_, err = w.DB.SQL.Exec("UPDATE item i JOIN attempt t ON t.id = i.attempt_id JOIN part p ON p.id = t.part_id JOIN " +
		"assignment a ON a.id = p.assignment_id JOIN version v ON v.name = a.title SET i.version_id = v.id")
	require.NoError(t, err)
	c := &counting{DB: w.DB}
	read(t, c, w.Student)
	assert.Less(t, c.rows, 200*60)
}

// The calendar's address is open to everybody, so looking for its token must not cost a walk through all students.
func TestAStrangersTokenCostsOneLook(t *testing.T) {
	w := worldtest.New(t)
	_, err := w.DB.SQL.Exec("INSERT INTO student (email, password_hash, family, given, number, zone) " +
		"SELECT CONCAT(seq, '@alvarim.example'), '', 'F', 'G', seq, 'UTC' FROM seq_1_to_3000")
	require.NoError(t, err)
	c := &counting{DB: w.DB}
	require.NoError(t, c.Snapshot(context.Background(), func(q *query.Queries) error {
		_, err := q.StudentByFeed(context.Background(), sql.NullString{String: "nobody's", Valid: true})
		assert.ErrorIs(t, err, sql.ErrNoRows)
		return nil
	}))
	assert.Less(t, c.rows, 5)
}

func TestWhatCannotBeReadIsNamedAndTheRestIsShown(t *testing.T) {
	w := worldtest.New(t)
	w.Publish(worldtest.Essay())
	second := worldtest.Essay()
	second.Key, second.Title = "second", "Tide gauges"
	w.Publish(second)
	for _, c := range []struct{ name, spoil string }{
		{
			"a due time that is none",
			"UPDATE part p JOIN assignment a ON a.id = p.assignment_id SET p.due = 'soon' WHERE a.title = 'Tide " +
				"gauges'",
		},
		{
			"a late rule that is none",
			"UPDATE assignment SET late = '{\"kind\":\"sometimes\"}' WHERE title = 'Tide gauges'",
		},
		{"a sheet that is none", "UPDATE assignment SET sheet = '[1]' WHERE title = 'Tide gauges'"},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, err := w.DB.SQL.Exec(c.spoil)
			require.NoError(t, err)
			r := read(t, w.DB, w.Student)
			require.Len(t, r.Troubles, 1)
			assert.Contains(t, r.Troubles[0], "HYD 214 Tide gauges cannot be shown")
			require.Len(t, r.Assignments, 1)
			assert.Equal(t, "Chart datum", r.Assignments[0].Title)
			assert.Len(t, r.Plan().Entries, 1)
			w.Publish(second) // the site mends it
			assert.Len(t, read(t, w.DB, w.Student).Assignments, 2)
		})
	}
	t.Run("a course's zone that is none", func(t *testing.T) {
		_, err := w.DB.SQL.Exec("UPDATE course SET zone = 'Mars/Olympus'")
		require.NoError(t, err)
		r := read(t, w.DB, w.Student)
		assert.NotEmpty(t, r.Troubles)
		assert.Empty(t, r.Assignments)
	})
}

func TestNobodyIsNotFound(t *testing.T) {
	w := worldtest.New(t)
	_, err := roster.Read(context.Background(), w.DB, 999, time.Now())
	assert.ErrorIs(t, err, refusal.ErrNotFound)
	_, _, err = roster.Find(context.Background(), w.DB, w.Student, 999, 0, time.Now())
	assert.ErrorIs(t, err, refusal.ErrNotFound)
}

// BenchmarkLoad300 reads a student with three hundred assignments, each sent, with its report and its return.
func BenchmarkLoad300(b *testing.B) {
	w := worldtest.New(b)
	fill(b, w.DB, w.Student, 300)
	c := &counting{DB: w.DB}
	for b.Loop() {
		afresh := &struct{ roster.Store }{w.DB} // of which nothing is kept
		require.Len(b, read(b, afresh, w.Student).Assignments, 300)
	}
	b.StopTimer()
	read(b, c, w.Student)
	b.ReportMetric(float64(c.queries), "queries")
	b.ReportMetric(float64(c.rows), "rows")
}

// One assignment read alone stands as it does among all, but for the crowd of its due time.
func TestOneAssignmentStandsAloneAsAmongAll(t *testing.T) {
	w := worldtest.Planned(t)
	w.Clock(time.Now)
	ctx := context.Background()
	var ids []int64
	for n := range 3 {
		a := worldtest.Essay()
		a.Key, a.Title = fmt.Sprint("e", n), fmt.Sprint("Essay ", n)
		ids = append(ids, w.Publish(a))
		w.Add(ids[n], fmt.Sprintf("Quintal_HYD214_essay-%d.txt", n), []byte("One essay for all."))
	}
	w.Send(ids[1])
	now := time.Now()
	for _, id := range ids {
		_, among, err := roster.Find(ctx, w.DB, w.Student, id, 0, now)
		require.NoError(t, err)
		_, err = w.DB.SQL.Exec("UPDATE student SET seen_event = seen_event WHERE id = ?", w.Student) // so that it is read anew
		require.NoError(t, err)
		alone, err := roster.One(ctx, w.DB, w.Student, id, 0, now)
		require.NoError(t, err)
		alone.CrowdOf, alone.Crowded, alone.SendBy, alone.Because = among.CrowdOf, among.Crowded, among.SendBy, among.Because
		assert.Equal(t, among.Mark(), alone.Mark())
		assert.Equal(t, among.MaySend(true), alone.MaySend(true))
		assert.Equal(t, among.Findings, alone.Findings)
		assert.Equal(t, among.Part.Attempts, alone.Part.Attempts)
		strip, current := among.Strip()
		alike, same := alone.Strip()
		assert.Equal(t, strip, alike)
		assert.Equal(t, current, same)
	}
	_, err := roster.One(ctx, w.DB, w.Student, 999, 0, now)
	assert.ErrorIs(t, err, refusal.ErrNotFound)
	other, _ := w.AddStudent("20419", "rui@alvarim.example")
	_, err = roster.One(ctx, w.DB, other, ids[0], 0, now)
	assert.ErrorIs(t, err, refusal.ErrNotFound)
}
