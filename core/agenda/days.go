package agenda

import (
	"fmt"
	"slices"
	"time"

	"orario/core/coursework"
	"orario/core/planner"
	"orario/core/timing"
	"orario/core/wording"
)

// A Day is one of the student's days, with the work of it.
type Day struct {
	Date  string    `json:"date"` // YYYY-MM-DD in the student's zone
	Free  string    `json:"free"` // how much can be done
	Work  string    `json:"work"` // how much is planned; empty: none
	Busy  []Busy    `json:"busy"`
	Slabs []Slab    `json:"slabs"`
	Dues  []Mark    `json:"dues"`
	Start time.Time `json:"start"`
	Hours []Hours   `json:"hours"` // in which work can be planned
}

// Hours is a stretch in which work can be planned.
type Hours struct {
	Start time.Time `json:"start"`
	End   time.Time `json:"end"`
}

// A Slab is a stretch of planned work with what it is for.
type Slab struct {
	AssignmentID int64     `json:"assignment_id"`
	Course       string    `json:"course"`
	Title        string    `json:"title"`
	Start        time.Time `json:"start"`
	End          time.Time `json:"end"`
	Pinned       bool      `json:"pinned"`
	Last         bool      `json:"last"` // it finishes the work
}

// A Mark is a time that matters on a day.
type Mark struct {
	AssignmentID int64     `json:"assignment_id"`
	Course       string    `json:"course"`
	Title        string    `json:"title"`
	What         string    `json:"what"` // opens, send by, due or closes
	At           time.Time `json:"at"`
	Zone         string    `json:"zone"`
}

// Days lays the plan out by the student's days: n of them, from the one that from lies in. A day has 23 or 25 hours
// where the clocks change.
func (p *Plan) Days(from time.Time, n int) []Day {
	out := []Day{}
	first := from.In(p.Zone)
	for i := range n {
		start := time.Date(first.Year(), first.Month(), first.Day()+i, 0, 0, 0, 0, p.Zone)
		end := time.Date(first.Year(), first.Month(), first.Day()+i+1, 0, 0, 0, 0, p.Zone)
		out = append(out, p.day(start, end))
	}
	return out
}

func (p *Plan) day(start, end time.Time) Day {
	in := func(at time.Time) bool { return !at.Before(start) && at.Before(end) }
	d := Day{
		Date:  start.Format(time.DateOnly),
		Start: start.UTC(),
		Busy:  []Busy{},
		Slabs: []Slab{},
		Dues:  []Mark{},
		Hours: []Hours{},
	}
	d.Free = wording.Work(planner.Within(p.Capacity, start, end))
	for _, c := range p.Capacity {
		if c.Start.Before(end) && c.End.After(start) {
			d.Hours = append(d.Hours, Hours{c.Start, c.End})
		}
	}
	for _, b := range p.Busy {
		if b.Start.Before(end) && b.End.After(start) {
			d.Busy = append(d.Busy, b)
		}
	}
	var total time.Duration
	for _, e := range p.Entries {
		for j, b := range e.Blocks {
			if in(b.Start) {
				d.Slabs = append(
					d.Slabs,
					Slab{e.ID, e.Course.Code, e.Title, b.Start, b.End, b.Pinned, j == len(e.Blocks)-1},
				)
				total += b.End.Sub(b.Start)
			}
		}
		d.Dues = append(d.Dues, e.marks(in)...)
	}
	if total > 0 {
		d.Work = wording.Work(total)
	}
	slices.SortStableFunc(d.Slabs, func(a, b Slab) int { return a.Start.Compare(b.Start) })
	slices.SortStableFunc(d.Dues, func(a, b Mark) int { return a.At.Compare(b.At) })
	return d
}

// marks are the times of an assignment that matter on a day.
func (e *Entry) marks(in func(time.Time) bool) (out []Mark) {
	if !e.Ahead() {
		return nil
	}
	add := func(what string, at time.Time) {
		if in(at) {
			out = append(out, Mark{e.ID, e.Course.Code, e.Titled(), what, at, e.Course.Zone.String()})
		}
	}
	if e.Window.Opens != nil {
		add("opens", e.Window.Opens.At())
	}
	add("send by", e.SendBy)
	add("due", e.Window.Due.At())
	if e.Window.Closes != nil {
		add("closes", e.Window.Closes.At())
	}
	return out
}

// Work says whether the work fits.
func (p *Plan) Work() string {
	if p.Left == 0 {
		return "No work is planned."
	}
	text := fmt.Sprintf("%s of work in %s of free time", wording.Work(p.Left), wording.Work(p.Room))
	if o := p.Overload; o != nil {
		return text + fmt.Sprintf("; too much by %s.", wording.Work(o.Demand-o.Capacity))
	}
	return text + ": it fits."
}

// Summary counts where the assignments stand, and says whether the work fits.
func (p *Plan) Summary() string {
	count := map[coursework.State]int{}
	for _, e := range p.Entries {
		if !e.Hidden() {
			count[e.State]++
		}
	}
	return fmt.Sprintf("%d open, %d waiting, %d came back. ", count[coursework.Open]+count[coursework.Late],
		count[coursework.Waiting]+count[coursework.Sending], count[coursework.Back]) + p.Work()
}

// A Crowd is an hour in which many things are due.
type Crowd struct {
	Start time.Time `json:"start"`
	End   time.Time `json:"end"`
	Text  string    `json:"text"`
}

// aCrowd is how many due times close together make a crowd.
const aCrowd = 3

// Crowds joins the coming due times that lie close together.
func (p *Plan) Crowds() []Crowd {
	var dues []time.Time
	for _, e := range p.Entries {
		if due := e.Window.Due.At(); due.After(e.Now) && !e.Hidden() {
			dues = append(dues, due)
		}
	}
	slices.SortFunc(dues, time.Time.Compare)
	out := []Crowd{}
	for i := 0; i < len(dues); {
		j := i
		for j < len(dues) && dues[j].Sub(dues[i]) <= timing.CrowdSpan {
			j++
		}
		if j-i >= aCrowd {
			out = append(out, Crowd{
				dues[i].Add(-time.Hour),
				dues[j-1].Add(timing.CrowdSpan),
				fmt.Sprintf("%d due close together", j-i),
			})
		}
		i = j
	}
	return out
}

// Begins says whether a stretch is the first of its assignment.
func (p *Plan) Begins(s Shift) bool {
	e := p.Of(s.AssignmentID)
	return e != nil && len(e.Blocks) > 0 && e.Blocks[0].Start.Equal(s.Start)
}

// Against says what this plan changes for each assignment beside another of the same coursework.
func (p *Plan) Against(before *Plan) []string {
	out := []string{}
	for _, is := range p.Entries {
		was := before.Of(is.ID)
		name := is.Course.Code + " " + is.Titled()
		end := func(e *Entry) (at time.Time) {
			if n := len(e.Blocks); n > 0 {
				at = e.Blocks[n-1].End
			}
			return at
		}
		switch {
		case is.Miss != was.Miss && is.Miss != "":
			out = append(out, name+" would be finished "+is.Miss+".")
		case is.Miss != was.Miss:
			out = append(out, name+" would be in time, no longer "+was.Miss+".")
		case !end(is).IsZero() && !end(was).IsZero() && !end(is).Equal(end(was)):
			out = append(
				out,
				fmt.Sprintf("%s would be finished %s, not %s.", name, is.Local(end(is)), is.Local(end(was))),
			)
		}
	}
	if len(out) == 0 {
		out = append(out, "Nothing else would change.")
	}
	return out
}
