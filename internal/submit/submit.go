// Package submit sends bundles to their course sites, without losing or doubling one, and keeps the
// receipts.
package submit

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"

	"orario/core/brief"
	"orario/core/naming"
	"orario/core/receipt"
	"orario/internal/courier"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
)

// Store is what submissions are kept in.
type Store interface {
	prepare.Reader
	Site(ctx context.Context, id int64) (query.Site, error)
	SiteRate(context.Context, query.SiteRateParams) error
	Submission(context.Context, query.SubmissionParams) (query.Submission, error)
	FilesOfSubmission(ctx context.Context, submission int64) ([]query.SubmissionFile, error)
	SetSubmissionDraft(context.Context, query.SetSubmissionDraftParams) (int64, error)
	SetFileUpload(context.Context, query.SetFileUploadParams) error
	SetSubmissionProgress(context.Context, query.SetSubmissionProgressParams) error
	SetSubmissionReason(context.Context, query.SetSubmissionReasonParams) error
	Ledger(ctx context.Context, student int64) ([]query.LedgerRow, error)
	LedgerOf(context.Context, query.LedgerOfParams) (query.Ledger, error)
	AddEvent(context.Context, query.AddEventParams) error
	InTx(context.Context, func(*query.Queries) error) error
}

// Site is the way to a course site.
type Site interface {
	Receipt(ctx context.Context, key string) (receipt.Receipt, error)
	OpenDraft(ctx context.Context, key, assignment string) (courier.Draft, error)
	Begin(ctx context.Context, u courier.Upload) (address string, err error)
	Continue(ctx context.Context, address string, u courier.Upload) error
	Submit(ctx context.Context, draft int64, key string, declared bool, comment string) (receipt.Receipt, error)
}

// Contents gives the content of files.
type Contents interface {
	Open(ctx context.Context, digest string, offset int64) (io.Reader, error)
}

// Service sends.
type Service struct {
	Store    Store
	Contents Contents
	Connect  func(query.Site) (Site, error)
	Now      func() time.Time
}

// Kinds of the jobs that carry a submission and look for what comes back.
const (
	CarryJob  = "carry"
	ReportJob = "report"
	ReturnJob = "return"
)

// Start begins to send the bundle of an assignment: what is in it now is fixed, and a job carries it.
// A bundle that must be fixed first, or that is under way, is a complaint.
func (s Service) Start(ctx context.Context, student, assignment int64, declared bool, comment string) (int64, error) {
	states, err := prepare.Load(ctx, s.Store, student, s.Now())
	if err != nil {
		return 0, err
	}
	var state *prepare.State
	for _, candidate := range states {
		if candidate.Assignment.ID == assignment {
			state = candidate
		}
	}
	if state == nil {
		return 0, prepare.ErrNotFound
	}
	if err := mayStart(state, declared); err != nil {
		return 0, err
	}
	var id int64
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		id, err = q.AddSubmission(ctx, query.AddSubmissionParams{
			StudentID: student, AssignmentID: assignment, Attempt: int32(state.Attempt), IdempotencyKey: rand.Text(),
			Declared: declared, Comment: comment, StartedAt: state.Now, TotalBytes: state.Bytes(),
		})
		if err != nil {
			return err
		}
		for n, i := range state.Items {
			err := q.AddSubmissionFile(ctx, query.AddSubmissionFileParams{SubmissionID: id, N: int32(n), VersionID: i.VersionID, Slot: i.Slot, Name: i.Name, Digest: i.Digest, Bytes: i.ItemsRow.Bytes})
			if err != nil {
				return err
			}
		}
		return q.AddJob(ctx, query.AddJobParams{Kind: CarryJob, Subject: id, StudentID: student, RunAt: s.Now().UTC()})
	})
	if mariadb.IsDuplicate(err) {
		return 0, prepare.Complaint{Message: "This attempt is being sent already."}
	}
	return id, err
}

