// Package intake gets assignments in: what course sites publish, what a student puts down herself, and what comes out
// of calendars and tables. It shows nothing but drafts and previews.
package intake

import (
	"context"
	"database/sql"
	"io"
	"log/slog"
	"time"

	"orario/internal/announce"
	"orario/internal/courier"
	"orario/internal/mariadb/query"
	"orario/internal/roster"
)

// Store is what assignments are kept in.
type Store interface {
	roster.Store
	announce.Store
	StudentByID(ctx context.Context, id int64) (query.Student, error)
	Site(ctx context.Context, id int64) (query.Site, error)
	Sites(ctx context.Context, student int64) ([]query.Site, error)
	SiteNotice(context.Context, query.SiteNoticeParams) error
	Enrolment(context.Context, query.EnrolmentParams) (query.Enrolment, error)
	PublishedBy(ctx context.Context, site sql.NullInt64) ([]query.PublishedByRow, error)
	HandoutsOfSite(ctx context.Context, site sql.NullInt64) ([]query.HandoutsOfSiteRow, error)
	Course(context.Context, query.CourseParams) (query.Course, error)
	Courses(ctx context.Context, student int64) ([]query.Course, error)
	Assignment(context.Context, query.AssignmentParams) (query.Assignment, error)
	CalendarItems(ctx context.Context, student int64) ([]query.CalendarItemsRow, error)
	Feed(ctx context.Context, id int64) (query.Feed, error)
	Feeds(ctx context.Context, student int64) ([]query.Feed, error)
	FeedSynced(context.Context, query.FeedSyncedParams) error
	SetFeedNotice(context.Context, query.SetFeedNoticeParams) error
	RemoveFeed(context.Context, query.RemoveFeedParams) (int64, error)
	InTx(context.Context, func(*query.Queries) error) error
}

// Site is a course site as far as it publishes.
type Site interface {
	Describe(context.Context) (courier.Description, error)
	Courses(context.Context) ([]courier.Course, error)
	Assignments(context.Context) ([]courier.Assignment, error)
	Handout(ctx context.Context, digest string, bytes int64) (io.ReadCloser, error)
}

// Contents keeps handouts.
type Contents interface {
	Put(ctx context.Context, r io.Reader) (digest string, size int64, err error)
	Open(ctx context.Context, digest string, offset int64) (io.Reader, error)
}

// Files are what the student uploads.
type Files interface {
	Upload(ctx context.Context, student int64, upload string, most int64) (name string, data []byte, err error)
}

// Service takes in.
type Service struct {
	Store     Store
	Contents  Contents
	Files     Files
	Connect   func(query.Site) (Site, error)
	Seal      func(token string) (string, error)                    // as tokens are kept
	Fetch     func(ctx context.Context, url string) ([]byte, error) // of calendars
	Log       *slog.Logger
	Now       func() time.Time
	Every     time.Duration // between two looks at a site
	FeedEvery time.Duration // between two fetches of a calendar
}
