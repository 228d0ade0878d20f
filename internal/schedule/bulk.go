package schedule

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"orario/core/coursework"
	"orario/core/wording"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// What can be done to several assignments at once.
const (
	BulkEnough = "enough" // what was reached is enough
	BulkSent   = "sent"   // sent outside of Orario, now
	BulkRemove = "remove"
	BulkWork   = "work" // minutes of work in all
)

// mostBulk is for how many assignments something is done at once.
const mostBulk = 500

// Bulk does one thing to several assignments and says for how many it could not be done, and why.
func (s Service) Bulk(ctx context.Context, student int64, ids []int64, do string, minutes int) (string, error) {
	if len(ids) > mostBulk {
		return "", refusal.Say("At most %d assignments can be changed at once. Choose fewer.", mostBulk)
	}
	now := s.Now()
	act, ok := map[string]func(*coursework.Standing) error{
		BulkEnough: func(a *coursework.Standing) error { return s.enough(ctx, student, a.ID) },
		BulkSent:   func(a *coursework.Standing) error { return s.Noting.NoteOf(ctx, student, a, &now, "") },
		BulkRemove: func(a *coursework.Standing) error { return s.Removing.Remove(ctx, student, a.ID) },
		BulkWork: func(a *coursework.Standing) error {
			return s.SetWork(ctx, student, a.ID, Work{Minutes: minutes, Done: a.Done, Enough: a.Enough})
		},
	}[do]
	if !ok {
		return "", refusal.Say("There is nothing called %q to do.", do)
	}
	r, err := s.roster(ctx, student)
	if err != nil {
		return "", err
	}
	known := map[int64]*coursework.Standing{}
	for _, a := range r.Stand(r.Now) {
		known[a.ID] = a
	}
	done := 0
	var why []string
	for _, id := range ids {
		a, ok := known[id]
		if !ok {
			return "", refusal.ErrNotFound
		}
		err := act(a)
		var complaint refusal.Complaint
		switch {
		case err == nil:
			done++
		case errors.As(err, &complaint):
			why = append(why, a.Title+": "+complaint.Message)
		default:
			return "", err
		}
	}
	text := fmt.Sprintf("Done for %s.", wording.Count(done, "assignment", "assignments"))
	if len(why) > 0 {
		text += " Not done: " + strings.Join(why, " ")
	}
	return text, nil
}

// enough notes that what was reached is enough; the estimates stay.
func (s Service) enough(ctx context.Context, student, assignment int64) error {
	return s.working(ctx, student, assignment, func(q *query.Queries, _ int) error {
		return refusal.Unless(
			q.SetAssignmentEnough(ctx, query.SetAssignmentEnoughParams{ID: assignment, StudentID: student}),
		)
	})
}
