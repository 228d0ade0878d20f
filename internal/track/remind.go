package track

import (
	"context"
	"fmt"
	"strings"
	"time"

	"orario/core/timing"
	"orario/core/wording"
	"orario/internal/account"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
)

// RemindJob is the kind of the job that reminds one student.
const RemindJob = "remind"

// Mailer sends a mail.
type Mailer interface {
	Send(ctx context.Context, to, subject, text string) error
}

// A reminder is something to be said once. Its mark names what it is about, with the times that it follows
// from, so that a changed time is worth a new one.
type reminder struct {
	mark, text string
	assignment int64
}

// remindEvery is how often it is looked whether something must be said.
const remindEvery = time.Minute

// Arm has all students reminded.
func (s Service) Arm(ctx context.Context) error {
	students, err := s.Store.Students(ctx)
	if err != nil {
		return err
	}
	for _, id := range students {
		if err := s.Store.AddJob(ctx, query.AddJobParams{Kind: RemindJob, Subject: id, StudentID: id, RunAt: s.Now().UTC()}); err != nil {
			return err
		}
	}
	return nil
}

// Remind is the handler of [RemindJob]: it says what has become due to be said, in the application and, if
// the student wants that, by mail. In quiet hours nothing is said; what falls into them is said before.
func (s Service) Remind(ctx context.Context, job query.Job) (time.Duration, error) {
	who, err := s.Store.StudentByID(ctx, job.StudentID)
	if err != nil {
		return 0, mariadb.Final{Err: err}
	}
	settings, err := account.SettingsOf(who)
	if err != nil {
		return 0, mariadb.Final{Err: err}
	}
	zone, err := timing.Zone(who.Zone)
	if err != nil {
		return 0, mariadb.Final{Err: err}
	}
	until, quiet := ahead(s.Now().In(zone), settings.QuietFrom, settings.QuietTo)
	if quiet {
		return remindEvery, nil
	}
	list, _, err := s.load(ctx, who.ID)
	if err != nil {
		return 0, err
	}
	for _, t := range list {
		for _, r := range t.reminders(until) {
			if err := s.remind(ctx, who.ID, r, "reminder"); err != nil {
				return 0, err
			}
		}
	}
	if err := s.remindOfChanges(ctx, who); err != nil {
		return 0, err
	}
	if settings.Mail && s.Mail != nil {
		err = s.mailReminders(ctx, who)
	}
	return remindEvery, err
}

// newsFor is how long a change is worth telling to somebody who was not there.
const newsFor = 24 * time.Hour

// remindOfChanges tells of what changed and was not seen yet to where the student is when she is not here. In
// the application it was told when it happened.
func (s Service) remindOfChanges(ctx context.Context, who query.Student) error {
	news, err := s.changes(ctx, who.ID, who.SeenEvent)
	if err != nil {
		return err
	}
	for _, c := range news {
		if c.Kind == "reminder" || c.Kind == "new" || s.Now().Sub(c.At) > newsFor {
			continue
		}
		r := reminder{mark: fmt.Sprintf("change/%d", c.ID), text: c.Text, assignment: c.AssignmentID}
		if err := s.remind(ctx, who.ID, r, "notice"); err != nil {
			return err
		}
	}
	return nil
}

// remind says one thing, if it was not said before: the mark and the event come together or not at all.
func (s Service) remind(ctx context.Context, student int64, r reminder, kind string) error {
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		n, err := q.AddReminder(ctx, query.AddReminderParams{StudentID: student, Mark: r.mark, AssignmentID: r.assignment, Text: clip(r.text, 500), At: s.Now().UTC()})
		if err != nil || n == 0 {
			return err
		}
		return q.AddEvent(ctx, query.AddEventParams{StudentID: student, Kind: kind, AssignmentID: r.assignment, Text: clip(r.text, 500)})
	})
}

// beforeQuiet is how long before quiet hours it is said what falls into them.
const beforeQuiet = 30 * time.Minute

// ahead is the instant up to which things are said now: now itself, or shortly before quiet hours their
// end. quiet: nothing is said at all.
func ahead(now time.Time, from, to int) (until time.Time, quiet bool) {
	if from == to {
		return now, false
	}
	minute := now.Hour()*60 + now.Minute()
	since := (minute - from + 24*60) % (24 * 60) // of the beginning of the last quiet hours
	length := (to - from + 24*60) % (24 * 60)
	if since < length {
		return now, true
	}
	begins := time.Duration(24*60-since) * time.Minute
	if begins <= beforeQuiet {
		return now.Add(begins + time.Duration(length)*time.Minute), false
	}
	return now, false
}

