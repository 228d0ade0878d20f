package track

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/brief"
	"orario/core/compare"
	"orario/core/inspect"
	"orario/core/receipt"
	"orario/core/timing"
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

// An Attempt was sent or is under way.
type Attempt struct {
	Number       int              `json:"number"`
	SubmissionID int64            `json:"submission_id"`
	State        string           `json:"state"`
	Said         string           `json:"said"` // how it stands, in a sentence
	StartedAt    time.Time        `json:"started_at"`
	AcceptedAt   *time.Time       `json:"accepted_at"`
	SentBytes    int64            `json:"sent_bytes"`
	TotalBytes   int64            `json:"total_bytes"`
	MayCancel    bool             `json:"may_cancel"`
	Comment      string           `json:"comment"`
	Files        []FileView       `json:"files"`
	Receipt      *receipt.Receipt `json:"receipt"`
	Proof        *receipt.Proof   `json:"proof"`
	Report       *ReportView      `json:"report"`
	Returned     *ReturnView      `json:"returned"`
	Changes      *compare.Summary `json:"changes"` // since the attempt before
	Strip        []brief.Place    `json:"strip"`
}

// A FileView is a file that was sent.
type FileView struct {
	Name      string `json:"name"`
	Slot      string `json:"slot"`
	Bytes     string `json:"bytes"`
	VersionID int64  `json:"version_id"`
}

// A ReportView is a report as the Desk shows it.
type ReportView struct {
	Ready      bool       `json:"ready"`
	ExpectedAt *time.Time `json:"expected_at"`
	Share      float64    `json:"share"`
	Said       string     `json:"said"`
}

// A ReturnView is what came back of an attempt.
type ReturnView struct {
	Mark     *float64  `json:"mark"`
	Points   float64   `json:"points"`
	Comments []Comment `json:"comments"`
	Invited  bool      `json:"invited"`
	Worth    string    `json:"worth"` // what a correction could still gain
}

