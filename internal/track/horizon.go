package track

import (
	"context"
	"fmt"
	"slices"
	"time"

	"orario/core/timing"
	"orario/core/wording"
)

// Horizon is the home screen.
type Horizon struct {
	Now     time.Time `json:"now"`
	Zone    string    `json:"zone"` // the student's
	Notices []string  `json:"notices"`
	Summary string    `json:"summary"`
	Courses []Course  `json:"courses"`
	Lines   []Line    `json:"lines"` // by slack
	Moves   []Move    `json:"moves"`
	Crowds  []Crowd   `json:"crowds"`
	Changes []Change  `json:"changes"` // since they were last looked at, the newest first
	Views   []View    `json:"views"`   // of the list, as saved
}

// A Crowd is an hour in which many things are due.
type Crowd struct {
	Start time.Time `json:"start"`
	End   time.Time `json:"end"`
	Text  string    `json:"text"`
}

// Horizon computes the home screen.
func (s Service) Horizon(ctx context.Context, student int64) (*Horizon, error) {
	list, p, err := s.load(ctx, student)
	if err != nil {
		return nil, err
	}
	h := &Horizon{Now: s.Now().UTC(), Zone: p.who.Zone, Notices: []string{}, Lines: []Line{}, Moves: []Move{}, Crowds: []Crowd{}}
	sites, err := s.Store.Sites(ctx, student)
	if err != nil {
		return nil, err
	}
	for _, site := range sites {
		if site.Notice != "" {
			h.Notices = append(h.Notices, site.Notice)
		}
		h.Now = s.Now().Add(time.Duration(site.ClockOffsetMs) * time.Millisecond).UTC()
	}
	if h.Courses, err = s.courses(ctx, student, list); err != nil {
		return nil, err
	}
	h.Courses = slices.DeleteFunc(h.Courses, func(c Course) bool { return c.Archived })
	for _, t := range list {
		if !t.Hidden() {
			h.Lines = append(h.Lines, t.line)
		}
	}
	if h.Changes, err = s.changes(ctx, student, p.who.SeenEvent); err != nil {
		return nil, err
	}
	if h.Views, err = s.views(ctx, student); err != nil {
		return nil, err
	}
	h.Moves = moves(list, p)
	h.Crowds = crowds(list)
	h.Summary = summary(list, p)
	return h, nil
}

func summary(list []*tracked, p *plan) string {
	count := map[string]int{}
	for _, t := range list {
		if !t.Hidden() {
			count[t.line.State]++
		}
	}
	return fmt.Sprintf("%d open, %d waiting, %d came back. ", count[Open]+count[Late], count[Waiting]+count[Sending], count[Back]) + work(p)
}

// work says whether the work fits.
func work(p *plan) string {
	if p.left == 0 {
		return "No work is planned."
	}
	text := fmt.Sprintf("%s of work in %s of free time", wording.Work(p.left), wording.Work(p.room))
	if o := p.overload; o != nil {
		return text + fmt.Sprintf("; too much by %s.", wording.Work(o.Demand-o.Capacity))
	}
	return text + ": it fits."
}

// crowds joins the coming due times that lie close together.
func crowds(list []*tracked) []Crowd {
	var dues []time.Time
	for _, t := range list {
		if t.line.Due.After(t.Now) && !t.Hidden() {
			dues = append(dues, t.line.Due)
		}
	}
	slices.SortFunc(dues, time.Time.Compare)
	out := []Crowd{}
	for i := 0; i < len(dues); {
		j := i
		for j < len(dues) && dues[j].Sub(dues[i]) <= timing.CrowdSpan {
			j++
		}
		if j-i >= 3 {
			out = append(out, Crowd{dues[i].Add(-time.Hour), dues[j-1].Add(timing.CrowdSpan), fmt.Sprintf("%d due close together", j-i)})
		}
		i = j
	}
	return out
}
