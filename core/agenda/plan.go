// Package agenda says what to do and when: it lays the open work of a [coursework.Coursework] into the hours that
// there are, says how much slack each assignment has, ranks the next moves, and finds out what is worth a reminder.
//
// Everything is a pure function of standings, settings, busy times and an instant; a plan that is only tried is the
// same computation with another [Wish].
package agenda

import (
	"cmp"
	"slices"
	"sync"
	"time"

	"orario/core/coursework"
	"orario/core/planner"
	"orario/core/wording"
)

// Input is all that a plan follows from.
type Input struct {
	Now       time.Time
	Zone      *time.Location // the student's
	Settings  Settings
	Standings []*coursework.Standing
	Busy      []Busy
	Wish      Wish
}

// Busy is a time that is taken.
type Busy struct {
	Title string    `json:"title"`
	Start time.Time `json:"start"`
	End   time.Time `json:"end"`
}

// A Plan is the schedule of all open work.
type Plan struct {
	Input
	Entries  []*Entry           // the least slack first; what is not planned behind, the newest due first
	Capacity []planner.Interval // without busy times; pinned stretches included
	Overload *planner.Overload  // what proves that not everything fits; nil: it fits
	Left     time.Duration      // work until the last deadline
	Room     time.Duration      // hours there are for it

	sacrifice func() planner.Sacrifice
}

// An Entry is an assignment with what the plan means for it.
type Entry struct {
	*coursework.Standing
	Minutes      int        // of work in all that the plan reckons with
	Estimate     string     // why that differs from the student's figure
	Starts       *time.Time // before which work is not planned, where the student says so
	Blocks       []Block
	LatestStart  *time.Time
	SlackMinutes *int // nil: no work is ahead
	Slack        string
	Miss         string // by what the planned work misses its time
}

// A Block is a stretch of planned work. A pinned one stays where it is.
type Block struct {
	Start  time.Time `json:"start"`
	End    time.Time `json:"end"`
	Pinned bool      `json:"pinned"`
}

// Limits of how far ahead work is laid out.
const (
	tail     = 14 * 24 * time.Hour      // beyond the last deadline, so that what is late is seen
	farthest = 2 * 366 * 24 * time.Hour // what is due later is planned as if it were due then
)

// Lay lays out all open work. Time is that of [planner.Schedule], three times at most.
func Lay(in Input) *Plan {
	p := &Plan{Input: in, Entries: make([]*Entry, len(in.Standings))}
	p.Now = p.Now.UTC()
	entries := make([]Entry, len(in.Standings))
	for i, s := range in.Standings {
		entries[i] = Entry{Standing: s, Blocks: []Block{}}
		p.Entries[i] = &entries[i]
	}
	p.estimate()
	fixed, pinned := p.fixed()
	horizon := p.Now
	all := make([]planner.Task, 0, len(p.Entries))   // as if nothing were pinned
	tasks := make([]planner.Task, 0, len(p.Entries)) // with what is left beside the pinned
	for _, e := range p.Entries {
		task, ok := p.task(e)
		if !ok {
			continue
		}
		all = append(all, task)
		p.Left += task.Left
		horizon = later(horizon, task.Deadline)
		task.Left = max(0, task.Left-pinned[task.ID])
		tasks = append(tasks, task)
	}
	free := p.free(horizon, fixed)
	p.Room = planner.Within(p.Capacity, p.Now, horizon)
	p.Overload = planner.FindOverload(p.Now, free, tasks)
	p.sacrifice = sync.OnceValue(func() planner.Sacrifice { return planner.GiveUp(p.Now, free, tasks) })
	p.place(fixed, true)
	p.place(p.laid(free, tasks), false)
	p.slack(planner.LatestStarts(p.Now, p.Capacity, all))
	slices.SortStableFunc(p.Entries, bySlack)
	return p
}

// Of is the entry of an assignment; nil if there is none.
func (p *Plan) Of(assignment int64) *Entry {
	i := slices.IndexFunc(p.Entries, func(e *Entry) bool { return e.ID == assignment })
	if i < 0 {
		return nil
	}
	return p.Entries[i]
}

// fixed are the pinned stretches that are still ahead, and how much of each assignment's work they hold.
func (p *Plan) fixed() ([]planner.Block, map[int64]time.Duration) {
	var fixed []planner.Block
	pinned := map[int64]time.Duration{}
	for _, pin := range p.Wish.Pins {
		e := p.Of(pin.AssignmentID)
		if from := later(pin.Start, p.Now); e != nil && e.Ahead() && e.left() > 0 && from.Before(pin.End) {
			fixed = append(
				fixed,
				planner.Block{Task: pin.AssignmentID, Interval: planner.Interval{Start: from, End: pin.End}},
			)
			pinned[pin.AssignmentID] += pin.End.Sub(from)
		}
	}
	return fixed, pinned
}

// free is the capacity beside busy times and pinned stretches.
func (p *Plan) free(horizon time.Time, fixed []planner.Block) []planner.Interval {
	var taken, stays []planner.Interval
	for _, b := range p.Busy {
		taken = append(taken, planner.Interval{Start: b.Start, End: b.End})
	}
	week := planner.Less(p.Settings.Week.Capacity(p.Now, horizon.Add(tail), p.Zone), taken)
	p.Capacity = planner.AtMost(week, time.Duration(p.Settings.MostADay)*time.Minute, p.Zone)
	for _, b := range fixed {
		stays = append(stays, b.Interval)
	}
	return planner.Less(p.Capacity, stays)
}

