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

	"orario/core/inspect"
	"orario/core/receipt"
	"orario/core/timing"
	"orario/core/wording"
	api "orario/internal/campus/campusapi"
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
	if err := c.mayBeSent(ctx, a, now); err != nil {
		return draft{}, err
	}
	_, err = c.db.ExecContext(ctx, "INSERT IGNORE INTO draft (student_id, assignment_key, idempotency_key, created_at) VALUES (?, ?, ?, ?)", s.ID, assignment, key, now)
	if err != nil {
		return draft{}, err
	}
	d := draft{assignment: assignment}
	err = c.db.QueryRowContext(ctx, "SELECT id FROM draft WHERE student_id = ? AND idempotency_key = ?", s.ID, key).Scan(&d.id)
	return d, err
}

// mayBeSent refuses by the window.
func (c *Campus) mayBeSent(ctx context.Context, a api.Assignment, now time.Time) error {
	window, err := c.window(ctx, a)
	if err != nil {
		return err
	}
	switch state, _ := window.At(now, a.Late); state {
	case timing.NotOpen:
		return refuse("not_open", "This assignment opens at %s.", a.Opens)
	case timing.Closed:
		return refuse("closed", "This assignment is closed; nothing is taken any more.")
	}
	return nil
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
	rows, err := c.db.QueryContext(ctx, `SELECT JSON_VALUE(metadata, '$.slot'), JSON_VALUE(metadata, '$.filename'), bytes, digest FROM upload
		WHERE owner = ? AND draft = ? AND digest IS NOT NULL ORDER BY created_at, id`, s.Number, fmt.Sprint(id))
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

// submit makes a submission of a draft, in one transaction that holds the student's row: the same key
// gives the receipt that there is already.
func (c *Campus) submit(ctx context.Context, s Student, draftID int64, key string, final api.FinalSubmit) (receipt.Receipt, error) {
	var r receipt.Receipt
	tx, err := c.db.BeginTx(ctx, nil)
	if err != nil {
		return r, err
	}
	defer tx.Rollback() //nolint:errcheck // after a commit it has nothing to do
	if _, err := tx.ExecContext(ctx, "SELECT id FROM student WHERE id = ? FOR UPDATE", s.ID); err != nil {
		return r, err
	}
	if r, err = receiptOf(ctx, tx, s, key); err == nil || !errors.Is(err, sql.ErrNoRows) {
		return r, err
	}
	var assignment string
	err = tx.QueryRowContext(ctx, "SELECT assignment_key FROM draft WHERE id = ? AND student_id = ?", draftID, s.ID).Scan(&assignment)
	if errors.Is(err, sql.ErrNoRows) {
		return r, refuse("unknown", "There is no such draft.")
	}
	if err != nil {
		return r, err
	}
	a, err := c.assignment(ctx, assignment)
	if err != nil {
		return r, err
	}
	now, err := c.now(ctx)
	if err != nil {
		return r, err
	}
	files, err := c.draftFiles(ctx, s, draftID)
	if err != nil {
		return r, err
	}
	attempt, err := c.accept(ctx, tx, s, a, now, files, final)
	if err != nil {
		return r, err
	}
	return c.record(ctx, tx, s, a, now, attempt, files, key, final.Comment)
}

// accept applies the assignment's rules and gives the number of the attempt.
func (c *Campus) accept(ctx context.Context, tx *sql.Tx, s Student, a api.Assignment, now time.Time, files []api.DraftFile, final api.FinalSubmit) (int, error) {
	if err := c.mayBeSent(ctx, a, now); err != nil {
		return 0, err
	}
	if a.Sheet.Declaration != "" && !final.Declaration {
		return 0, refuse("declaration", "The declaration has to be confirmed: %q", a.Sheet.Declaration)
	}
	var sent int
	var invited bool
	err := tx.QueryRowContext(ctx, "SELECT COUNT(*), COALESCE(MAX(invited), FALSE) FROM submission WHERE student_id = ? AND assignment_key = ?", s.ID, a.Key).Scan(&sent, &invited)
	if err != nil {
		return 0, err
	}
	if most := a.Sheet.Attempts.Max; most > 0 && sent >= most {
		return 0, refuse("attempts", "All %d attempts are used.", most)
	}
	if a.Sheet.Attempts.Invitation && sent > 0 && !invited {
		return 0, refuse("invitation", "Another attempt needs the instructor's invitation.")
	}
	if len(files) == 0 {
		return 0, refuse("empty", "The draft holds no file.")
	}
	for _, slot := range a.Sheet.Slots {
		if slot.Required && !slices.ContainsFunc(files, func(f api.DraftFile) bool { return f.Slot == slot.Name }) {
			return 0, refuse("slot", "The file %q is not there.", slot.Name)
		}
	}
	for _, f := range files {
		if err := c.acceptFile(ctx, a, f); err != nil {
			return 0, err
		}
	}
	return sent + 1, nil
}

func (c *Campus) acceptFile(ctx context.Context, a api.Assignment, f api.DraftFile) error {
	slot, ok := a.Sheet.Slot(f.Slot)
	if !ok {
		return refuse("slot", "There is no place %q for %s.", f.Slot, f.Name)
	}
	if slot.MaxBytes > 0 && f.Bytes > slot.MaxBytes {
		return refuse("size", "%s has %s; at most %s are taken.", f.Name, wording.Bytes(f.Bytes), wording.Bytes(slot.MaxBytes))
	}
	if len(slot.Forms) == 0 {
		return nil
	}
	data, err := c.contents.Read(ctx, f.Sha256)
	if err != nil {
		return err
	}
	if kind := inspect.Kind(f.Name, data); !slices.Contains(slot.Forms, kind) {
		return refuse("form", "%s is %s; %s is taken.", f.Name, kind, strings.Join(slot.Forms, " or "))
	}
	return nil
}

func (c *Campus) record(ctx context.Context, tx *sql.Tx, s Student, a api.Assignment, now time.Time, attempt int, files []api.DraftFile, key, comment string) (receipt.Receipt, error) {
	window, err := c.window(ctx, a)
	if err != nil {
		return receipt.Receipt{}, err
	}
	r := receipt.Receipt{
		Site: Name, Course: a.Course, Assignment: a.Key, Attempt: attempt, Student: s.Number, Key: KeyID,
		ReceivedAt: now.Truncate(time.Second).Format(time.RFC3339), Files: []receipt.File{},
	}
	if late := now.Sub(window.Due.End()); late > 0 {
		r.LatenessMinutes = int(late / time.Minute)
	}
	for _, f := range files {
		r.Files = append(r.Files, receipt.File{Name: f.Name, Bytes: f.Bytes, SHA256: f.Sha256})
	}
	reportAt, err := c.reportDue(ctx, a, attempt, now)
	if err != nil {
		return r, err
	}
	list, err := json.Marshal(files)
	if err != nil {
		return r, err
	}
	result, err := tx.ExecContext(ctx, `INSERT INTO submission (student_id, assignment_key, attempt, idempotency_key, received_at, comment, files, report_at)
		VALUES (?, ?, ?, ?, ?, ?, ?, ?)`, s.ID, a.Key, attempt, key, now, comment, list, reportAt)
	if err != nil {
		return r, fmt.Errorf("recording a submission: %w", err)
	}
	id, err := result.LastInsertId()
	if err != nil {
		return r, err
	}
	r.Number = fmt.Sprintf("APC-%d-%06d", now.Year(), id)
	if r, err = r.Sign(c.key); err != nil {
		return r, err
	}
	text, err := json.Marshal(r)
	if err != nil {
		return r, err
	}
	if _, err = tx.ExecContext(ctx, "UPDATE submission SET number = ?, receipt = ? WHERE id = ?", r.Number, text, id); err != nil {
		return r, fmt.Errorf("recording a receipt: %w", err)
	}
	if err := sendMail(ctx, tx, s, a, r, now); err != nil {
		return r, err
	}
	return r, tx.Commit()
}

// reportDue is when a report will be there: drafts get one, the first sooner than those of replaced files.
func (c *Campus) reportDue(ctx context.Context, a api.Assignment, attempt int, now time.Time) (*time.Time, error) {
	if a.Sheet.Report == nil || attempt > a.Sheet.Report.Drafts {
		return nil, nil
	}
	minutes := a.Turnaround.FirstMinutes
	if attempt > 1 {
		minutes = a.Turnaround.LaterMinutes
	}
	wait, err := c.turnaround(ctx, minutes)
	if err != nil {
		return nil, err
	}
	at := now.Add(wait)
	return &at, nil
}

// querier is a database or a transaction.
type querier interface {
	QueryRowContext(context.Context, string, ...any) *sql.Row
}

func receiptOf(ctx context.Context, q querier, s Student, key string) (receipt.Receipt, error) {
	var text []byte
	var r receipt.Receipt
	err := q.QueryRowContext(ctx, "SELECT receipt FROM submission WHERE student_id = ? AND idempotency_key = ? AND receipt IS NOT NULL", s.ID, key).Scan(&text)
	if err != nil {
		return r, err
	}
	return r, json.Unmarshal(text, &r)
}

// sendMail puts a confirmation into the site's own mailbox, as RFC 5322 writes messages.
func sendMail(ctx context.Context, tx *sql.Tx, s Student, a api.Assignment, r receipt.Receipt, now time.Time) error {
	subject := fmt.Sprintf("Received: %s, attempt %d (%s)", a.Title, r.Attempt, r.Number)
	var b strings.Builder
	fmt.Fprintf(&b, "From: Alvarim practice campus <no-reply@campus.example>\r\nTo: %s <%s>\r\nSubject: %s\r\nDate: %s\r\nMessage-ID: <%s@campus.example>\r\n"+
		"MIME-Version: 1.0\r\nContent-Type: text/plain; charset=utf-8\r\n\r\n", s.Name, s.Email, subject, now.Format(time.RFC1123Z), r.Number)
	fmt.Fprintf(&b, "We received your work for %s in %s at %s.\r\nSubmission number: %s\r\n\r\nFiles:\r\n", a.Title, a.Course, r.ReceivedAt, r.Number)
	for _, f := range r.Files {
		fmt.Fprintf(&b, "  %s, %d bytes, SHA-256 %s\r\n", f.Name, f.Bytes, f.SHA256)
	}
	_, err := tx.ExecContext(ctx, "INSERT INTO mail (recipient, subject, body, sent_at) VALUES (?, ?, ?, ?)", s.Email, subject, b.String(), now)
	return err
}
