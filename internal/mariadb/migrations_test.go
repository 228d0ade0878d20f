package mariadb_test

import (
	"context"
	"database/sql"
	"fmt"
	"io/fs"
	"path"
	"regexp"
	"strings"
	"testing"

	"github.com/go-sql-driver/mysql"
	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/internal/campus"
	"orario/internal/mariadb"
	"orario/internal/mariadb/mariadbtest"
	"orario/internal/mariadb/query"
)

// old fills the schema of migration 3: a site's assignment that was sent once and is prepared again, one of the student's own
// in three parts of which one is noted as sent and one has an extension, and one whose extension is for a part that is
// not there any more.
const old = `
INSERT INTO student (id, email, password_hash, family, given, number, zone, feed_token) VALUES (1, 'n@alvarim.example', 'x', 'Quintal', 'Nerea', '20418', 'Europe/Lisbon', 'secret'), (2, 'r@alvarim.example', 'x', 'Rui', 'R', '20419', 'Europe/Lisbon', ''), (3, 's@alvarim.example', 'x', 'S', 'S', '20420', 'UTC', '');
INSERT INTO site (id, student_id, name, base_url, token, public_key, clock_offset_ms) VALUES (4, 1, 'Campus', 'http://a.example', 't', 'KEY4', 3600000), (5, 2, 'Campus', 'http://a.example', 't', 'KEY5', 0), (6, 2, 'Other', 'http://b.example', 't', '', 0);
INSERT INTO course (id, student_id, site_id, site_key, code, title, zone, instructor) VALUES (10, 1, 4, 'HYD', 'HYD 214', 'Hydrography', 'Europe/Lisbon', ''), (11, 1, NULL, '', 'OWN 1', 'Own', 'Atlantic/Azores', '');
INSERT INTO assignment (id, student_id, course_id, site_key, source, title, instructions, opens, due, closes, grace_minutes, late, points, weight, sheet, first_report_minutes, later_report_minutes, due_was, parts, extension, noted) VALUES
 (20, 1, 10, 'lab', 'site', 'Lab', 'Do it.', '2026-11-01T08:00', '2026-11-27T23:59', '2026-11-30T23:59', 5, '{"kind":"none"}', 20, 10, '{}', 60, 1440, '2026-11-20T23:59', '[]', '{"granted":"2026-11-20T10:00:00.123Z","due":"2026-11-29T12:00","note":"ill","proof":30}', '{}'),
 (21, 1, 11, 'k1', 'own', 'Portfolio', '', '', '2026-11-10T17:00', '', 0, '{"kind":"none"}', 20, 0, '{}', 60, 1440, '',
  '[{"name":"sketch","opens":"","due":"2026-11-10T17:00","closes":""},{"name":"list","opens":"2026-11-11T08:00","due":"2026-12-03T17:00","closes":"2026-12-04T17:00"},{"name":"","opens":"","due":"2026-12-09T17:00","closes":""}]',
  '{"asked":"2026-11-21T09:00:00Z","part":"list"}', '{"at":"2026-11-11T18:30:00Z","parts":["sketch"],"note":"on paper"}'),
 (22, 1, 11, 'k2', 'own', 'Log', '', '', '2026-12-01T17:00', '', 0, '{"kind":"none"}', 0, 0, '{}', 60, 1440, '', '[]', '{"granted":"2026-11-20T10:00:00Z","due":"2026-12-05T17:00","part":"gone","note":"kept"}', '{"at":"2026-11-25T08:00:00Z","note":"by mail"}');
INSERT INTO version (id, student_id, name, digest, bytes, kind, facts, body, created_at) VALUES (30, 1, 'a.pdf', REPEAT('a', 64), 3, 'pdf', '{}', '', NOW(3)), (31, 1, 'b.pdf', REPEAT('b', 64), 4, 'pdf', '{}', '', NOW(3));
INSERT INTO item (id, student_id, assignment_id, attempt, slot, name, version_id) VALUES (40, 1, 20, 1, 'report', 'a.pdf', 30), (41, 1, 20, 2, 'report', 'b.pdf', 31), (42, 1, 21, 1, 'work', 'b.pdf', 31);
INSERT INTO submission (id, student_id, assignment_id, attempt, idempotency_key, state, declared, comment, started_at, total_bytes, number, accepted_at) VALUES
 (50, 1, 20, 1, 'k0', 'refused', 1, '', '2026-11-18 10:00:00', 3, '', NULL), (51, 1, 20, 1, 'k1', 'accepted', 1, 'c', '2026-11-19 10:00:00', 3, 'N-1', '2026-11-19 10:00:01');
INSERT INTO submission_file (submission_id, n, version_id, slot, name, digest, bytes) VALUES (51, 0, 30, 'report', 'a.pdf', REPEAT('a', 64), 3);
INSERT INTO ledger (student_id, submission_id, receipt, proof, recorded_at) VALUES (1, 51, '{"number": "N-1", "key": "key-1"}', '{"agrees": true}', NOW(3));
INSERT INTO report (submission_id, student_id, state, share, body, handled) VALUES (51, 1, 'ready', 0.2, '{}', '{"3":"fixed","12":"not_mine","4":""}');
INSERT INTO upload (id, owner, bytes, at, metadata, digest) VALUES ('HALF', '1', 9, 4, '{}', NULL), ('WHOLE', '1', 3, 3, '{}', REPEAT('a', 64));
INSERT INTO content (id, digest, bytes) VALUES (7, REPEAT('a', 64), 3)`