func mayStart(state *prepare.State, declared bool) error {
	if state.Sending {
		return prepare.Complaint{Message: "This attempt is being sent already."}
	}
	if may, why := state.MayGoOn(); !may {
		return prepare.Complaint{Message: "Nothing more can be sent here: " + why + "."}
	}
	for _, f := range state.Findings {
		if f.Weight == naming.Must {
			return prepare.Complaint{Message: "One thing must be fixed first: " + f.Message}
		}
	}
	if state.Sheet.Declaration != "" && !declared {
		return prepare.Complaint{Message: "Confirm the declaration first."}
	}
	return nil
}

// Cancel stops a submission that has not reached the site yet.
func (s Service) Cancel(ctx context.Context, student, id int64) error {
	sub, err := s.Store.Submission(ctx, query.SubmissionParams{ID: id, StudentID: student})
	if errors.Is(err, sql.ErrNoRows) {
		return prepare.ErrNotFound
	}
	if err != nil {
		return err
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		n, err := q.CancelSubmission(ctx, query.CancelSubmissionParams{ID: sub.ID, StudentID: student})
		if err != nil {
			return err
		}
		if n == 0 {
			return prepare.Complaint{Message: "It has reached the site and cannot be cancelled any more."}
		}
		_, err = q.RemoveJobOf(ctx, query.RemoveJobOfParams{Kind: CarryJob, Subject: id, StudentID: student})
		return err
	})
}

// Carry is the handler of [CarryJob]. Every step can be repeated: the site is first asked whether it has
// the submission already, a draft is found again by its key, uploads go on where they broke off, and
// the final submit carries the same key each time.
func (s Service) Carry(ctx context.Context, job query.Job) (time.Duration, error) {
	sub, err := s.Store.Submission(ctx, query.SubmissionParams{ID: job.Subject, StudentID: job.StudentID})
	if errors.Is(err, sql.ErrNoRows) {
		return 0, mariadb.Final{Err: err}
	}
	if err != nil {
		return 0, err
	}
	if sub.State != query.SubmissionStateSending {
		return 0, nil
	}
	r, state, err := s.deliver(ctx, sub)
	var refused courier.Refused
	if errors.As(err, &refused) {
		return 0, s.end(ctx, sub, query.SubmissionStateRefused, refused.Reason)
	}
	if err != nil {
		// Told even while shutting down is not needed: the next try says it anew.
		_ = s.Store.SetSubmissionReason(ctx, query.SetSubmissionReasonParams{Reason: clip(err.Error()), ID: sub.ID})
		s.tell(ctx, sub, "waiting for the site")
		return 0, err
	}
	return 0, s.accept(ctx, sub, state, r)
}

// deliver brings the submission to the site and returns the receipt.
func (s Service) deliver(ctx context.Context, sub query.Submission) (receipt.Receipt, *prepare.State, error) {
	var r receipt.Receipt
	states, err := prepare.Load(ctx, s.Store, sub.StudentID, s.Now())
	if err != nil {
		return r, nil, err
	}
	var state *prepare.State
	for _, candidate := range states {
		if candidate.Assignment.ID == sub.AssignmentID {
			state = candidate
		}
	}
	site, err := s.Connect(state.Site)
	if err != nil {
		return r, state, err
	}
	if r, err = site.Receipt(ctx, sub.IdempotencyKey); err == nil || !errors.Is(err, courier.ErrUnknown) {
		return r, state, err
	}
	draft, err := site.OpenDraft(ctx, sub.IdempotencyKey, state.Assignment.SiteKey)
	if err != nil {
		return r, state, err
	}
	// From here on it cannot be cancelled any more; if it was, nothing goes further.
	n, err := s.Store.SetSubmissionDraft(ctx, query.SetSubmissionDraftParams{DraftID: sql.NullInt64{Int64: draft.Id, Valid: true}, ID: sub.ID})
	if err == nil && n == 0 {
		err = mariadb.Final{Err: errors.New("it was cancelled")}
	}
	if err != nil {
		return r, state, err
	}
	files, err := s.Store.FilesOfSubmission(ctx, sub.ID)
	if err != nil {
		return r, state, err
	}
	before := int64(0)
	for _, f := range files {
		if err := s.upload(ctx, site, state.Site, sub, draft, f, before); err != nil {
			return r, state, err
		}
		before += f.Bytes
	}
	r, err = site.Submit(ctx, draft.Id, sub.IdempotencyKey, sub.Declared, sub.Comment)
	return r, state, err
}

