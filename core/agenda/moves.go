package agenda

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"time"

	"orario/core/brief"
	"orario/core/coursework"
	"orario/core/finding"
	"orario/core/timing"
	"orario/core/wording"
)

// A Move is something to do now.
type Move struct {
	AssignmentID int64          `json:"assignment_id"`
	Verb         string         `json:"verb"`
	Title        string         `json:"title"`
	Course       string         `json:"course"`
	Latest       time.Time      `json:"latest"`
	LatestIs     string         `json:"latest_is"` // what that time is: start by, send by, due, closes
	Weight       finding.Weight `json:"weight"`
	Reason       string         `json:"reason"`
	Button       string         `json:"button"`
	Place        string         `json:"place"` // of the Desk to open, or reading
	SubmissionID int64          `json:"submission_id"`

	stake float64   // percent of the course's mark that goes if this is never done
	now   time.Time // by the institution's clock
}

// mostMoves bounds the list; the page shows the first of them.
const mostMoves = 9

// soon is how close a time must be to press.
const soon = 24 * time.Hour

// Pressing says that it can be sent, and that its send-by is less than a day away or past.
func (e *Entry) Pressing() bool {
	return (e.State == coursework.Open || e.State == coursework.Late) && e.SendBy.Sub(e.Now) < soon
}

// pressure is what a day of waiting is worth: the stake in percent of the course's mark, divided by one more than the
// days until the latest time. So of two things with equal stakes the nearer weighs more, and twice the stake outweighs
// twice the time. What is past its latest time counts as now.
func (m Move) pressure() float64 {
	return m.stake / (1 + math.Max(0, m.Latest.Sub(m.now).Hours()/24))
}

// Moves ranks what to do by its pressure; equals go by latest time.
func (p *Plan) Moves() []Move {
	out := []Move{}
	for _, e := range p.Entries {
		if move, ok := p.move(e); ok {
			out = append(out, move)
		}
	}
	slices.SortStableFunc(out, func(a, b Move) int {
		return cmp.Or(cmp.Compare(b.pressure(), a.pressure()), a.Latest.Compare(b.Latest))
	})
	return out[:min(len(out), mostMoves)]
}

// steps are what can be next about an assignment, in the order in which it is thought of: the first that fits is the
// move. Each gives the whole of it; one without a verb says that nothing is to be done.
var steps = []func(*Plan, *Entry) (Move, bool){
	nothingWhile(func(e *Entry) bool { return e.Sending || e.Hidden() }),
	correct, readReport, lookForReceipt,
	nothingWhile(func(e *Entry) bool { return e.SentAt != nil || e.State == coursework.Closed }),
	askForTime, confirmBrief,
	nothingWhile(func(e *Entry) bool { return e.State == coursework.NotOpen }),
	fix, send,
	nothingWhile(func(e *Entry) bool { return e.left() > 0 && !e.workSoon() }),
	work, addFiles,
}

// move is the next thing to do about an assignment, with its latest time: of work the latest start at which everything
// still gets done, of sending send-by, of the rest when the chance is gone.
func (p *Plan) move(e *Entry) (Move, bool) {
	for _, step := range steps {
		if m, fits := step(p, e); fits {
			if m.Verb == "" {
				return m, false
			}
			m.press(e)
			return m, true
		}
	}
	return Move{}, false
}

func nothingWhile(holds func(*Entry) bool) func(*Plan, *Entry) (Move, bool) {
	return func(_ *Plan, e *Entry) (Move, bool) { return Move{}, holds(e) }
}

// begin is a move about an assignment, as most are: at the bundle, by send-by.
func (e *Entry) begin(verb string) Move {
	return Move{
		AssignmentID: e.ID,
		Title:        e.Titled(),
		Course:       e.Course.Code,
		Verb:         verb,
		Latest:       e.SendBy,
		LatestIs:     "send by",
		Weight:       finding.Note,
		Button:       "Open the Desk",
		Place:        "bundle",
		stake:        e.Weight,
		now:          e.Now,
	}
}

