package track

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"time"

	"orario/core/brief"
	"orario/core/receipt"
	"orario/core/timing"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
)

// Where an assignment stands.
const (
	NotOpen = "not_open"
	Open    = "open"
	Late    = "late"
	Closed  = "closed" // and nothing was sent
	Sending = "sending"
	Waiting = "waiting" // for a report or a mark
	Back    = "back"    // came back, and something could still be gained
	Done    = "done"
)

// A Line is one assignment on the Horizon: a line in its course's lane and in the list.
type Line struct {
	ID             int64         `json:"id"`
	Source         string        `json:"source"` // site, own or calendar
	CourseID       int64         `json:"course_id"`
	Course         string        `json:"course"`
	Zone           string        `json:"zone"`
	Title          string        `json:"title"`
	Part           string        `json:"part"`  // the one that comes next, where there are several
	Parts          []PartView    `json:"parts"` // all, where there are several
	State          string        `json:"state"`
	Opens          *time.Time    `json:"opens"`
	Due            time.Time     `json:"due"`
	DueWas         *time.Time    `json:"due_was"` // before the site changed it
	Closes         *time.Time    `json:"closes"`
	HardStop       bool          `json:"hard_stop"` // nothing is taken after due
	SendBy         time.Time     `json:"send_by"`
	Price          string        `json:"price"` // of lateness
	Points         float64       `json:"points"`
	Weight         float64       `json:"weight"`
	EffortMinutes  int           `json:"effort_minutes"`
	DoneMinutes    int           `json:"done_minutes"`
	PlanMinutes    int           `json:"plan_minutes"` // of work in all that the plan reckons with
	Estimate       string        `json:"estimate"`     // why that differs from the student's figure
	NotBefore      *time.Time    `json:"not_before"`   // of planned work, where the student says so
	Miss           string        `json:"miss"`         // by what the planned work misses its time
	Extension      string        `json:"extension"`    // asked, granted or empty
	Blocks         []Block       `json:"blocks"`
	LatestStart    *time.Time    `json:"latest_start"`
	SlackMinutes   *int          `json:"slack_minutes"`
	Slack          string        `json:"slack"`
	SentAt         *time.Time    `json:"sent_at"`
	ReportExpected *time.Time    `json:"report_expected"`
	Outcome        string        `json:"outcome"` // "17 of 20", "report: 11 %"
	Attempt        int           `json:"attempt"`
	Attempts       int           `json:"attempts"` // 0: without limit
	MustFix        int           `json:"must_fix"`
	Crowd          int           `json:"crowd"`    // due times within half an hour
	Pressing       bool          `json:"pressing"` // open, and its send-by is less than a day away or past
	Strip          []brief.Place `json:"strip"`
	StripAttempt   int           `json:"strip_attempt"` // the attempt that the strip is of
}

// A Block is a stretch of planned work. A pinned one stays where it is.
type Block struct {
	Start  time.Time `json:"start"`
	End    time.Time `json:"end"`
	Pinned bool      `json:"pinned"`
}

// A PartView is one of several parts of an assignment.
type PartView struct {
	Name   string     `json:"name"`
	Opens  *time.Time `json:"opens"`
	Due    time.Time  `json:"due"`
	Closes *time.Time `json:"closes"`
	Sent   bool       `json:"sent"` // the student says so
}

// soon is how close a time must be to press.
const soon = 24 * time.Hour

// tracked is the state of an assignment with all that came back.
type tracked struct {
	*prepare.State
	line    Line
	reports map[int64]query.ReportsRow // by submission
	proofs  map[int64]receipt.Proof
}

// load reads everything about a student's assignments and plans the open ones.
func (s Service) load(ctx context.Context, student int64) ([]*tracked, *plan, error) {
	return s.loadWith(ctx, student, nil)
}

