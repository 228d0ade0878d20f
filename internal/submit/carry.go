package submit

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"

	"orario/core/brief"
	"orario/core/receipt"
	"orario/core/timing"
	"orario/core/wording"
	"orario/internal/announce"
	"orario/internal/courier"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
)

// A delivery is a submission on its way, with all that it needs to know.
type delivery struct {
	sub   query.SubmissionRow
	way   query.WayOfRow // the assignment, with the course, site and enrolment that it goes by
	files []query.SubmissionFile
	site  Site
}

// Carry is the handler of [CarryJob]. Every step can be repeated: the site is first asked whether it has the submission
// already, a draft is found again by its key, uploads go on where they broke off, and the final submit carries the same
// key each time.
func (s Service) Carry(ctx context.Context, job query.Job) (time.Duration, error) {
	d, err := s.open(ctx, job)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, mariadb.Final{Err: err}
	}
	if err != nil || d.sub.State != query.SubmissionStateSending {
		return 0, err
	}
	r, err := s.deliver(ctx, d)
	var refused courier.Refused
	if errors.As(err, &refused) && !d.forgotten(refused) {
		// It ends only if the site does not have it: the answer to an earlier try may have been lost.
		var there error
		if r, there = d.site.Receipt(ctx, d.sub.IdempotencyKey); errors.Is(there, courier.ErrUnknown) {
			return 0, s.refuse(ctx, d, refused.Reason)
		}
		err = there
	}
	if err != nil {
		// Told even while shutting down is not needed: the next try says it anew.
		_ = s.Store.SetSubmissionReason(
			ctx,
			query.SetSubmissionReasonParams{Reason: wording.Clip(err.Error(), mostReason), ID: d.sub.ID},
		)
		s.progress(ctx, d, "waiting for the site")
		return 0, err
	}
	return 0, s.accept(ctx, d, r)
}

// forgotten says whether a site, by refusing, says that it does not know what it has opened a draft for. That ends
// nothing: one that forgets a draft may well have made a submission of it.
func (d *delivery) forgotten(refused courier.Refused) bool {
	return refused.Code == "unknown" && d.sub.DraftID.Valid
}

// mostReason bounds what is kept of a reason, in code points.
const mostReason = 400

// open reads what a submission needs; [sql.ErrNoRows] if it is not there.
func (s Service) open(ctx context.Context, job query.Job) (*delivery, error) {
	d := &delivery{}
	var err error
	if d.sub, err = s.Store.Submission(
		ctx,
		query.SubmissionParams{ID: job.Subject, StudentID: job.StudentID},
	); err != nil {
		return nil, err
	}
	of := query.WayOfParams{ID: d.sub.AssignmentID, StudentID: job.StudentID}
	if d.way, err = s.Store.WayOf(ctx, of); err != nil {
		return nil, err
	}
	if d.files, err = s.Store.FilesOfSubmission(ctx, d.sub.ID); err != nil {
		return nil, err
	}
	d.site, err = s.Connect(d.way.Site)
	return d, err
}

// deliver brings the submission to the site and returns the receipt.
func (s Service) deliver(ctx context.Context, d *delivery) (courier.Receipt, error) {
	if r, err := d.site.Receipt(ctx, d.sub.IdempotencyKey); err == nil || !errors.Is(err, courier.ErrUnknown) {
		return r, err
	}
	draft, err := d.site.OpenDraft(ctx, d.sub.IdempotencyKey, d.way.Assignment.SiteKey)
	if err != nil {
		return courier.Receipt{}, err
	}
	// From here on it cannot be cancelled any more; if it was, nothing goes further.
	opened := sql.NullInt64{Int64: draft.ID, Valid: true}
	n, err := s.Store.SetSubmissionDraft(ctx, query.SetSubmissionDraftParams{DraftID: opened, ID: d.sub.ID})
	if err == nil && n == 0 {
		err = mariadb.Final{Err: errors.New("it was cancelled")}
	}
	if err != nil {
		return courier.Receipt{}, err
	}
	d.sub.DraftID = opened
	for again := range 2 {
		before := int64(0)
		for _, f := range d.files {
			if again > 0 {
				f.UploadUrl = "" // what the site had of it is not the file
			}
			if err := s.upload(ctx, d, draft, f, before); err != nil {
				return courier.Receipt{}, err
			}
			before += f.Bytes
		}
		if draft, err = d.site.OpenDraft(ctx, d.sub.IdempotencyKey, d.way.Assignment.SiteKey); err != nil {
			return courier.Receipt{}, err
		}
		if d.lacks(draft) == "" {
			break
		}
	}
	if name := d.lacks(draft); name != "" {
		return courier.Receipt{}, fmt.Errorf("the site does not have %s as it was sent", name)
	}
	if err := s.noteSiteTime(ctx, d); err != nil {
		return courier.Receipt{}, err
	}
	return d.site.Submit(ctx, draft.ID, d.sub.IdempotencyKey, d.sub.Declared, d.sub.Comment)
}

