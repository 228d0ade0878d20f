package agenda

import (
	"fmt"
	"time"

	"orario/core/coursework"
	"orario/core/wording"
)

// A Reminder is something to be said once. Its mark names what it is about, with the time that it follows from, so
// that a changed time is worth a new one.
type Reminder struct {
	Mark, Text string
	Assignment int64
}

// The times from which reminders follow. What is said follows from how much work is left and how much time there is for
// it, not from the due time alone.
const (
	slackFirst  = 24 * time.Hour
	slackLast   = 2 * time.Hour
	dueSoon     = time.Hour
	opensFor    = 24 * time.Hour // how long an opening is news
	proofAfter  = 10 * time.Minute
	beforeQuiet = 30 * time.Minute // how long before quiet hours it is said what falls into them
	mostMark    = 160              // characters
)

// Ahead is the instant up to which things are said at now, by the student's clock: now itself, or shortly before quiet
// hours their end. quiet: nothing is said at all.
func (s Settings) Ahead(now time.Time) (until time.Time, quiet bool) {
	if s.QuietFrom == s.QuietTo {
		return now, false
	}
	minute := now.Hour()*60 + now.Minute()
	since := (minute - s.QuietFrom + aDay) % aDay // of the beginning of the last quiet hours
	length := (s.QuietTo - s.QuietFrom + aDay) % aDay
	if since < length {
		return now, true
	}
	begins := time.Duration(aDay-since) * time.Minute
	if begins <= beforeQuiet {
		return now.Add(begins + time.Duration(length)*time.Minute), false
	}
	return now, false
}

// Reminders are what should have been said about all assignments by some instant, by the student's clock.
func (p *Plan) Reminders(until time.Time) (out []Reminder) {
	for _, e := range p.Entries {
		out = append(out, e.reminders(until.Add(e.Now.Sub(p.Now)))...)
	}
	return out
}

func (e *Entry) reminders(until time.Time) (out []Reminder) {
	if e.Hidden() {
		return nil
	}
	due, opens := e.Window.Due.At(), e.Window.Opens
	add := func(kind string, at time.Time, text string, args ...any) {
		mark := fmt.Sprintf("%s/%d/%s/%s", kind, e.ID, e.Part.Name, at.UTC().Format(time.RFC3339))
		said := e.Course.Code + " " + e.Titled() + ": " + fmt.Sprintf(text, args...)
		out = append(out, Reminder{wording.Clip(mark, mostMark), said, e.ID})
	}
	if opens != nil && !opens.At().After(until) && until.Sub(opens.At()) < opensFor && e.Ahead() {
		verb := "opens"
		if !opens.At().After(e.Now) {
			verb = "opened"
		}
		add("opens", opens.At(), "%s %s, due %s.", verb, e.Local(opens.At()), e.Local(due))
	}
	if e.State == coursework.Waiting {
		last, sent := e.Part.Last()
		switch ago := until.Sub(*e.SentAt); {
		case sent && last.Proved == nil && ago > proofAfter:
			add("proof", *e.SentAt, "sent %s, and no receipt has come. Look for a confirmation.", e.Local(*e.SentAt))
		case !sent && ago > proveWithin:
			add("proof", *e.SentAt, "you noted it as sent %s, and nothing shows it. Look for a confirmation.",
				e.Local(*e.SentAt))
		}
	}
	if (e.State == coursework.Open || e.State == coursework.Late) && !due.Before(e.Now) {
		e.remindOfSending(until, add)
	}
	return out
}

// remindOfSending tells of work that can still be sent in time: the nearer its end, the more plainly.
func (e *Entry) remindOfSending(until time.Time, add func(kind string, at time.Time, text string, args ...any)) {
	due, left, sendBy := e.Window.Due.At(), wording.Work(e.left()), e.Local(e.SendBy)
	switch slack := e.start().Sub(until); {
	case due.Sub(until) <= dueSoon:
		add("due", due, "due %s%s.", e.Local(due), e.consequence())
	case slack <= 0 && e.left() > 0 && until.Before(e.SendBy):
		add("start", e.SendBy, "%s of work are left, and by %s there is no time to spare any more. "+
			"Start now, or ask for more time.", left, sendBy)
	case !until.Before(e.SendBy):
		add("send-by", e.SendBy, "send-by was %s. Submit as soon as you can; due %s%s.",
			sendBy, e.Local(due), e.consequence())
	case slack <= slackLast:
		add("last", e.SendBy, "send by %s, %s of slack.", sendBy, wording.Span(max(0, slack)))
	case slack <= slackFirst:
		add("first", e.SendBy, "%s of work left, %s of slack until send-by %s.", left, wording.Span(slack), sendBy)
	}
}

// start is when the work must begin at the latest: now at the latest where it cannot be done in time any more, and
// where none is left when it must be sent.
func (e *Entry) start() time.Time {
	switch {
	case e.LatestStart != nil:
		return *e.LatestStart
	case e.left() > 0 && e.Now.Before(e.SendBy):
		return e.Now
	}
	return e.SendBy
}

// Next is the first instant after now, by the student's clock, at which [Plan.Reminders] can hold something that it
// does not hold at now, as long as nothing else changes; at the most so long from now.
func (p *Plan) Next(now time.Time, most time.Duration) time.Time {
	next := now.Add(most)
	at := func(t time.Time) {
		if t.After(now) && t.Before(next) {
			next = t
		}
	}
	if p.Settings.QuietFrom != p.Settings.QuietTo {
		at(p.nextAt(now, p.Settings.QuietFrom).Add(-beforeQuiet))
		at(p.nextAt(now, p.Settings.QuietTo))
	}
	for _, e := range p.Entries {
		if e.Hidden() {
			continue
		}
		skew := p.Now.Sub(e.Now) // what is said follows the institution's clock
		if e.Window.Opens != nil {
			at(e.Window.Opens.At().Add(skew))
		}
		if e.SentAt != nil {
			at(e.SentAt.Add(skew + proofAfter + time.Second))
			at(e.SentAt.Add(skew + proveWithin + time.Second))
		}
		due := e.Window.Due.At()
		for _, t := range []time.Time{due.Add(-dueSoon), e.start(), e.SendBy, e.start().Add(-slackLast),
			e.start().Add(-slackFirst)} {
			at(t.Add(skew))
		}
	}
	return next
}

// nextAt is the next time of day, in minutes, from now on.
func (p *Plan) nextAt(now time.Time, minute int) time.Time {
	local := now.In(p.Zone)
	at := time.Date(local.Year(), local.Month(), local.Day(), 0, minute, 0, 0, p.Zone)
	if !at.After(now) {
		at = time.Date(local.Year(), local.Month(), local.Day()+1, 0, minute, 0, 0, p.Zone)
	}
	return at
}
