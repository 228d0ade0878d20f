package timing

import (
	"errors"
	"fmt"
	"math"
	"time"
)

// A Window says from when to when work is taken. Opens and Closes may be absent.
type Window struct {
	Opens  *Wall
	Due    Wall
	Closes *Wall
	Grace  time.Duration // after due, without a price
	Zone   *time.Location
}

// ParseWindow reads the wall times of a window in the zone that they were written in; opens and closes
// may be empty.
func ParseWindow(zone, opens, due, closes string, graceMinutes int) (Window, error) {
	w := Window{Grace: time.Duration(graceMinutes) * time.Minute}
	var err error
	if w.Zone, err = Zone(zone); err != nil {
		return w, err
	}
	if w.Due, err = ParseWall(due, w.Zone); err != nil {
		return w, fmt.Errorf("due: %w", err)
	}
	if w.Opens, err = optionalWall("opens", opens, w.Zone); err != nil {
		return w, err
	}
	if w.Closes, err = optionalWall("closes", closes, w.Zone); err != nil {
		return w, err
	}
	if w.Opens != nil && !w.Opens.At().Before(w.Due.At()) {
		return w, errors.New("opens must be before due")
	}
	if w.Closes != nil && w.Closes.At().Before(w.Due.At()) {
		return w, errors.New("closes must not be before due")
	}
	return w, nil
}

// The years in which courses have times; what lies outside is a mistake.
const (
	firstYear = 1990
	lastYear  = 2200
)

// SoundWindow says what is wrong with times that a course is to keep, if anything is: each a wall time without an
// offset, of a year in which there are courses, in an order that can be, with a grace that ends.
func SoundWindow(zone, opens, due, closes string, graceMinutes int) error {
	for name, text := range map[string]string{"opens": opens, "due": due, "closes": closes} {
		if text == "" {
			continue
		}
		at, err := time.Parse("2006-01-02T15:04", text)
		if err != nil {
			at, err = time.Parse("2006-01-02T15:04:05", text)
		}
		if err != nil || len(text) > len("2006-01-02T15:04:05") {
			return fmt.Errorf("%s: %q is no time like 2026-10-25T23:59", name, text)
		}
		if at.Year() < firstYear || at.Year() > lastYear {
			return fmt.Errorf("%s: no course has a time in the year %d", name, at.Year())
		}
	}
	if graceMinutes < 0 || graceMinutes > MostMinutes {
		return errors.New("the grace cannot be below nothing, nor above a hundred years")
	}
	_, err := ParseWindow(zone, opens, due, closes, graceMinutes)
	return err
}

// State is what a course site does with work that arrives at some instant.
type State string

// The states of a window, in the order in which they come.
const (
	NotOpen State = "not_open"
	Open    State = "open"
	Late    State = "late" // taken, at a price
	Closed  State = "closed"
)

// lateFrom is the instant at which lateness starts to count: the end of due, plus the grace.
func (w Window) lateFrom() time.Time { return w.Due.End().Add(w.Grace) }

// Shuts is the instant from which nothing is taken, and whether there is one: the end of closes,
// and where no late work is taken at the latest the end of the grace.
func (w Window) Shuts(rule Rule) (time.Time, bool) {
	if w.Closes == nil {
		return w.lateFrom(), rule.Kind == NoLateWork
	}
	shuts := w.Closes.End()
	if rule.Kind == NoLateWork && w.lateFrom().Before(shuts) {
		shuts = w.lateFrom()
	}
	return shuts, true
}

// At is the state at t and the first instant of the next state; zero if there is none.
func (w Window) At(t time.Time, rule Rule) (state State, next time.Time) {
	shuts, ever := w.Shuts(rule)
	late := w.lateFrom()
	switch {
	case ever && !t.Before(shuts):
		return Closed, time.Time{}
	case w.Opens != nil && t.Before(w.Opens.At()):
		return NotOpen, w.Opens.At()
	case t.Before(late):
		if ever && shuts.Before(late) {
			return Open, shuts
		}
		return Open, late
	case ever:
		return Late, shuts
	}
	return Late, time.Time{}
}

// Kind is the shape of a late rule.
type Kind string

