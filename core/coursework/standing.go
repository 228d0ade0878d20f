package coursework

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/brief"
	"orario/core/brief/prose"
	"orario/core/finding"
	"orario/core/naming"
	"orario/core/timing"
	"orario/core/wording"
)

// State is where an assignment stands.
type State string

// The states of an assignment.
const (
	NotOpen State = "not_open"
	Open    State = "open"
	Late    State = "late"   // taken, at a price
	Closed  State = "closed" // and nothing was sent
	Sending State = "sending"
	Waiting State = "waiting" // for a report or a mark
	Back    State = "back"    // came back, and something could still be gained
	Done    State = "done"
)

// What is assumed of a transfer where the site has not been used yet: common practice for a home line.
const (
	usualRate  = 250_000   // bytes per second
	usualBytes = 5_000_000 // of work not yet there
	usualFix   = 2 * time.Hour
	rushFactor = 4 // by which a crowded hour slows a site down
)

// A Standing is one assignment at an instant, seen from the part that comes next. Everything in it follows from
// facts.
type Standing struct {
	*Assignment
	Part         *Part         // the one that comes next, or the one that was asked for
	Window       timing.Window // of the part, with an extension that was granted
	Now          time.Time     // by the institution's clock
	Sheet        brief.Sheet   // as it applies
	Requirements []brief.Requirement
	Number       int  // of the attempt that is being prepared or sent
	Sending      bool // it is on its way
	Items        []Item
	Findings     []brief.Finding
	SendBy       time.Time
	Because      []timing.Component // the terms of send-by
	CrowdOf      int                // due times close to this one, itself included
	Crowded      bool
	State        State
	SentAt       *time.Time
	who          Student
}

// Stand computes where every assignment stands, in the order of the facts. Each is seen from the part that comes
// next, but for the parts with the given ids. Time is O(n log n) and a check of every bundle.
func (c *Coursework) Stand(now time.Time, parts ...int64) []*Standing {
	list, dues := c.seen(now, parts)
	for _, s := range list {
		s.compute(c, dues)
	}
	return list
}

// StandOf is where one assignment stands, seen from a part of it or, with 0, from the one that comes next; nil where
// it is not there. One bundle is checked.
func (c *Coursework) StandOf(assignment, part int64, now time.Time) *Standing {
	list, dues := c.seen(now, []int64{part})
	for _, s := range list {
		if s.ID == assignment {
			s.compute(c, dues)
			return s
		}
	}
	return nil
}

// seen are the standings with the parts that they are seen from, and all due times, sorted.
func (c *Coursework) seen(now time.Time, parts []int64) (list []*Standing, dues []time.Time) {
	list = make([]*Standing, 0, len(c.Assignments))
	all := make([]Standing, len(c.Assignments))
	dues = make([]time.Time, 0, len(c.Assignments))
	for i, a := range c.Assignments {
		s := &all[i]
		*s = Standing{Assignment: a, Part: a.next(), Now: now}
		for _, p := range a.Parts {
			if slices.Contains(parts, p.ID) {
				s.Part = p
			}
		}
		if a.Source == FromSite && a.Course.Enrolment != nil {
			s.Now = now.Add(a.Course.Enrolment.Clock)
		}
		s.Now = s.Now.UTC()
		s.Window = s.Part.Extended()
		if !s.Hidden() {
			dues = append(dues, s.Window.Due.At())
		}
		list = append(list, s)
	}
	slices.SortFunc(dues, time.Time.Compare)
	return list, dues
}

func (s *Standing) compute(c *Coursework, dues []time.Time) {
	s.prepare()
	s.settle(c, around(dues, s.Window.Due.At()))
	s.stand()
}

// next is the part that comes next: the first that was not sent, or the last.
func (a *Assignment) next() *Part {
	for _, p := range a.Parts {
		if !p.Sent() {
			return p
		}
	}
	return a.Parts[len(a.Parts)-1]
}

// around is the part of sorted due times that can be a due time's crowd.
func around(dues []time.Time, at time.Time) []time.Time {
	from, _ := slices.BinarySearchFunc(dues, at.Add(-timing.CrowdSpan), time.Time.Compare)
	to, _ := slices.BinarySearchFunc(dues, at.Add(timing.CrowdSpan+1), time.Time.Compare)
	return dues[from:to]
}

