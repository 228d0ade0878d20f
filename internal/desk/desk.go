// Package desk shows one assignment on one page.
package desk

import (
	"context"
	"slices"
	"time"

	"orario/core/agenda"
	"orario/core/brief"
	"orario/core/compare"
	"orario/core/coursework"
	"orario/core/timing"
	"orario/core/wording"
	"orario/internal/courses"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
	"orario/internal/refusal"
	"orario/internal/roster"
	"orario/internal/schedule"
)

// Store is what is shown.
type Store interface {
	roster.Store
}

// Comparer says what changed between two submissions.
type Comparer interface {
	Changes(ctx context.Context, student, before, after int64) (*compare.Summary, error)
}

// Service shows.
type Service struct {
	Store   Store
	Changes Comparer
	Now     func() time.Time
}

// Desk is one assignment, in the order of the work.
type Desk struct {
	Line         schedule.Line       `json:"line"`
	Course       courses.Course      `json:"course"`
	Now          time.Time           `json:"now"`
	Instructions string              `json:"instructions"`
	Read         []Underlined        `json:"read"` // what is read in the instructions
	Handouts     []Handout           `json:"handouts"`
	Requirements []brief.Requirement `json:"requirements"`
	Slots        []Slot              `json:"slots"`
	Items        []Item              `json:"items"`
	Findings     []brief.Finding     `json:"findings"`
	DueText      string              `json:"due_text"` // under the due time
	Sum          []string            `json:"sum"`      // how send-by comes about; empty where nothing more can be sent
	Submit       Submit              `json:"submit"`
	Attempts     []Attempt           `json:"attempts"` // sent or under way, the newest first
	// Not published by a site: it can be changed, and is sent elsewhere
	Own    bool              `json:"own"`
	Noted  *coursework.Noted `json:"noted"`
	Effort Effort            `json:"effort"`
	Rounds string            `json:"rounds"` // how many reports could still be had
	// Begins the next attempt with the files of the last, as a button says it; empty: not now
	Next  string `json:"next"`
	Focus string `json:"focus"` // what matters now: brief, bundle, sent or return
}

// An Underlined stretch of the instructions says something that can be checked.
type Underlined struct {
	Start int    `json:"start"` // code points
	End   int    `json:"end"`
	Label string `json:"label"`
	Text  string `json:"text"`
}

