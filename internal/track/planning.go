package track

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"

	"orario/core/planner"
	"orario/core/timing"
	"orario/core/wording"
	"orario/internal/account"
	"orario/internal/mariadb/query"
)

// A plan is the schedule of all open work.
type plan struct {
	who       query.Student
	zone      *time.Location
	settings  account.Settings
	busy      []query.Busy
	capacity  []planner.Interval // without busy times; pinned stretches included
	overload  *planner.Overload
	sacrifice planner.Sacrifice
	left      time.Duration // of work until the last send-by
	room      time.Duration // hours there are for it
}

// A Wish is a plan as the student would have it: stretches that are to stay where they are, and times
// before which work is not begun.
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

// shifted is the wish with one stretch pinned where it was moved, or let go of. The first stretch of an
// assignment moved later means that its work begins only then; put before that, it begins earlier again.
func (w Wish) shifted(s Shift, first bool) Wish {
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

// wished is the wish that is stored.
func (s Service) wished(ctx context.Context, student int64, list []*tracked) (Wish, error) {
	w := Wish{Pins: []Pin{}, NotBefore: []Begin{}}
	pins, err := s.Store.Pins(ctx, student)
	if err != nil {
		return w, err
	}
	for _, p := range pins {
		w.Pins = append(w.Pins, Pin{p.AssignmentID, p.StartAt, p.EndAt})
	}
	for _, t := range list {
		if at := t.Assignment.NotBefore; at.Valid {
			w.NotBefore = append(w.NotBefore, Begin{t.Assignment.ID, at.Time})
		}
	}
	return w, nil
}

// tail is how far beyond the last send-by work is still laid out, so that what is late is seen.
const tail = 14 * 24 * time.Hour

// plan lays out all open work and adds to each line what follows for it.
func (s Service) plan(list []*tracked, who query.Student, busy []query.Busy, w Wish) (*plan, error) {
	p := &plan{who: who, busy: busy}
	var err error
	if p.zone, err = timing.Zone(who.Zone); err != nil {
		return nil, fmt.Errorf("the zone of %s: %w", who.Email, err)
	}
	if p.settings, err = account.SettingsOf(who); err != nil {
		return nil, err
	}
	now := s.Now().UTC()
	estimate(list)
	pinned := map[int64]time.Duration{}
	var fixed []planner.Block
	for _, pin := range w.Pins {
		i := slices.IndexFunc(list, func(t *tracked) bool { return t.Assignment.ID == pin.AssignmentID && t.planned() && t.left() > 0 })
		if from := later(pin.Start, now); i >= 0 && from.Before(pin.End) {
			fixed = append(fixed, planner.Block{Task: pin.AssignmentID, Interval: planner.Interval{Start: from, End: pin.End}})
			pinned[pin.AssignmentID] += pin.End.Sub(from)
		}
	}
	horizon := now
	var all, tasks []planner.Task // as if nothing were pinned; with what is left beside the pinned
	for _, t := range list {
		task, ok := t.task(w)
		if !ok {
			continue
		}
		all = append(all, task)
		p.left += task.Left
		horizon = later(horizon, task.Deadline)
		task.Left = max(0, task.Left-pinned[task.ID])
		tasks = append(tasks, task)
	}
	var taken []planner.Interval
	for _, b := range busy {
		taken = append(taken, planner.Interval{Start: b.StartAt, End: b.EndAt})
	}
	week := planner.Less(p.settings.Week.Capacity(now, horizon.Add(tail), p.zone), taken)
	p.capacity = planner.AtMost(week, time.Duration(p.settings.MostADay)*time.Minute, p.zone)
	var stays []planner.Interval
	for _, b := range fixed {
		stays = append(stays, b.Interval)
	}
	free := planner.Less(p.capacity, stays)
	p.room = planner.Within(p.capacity, now, horizon)
	p.overload = planner.FindOverload(now, free, tasks)
	if p.overload != nil {
		p.sacrifice = planner.GiveUp(now, free, tasks)
	}
	laid, _ := planner.Schedule(now, free, tasks, time.Duration(p.settings.Block)*time.Minute)
	if p.overload == nil && tooLate(laid, tasks) {
		laid, _ = planner.Schedule(now, free, tasks, 0) // whole blocks are worth less than being in time
	}
	for _, t := range list {
		for _, b := range fixed {
			t.block(b, true)
		}
		for _, b := range laid {
			t.block(b, false)
		}
		slices.SortFunc(t.line.Blocks, func(a, b Block) int { return a.Start.Compare(b.Start) })
	}
	starts := planner.LatestStarts(now, p.capacity, all)
	for _, t := range list {
		t.slack(starts)
	}
	slices.SortStableFunc(list, bySlack)
	return p, nil
}

// left is the work that is still to be done.
func (t *tracked) left() time.Duration {
	return time.Duration(max(0, t.line.PlanMinutes-t.line.DoneMinutes)) * time.Minute
}

// task is what is left to do of an assignment, and by when.
func (t *tracked) task(w Wish) (planner.Task, bool) {
	left := t.left()
	task := planner.Task{ID: t.Assignment.ID, Release: t.Now, Deadline: t.SendBy, Left: left, LateCost: t.lateCost()}
	if !t.planned() || left == 0 {
		return task, false
	}
	if t.line.Opens != nil && t.line.Opens.After(t.Now) {
		task.Release = *t.line.Opens
	}
	for _, b := range w.NotBefore {
		if b.AssignmentID == task.ID {
			task.Release = later(task.Release, b.At)
			if b.At.After(t.Now) {
				t.line.NotBefore = &b.At
			}
		}
	}
	if !task.Deadline.After(task.Release) {
		task.Deadline = t.line.Due // send-by cannot be kept; due still can
	}
	return task, task.Deadline.After(t.Now) // else it is late already: no plan makes it good
}

func (t *tracked) block(b planner.Block, pinned bool) {
	if b.Task == t.Assignment.ID {
		t.line.Blocks = append(t.line.Blocks, Block{b.Start, b.End, pinned})
	}
}

func tooLate(blocks []planner.Block, tasks []planner.Task) bool {
	return slices.ContainsFunc(blocks, func(b planner.Block) bool {
		i := slices.IndexFunc(tasks, func(t planner.Task) bool { return t.ID == b.Task })
		return b.End.After(tasks[i].Deadline)
	})
}

// slack adds what the schedule run backwards says, and what the planned work misses.
func (t *tracked) slack(starts map[int64]time.Time) {
	l := &t.line
	if !t.planned() {
		return
	}
	minutes := int(t.SendBy.Sub(t.Now) / time.Minute)
	start, ok := starts[t.Assignment.ID]
	switch {
	case ok:
		minutes = int(start.Sub(t.Now) / time.Minute)
		l.LatestStart, l.Slack = &start, wording.Span(start.Sub(t.Now))
	case l.PlanMinutes <= l.DoneMinutes:
		l.Slack = wording.Span(max(0, t.SendBy.Sub(t.Now)))
	default:
		l.Slack = "none"
	}
	l.SlackMinutes = &minutes
	if n := len(l.Blocks); n > 0 {
		switch end := l.Blocks[n-1].End; {
		case end.After(l.Due):
			l.Miss = wording.Span(end.Sub(l.Due)) + " after due"
		case end.After(t.SendBy) && t.SendBy.After(t.Now):
			l.Miss = wording.Span(end.Sub(t.SendBy)) + " after send-by"
		}
	}
}

// bySlack puts the least slack first; what is not planned comes behind, the newest due first.
func bySlack(a, b *tracked) int {
	x, y := a.line.SlackMinutes, b.line.SlackMinutes
	switch {
	case x != nil && y != nil:
		return cmp.Compare(*x, *y)
	case x != nil:
		return -1
	case y != nil:
		return 1
	}
	return b.line.Due.Compare(a.line.Due)
}

// aDayLate is how late work is reckoned to be that is given up for now.
const aDayLate = 24 * time.Hour

// lateCost is what being a day late costs, in percent of the course's mark: all of it where nothing is
// taken by then.
func (t *tracked) lateCost() float64 {
	a := t.Assignment
	at := t.line.Due.Add(aDayLate)
	if shuts, ever := t.Window.Shuts(t.Late); ever && !at.Before(shuts) {
		return a.Weight
	}
	if a.Points <= 0 {
		return 0
	}
	return t.Window.Cost(at, t.Late, a.Points, a.Points) / a.Points * a.Weight
}

// estimate sets what the plan reckons with: the student's own figure (of three the PERT figure), shifted by
// what work of the same kind in the same course took so far.
func estimate(list []*tracked) {
	past := map[string][]planner.Past{}
	for _, t := range list {
		if !t.planned() && t.line.SentAt != nil && t.line.DoneMinutes > 0 {
			done := planner.Past{Planned: t.effort(), Took: time.Duration(t.line.DoneMinutes) * time.Minute}
			past[t.kind()] = append(past[t.kind()], done)
		}
	}
	for _, t := range list {
		own := t.effort()
		t.line.PlanMinutes = int(own / time.Minute)
		before := past[t.kind()]
		if !t.planned() || len(before) == 0 {
			continue
		}
		factor := planner.Factor(before)
		t.line.PlanMinutes = int((time.Duration(float64(own) * factor)).Round(5*time.Minute) / time.Minute)
		if more := int(100*factor+0.5) - 100; more != 0 {
			word := "longer"
			if more < 0 {
				word, more = "less", -more
			}
			t.line.Estimate = fmt.Sprintf("%s in all: your %s, and %d %% %s by what such work took before.",
				wording.Work(time.Duration(t.line.PlanMinutes)*time.Minute), wording.Work(own), more, word)
		}
	}
}

func (t *tracked) effort() time.Duration {
	a := t.Assignment
	if a.EffortLow.Valid && a.EffortHigh.Valid {
		return planner.Effort{Optimistic: float64(a.EffortLow.Int32), Likely: float64(a.EffortMinutes), Pessimistic: float64(a.EffortHigh.Int32)}.Planned()
	}
	return time.Duration(a.EffortMinutes) * time.Minute
}

// kind is the kind of work within a course: the first word of its title, as in "Sheet 5" and "Lab 4, Tides".
func (t *tracked) kind() string {
	words := strings.FieldsFunc(strings.ToLower(t.Assignment.Title), func(r rune) bool { return !unicode.IsLetter(r) })
	if len(words) == 0 {
		return fmt.Sprint(t.Course.ID)
	}
	return fmt.Sprint(t.Course.ID, words[0])
}

func later(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}