// loadWith is load with the plan as the student would have it; nil: as it is stored.
func (s Service) loadWith(ctx context.Context, student int64, wish *Wish) ([]*tracked, *plan, error) {
	states, err := prepare.Load(ctx, s.Store, student, s.Now())
	if err != nil {
		return nil, nil, err
	}
	reports, err := s.Store.Reports(ctx, student)
	if err != nil {
		return nil, nil, err
	}
	ledger, err := s.Store.Ledger(ctx, student)
	if err != nil {
		return nil, nil, err
	}
	who, err := s.Store.StudentByID(ctx, student)
	if err != nil {
		return nil, nil, err
	}
	var list []*tracked
	owner := map[int64]*tracked{}
	for _, state := range states {
		t := &tracked{State: state, reports: map[int64]query.ReportsRow{}, proofs: map[int64]receipt.Proof{}}
		list = append(list, t)
		for _, sub := range state.Submissions {
			owner[sub.ID] = t
		}
	}
	for _, r := range reports {
		owner[r.SubmissionID].reports[r.SubmissionID] = r
	}
	for _, row := range ledger {
		var proof receipt.Proof
		if err := json.Unmarshal(row.Proof, &proof); err != nil {
			return nil, nil, fmt.Errorf("reading a proof: %w", err)
		}
		owner[row.SubmissionID].proofs[row.SubmissionID] = proof
	}
	done, err := s.Store.WorkDone(ctx, student)
	if err != nil {
		return nil, nil, err
	}
	busy, err := s.Store.Busy(ctx, query.BusyParams{StudentID: student, EndAt: s.Now().UTC()})
	if err != nil {
		return nil, nil, err
	}
	minutes := map[int64]int{}
	for _, row := range done {
		minutes[row.AssignmentID] = int(row.Minutes)
	}
	for _, t := range list {
		t.draw(minutes[t.Assignment.ID])
	}
	if wish == nil {
		stored, err := s.wished(ctx, student, list)
		if err != nil {
			return nil, nil, err
		}
		wish = &stored
	}
	p, err := s.plan(list, who, busy, *wish)
	return list, p, err
}

// draw computes the line, all but what the plan adds.
func (t *tracked) draw(done int) {
	a := t.Assignment
	t.line = Line{
		ID: a.ID, Source: string(a.Source), Part: t.Part(), Parts: []PartView{}, CourseID: a.CourseID, Course: t.Course.Code, Zone: t.Course.Zone, Title: a.Title, Due: t.Window.Due.At(), SendBy: t.SendBy,
		HardStop: t.Late.Kind == timing.NoLateWork, Price: price(t.Late), Points: a.Points, Weight: a.Weight, EffortMinutes: int(a.EffortMinutes), DoneMinutes: done,
		Attempt: t.Attempt, Attempts: t.Sheet.Attempts.Max, Crowd: t.CrowdOf, MustFix: brief.MustFix(t.Findings), Blocks: []Block{},
	}
	t.line.Opens, t.line.Closes = instant(t.Window.Opens), instant(t.Window.Closes)
	if len(t.Parts) > 1 {
		for _, p := range t.Parts {
			t.line.Parts = append(t.line.Parts, PartView{p.Name, instant(p.Window.Opens), p.Window.Due.At(), instant(p.Window.Closes), p.Noted})
		}
	}
	if e := t.Extension; e.Part != t.Part() {
		t.line.Extension = ""
	} else if e.Granted != nil {
		t.line.Extension = "granted"
	} else if e.Asked != nil {
		t.line.Extension = "asked"
	}
	if a.DueWas != "" {
		if was, err := timing.ParseWall(a.DueWas, t.Window.Zone); err == nil {
			at := was.At()
			t.line.DueWas = &at
		}
	}
	t.stand()
	if t.line.State == Waiting && !sentByOrario(t) && t.Assignment.Enough {
		t.line.State = Done
	}
	t.line.Pressing = (t.line.State == Open || t.line.State == Late) && t.SendBy.Sub(t.Now) < soon
	t.line.Strip, t.line.StripAttempt = t.strip()
}

func instant(w *timing.Wall) *time.Time {
	if w == nil {
		return nil
	}
	at := w.At()
	return &at
}

func sentByOrario(t *tracked) bool {
	_, sent := t.Last()
	return sent
}

