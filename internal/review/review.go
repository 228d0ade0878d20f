// Package review takes in what comes back: similarity reports, marks, comments and invitations; and
// says what changed between two attempts.
package review

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"orario/core/coursework"
	"orario/core/similarity"
	"orario/internal/announce"
	"orario/internal/courier"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/roster"
)

// Store is what reports and returns are kept in.
type Store interface {
	roster.Store
	announce.Store
	Submission(context.Context, query.SubmissionParams) (query.SubmissionRow, error)
	WayOf(context.Context, query.WayOfParams) (query.WayOfRow, error)
	PutReport(context.Context, query.PutReportParams) error
	Report(context.Context, query.ReportParams) (query.Report, error)
	Passages(ctx context.Context, submission int64) ([]query.PassagesRow, error)
	PutPassage(context.Context, query.PutPassageParams) error
	RemovePassage(context.Context, query.RemovePassageParams) error
	PutReturned(context.Context, query.PutReturnedParams) error
	ReturnedOf(ctx context.Context, submission int64) (query.Returned, error)
	FilesOfSubmission(ctx context.Context, submission int64) ([]query.SubmissionFile, error)
	Version(context.Context, query.VersionParams) (query.Version, error)
	EarlierWork(context.Context, query.EarlierWorkParams) ([]query.EarlierWorkRow, error)
	SourcesOf(context.Context, query.SourcesOfParams) ([]query.SourcesOfRow, error)
	AddSource(context.Context, query.AddSourceParams) error
	RemoveSource(context.Context, query.RemoveSourceParams) (int64, error)
	OwnCheckOfPart(context.Context, query.OwnCheckOfPartParams) (query.OwnCheck, error)
	OwnCheckOfAttempt(context.Context, query.OwnCheckOfAttemptParams) (query.OwnCheck, error)
	OwnPassages(ctx context.Context, attempt int64) ([]query.OwnPassagesRow, error)
	PutOwnPassage(context.Context, query.PutOwnPassageParams) error
	RemoveOwnPassage(context.Context, query.RemoveOwnPassageParams) error
	InTx(context.Context, func(*query.Queries) error) error
}

// Site is where reports and returns come from.
type Site interface {
	Report(ctx context.Context, number string) (courier.Report, error)
	Return(ctx context.Context, number string) (courier.Return, error)
}

// Service takes in what comes back.
type Service struct {
	Store   Store
	Texts   Texts
	Connect func(query.Site) (Site, error)
	Now     func() time.Time
	Pause   time.Duration // the shortest between two looks at the site
}

// When the site is looked at again. It says itself, by its revision, when something was given back, and the sync then
// has returns looked for at once; the rare look is a safety net.
const (
	rareLook   = 6 * time.Hour
	mostPauses = 64 // between two looks at a report that is overdue, in pauses
)

// A subject is a submission of which something is to come back.
type subject struct {
	sub   query.SubmissionRow
	title string // of its assignment
	site  Site
	clock time.Duration // the institution's less ours
}

// subject finds a job's submission and the way to its site. One that is not there is not looked for again.
func (s Service) subject(ctx context.Context, job query.Job) (*subject, error) {
	x := &subject{}
	var err error
	if x.sub, err = s.Store.Submission(
		ctx,
		query.SubmissionParams{ID: job.Subject, StudentID: job.StudentID},
	); err != nil {
		return nil, gone(err)
	}
	way, err := s.Store.WayOf(ctx, query.WayOfParams{ID: x.sub.AssignmentID, StudentID: job.StudentID})
	if err != nil {
		return nil, gone(err)
	}
	x.title, x.clock = way.Assignment.Title, time.Duration(way.Enrolment.ClockOffsetMs)*time.Millisecond
	x.site, err = s.Connect(way.Site)
	return x, err
}

func gone(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return mariadb.Final{Err: err}
	}
	return err
}

// nextLook is how long to wait for a report: until it is expected, by the site's clock, and when that has passed
// longer and longer.
func (s Service) nextLook(x *subject, expected *time.Time) time.Duration {
	if expected == nil {
		return s.Pause * mostPauses
	}
	left := expected.Sub(s.Now().Add(x.clock))
	if left > 0 {
		return min(max(left, s.Pause), rareLook)
	}
	return min(max(-left, s.Pause), s.Pause*mostPauses)
}

