package track

import (
	"context"
	"database/sql"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/brief"
	"orario/core/brief/prose"
	"orario/core/compare"
	"orario/core/inspect"
	"orario/core/timing"
	"orario/core/wording"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
)

// Comparer says what changed between two attempts.
type Comparer interface {
	Changes(ctx context.Context, student int64, before, after query.Submission) (*compare.Summary, error)
}

// Desk is one assignment, in the order of the work.
type Desk struct {
	Line         Line                `json:"line"`
	Course       Course              `json:"course"`
	Now          time.Time           `json:"now"`
	Instructions string              `json:"instructions"`
	Read         []Underlined        `json:"read"` // what is read in the instructions
	Handouts     []Handout           `json:"handouts"`
	Requirements []brief.Requirement `json:"requirements"`
	Slots        []SlotView          `json:"slots"`
	Items        []ItemView          `json:"items"`
	Findings     []brief.Finding     `json:"findings"`
	DueText      string              `json:"due_text"` // under the due time
	Sum          []string            `json:"sum"`      // how send-by comes about
	Submit       SubmitPanel         `json:"submit"`
	Attempts     []Attempt           `json:"attempts"` // sent or under way, the newest first
	Own          bool                `json:"own"`      // not published by a site: it can be changed, and is sent elsewhere
	Noted        prepare.Noted       `json:"noted"`
	Effort       EffortView          `json:"effort"`
	Rounds       string              `json:"rounds"` // how many reports could still be had
}

// An Underlined stretch of the instructions says something that can be checked.
type Underlined struct {
	Start int    `json:"start"` // code points
	End   int    `json:"end"`
	Label string `json:"label"`
	Text  string `json:"text"`
}

// An EffortView is how long the work takes, in minutes, and if all goes well or little does; 0: not said.
type EffortView struct {
	Low    int `json:"low"`
	Likely int `json:"likely"`
	High   int `json:"high"`
}

// A Handout given out with the assignment.
type Handout struct {
	ID    int64  `json:"id"`
	Name  string `json:"name"`
	Bytes string `json:"bytes"`
}

// A SlotView is a place of the bundle.
type SlotView struct {
	Name     string `json:"name"`
	Asks     string `json:"asks"`
	Required bool   `json:"required"`
	Full     bool   `json:"full"`
}

// An ItemView is a file in the bundle.
type ItemView struct {
	ID        int64     `json:"id"`
	Slot      string    `json:"slot"`
	Name      string    `json:"name"`
	Original  string    `json:"original"` // the name it came with
	VersionID int64     `json:"version_id"`
	Facts     []string  `json:"facts"` // in words
	AddedAt   time.Time `json:"added_at"`
	Converted bool      `json:"converted"` // made from another version
	Working   string    `json:"working"`   // what is being done to it, or empty
}

// SubmitPanel says what pressing Submit will do.
type SubmitPanel struct {
	Sentence    string `json:"sentence"`
	Button      string `json:"button"`
	Ready       bool   `json:"ready"`
	Shut        bool   `json:"shut"` // nothing can be sent here any more
	Declaration string `json:"declaration"`
}

// Desk computes one assignment's page.
func (s Service) Desk(ctx context.Context, student, assignment int64) (*Desk, error) {
	list, _, err := s.load(ctx, student)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(list, func(t *tracked) bool { return t.Assignment.ID == assignment })
	if i < 0 {
		return nil, prepare.ErrNotFound
	}
	t := list[i]
	a := t.Assignment
	courses, err := s.courses(ctx, student, list)
	if err != nil {
		return nil, err
	}
	jobs, err := s.Store.JobsOf(ctx, student)
	if err != nil {
		return nil, err
	}
	d := &Desk{
		Own: !t.bySite(), Noted: t.Noted, Effort: EffortView{int(a.EffortLow.Int32), int(a.EffortMinutes), int(a.EffortHigh.Int32)}, Rounds: t.rounds(), Read: t.underlined(),
		Line: t.line, Now: t.Now, Instructions: a.Instructions, Handouts: []Handout{}, Requirements: t.Requirements, Slots: []SlotView{},
		Items: t.items(jobs), Findings: t.Findings, DueText: t.dueText(), Sum: t.sum(), Submit: t.submitPanel(), Attempts: []Attempt{},
	}
	d.Course = courses[slices.IndexFunc(courses, func(c Course) bool { return c.ID == t.Course.ID })]
	for _, h := range t.Handouts {
		d.Handouts = append(d.Handouts, Handout{h.ID, h.Name, wording.Bytes(h.Bytes)})
	}
	filled := t.Filled()
	for _, slot := range t.Sheet.Slots {
		asks := strings.ToUpper(strings.Join(slot.Forms, " or "))
		d.Slots = append(d.Slots, SlotView{slot.Name, asks, slot.Required, filled[slot.Name] >= slot.Room()})
	}
	d.Attempts, err = s.attempts(ctx, student, t)
	return d, err
}