// progressStep is how often the progress of an upload is written down.
const progressStep = 300 * time.Millisecond

func (s Service) upload(ctx context.Context, site Site, where query.Site, sub query.Submission, draft courier.Draft, f query.SubmissionFile, before int64) error {
	for _, there := range draft.Files {
		if there.Slot == f.Slot && there.Name == f.Name && there.Sha256 == f.Digest {
			return nil
		}
	}
	written := time.Time{}
	u := courier.Upload{
		Draft: draft.Id, Slot: f.Slot, Name: f.Name, Bytes: f.Bytes,
		Open: func(offset int64) (io.Reader, error) { return s.Contents.Open(ctx, f.Digest, offset) },
		Sent: func(n int64) {
			if time.Since(written) >= progressStep {
				written = time.Now()
				_ = s.Store.SetSubmissionProgress(ctx, query.SetSubmissionProgressParams{SentBytes: before + n, ID: sub.ID}) // a figure for the eye
				s.tell(ctx, sub, "under way")
			}
		},
	}
	address := f.UploadUrl
	begun := time.Now()
	if address != "" {
		err := site.Continue(ctx, address, u)
		if !errors.Is(err, courier.ErrUnknown) {
			return err
		}
	}
	address, err := site.Begin(ctx, u)
	if err != nil {
		return err
	}
	if err := s.Store.SetFileUpload(ctx, query.SetFileUploadParams{UploadUrl: address, SubmissionID: sub.ID, N: f.N}); err != nil {
		return err
	}
	if err := site.Continue(ctx, address, u); err != nil {
		return err
	}
	return s.learnRate(ctx, where, f.Bytes, time.Since(begun))
}

// smallest transfer that says something about a line.
const smallestSample = 64 << 10

// learnRate keeps the pessimistic rate of past transfers: a slower one counts at once, a faster one
// moves it by a tenth.
func (s Service) learnRate(ctx context.Context, site query.Site, bytes int64, took time.Duration) error {
	if bytes < smallestSample || took <= 0 {
		return nil
	}
	rate := float64(bytes) / took.Seconds()
	if old := site.BytesPerSecond; old.Valid && rate > old.Float64 {
		rate = old.Float64 + (rate-old.Float64)/10
	}
	return s.Store.SiteRate(ctx, query.SiteRateParams{BytesPerSecond: sql.NullFloat64{Float64: rate, Valid: true}, ID: site.ID})
}

// accept records the receipt with its proof and sets the jobs that look for report and return.
func (s Service) accept(ctx context.Context, sub query.Submission, state *prepare.State, r receipt.Receipt) error {
	files, err := s.Store.FilesOfSubmission(ctx, sub.ID)
	if err != nil {
		return err
	}
	sent := receipt.Sent{
		Course: state.Course.SiteKey, Assignment: state.Assignment.SiteKey, Attempt: int(sub.Attempt), NotBefore: sub.StartedAt, NotAfter: state.Now.Add(time.Second),
	}
	who, err := s.Store.StudentByID(ctx, sub.StudentID)
	if err != nil {
		return err
	}
	sent.Student = who.Number
	for _, f := range files {
		sent.Files = append(sent.Files, receipt.File{Name: f.Name, Bytes: f.Bytes, SHA256: f.Digest})
	}
	if sent.Key, err = receipt.ParseKey(state.Site.PublicKey); err != nil {
		return fmt.Errorf("the site's key: %w", err)
	}
	proof := receipt.Compare(r, sent)
	receiptText, err := json.Marshal(r)
	if err != nil {
		return err
	}
	proofText, err := json.Marshal(proof)
	if err != nil {
		return err
	}
	at, err := time.Parse(time.RFC3339, r.ReceivedAt)
	if err != nil {
		at = state.Now
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		n, err := q.EndSubmission(ctx, query.EndSubmissionParams{
			State: query.SubmissionStateAccepted, Number: r.Number, AcceptedAt: sql.NullTime{Time: at, Valid: true}, ID: sub.ID,
		})
		if err != nil || n == 0 {
			return err
		}
		if err := q.AddLedger(ctx, query.AddLedgerParams{StudentID: sub.StudentID, SubmissionID: sub.ID, Receipt: receiptText, Proof: proofText, RecordedAt: s.Now().UTC()}); err != nil {
			return err
		}
		for _, kind := range []string{ReportJob, ReturnJob} {
			if kind == ReportJob && state.Sheet.Report == nil {
				continue
			}
			if err := q.AddJob(ctx, query.AddJobParams{Kind: kind, Subject: sub.ID, StudentID: sub.StudentID, RunAt: s.Now().UTC()}); err != nil {
				return err
			}
		}
		return q.AddEvent(ctx, query.AddEventParams{StudentID: sub.StudentID, Kind: "receipt", AssignmentID: sub.AssignmentID, Text: fmt.Sprintf("%s has arrived: %s.", state.Assignment.Title, r.Number)})
	})
}

