// Package track keeps every assignment of every course in view: it takes over what the course sites
// publish and says where each stands and what to do next.
package track

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"

	"orario/core/timing"
	"orario/internal/courier"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
)

// Store is what assignments are kept in.
type Store interface {
	prepare.Reader
	AddSite(context.Context, query.AddSiteParams) (int64, error)
	Site(ctx context.Context, id int64) (query.Site, error)
	SiteNotice(context.Context, query.SiteNoticeParams) error
	AddJob(context.Context, query.AddJobParams) error
	JobsOf(ctx context.Context, student int64) ([]query.Job, error)
	Reports(ctx context.Context, student int64) ([]query.ReportsRow, error)
	Ledger(ctx context.Context, student int64) ([]query.LedgerRow, error)
	SubmissionFiles(ctx context.Context, student int64) ([]query.SubmissionFile, error)
	Assignment(context.Context, query.AssignmentParams) (query.Assignment, error)
	AddAssignment(context.Context, query.AddAssignmentParams) (int64, error)
	RemoveAssignment(context.Context, query.RemoveAssignmentParams) (int64, error)
	SetAssignmentOwn(context.Context, query.SetAssignmentOwnParams) error
	SetAssignmentExtension(context.Context, query.SetAssignmentExtensionParams) error
	SetAssignmentNoted(context.Context, query.SetAssignmentNotedParams) error
	SetAssignmentCancelled(context.Context, query.SetAssignmentCancelledParams) error
	AddWork(context.Context, query.AddWorkParams) error
	WorkDone(ctx context.Context, student int64) ([]query.WorkDoneRow, error)
	Pins(ctx context.Context, student int64) ([]query.Pin, error)
	Busy(context.Context, query.BusyParams) ([]query.Busy, error)
	Course(context.Context, query.CourseParams) (query.Course, error)
	AddCourse(context.Context, query.AddCourseParams) (int64, error)
	SetCourse(context.Context, query.SetCourseParams) (int64, error)
	SetCourseArchived(context.Context, query.SetCourseArchivedParams) (int64, error)
	Feed(ctx context.Context, id int64) (query.Feed, error)
	Feeds(ctx context.Context, student int64) ([]query.Feed, error)
	FeedSynced(context.Context, query.FeedSyncedParams) error
	SetFeedNotice(context.Context, query.SetFeedNoticeParams) error
	RemoveFeed(context.Context, query.RemoveFeedParams) (int64, error)
	SetFeedToken(context.Context, query.SetFeedTokenParams) error
	StudentByFeed(ctx context.Context, token string) (query.Student, error)
	ChangesSince(context.Context, query.ChangesSinceParams) ([]query.Event, error)
	LastEvent(ctx context.Context, student int64) (int64, error)
	SetSeenEvent(context.Context, query.SetSeenEventParams) error
	SavedViews(ctx context.Context, student int64) ([]query.SavedView, error)
	PutSavedView(context.Context, query.PutSavedViewParams) error
	RemoveSavedView(context.Context, query.RemoveSavedViewParams) (int64, error)
	Students(ctx context.Context) ([]int64, error)
	UnmailedReminders(ctx context.Context, student int64) ([]query.Reminder, error)
	SetReminderMailed(ctx context.Context, id int64) error
	Versions(ctx context.Context, student int64) ([]query.VersionsRow, error)
	SentVersions(ctx context.Context, student int64) ([]query.SentVersionsRow, error)
	SearchVersions(context.Context, query.SearchVersionsParams) ([]query.SearchVersionsRow, error)
	AddEvent(context.Context, query.AddEventParams) error
	InTx(context.Context, func(*query.Queries) error) error
}

// Site is a course site as far as it publishes.
type Site interface {
	Describe(context.Context) (courier.Description, error)
	Courses(context.Context) ([]courier.Course, error)
	Assignments(context.Context) ([]courier.Assignment, error)
	Handout(ctx context.Context, digest string) (io.Reader, error)
}

// Contents keeps handouts.
type Contents interface {
	Put(ctx context.Context, r io.Reader) (digest string, size int64, err error)
}

// Files are what the student uploads.
type Files interface {
	Upload(ctx context.Context, student int64, upload string) (name string, data []byte, err error)
	Keep(ctx context.Context, student int64, upload string) (version int64, err error)
}

// Service tracks.
type Service struct {
	Store     Store
	Contents  Contents
	Files     Files
	Connect   func(query.Site) (Site, error)
	Fetch     func(ctx context.Context, url string) ([]byte, error) // of calendars
	Mail      Mailer                                                // nil: no mail is sent
	Changes   Comparer
	Now       func() time.Time
	Every     time.Duration // between two syncs of a site
	FeedEvery time.Duration // between two fetches of a calendar
	PublicURL string        // under which students reach the pages
}

