package agenda

import (
	"fmt"
	"strings"
	"time"

	"orario/core/calendar"
	"orario/core/timing"
	"orario/core/wording"
)

// Calendar is the plan for other calendar programs: send-by and due of what is open, with alarms, and the planned work;
// of what was sent its due time. base is the address under which the student reaches the pages.
func (p *Plan) Calendar(base string) (entries []calendar.Entry) {
	for _, e := range p.Entries {
		if !e.Hidden() && (e.Ahead() || e.SentAt != nil) {
			entries = append(entries, e.calendar(base, p.Now)...)
		}
	}
	return entries
}

// How long before a time a calendar program is asked to say so.
const (
	alarmSendBy = 2 * time.Hour
	alarmDue    = time.Hour
)

func (e *Entry) calendar(base string, now time.Time) (entries []calendar.Entry) {
	name, due := e.Course.Code+" "+e.Titled(), e.Window.Due.At()
	entry := func(what, title string, at time.Time, alarm time.Duration) calendar.Entry {
		return calendar.Entry{
			UID:     fmt.Sprintf("%s-%d@orario", what, e.ID),
			Title:   title,
			Course:  e.Course.Code,
			Link:    fmt.Sprintf("%s/desk/%d", base, e.ID),
			Start:   at,
			Alarm:   alarm,
			Changed: now,
		}
	}
	if e.Ahead() {
		by := entry("send-by", "Send "+name, e.SendBy, alarmSendBy)
		by.Text = "Send by this time and nothing depends on luck. Due " + e.Local(due) + "."
		entries = append(entries, by, entry("due", name+" is due", due, alarmDue))
	} else {
		entries = append(entries, entry("due", name+" was due; sent", due, 0))
	}
	for n, b := range e.Blocks {
		work := entry(fmt.Sprintf("work-%d", n), name, b.Start, 0)
		work.End, work.Busy = b.End, true
		entries = append(entries, work)
	}
	return entries
}

// Table is every assignment as rows of text, below a header whose first columns are those that an import understands.
// No cell is one that a spreadsheet takes for a formula.
func (p *Plan) Table() [][]string {
	rows := [][]string{{
		"title", "course", "due", "opens", "closes", "points", "zone",
		"weight", "send by", "state", "outcome", "planned minutes", "done minutes",
	}}
	for _, e := range p.Entries {
		written := func(at time.Time) string { return at.In(e.Window.Zone).Format(wording.WallForm) }
		wall := func(w *timing.Wall) string {
			if w == nil {
				return ""
			}
			return written(w.At())
		}
		rows = append(rows, []string{
			inert(e.Title),
			inert(e.Course.Code),
			wall(&e.Window.Due),
			wall(e.Window.Opens),
			wall(e.Window.Closes),
			fmt.Sprint(e.Points),
			e.Course.Zone.String(),
			fmt.Sprint(e.Weight),
			written(e.SendBy),
			string(e.State),
			inert(e.Outcome()),
			fmt.Sprint(e.Minutes),
			fmt.Sprint(e.Done),
		})
	}
	return rows
}

// inert keeps a spreadsheet from taking a text for a formula.
func inert(text string) string {
	if text != "" && strings.ContainsRune("=+-@\t\r", rune(text[0])) {
		return "'" + text
	}
	return text
}
