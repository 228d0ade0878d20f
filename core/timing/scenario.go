package timing

import (
	"errors"
	"fmt"
	"strings"
	"time"
)

// A Scenario is one window with its late rule and the questions put to it, as a document.
type Scenario struct {
	Zone               string       `json:"zone"`
	Opens              string       `json:"opens"`
	Due                string       `json:"due"`
	Closes             string       `json:"closes"`
	GraceMinutes       int64        `json:"grace_minutes"`
	Late               *WrittenRule `json:"late"`
	Points             *float64     `json:"points"`
	Earned             *float64     `json:"earned"`
	At                 []string     `json:"at"`
	Bytes              int64        `json:"bytes"`
	Rate               *float64     `json:"rate_bytes_per_second"`
	ReportRounds       int          `json:"report_rounds"`
	FirstReportMinutes *int64       `json:"first_report_minutes"`
	LaterReportMinutes *int64       `json:"later_report_minutes"`
	FixMinutes         int64        `json:"fix_minutes"`
	MarginMinutes      *int64       `json:"margin_minutes"`
}

// WrittenRule is a rule as a document states it, in which a percent that is absent is not a percent of 0.
type WrittenRule struct {
	Rule
	Percent *float64 `json:"percent"`
}

func (l WrittenRule) rule() Rule {
	l.Rule.Percent = or(l.Percent, 0)
	return l.Rule
}

// An Answer is what follows from a scenario.
type Answer struct {
	Opens  *string       `json:"opens"`
	Due    string        `json:"due"`
	Closes *string       `json:"closes"`
	SendBy SendByAnswer  `json:"send_by"`
	At     []AtAnswer    `json:"at"`
	Curve  []CurveAnswer `json:"curve"`
}

// SendByAnswer is send-by with its components.
type SendByAnswer struct {
	At      string      `json:"at"`
	Because []Component `json:"because"`
}

// AtAnswer is the window at one instant; cost and mark are nil while nothing is accepted.
type AtAnswer struct {
	At         string   `json:"at"`
	State      State    `json:"state"`
	DaysLate   int      `json:"days_late"`
	CostPoints *float64 `json:"cost_points"`
	Mark       *float64 `json:"mark"`
	NextChange *string  `json:"next_change"`
}

// CurveAnswer is one point of the cost curve.
type CurveAnswer struct {
	From       string  `json:"from"`
	CostPoints float64 `json:"cost_points"`
}

// Answer computes everything the scenario asks for; an error names the key that cannot be used.
func (s Scenario) Answer() (*Answer, error) {
	window, err := s.window()
	if err != nil {
		return nil, err
	}
	rule := s.Late.rule()
	points := *s.Points
	earned := points
	if s.Earned != nil {
		earned = *s.Earned
	}
	out := &Answer{Due: utc(window.Due.At()), At: []AtAnswer{}, Curve: []CurveAnswer{}}
	if window.Opens != nil {
		out.Opens = optional(window.Opens.At())
	}
	if window.Closes != nil {
		out.Closes = optional(window.Closes.At())
	}
	sendBy, because := SendBy(window.Due.At(), s.job())
	out.SendBy = SendByAnswer{utc(sendBy), because}
	for _, text := range s.At {
		at, err := ParseWall(text, window.Zone)
		if err != nil {
			return nil, fmt.Errorf("at: %w", err)
		}
		t := at.At()
		state, next := window.At(t, rule)
		answer := AtAnswer{At: utc(t), State: state, DaysLate: window.DaysLate(t, rule), NextChange: optional(next)}
		if state == Open || state == Late {
			cost := 0.0
			if state == Late {
				cost = window.Cost(t, rule, earned, points)
			}
			mark := earned - cost
			answer.CostPoints, answer.Mark = &cost, &mark
		}
		out.At = append(out.At, answer)
	}
	for _, c := range window.Curve(rule, earned, points) {
		out.Curve = append(out.Curve, CurveAnswer{utc(c.From), c.Cost})
	}
	return out, nil
}

func (s Scenario) window() (Window, error) {
	if s.Zone == "" || s.Due == "" || s.Points == nil || s.Late == nil {
		return Window{}, errors.New("zone, due, points and late are required")
	}
	w, err := ParseWindow(s.Zone, s.Opens, s.Due, s.Closes, int(s.GraceMinutes))
	if err != nil {
		return w, err
	}
	for name, value := range map[string]float64{
		"grace_minutes": float64(s.GraceMinutes), "points": *s.Points, "earned": or(s.Earned, 0),
		"bytes": float64(s.Bytes), "rate_bytes_per_second": or(s.Rate, 1), "report_rounds": float64(s.ReportRounds),
		"first_report_minutes": float64(or(s.FirstReportMinutes, 0)), "later_report_minutes": float64(or(s.LaterReportMinutes, 0)),
		"fix_minutes": float64(s.FixMinutes), "margin_minutes": float64(or(s.MarginMinutes, 0)),
	} {
		if value < 0 {
			return w, fmt.Errorf("%s must not be negative", name)
		}
		if strings.HasSuffix(name, "_minutes") && value > mostMinutes {
			return w, fmt.Errorf("%s must not be over %d, a hundred years", name, mostMinutes)
		}
	}
	if s.Bytes > 0 && or(s.Rate, 0) <= 0 {
		return w, errors.New("bytes need a rate_bytes_per_second above 0")
	}
	if kind := s.Late.Kind; s.Late.Percent == nil && (kind == Fixed || kind == PerDay || kind == PerHours) {
		return w, fmt.Errorf("late.percent is required for %s", kind)
	}
	return w, s.Late.rule().Validate()
}

// mostMinutes bounds every amount of time in a scenario, so that sums stay exact.
const mostMinutes = 100 * 366 * 24 * 60

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
	if r.Percent < 0 || r.Hours < 0 || r.Floor < 0 || or(r.Cap, 0) < 0 {
		return errors.New("late must not hold negative numbers")
	}
	if r.Kind == PerHours && (r.Hours*float64(time.Hour) < 1 || r.Hours > mostMinutes/60) {
		return errors.New("late.hours must be above 0 and at most a hundred years for per_hours")
	}
	if r.Kind == Steps && len(r.Steps) == 0 {
		return errors.New("late.steps is required for steps")
	}
	for i, s := range r.Steps {
		if s.AfterMinutes < 0 || s.Percent < 0 || s.AfterMinutes > mostMinutes {
			return errors.New("late.steps must not hold negative numbers, nor more than a hundred years")
		}
		if i > 0 && s.AfterMinutes <= r.Steps[i-1].AfterMinutes {
			return errors.New("late.steps must ascend by after_minutes")
		}
	}
	return nil
}

func (s Scenario) job() Job {
	return Job{
		Bytes: s.Bytes, Rate: or(s.Rate, 0), Rounds: s.ReportRounds,
		FirstReport: time.Duration(or(s.FirstReportMinutes, inMinutes(UsualFirstReport))) * time.Minute,
		LaterReport: time.Duration(or(s.LaterReportMinutes, inMinutes(UsualLaterReport))) * time.Minute,
		Fix:         time.Duration(s.FixMinutes) * time.Minute,
		Margin:      time.Duration(or(s.MarginMinutes, inMinutes(UsualMargin))) * time.Minute,
	}
}

func or[T any](p *T, otherwise T) T {
	if p == nil {
		return otherwise
	}
	return *p
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

func utc(t time.Time) string { return t.UTC().Format(time.RFC3339) }

func optional(t time.Time) *string {
	if t.IsZero() {
		return nil
	}
	s := utc(t)
	return &s
}
