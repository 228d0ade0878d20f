package track

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"orario/core/brief"
	"orario/core/timing"
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
}

// A Course as shown.
type Course struct {
	ID         int64  `json:"id"`
	Code       string `json:"code"`
	Title      string `json:"title"`
	Zone       string `json:"zone"`
	Instructor string `json:"instructor"`
	Habit      string `json:"habit"` // name pattern
	Site       string `json:"site"`
	SyncedAt   string `json:"synced_at"` // RFC 3339 or empty
	Open       int    `json:"open"`
	Marked     string `json:"marked"` // what the marks so far add up to
}

// A Move is something to do now.
type Move struct {
	AssignmentID int64     `json:"assignment_id"`
	Verb         string    `json:"verb"`
	Title        string    `json:"title"`
	Latest       time.Time `json:"latest"`
	Weight       string    `json:"weight"` // must, should or note
	Reason       string    `json:"reason"`
	Button       string    `json:"button"`
	Place        string    `json:"place"` // of the Desk to open, or reading
	SubmissionID int64     `json:"submission_id"`
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
	who, err := s.Store.StudentByID(ctx, student)
	if err != nil {
		return nil, err
	}
	h := &Horizon{Now: s.Now().UTC(), Zone: who.Zone, Notices: []string{}, Lines: []Line{}, Moves: []Move{}, Crowds: []Crowd{}}
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
	for _, t := range list {
		h.Lines = append(h.Lines, t.line)
		if move, ok := t.move(); ok {
			h.Moves = append(h.Moves, move)
		}
	}
	slices.SortStableFunc(h.Moves, func(a, b Move) int { return a.Latest.Compare(b.Latest) })
	h.Moves = h.Moves[:min(len(h.Moves), mostMoves)]
	h.Crowds = crowds(list)
	h.Summary = summary(list, p)
	return h, nil
}

// mostMoves is how many things a person looks at before doing one.
const mostMoves = 6

func summary(list []*tracked, p *plan) string {
	count := map[string]int{}
	for _, t := range list {
		count[t.line.State]++
	}
	text := fmt.Sprintf("%d open, %d waiting, %d came back.", count[Open]+count[Late], count[Waiting]+count[Sending], count[Back])
	if p.left == 0 {
		return text + " No work is planned."
	}
	text += fmt.Sprintf(" %s of work in %s of free time", brief.Work(p.left), brief.Work(p.free))
	if o := p.overload; o != nil {
		return text + fmt.Sprintf("; too much by %s.", brief.Work(o.Demand-o.Capacity))
	}
	return text + ": it fits."
}

// move is the next thing to do about an assignment. Moves are ranked by their latest time: of work by
// the latest start at which everything still gets done, of sending by send-by, of the rest by when the
// chance is gone. What is at stake is said in the reason and does not reorder them.
func (t *tracked) move() (Move, bool) {
	m := Move{AssignmentID: t.Assignment.ID, Title: t.Assignment.Title, Latest: t.SendBy, Weight: "note", Button: "Open the Desk", Place: "bundle"}
	last, sent := t.Last()
	left := max(0, t.line.EffortMinutes-t.line.DoneMinutes)
	switch {
	case t.Sending:
		return m, false
	case t.line.State == Back:
		m.Verb, m.Button, m.Place, m.Latest = "Correct", "Read the return", "return", t.line.Due
		lost := t.Returned[last.ID].Points - t.Returned[last.ID].Mark.Float64
		m.Reason = fmt.Sprintf("Came back with %s. %g points could be gained, %.1f %% of the course; %s.", t.line.Outcome, lost, lost/max(1, t.Assignment.Points)*t.Assignment.Weight, attemptsLeft(t))
	case t.line.State == Waiting && t.decisions() && t.reports[last.ID].Share.Valid:
		m.Verb, m.Button, m.Place, m.SubmissionID, m.Latest = "Read the report of", "Open the reading room", "reading", last.ID, t.line.Due
		m.Reason = fmt.Sprintf("%.0f %% needs a decision; %s before due.", 100*t.reports[last.ID].Share.Float64, brief.Span(t.line.Due.Sub(t.Now)))
	case sent || t.line.State == Closed || t.line.State == NotOpen:
		return m, false
	case t.line.MustFix > 0 && len(t.Items) > 0:
		m.Verb, m.Button, m.Place = "Fix", "See what must be fixed", "checks"
		m.Reason = fmt.Sprintf("%d must be fixed before it can be sent. Send by %s.", t.line.MustFix, t.local(t.SendBy))
	case t.line.MustFix == 0 && len(t.Items) > 0:
		m.Verb, m.Button, m.Place = "Submit", "Submit", "sent"
		m.Reason = fmt.Sprintf("Everything is ready. Due %s%s.", t.local(t.line.Due), t.consequence())
	case left > 0:
		m.Verb = "Work on"
		if t.line.LatestStart != nil {
			m.Latest = *t.line.LatestStart
		}
		m.Reason = fmt.Sprintf("%s left to do. Sent by %s it is %s ahead of due%s.", brief.Work(time.Duration(left)*time.Minute), t.local(t.SendBy), brief.Span(t.line.Due.Sub(t.SendBy)), t.consequence())
	default:
		m.Verb = "Add the files of"
		m.Reason = fmt.Sprintf("The work is done, nothing is in the bundle yet. Due %s%s.", t.local(t.line.Due), t.consequence())
	}
	if n := t.unsettled(); n > 0 && t.planned() {
		m.Reason += fmt.Sprintf(" The brief has %d to confirm.", n)
	}
	if t.line.Crowd >= 3 && t.line.State == Open {
		m.Reason += fmt.Sprintf(" %d things are due in that half hour.", t.line.Crowd)
	}
	switch {
	case t.Now.After(m.Latest) || t.line.State == Late:
		m.Weight = "must"
	case m.Latest.Sub(t.Now) < soon:
		m.Weight = "should"
	}
	return m, true
}

