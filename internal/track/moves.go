package track

import (
	"fmt"
	"math"
	"slices"
	"time"

	"orario/core/timing"
	"orario/core/wording"
	"orario/internal/mariadb/query"
)

// A Move is something to do now.
type Move struct {
	AssignmentID int64     `json:"assignment_id"`
	Verb         string    `json:"verb"`
	Title        string    `json:"title"`
	Course       string    `json:"course"`
	Latest       time.Time `json:"latest"`
	Weight       string    `json:"weight"` // must, should or note
	Reason       string    `json:"reason"`
	Button       string    `json:"button"`
	Place        string    `json:"place"` // of the Desk to open, or reading
	SubmissionID int64     `json:"submission_id"`

	stake float64 // percent of the course's mark that goes if this is never done
}

// mostMoves bounds the list; the page shows the first of them.
const mostMoves = 9

// moves ranks what to do by what a day of waiting is worth: the stake in percent of a course's mark, divided
// by one more than the days until the latest time. So of two things with equal stakes the nearer comes
// first, and twice the stake outweighs twice the time. What is past its latest time counts as now; equals
// go by latest time.
func moves(list []*tracked, p *plan) []Move {
	out := []Move{}
	for _, t := range list {
		if move, ok := t.move(p); ok {
			out = append(out, move)
		}
	}
	now := map[int64]time.Time{}
	for _, t := range list {
		now[t.Assignment.ID] = t.Now
	}
	press := func(m Move) float64 {
		return m.stake / (1 + math.Max(0, m.Latest.Sub(now[m.AssignmentID]).Hours()/24))
	}
	slices.SortStableFunc(out, func(a, b Move) int {
		if x, y := press(a), press(b); x != y {
			return map[bool]int{true: -1, false: 1}[x > y]
		}
		return a.Latest.Compare(b.Latest)
	})
	return out[:min(len(out), mostMoves)]
}

