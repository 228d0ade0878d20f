// Package doctor looks at an installation and says what is not as it should be, and what to do about it.
package doctor

import (
	"context"
	"fmt"
	"maps"
	"os"
	"os/exec"
	"slices"
	"strings"
	"time"

	"orario/core/wording"
	"orario/internal/mariadb"
)

// A Finding is one thing that was looked at. Bad ones cost somebody something; the others only tell.
type Finding struct {
	Bad  bool
	Text string
}

// A Case is what is looked at.
type Case struct {
	DB     *mariadb.DB
	Unseal func(string) (string, error) // opens what is sealed
	Work   string                       // the folder for conversions
	Margin int64                        // bytes that stay free
	InUse  []string                     // the columns that refer to contents by digest, as "table.column"
	Now    time.Time
}

// stuckAfter is how late a job is that nobody seems to do.
const stuckAfter = 10 * time.Minute

// off is by how much a site's clock may differ before it is told.
const off = 30 * time.Second

// tools are the outside programs, with what does not work without them.
var tools = []struct{ program, without string }{
	{"bwrap", "no file can be looked at or converted"},
	{"prlimit", "no file can be looked at or converted"},
	{"soffice", "no document can be converted"},
	{"pandoc", "no Markdown can be laid out"},
	{"pdftotext", "the text of PDFs is not known"},
	{"pdftoppm", "pages of PDFs are neither read nor shown"},
	{"exiftool", "pictures, sound and film are not cleaned"},
	{"qpdf", "pages are neither joined, split nor written on"},
	{"gs", "PDFs are neither made smaller nor PDF/A"},
	{"ffprobe", "length and codec of sound and film are not known"},
	{"ffmpeg", "sound and film cannot be cut or made smaller"},
	{"heif-convert", "HEIC photographs cannot be converted"},
	{"tesseract", "pages cannot be made searchable"},
	{"mariadb-dump", "no backup can be made"},
	{"mariadb", "no backup can be restored"},
}

// Look looks at everything. An error says that looking itself failed.
func (c Case) Look(ctx context.Context) ([]Finding, error) {
	l := &look{Case: c}
	for _, step := range []func(context.Context) error{
		l.schema, l.space, l.jobs, l.contents, l.clocks, l.tokens,
	} {
		if err := step(ctx); err != nil {
			return l.found, err
		}
	}
	l.programs()
	l.permissions()
	return l.found, nil
}

type look struct {
	Case
	found []Finding
}

func (l *look) tell(bad bool, text string, args ...any) {
	l.found = append(l.found, Finding{bad, fmt.Sprintf(text, args...)})
}

func (l *look) count(ctx context.Context, query string, args ...any) (n int, err error) {
	if err = l.DB.SQL.QueryRowContext(ctx, query, args...).Scan(&n); err != nil {
		err = fmt.Errorf("asking the database: %w", err)
	}
	return n, err
}

// schema tells which one there is: one that does not fit is refused, or brought up to date, before this is reached.
func (l *look) schema(ctx context.Context) error {
	n, err := l.count(ctx, "SELECT MAX(version_id) FROM goose_db_version")
	l.tell(false, "the schema is number %d", n)
	return err
}

func (l *look) space(ctx context.Context) error {
	free, known := l.DB.Free(ctx)
	switch {
	case !known:
		l.tell(false, "the database runs on another machine, so its free space is not known here")
	case free < l.Margin:
		l.tell(true, "only %s are free where the database lies, so new files are refused; make room",
			wording.Bytes(free))
	default:
		l.tell(false, "%s are free where the database lies", wording.Bytes(free))
	}
	return nil
}

func (l *look) jobs(ctx context.Context) error {
	late := l.Now.UTC().Add(-stuckAfter)
	rows, err := l.DB.SQL.QueryContext(
		ctx,
		"SELECT kind, COUNT(*), MAX(tries), MAX(failure) FROM job WHERE run_at < ? "+
			"AND (taken_until IS NULL OR taken_until < ?) GROUP BY kind",
		late,
		l.Now.UTC(),
	)
	if err != nil {
		return fmt.Errorf("asking for jobs: %w", err)
	}
	defer rows.Close()
	stuck := false
	for rows.Next() {
		var kind, failure string
		var n, tries int
		if err := rows.Scan(&kind, &n, &tries, &failure); err != nil {
			return err
		}
		stuck = true
		l.tell(true, "%s of kind %q wait for over %s (tried %s, last: %s); is orario serve running?",
			wording.Count(n, "job", "jobs"), kind, stuckAfter, wording.Count(tries, "time", "times"), failure)
	}
	if err := rows.Err(); err != nil {
		return err
	}
	if !stuck {
		l.tell(false, "no job is stuck")
	}
	n, err := l.count(ctx, "SELECT COUNT(*) FROM job WHERE tries >= 5")
	if n > 0 {
		l.tell(true, "%s failed five times or more and are still tried; the log says why",
			wording.Count(n, "job", "jobs"))
	}
	return err
}

