package campus

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/receipt"
	"orario/core/timing"
	api "orario/internal/campus/campusapi"
	"orario/internal/mariadb"
)

// A refusal is the site's "no", with a code and a sentence that says what to do.
type refusal struct{ code, reason string }

func (r refusal) Error() string { return r.reason }

func refuse(code, reason string, args ...any) error {
	return refusal{code, fmt.Sprintf(reason, args...)}
}

// a draft as stored.
type draft struct {
	id         int64
	assignment string
}

func (c *Campus) openDraft(ctx context.Context, s Student, assignment, key string) (draft, error) {
	a, err := c.assignment(ctx, assignment)
	if errors.Is(err, sql.ErrNoRows) {
		return draft{}, refuse("unknown", "There is no assignment %q.", assignment)
	}
	if err != nil {
		return draft{}, err
	}
	now, err := c.now(ctx)
	if err != nil {
		return draft{}, err
	}
	window, err := c.window(ctx, a)
	if err != nil {
		return draft{}, err
	}
	if err := mayBeSent(a, window, now); err != nil {
		return draft{}, err
	}
	_, err = c.db.ExecContext(
		ctx,
		"INSERT IGNORE INTO draft (student_id, assignment_key, idempotency_key, created_at) VALUES (?, ?, ?, ?)",
		s.ID,
		assignment,
		key,
		now,
	)
	if err != nil {
		return draft{}, err
	}
	d := draft{assignment: assignment}
	err = c.db.QueryRowContext(ctx, "SELECT id FROM draft WHERE student_id = ? AND idempotency_key = ?", s.ID, key).
		Scan(&d.id)
	return d, err
}

func (c *Campus) window(ctx context.Context, a api.Assignment) (timing.Window, error) {
	course, err := c.course(ctx, a.Course)
	if err != nil {
		return timing.Window{}, fmt.Errorf("finding the course of %s: %w", a.Key, err)
	}
	return timing.ParseWindow(course.Zone, a.Opens, a.Due, a.Closes, a.GraceMinutes)
}

// draftFiles are the finished uploads of a draft, the latest for each slot and name.
func (c *Campus) draftFiles(ctx context.Context, s Student, id int64) ([]api.DraftFile, error) {
	rows, err := c.db.QueryContext(
		ctx,
		`SELECT JSON_VALUE(metadata, '$.slot'), JSON_VALUE(metadata, '$.filename'), bytes, digest FROM upload
		WHERE owner = ? AND draft = ? AND digest IS NOT NULL ORDER BY created_at, id`,
		s.Number,
		fmt.Sprint(id),
	)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	files := []api.DraftFile{}
	for rows.Next() {
		var f api.DraftFile
		if err := rows.Scan(&f.Slot, &f.Name, &f.Bytes, &f.Sha256); err != nil {
			return nil, err
		}
		files = slices.DeleteFunc(files, func(o api.DraftFile) bool { return o.Slot == f.Slot && o.Name == f.Name })
		files = append(files, f)
	}
	return files, rows.Err()
}

// gather reads a draft and checks it by everything but the number of its attempt.
func (c *Campus) gather(ctx context.Context, s Student, draftID int64, final api.FinalSubmit) (material, error) {
	m := material{student: s}
	var key string
	err := c.db.QueryRowContext(ctx, "SELECT assignment_key FROM draft WHERE id = ? AND student_id = ?", draftID, s.ID).
		Scan(&key)
	if errors.Is(err, sql.ErrNoRows) {
		return m, refuse("unknown", "There is no such draft.")
	}
	if err != nil {
		return m, err
	}
	if m.assignment, err = c.assignment(ctx, key); err != nil {
		return m, err
	}
	if m.now, err = c.now(ctx); err != nil {
		return m, err
	}
	if m.window, err = c.window(ctx, m.assignment); err != nil {
		return m, err
	}
	for n, minutes := range []int{m.assignment.Turnaround.FirstMinutes, m.assignment.Turnaround.LaterMinutes} {
		if m.turnaround[n], err = c.turnaround(ctx, minutes); err != nil {
			return m, err
		}
	}
	if m.files, err = c.draftFiles(ctx, s, draftID); err != nil {
		return m, err
	}
	return m, c.accept(ctx, m, final)
}

// submit makes a submission of a draft: the same key gives the receipt that there is already. What decides is read
// first; the transaction, which holds the student's row, takes no second connection.
func (c *Campus) submit(
	ctx context.Context,
	s Student,
	draftID int64,
	key string,
	final api.FinalSubmit,
) (receipt.Receipt, error) {
	if r, err := receiptOf(ctx, c.db, s, key); err == nil || !errors.Is(err, sql.ErrNoRows) {
		return r, err
	}
	m, err := c.gather(ctx, s, draftID, final)
	if err != nil {
		return receipt.Receipt{}, err
	}
	var r receipt.Receipt
	err = mariadb.InTx(ctx, c.db, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, "SELECT id FROM student WHERE id = ? FOR UPDATE", s.ID); err != nil {
			return err
		}
		if r, err = receiptOf(ctx, tx, s, key); err == nil || !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		attempt, err := nextAttempt(ctx, tx, s, m.assignment)
		if err != nil {
			return err
		}
		r, err = c.record(ctx, tx, m, attempt, key, final.Comment)
		return err
	})
	return r, err
}

