package main

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"orario/core/timing"
)

// A timingScenario is one window with its late rule and the questions put to it, as a document.
type timingScenario struct {
	Zone               string       `json:"zone"`
	Opens              string       `json:"opens"`
	Due                string       `json:"due"`
	Closes             string       `json:"closes"`
	GraceMinutes       int64        `json:"grace_minutes"`
	Late               *writtenRule `json:"late"`
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

// writtenRule is a rule as a document states it, in which a percent that is absent is not a percent of 0.
type writtenRule struct {
	timing.Rule
	Percent *float64 `json:"percent"`
}

func (l writtenRule) rule() timing.Rule {
	l.Rule.Percent = or(l.Percent, 0)
	return l.Rule
}

// A timingAnswer is what follows from a scenario.
type timingAnswer struct {
	Opens  *string       `json:"opens"`
	Due    string        `json:"due"`
	Closes *string       `json:"closes"`
	SendBy sendByAnswer  `json:"send_by"`
	At     []atAnswer    `json:"at"`
	Curve  []curveAnswer `json:"curve"`
}

// sendByAnswer is send-by with its components.
type sendByAnswer struct {
	At      string             `json:"at"`
	Because []timing.Component `json:"because"`
}

// atAnswer is the window at one instant; cost and mark are nil while nothing is accepted.
type atAnswer struct {
	At         string       `json:"at"`
	State      timing.State `json:"state"`
	DaysLate   int          `json:"days_late"`
	CostPoints *float64     `json:"cost_points"`
	Mark       *float64     `json:"mark"`
	NextChange *string      `json:"next_change"`
}

// curveAnswer is one point of the cost curve.
type curveAnswer struct {
	From       string  `json:"from"`
	CostPoints float64 `json:"cost_points"`
}

// answer computes everything the scenario asks for; an error names the key that cannot be used.
func (s timingScenario) answer() (*timingAnswer, error) {
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
	out := &timingAnswer{Due: utc(window.Due.At()), At: []atAnswer{}, Curve: []curveAnswer{}}
	if window.Opens != nil {
		out.Opens = optional(window.Opens.At())
	}
	if window.Closes != nil {
		out.Closes = optional(window.Closes.At())
	}
	sendBy, because, err := timing.SendBy(window.Due.At(), s.job())
	if err != nil {
		return nil, err
	}
	out.SendBy = sendByAnswer{utc(sendBy), because}
	for _, text := range s.At {
		at, err := timing.ParseWall(text, window.Zone)
		if err != nil {
			return nil, fmt.Errorf("at: %w", err)
		}
		t := at.At()
		state, next := window.At(t, rule)
		answer := atAnswer{At: utc(t), State: state, DaysLate: window.DaysLate(t, rule), NextChange: optional(next)}
		if state == timing.Open || state == timing.Late {
			cost := 0.0
			if state == timing.Late {
				cost = window.Cost(t, rule, earned, points)
			}
			mark := earned - cost
			answer.CostPoints, answer.Mark = &cost, &mark
		}
		out.At = append(out.At, answer)
	}
	for _, c := range window.Curve(rule, earned, points) {
		out.Curve = append(out.Curve, curveAnswer{utc(c.From), c.Cost})
	}
	return out, nil
}

func (s timingScenario) window() (timing.Window, error) {
	if s.Zone == "" || s.Due == "" || s.Points == nil || s.Late == nil {
		return timing.Window{}, errors.New("zone, due, points and late are required")
	}
	w, err := timing.ParseWindow(s.Zone, s.Opens, s.Due, s.Closes, int(s.GraceMinutes))
	if err != nil {
		return w, err
	}
	for name, value := range map[string]float64{
		"grace_minutes": float64(s.GraceMinutes), "points": *s.Points, "earned": or(s.Earned, 0),
		"bytes": float64(s.Bytes), "rate_bytes_per_second": or(s.Rate, 1), "report_rounds": float64(s.ReportRounds),
		"first_report_minutes": float64(or(s.FirstReportMinutes, 0)),
		"later_report_minutes": float64(or(s.LaterReportMinutes, 0)),
		"fix_minutes":          float64(s.FixMinutes), "margin_minutes": float64(or(s.MarginMinutes, 0)),
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
	if kind := s.Late.Kind; s.Late.Percent == nil &&
		(kind == timing.Fixed || kind == timing.PerDay || kind == timing.PerHours) {
		return w, fmt.Errorf("late.percent is required for %s", kind)
	}
	return w, s.Late.rule().Validate()
}

func (s timingScenario) job() timing.Job {
	return timing.Job{
		Bytes: s.Bytes, Rate: or(s.Rate, 0), Rounds: s.ReportRounds,
		FirstReport: time.Duration(or(s.FirstReportMinutes, int64(timing.UsualFirstReport/time.Minute))) * time.Minute,
		LaterReport: time.Duration(or(s.LaterReportMinutes, int64(timing.UsualLaterReport/time.Minute))) * time.Minute,
		Fix:         time.Duration(s.FixMinutes) * time.Minute,
		Margin:      time.Duration(or(s.MarginMinutes, int64(timing.UsualMargin/time.Minute))) * time.Minute,
	}
}

// mostMinutes bounds every amount of time in a document, a hundred years, so that sums stay exact.
const mostMinutes = timing.MostMinutes

func or[T any](p *T, otherwise T) T {
	if p == nil {
		return otherwise
	}
	return *p
}

func utc(t time.Time) string { return t.UTC().Format(time.RFC3339) }

func optional(t time.Time) *string {
	if t.IsZero() {
		return nil
	}
	s := utc(t)
	return &s
}