// contents looks for rows whose content is lost, and for contents that nothing refers to and that purging forgot.
func (l *look) contents(ctx context.Context) error {
	unused := "c.digest IS NOT NULL AND c.created_at < ? AND NOT EXISTS (SELECT 1 FROM upload u " +
		"WHERE u.content_id = c.id)"
	for _, column := range l.InUse {
		table, name, _ := strings.Cut(column, ".")
		lost, err := l.count(ctx, fmt.Sprintf("SELECT COUNT(DISTINCT t.%s) FROM %s t LEFT JOIN content c ON "+
			"c.digest = t.%s WHERE c.id IS NULL", name, table, name))
		if err != nil {
			return err
		}
		if lost > 0 {
			l.tell(true, "the content of %s in %s is lost; restore it from a backup",
				wording.Count(lost, "file", "files"), table)
		}
		unused += fmt.Sprintf(" AND NOT EXISTS (SELECT 1 FROM %s t WHERE t.%s = c.digest)", table, name)
	}
	n, err := l.count(ctx, "SELECT COUNT(*) FROM content c WHERE "+unused, l.Now.UTC().AddDate(0, 0, -3))
	if err != nil {
		return err
	}
	if n > 0 {
		l.tell(
			true,
			"%s belong to nothing for over three days; purging seems not to run",
			wording.Count(n, "content", "contents"),
		)
	}
	all, err := l.count(ctx, "SELECT COUNT(*) FROM content WHERE digest IS NOT NULL")
	l.tell(false, "%s are kept", wording.Count(all, "content", "contents"))
	return err
}

func (l *look) clocks(ctx context.Context) error {
	rows, err := l.DB.SQL.QueryContext(ctx, "SELECT s.name, COUNT(*), SUM(ABS(e.clock_offset_ms) > ?), "+
		"CAST(COALESCE(MAX(NULLIF(e.clock_offset_ms, 0)), 0) AS SIGNED), SUM(s.notice <> ''), MAX(s.notice) "+
		"FROM site s JOIN enrolment e ON e.id = s.enrolment_id GROUP BY s.name ORDER BY s.name", off.Milliseconds())
	if err != nil {
		return fmt.Errorf("asking for sites: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var name, notice string
		var all, wrong, told int
		var ms int64
		if err := rows.Scan(&name, &all, &wrong, &ms, &told, &notice); err != nil {
			return err
		}
		if wrong > 0 {
			l.tell(true, "the clock of %s differs from this machine's by %s; one of the two is wrong", name,
				time.Duration(ms)*time.Millisecond)
		}
		if told == 1 && all == 1 {
			l.tell(true, "%s: %s", name, notice)
		} else if told > 0 {
			l.tell(true, "%s, for %d of %s: %s", name, told, wording.Count(all, "student", "students"), notice)
		}
	}
	return rows.Err()
}

func (l *look) tokens(ctx context.Context) error {
	rows, err := l.DB.SQL.QueryContext(ctx, "SELECT name, token FROM site ORDER BY name")
	if err != nil {
		return fmt.Errorf("asking for sites: %w", err)
	}
	defer rows.Close()
	sites := 0
	sealed := map[string]int{} // tokens that cannot be read, by site
	var why error
	for rows.Next() {
		var name, token string
		if err := rows.Scan(&name, &token); err != nil {
			return err
		}
		sites++
		if _, err := l.Unseal(token); err != nil {
			sealed[name]++
			why = err
		}
	}
	for _, name := range slices.Sorted(maps.Keys(sealed)) {
		l.tell(true, "%s of %s cannot be read: %v", wording.Count(sealed[name], "token", "tokens"), name, why)
	}
	l.tell(false, "%s connected", wording.Count(sites, "site is", "sites are"))
	return rows.Err()
}

func (l *look) programs() {
	lacking := false
	for _, t := range tools {
		if _, err := exec.LookPath(t.program); err != nil {
			lacking = true
			l.tell(true, "the program %s is not there: %s", t.program, t.without)
		}
	}
	if !lacking {
		l.tell(false, "all outside programs are there")
	}
}

func (l *look) permissions() {
	probe, err := os.CreateTemp(l.Work, "doctor-*")
	if err != nil {
		l.tell(true, "the folder for conversions cannot be written to: %v", err)
		return
	}
	_ = probe.Close()
	_ = os.Remove(probe.Name())
	l.tell(false, "the folder for conversions can be written to")
	if os.Geteuid() == 0 {
		l.tell(false, "it runs as root, whom the kernel does not hold to the number of processes that a program "+
			"may start; run Orario as a user of its own")
	}
}