// Effort is how long the work takes, in minutes, and if all goes well or little does; 0: not said.
type Effort struct {
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

// A Slot is a place of the bundle.
type Slot struct {
	Name     string   `json:"name"`
	Asks     string   `json:"asks"`
	Forms    []string `json:"forms"` // that are asked for; none: any
	Required bool     `json:"required"`
	Full     bool     `json:"full"`
	Length   string   `json:"length"` // in seconds, of sound and film; empty: not said
}

// An Item is a file in the bundle.
type Item struct {
	ID        int64     `json:"id"`
	Slot      string    `json:"slot"`
	Name      string    `json:"name"`
	Original  string    `json:"original"` // the name it came with
	VersionID int64     `json:"version_id"`
	Kind      string    `json:"kind"`
	Facts     []string  `json:"facts"` // in words
	AddedAt   time.Time `json:"added_at"`
	Converted bool      `json:"converted"` // made from another version
	Inherited bool      `json:"inherited"` // from the attempt before, and the same still
	Working   string    `json:"working"`   // what is being done to it, or empty
}

// Desk computes one assignment's page, seen from a part or, with 0, from the one that comes next.
func (s Service) Desk(ctx context.Context, student, assignment, part int64) (*Desk, error) {
	var more details
	r, err := roster.Read(ctx, s.Store, student, s.Now(), roster.WithInstructions(assignment), more.read(assignment))
	if err != nil {
		return nil, err
	}
	p := r.Plan(part)
	e := p.Of(assignment)
	if e == nil || part != 0 && e.Part.ID != part {
		return nil, refusal.ErrNotFound
	}
	d := &Desk{
		Own:          !e.BySite(),
		Noted:        e.Part.Noted,
		Effort:       Effort(e.Standing.Effort),
		Rounds:       rounds(e, r.Margin),
		Read:         underlined(r, e),
		Line:         schedule.LineOf(e),
		Now:          e.Now,
		Instructions: r.Instructions,
		Handouts:     []Handout{},
		Requirements: e.Requirements,
		Slots:        []Slot{},
		Items:        items(e, more.jobs),
		Findings:     e.Findings,
		DueText:      dueText(e),
		Sum:          sum(e),
		Submit:       submit(e),
		Focus:        focus(e),
	}
	list := courses.Of(r, p.Standings)
	d.Course = list[slices.IndexFunc(list, func(c courses.Course) bool { return c.ID == e.Course.ID })]
	for _, h := range e.Handouts {
		d.Handouts = append(d.Handouts, Handout{h.ID, h.Name, wording.Bytes(h.Bytes)})
	}
	filled := e.Filled()
	for _, slot := range e.Sheet.Slots {
		v := Slot{
			Name:     slot.Name,
			Asks:     brief.Forms(slot.Forms),
			Forms:    append([]string{}, slot.Forms...),
			Required: slot.Required,
			Full:     filled[slot.Name] >= slot.Room(),
		}
		if slot.Seconds != nil {
			v.Length = slot.Seconds.String() + " s"
		}
		d.Slots = append(d.Slots, v)
	}
	d.Next = next(e)
	d.Attempts, err = s.attempts(ctx, student, e, more)
	return d, err
}

// details are what the page shows of one assignment beyond the roster.
type details struct {
	jobs   []query.Job
	files  map[int64][]query.SubmissionFile // by submission
	ledger map[int64]query.Ledger
}

func (d *details) read(assignment int64) roster.Detail {
	return func(ctx context.Context, q *query.Queries, r *roster.Roster) (err error) {
		d.files, d.ledger = map[int64][]query.SubmissionFile{}, map[int64]query.Ledger{}
		if d.jobs, err = q.JobsOf(ctx, r.Student.ID); err != nil {
			return err
		}
		for _, p := range r.Assignment(assignment).Parts {
			files, err := q.FilesOfPart(ctx, p.ID)
			if err != nil {
				return err
			}
			for _, f := range files {
				d.files[f.SubmissionID] = append(d.files[f.SubmissionID], f)
			}
			rows, err := q.LedgerOfPart(ctx, p.ID)
			if err != nil {
				return err
			}
			for _, row := range rows {
				d.ledger[row.SubmissionID] = row
			}
		}
		return nil
	}
}

// focus is what matters now: what came back, what was sent, the bundle of an attempt that may be sent, or a brief
// that is not settled.
func focus(e *agenda.Entry) string {
	_, sent := e.Part.Last()
	switch {
	case e.Sending:
		return "sent"
	case sent && !e.Preparing():
		return "return"
	case e.Unconfirmed() > 0:
		return "brief"
	}
	return "bundle"
}

// next says what begins the next attempt, where it may be begun and is not.
func next(e *agenda.Entry) string {
	last, sent := e.Part.Last()
	if may, _ := e.MayGoOn(); !sent || !may || e.Sending || len(e.Items) > 0 {
		return ""
	}
	return "Begin attempt " + wording.Thousands(e.Number) + " with the files of attempt " + wording.Thousands(
		last.Attempt,
	)
}

// underlined reads the instructions: of an own assignment what the student kept of them.
func underlined(r *roster.Roster, e *agenda.Entry) []Underlined {
	out := []Underlined{}
	for _, a := range e.Asks(r.Instructions) {
		if a.Item.End > a.Item.Start {
			label, text := a.Said()
			out = append(out, Underlined{a.Item.Start, a.Item.End, label, text})
		}
	}
	return out
}

// rounds says how many reports, each with time to correct, still fit before due.
func rounds(e *agenda.Entry, margin time.Duration) string {
	may, _ := e.MayGoOn()
	if e.Sheet.Report == nil || !may {
		return ""
	}
	_, sent := e.Part.Last()
	left, limited := e.AttemptsLeft()
	if !limited {
		left = 99
	}
	n := timing.RoundsLeft(e.Now, e.Window.Due.At(), e.Job(margin), sent, left)
	if n == 0 {
		return "No report with time to correct fits before due any more."
	}
	return wording.Count(n, "report", "reports") + " with time to correct fit before due."
}

func items(e *agenda.Entry, jobs []query.Job) []Item {
	out := []Item{}
	for _, i := range e.Items {
		v := Item{
			ID:        i.ID,
			Slot:      i.Slot,
			Name:      i.Name,
			Original:  i.Original,
			VersionID: i.Version,
			Kind:      i.Facts.Kind,
			Facts:     i.Facts.Said(),
			AddedAt:   i.AddedAt,
			Converted: i.MadeFrom != 0,
			Inherited: i.Inherited,
		}
		for _, j := range prepare.Jobs {
			if slices.ContainsFunc(jobs, func(job query.Job) bool { return job.Kind == j.Fix && job.Subject == i.ID }) {
				v.Working = j.Doing
			}
		}
		out = append(out, v)
	}
	return out
}
