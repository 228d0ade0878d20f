package agenda

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"orario/core/brief"
	"orario/core/coursework"
	"orario/core/inspect"
	"orario/core/timing"
)

// A monday at noon, in a zone that is on UTC in winter.
var (
	lisbon = zone("Europe/Lisbon")
	monday = time.Date(2026, 11, 2, 12, 0, 0, 0, time.UTC)
	perDay = timing.Rule{Kind: timing.PerDay, Percent: 10, Of: "possible"}
)

func zone(name string) *time.Location {
	z, err := time.LoadLocation(name)
	if err != nil {
		panic(err)
	}
	return z
}

// A scene is what a plan is laid of.
type scene struct {
	t        *testing.T
	now      time.Time
	settings Settings
	busy     []Busy
	wish     Wish
	work     coursework.Coursework
}

func newScene(t *testing.T) *scene {
	s := &scene{t: t, now: monday, settings: Usual}
	s.settings.Margin = 0 // send-by is the transfer's minute before due, so that the figures stay simple
	s.work.Courses = []*coursework.Course{{ID: 1, Code: "HYD 214", Zone: lisbon}}
	return s
}

// add puts an assignment of the site in, worth 10 % of the course and 20 points, with a minute's transfer.
func (s *scene) add(title, due string, minutes int, change ...func(*coursework.Assignment)) *coursework.Assignment {
	w, err := timing.ParseWindow("Europe/Lisbon", "", due, "", 0)
	require.NoError(s.t, err)
	a := &coursework.Assignment{
		ID:     int64(len(s.work.Assignments) + 1),
		Course: s.work.Courses[0],
		Source: coursework.FromSite,
		Title:  title,
		Points: 20,
		Weight: 10,
		Late:   timing.Rule{Kind: timing.NoLateWork},
		Sheet:  brief.Sheet{Slots: []brief.Slot{{Name: "work", Required: true, Forms: []string{"pdf"}, Most: 1}}},
		Effort: coursework.Effort{Likely: minutes},
		Parts:  []*coursework.Part{{ID: int64(len(s.work.Assignments) + 1), Window: w}},
	}
	for _, c := range change {
		c(a)
	}
	s.work.Assignments = append(s.work.Assignments, a)
	return a
}

func (s *scene) lay() *Plan {
	s.work.Margin = time.Duration(s.settings.Margin) * time.Minute
	return Lay(Input{
		Now:       s.now,
		Zone:      lisbon,
		Settings:  s.settings,
		Standings: s.work.Stand(s.now),
		Busy:      s.busy,
		Wish:      s.wish,
	})
}

// The changes that tests make to assignments.

func worth(percent float64) func(*coursework.Assignment) {
	return func(a *coursework.Assignment) { a.Weight = percent }
}

func late(r timing.Rule) func(*coursework.Assignment) {
	return func(a *coursework.Assignment) { a.Late = r }
}

func closes(t *testing.T, wall string) func(*coursework.Assignment) {
	return func(a *coursework.Assignment) {
		at, err := timing.ParseWall(wall, lisbon)
		require.NoError(t, err)
		a.Parts[0].Window.Closes = &at
	}
}

func opens(t *testing.T, wall string) func(*coursework.Assignment) {
	return func(a *coursework.Assignment) {
		at, err := timing.ParseWall(wall, lisbon)
		require.NoError(t, err)
		a.Parts[0].Window.Opens = &at
	}
}

// holding puts a file of a kind into the bundle.
func holding(kind string) func(*coursework.Assignment) {
	return func(a *coursework.Assignment) {
		a.Parts[0].Attempts = append(a.Parts[0].Attempts, &coursework.Attempt{Number: 1, Items: []coursework.Item{{
			ID: 1, Slot: "work", Name: "Quintal_ripple." + kind, Facts: &inspect.Facts{Kind: kind, Bytes: 1000},
		}}})
	}
}

// sent has the site take attempt 1.
func sent(at time.Time, change ...func(*coursework.Submission)) func(*coursework.Assignment) {
	return func(a *coursework.Assignment) {
		sub := &coursework.Submission{ID: 7, Attempt: 1, State: coursework.Accepted, AcceptedAt: &at}
		for _, c := range change {
			c(sub)
		}
		a.Parts[0].Attempts = []*coursework.Attempt{{Number: 1, Submissions: []*coursework.Submission{sub}}}
	}
}

func proved(sub *coursework.Submission) { yes := true; sub.Proved = &yes }

func marked(mark float64) func(*coursework.Submission) {
	return func(sub *coursework.Submission) { sub.Return = &coursework.Return{Mark: &mark, Points: 20} }
}

func titles(p *Plan) (list []string) {
	for _, m := range p.Moves() {
		list = append(list, m.Title)
	}
	return list
}
