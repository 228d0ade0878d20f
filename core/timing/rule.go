package timing

import (
	"errors"
	"fmt"
	"time"
)

// MostMinutes bounds every amount of time in a rule, so that sums stay exact.
const MostMinutes = 100 * 366 * 24 * 60

// Validate says what a rule lacks for its kind.
func (r Rule) Validate() error {
	switch r.Kind {
	case NoLateWork:
		return nil
	case Fixed, PerDay, PerHours, Steps:
	case "":
		return errors.New("late.kind is required: none, fixed, per_day, per_hours or steps")
	default:
		return fmt.Errorf("late.kind %q is none of none, fixed, per_day, per_hours, steps", r.Kind)
	}
	if r.Of != "earned" && r.Of != "possible" && r.Of != "points" {
		return fmt.Errorf("late.of %q is none of earned, possible, points", r.Of)
	}
	if r.Percent < 0 || r.Hours < 0 || r.Floor < 0 || r.Cap != nil && *r.Cap < 0 {
		return errors.New("late must not hold negative numbers")
	}
	if r.Kind == PerHours && (r.Hours*float64(time.Hour) < 1 || r.Hours > MostMinutes/60) {
		return errors.New("late.hours must be above 0 and at most a hundred years for per_hours")
	}
	if r.Kind == Steps && len(r.Steps) == 0 {
		return errors.New("late.steps is required for steps")
	}
	for i, s := range r.Steps {
		if s.AfterMinutes < 0 || s.Percent < 0 || s.AfterMinutes > MostMinutes {
			return errors.New("late.steps must not hold negative numbers, nor more than a hundred years")
		}
		if i > 0 && s.AfterMinutes <= r.Steps[i-1].AfterMinutes {
			return errors.New("late.steps must ascend by after_minutes")
		}
	}
	return nil
}

func optionalWall(key, text string, zone *time.Location) (*Wall, error) {
	if text == "" {
		return nil, nil
	}
	w, err := ParseWall(text, zone)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", key, err)
	}
	return &w, nil
}
