package submit

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"

	"orario/core/receipt"
	"orario/internal/courier"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
)

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
	state, err := prepare.Find(ctx, s.Store, sub.StudentID, sub.AssignmentID, s.Now())
	if err != nil {
		return r, nil, err
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