// Last is the newest accepted submission of a part, if there is one.
func (p *Part) Last() (last *Submission, ok bool) {
	for _, attempt := range p.Attempts {
		for _, sub := range attempt.Submissions {
			if sub.State == Accepted {
				last, ok = sub, true
			}
		}
	}
	return last, ok
}

// Sent says that a part was sent: by Orario, or as the student says.
func (p *Part) Sent() bool {
	_, sent := p.Last()
	return sent || p.Noted != nil
}

// Submissions are all of a part, in their order.
func (p *Part) Submissions() (list []*Submission) {
	for _, attempt := range p.Attempts {
		list = append(list, attempt.Submissions...)
	}
	slices.SortFunc(list, func(a, b *Submission) int { return int(a.ID - b.ID) })
	return list
}

// Extended is the window of a part with the extension that was granted, unless the part has been given more time
// since.
func (p *Part) Extended() timing.Window {
	e := p.Extension
	if e == nil || e.Granted == nil {
		return p.Window
	}
	w, err := p.With(e.Due, e.Closes)
	if err != nil || !w.Due.At().After(p.Window.Due.At()) {
		return p.Window
	}
	return w
}

// With is the window of a part with other times. An empty closes moves along when due would pass it.
func (p *Part) With(due, closes string) (timing.Window, error) {
	w := p.Window
	was := func(wall *timing.Wall) string {
		if wall == nil {
			return ""
		}
		return wall.At().In(w.Zone).Format(wording.WallForm)
	}
	if closes == "" && was(w.Closes) >= due {
		closes = was(w.Closes)
	}
	return timing.ParseWindow(w.Zone.String(), was(w.Opens), due, closes, int(w.Grace/time.Minute))
}

// prepare finds the attempt that is being prepared or sent, with its bundle.
func (s *Standing) prepare() {
	s.Number = 1
	for _, attempt := range s.Part.Attempts {
		s.Number, s.Items = attempt.Number, attempt.Items
		for _, sub := range attempt.Submissions {
			switch sub.State {
			case Accepted:
				s.Number, s.Items = attempt.Number+1, nil
			case Carried:
				s.Sending = true
			}
		}
	}
	s.Sheet, s.Requirements = s.Part.applies(s.Assignment)
}

// applies is the sheet that applies to a part, and what it asks for. It is the same for every standing of the part,
// since facts do not change, so it is merged once.
func (p *Part) applies(a *Assignment) (brief.Sheet, []brief.Requirement) {
	p.merging.Do(func() {
		published := a.Sheet
		if len(p.Slots) > 0 {
			published.Slots = p.Slots
		}
		p.sheet, p.requirements = brief.Merge(published, a.Own, a.Course.Habit)
	})
	return p.sheet, p.requirements
}

// settle computes send-by and the findings.
func (s *Standing) settle(c *Coursework, dues []time.Time) {
	s.CrowdOf, s.Crowded = timing.Crowd(s.Window.Due.At(), dues, s.Window.Zone)
	var err error
	if s.SendBy, s.Because, err = timing.SendBy(s.Window.Due.At(), s.Job(c.Margin)); err != nil {
		// What a site's files and times make impossible is left out of the sum; the margin stays.
		s.SendBy, s.Because, _ = timing.SendBy(s.Window.Due.At(), timing.Job{Margin: c.Margin})
	}
	s.who = c.Student
	s.Findings = brief.Check(s.Bundle())
	if len(s.Items) > 0 && !s.Preparing() {
		s.Findings = append(s.Findings, brief.Finding{
			Code:   "unchanged",
			Weight: finding.Should,
			Message: fmt.Sprintf(
				"All files are those of attempt %d. Put a corrected one in before you send again.",
				s.Number-1,
			),
		})
	}
}

// Bundle is what the checks look at.
func (s *Standing) Bundle() brief.Bundle {
	b := brief.Bundle{Sheet: s.Sheet, Window: s.Window, Late: s.Late, Now: s.Now, SendBy: s.SendBy}
	if len(s.Handouts) > 0 {
		b.Handouts = map[string]string{}
	}
	for _, i := range s.Items {
		b.Items = append(b.Items, brief.Item{ID: i.ID, Slot: i.Slot, Name: i.Name, Facts: i.Facts, Newer: i.Newer != 0})
	}
	for _, h := range s.Handouts {
		b.Handouts[h.Digest] = h.Name
		for digest, name := range h.Inside {
			b.Handouts[digest] = name + " in " + h.Name
		}
	}
	if len(b.Items) > 0 {
		b.Fields = s.Fields()
	}
	return b
}

