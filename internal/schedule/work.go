package schedule

import (
	"context"
	"database/sql"

	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// Work is what the student says about an assignment's work: minutes it takes in all (and if all goes well, or
// little does;
// 0: not said), minutes done, and whether what was reached is enough.
type Work struct {
	Minutes, Low, High, Done int
	Enough                   bool
}

// mostMinutes bounds the work on one assignment.
const mostMinutes = 100_000

// SetWork notes what the student says about an assignment's work.
func (s Service) SetWork(ctx context.Context, student, assignment int64, w Work) error {
	for _, minutes := range []int{w.Minutes, w.Low, w.High, w.Done} {
		if minutes < 0 || minutes > mostMinutes {
			return refusal.Say("Minutes of work lie between 0 and 100,000.")
		}
	}
	three := w.Low > 0 || w.High > 0
	if three && (w.Low > w.Minutes || w.High < w.Minutes) {
		return refusal.Say("The estimate for a good course is at most, that for a bad one at least the likely one.")
	}
	return s.working(ctx, student, assignment, func(q *query.Queries, done int) error {
		if w.Done != done {
			if err := s.addWork(ctx, q, student, assignment, w.Done-done); err != nil {
				return err
			}
		}
		_, err := q.SetAssignmentEffort(ctx, query.SetAssignmentEffortParams{
			EffortMinutes: int32(w.Minutes),
			EffortLow:     sql.NullInt32{Int32: int32(w.Low), Valid: three},
			EffortHigh: sql.NullInt32{
				Int32: int32(w.High),
				Valid: three,
			},
			Enough:    w.Enough,
			ID:        assignment,
			StudentID: student,
		})
		return err
	})
}

// LogWork adds minutes that were just worked; below 0 it corrects.
func (s Service) LogWork(ctx context.Context, student, assignment int64, minutes int) error {
	if minutes == 0 || minutes > 24*60 || minutes < -mostMinutes {
		return refusal.Say("Log between a minute and 24 hours at once.")
	}
	return s.working(ctx, student, assignment, func(q *query.Queries, done int) error {
		if done+minutes < 0 {
			return refusal.Say("Less than nothing cannot have been done. Take back %d minutes at most.", done)
		}
		return s.addWork(ctx, q, student, assignment, minutes)
	})
}

// working runs do on an assignment's work, of which so much is done, while nobody else changes it.
func (s Service) working(
	ctx context.Context,
	student, assignment int64,
	do func(q *query.Queries, done int) error,
) error {
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		if _, err := q.LockAssignment(ctx, query.LockAssignmentParams{ID: assignment, StudentID: student}); err != nil {
			return refusal.NotFound(err)
		}
		done, err := q.WorkDoneOn(ctx, query.WorkDoneOnParams{AssignmentID: assignment, StudentID: student})
		if err != nil {
			return err
		}
		if err := do(q, int(done)); err != nil {
			return err
		}
		return s.planned(ctx, q, student, assignment)
	})
}

func (s Service) addWork(ctx context.Context, q *query.Queries, student, assignment int64, minutes int) error {
	return q.AddWork(
		ctx,
		query.AddWorkParams{StudentID: student, AssignmentID: assignment, At: s.Now().UTC(), Minutes: int32(minutes)},
	)
}