// unsettled counts the requirements that the student has not confirmed.
func (t *tracked) unsettled() (n int) {
	for _, r := range t.Requirements {
		if !r.Settled {
			n++
		}
	}
	return n
}

// decisions says whether a report would change anything: another version can still be sent.
func (t *tracked) decisions() bool {
	may, _ := t.MayGoOn()
	return may
}

func attemptsLeft(t *tracked) string {
	if t.Sheet.Attempts.Max == 0 {
		return "attempts are not limited"
	}
	if n := t.Sheet.Attempts.Max - t.Attempt + 1; n != 1 {
		return fmt.Sprintf("%d attempts are left", n)
	}
	return "one attempt is left"
}

func (t *tracked) consequence() string {
	switch {
	case t.line.State == Late:
		return ", so it is late already"
	case t.Late.Kind == timing.NoLateWork:
		return "; nothing is taken after that"
	}
	return ""
}

// local writes an instant as a timetable prints it, in the course's zone.
func (t *tracked) local(at time.Time) string {
	return at.In(t.Window.Zone).Format("Mon 2 Jan 15:04")
}

// crowds joins the coming due times that lie close together.
func crowds(list []*tracked) []Crowd {
	var dues []time.Time
	for _, t := range list {
		if t.line.Due.After(t.Now) {
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

// Courses lists the courses with how they stand.
func (s Service) Courses(ctx context.Context, student int64) ([]Course, error) {
	list, _, err := s.load(ctx, student)
	if err != nil {
		return nil, err
	}
	return s.courses(ctx, student, list)
}

func (s Service) courses(ctx context.Context, student int64, list []*tracked) ([]Course, error) {
	rows, err := s.Store.Courses(ctx, student)
	if err != nil {
		return nil, err
	}
	sites, err := s.Store.Sites(ctx, student)
	if err != nil {
		return nil, err
	}
	out := []Course{}
	for _, c := range rows {
		course := Course{ID: c.ID, Code: c.Code, Title: c.Title, Zone: c.Zone, Instructor: c.Instructor, Habit: c.NameHabit}
		for _, site := range sites {
			if site.ID == c.SiteID {
				course.Site = site.Name
				if site.SyncedAt.Valid {
					course.SyncedAt = site.SyncedAt.Time.Format(time.RFC3339)
				}
			}
		}
		var earned, of float64
		for _, t := range list {
			if t.Course.ID != c.ID {
				continue
			}
			if t.planned() {
				course.Open++
			}
			if last, sent := t.Last(); sent {
				if m, ok := t.Returned[last.ID]; ok && m.Mark.Valid {
					earned += m.Mark.Float64 / cmp.Or(m.Points, 1) * t.Assignment.Weight
					of += t.Assignment.Weight
				}
			}
		}
		if of > 0 {
			course.Marked = fmt.Sprintf("%.1f of %g %% of the course", earned, of)
		}
		out = append(out, course)
	}
	return out, nil
}
