package track

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/csv"
	"errors"
	"fmt"
	"strings"
	"time"

	"orario/core/calendar"
	"orario/internal/courier"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
)

// FeedJob is the kind of the job that fetches a calendar again.
const FeedJob = "feed"

// A Feed is a calendar that was given once, or that is fetched from time to time.
type Feed struct {
	ID       int64  `json:"id"`
	Name     string `json:"name"`
	URL      string `json:"url"` // empty: a file that was given once
	Purpose  string `json:"purpose"`
	Course   string `json:"course"`
	SyncedAt string `json:"synced_at"`
	Notice   string `json:"notice"`
}

// Feeds lists a student's calendars.
func (s Service) Feeds(ctx context.Context, student int64) ([]Feed, error) {
	rows, err := s.Store.Feeds(ctx, student)
	if err != nil {
		return nil, err
	}
	courses, err := s.Store.Courses(ctx, student)
	if err != nil {
		return nil, err
	}
	out := []Feed{}
	for _, r := range rows {
		f := Feed{ID: r.ID, Name: r.Name, URL: r.Url, Purpose: string(r.Purpose), Notice: r.Notice}
		for _, c := range courses {
			if r.CourseID.Valid && c.ID == r.CourseID.Int64 {
				f.Course = c.Code
			}
		}
		if r.SyncedAt.Valid {
			f.SyncedAt = r.SyncedAt.Time.Format(time.RFC3339)
		}
		out = append(out, f)
	}
	return out, nil
}

// addFeed keeps a calendar and takes it over for the first time.
func (s Service) addFeed(ctx context.Context, student int64, in Import, text string) (*Imported, error) {
	done, busy := &Imported{}, []query.AddBusyParams{}
	who, err := s.Store.StudentByID(ctx, student)
	if err != nil {
		return nil, err
	}
	if in.Purpose == PurposeBusy {
		busy, err = s.busy(text, in, who)
	} else {
		done, err = s.take(ctx, student, in, text, true)
	}
	if err != nil {
		return nil, err
	}
	if in.URL != "" {
		if in.URL, err = courier.FeedAddress(in.URL); err != nil {
			return nil, prepare.Complaint{Message: err.Error()}
		}
	}
	name := clip(strings.TrimSpace(in.Name), 200)
	if name == "" {
		name = "Calendar"
	}
	url := ""
	if in.Again {
		url = in.URL
	}
	done.Busy = len(busy)
	return done, s.Store.InTx(ctx, func(q *query.Queries) error {
		rows, err := q.Feeds(ctx, student)
		if err != nil {
			return err
		}
		for _, r := range rows { // the same calendar again replaces what it was
			if string(r.Purpose) == in.Purpose && r.Url == url && (url != "" || r.Name == name) {
				if _, err := q.RemoveFeed(ctx, query.RemoveFeedParams{ID: r.ID, StudentID: student}); err != nil {
					return err
				}
			}
		}
		id, err := q.AddFeed(ctx, query.AddFeedParams{StudentID: student, Name: name, Url: url, Purpose: query.FeedPurpose(in.Purpose), CourseID: sql.NullInt64{Int64: in.CourseID, Valid: in.CourseID != 0}})
		if err != nil {
			return err
		}
		for _, b := range busy {
			b.FeedID = id
			if err := q.AddBusy(ctx, b); err != nil {
				return err
			}
		}
		if err := q.FeedSynced(ctx, query.FeedSyncedParams{SyncedAt: nullTime(s.Now().UTC()), ID: id}); err != nil || url == "" {
			return err
		}
		return q.AddJob(ctx, query.AddJobParams{Kind: FeedJob, Subject: id, StudentID: student, RunAt: s.Now().UTC().Add(s.FeedEvery)})
	})
}

// mostBusy bounds the busy times of one calendar.
const mostBusy = 5000

// busy reads the times that a calendar takes.
func (s Service) busy(text string, in Import, who query.Student) ([]query.AddBusyParams, error) {
	if !isCalendar(text) {
		return nil, prepare.Complaint{Message: "Busy times are read from iCalendar files. Export your calendar as .ics."}
	}
	items, err := s.items(text, in, who)
	if err != nil {
		return nil, err
	}
	var out []query.AddBusyParams
	for _, i := range items {
		from, errFrom := time.Parse(time.RFC3339, i.Due)
		to, errTo := time.Parse(time.RFC3339, i.End)
		if errFrom != nil || errTo != nil || !from.Before(to) || i.Todo || i.Free || i.Status == "cancelled" {
			continue
		}
		out = append(out, query.AddBusyParams{StudentID: who.ID, Title: clip(i.Title, 300), StartAt: from.UTC(), EndAt: to.UTC()})
	}
	if len(out) > mostBusy {
		return nil, prepare.Complaint{Message: fmt.Sprintf("The calendar takes %d times in the coming half year; %d are kept at most.", len(out), mostBusy)}
	}
	return out, nil
}