// stand says where the assignment stands and what came of it.
func (t *tracked) stand() {
	window, _ := t.Window.At(t.Now, t.Late)
	t.line.State = map[timing.State]string{timing.NotOpen: NotOpen, timing.Open: Open, timing.Late: Late, timing.Closed: Closed}[window]
	last, sent := t.Last()
	if sent {
		at := last.AcceptedAt.Time
		t.line.SentAt = &at
		t.line.State = Waiting
		if r, ok := t.reports[last.ID]; ok {
			if r.State == query.ReportStateWaiting && r.ExpectedAt.Valid {
				t.line.ReportExpected = &r.ExpectedAt.Time
			} else if r.Share.Valid {
				t.line.Outcome = fmt.Sprintf("report: %.0f %%", 100*r.Share.Float64)
			}
		}
		if m, ok := t.Returned[last.ID]; ok && m.Mark.Valid {
			t.line.Outcome = fmt.Sprintf("%g of %g", m.Mark.Float64, m.Points)
			t.line.State = Done
			if may, _ := t.MayGoOn(); may && m.Mark.Float64 < m.Points && !t.Assignment.Enough {
				t.line.State = Back
			}
		}
	}
	if !sent && t.NotedSent() {
		t.line.SentAt, t.line.State, t.line.Outcome = t.Noted.At, Waiting, "you say so; no proof"
	}
	if t.Sending {
		t.line.State = Sending
	}
}

// strip is the punch strip of the attempt that matters now: the one being prepared if anything is in
// its bundle, else the last that was sent.
func (t *tracked) strip() ([]brief.Place, int) {
	last, sent := t.Last()
	if len(t.Items) > 0 || !sent {
		return brief.Strip(t.progress(query.Submission{})), t.Attempt
	}
	return brief.Strip(t.progress(last)), int(last.Attempt)
}

// progress is what is known about an attempt: a submission, or with none the one being prepared.
func (t *tracked) progress(sub query.Submission) brief.Progress {
	p := brief.Progress{Requirements: t.Requirements, Sheet: t.Sheet, Filled: t.Filled(), Findings: t.Findings, Points: t.Assignment.Points, Enough: t.Assignment.Enough, Sending: t.Sending, Noted: t.NotedSent()}
	if sub.State != query.SubmissionStateAccepted {
		return p
	}
	p.Sent, p.Sending, p.Findings = true, false, nil
	p.Filled = map[string]int{}
	for _, slot := range t.Sheet.Slots {
		p.Filled[slot.Name] = 1 // the site accepted it only so
	}
	if proof, ok := t.proofs[sub.ID]; ok {
		p.ProofKnown, p.ProofAgrees = true, proof.Agrees
	}
	if r, ok := t.reports[sub.ID]; ok {
		p.ReportWaiting = r.State == query.ReportStateWaiting
		if r.Share.Valid {
			p.ReportShare = &r.Share.Float64
		}
	}
	if m, ok := t.Returned[sub.ID]; ok && m.Mark.Valid {
		p.Mark = &m.Mark.Float64
	}
	last, _ := t.Last()
	may, _ := t.MayGoOn()
	p.MayGoOn = may && last.ID == sub.ID
	return p
}

// price says what lateness costs, as it is written beside the late stretch.
func price(r timing.Rule) string {
	if r.Percent == 0 && r.Kind != timing.Steps && r.Kind != timing.NoLateWork {
		return "taken late"
	}
	of := map[string]string{"earned": " %", "possible": " %", "points": " points"}[r.Of]
	amount := fmt.Sprintf("−%g%s", r.Percent, of)
	switch r.Kind {
	case timing.Fixed:
		return amount
	case timing.PerDay:
		return amount + " a day"
	case timing.PerHours:
		return fmt.Sprintf("%s per %g h", amount, r.Hours)
	case timing.Steps:
		return "costs more with time"
	}
	return "nothing is taken late"
}

// planned says whether work on it is still ahead.
func (t *tracked) planned() bool {
	switch t.line.State {
	case NotOpen, Open, Late:
		return !t.Hidden()
	}
	return false
}

func nullTime(t time.Time) sql.NullTime { return sql.NullTime{Time: t, Valid: true} }