func TestDataOfTheOldSchemaMigratesWithoutLoss(t *testing.T) {
	db := empty(t)
	ctx := context.Background()
	files, err := fs.Sub(mariadb.Migrations(), "migrations")
	require.NoError(t, err)
	provider, err := goose.NewProvider(goose.DialectMySQL, db, files)
	require.NoError(t, err)
	_, err = provider.UpTo(ctx, 3)
	require.NoError(t, err)
	for statement := range strings.SplitSeq(old, ";\n") {
		_, err := db.ExecContext(ctx, statement)
		require.NoError(t, err, statement)
	}
	_, err = provider.UpTo(ctx, 4)
	require.NoError(t, err)
	// A migration that broke off after its last statement is run again from its first.
	_, err = db.ExecContext(ctx, "DELETE FROM goose_db_version WHERE version_id = 4")
	require.NoError(t, err)
	_, err = provider.Up(ctx)
	require.NoError(t, err)

	for _, c := range []struct{ name, query, want string }{
		{
			"an enrolment for each site",
			"SELECT student_id, institution, number, family, given, clock_offset_ms FROM enrolment ORDER BY id",
			"1 Campus 20418 Quintal Nerea 3600000; 2 Campus 20419 Rui R 0; 2 Other 20419 Rui R 0",
		},
		{
			"courses know theirs",
			"SELECT c.code, e.number FROM course c LEFT JOIN enrolment e ON e.id = c.enrolment_id ORDER BY c.id",
			"HYD 214 20418; OWN 1 -",
		},
		{
			"keys by their ids",
			"SELECT site_id, key_id, public_key FROM site_key ORDER BY site_id",
			"4 key-1 KEY4; 5  KEY5",
		},
		{"parts", "SELECT assignment_id, n, name, opens, due, closes, grace_minutes, due_was FROM part ORDER BY assignment_id, n",
			"20 1  2026-11-01T08:00 2026-11-27T23:59 2026-11-30T23:59 5 2026-11-20T23:59; 21 1 sketch  2026-11-10T17:00  0 ; 21 2 list 2026-11-11T08:00 2026-12-03T17:00 2026-12-04T17:00 0 ; 21 3 part 3  2026-12-09T17:00  0 ; 22 1   2026-12-01T17:00  0 "},
		{"extensions stay with their parts", "SELECT p.assignment_id, p.name, e.asked_at, e.granted_at, e.due, e.note, e.version_id FROM extension e JOIN part p ON p.id = e.part_id ORDER BY p.assignment_id, p.n",
			"20  - 2026-11-20 10:00:00.123 2026-11-29T12:00 ill 30; 21 list 2026-11-21 09:00:00.000 -   -; 22  - - 2026-12-05T17:00 kept -"},
		{
			"notes that it was sent",
			"SELECT p.assignment_id, p.name, n.at, n.note FROM noted n JOIN part p ON p.id = n.part_id ORDER BY " +
				"p.assignment_id, p.n",
			"21 sketch 2026-11-11 18:30:00.000 on paper; 22  2026-11-25 08:00:00.000 by mail",
		},
		{
			"attempts",
			"SELECT p.assignment_id, p.n, t.number, t.state FROM attempt t JOIN part p ON p.id = t.part_id ORDER " +
				"BY p.assignment_id, p.n, t.number",
			"20 1 1 sent; 20 1 2 preparing; 21 1 1 preparing; 21 2 1 preparing; 21 3 1 preparing; 22 1 1 preparing",
		},
		{
			"items lie in their attempts",
			"SELECT i.id, p.assignment_id, p.name, t.number, i.name FROM item i JOIN attempt t ON t.id = " +
				"i.attempt_id JOIN part p ON p.id = t.part_id ORDER BY i.id",
			"40 20  1 a.pdf; 41 20  2 b.pdf; 42 21 list 1 b.pdf",
		},
		{
			"submissions",
			"SELECT s.id, t.number, s.state, s.number FROM submission s JOIN attempt t ON t.id = s.attempt_id " +
				"ORDER BY s.id",
			"50 1 refused ; 51 1 accepted N-1",
		},
		{"receipts as they came", "SELECT submission_id, received, key_id, agrees FROM ledger", `51 {"number": "N-1", "key": "key-1"} key-1 1`},
		{"what was done about passages", "SELECT n, handled FROM passage ORDER BY n", "3 fixed; 12 not_mine"},
		{"finished uploads", "SELECT id, content_id FROM upload", "WHOLE 7"},
		{
			"links of calendars, by their digests",
			"SELECT id, feed_digest = SHA2('secret', 256) FROM student ORDER BY id",
			"1 1; 2 -; 3 -",
		},
	} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, listed(t, db, c.query)) })
	}
}

