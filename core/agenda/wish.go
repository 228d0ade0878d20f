package agenda

import (
	"errors"
	"fmt"
	"slices"
	"time"
)

// A Wish is a plan as the student would have it: stretches that are to stay where they are, and times before which
// work is not begun.
type Wish struct {
	Pins      []Pin   `json:"pins"`
	NotBefore []Begin `json:"not_before"`
}

// A Pin is a stretch of work that stays where it is.
type Pin struct {
	AssignmentID int64     `json:"assignment_id"`
	Start        time.Time `json:"start"`
	End          time.Time `json:"end"`
}

// A Begin is the earliest time at which work on an assignment is planned.
type Begin struct {
	AssignmentID int64     `json:"assignment_id"`
	At           time.Time `json:"at"`
}

// A Trial is a wish, with one stretch of planned work to be moved in it.
type Trial struct {
	Wish  Wish   `json:"wish"`
	Shift *Shift `json:"shift"`
}

// A Shift moves a stretch of planned work as long as it is; without a To it is let go of.
type Shift struct {
	AssignmentID int64      `json:"assignment_id"`
	Start        time.Time  `json:"start"`
	End          time.Time  `json:"end"`
	To           *time.Time `json:"to"`
}

// Shifted is the wish with one stretch pinned where it was moved, or let go of. The first stretch of an assignment
// moved later means that its work begins only then; put before that, it begins earlier again.
func (w Wish) Shifted(s Shift, first bool) Wish {
	out := Wish{Pins: []Pin{}, NotBefore: []Begin{}}
	for _, p := range w.Pins {
		if p.AssignmentID != s.AssignmentID || !p.Start.Before(s.End) || !p.End.After(s.Start) {
			out.Pins = append(out.Pins, p)
		}
	}
	for _, b := range w.NotBefore {
		keep := s.To != nil && !b.At.After(*s.To) && !(first && s.To.After(s.Start))
		if b.AssignmentID != s.AssignmentID || keep {
			out.NotBefore = append(out.NotBefore, b)
		}
	}
	if s.To == nil {
		return out
	}
	out.Pins = append(out.Pins, Pin{s.AssignmentID, *s.To, s.To.Add(s.End.Sub(s.Start))})
	if first && s.To.After(s.Start) {
		out.NotBefore = append(out.NotBefore, Begin{s.AssignmentID, *s.To})
	}
	return out
}

// Limits of a wish: how many stretches it pins, and how far from now they may lie.
const (
	mostPins = 500
	mostFar  = 2 * 366 * 24 * time.Hour
)

// ErrUnknown says that a wish is about an assignment that is not there.
var ErrUnknown = errors.New("the plan names an assignment that is not there")

// Sound says why a wish cannot be planned, if it cannot: [ErrUnknown], or an error that says what to do.
func (w Wish) Sound(now time.Time, known func(assignment int64) bool) error {
	if len(w.Pins) > mostPins || len(w.NotBefore) > mostPins {
		return fmt.Errorf("a plan has at most %d pinned stretches; take some out", mostPins)
	}
	far := func(at time.Time) bool { return at.Before(now.Add(-mostFar)) || at.After(now.Add(mostFar)) }
	pins := slices.SortedFunc(slices.Values(w.Pins), func(a, b Pin) int { return a.Start.Compare(b.Start) })
	for i, p := range pins {
		switch {
		case !known(p.AssignmentID):
			return ErrUnknown
		case !p.Start.Before(p.End) || p.End.Sub(p.Start) > 24*time.Hour:
			return errors.New("a stretch of work lasts between a minute and 24 hours; choose another end")
		case far(p.Start):
			return errors.New("work is planned within two years of today; choose another day")
		case i > 0 && p.Start.Before(pins[i-1].End):
			return errors.New("two pinned stretches would overlap; put this one elsewhere, or let go of the other")
		}
	}
	for _, b := range w.NotBefore {
		if !known(b.AssignmentID) {
			return ErrUnknown
		}
		if far(b.At) {
			return errors.New("work is planned within two years of today; choose another day")
		}
	}
	return nil
}
