package schedule

import (
	"context"
	"slices"
	"time"

	"orario/core/agenda"
	"orario/internal/courses"
	"orario/internal/mariadb/query"
	"orario/internal/roster"
)

// Horizon is the home screen.
type Horizon struct {
	Now     time.Time        `json:"now"`
	Zone    string           `json:"zone"` // the student's
	Notices []string         `json:"notices"`
	Summary string           `json:"summary"`
	Courses []courses.Course `json:"courses"`
	Lines   []Line           `json:"lines"` // by slack
	Moves   []agenda.Move    `json:"moves"`
	Crowds  []agenda.Crowd   `json:"crowds"`
	Changes []Change         `json:"changes"` // since they were last looked at, the newest first
	Views   []View           `json:"views"`   // of the list, as saved
}

// Horizon computes the home screen.
func (s Service) Horizon(ctx context.Context, student int64) (*Horizon, error) {
	h := &Horizon{Notices: []string{}, Lines: []Line{}}
	r, err := s.roster(ctx, student, func(ctx context.Context, q *query.Queries, r *roster.Roster) (err error) {
		if h.Changes, err = changes(ctx, q, student, r.Seen); err != nil {
			return err
		}
		h.Views, err = views(ctx, q, student)
		return err
	})
	if err != nil {
		return nil, err
	}
	p := r.Plan()
	h.Now, h.Zone = r.Now, r.Student.Zone.String()
	for _, site := range r.Sites {
		if site.Notice != "" {
			h.Notices = append(h.Notices, site.Notice)
		}
	}
	h.Notices = append(h.Notices, r.Troubles...)
	for _, e := range r.Enrolments {
		if e.Clock != 0 {
			h.Now = r.Now.Add(e.Clock)
		}
	}
	h.Courses = slices.DeleteFunc(courses.Of(r, p.Standings), func(c courses.Course) bool { return c.Archived })
	for _, e := range p.Entries {
		if !e.Hidden() {
			h.Lines = append(h.Lines, LineOf(e))
		}
	}
	h.Moves, h.Crowds, h.Summary = p.Moves(), p.Crowds(), p.Summary()
	return h, nil
}
