package submit

import (
	"context"
	"log/slog"
	"time"

	"orario/core/coursework"
	"orario/internal/mariadb/query"
)

// ReconcileJob is the kind of the job that looks at all that is open or unproved.
const ReconcileJob = "reconcile"

// reconcileEvery is how often that is done, beside once at each start.
const reconcileEvery = time.Hour

// Reconcile is the handler of [ReconcileJob]: whatever is under way, waits for its report or return, or is not proved,
// has a job that settles it. One that was lost, by whatever mishap, is made anew.
func (s Service) Reconcile(ctx context.Context, _ query.Job) (time.Duration, error) {
	now := s.Now().UTC()
	n, err := s.Store.AddLostJobs(ctx, query.AddLostJobsParams{Now: now, Since: now.Add(-coursework.FollowedFor)})
	if n > 0 {
		slog.Warn("jobs were lost and are made anew", "jobs", n)
	}
	return reconcileEvery, err
}