// press adds how much it presses.
func (m *Move) press(e *Entry) {
	if e.CrowdOf >= 3 && e.State == coursework.Open {
		m.Reason += fmt.Sprintf(" %d things are due in that half hour.", e.CrowdOf)
	}
	switch {
	case e.Now.After(m.Latest) || e.State == coursework.Late:
		m.Weight = finding.Must
	case m.Latest.Sub(e.Now) < soon:
		m.Weight = finding.Should
	}
}

// correct: a return that could still be bettered.
func correct(_ *Plan, e *Entry) (Move, bool) {
	if _, sent := e.Part.Last(); !sent || e.State != coursework.Back {
		return Move{}, false
	}
	m := e.begin("Correct")
	m.Button, m.Place, m.Latest, m.LatestIs = "Read the return", "return", e.Window.Due.At(), "due"
	var points float64
	points, m.stake = e.Gain()
	m.Reason = fmt.Sprintf("Came back with %s. %g points could be gained, %.1f %% of the course; %s.",
		e.Outcome(), points, m.stake, e.attemptsLeft())
	return m, true
}

// readReport: a report to be read before another version.
func readReport(_ *Plan, e *Entry) (Move, bool) {
	last, sent := e.Part.Last()
	if !sent || e.State != coursework.Waiting || !e.decisions() || last.Report == nil || !last.Report.Ready {
		return Move{}, false
	}
	m, due := e.begin("Read the report of"), e.Window.Due.At()
	m.Button, m.Place, m.SubmissionID, m.Latest, m.LatestIs = "Open the reading room", "reading", last.ID, due, "due"
	m.stake = last.Report.Share * e.Weight // what is copied is worth nothing: common practice
	m.Reason = fmt.Sprintf("%.0f %% needs a decision; %s before due.", 100*last.Report.Share,
		wording.Span(due.Sub(e.Now)))
	return m, true
}

// proveWithin is how long after sending a proof may be missing before it is asked for.
const proveWithin = 12 * time.Hour

// lookForReceipt: sent, by the site's word or the student's, and nothing shows it.
func lookForReceipt(_ *Plan, e *Entry) (Move, bool) {
	if e.SentAt == nil || e.State != coursework.Waiting || e.Enough || e.Now.Sub(*e.SentAt) < proveWithin {
		return Move{}, false
	}
	if last, sent := e.Part.Last(); sent && last.Proved != nil {
		return Move{}, false
	}
	m := e.begin("Look for the receipt of")
	m.Place, m.LatestIs, m.Latest = "sent", "due", later(e.Window.Due.At(), e.Now)
	m.Reason = fmt.Sprintf("Sent %s, and nothing shows that it arrived. Look for a confirmation, or ask.",
		e.Local(*e.SentAt))
	return m, true
}

// mostAsks is for how many assignments one asks for more time at once; the plan's page names all.
const mostAsks = 2

// leastStake is what more time is worth at least, in percent of the course: without it the work is not done at all.
const leastStake = 1

// askForTime: the work cannot be done in time, and more time for this one costs least.
func askForTime(p *Plan, e *Entry) (Move, bool) {
	if p.Overload == nil || e.Part.Extension != nil {
		return Move{}, false
	}
	if cheapest := p.sacrifice().Cheapest; !slices.Contains(cheapest[:min(mostAsks, len(cheapest))], e.ID) {
		return Move{}, false
	}
	m := e.begin("Ask for more time for")
	m.Button, m.Place, m.LatestIs, m.stake = "Draft the mail", "extension", "ask by", max(m.stake, leastStake)
	m.Reason = fmt.Sprintf("%s of work do not fit before it is due, and more time here costs least: %s.",
		wording.Work(p.Overload.Demand-p.Overload.Capacity), e.sayLateCost())
	return m, true
}