// A migration is killed after each of its statements, and begun again from its first, as many times as it has statements,
// each time one further: then it is whole, and nothing is there twice.
func TestAMigrationCanBreakOffAnywhere(t *testing.T) {
	ctx := context.Background()
	for name, from := range map[string]fs.FS{"Orario": mariadb.Migrations(), "Campus": campus.Migrations} {
		t.Run(name, func(t *testing.T) {
			db := empty(t)
			files, err := fs.Sub(from, "migrations")
			require.NoError(t, err)
			provider, err := goose.NewProvider(goose.DialectMySQL, db, files)
			require.NoError(t, err)
			for _, source := range provider.ListSources() {
				text, err := fs.ReadFile(files, path.Base(source.Path))
				require.NoError(t, err)
				statements := statementsOf(string(text))
				require.NotEmpty(t, statements, source.Path)
				for killed := range statements {
					for _, statement := range statements[:killed+1] {
						_, err := db.ExecContext(ctx, statement)
						require.NoError(t, err, "%s, broken off after statement %d: %s", source.Path, killed+1, statement)
					}
				}
				_, err = provider.UpTo(ctx, source.Version)
				require.NoError(t, err)
				if name == "Orario" && source.Version == 2 {
					for statement := range strings.SplitSeq(begun, ";\n") {
						_, err := db.ExecContext(ctx, statement)
						require.NoError(t, err, statement)
					}
				}
				if name == "Orario" && source.Version == 3 {
					assert.Equal(t, "20 30", listed(t, db, "SELECT assignment_id, minutes FROM work"), "work is taken over once")
				}
			}
		})
	}
}

// begun fills the schema of migration 2 with half an hour of work on one of two assignments.
const begun = `INSERT INTO student (id, email, password_hash, family, given, number, zone) VALUES (1, 'n@alvarim.example', 'x', 'Quintal', 'Nerea', '20418', 'UTC');
INSERT INTO site (id, student_id, name, base_url, token) VALUES (4, 1, 'Campus', 'http://a.example', 't');
INSERT INTO course (id, student_id, site_id, site_key, code, title, zone, instructor) VALUES (10, 1, 4, 'HYD', 'HYD 214', 'Hydrography', 'UTC', '');
INSERT INTO assignment (id, student_id, course_id, site_key, title, instructions, opens, due, closes, grace_minutes, late, points, weight, sheet, first_report_minutes, later_report_minutes, done_minutes) VALUES
 (20, 1, 10, 'a', 'A', '', '', '2026-11-27T23:59', '', 0, '{"kind":"none"}', 20, 10, '{}', 60, 1440, 30), (21, 1, 10, 'b', 'B', '', '', '2026-11-27T23:59', '', 0, '{"kind":"none"}', 20, 10, '{}', 60, 1440, 0)`