// A Comment of the instructor.
type Comment struct {
	Text   string   `json:"text"`
	Open   bool     `json:"open"`
	Points *float64 `json:"points,omitempty"`
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

func (t *tracked) dueText() string {
	left := t.line.Due.Sub(t.Now)
	text := "due, in " + brief.Span(left)
	if left < 0 {
		text = "was due " + brief.Span(-left) + " ago"
	}
	switch {
	case t.line.HardStop:
		return text + " · nothing is taken late"
	case t.line.Closes != nil:
		return text + " · late " + t.line.Price + " until " + t.local(*t.line.Closes)
	}
	return text + " · late " + t.line.Price
}

// sum writes how send-by comes about; the larger of margin and need counts.
func (t *tracked) sum() []string {
	minutes := map[string]time.Duration{}
	for _, c := range t.Because {
		minutes[c.Part] = time.Duration(c.Minutes) * time.Minute
	}
	lines := []string{t.local(t.line.Due) + " due"}
	need := minutes["transfer"] + minutes["report"] + minutes["fix"]
	if minutes["margin"] >= need {
		lines = append(lines, "− "+brief.Span(minutes["margin"])+" your margin")
		if need > 0 {
			lines = append(lines, "("+brief.Span(need)+" would do: "+t.needs(minutes)+")")
		}
	} else {
		if minutes["report"] > 0 {
			lines = append(lines, "− "+brief.Span(minutes["report"])+" for a report", "− "+brief.Span(minutes["fix"])+" to correct after it")
		}
		lines = append(lines, "− "+brief.Span(minutes["transfer"])+" to send twice if need be")
	}
	if t.Crowded {
		lines = append(lines, "The hour is crowded, so sending is reckoned slow.")
	}
	return lines
}

func (t *tracked) needs(minutes map[string]time.Duration) string {
	var parts []string
	if minutes["report"] > 0 {
		parts = append(parts, "a report "+brief.Span(minutes["report"]), "correcting "+brief.Span(minutes["fix"]))
	}
	return strings.Join(append(parts, "sending "+brief.Span(minutes["transfer"])), ", ")
}

func (t *tracked) submitPanel() SubmitPanel {
	p := SubmitPanel{Button: "Submit", Declaration: t.Sheet.Declaration}
	n := len(t.Items)
	files := fmt.Sprintf("%d files", n)
	if n == 1 {
		files = "1 file"
	}
	if may, why := t.MayGoOn(); !may {
		p.Shut, p.Sentence = true, "Nothing more can be sent: "+why+"."
		return p
	}
	if t.Sending {
		p.Shut, p.Sentence = true, "It is on its way."
		return p
	}
	of := ""
	if most := t.Sheet.Attempts.Max; most > 0 {
		of = fmt.Sprintf(" of %d", most)
	}
	if n == 0 {
		p.Sentence = fmt.Sprintf("Nothing is in the bundle yet. It will go to the %s as attempt %d%s.", t.Site.Name, t.Attempt, of)
		return p
	}
	left := t.line.Due.Sub(t.Now)
	when := brief.Span(left) + " before due"
	if left < 0 {
		cost := t.Window.Cost(t.Now, t.Late, t.Assignment.Points, t.Assignment.Points)
		when = fmt.Sprintf("%s after due, which costs up to %g points", brief.Span(-left), cost)
	}
	go_ := "go"
	if n == 1 {
		go_ = "goes"
	}
	p.Sentence = fmt.Sprintf("%s %s to the %s as attempt %d%s, %s.", strings.ToUpper(files[:1])+files[1:], go_, t.Site.Name, t.Attempt, of, when)
	p.Button = fmt.Sprintf("Submit %s to %s", files, t.Course.Code)
	if must := t.line.MustFix; must == 1 {
		p.Sentence += " One thing must be fixed first."
	} else if must > 1 {
		p.Sentence += fmt.Sprintf(" %d things must be fixed first.", must)
	} else {
		p.Ready = true
		if state, _ := t.Window.At(t.Now, t.Late); state == timing.NotOpen {
			p.Ready = false
		}
	}
	return p
}

func (s Service) attempts(ctx context.Context, student int64, t *tracked) ([]Attempt, error) {
	out := []Attempt{}
	if len(t.Submissions) == 0 {
		return out, nil
	}
	files, err := s.Store.SubmissionFiles(ctx, student)
	if err != nil {
		return nil, err
	}
	ledger, err := s.Store.Ledger(ctx, student)
	if err != nil {
		return nil, err
	}
	var before *query.Submission
	for i, sub := range t.Submissions {
		if sub.State == query.SubmissionStateCancelled {
			continue
		}
		a := Attempt{
			Number: int(sub.Attempt), SubmissionID: sub.ID, State: string(sub.State), StartedAt: sub.StartedAt, SentBytes: sub.SentBytes, TotalBytes: sub.TotalBytes,
			Comment: sub.Comment, Files: []FileView{}, Strip: brief.Strip(t.progress(sub)),
		}
		for _, f := range files {
			if f.SubmissionID == sub.ID {
				a.Files = append(a.Files, FileView{f.Name, f.Slot, brief.Bytes(f.Bytes), f.VersionID})
			}
		}
		for _, row := range ledger {
			if row.SubmissionID == sub.ID {
				a.Receipt, a.Proof = &receipt.Receipt{}, &receipt.Proof{}
				if err := json.Unmarshal(row.Receipt, a.Receipt); err != nil {
					return nil, err
				}
				if err := json.Unmarshal(row.Proof, a.Proof); err != nil {
					return nil, err
				}
			}
		}
		t.say(&a, sub)
		if sub.State == query.SubmissionStateAccepted {
			at := sub.AcceptedAt.Time
			a.AcceptedAt = &at
			if before != nil {
				if a.Changes, err = s.Changes.Changes(ctx, student, *before, sub); err != nil {
					return nil, err
				}
			}
			before = &t.Submissions[i]
		}
		out = append(out, a)
	}
	slices.Reverse(out)
	return out, nil
}

// say adds how the attempt stands and what came back of it.
func (t *tracked) say(a *Attempt, sub query.Submission) {
	switch sub.State {
	case query.SubmissionStateSending:
		a.Said = fmt.Sprintf("On its way: %s of %s.", brief.Bytes(sub.SentBytes), brief.Bytes(sub.TotalBytes))
		if sub.Reason != "" {
			a.Said = "The site cannot be reached; Orario keeps trying. You need not stay here. (" + sub.Reason + ")"
		}
		a.MayCancel = !sub.DraftID.Valid
	case query.SubmissionStateRefused:
		a.Said = "The site refused it: " + sub.Reason
	case query.SubmissionStateAccepted:
		a.Said = fmt.Sprintf("Accepted as %s, %s.", sub.Number, beforeOrAfter(t.line.Due.Sub(sub.AcceptedAt.Time)))
	}
	if r, ok := t.reports[sub.ID]; ok {
		a.Report = &ReportView{Ready: r.State == query.ReportStateReady}
		if r.ExpectedAt.Valid {
			a.Report.ExpectedAt = &r.ExpectedAt.Time
		}
		if a.Report.Ready {
			a.Report.Share = r.Share.Float64
			a.Report.Said = fmt.Sprintf("%.0f %% of the text needs a decision.", 100*r.Share.Float64)
		} else {
			a.Report.Said = "The report is being made, expected " + t.local(r.ExpectedAt.Time) + "."
		}
	}
	if m, ok := t.Returned[sub.ID]; ok {
		v := &ReturnView{Points: m.Points, Invited: m.Invited, Comments: []Comment{}}
		_ = json.Unmarshal(m.Comments, &v.Comments) // as stored by package review
		if m.Mark.Valid {
			v.Mark = &m.Mark.Float64
			if lost := m.Points - m.Mark.Float64; lost > 0 && t.line.State == Back {
				v.Worth = fmt.Sprintf("A correction could gain up to %g points, %.1f %% of the course.", lost, lost/max(1, m.Points)*t.Assignment.Weight)
			}
		}
		a.Returned = v
	}
}

func beforeOrAfter(left time.Duration) string {
	if left >= 0 {
		return brief.Span(left) + " before due"
	}
	return brief.Span(-left) + " after due"
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