// Asks are what is asked, with the words it is asked in: of an own assignment what the student kept of it, else what
// the site's instructions say.
func (s *Standing) Asks(instructions string) []brief.Ask {
	if !s.BySite() {
		return s.Own.Asks
	}
	return brief.Asked(prose.Read(instructions, s.Now.In(s.Window.Zone)))
}

// Registered is the student as her institution knows her.
func (c *Course) Registered(who Student) Enrolment {
	if c.Enrolment != nil {
		return *c.Enrolment
	}
	return Enrolment{Number: who.Number, Family: who.Family, Given: who.Given}
}

// Fields are the values of name patterns that are the same for all work in a course.
func (c *Course) Fields(who Student) naming.Fields {
	e := c.Registered(who)
	return naming.Fields{
		"family":   e.Family,
		"given":    e.Given,
		"number":   e.Number,
		"initials": e.Initials(),
		"course":   strings.ReplaceAll(c.Code, " ", ""),
	}
}

// Fields are the values of name patterns, but for those of a single file.
func (s *Standing) Fields() naming.Fields {
	fields := s.Course.Fields(s.who)
	fields["assignment"], fields["title"], fields["attempt"] = s.Key, s.Title, fmt.Sprint(s.Number)
	fields["date"] = s.Now.In(s.Window.Zone).Format(time.DateOnly)
	return fields
}

// stand says where the assignment stands.
func (s *Standing) stand() {
	window, _ := s.Window.At(s.Now, s.Late)
	s.State = map[timing.State]State{timing.NotOpen: NotOpen, timing.Open: Open, timing.Late: Late,
		timing.Closed: Closed}[window]
	last, sent := s.Part.Last()
	switch {
	case sent:
		s.SentAt, s.State = last.AcceptedAt, Waiting
		if m := last.Return; m != nil && m.Mark != nil {
			s.State = Done
			if may, _ := s.MayGoOn(); may && *m.Mark < m.Points && !s.Enough {
				s.State = Back
			}
		}
	case s.Part.Noted != nil:
		s.SentAt, s.State = &s.Part.Noted.At, Waiting
		if s.Enough {
			s.State = Done
		}
	}
	if s.Sending {
		s.State = Sending
	}
}

// Unconfirmed counts the requirements that were read in the instructions and that nobody has confirmed. A pattern for
// names that the course's habit proposes can wait until there are files.
func (s *Standing) Unconfirmed() (n int) {
	for _, r := range s.Requirements {
		if !r.Settled && r.Ask > 0 {
			n++
		}
	}
	return n
}

// Gain is what a correction of the work that came back could still gain: points, and percent of the course's mark; 0
// where nothing can be gained any more.
func (s *Standing) Gain() (points, percent float64) {
	last, sent := s.Part.Last()
	if !sent || s.State != Back {
		return 0, 0
	}
	points = max(0, last.Return.Points-*last.Return.Mark)
	return points, points / max(1, last.Return.Points) * s.Weight
}

// Hidden says that an assignment is put away: its course is archived, or its calendar cancelled it.
func (s *Standing) Hidden() bool { return s.Course.Archived || s.Assignment.Cancelled }

// Ahead says whether work on it is still ahead.
func (s *Standing) Ahead() bool {
	return !s.Hidden() && (s.State == NotOpen || s.State == Open || s.State == Late)
}

// BySite says whether Orario itself can send it.
func (s *Standing) BySite() bool { return s.Source == FromSite }

// Bytes is the size of the bundle.
func (s *Standing) Bytes() (n int64) {
	for _, i := range s.Items {
		n += i.Facts.Bytes
	}
	return n
}

// Filled counts the bundle's files by slot.
func (s *Standing) Filled() map[string]int {
	filled := map[string]int{}
	for _, i := range s.Items {
		filled[i.Slot]++
	}
	return filled
}

// Titled is the title, with the part where there are several.
func (s *Standing) Titled() string {
	if s.Part.Name == "" || s.Part.Name == s.Title {
		return s.Title
	}
	return s.Title + ", " + s.Part.Name
}

// Local writes an instant as a timetable prints it, in the course's zone.
func (s *Standing) Local(at time.Time) string { return at.In(s.Window.Zone).Format(wording.TimeForm) }
