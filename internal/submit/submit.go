// Package submit sends bundles to their course sites, without losing or doubling one, and keeps the
// receipts.
package submit

import (
	"context"
	"crypto/rand"
	"database/sql"
	"errors"
	"io"
	"time"

	"orario/core/finding"
	"orario/core/receipt"
	"orario/internal/courier"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
)

// Store is what submissions are kept in.
type Store interface {
	prepare.Reader
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
	state, err := prepare.Find(ctx, s.Store, student, assignment, s.Now())
	if err != nil {
		return 0, err
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
	if state.Assignment.Source != query.AssignmentSourceSite {
		return prepare.Complaint{Message: "No connected site takes this one. Send it as the instructions say, and note it as sent."}
	}
	if state.Sending {
		return prepare.Complaint{Message: "This attempt is being sent already."}
	}
	if may, why := state.MayGoOn(); !may {
		return prepare.Complaint{Message: "Nothing more can be sent here: " + why + "."}
	}
	for _, f := range state.Findings {
		if f.Weight == finding.Must {
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