// move is the next thing to do about an assignment, with its latest time: of work the latest start at which
// everything still gets done, of sending send-by, of the rest when the chance is gone.
func (t *tracked) move(p *plan) (Move, bool) {
	m := Move{AssignmentID: t.Assignment.ID, Title: t.titled(), Course: t.Course.Code, Latest: t.SendBy, Weight: "note", Button: "Open the Desk", Place: "bundle", stake: t.Assignment.Weight}
	left := t.left()
	switch {
	case t.Sending || t.Hidden():
		return m, false
	case t.cameBack(&m), t.unproved(&m):
	case t.line.SentAt != nil || t.line.State == Closed:
		return m, false
	case t.tooMuch(&m, p), t.unread(&m):
	case t.line.State == NotOpen:
		return m, false
	case t.line.MustFix > 0 && len(t.Items) > 0:
		m.Verb, m.Button, m.Place = "Fix", "See what must be fixed", "checks"
		m.Reason = fmt.Sprintf("%d must be fixed before it can be sent. Send by %s.", t.line.MustFix, t.local(t.SendBy))
	case t.line.MustFix == 0 && len(t.Items) > 0:
		m.Verb, m.Button, m.Place = "Submit", "Submit", "sent"
		m.Reason = fmt.Sprintf("Everything is ready. Due %s%s.", t.local(t.line.Due), t.consequence())
		if !t.bySite() {
			m.Verb, m.Button = "Send", "Note it as sent"
		}
	case left > 0:
		if !t.workSoon() {
			return m, false
		}
		m.Verb, m.Button = "Work on", "Continue"
		if t.line.DoneMinutes == 0 {
			m.Button = "Start"
		}
		if t.line.LatestStart != nil {
			m.Latest = *t.line.LatestStart
		}
		m.Reason = fmt.Sprintf("%s left to do. Sent by %s it is %s ahead of due%s.", wording.Work(left), t.local(t.SendBy), wording.Span(t.line.Due.Sub(t.SendBy)), t.consequence())
		if t.line.State == Late {
			m.Latest = t.line.Due
			m.Reason = fmt.Sprintf("%s left to do. It was due %s; %s.", wording.Work(left), t.local(t.line.Due), t.line.Price)
			if t.line.Closes != nil {
				m.Latest = *t.line.Closes
				m.Reason = fmt.Sprintf("%s left to do. It was due %s; %s until it closes.", wording.Work(left), t.local(t.line.Due), t.line.Price)
			}
		}
	default:
		m.Verb = "Add the files of"
		m.Reason = fmt.Sprintf("The work is done, nothing is in the bundle yet. Due %s%s.", t.local(t.line.Due), t.consequence())
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

// workSoon says whether work on it is planned, or must begin, within two days; what comes later is no move yet.
func (t *tracked) workSoon() bool {
	until := t.Now.Add(2 * soon)
	return len(t.line.Blocks) > 0 && t.line.Blocks[0].Start.Before(until) || t.line.LatestStart == nil || t.line.LatestStart.Before(until)
}

// cameBack: a return that could still be bettered, or a report to read before another version.
func (t *tracked) cameBack(m *Move) bool {
	last, sent := t.Last()
	if !sent {
		return false
	}
	if t.line.State == Back {
		m.Verb, m.Button, m.Place, m.Latest = "Correct", "Read the return", "return", t.line.Due
		back := t.Returned[last.ID]
		lost := back.Points - back.Mark.Float64
		m.stake = lost / max(1, back.Points) * t.Assignment.Weight
		m.Reason = fmt.Sprintf("Came back with %s. %g points could be gained, %.1f %% of the course; %s.", t.line.Outcome, lost, m.stake, attemptsLeft(t))
		return true
	}
	if share := t.reports[last.ID].Share; t.line.State == Waiting && t.decisions() && share.Valid {
		m.Verb, m.Button, m.Place, m.SubmissionID, m.Latest = "Read the report of", "Open the reading room", "reading", last.ID, t.line.Due
		m.stake = share.Float64 * t.Assignment.Weight // what is copied is worth nothing: common practice
		m.Reason = fmt.Sprintf("%.0f %% needs a decision; %s before due.", 100*share.Float64, wording.Span(t.line.Due.Sub(t.Now)))
		return true
	}
	return false
}

// proveWithin is how long after sending a proof may be missing before it is asked for.
const proveWithin = 12 * time.Hour

// unproved: sent, by the site's word or the student's, and nothing shows it.
func (t *tracked) unproved(m *Move) bool {
	if t.line.SentAt == nil || t.line.State != Waiting || t.Assignment.Enough || t.Now.Sub(*t.line.SentAt) < proveWithin {
		return false
	}
	if last, sent := t.Last(); sent {
		if _, known := t.proofs[last.ID]; known {
			return false
		}
	}
	m.Verb, m.Button, m.Place = "Look for the receipt of", "Open the Desk", "sent"
	m.Latest = later(t.line.Due, t.Now)
	m.Reason = fmt.Sprintf("Sent %s, and nothing shows that it arrived. Look for a confirmation, or ask.", t.local(*t.line.SentAt))
	return true
}

// mostAsks is for how many assignments one asks for more time at once; the plan's page names all.
const mostAsks = 2

// tooMuch: the work cannot be done in time, and more time for this one costs least.
func (t *tracked) tooMuch(m *Move, p *plan) bool {
	if p.overload == nil || !slices.Contains(p.sacrifice.Cheapest[:min(mostAsks, len(p.sacrifice.Cheapest))], t.Assignment.ID) || t.line.Extension != "" {
		return false
	}
	m.Verb, m.Button, m.Place, m.Latest = "Ask for more time for", "Draft the mail", "extension", t.SendBy
	m.stake = max(m.stake, 1)
	m.Reason = fmt.Sprintf("%s of work do not fit before it is due, and more time here costs least: %s.", wording.Work(p.overload.Demand-p.overload.Capacity), t.sayLateCost())
	return true
}

// unread: what was read in the instructions is not confirmed. A pattern for names that the course's habit
// proposes can wait until there are files.
func (t *tracked) unread(m *Move) bool {
	n := 0
	for _, r := range t.Requirements {
		if !r.Settled && r.Ask > 0 {
			n++
		}
	}
	if n == 0 {
		return false
	}
	m.Verb, m.Button, m.Place = "Confirm the brief of", "Confirm", "brief"
	m.Reason = fmt.Sprintf("%s read in the instructions and not confirmed yet. Due %s%s.", plural(n, "requirement was", "requirements were"), t.local(t.line.Due), t.consequence())
	return true
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

// bySite says whether Orario itself can send it.
func (t *tracked) bySite() bool { return t.Assignment.Source == query.AssignmentSourceSite }

// titled is the title, with the part that comes next where there are several.
func (t *tracked) titled() string {
	if part := t.Part(); part != "" {
		return t.Assignment.Title + ", " + part
	}
	return t.Assignment.Title
}

// local writes an instant as a timetable prints it, in the course's zone.
func (t *tracked) local(at time.Time) string {
	return at.In(t.Window.Zone).Format("Mon 2 Jan 15:04")
}
