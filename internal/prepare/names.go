package prepare

import (
	"context"
	"time"

	"orario/core/naming"
	"orario/internal/refusal"
	"orario/internal/roster"
)

// An Example is what a name pattern makes.
type Example struct {
	Pieces  []naming.Piece `json:"pieces"`  // of the name; empty: none can be made
	Trouble string         `json:"trouble"` // why the pattern makes no name, or what has to be changed in it
}

// TryName shows what a pattern makes of a file of an assignment.
func (s Service) TryName(ctx context.Context, student, assignment int64, pattern string) (*Example, error) {
	state, err := s.State(ctx, student, assignment, 0)
	if err != nil {
		return nil, err
	}
	fields := state.Fields()
	fields["ext"] = "pdf"
	if slots := state.Sheet.Slots; len(slots) > 0 {
		if fields["slot"] = slots[0].Name; len(slots[0].Forms) > 0 {
			fields["ext"] = slots[0].Forms[0]
		}
	}
	return example(pattern, fields, state.Sheet.PlainNames), nil
}

// TryHabit shows what a pattern makes of a file of some work in a course.
func (s Service) TryHabit(ctx context.Context, student, course int64, pattern string) (*Example, error) {
	r, err := roster.Read(ctx, s.Store, student, s.Now())
	if err != nil {
		return nil, err
	}
	c := r.Course(course)
	if c == nil {
		return nil, refusal.ErrNotFound
	}
	fields := c.Fields(r.Student)
	fields["assignment"], fields["title"], fields["slot"] = "lab-1", "Title of the work", "report"
	fields["attempt"], fields["ext"] = "1", "pdf"
	fields["date"] = s.Now().Format(time.DateOnly)
	return example(pattern, fields, false), nil
}

func example(pattern string, fields naming.Fields, plain bool) *Example {
	p, err := naming.Parse(pattern)
	if err != nil {
		return &Example{Trouble: err.Error(), Pieces: []naming.Piece{}}
	}
	pieces, problems, err := naming.Pieces(p, fields, plain)
	if err != nil {
		return &Example{Trouble: err.Error(), Pieces: []naming.Piece{}}
	}
	e := &Example{Pieces: pieces}
	if len(problems) > 0 {
		e.Trouble = problems[0].Message
	}
	return e
}
