// Package takeout gives students all that Orario keeps of theirs, in open forms: a ZIP file with every row as JSON,
// every receipt as the site sent it, and every file.
package takeout

import (
	"archive/zip"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"time"

	"orario/internal/contents"
)

const readme = `Everything that Orario keeps of yours.

data/       every record, one JSON file per kind. Times are in UTC; due times are wall times in their course's zone.
receipts/   every receipt, byte by byte as the site sent it. "orario verify" proves them.
files/      every version of every file, under its number in data/version.json and its name.
bench/      what lies in the Workshop and was not taken yet, under its number in data/workpiece.json.
index.html  what the files are, and where each was sent; open it in a browser.

Left out are passwords, tokens and other secrets.
`

// tables are what is exported, with which rows are the student's.
var tables = []struct{ name, columns, rows string }{
	{"student", "id, email, family, given, number, zone, settings, created_at", "t.id = ?"},
	{"enrolment", "*", "t.student_id = ?"},
	{"site", "id, enrolment_id, name, base_url, synced_at, notice", "t.student_id = ?"},
	{"course", "*", "t.student_id = ?"},
	{"assignment", "*", "t.student_id = ?"},
	{"part", "*", "t.assignment_id IN (SELECT id FROM assignment WHERE student_id = ?)"},
	{"extension", "*", "t.part_id IN (SELECT p.id FROM part p JOIN assignment a ON a.id = p.assignment_id " +
		"WHERE a.student_id = ?)"},
	{"noted", "*", "t.part_id IN (SELECT p.id FROM part p JOIN assignment a ON a.id = p.assignment_id " +
		"WHERE a.student_id = ?)"},
	{"attempt", "*", "t.student_id = ?"},
	{"item", "*", "t.student_id = ?"},
	{"writing", "*", "t.student_id = ?"},
	{"workpiece", "*", "t.student_id = ?"},
	{"workpiece_file", "*", "t.workpiece_id IN (SELECT id FROM workpiece WHERE student_id = ?)"},
	{"version", "id, name, digest, bytes, kind, facts, made_from, created_at", "t.student_id = ?"},
	{"submission", "*", "t.student_id = ?"},
	{"submission_file", "*", "t.submission_id IN (SELECT id FROM submission WHERE student_id = ?)"},
	{"ledger", "id, submission_id, key_id, agrees, proof, recorded_at", "t.student_id = ?"},
	{"report", "*", "t.student_id = ?"},
	{"returned", "*", "t.student_id = ?"},
	{"passage", "*", "t.submission_id IN (SELECT id FROM submission WHERE student_id = ?)"},
	{"source", "*", "t.student_id = ?"},
	{"own_check", "*", "t.student_id = ?"},
	{"own_passage", "*", "t.attempt_id IN (SELECT id FROM attempt WHERE student_id = ?)"},
	{"work", "*", "t.student_id = ?"},
	{"pin", "*", "t.student_id = ?"},
	{"feed", "*", "t.student_id = ?"},
	{"busy", "*", "t.student_id = ?"},
	{"saved_view", "*", "t.student_id = ?"},
	{"reminder", "*", "t.student_id = ?"},
}

