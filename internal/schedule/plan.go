package schedule

import (
	"context"
	"errors"
	"slices"
	"time"

	"orario/core/agenda"
	"orario/core/coursework"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/roster"
)

// A Plan is the coming work as laid out, saved or only tried.
type Plan struct {
	Now       time.Time         `json:"now"`
	Zone      string            `json:"zone"`
	Settings  agenda.Settings   `json:"settings"`
	Summary   string            `json:"summary"`
	Fits      bool              `json:"fits"`
	Proof     string            `json:"proof"` // of what does not fit
	Days      []agenda.Day      `json:"days"`
	Lines     []PlanLine        `json:"lines"` // of planned assignments
	Proposals []agenda.Proposal `json:"proposals"`
	Changes   []string          `json:"changes"` // of a tried plan: what it would change
	Wish      agenda.Wish       `json:"wish"`
}

// A PlanLine is what the plan says of one assignment.
type PlanLine struct {
	AssignmentID int64          `json:"assignment_id"`
	Blocks       []agenda.Block `json:"blocks"`
	LatestStart  *time.Time     `json:"latest_start"`
	Slack        string         `json:"slack"`
	Miss         string         `json:"miss"`
}

// Plan is the plan as it stands.
func (s Service) Plan(ctx context.Context, student int64) (*Plan, error) {
	r, err := s.roster(ctx, student)
	if err != nil {
		return nil, err
	}
	return shown(r.Plan()), nil
}

// Try is the plan as it would be; nothing is saved. Everything is computed from one roster.
func (s Service) Try(ctx context.Context, student int64, trial agenda.Trial) (*Plan, error) {
	r, err := s.roster(ctx, student)
	if err != nil {
		return nil, err
	}
	w := trial.Wish
	if err := sound(r, w); err != nil {
		return nil, err
	}
	if trial.Shift != nil {
		w = w.Shifted(*trial.Shift, r.Try(w).Begins(*trial.Shift))
		if err := sound(r, w); err != nil {
			return nil, err
		}
	}
	p := r.Try(w)
	view := shown(p)
	view.Changes = p.Against(r.Plan())
	return view, nil
}

// Keep saves a plan that was tried.
func (s Service) Keep(ctx context.Context, student int64, w agenda.Wish) error {
	r, err := s.roster(ctx, student)
	if err != nil {
		return err
	}
	if err := sound(r, w); err != nil {
		return err
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		if err := q.RemovePins(ctx, student); err != nil {
			return err
		}
		for _, p := range w.Pins {
			if err := q.AddPin(ctx, query.AddPinParams{
				StudentID:    student,
				AssignmentID: p.AssignmentID,
				StartAt:      p.Start.UTC(),
				EndAt:        p.End.UTC(),
			}); err != nil {
				return err
			}
		}
		for _, a := range r.Assignments {
			if err := begin(ctx, q, student, a, w); err != nil {
				return err
			}
		}
		return s.planned(ctx, q, student, 0)
	})
}

// begin keeps before when the work on an assignment is not to begin, where that changes.
func begin(ctx context.Context, q *query.Queries, student int64, a *coursework.Assignment, w agenda.Wish) error {
	var at *time.Time
	if i := slices.IndexFunc(w.NotBefore, func(b agenda.Begin) bool { return b.AssignmentID == a.ID }); i >= 0 {
		at = &w.NotBefore[i].At
	} else if a.NotBefore == nil {
		return nil
	}
	return q.SetAssignmentNotBefore(
		ctx,
		query.SetAssignmentNotBeforeParams{NotBefore: mariadb.NullTime(at), ID: a.ID, StudentID: student},
	)
}

// sound refuses a wish that cannot be planned.
func sound(r *roster.Roster, w agenda.Wish) error {
	err := w.Sound(r.Now, func(id int64) bool { return r.Assignment(id) != nil })
	switch {
	case err == nil:
		return nil
	case errors.Is(err, agenda.ErrUnknown):
		return refusal.ErrNotFound
	}
	return refusal.Because(err)
}

// planDays is how far the plan page looks.
const planDays = 21

func shown(p *agenda.Plan) *Plan {
	v := &Plan{
		Now:       p.Now,
		Zone:      p.Zone.String(),
		Settings:  p.Settings,
		Summary:   p.Work(),
		Fits:      p.Overload == nil,
		Proof:     p.Proof(),
		Proposals: p.Proposals(),
		Lines:     []PlanLine{},
		Changes:   []string{},
		Wish:      p.Wish,
		Days:      p.Days(p.Now, planDays),
	}
	for _, e := range p.Entries {
		if e.Ahead() {
			v.Lines = append(v.Lines, PlanLine{e.ID, e.Blocks, e.LatestStart, e.Slack, e.Miss})
		}
	}
	return v
}