// FetchReport is the handler of the job that waits for a report.
func (s Service) FetchReport(ctx context.Context, job query.Job) (time.Duration, error) {
	x, err := s.subject(ctx, job)
	if err != nil {
		return 0, err
	}
	if s.Now().Sub(x.sub.StartedAt) > coursework.FollowedFor {
		return 0, nil
	}
	report, err := x.site.Report(ctx, x.sub.Number)
	if errors.Is(err, courier.ErrUnknown) { // the page promises it still, so it is asked for again
		return s.Pause * mostPauses, nil
	}
	if err != nil {
		return 0, err
	}
	row := query.PutReportParams{
		SubmissionID: x.sub.ID,
		StudentID:    x.sub.StudentID,
		State:        query.ReportStateWaiting,
		ExpectedAt:   mariadb.NullTime(report.ExpectedAt),
	}
	switch report.State {
	case "none":
		return 0, nil
	case "waiting":
		again := s.nextLook(x, report.ExpectedAt)
		known, err := s.Store.Report(ctx, query.ReportParams{SubmissionID: x.sub.ID, StudentID: x.sub.StudentID})
		if err == nil && known.ExpectedAt.Valid && known.ExpectedAt.Time.Equal(row.ExpectedAt.Time) {
			return again, nil
		}
		if err := s.Store.PutReport(ctx, row); err != nil {
			return 0, err
		}
		return again, s.tell(ctx, x, announce.Waiting, "The report of "+x.title+" is being made.")
	}
	if report.State != "ready" || report.Report == nil {
		return 0, fmt.Errorf("the report of %s: %w", x.title, courier.ErrForeign)
	}
	body, err := json.Marshal(report)
	if err != nil {
		return 0, err
	}
	row.State, row.MadeAt, row.Body = query.ReportStateReady, mariadb.NullTime(report.MadeAt), string(body)
	row.Share = sql.NullFloat64{Float64: report.Report.Share, Valid: true}
	if err := s.Store.PutReport(ctx, row); err != nil {
		return 0, err
	}
	return 0, s.tell(
		ctx,
		x,
		announce.Report,
		fmt.Sprintf("The report of %s is here: %.0f %%.", x.title, 100*report.Report.Share),
	)
}

// FetchReturn is the handler of the job that looks for mark, comments and invitation. It is repeated for sixty days
// after the sending.
func (s Service) FetchReturn(ctx context.Context, job query.Job) (time.Duration, error) {
	x, err := s.subject(ctx, job)
	if err != nil {
		return 0, err
	}
	if s.Now().Sub(x.sub.StartedAt) > coursework.FollowedFor {
		return 0, nil
	}
	back, err := x.site.Return(ctx, x.sub.Number)
	if errors.Is(err, courier.ErrUnknown) {
		return rareLook, nil
	}
	if err != nil || !back.Marked {
		return rareLook, err
	}
	comments, err := json.Marshal(append([]courier.Comment{}, back.Comments...)) // a list, also when there is none
	if err != nil {
		return 0, err
	}
	row := query.PutReturnedParams{
		SubmissionID: x.sub.ID,
		StudentID:    x.sub.StudentID,
		Points:       back.Points,
		Comments:     comments,
		Invited:      back.Invited,
		MarkedAt:     mariadb.NullTime(back.MarkedAt),
	}
	if back.Mark != nil {
		row.Mark = sql.NullFloat64{Float64: *back.Mark, Valid: true}
	}
	known, err := s.Store.ReturnedOf(ctx, x.sub.ID)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return 0, err
	}
	if err == nil && known.Mark == row.Mark && string(known.Comments) == string(comments) &&
		known.Invited == row.Invited {
		return rareLook, nil
	}
	if err := s.Store.PutReturned(ctx, row); err != nil {
		return 0, err
	}
	return rareLook, s.tell(
		ctx,
		x,
		announce.Return,
		fmt.Sprintf("%s came back with %g of %g.", x.title, row.Mark.Float64, back.Points),
	)
}

func (s Service) tell(ctx context.Context, x *subject, kind, text string) error {
	return announce.Tell(
		ctx,
		s.Store,
		s.Now(),
		announce.Event{Student: x.sub.StudentID, Assignment: x.sub.AssignmentID, Kind: kind, Text: text},
	)
}

// report reads a stored report; [refusal.ErrNotFound] while there is none.
func (s Service) report(ctx context.Context, student, submission int64) (query.Report, courier.Report, error) {
	row, err := s.Store.Report(ctx, query.ReportParams{SubmissionID: submission, StudentID: student})
	if errors.Is(err, sql.ErrNoRows) || err == nil && row.State != query.ReportStateReady {
		return row, courier.Report{}, refusal.ErrNotFound
	}
	if err != nil {
		return row, courier.Report{}, err
	}
	var body courier.Report
	if err := json.Unmarshal([]byte(row.Body), &body); err != nil {
		return row, body, fmt.Errorf("reading a report: %w", err)
	}
	if body.Report == nil {
		body.Report = &similarity.Report{}
	}
	return row, body, nil
}
