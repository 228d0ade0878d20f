// Package submit sends bundles to their course sites, without losing or doubling one, keeps the receipts, and notes
// what was sent by other ways.
package submit

import (
	"context"
	"crypto/rand"
	"errors"
	"io"
	"time"

	"orario/core/coursework"
	"orario/core/wording"
	"orario/internal/announce"
	"orario/internal/courier"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/roster"
)

// Store is what submissions are kept in.
type Store interface {
	roster.Store
	announce.Store
	SiteRate(context.Context, query.SiteRateParams) error
	Submission(context.Context, query.SubmissionParams) (query.SubmissionRow, error)
	WayOf(context.Context, query.WayOfParams) (query.WayOfRow, error)
	SiteKeys(ctx context.Context, site int64) ([]query.SiteKey, error)
	FilesOfSubmission(ctx context.Context, submission int64) ([]query.SubmissionFile, error)
	SetSubmissionDraft(context.Context, query.SetSubmissionDraftParams) (int64, error)
	SetFileUpload(context.Context, query.SetFileUploadParams) error
	SetSubmissionProgress(context.Context, query.SetSubmissionProgressParams) error
	SetSubmissionReason(context.Context, query.SetSubmissionReasonParams) error
	SetSubmissionSiteTime(context.Context, query.SetSubmissionSiteTimeParams) error
	Ledger(ctx context.Context, student int64) ([]query.LedgerRow, error)
	LedgerOf(context.Context, query.LedgerOfParams) (query.Ledger, error)
	AddLostJobs(context.Context, query.AddLostJobsParams) (int64, error)
	InTx(context.Context, func(*query.Queries) error) error
}

// Site is the way to a course site.
type Site interface {
	Describe(ctx context.Context) (courier.Description, error)
	Receipt(ctx context.Context, key string) (courier.Receipt, error)
	OpenDraft(ctx context.Context, key, assignment string) (courier.Draft, error)
	Begin(ctx context.Context, u courier.Upload) (address string, err error)
	Continue(ctx context.Context, address string, u courier.Upload) error
	Submit(ctx context.Context, draft int64, key string, declared bool, comment string) (courier.Receipt, error)
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
	ProveJob  = "prove" // asks again for a receipt that proves nothing yet
	// RefusedJob asks again whether a site that refused something after it had opened a draft has it all the same.
	RefusedJob = "refused"
)

// mostComment is how long a comment may be, in code points.
const mostComment = 4000

// An Order is what a student wants sent, and as what she saw it.
type Order struct {
	Assignment int64
	Part       int64 // 0: the one that comes next
	Declared   bool
	Comment    string
	Seen       string // the mark of the bundle that was looked at; empty: whatever there is
}

// Start begins to send the bundle of a part: what is in it now is fixed, and a job carries it. A bundle that must be
// fixed first, that is under way, or that is not the one that was looked at, is a complaint.
func (s Service) Start(ctx context.Context, student int64, o Order) (int64, error) {
	if len([]rune(o.Comment)) > mostComment {
		return 0, refusal.Say("A comment has at most %s letters. Shorten it.", wording.Thousands(mostComment))
	}
	state, err := roster.One(ctx, s.Store, student, o.Assignment, o.Part, s.Now())
	if err != nil {
		return 0, err
	}
	if !state.Sending && o.Seen != "" && o.Seen != state.Mark() {
		return 0, changed
	}
	if why := state.MaySend(o.Declared); why != "" {
		return 0, refusal.Complaint{Message: why}
	}
	var id int64
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		id, err = s.fix(ctx, q, student, state, query.AddSubmissionParams{
			StudentID:      student,
			IdempotencyKey: rand.Text(),
			Declared:       o.Declared,
			Comment:        o.Comment,
			StartedAt:      state.Now,
			TotalBytes:     state.Bytes(),
		})
		return err
	})
	if mariadb.IsDuplicate(err) {
		return 0, already
	}
	return id, err
}

var changed = refusal.Say("The bundle has changed since you looked at it. Look at it again, and submit then.")

var already = refusal.Say("This attempt is being sent already.")

