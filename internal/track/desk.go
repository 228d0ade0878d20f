package track

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/brief"
	"orario/core/compare"
	"orario/core/inspect"
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
	Handouts     []Handout           `json:"handouts"`
	Requirements []brief.Requirement `json:"requirements"`
	Slots        []SlotView          `json:"slots"`
	Items        []ItemView          `json:"items"`
	Findings     []brief.Finding     `json:"findings"`
	DueText      string              `json:"due_text"` // under the due time
	Sum          []string            `json:"sum"`      // how send-by comes about
	Submit       SubmitPanel         `json:"submit"`
	Attempts     []Attempt           `json:"attempts"` // sent or under way, the newest first
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
	courses, err := s.courses(ctx, student, list)
	if err != nil {
		return nil, err
	}
	jobs, err := s.Store.JobsOf(ctx, student)
	if err != nil {
		return nil, err
	}
	d := &Desk{
		Line: t.line, Now: t.Now, Instructions: t.Assignment.Instructions, Handouts: []Handout{}, Requirements: t.Requirements, Slots: []SlotView{},
		Items: t.items(jobs), Findings: t.Findings, DueText: t.dueText(), Sum: t.sum(), Submit: t.submitPanel(), Attempts: []Attempt{},
	}
	d.Course = courses[slices.IndexFunc(courses, func(c Course) bool { return c.ID == t.Course.ID })]
	for _, h := range t.Handouts {
		d.Handouts = append(d.Handouts, Handout{h.ID, h.Name, brief.Bytes(h.Bytes)})
	}
	filled := t.Filled()
	for _, slot := range t.Sheet.Slots {
		asks := strings.ToUpper(strings.Join(slot.Forms, " or "))
		d.Slots = append(d.Slots, SlotView{slot.Name, asks, slot.Required, filled[slot.Name] >= slot.Room()})
	}
	d.Attempts, err = s.attempts(ctx, student, t)
	return d, err
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
	lines := []string{strings.Join(append(parts, brief.Bytes(f.Bytes)), ", ")}
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

// SetWork notes what the student says about an assignment's work: minutes it takes in all, minutes
// done, and whether what was reached is enough.
func (s Service) SetWork(ctx context.Context, student, assignment int64, effort, done int, enough bool) error {
	if effort < 0 || effort > 100_000 || done < 0 || done > 100_000 {
		return prepare.Complaint{Message: "Minutes of work lie between 0 and 100,000."}
	}
	list, err := prepare.Load(ctx, s.Store, student, s.Now())
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(list, func(p *prepare.State) bool { return p.Assignment.ID == assignment }) {
		return prepare.ErrNotFound
	}
	return s.Store.SetAssignmentWork(ctx, query.SetAssignmentWorkParams{EffortMinutes: int32(effort), DoneMinutes: int32(done), Enough: enough, ID: assignment, StudentID: student})
}