// The shapes of late rules.
const (
	NoLateWork Kind = "none"
	Fixed      Kind = "fixed"
	PerDay     Kind = "per_day"
	PerHours   Kind = "per_hours"
	Steps      Kind = "steps"
)

// A Rule is what lateness costs. Percent is per unit of time (per step: in Steps) of what Of names:
// "earned", "possible", or "points", where it is a number of points.
type Rule struct {
	Kind         Kind     `json:"kind"`
	Percent      float64  `json:"percent,omitempty"`
	Of           string   `json:"of,omitempty"`
	Hours        float64  `json:"hours,omitempty"`         // of PerHours
	Steps        []Step   `json:"steps,omitempty"`         // of Steps, ascending
	Cap          *float64 `json:"cap,omitempty"`           // the most, in the unit of Percent; 0: free
	Floor        float64  `json:"floor,omitempty"`         // points that lateness leaves in any case
	WeekendsFree bool     `json:"weekends_free,omitempty"` // late time stands still on Saturday and Sunday
}

// A Step is the whole price from so many late minutes on.
type Step struct {
	AfterMinutes float64 `json:"after_minutes" required:"true"`
	Percent      float64 `json:"percent"       required:"true"`
}

// DaysLate is the number of 24-hour periods of late time begun at t.
func (w Window) DaysLate(t time.Time, rule Rule) int {
	return w.clock(rule).read(t).begun(24 * time.Hour)
}

// Cost is what work worth earned of possible points loses when it arrives at t, not rounded. It says
// nothing about whether work is taken at t; see [Window.At].
func (w Window) Cost(t time.Time, rule Rule, earned, possible float64) float64 {
	return rule.price(w.clock(rule).read(t), earned, possible)
}

func (r Rule) price(late reading, earned, possible float64) float64 {
	percent := 0.0
	switch r.Kind {
	case Fixed:
		if late.begun(24*time.Hour) > 0 {
			percent = r.Percent
		}
	case PerDay:
		percent = r.Percent * float64(late.begun(24*time.Hour))
	case PerHours:
		percent = r.Percent * float64(late.begun(hours(r.Hours)))
	case Steps:
		for _, s := range r.Steps {
			if late.reached(minutes(s.AfterMinutes)) {
				percent = s.Percent
			}
		}
	}
	if r.Cap != nil {
		percent = math.Min(percent, *r.Cap)
	}
	cost := percent
	switch r.Of {
	case "earned":
		cost = percent / 100 * earned
	case "possible":
		cost = percent / 100 * possible
	}
	return math.Max(0, math.Min(cost, earned-r.Floor))
}

// A Change is an instant from which lateness costs something else than before.
type Change struct {
	From time.Time
	Cost float64 // points
}

// mostChanges bounds a curve whose price per unit is minute beside what there is to lose.
const mostChanges = 10_000

// Curve lists the changes of the cost, from the first that is not 0 until cap or floor is reached,
// the window shuts, or 10,000 are listed.
func (w Window) Curve(rule Rule, earned, possible float64) []Change {
	clock := w.clock(rule)
	shuts, ever := w.Shuts(rule)
	most := math.Max(0, earned-rule.Floor)
	curve, last := []Change{}, 0.0
	add := func(after time.Duration) bool {
		from := clock.when(after)
		if ever && !from.Before(shuts) {
			return false
		}
		cost := rule.price(clock.read(from), earned, possible)
		if cost == last {
			return last == 0 && rule.Percent > 0 && most > 0 && len(curve) < mostChanges &&
				(rule.Cap == nil || *rule.Cap > 0)
		}
		curve, last = append(curve, Change{from, cost}), cost
		return cost < most && len(curve) < mostChanges
	}
	switch rule.Kind {
	case Fixed:
		add(0)
	case PerDay, PerHours:
		every := 24 * time.Hour
		if rule.Kind == PerHours {
			every = hours(rule.Hours)
		}
		for n := time.Duration(0); add(n * every); n++ {
		}
	case Steps:
		for _, s := range rule.Steps {
			add(minutes(s.AfterMinutes))
		}
	}
	return curve
}

func hours(h float64) time.Duration   { return time.Duration(h * float64(time.Hour)) }
func minutes(m float64) time.Duration { return time.Duration(m * float64(time.Minute)) }
