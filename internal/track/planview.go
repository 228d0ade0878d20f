package track

import (
	"context"
	"fmt"
	"slices"
	"time"

	"orario/core/planner"
	"orario/core/wording"
	"orario/internal/account"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
)

// A Plan is the coming work as laid out, saved or only tried.
type Plan struct {
	Now       time.Time        `json:"now"`
	Zone      string           `json:"zone"`
	Settings  account.Settings `json:"settings"`
	Summary   string           `json:"summary"`
	Fits      bool             `json:"fits"`
	Proof     string           `json:"proof"` // of what does not fit
	Days      []PlanDay        `json:"days"`
	Lines     []PlanLine       `json:"lines"` // of planned assignments
	Proposals []Proposal       `json:"proposals"`
	Changes   []string         `json:"changes"` // of a tried plan: what it would change
	Wish      Wish             `json:"wish"`
}

// A PlanDay is one day of the student's, with the work of it.
type PlanDay struct {
	Date  string      `json:"date"` // YYYY-MM-DD in the student's zone
	Free  string      `json:"free"` // how much can be done
	Work  string      `json:"work"` // how much is planned; empty: none
	Busy  []BusyView  `json:"busy"`
	Slabs []Slab      `json:"slabs"`
	Dues  []DayMark   `json:"dues"`
	Start time.Time   `json:"start"`
	Hours []HoursView `json:"hours"` // in which work can be planned
}

// HoursView is a stretch in which work can be planned.
type HoursView struct {
	Start time.Time `json:"start"`
	End   time.Time `json:"end"`
}

// A BusyView is a time that is taken.
type BusyView struct {
	Title string    `json:"title"`
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

// A DayMark is a time that matters on a day.
type DayMark struct {
	AssignmentID int64     `json:"assignment_id"`
	Course       string    `json:"course"`
	Title        string    `json:"title"`
	What         string    `json:"what"` // opens, send by, due or closes
	At           time.Time `json:"at"`
	Zone         string    `json:"zone"`
}

// A PlanLine is what the plan says of one assignment.
type PlanLine struct {
	AssignmentID int64      `json:"assignment_id"`
	Blocks       []Block    `json:"blocks"`
	LatestStart  *time.Time `json:"latest_start"`
	Slack        string     `json:"slack"`
	Miss         string     `json:"miss"`
}

// Plan is the plan as it stands.
func (s Service) Plan(ctx context.Context, student int64) (*Plan, error) {
	list, p, err := s.load(ctx, student)
	if err != nil {
		return nil, err
	}
	w, err := s.wished(ctx, student, list)
	if err != nil {
		return nil, err
	}
	return s.shown(list, p, w), nil
}

// Try is the plan as it would be; nothing is saved.
func (s Service) Try(ctx context.Context, student int64, trial Trial) (*Plan, error) {
	before, _, err := s.load(ctx, student)
	if err != nil {
		return nil, err
	}
	w := trial.Wish
	if err := s.sound(before, w); err != nil {
		return nil, err
	}
	if trial.Shift != nil {
		shown, _, err := s.loadWith(ctx, student, &w)
		if err != nil {
			return nil, err
		}
		w = w.shifted(*trial.Shift, begins(shown, *trial.Shift))
	}
	if err := s.sound(before, w); err != nil {
		return nil, err
	}
	list, p, err := s.loadWith(ctx, student, &w)
	if err != nil {
		return nil, err
	}
	view := s.shown(list, p, w)
	view.Changes = changed(before, list)
	return view, nil
}

// begins says whether a stretch is the first of its assignment.
func begins(list []*tracked, s Shift) bool {
	return slices.ContainsFunc(list, func(t *tracked) bool {
		return t.Assignment.ID == s.AssignmentID && len(t.line.Blocks) > 0 && t.line.Blocks[0].Start.Equal(s.Start)
	})
}

// Keep saves a plan that was tried.
func (s Service) Keep(ctx context.Context, student int64, w Wish) error {
	list, _, err := s.load(ctx, student)
	if err != nil {
		return err
	}
	if err := s.sound(list, w); err != nil {
		return err
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		if err := q.RemovePins(ctx, student); err != nil {
			return err
		}
		for _, p := range w.Pins {
			if err := q.AddPin(ctx, query.AddPinParams{StudentID: student, AssignmentID: p.AssignmentID, StartAt: p.Start.UTC(), EndAt: p.End.UTC()}); err != nil {
				return err
			}
		}
		for _, t := range list {
			i := slices.IndexFunc(w.NotBefore, func(b Begin) bool { return b.AssignmentID == t.Assignment.ID })
			if i < 0 && !t.Assignment.NotBefore.Valid {
				continue
			}
			set := query.SetAssignmentNotBeforeParams{ID: t.Assignment.ID, StudentID: student}
			if i >= 0 {
				set.NotBefore = nullTime(w.NotBefore[i].At.UTC())
			}
			if err := q.SetAssignmentNotBefore(ctx, set); err != nil {
				return err
			}
		}
		return nil
	})
}

// mostPins bounds a wish.
const mostPins = 500

