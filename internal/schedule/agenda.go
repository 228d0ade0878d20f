// Package schedule is where a student sees what to do and when: the Horizon, the plan, the week, reminders, extensions,
// and her calendar for other programs. What it shows is computed by core/agenda from one roster.
package schedule

import (
	"context"
	"database/sql"
	"time"

	"orario/core/coursework"
	"orario/internal/announce"
	"orario/internal/mariadb/query"
	"orario/internal/roster"
)

// Store is what the agenda is kept in.
type Store interface {
	roster.Store
	announce.Store
	Students(ctx context.Context) ([]int64, error)
	StudentByFeed(ctx context.Context, token sql.NullString) (query.Student, error)
	SetFeedDigest(context.Context, query.SetFeedDigestParams) error
	LastEvent(ctx context.Context, student int64) (int64, error)
	SetSeenEvent(context.Context, query.SetSeenEventParams) error
	PutSavedView(context.Context, query.PutSavedViewParams) error
	RemoveSavedView(context.Context, query.RemoveSavedViewParams) (int64, error)
	RemindersSaid(context.Context, query.RemindersSaidParams) ([]string, error)
	UnmailedReminders(ctx context.Context, student int64) ([]query.Reminder, error)
	SetReminderMailed(ctx context.Context, id int64) error
	InTx(context.Context, func(*query.Queries) error) error
}

// Files are what the student uploads.
type Files interface {
	Keep(ctx context.Context, student int64, upload string) (version int64, err error)
}

// Removing takes an assignment of the student's own away.
type Removing interface {
	Remove(ctx context.Context, student, assignment int64) error
}

// Noting notes that an assignment was sent outside of Orario.
type Noting interface {
	NoteOf(ctx context.Context, student int64, state *coursework.Standing, at *time.Time, note string) error
}

// Service is the agenda.
type Service struct {
	Store     Store
	Files     Files
	Removing  Removing
	Noting    Noting
	Mail      Mailer // nil: no mail is sent
	Now       func() time.Time
	PublicURL string // under which students reach the pages
}

func (s Service) roster(ctx context.Context, student int64, details ...roster.Detail) (*roster.Roster, error) {
	return roster.Read(ctx, s.Store, student, s.Now(), details...)
}

// planned tells the student's other pages that the plan changed.
func (s Service) planned(ctx context.Context, q announce.Store, student, assignment int64) error {
	return announce.Tell(ctx, q, s.Now(), announce.Event{
		Student: student, Assignment: assignment, Kind: announce.Planned,
	})
}