// underlined reads the instructions: of an own assignment what the student kept of them.
func (t *tracked) underlined() []Underlined {
	out := []Underlined{}
	asks := t.Own.Asks
	if t.bySite() {
		asks = brief.Asked(prose.Read(t.Assignment.Instructions, t.Now.In(t.Window.Zone)))
	}
	for _, a := range asks {
		if a.Item.End > a.Item.Start {
			label, text := a.Said()
			out = append(out, Underlined{a.Item.Start, a.Item.End, label, text})
		}
	}
	return out
}

// rounds says how many reports, each with time to correct, still fit before due.
func (t *tracked) rounds() string {
	may, _ := t.MayGoOn()
	if t.Sheet.Report == nil || !may {
		return ""
	}
	_, sent := t.Last()
	left := 99
	if most := t.Sheet.Attempts.Max; most > 0 {
		left = most - t.Attempt + 1
	}
	n := timing.RoundsLeft(t.Now, t.line.Due, t.Job(), sent, left)
	if n == 0 {
		return "No report with time to correct fits before due any more."
	}
	return fmt.Sprintf("%s with time to correct fit before due.", plural(n, "report", "reports"))
}

func (t *tracked) items(jobs []query.Job) []ItemView {
	out := []ItemView{}
	for _, i := range t.Items {
		v := ItemView{ID: i.ID, Slot: i.Slot, Name: i.Name, Original: i.VersionName, VersionID: i.VersionID, Facts: said(i.Facts), AddedAt: i.CreatedAt, Converted: i.MadeFrom.Valid}
		for _, j := range jobs {
			if j.Kind == prepare.ConvertJob && j.Subject == i.ID {
				v.Working = "Converting to PDF…"
			}
		}
		out = append(out, v)
	}
	return out
}

// said writes the facts that a student looks for.
func said(f *inspect.Facts) []string {
	var parts []string
	count := func(n *int, one, many string) {
		if n != nil && *n == 1 {
			parts = append(parts, "1 "+one)
		} else if n != nil {
			parts = append(parts, thousands(*n)+" "+many)
		}
	}
	count(f.Pages, "page", "pages")
	count(f.Words, "word", "words")
	count(f.Rows, "row", "rows")
	count(f.Columns, "column", "columns")
	if f.Width != nil && f.Height != nil {
		parts = append(parts, fmt.Sprintf("%d × %d pixels", *f.Width, *f.Height))
	}
	lines := []string{strings.Join(append(parts, wording.Bytes(f.Bytes)), ", ")}
	if f.Author != nil && *f.Author != "" {
		lines = append(lines, fmt.Sprintf("author “%s”", *f.Author))
	}
	return lines
}

func thousands(n int) string {
	text := fmt.Sprint(n)
	for i := len(text) - 3; i > 0; i -= 3 {
		text = text[:i] + "," + text[i:]
	}
	return text
}

// Work is what the student says about an assignment's work: minutes it takes in all (and if all goes well, or
// little does; 0: not said), minutes done, and whether what was reached is enough.
type Work struct {
	Minutes, Low, High, Done int
	Enough                   bool
}

// SetWork notes what the student says about an assignment's work.
func (s Service) SetWork(ctx context.Context, student, assignment int64, w Work) error {
	for _, minutes := range []int{w.Minutes, w.Low, w.High, w.Done} {
		if minutes < 0 || minutes > 100_000 {
			return prepare.Complaint{Message: "Minutes of work lie between 0 and 100,000."}
		}
	}
	three := w.Low > 0 || w.High > 0
	if three && (w.Low > w.Minutes || w.High < w.Minutes) {
		return prepare.Complaint{Message: "The estimate for a good course is at most, that for a bad one at least the likely one."}
	}
	if _, err := prepare.Find(ctx, s.Store, student, assignment, s.Now()); err != nil {
		return err
	}
	done, err := s.Store.WorkDone(ctx, student)
	if err != nil {
		return err
	}
	before := 0
	for _, row := range done {
		if row.AssignmentID == assignment {
			before = int(row.Minutes)
		}
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		if w.Done != before {
			if err := q.AddWork(ctx, query.AddWorkParams{StudentID: student, AssignmentID: assignment, At: s.Now().UTC(), Minutes: int32(w.Done - before)}); err != nil {
				return err
			}
		}
		return q.SetAssignmentEffort(ctx, query.SetAssignmentEffortParams{EffortMinutes: int32(w.Minutes), EffortLow: sql.NullInt32{Int32: int32(w.Low), Valid: three},
			EffortHigh: sql.NullInt32{Int32: int32(w.High), Valid: three}, Enough: w.Enough, ID: assignment, StudentID: student})
	})
}

// LogWork adds minutes that were just worked; below 0 it corrects.
func (s Service) LogWork(ctx context.Context, student, assignment int64, minutes int) error {
	t, _, err := s.find(ctx, student, assignment)
	if err != nil {
		return err
	}
	if minutes == 0 || minutes > 24*60 || t.line.DoneMinutes+minutes < 0 {
		return prepare.Complaint{Message: "Log between a minute and 24 hours at once; less than nothing cannot have been done."}
	}
	return s.Store.AddWork(ctx, query.AddWorkParams{StudentID: student, AssignmentID: assignment, At: s.Now().UTC(), Minutes: int32(minutes)})
}