// confirmBrief: what was read in the instructions is not confirmed.
func confirmBrief(_ *Plan, e *Entry) (Move, bool) {
	n := e.Unconfirmed()
	if n == 0 {
		return Move{}, false
	}
	m := e.begin("Confirm the brief of")
	m.Button, m.Place = "Confirm", "brief"
	m.Reason = fmt.Sprintf("%s read in the instructions and not confirmed yet. Due %s%s.",
		wording.Count(n, "requirement was", "requirements were"), e.Local(e.Window.Due.At()), e.consequence())
	return m, true
}

// fix: something in the bundle must be mended before it can be sent.
func fix(_ *Plan, e *Entry) (Move, bool) {
	must := brief.MustFix(e.Findings)
	m := e.begin("Fix")
	m.Button, m.Place = "See what must be fixed", "checks"
	m.Reason = fmt.Sprintf("%d must be fixed before it can be sent. Send by %s.", must, e.Local(e.SendBy))
	return m, must > 0 && len(e.Items) > 0
}

// send: everything is ready.
func send(_ *Plan, e *Entry) (Move, bool) {
	m := e.begin("Submit")
	if m.Button, m.Place = "Submit", "sent"; !e.BySite() {
		m.Verb, m.Button = "Send", "Note it as sent"
	}
	m.Reason = fmt.Sprintf("Everything is ready. Due %s%s.", e.Local(e.Window.Due.At()), e.consequence())
	return m, len(e.Items) > 0
}

// work: there is work left, and it must or should begin soon.
func work(_ *Plan, e *Entry) (Move, bool) {
	if e.left() <= 0 {
		return Move{}, false
	}
	m := e.begin("Work on")
	left, due := wording.Work(e.left()), e.Window.Due.At()
	if m.Button = "Continue"; e.Done == 0 {
		m.Button = "Start"
	}
	if e.LatestStart != nil {
		m.Latest, m.LatestIs = *e.LatestStart, "start by"
	}
	m.Reason = fmt.Sprintf("%s left to do. Sent by %s it is %s ahead of due%s.",
		left, e.Local(e.SendBy), wording.Span(due.Sub(e.SendBy)), e.consequence())
	if e.State != coursework.Late {
		return m, true
	}
	m.Latest, m.LatestIs = due, "due"
	m.Reason = fmt.Sprintf("%s left to do. It was due %s; %s.", left, e.Local(due), coursework.Price(e.Late))
	if closes := e.Window.Closes; closes != nil {
		m.Latest, m.LatestIs = closes.At(), "closes"
		m.Reason = fmt.Sprintf("%s left to do. It was due %s; %s until it closes.",
			left, e.Local(due), coursework.Price(e.Late))
	}
	return m, true
}

// addFiles: the work is done, and nothing of it is there.
func addFiles(_ *Plan, e *Entry) (Move, bool) {
	m := e.begin("Add the files of")
	m.Reason = fmt.Sprintf("The work is done, nothing is in the bundle yet. Due %s%s.",
		e.Local(e.Window.Due.At()), e.consequence())
	return m, true
}

// workSoon says whether work on it is planned, or must begin, within two days; what comes later is no move yet.
func (e *Entry) workSoon() bool {
	until := e.Now.Add(2 * soon)
	return len(e.Blocks) > 0 && e.Blocks[0].Start.Before(until) || e.LatestStart == nil || e.LatestStart.Before(until)
}

// decisions says whether a report would change anything: another version can still be sent.
func (e *Entry) decisions() bool {
	may, _ := e.MayGoOn()
	return may
}

func (e *Entry) attemptsLeft() string {
	n, limited := e.AttemptsLeft()
	switch {
	case !limited:
		return "attempts are not limited"
	case n == 1:
		return "one attempt is left"
	}
	return fmt.Sprintf("%d attempts are left", n)
}

func (e *Entry) consequence() string {
	switch {
	case e.State == coursework.Late:
		return ", so it is late already"
	case e.Late.Kind == timing.NoLateWork:
		return "; nothing is taken after that"
	}
	return ""
}