func (c *Campus) record(
	ctx context.Context,
	tx *sql.Tx,
	m material,
	attempt int,
	key, comment string,
) (receipt.Receipt, error) {
	r := receipt.Receipt{
		Site:       Name,
		Course:     m.assignment.Course,
		Assignment: m.assignment.Key,
		Attempt:    attempt,
		Student:    m.student.Number,
		Key:        KeyID,
		ReceivedAt: m.now.Truncate(time.Second).Format(time.RFC3339),
		Files:      []receipt.File{},
	}
	if late := m.now.Sub(m.window.Due.End()); late > 0 {
		r.LatenessMinutes = int(late / time.Minute)
	}
	for _, f := range m.files {
		r.Files = append(r.Files, receipt.File{Name: f.Name, Bytes: f.Bytes, SHA256: f.Sha256})
	}
	list, err := json.Marshal(m.files)
	if err != nil {
		return r, err
	}
	result, err := tx.ExecContext(
		ctx,
		`INSERT INTO submission (student_id, assignment_key, attempt, idempotency_key, received_at, comment,
			files, report_at)
		VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
		m.student.ID,
		m.assignment.Key,
		attempt,
		key,
		m.now,
		comment,
		list,
		m.reportDue(attempt),
	)
	if err != nil {
		return r, fmt.Errorf("recording a submission: %w", err)
	}
	id, err := result.LastInsertId()
	if err != nil {
		return r, err
	}
	r.Number = fmt.Sprintf("APC-%d-%06d", m.now.Year(), id)
	if r, err = r.Sign(c.key); err != nil {
		return r, err
	}
	text, err := json.Marshal(r)
	if err != nil {
		return r, err
	}
	if _, err = tx.ExecContext(
		ctx,
		"UPDATE submission SET number = ?, receipt = ? WHERE id = ?",
		r.Number,
		text,
		id,
	); err != nil {
		return r, fmt.Errorf("recording a receipt: %w", err)
	}
	return r, sendMail(ctx, tx, m.student, m.assignment, r, m.now)
}

// reportDue is when a report will be there: drafts get one, the first sooner than those of replaced files.
func (m material) reportDue(attempt int) *time.Time {
	if m.assignment.Sheet.Report == nil || attempt > m.assignment.Sheet.Report.Drafts {
		return nil
	}
	at := m.now.Add(m.turnaround[min(attempt-1, 1)])
	return &at
}

// querier is a database or a transaction.
type querier interface {
	QueryRowContext(context.Context, string, ...any) *sql.Row
}

func receiptOf(ctx context.Context, q querier, s Student, key string) (receipt.Receipt, error) {
	var text []byte
	var r receipt.Receipt
	err := q.QueryRowContext(ctx, "SELECT receipt FROM submission WHERE student_id = ? AND idempotency_key = ? AND "+
		"receipt IS NOT NULL", s.ID, key).
		Scan(&text)
	if err != nil {
		return r, err
	}
	return r, json.Unmarshal(text, &r)
}

// sendMail puts a confirmation into the site's own mailbox, as RFC 5322 writes messages.
func sendMail(ctx context.Context, tx *sql.Tx, s Student, a api.Assignment, r receipt.Receipt, now time.Time) error {
	subject := fmt.Sprintf("Received: %s, attempt %d (%s)", a.Title, r.Attempt, r.Number)
	var b strings.Builder
	fmt.Fprintf(
		&b,
		"From: Alvarim practice campus <no-reply@campus.example>\r\nTo: %s <%s>\r\nSubject: %s\r\nDate: "+
			"%s\r\nMessage-ID: <%s@campus.example>\r\n"+
			"MIME-Version: 1.0\r\nContent-Type: text/plain; charset=utf-8\r\n\r\n",
		s.Name(),
		s.Email,
		subject,
		now.Format(time.RFC1123Z),
		r.Number,
	)
	fmt.Fprintf(
		&b,
		"We received your work for %s in %s at %s.\r\nSubmission number: %s\r\n\r\nFiles:\r\n",
		a.Title,
		a.Course,
		r.ReceivedAt,
		r.Number,
	)
	for _, f := range r.Files {
		fmt.Fprintf(&b, "  %s, %d bytes, SHA-256 %s\r\n", f.Name, f.Bytes, f.SHA256)
	}
	_, err := tx.ExecContext(
		ctx,
		"INSERT INTO mail (recipient, subject, body, sent_at) VALUES (?, ?, ?, ?)",
		s.Email,
		subject,
		b.String(),
		now,
	)
	return err
}