// statementsOf parts a migration at its semicolons; none of ours stands within a statement.
func statementsOf(text string) (list []string) {
	for statement := range strings.SplitSeq(regexp.MustCompile(`(?m)--.*$`).ReplaceAllString(text, ""), ";") {
		if strings.TrimSpace(statement) != "" {
			list = append(list, statement)
		}
	}
	return list
}

// The table of versions itself can be what was made last.
func TestTheFirstStartCanBreakOffBeforeTheFirstMigration(t *testing.T) {
	name := "orario_test_first_start"
	config, err := mysql.ParseDSN(mariadbtest.Source(t))
	require.NoError(t, err)
	server, err := sql.Open("mysql", config.FormatDSN())
	require.NoError(t, err)
	defer server.Close()
	for _, statement := range []string{
		"DROP DATABASE IF EXISTS " + name, "CREATE DATABASE " + name,
		"CREATE TABLE " + name + ".goose_db_version (id serial NOT NULL, version_id bigint NOT NULL, is_applied boolean NOT NULL, " +
			"tstamp timestamp NULL DEFAULT now(), PRIMARY KEY (id))",
	} {
		_, err := server.Exec(statement)
		require.NoError(t, err)
	}
	db, err := mariadb.Open(context.Background(), mariadbtest.Source(t), name, mariadb.Migrations())
	require.NoError(t, err)
	defer db.Close()
	_, err = db.SQL.Exec("DROP DATABASE " + name)
	require.NoError(t, err)
}

// empty is a database without a schema.
func empty(t *testing.T) *sql.DB {
	config, err := mysql.ParseDSN(mariadbtest.Source(t))
	require.NoError(t, err)
	config.Params = map[string]string{"time_zone": "'+00:00'"}
	server, err := sql.Open("mysql", config.FormatDSN())
	require.NoError(t, err)
	name := "orario_test_migrate_" + strings.ToLower(regexp.MustCompile(`\W`).ReplaceAllString(t.Name(), ""))[4:]
	for _, statement := range []string{"DROP DATABASE IF EXISTS " + name, "CREATE DATABASE " + name} {
		_, err := server.Exec(statement)
		require.NoError(t, err)
	}
	config.DBName = name
	db, err := sql.Open("mysql", config.FormatDSN())
	require.NoError(t, err)
	t.Cleanup(func() {
		db.Close()
		_, err := server.Exec("DROP DATABASE " + name)
		require.NoError(t, err)
		server.Close()
	})
	return db
}

// listed writes the rows of a query: fields by spaces, rows by semicolons, "-" for null.
func listed(t *testing.T, db *sql.DB, query string) string {
	rows, err := db.Query(query)
	require.NoError(t, err)
	defer rows.Close()
	columns, err := rows.Columns()
	require.NoError(t, err)
	var out []string
	for rows.Next() {
		fields := make([]sql.NullString, len(columns))
		into := make([]any, len(columns))
		for i := range fields {
			into[i] = &fields[i]
		}
		require.NoError(t, rows.Scan(into...))
		var row []string
		for _, f := range fields {
			if !f.Valid {
				f.String = "-"
			}
			row = append(row, f.String)
		}
		out = append(out, strings.Join(row, " "))
	}
	require.NoError(t, rows.Err())
	return fmt.Sprint(strings.Join(out, "; "))
}

// Tokens from before are sealed once, and those that are sealed stay as they are.
func TestTokensAreSealedAtTheStart(t *testing.T) {
	db := mariadbtest.Orario(t)
	ctx := context.Background()
	id, err := db.AddStudent(ctx, query.AddStudentParams{Email: "a@alvarim.example", Zone: "UTC"})
	require.NoError(t, err)
	at, err := db.AddEnrolment(ctx, query.AddEnrolmentParams{StudentID: id, Zone: "UTC"})
	require.NoError(t, err)
	site, err := db.AddSite(ctx, query.AddSiteParams{StudentID: id, EnrolmentID: at, BaseUrl: "https://a", Token: "APC-1"})
	require.NoError(t, err)
	seals := 0
	seal := func(text string) (string, error) { seals++; return "v1:" + text, nil }
	for range 2 {
		require.NoError(t, db.SealTokens(ctx, seal))
	}
	kept, err := db.Site(ctx, site)
	require.NoError(t, err)
	assert.Equal(t, "v1:APC-1", kept.Token)
	assert.Equal(t, 1, seals)
}
