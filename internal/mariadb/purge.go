package mariadb

import (
	"context"
	"fmt"
	"time"
)

// PurgeJob is the kind of the job that takes out rows which have had their time.
const PurgeJob = "purge"

// How long rows are kept.
const (
	eventsFor    = 60 * 24 * time.Hour // what happened; nobody is told of it any more
	remindersFor = 400 * 24 * time.Hour
	failuresFor  = 24 * time.Hour     // of signing in
	touchedFor   = time.Hour          // longer than any transaction takes
	madeFor      = 7 * 24 * time.Hour // in the Workshop, and not taken
)

// Purge takes out events, reminders, sessions and guesses at passwords that have had their time, in small steps.
func (d *DB) Purge(ctx context.Context, now time.Time) (rows int64, err error) {
	now = now.UTC()
	for _, step := range []struct {
		what   string
		remove func(context.Context, time.Time) (int64, error)
		before time.Time
	}{
		{"events", d.PurgeEvents, now.Add(-eventsFor)}, {"reminders", d.PurgeReminders, now.Add(-remindersFor)},
		{"sessions", d.PurgeSessions, now}, {"links for new passwords", d.PurgeResets, now},
		{"wishes for new passwords", d.PurgeResetsAsked, now.Add(-failuresFor)},
		{"guesses", d.PurgeGuesses, now.Add(-failuresFor)}, {"workpieces", d.PurgeWorkpieces, now.Add(-madeFor)},
		{"passes", d.PurgePasses, now}, {"notes of changes", d.PurgeTouched, now.Add(-touchedFor)},
	} {
		for {
			n, err := step.remove(ctx, step.before)
			if err != nil {
				return rows, fmt.Errorf("purging %s: %w", step.what, err)
			}
			rows += n
			if n == 0 {
				break
			}
		}
	}
	return rows, nil
}