// fix makes a submission of what is in the bundle, while nobody else changes it.
func (s Service) fix(
	ctx context.Context,
	q *query.Queries,
	student int64,
	state *coursework.Standing,
	sub query.AddSubmissionParams,
) (int64, error) {
	if _, err := q.LockPart(ctx, query.LockPartParams{ID: state.Part.ID, StudentID: student}); err != nil {
		return 0, refusal.NotFound(err)
	}
	try, err := q.LastAttempt(ctx, state.Part.ID)
	if err != nil {
		return 0, err
	}
	if try.State != query.AttemptStatePreparing || int(try.Number) != state.Number {
		return 0, already
	}
	if err := unchanged(ctx, q, try.ID, state); err != nil {
		return 0, err
	}
	if err := q.SetAttemptState(
		ctx,
		query.SetAttemptStateParams{State: query.AttemptStateSending, ID: try.ID},
	); err != nil {
		return 0, err
	}
	sub.AttemptID = try.ID
	id, err := q.AddSubmission(ctx, sub)
	if err != nil {
		return 0, err
	}
	for n, i := range state.Items {
		err := q.AddSubmissionFile(ctx, query.AddSubmissionFileParams{
			SubmissionID: id,
			N:            int32(n),
			VersionID:    i.Version,
			Slot:         i.Slot,
			Name:         i.Name,
			Digest:       i.Digest,
			Bytes:        i.Facts.Bytes,
		})
		if err != nil {
			return 0, err
		}
	}
	if err := q.AddJob(
		ctx,
		query.AddJobParams{Kind: CarryJob, Subject: id, StudentID: student, RunAt: s.Now().UTC()},
	); err != nil {
		return 0, err
	}
	return id, announce.Tell(ctx, q, s.Now(), announce.Event{
		Student: student, Assignment: state.ID, Kind: announce.Bundle,
	})
}

// unchanged says whether the bundle is still what was found fit to be sent.
func unchanged(ctx context.Context, q *query.Queries, attempt int64, state *coursework.Standing) error {
	rows, err := q.ItemsOfAttempt(ctx, attempt)
	if err != nil {
		return err
	}
	same := len(rows) == len(state.Items)
	for n := 0; same && n < len(rows); n++ {
		is, was := rows[n], state.Items[n]
		same = is.ID == was.ID && is.Slot == was.Slot && is.Name == was.Name && is.VersionID == was.Version
	}
	if !same {
		return changed
	}
	return nil
}

// Cancel stops a submission that has not reached the site yet; one that is cancelled stays so.
func (s Service) Cancel(ctx context.Context, student, id int64) error {
	sub, err := s.Store.Submission(ctx, query.SubmissionParams{ID: id, StudentID: student})
	if err != nil {
		return refusal.NotFound(err)
	}
	if sub.State == query.SubmissionStateCancelled {
		return nil
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		n, err := q.CancelSubmission(ctx, query.CancelSubmissionParams{ID: sub.ID, StudentID: student})
		if err != nil {
			return err
		}
		if n == 0 {
			return refusal.Say("It has reached the site and cannot be cancelled any more.")
		}
		if err := q.SetAttemptState(
			ctx,
			query.SetAttemptStateParams{State: query.AttemptStatePreparing, ID: sub.AttemptID},
		); err != nil {
			return err
		}
		if _, err = q.RemoveJobOf(
			ctx,
			query.RemoveJobOfParams{Kind: CarryJob, Subject: id, StudentID: student},
		); err != nil {
			return err
		}
		return announce.Tell(
			ctx,
			q,
			s.Now(),
			announce.Event{Student: student, Assignment: sub.AssignmentID, Kind: announce.Bundle},
		)
	})
}

// Note notes that an assignment's part (0: the one that comes next) was sent outside of Orario; with an empty time the
// notes of all its parts are taken back.
func (s Service) Note(ctx context.Context, student, assignment, part int64, at *time.Time, note string) error {
	state, err := roster.One(ctx, s.Store, student, assignment, part, s.Now())
	if err != nil {
		return err
	}
	return s.NoteOf(ctx, student, state, at, note)
}

// NoteOf is [Service.Note] of an assignment whose standing is known.
func (s Service) NoteOf(
	ctx context.Context,
	student int64,
	state *coursework.Standing,
	at *time.Time,
	note string,
) error {
	_, sent := state.Part.Last()
	switch {
	case at == nil:
	case at.After(s.Now().Add(time.Minute)):
		return refusal.Say("That time is still to come. Note it once it is sent.")
	case at.Before(s.Now().Add(-mostAgo)):
		return refusal.Say("That is more than ten years ago. Correct the time.")
	case sent || state.Sending:
		return refusal.Say("Orario sent this one itself; its receipt stands below.")
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		var err error
		if at == nil {
			err = q.RemoveNoted(ctx, state.ID)
		} else {
			err = q.PutNoted(
				ctx,
				query.PutNotedParams{PartID: state.Part.ID, At: at.UTC(), Note: wording.Clip(note, 500)},
			)
		}
		return errors.Join(
			err,
			announce.Tell(ctx, q, s.Now(), announce.Event{
				Student: student, Assignment: state.ID, Kind: announce.Edited,
			}),
		)
	})
}

// mostAgo is how long ago something can have been sent.
const mostAgo = 10 * 366 * 24 * time.Hour