// sound says why a wish cannot be planned, if it cannot.
func (s Service) sound(list []*tracked, w Wish) error {
	if len(w.Pins) > mostPins || len(w.NotBefore) > mostPins {
		return prepare.Complaint{Message: fmt.Sprintf("A plan has at most %d pinned stretches. Take some out.", mostPins)}
	}
	known := func(id int64) bool {
		return slices.ContainsFunc(list, func(t *tracked) bool { return t.Assignment.ID == id })
	}
	pins := slices.SortedFunc(slices.Values(w.Pins), func(a, b Pin) int { return a.Start.Compare(b.Start) })
	for i, p := range pins {
		switch {
		case !known(p.AssignmentID):
			return prepare.ErrNotFound
		case !p.Start.Before(p.End) || p.End.Sub(p.Start) > 24*time.Hour:
			return prepare.Complaint{Message: "A stretch of work lasts between a minute and 24 hours. Choose another end."}
		case i > 0 && p.Start.Before(pins[i-1].End):
			return prepare.Complaint{Message: "Two pinned stretches would overlap. Put this one elsewhere, or let go of the other."}
		}
	}
	for _, b := range w.NotBefore {
		if !known(b.AssignmentID) {
			return prepare.ErrNotFound
		}
	}
	return nil
}

func (s Service) shown(list []*tracked, p *plan, w Wish) *Plan {
	v := &Plan{Now: s.Now().UTC(), Zone: p.zone.String(), Settings: p.settings, Summary: work(p), Fits: p.overload == nil, Lines: []PlanLine{}, Proposals: []Proposal{}, Changes: []string{}, Wish: w}
	for _, t := range list {
		if t.planned() {
			v.Lines = append(v.Lines, PlanLine{t.Assignment.ID, t.line.Blocks, t.line.LatestStart, t.line.Slack, t.line.Miss})
		}
	}
	v.Days = days(list, p, s.Now(), planDays)
	if p.overload != nil {
		v.Proof, v.Proposals = p.proof(), p.proposals(list)
	}
	return v
}

// planDays is how far the plan page looks.
const planDays = 21

// days lays the plan out by the student's days.
func days(list []*tracked, p *plan, from time.Time, n int) []PlanDay {
	out := []PlanDay{}
	first := from.In(p.zone)
	for i := range n {
		start := time.Date(first.Year(), first.Month(), first.Day()+i, 0, 0, 0, 0, p.zone)
		end := time.Date(first.Year(), first.Month(), first.Day()+i+1, 0, 0, 0, 0, p.zone)
		in := func(at time.Time) bool { return !at.Before(start) && at.Before(end) }
		d := PlanDay{Date: start.Format(time.DateOnly), Start: start.UTC(), Busy: []BusyView{}, Slabs: []Slab{}, Dues: []DayMark{}, Hours: []HoursView{}}
		d.Free = wording.Work(planner.Within(p.capacity, start, end))
		for _, c := range p.capacity {
			if c.Start.Before(end) && c.End.After(start) {
				d.Hours = append(d.Hours, HoursView{c.Start, c.End})
			}
		}
		for _, b := range p.busy {
			if b.StartAt.Before(end) && b.EndAt.After(start) {
				d.Busy = append(d.Busy, BusyView{b.Title, b.StartAt, b.EndAt})
			}
		}
		var total time.Duration
		for _, t := range list {
			for j, b := range t.line.Blocks {
				if in(b.Start) {
					d.Slabs = append(d.Slabs, Slab{t.Assignment.ID, t.Course.Code, t.Assignment.Title, b.Start, b.End, b.Pinned, j == len(t.line.Blocks)-1})
					total += b.End.Sub(b.Start)
				}
			}
			d.Dues = append(d.Dues, t.marks(in)...)
		}
		if total > 0 {
			d.Work = wording.Work(total)
		}
		slices.SortStableFunc(d.Slabs, func(a, b Slab) int { return a.Start.Compare(b.Start) })
		slices.SortStableFunc(d.Dues, func(a, b DayMark) int { return a.At.Compare(b.At) })
		out = append(out, d)
	}
	return out
}

// marks are the times of an assignment that matter on a day.
func (t *tracked) marks(in func(time.Time) bool) (out []DayMark) {
	if !t.planned() {
		return nil
	}
	add := func(what string, at *time.Time) {
		if at != nil && in(*at) {
			out = append(out, DayMark{t.Assignment.ID, t.Course.Code, t.titled(), what, *at, t.line.Zone})
		}
	}
	add("opens", t.line.Opens)
	add("send by", &t.SendBy)
	add("due", &t.line.Due)
	add("closes", t.line.Closes)
	return out
}

// changed says what a tried plan changes for each assignment.
func changed(before, after []*tracked) []string {
	out := []string{}
	for _, t := range after {
		i := slices.IndexFunc(before, func(b *tracked) bool { return b.Assignment.ID == t.Assignment.ID })
		was, is := before[i].line, t.line
		name := t.Course.Code + " " + t.titled()
		switch {
		case is.Miss != was.Miss && is.Miss != "":
			out = append(out, name+" would be finished "+is.Miss+".")
		case is.Miss != was.Miss:
			out = append(out, name+" would be in time, no longer "+was.Miss+".")
		case len(is.Blocks) > 0 && len(was.Blocks) > 0 && !is.Blocks[len(is.Blocks)-1].End.Equal(was.Blocks[len(was.Blocks)-1].End):
			out = append(out, fmt.Sprintf("%s would be finished %s, not %s.", name, t.local(is.Blocks[len(is.Blocks)-1].End), t.local(was.Blocks[len(was.Blocks)-1].End)))
		}
	}
	if len(out) == 0 {
		out = append(out, "Nothing else would change.")
	}
	return out
}