// noteSiteTime keeps what time the site has before the last step, so that the receipt can be held against it however
// clocks are moved until it is read. A site that does not say it is sent the work all the same.
func (s Service) noteSiteTime(ctx context.Context, d *delivery) error {
	said, err := d.site.Describe(ctx)
	if err != nil {
		return nil //nolint:nilerr // what keeps the work from arriving is told by the next step
	}
	first, last := &d.sub.SiteFirst, &d.sub.SiteLast
	if !first.Valid || said.Now.Before(first.Time) {
		*first = mariadb.NullTime(&said.Now)
	}
	if !last.Valid || said.Now.After(last.Time) {
		*last = mariadb.NullTime(&said.Now)
	}
	return s.Store.SetSubmissionSiteTime(
		ctx, query.SetSubmissionSiteTimeParams{SiteFirst: *first, SiteLast: *last, ID: d.sub.ID})
}

// lacks names a file that is not in a draft as it was sent; empty: all are there.
func (d *delivery) lacks(draft courier.Draft) string {
	for _, f := range d.files {
		if !holds(draft, f) {
			return f.Name
		}
	}
	return ""
}

func holds(draft courier.Draft, f query.SubmissionFile) bool {
	for _, there := range draft.Files {
		if there.Slot == f.Slot && there.Name == f.Name && there.SHA256 == f.Digest {
			return true
		}
	}
	return false
}

// progressStep is how often the progress of an upload is written down.
const progressStep = 300 * time.Millisecond

func (s Service) upload(
	ctx context.Context,
	d *delivery,
	draft courier.Draft,
	f query.SubmissionFile,
	before int64,
) error {
	if holds(draft, f) {
		return nil
	}
	written := time.Time{}
	u := courier.Upload{
		Draft: draft.ID, Slot: f.Slot, Name: f.Name, Bytes: f.Bytes,
		Open: func(offset int64) (io.Reader, error) { return s.Contents.Open(ctx, f.Digest, offset) },
		Sent: func(n int64) {
			if time.Since(written) >= progressStep {
				written = time.Now()
				_ = s.Store.SetSubmissionProgress(
					ctx,
					query.SetSubmissionProgressParams{SentBytes: before + n, ID: d.sub.ID},
				) // a figure for the eye
				s.progress(ctx, d, "under way")
			}
		},
	}
	address := f.UploadUrl
	begun := time.Now()
	if address != "" {
		err := d.site.Continue(ctx, address, u)
		if !errors.Is(err, courier.ErrUnknown) {
			return err
		}
	}
	address, err := d.site.Begin(ctx, u)
	if err != nil {
		return err
	}
	if err := s.Store.SetFileUpload(
		ctx,
		query.SetFileUploadParams{UploadUrl: address, SubmissionID: d.sub.ID, N: f.N},
	); err != nil {
		return err
	}
	if err := d.site.Continue(ctx, address, u); err != nil {
		return err
	}
	return s.learnRate(ctx, d.way.Site, f.Bytes, time.Since(begun))
}

// learnRate keeps the pessimistic rate of past transfers.
func (s Service) learnRate(ctx context.Context, site query.Site, bytes int64, took time.Duration) error {
	rate, ok := timing.Rate(site.BytesPerSecond.Float64, bytes, took)
	if !ok {
		return nil
	}
	return s.Store.SiteRate(
		ctx,
		query.SiteRateParams{BytesPerSecond: sql.NullFloat64{Float64: rate, Valid: true}, ID: site.ID},
	)
}