// The slack from which on a reminder is due, in the order in which they come. What is said follows from how
// much work is left and how much time there is for it, not from the due time alone.
const (
	slackFirst = 24 * time.Hour
	slackLast  = 2 * time.Hour
	dueSoon    = time.Hour
	opensFor   = 24 * time.Hour // how long an opening is news
	proofAfter = 10 * time.Minute
)

// reminders are what should have been said about an assignment by some instant.
func (t *tracked) reminders(until time.Time) (out []reminder) {
	if t.Hidden() {
		return nil
	}
	a, l := t.Assignment, t.line
	add := func(kind string, at time.Time, text string, args ...any) {
		mark := fmt.Sprintf("%s/%d/%s/%s", kind, a.ID, t.Part(), at.UTC().Format(time.RFC3339))
		out = append(out, reminder{clip(mark, 160), l.Course + " " + t.titled() + ": " + fmt.Sprintf(text, args...), a.ID})
	}
	if l.Opens != nil && !l.Opens.After(until) && until.Sub(*l.Opens) < opensFor && t.planned() {
		add("opens", *l.Opens, "opens %s, due %s.", t.local(*l.Opens), t.local(l.Due))
	}
	if l.State == Waiting {
		if last, sent := t.Last(); sent && until.Sub(*l.SentAt) > proofAfter {
			if _, known := t.proofs[last.ID]; !known {
				add("proof", *l.SentAt, "sent %s, and no receipt has come. Look for a confirmation.", t.local(*l.SentAt))
			}
		} else if !sent && until.Sub(*l.SentAt) > proveWithin {
			add("proof", *l.SentAt, "you noted it as sent %s, and nothing shows it. Look for a confirmation.", t.local(*l.SentAt))
		}
	}
	if l.State != Open && l.State != Late || l.Due.Before(t.Now) {
		return out
	}
	start := t.SendBy
	if l.LatestStart != nil {
		start = *l.LatestStart
	}
	left := wording.Work(t.left())
	switch slack := start.Sub(until); {
	case l.Due.Sub(until) <= dueSoon:
		add("due", l.Due, "due %s%s.", t.local(l.Due), t.consequence())
	case slack <= 0 && l.PlanMinutes > l.DoneMinutes && until.Before(t.SendBy):
		add("start", t.SendBy, "%s of work are left, and by %s there is no time to spare any more. Start now, or ask for more time.", left, t.local(t.SendBy))
	case !until.Before(t.SendBy):
		add("send-by", t.SendBy, "send-by was %s. Submit as soon as you can; due %s%s.", t.local(t.SendBy), t.local(l.Due), t.consequence())
	case slack <= slackLast:
		add("last", t.SendBy, "send by %s, %s of slack.", t.local(t.SendBy), wording.Span(max(0, slack)))
	case slack <= slackFirst:
		add("first", t.SendBy, "%s of work left, %s of slack until send-by %s.", left, wording.Span(slack), t.local(t.SendBy))
	}
	return out
}

// mailReminders sends what was said and not mailed yet, as one mail. A mail that fails is tried again.
func (s Service) mailReminders(ctx context.Context, who query.Student) error {
	rows, err := s.Store.UnmailedReminders(ctx, who.ID)
	if err != nil || len(rows) == 0 {
		return err
	}
	var text strings.Builder
	for _, r := range rows {
		fmt.Fprintf(&text, "%s\n%s/desk/%d\n\n", r.Text, s.PublicURL, r.AssignmentID)
	}
	text.WriteString("You asked Orario for these mails; in its settings you can stop them.\n")
	subject := rows[0].Text
	if len(rows) > 1 {
		subject = fmt.Sprintf("%d reminders: %s", len(rows), subject)
	}
	if err := s.Mail.Send(ctx, who.Email, clip(subject, 150), text.String()); err != nil {
		return fmt.Errorf("mailing reminders: %w", err)
	}
	for _, r := range rows {
		if err := s.Store.SetReminderMailed(ctx, r.ID); err != nil {
			return err
		}
	}
	return nil
}