// SyncJob is the kind of the job that takes over what a site publishes.
const SyncJob = "sync"

// usualHabit is the name pattern that a new course begins with: common practice is the family name
// with words that describe the work.
const usualHabit = "{family:lower}_{course}_{title:dash}"

// AddSite connects a course site and has it synced.
func (s Service) AddSite(ctx context.Context, student int64, base, token string) (int64, error) {
	if _, err := s.Connect(query.Site{BaseUrl: base, Token: token}); err != nil {
		return 0, err
	}
	id, err := s.Store.AddSite(ctx, query.AddSiteParams{StudentID: student, Name: base, BaseUrl: base, Token: token})
	if err != nil {
		return 0, fmt.Errorf("connecting %s: %w", base, err)
	}
	return id, s.Store.AddJob(ctx, query.AddJobParams{Kind: SyncJob, Subject: id, StudentID: student, RunAt: s.Now().UTC()})
}

// SyncNow asks for a sync of all sites of a student.
func (s Service) SyncNow(ctx context.Context, student int64) error {
	sites, err := s.Store.Sites(ctx, student)
	if err != nil {
		return err
	}
	for _, site := range sites {
		if err := s.Store.AddJob(ctx, query.AddJobParams{Kind: SyncJob, Subject: site.ID, StudentID: student, RunAt: s.Now().UTC()}); err != nil {
			return err
		}
	}
	return nil
}

// Sync is the handler of [SyncJob]. It can be repeated at will: what the site publishes replaces what it
// published before, what the student did stays. A site that is down costs a notice.
func (s Service) Sync(ctx context.Context, job query.Job) (time.Duration, error) {
	site, err := s.Store.Site(ctx, job.Subject)
	if err != nil {
		return 0, mariadb.Final{Err: err}
	}
	err = s.sync(ctx, site)
	if err == nil || ctx.Err() != nil {
		return s.Every, err
	}
	notice := fmt.Sprintf("%s cannot be reached; what you see is from the last time it could.", site.Name)
	var refused courier.Refused
	if errors.As(err, &refused) {
		notice = refused.Reason
	}
	if site.Notice != notice {
		if err := s.Store.SiteNotice(ctx, query.SiteNoticeParams{Notice: notice, ID: site.ID}); err != nil {
			return 0, err
		}
		return s.Every, s.tell(ctx, site.StudentID, 0, notice)
	}
	return s.Every, nil
}

func (s Service) sync(ctx context.Context, row query.Site) error {
	site, err := s.Connect(row)
	if err != nil {
		return err
	}
	asked := s.Now()
	description, err := site.Describe(ctx)
	if err != nil {
		return err
	}
	offset := description.Now.Sub(asked.Add(s.Now().Sub(asked) / 2)).Milliseconds()
	// Within the noise of an answer's way the clocks are the same.
	if offset > -500 && offset < 500 {
		offset = 0
	}
	courses, err := site.Courses(ctx)
	if err != nil {
		return err
	}
	assignments, err := site.Assignments(ctx)
	if err != nil {
		return err
	}
	before, err := s.known(ctx, row)
	if err != nil {
		return err
	}
	for _, a := range assignments {
		for _, h := range a.Handouts {
			if before.handouts[h.Digest] {
				continue
			}
			content, err := site.Handout(ctx, h.Digest)
			if err != nil {
				return err
			}
			if digest, _, err := s.Contents.Put(ctx, content); err != nil || digest != h.Digest {
				return fmt.Errorf("the handout %s did not arrive whole: %w", h.Name, errors.Join(err, errors.New("another digest")))
			}
		}
	}
	var news []query.AddEventParams
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		for _, c := range courses {
			err := q.PutCourse(ctx, query.PutCourseParams{StudentID: row.StudentID, SiteID: sql.NullInt64{Int64: row.ID, Valid: true}, SiteKey: c.Key, Code: c.Code, Title: c.Title, Zone: c.Zone, Instructor: c.Instructor, NameHabit: usualHabit})
			if err != nil {
				return err
			}
		}
		news, err = put(ctx, q, row, assignments, before)
		if err != nil {
			return err
		}
		for _, event := range news {
			if err := q.AddEvent(ctx, event); err != nil {
				return err
			}
		}
		return q.SiteSynced(ctx, query.SiteSyncedParams{Name: description.Name, PublicKey: description.PublicKey, ClockOffsetMs: offset, SyncedAt: nullTime(s.Now().UTC()), ID: row.ID})
	})
	if err == nil && (row.Notice != "" || row.ClockOffsetMs/1000 != offset/1000) {
		err = s.tell(ctx, row.StudentID, 0, description.Name+" answers.")
	}
	return err
}