// Write writes a student's ZIP file, all of it as it was at one instant, while it is read.
func Write(ctx context.Context, db *sql.DB, student int64, w io.Writer) error {
	tx, err := db.BeginTx(ctx, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	if err != nil {
		return fmt.Errorf("beginning to read: %w", err)
	}
	defer tx.Rollback() //nolint:errcheck // nothing was written
	out := zip.NewWriter(w)
	if err := add(out, "README.txt", strings.NewReader(readme)); err != nil {
		return err
	}
	for _, t := range tables {
		rows, err := records(ctx, tx, "SELECT "+t.columns+" FROM "+t.name+" t WHERE "+t.rows+" ORDER BY 1", student)
		if err != nil {
			return fmt.Errorf("reading %s: %w", t.name, err)
		}
		text, err := json.MarshalIndent(rows, "", "  ")
		if err != nil {
			return err
		}
		if err := add(out, "data/"+t.name+".json", strings.NewReader(string(text))); err != nil {
			return err
		}
	}
	receipts, err := records(ctx, tx, "SELECT s.number, l.received FROM ledger l JOIN submission s ON "+
		"s.id = l.submission_id WHERE l.student_id = ? ORDER BY l.id", student)
	if err != nil {
		return fmt.Errorf("reading the receipts: %w", err)
	}
	for n, r := range receipts {
		name := fmt.Sprintf("receipts/%d-%s.json", n+1, plain(fmt.Sprint(r["number"])))
		if err := add(out, name, strings.NewReader(fmt.Sprint(r["received"]))); err != nil {
			return err
		}
	}
	versions, err := records(ctx, tx, "SELECT id, name, digest, made_from, created_at FROM version "+
		"WHERE student_id = ? ORDER BY id", student)
	if err != nil {
		return fmt.Errorf("reading the files: %w", err)
	}
	page, err := indexPage(ctx, tx, student, versions)
	if err == nil {
		err = add(out, "index.html", strings.NewReader(page))
	}
	if err != nil {
		return err
	}
	if err := addFiles(ctx, tx, db, student, versions, out); err != nil {
		return err
	}
	return out.Close()
}

// addFiles adds the versions of the Library, and what lies on the bench.
func addFiles(
	ctx context.Context, tx *sql.Tx, db *sql.DB, student int64, versions []map[string]any, out *zip.Writer,
) error {
	store := contents.Store{DB: db}
	for _, v := range versions {
		content, err := store.Open(ctx, fmt.Sprint(v["digest"]), 0)
		if err == nil {
			err = add(out, pathOf(v), content)
		}
		if err != nil {
			return fmt.Errorf("the file %v: %w", v["name"], err)
		}
	}
	made, err := records(ctx, tx, "SELECT f.workpiece_id, f.n, f.name, f.digest FROM workpiece_file f "+
		"JOIN workpiece w ON "+
		"w.id = f.workpiece_id WHERE w.student_id = ? ORDER BY 1, 2", student)
	if err != nil {
		return fmt.Errorf("reading the workpieces: %w", err)
	}
	for _, f := range made {
		content, err := store.Open(ctx, fmt.Sprint(f["digest"]), 0)
		if err == nil {
			name := fmt.Sprintf("bench/%v-%v-%s", f["workpiece_id"], f["n"], plain(fmt.Sprint(f["name"])))
			err = add(out, name, content)
		}
		if err != nil {
			return fmt.Errorf("the workpiece %v: %w", f["name"], err)
		}
	}
	return nil
}

// plain is a name that stays where it is put, on every system: without separators, drive letters and what no file
// system takes.
func plain(name string) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' || strings.ContainsRune(`/\:<>"|?*`, r) {
			return '-'
		}
		return r
	}, name)
}

func add(out *zip.Writer, name string, content io.Reader) error {
	to, err := out.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: time.Now()})
	if err == nil {
		_, err = io.Copy(to, content)
	}
	return err
}

// records reads rows by their columns' names.
func records(ctx context.Context, tx *sql.Tx, query string, args ...any) ([]map[string]any, error) {
	rows, err := tx.QueryContext(ctx, query, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	names, err := rows.Columns()
	if err != nil {
		return nil, err
	}
	list := []map[string]any{}
	for rows.Next() {
		values := make([]any, len(names))
		for i := range values {
			values[i] = new(any)
		}
		if err := rows.Scan(values...); err != nil {
			return nil, err
		}
		record := map[string]any{}
		for i, name := range names {
			record[name] = *values[i].(*any)
			if text, ok := record[name].([]byte); ok {
				record[name] = string(text)
				if len(text) > 0 && (text[0] == '{' || text[0] == '[') && name != "received" && json.Valid(text) {
					record[name] = json.RawMessage(text)
				}
			}
		}
		list = append(list, record)
	}
	return list, rows.Err()
}