// left is the work that is still to be done.
func (e *Entry) left() time.Duration {
	return time.Duration(max(0, e.Minutes-e.Done)) * time.Minute
}

// task is what is left to do of an assignment, and by when: by send-by; where that has passed by due; and where that
// has passed, too, while late work is taken, until it closes.
func (p *Plan) task(e *Entry) (planner.Task, bool) {
	left := e.left()
	task := planner.Task{ID: e.ID, Release: e.Now, Deadline: e.SendBy, Left: left, LateCost: e.lateCost()}
	if !e.Ahead() || left == 0 {
		return task, false
	}
	if opens := e.Window.Opens; opens != nil && opens.At().After(e.Now) {
		task.Release = opens.At()
	}
	for _, b := range p.Wish.NotBefore {
		if b.AssignmentID == task.ID {
			task.Release = later(task.Release, b.At)
			if b.At.After(e.Now) {
				e.Starts = &b.At
			}
		}
	}
	for _, ends := range []time.Time{e.Window.Due.At(), e.lateUntil()} {
		if !task.Deadline.After(task.Release) {
			task.Deadline = ends
		}
	}
	if limit := p.Now.Add(farthest); task.Deadline.After(limit) {
		task.Deadline = limit
	}
	return task, task.Deadline.After(e.Now) && task.Deadline.After(task.Release)
}

// lateFor is how long late work is planned for where it is taken without end.
const lateFor = 7 * 24 * time.Hour

// lateUntil is until when late work is worth planning: until it closes, or a week from now.
func (e *Entry) lateUntil() time.Time {
	if shuts, ever := e.Window.Shuts(e.Late); ever {
		return shuts
	}
	return e.Now.Add(lateFor)
}

// laid is the work in stretches of a block's length, or, since being in time and being planned at all are worth more,
// in shorter ones.
func (p *Plan) laid(free []planner.Interval, tasks []planner.Task) []planner.Block {
	laid, out := planner.Schedule(p.Now, free, tasks, time.Duration(p.Settings.Block)*time.Minute)
	if len(out) == 0 && (p.Overload != nil || !tooLate(laid, tasks)) {
		return laid
	}
	shorter, still := planner.Schedule(p.Now, free, tasks, 0)
	if p.Overload == nil || sum(still) < sum(out) {
		return shorter
	}
	return laid
}

func sum(work map[int64]time.Duration) (total time.Duration) {
	for _, d := range work {
		total += d
	}
	return total
}

func tooLate(blocks []planner.Block, tasks []planner.Task) bool {
	deadline := map[int64]time.Time{}
	for _, t := range tasks {
		deadline[t.ID] = t.Deadline
	}
	return slices.ContainsFunc(blocks, func(b planner.Block) bool { return b.End.After(deadline[b.Task]) })
}

func (p *Plan) place(blocks []planner.Block, pinned bool) {
	if len(blocks) == 0 {
		return
	}
	of := make(map[int64]*Entry, len(p.Entries))
	for _, e := range p.Entries {
		of[e.ID] = e
	}
	for _, b := range blocks {
		of[b.Task].Blocks = append(of[b.Task].Blocks, Block{b.Start, b.End, pinned})
	}
	for _, e := range p.Entries {
		slices.SortFunc(e.Blocks, func(a, b Block) int { return a.Start.Compare(b.Start) })
	}
}

// slack adds what the schedule run backwards says, and what the planned work misses.
func (p *Plan) slack(starts map[int64]time.Time) {
	for _, e := range p.Entries {
		if !e.Ahead() {
			continue
		}
		minutes := int(e.SendBy.Sub(e.Now) / time.Minute)
		start, ok := starts[e.ID]
		switch {
		case ok:
			minutes = int(start.Sub(e.Now) / time.Minute)
			e.LatestStart, e.Slack = &start, wording.Span(start.Sub(e.Now))
		case e.Minutes <= e.Done:
			e.Slack = wording.Span(max(0, e.SendBy.Sub(e.Now)))
		default:
			minutes, e.Slack = min(minutes, 0), "none"
		}
		e.SlackMinutes = &minutes
		if n := len(e.Blocks); n > 0 {
			e.Miss = e.miss(e.Blocks[n-1].End)
		}
	}
}

func (e *Entry) miss(end time.Time) string {
	due := e.Window.Due.At()
	switch {
	case end.After(due):
		return wording.Span(end.Sub(due)) + " after due"
	case end.After(e.SendBy) && e.SendBy.After(e.Now):
		return wording.Span(end.Sub(e.SendBy)) + " after send-by"
	}
	return ""
}

// bySlack puts the least slack first; what is not planned comes behind, the newest due first.
func bySlack(a, b *Entry) int {
	x, y := a.SlackMinutes, b.SlackMinutes
	switch {
	case x != nil && y != nil:
		return cmp.Compare(*x, *y)
	case x != nil:
		return -1
	case y != nil:
		return 1
	}
	return b.Window.Due.At().Compare(a.Window.Due.At())
}

// aDayLate is how late work is reckoned to be that is given up for now.
const aDayLate = 24 * time.Hour

// lateCost is what being a day late costs, in percent of the course's mark: all of it where nothing is taken by then.
func (e *Entry) lateCost() float64 {
	at := e.Window.Due.At().Add(aDayLate)
	if shuts, ever := e.Window.Shuts(e.Late); ever && !at.Before(shuts) {
		return e.Weight
	}
	if e.Points <= 0 {
		return 0
	}
	return e.Window.Cost(at, e.Late, e.Points, e.Points) / e.Points * e.Weight
}

func later(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}