func (s Service) end(ctx context.Context, sub query.Submission, how query.SubmissionState, reason string) error {
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		if _, err := q.EndSubmission(ctx, query.EndSubmissionParams{State: how, Reason: clip(reason), ID: sub.ID}); err != nil {
			return err
		}
		return q.AddEvent(ctx, query.AddEventParams{StudentID: sub.StudentID, Kind: "refused", AssignmentID: sub.AssignmentID, Text: clip("The site refused it: " + reason)})
	})
}

func (s Service) tell(ctx context.Context, sub query.Submission, text string) {
	// An event that is not stored costs a late refresh, no more.
	_ = s.Store.AddEvent(ctx, query.AddEventParams{StudentID: sub.StudentID, Kind: "sending", AssignmentID: sub.AssignmentID, Text: text})
}

func clip(text string) string {
	if runes := []rune(text); len(runes) > 400 {
		return string(runes[:400]) + "…"
	}
	return text
}

// An Entry of the ledger: a receipt with its proof.
type Entry struct {
	ID           int64           `json:"id"`
	SubmissionID int64           `json:"submission_id"`
	AssignmentID int64           `json:"assignment_id"`
	Course       string          `json:"course"`
	Title        string          `json:"title"`
	Zone         string          `json:"zone"`
	RecordedAt   time.Time       `json:"recorded_at"`
	Receipt      receipt.Receipt `json:"receipt"`
	Proof        receipt.Proof   `json:"proof"`
	Bytes        string          `json:"bytes"`
}

// Ledger lists all receipts of a student, the newest first.
func (s Service) Ledger(ctx context.Context, student int64) ([]Entry, error) {
	rows, err := s.Store.Ledger(ctx, student)
	if err != nil {
		return nil, fmt.Errorf("reading the ledger: %w", err)
	}
	list := []Entry{}
	for _, row := range rows {
		e := Entry{ID: row.ID, SubmissionID: row.SubmissionID, AssignmentID: row.AssignmentID, Course: row.Code, Title: row.Title, Zone: row.Zone, RecordedAt: row.RecordedAt}
		if err := json.Unmarshal(row.Receipt, &e.Receipt); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(row.Proof, &e.Proof); err != nil {
			return nil, err
		}
		total := int64(0)
		for _, f := range e.Receipt.Files {
			total += f.Bytes
		}
		e.Bytes = brief.Bytes(total)
		list = append(list, e)
	}
	return list, nil
}

// Receipt is the receipt of a submission as the site signed it.
func (s Service) Receipt(ctx context.Context, student, submission int64) (receipt.Receipt, error) {
	var r receipt.Receipt
	row, err := s.Store.LedgerOf(ctx, query.LedgerOfParams{SubmissionID: submission, StudentID: student})
	if errors.Is(err, sql.ErrNoRows) {
		return r, prepare.ErrNotFound
	}
	if err != nil {
		return r, err
	}
	return r, json.Unmarshal(row.Receipt, &r)
}