// accept records the receipt, as it came, with its proof, and sets the jobs that look for report and return.
func (s Service) accept(ctx context.Context, d *delivery, r courier.Receipt) error {
	proof, err := s.prove(ctx, d, r.Receipt)
	if err != nil {
		return err
	}
	proofText, err := json.Marshal(proof)
	if err != nil {
		return err
	}
	at, err := time.Parse(time.RFC3339, r.ReceivedAt)
	if err != nil {
		at = s.Now()
	}
	var sheet brief.Sheet
	if err := json.Unmarshal(d.way.Assignment.Sheet, &sheet); err != nil {
		return fmt.Errorf("reading the brief: %w", err)
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		n, err := q.EndSubmission(ctx, query.EndSubmissionParams{
			State:      query.SubmissionStateAccepted,
			Number:     r.Number,
			AcceptedAt: mariadb.NullTime(&at),
			ID:         d.sub.ID,
			Was:        d.sub.State,
		})
		if err != nil || n == 0 {
			return err
		}
		sent := query.SetAttemptStateParams{State: query.AttemptStateSent, ID: d.sub.AttemptID}
		if err := q.SetAttemptState(ctx, sent); err != nil {
			return err
		}
		err = q.AddLedger(ctx, query.AddLedgerParams{
			StudentID:    d.sub.StudentID,
			SubmissionID: d.sub.ID,
			Received:     r.Raw,
			KeyID:        wording.Clip(r.Key, 64),
			Agrees:       proof.Agrees,
			Proof:        proofText,
			RecordedAt:   s.Now().UTC(),
		})
		if err != nil {
			return err
		}
		kinds := []string{ReturnJob}
		if sheet.Report != nil {
			kinds = append(kinds, ReportJob)
		}
		if !proof.Agrees {
			kinds = append(kinds, ProveJob)
		}
		for _, kind := range kinds {
			job := query.AddJobParams{
				Kind: kind, Subject: d.sub.ID, StudentID: d.sub.StudentID, RunAt: s.Now().UTC(),
			}
			if err := q.AddJob(ctx, job); err != nil {
				return err
			}
		}
		return announce.Tell(ctx, q, s.Now(), d.event(announce.Receipt, d.arrived(proof, r.Number)))
	})
}

// arrived tells that something has arrived, or first that its receipt disagrees.
func (d *delivery) arrived(proof receipt.Proof, number string) string {
	if why := proof.Disagreement(); why != "" {
		return fmt.Sprintf("The receipt of %s does not agree with what was sent: %s The site says it has it as %s; "+
			"it is asked again.", d.way.Assignment.Title, why, number)
	}
	return fmt.Sprintf("%s has arrived: %s.", d.way.Assignment.Title, number)
}

// refuse ends a submission that the site does not take; the attempt is prepared further.
func (s Service) refuse(ctx context.Context, d *delivery, reason string) error {
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		n, err := q.EndSubmission(ctx, query.EndSubmissionParams{
			State:  query.SubmissionStateRefused,
			Reason: wording.Clip(reason, mostReason),
			ID:     d.sub.ID,
			Was:    query.SubmissionStateSending,
		})
		if err != nil || n == 0 {
			return err
		}
		if err := q.SetAttemptState(
			ctx,
			query.SetAttemptStateParams{State: query.AttemptStatePreparing, ID: d.sub.AttemptID},
		); err != nil {
			return err
		}
		if d.sub.DraftID.Valid {
			again := query.AddJobParams{
				Kind: RefusedJob, Subject: d.sub.ID, StudentID: d.sub.StudentID, RunAt: s.Now().UTC().Add(proveSoon),
			}
			if err := q.AddJob(ctx, again); err != nil {
				return err
			}
		}
		return announce.Tell(ctx, q, s.Now(), d.event(announce.Refused, "The site refused it: "+reason))
	})
}

func (d *delivery) event(kind, text string) announce.Event {
	return announce.Event{Student: d.sub.StudentID, Assignment: d.sub.AssignmentID, Kind: kind, Text: text}
}

// progress tells how far a submission is.
func (s Service) progress(ctx context.Context, d *delivery, text string) {
	_ = announce.Tell(
		ctx,
		s.Store,
		s.Now(),
		d.event(announce.Progress, text),
	) // one that is not stored costs a late refresh, no more
}