// known is what is stored of a site's publications.
type known struct {
	assignments map[string]query.Assignment // by course key and key
	handouts    map[string]bool             // by digest
}

func (s Service) known(ctx context.Context, row query.Site) (known, error) {
	k := known{map[string]query.Assignment{}, map[string]bool{}}
	courses, err := s.Store.Courses(ctx, row.StudentID)
	if err != nil {
		return k, err
	}
	assignments, err := s.Store.Assignments(ctx, row.StudentID)
	if err != nil {
		return k, err
	}
	for _, c := range courses {
		for _, a := range assignments {
			if a.CourseID == c.ID && c.SiteID.Int64 == row.ID {
				k.assignments[c.SiteKey+"/"+a.SiteKey] = a
			}
		}
	}
	handouts, err := s.Store.Handouts(ctx, row.StudentID)
	for _, h := range handouts {
		k.handouts[h.Digest] = true
	}
	return k, err
}

// put stores assignments and returns what is new about them.
func put(ctx context.Context, q *query.Queries, row query.Site, assignments []courier.Assignment, before known) (news []query.AddEventParams, err error) {
	courses, err := q.Courses(ctx, row.StudentID)
	if err != nil {
		return nil, err
	}
	byKey := map[string]query.Course{}
	for _, c := range courses {
		if c.SiteID.Int64 == row.ID {
			byKey[c.SiteKey] = c
		}
	}
	for _, a := range assignments {
		course, ok := byKey[a.Course]
		if !ok {
			return nil, fmt.Errorf("the site publishes %s in a course %s that it does not publish", a.Key, a.Course)
		}
		if _, err := timing.ParseWindow(course.Zone, a.Opens, a.Due, a.Closes, a.GraceMinutes); err != nil {
			return nil, fmt.Errorf("the site's times of %s cannot be used: %w", a.Key, err)
		}
		late, err := json.Marshal(a.Late)
		if err != nil {
			return nil, err
		}
		sheet, err := json.Marshal(a.Sheet)
		if err != nil {
			return nil, err
		}
		err = q.PutAssignment(ctx, query.PutAssignmentParams{
			StudentID: row.StudentID, CourseID: course.ID, SiteKey: a.Key, Title: a.Title, Instructions: a.Instructions, Opens: a.Opens, Due: a.Due, Closes: a.Closes,
			GraceMinutes: int32(a.GraceMinutes), Late: late, Points: a.Points, Weight: a.Weight, Sheet: sheet,
			FirstReportMinutes: int32(a.Turnaround.FirstMinutes), LaterReportMinutes: int32(a.Turnaround.LaterMinutes),
		})
		if err != nil {
			return nil, err
		}
		stored, err := q.AssignmentByKey(ctx, query.AssignmentByKeyParams{CourseID: course.ID, SiteKey: a.Key})
		if err != nil {
			return nil, err
		}
		for _, h := range a.Handouts {
			if err := q.PutHandout(ctx, query.PutHandoutParams{AssignmentID: stored.ID, Name: h.Name, Bytes: h.Bytes, Digest: h.Digest}); err != nil {
				return nil, err
			}
		}
		event := query.AddEventParams{StudentID: row.StudentID, Kind: "changed", AssignmentID: stored.ID}
		for _, h := range a.Handouts {
			if _, ok := before.assignments[a.Course+"/"+a.Key]; ok && !before.handouts[h.Digest] {
				news = append(news, query.AddEventParams{StudentID: row.StudentID, Kind: "handout", AssignmentID: stored.ID, Text: fmt.Sprintf("%s: the handout %s is new with %s.", course.Code, h.Name, a.Title)})
			}
		}
		if old, ok := before.assignments[a.Course+"/"+a.Key]; !ok {
			event.Kind, event.Text = "new", fmt.Sprintf("%s: %s is new.", course.Code, a.Title)
		} else if old.Due != a.Due {
			event.Text = fmt.Sprintf("%s: %s is due %s, no longer %s.", course.Code, a.Title, wallSaid(a.Due), wallSaid(old.Due))
		} else if old.Instructions != a.Instructions {
			event.Text = fmt.Sprintf("%s: the instructions of %s changed.", course.Code, a.Title)
		} else {
			continue
		}
		news = append(news, event)
	}
	return news, nil
}

func (s Service) tell(ctx context.Context, student, assignment int64, text string) error {
	return s.Store.AddEvent(ctx, query.AddEventParams{StudentID: student, Kind: "site", AssignmentID: assignment, Text: text})
}