// FetchFeed is the handler of [FeedJob]. What cannot be fetched costs a notice.
func (s Service) FetchFeed(ctx context.Context, job query.Job) (time.Duration, error) {
	f, err := s.Store.Feed(ctx, job.Subject)
	if err != nil {
		return 0, mariadb.Final{Err: err} // it was taken out
	}
	in := Import{URL: f.Url, Name: f.Name, Purpose: string(f.Purpose), CourseID: f.CourseID.Int64, Again: true}
	text, err := s.source(ctx, f.StudentID, in)
	if err == nil && in.Purpose == PurposeDue {
		_, err = s.take(ctx, f.StudentID, in, text, false)
	} else if err == nil {
		err = s.replaceBusy(ctx, f, in, text)
	}
	if err == nil {
		return s.FeedEvery, s.Store.FeedSynced(ctx, query.FeedSyncedParams{SyncedAt: nullTime(s.Now().UTC()), ID: f.ID})
	}
	var complaint prepare.Complaint
	if ctx.Err() != nil || !errors.As(err, &complaint) {
		return 0, err // of our own making: it is tried again
	}
	notice := clip(fmt.Sprintf("%s could not be taken over: %s", f.Name, complaint.Message), 500)
	return s.FeedEvery, s.Store.SetFeedNotice(ctx, query.SetFeedNoticeParams{Notice: notice, ID: f.ID})
}

func (s Service) replaceBusy(ctx context.Context, f query.Feed, in Import, text string) error {
	who, err := s.Store.StudentByID(ctx, f.StudentID)
	if err != nil {
		return err
	}
	busy, err := s.busy(text, in, who)
	if err != nil {
		return err
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		if err := q.RemoveBusy(ctx, f.ID); err != nil {
			return err
		}
		for _, b := range busy {
			b.FeedID = f.ID
			if err := q.AddBusy(ctx, b); err != nil {
				return err
			}
		}
		return nil
	})
}

// RemoveFeed lets go of a calendar. What was due in it stays; the busy times go.
func (s Service) RemoveFeed(ctx context.Context, student, id int64) error {
	n, err := s.Store.RemoveFeed(ctx, query.RemoveFeedParams{ID: id, StudentID: student})
	if err == nil && n == 0 {
		err = prepare.ErrNotFound
	}
	return err
}

// Link is the secret end of a student's own calendar feed; empty: there is none.
func (s Service) Link(ctx context.Context, student int64) (string, error) {
	who, err := s.Store.StudentByID(ctx, student)
	return who.FeedToken, err
}

// Renew makes a new secret link, or with on false revokes the one there is. The old one stops at once.
func (s Service) Renew(ctx context.Context, student int64, on bool) error {
	token := ""
	if on {
		token = rand.Text()
	}
	return s.Store.SetFeedToken(ctx, query.SetFeedTokenParams{FeedToken: token, ID: student})
}

// Published is the calendar behind a secret link: send-by and due of what is open, with alarms, and the
// planned work. [prepare.ErrNotFound] where the link is no longer good.
func (s Service) Published(ctx context.Context, token, base string) (string, error) {
	who, err := s.Store.StudentByFeed(ctx, token)
	if err != nil {
		return "", prepare.NotFound(err)
	}
	list, _, err := s.load(ctx, who.ID)
	if err != nil {
		return "", err
	}
	now := s.Now().UTC()
	var entries []calendar.Entry
	for _, t := range list {
		if t.Hidden() || !t.planned() && t.line.SentAt == nil {
			continue
		}
		l := t.line
		link := fmt.Sprintf("%s/desk/%d", base, l.ID)
		entry := func(what, title string, at time.Time, alarm time.Duration) calendar.Entry {
			return calendar.Entry{UID: fmt.Sprintf("%s-%d@orario", what, l.ID), Title: title, Course: l.Course, Link: link, Start: at, Alarm: alarm, Changed: now}
		}
		due := entry("due", l.Course+" "+t.titled()+" is due", l.Due, 0)
		if t.planned() {
			due.Alarm = time.Hour
			by := entry("send-by", "Send "+l.Course+" "+t.titled(), t.SendBy, 2*time.Hour)
			by.Text = "Send by this time and nothing depends on luck. Due " + t.local(l.Due) + "."
			entries = append(entries, by)
		} else {
			due.Title = l.Course + " " + t.titled() + " was due; sent"
		}
		entries = append(entries, due)
		for n, b := range l.Blocks {
			work := entry(fmt.Sprintf("work-%d", n), l.Course+" "+t.titled(), b.Start, 0)
			work.End, work.Busy = b.End, true
			entries = append(entries, work)
		}
	}
	return calendar.Write("Orario, "+who.Given+" "+who.Family, entries), nil
}

// Table is every assignment as CSV (RFC 4180), with the columns that an import understands first.
func (s Service) Table(ctx context.Context, student int64) (string, error) {
	list, _, err := s.load(ctx, student)
	if err != nil {
		return "", err
	}
	var out strings.Builder
	w := csv.NewWriter(&out)
	w.UseCRLF = true
	rows := [][]string{{"title", "course", "due", "opens", "closes", "points", "zone", "weight", "send by", "state", "outcome", "planned minutes", "done minutes"}}
	wall := func(t *tracked, at *time.Time) string {
		if at == nil {
			return ""
		}
		return at.In(t.Window.Zone).Format(wallForm)
	}
	for _, t := range list {
		l := t.line
		rows = append(rows, []string{inert(t.Assignment.Title), inert(l.Course), wall(t, &l.Due), wall(t, l.Opens), wall(t, l.Closes), fmt.Sprint(l.Points), l.Zone, fmt.Sprint(l.Weight),
			wall(t, &t.SendBy), l.State, inert(l.Outcome), fmt.Sprint(l.PlanMinutes), fmt.Sprint(l.DoneMinutes)})
	}
	err = w.WriteAll(rows)
	return out.String(), err
}

// inert keeps a spreadsheet from taking a text for a formula.
func inert(text string) string {
	if text != "" && strings.ContainsRune("=+-@\t", rune(text[0])) {
		return "'" + text
	}
	return text
}
