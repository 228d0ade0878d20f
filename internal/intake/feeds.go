package intake

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"orario/core/wording"
	"orario/internal/announce"
	"orario/internal/courier"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
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
	if in.CourseID != 0 {
		if _, err := s.Store.Course(ctx, query.CourseParams{ID: in.CourseID, StudentID: student}); err != nil {
			return nil, refusal.NotFound(err)
		}
	}
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
			return nil, refusal.Complaint{Message: err.Error()}
		}
	}
	name := wording.Clip(strings.TrimSpace(in.Name), 200)
	if name == "" {
		name = "Calendar"
	}
	url := ""
	if in.Again {
		url = in.URL
	}
	done.Busy = len(busy)
	return done, s.Store.InTx(ctx, func(q *query.Queries) error {
		return s.replaceFeed(ctx, q, query.AddFeedParams{
			StudentID: student,
			Name:      name,
			Url:       url,
			Purpose:   query.FeedPurpose(in.Purpose),
			CourseID:  mariadb.NullInt(in.CourseID),
		}, busy)
	})
}

// replaceFeed keeps a calendar with its busy times; the same calendar again replaces what it was.
func (s Service) replaceFeed(
	ctx context.Context,
	q *query.Queries,
	f query.AddFeedParams,
	busy []query.AddBusyParams,
) error {
	rows, err := q.Feeds(ctx, f.StudentID)
	if err != nil {
		return err
	}
	for _, r := range rows {
		if r.Purpose == f.Purpose && r.Url == f.Url && (f.Url != "" || r.Name == f.Name) {
			if _, err := q.RemoveFeed(ctx, query.RemoveFeedParams{ID: r.ID, StudentID: f.StudentID}); err != nil {
				return err
			}
		}
	}
	id, err := q.AddFeed(ctx, f)
	if err != nil {
		return err
	}
	for _, b := range busy {
		b.FeedID = id
		if err := q.AddBusy(ctx, b); err != nil {
			return err
		}
	}
	now := s.Now().UTC()
	if err := q.FeedSynced(ctx, query.FeedSyncedParams{SyncedAt: mariadb.NullTime(&now), ID: id}); err != nil {
		return err
	}
	told := announce.Tell(ctx, q, s.Now(), announce.Event{Student: f.StudentID, Kind: announce.Calendar})
	if told != nil || f.Url == "" {
		return told
	}
	next := now.Add(s.FeedEvery)
	return q.AddJob(ctx, query.AddJobParams{Kind: FeedJob, Subject: id, StudentID: f.StudentID, RunAt: next})
}

// mostBusy bounds the busy times of one calendar.
const mostBusy = 5000

// busy reads the times that a calendar takes.
func (s Service) busy(text string, in Import, who query.Student) ([]query.AddBusyParams, error) {
	if !isCalendar(text) {
		return nil, refusal.Say("Busy times are read from iCalendar files. Export your calendar as .ics.")
	}
	items, _, err := s.items(text, in, who)
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
		out = append(out, query.AddBusyParams{
			StudentID: who.ID,
			Title:     wording.Clip(i.Title, 300),
			StartAt:   from.UTC(),
			EndAt:     to.UTC(),
		})
	}
	if len(out) > mostBusy {
		return nil, refusal.Say(
			"The calendar takes %d times in the coming half year; %d are kept at most.",
			len(out),
			mostBusy,
		)
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
	notice := ""
	if err == nil && in.Purpose == PurposeDue {
		var done *Imported
		if done, err = s.take(ctx, f.StudentID, in, text, false); err == nil && len(done.LeftOut) > 0 {
			notice = wording.Clip("Some of "+f.Name+" cannot be read and is left out. "+done.LeftOut[0].String(), 500)
		}
	} else if err == nil {
		err = s.replaceBusy(ctx, f, in, text)
	}
	if err == nil {
		now := s.Now().UTC()
		return s.FeedEvery, s.Store.FeedSynced(
			ctx,
			query.FeedSyncedParams{SyncedAt: mariadb.NullTime(&now), Notice: notice, ID: f.ID},
		)
	}
	var complaint refusal.Complaint
	if ctx.Err() != nil || !errors.As(err, &complaint) {
		return 0, err // of our own making: it is tried again
	}
	notice = wording.Clip(fmt.Sprintf("%s could not be taken over: %s", f.Name, complaint.Message), 500)
	return s.FeedEvery, s.Store.SetFeedNotice(ctx, query.SetFeedNoticeParams{Notice: notice, ID: f.ID})
}

// GiveUpFeed is done instead of [FeedJob] with a calendar that stops the program whenever it is read.
func (s Service) GiveUpFeed(ctx context.Context, job query.Job) (time.Duration, error) {
	f, err := s.Store.Feed(ctx, job.Subject)
	if err != nil {
		return 0, mariadb.Final{Err: err}
	}
	notice := f.Name + " stopped Orario each time it was read, so it is not fetched any more. Remove it, and add it " +
		"again once whoever publishes it has mended it."
	if err := s.Store.SetFeedNotice(ctx, query.SetFeedNoticeParams{Notice: notice, ID: f.ID}); err != nil {
		return 0, err
	}
	return 0, announce.Tell(ctx, s.Store, s.Now(), announce.Event{
		Student: f.StudentID, Kind: announce.Calendar, Text: notice,
	})
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
		return announce.Tell(ctx, q, s.Now(), announce.Event{Student: f.StudentID, Kind: announce.Calendar})
	})
}

// RemoveFeed lets go of a calendar. What was due in it stays; the busy times go.
func (s Service) RemoveFeed(ctx context.Context, student, id int64) error {
	if err := refusal.Unless(s.Store.RemoveFeed(ctx, query.RemoveFeedParams{ID: id, StudentID: student})); err != nil {
		return err
	}
	return announce.Tell(ctx, s.Store, s.Now(), announce.Event{Student: student, Kind: announce.Calendar})
}
