package schedule

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/agenda"
	"orario/core/wording"
	"orario/internal/announce"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/roster"
)

// Mailer sends a mail.
type Mailer interface {
	Send(ctx context.Context, to, subject, text string) error
}

// How long it is looked ahead at the most: a change wakes the job before. After a change it waits a little, so that
// many at once are looked at together.
const (
	mostWait  = time.Hour
	leastWait = 2 * time.Second
)

// Arm has all students reminded.
func (s Service) Arm(ctx context.Context) error {
	students, err := s.Store.Students(ctx)
	if err != nil {
		return err
	}
	for _, id := range students {
		if err := s.Store.AddJob(
			ctx,
			query.AddJobParams{Kind: announce.RemindJob, Subject: id, StudentID: id, RunAt: s.Now().UTC()},
		); err != nil {
			return err
		}
	}
	return nil
}

// Remind is the handler of [announce.RemindJob]: it says what has become due to be said, in the application and, if the
// student wants that, by mail, and gives the time until something else can become due. In quiet hours nothing is said;
// what falls into them is said before.
func (s Service) Remind(ctx context.Context, job query.Job) (time.Duration, error) {
	var news []Change
	r, err := s.roster(ctx, job.StudentID, func(ctx context.Context, q *query.Queries, r *roster.Roster) (err error) {
		news, err = changes(ctx, q, job.StudentID, r.Seen)
		return err
	})
	if errors.Is(err, refusal.ErrNotFound) {
		return 0, mariadb.Final{Err: err} // the account is gone
	}
	if err != nil {
		return 0, err
	}
	p := r.Plan()
	again := max(leastWait, p.Next(r.Now, mostWait).Sub(r.Now))
	until, quiet := r.Settings.Ahead(r.Now.In(r.Student.Zone))
	if quiet {
		return again, nil
	}
	if err := s.say(ctx, r, p.Reminders(until), announce.Reminder); err != nil {
		return 0, err
	}
	if err := s.say(ctx, r, missed(news, r.Now), announce.Notice); err != nil {
		return 0, err
	}
	if r.Settings.Mail && s.Mail != nil {
		err = s.mail(ctx, r)
	}
	return again, err
}

// newsFor is how long a change is worth telling to somebody who was not there.
const newsFor = 24 * time.Hour

// missed is what changed and was not seen yet, to be told where the student is when she is not here. In the
// application it was told when it happened.
func missed(news []Change, now time.Time) (out []agenda.Reminder) {
	for _, c := range news {
		if c.Kind != announce.Reminder && c.Kind != announce.New && now.Sub(c.At) <= newsFor {
			out = append(
				out,
				agenda.Reminder{Mark: fmt.Sprintf("change/%d", c.ID), Text: c.Text, Assignment: c.AssignmentID},
			)
		}
	}
	return out
}

// saidFor is how long ago something can have been said that is to be said now.
const saidFor = 60 * 24 * time.Hour

// say says what was not said before: the mark and the event come together or not at all.
func (s Service) say(ctx context.Context, r *roster.Roster, reminders []agenda.Reminder, kind string) error {
	if len(reminders) == 0 {
		return nil
	}
	said, err := s.Store.RemindersSaid(ctx, query.RemindersSaidParams{StudentID: r.Student.ID, At: r.Now.Add(-saidFor)})
	if err != nil {
		return err
	}
	for _, x := range reminders {
		if slices.Contains(said, x.Mark) {
			continue
		}
		err := s.Store.InTx(ctx, func(q *query.Queries) error {
			n, err := q.AddReminder(ctx, query.AddReminderParams{
				StudentID:    r.Student.ID,
				Mark:         x.Mark,
				AssignmentID: x.Assignment,
				Text:         wording.Clip(x.Text, 500),
				At:           r.Now,
			})
			if err != nil || n == 0 {
				return err
			}
			return announce.Tell(
				ctx,
				q,
				r.Now,
				announce.Event{Student: r.Student.ID, Assignment: x.Assignment, Kind: kind, Text: x.Text},
			)
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// mail sends what was said and not mailed yet, as one mail. A mail that fails is tried again.
func (s Service) mail(ctx context.Context, r *roster.Roster) error {
	rows, err := s.Store.UnmailedReminders(ctx, r.Student.ID)
	if err != nil || len(rows) == 0 {
		return err
	}
	var text strings.Builder
	for _, row := range rows {
		fmt.Fprintf(&text, "%s\n%s/desk/%d\n\n", row.Text, s.PublicURL, row.AssignmentID)
	}
	text.WriteString("You asked Orario for these mails; in its settings you can stop them.\n")
	subject := rows[0].Text
	if len(rows) > 1 {
		subject = fmt.Sprintf("%d reminders: %s", len(rows), subject)
	}
	if err := s.Mail.Send(ctx, r.Student.Email, wording.Clip(subject, 150), text.String()); err != nil {
		return fmt.Errorf("mailing reminders: %w", err)
	}
	for _, row := range rows {
		if err := s.Store.SetReminderMailed(ctx, row.ID); err != nil {
			return err
		}
	}
	return nil
}
