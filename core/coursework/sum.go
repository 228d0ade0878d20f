package coursework

import (
	"cmp"
	"fmt"
)

// A CourseSum is how a course stands: its assignments added up, in percent of its mark.
type CourseSum struct {
	Open   int     // assignments whose work is ahead
	Known  float64 // what all assignments that are there weigh
	Marked float64 // what those weigh that came back
	Earned float64 // of that
}

// Sum adds up a course's assignments; what was cancelled does not count.
func Sum(standings []*Standing, course *Course) (sum CourseSum) {
	for _, s := range standings {
		if s.Course.ID != course.ID || s.Assignment.Cancelled {
			continue
		}
		sum.Known += s.Weight
		if s.Ahead() {
			sum.Open++
		}
		if last, sent := s.Part.Last(); sent && last.Return != nil && last.Return.Mark != nil {
			sum.Earned += *last.Return.Mark / cmp.Or(last.Return.Points, 1) * s.Weight
			sum.Marked += s.Weight
		}
	}
	return sum
}

// SayKnown says how much of the course is known.
func (c CourseSum) SayKnown() string { return fmt.Sprintf("%g %% of the course is known", c.Known) }

// SayMarked says what the marks so far add up to; empty: nothing came back.
func (c CourseSum) SayMarked() string {
	if c.Marked == 0 {
		return ""
	}
	return fmt.Sprintf("%.1f of %g %% of the course", c.Earned, c.Marked)
}
