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

	"orario/core/similarity"
	"orario/internal/courier"
	api "orario/internal/courier/campusapi"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
)

// Store is what reports and returns are kept in.
type Store interface {
	prepare.Reader
	Submission(context.Context, query.SubmissionParams) (query.Submission, error)
	Assignment(context.Context, query.AssignmentParams) (query.Assignment, error)
	Course(context.Context, query.CourseParams) (query.Course, error)
	Site(ctx context.Context, id int64) (query.Site, error)
	PutReport(context.Context, query.PutReportParams) error
	Report(context.Context, query.ReportParams) (query.Report, error)
	SetReportHandled(context.Context, query.SetReportHandledParams) error
	PutReturned(context.Context, query.PutReturnedParams) error
	ReturnedOf(ctx context.Context, submission int64) (query.Returned, error)
	FilesOfSubmission(ctx context.Context, submission int64) ([]query.SubmissionFile, error)
	Version(context.Context, query.VersionParams) (query.Version, error)
	AddEvent(context.Context, query.AddEventParams) error
}

// Site is where reports and returns come from.
type Site interface {
	Report(ctx context.Context, number string) (courier.Report, error)
	Return(ctx context.Context, number string) (courier.Return, error)
}

// Service takes in what comes back.
type Service struct {
	Store   Store
	Connect func(query.Site) (Site, error)
	Now     func() time.Time
	Pause   time.Duration // between two looks at the site
}

// lookedFor is how long after its sending a return is looked for.
const lookedFor = 60 * 24 * time.Hour

// subject finds a job's submission and the way to its site.
func (s Service) subject(ctx context.Context, job query.Job) (query.Submission, query.Assignment, Site, error) {
	sub, err := s.Store.Submission(ctx, query.SubmissionParams{ID: job.Subject, StudentID: job.StudentID})
	if err != nil {
		return sub, query.Assignment{}, nil, err
	}
	a, err := s.Store.Assignment(ctx, query.AssignmentParams{ID: sub.AssignmentID, StudentID: job.StudentID})
	if err != nil {
		return sub, a, nil, err
	}
	c, err := s.Store.Course(ctx, query.CourseParams{ID: a.CourseID, StudentID: job.StudentID})
	if err != nil {
		return sub, a, nil, err
	}
	where, err := s.Store.Site(ctx, c.SiteID.Int64)
	if err != nil {
		return sub, a, nil, err
	}
	site, err := s.Connect(where)
	return sub, a, site, err
}

// FetchReport is the handler of the job that waits for a report.
func (s Service) FetchReport(ctx context.Context, job query.Job) (time.Duration, error) {
	sub, a, site, err := s.subject(ctx, job)
	if err != nil {
		return 0, err
	}
	report, err := site.Report(ctx, sub.Number)
	if errors.Is(err, courier.ErrUnknown) {
		return 0, mariadb.Final{Err: err}
	}
	if err != nil {
		return 0, err
	}
	row := query.PutReportParams{SubmissionID: sub.ID, StudentID: sub.StudentID, State: query.ReportStateWaiting, ExpectedAt: nullTime(report.ExpectedAt)}
	switch report.State {
	case "none":
		return 0, nil
	case "waiting":
		known, err := s.Store.Report(ctx, query.ReportParams{SubmissionID: sub.ID, StudentID: sub.StudentID})
		if err == nil && known.ExpectedAt.Valid && known.ExpectedAt.Time.Equal(row.ExpectedAt.Time) {
			return s.Pause, nil
		}
		if err := s.Store.PutReport(ctx, row); err != nil {
			return 0, err
		}
		return s.Pause, s.tell(ctx, sub, "waiting", "The report of "+a.Title+" is being made.")
	}
	if report.Report == nil {
		return 0, mariadb.Final{Err: errors.New("the site sent a report without its content")}
	}
	body, err := json.Marshal(report)
	if err != nil {
		return 0, err
	}
	row.State, row.MadeAt, row.Body = query.ReportStateReady, nullTime(report.MadeAt), string(body)
	row.Share = sql.NullFloat64{Float64: report.Report.Share, Valid: true}
	if err := s.Store.PutReport(ctx, row); err != nil {
		return 0, err
	}
	return 0, s.tell(ctx, sub, "report", fmt.Sprintf("The report of %s is here: %.0f %%.", a.Title, 100*report.Report.Share))
}

// FetchReturn is the handler of the job that looks for mark, comments and invitation.
func (s Service) FetchReturn(ctx context.Context, job query.Job) (time.Duration, error) {
	sub, a, site, err := s.subject(ctx, job)
	if err != nil {
		return 0, err
	}
	if s.Now().Sub(sub.StartedAt) > lookedFor {
		return 0, nil
	}
	back, err := site.Return(ctx, sub.Number)
	if errors.Is(err, courier.ErrUnknown) {
		return 0, mariadb.Final{Err: err}
	}
	if err != nil || !back.Marked {
		return s.Pause, err
	}
	comments, err := json.Marshal(append([]api.Comment{}, back.Comments...)) // a list, also when there is none
	if err != nil {
		return 0, err
	}
	row := query.PutReturnedParams{SubmissionID: sub.ID, StudentID: sub.StudentID, Points: back.Points, Comments: comments, Invited: back.Invited, MarkedAt: nullTime(back.MarkedAt)}
	if back.Mark != nil {
		row.Mark = sql.NullFloat64{Float64: *back.Mark, Valid: true}
	}
	known, err := s.Store.ReturnedOf(ctx, sub.ID)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return 0, err
	}
	if err == nil && known.Mark == row.Mark && string(known.Comments) == string(comments) && known.Invited == row.Invited {
		return s.Pause, nil
	}
	if err := s.Store.PutReturned(ctx, row); err != nil {
		return 0, err
	}
	return s.Pause, s.tell(ctx, sub, "return", fmt.Sprintf("%s came back with %g of %g.", a.Title, row.Mark.Float64, back.Points))
}

func (s Service) tell(ctx context.Context, sub query.Submission, kind, text string) error {
	return s.Store.AddEvent(ctx, query.AddEventParams{StudentID: sub.StudentID, Kind: kind, AssignmentID: sub.AssignmentID, Text: text})
}

func nullTime(t *time.Time) sql.NullTime {
	if t == nil {
		return sql.NullTime{}
	}
	return sql.NullTime{Time: *t, Valid: true}
}

// report reads a stored report; [prepare.ErrNotFound] while there is none.
func (s Service) report(ctx context.Context, student, submission int64) (query.Report, courier.Report, error) {
	row, err := s.Store.Report(ctx, query.ReportParams{SubmissionID: submission, StudentID: student})
	if errors.Is(err, sql.ErrNoRows) || err == nil && row.State != query.ReportStateReady {
		return row, courier.Report{}, prepare.ErrNotFound
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
