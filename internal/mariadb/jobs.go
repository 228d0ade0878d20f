package mariadb

import (
	"cmp"
	"context"
	"crypto/rand"
	"database/sql"
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"orario/core/wording"
	"orario/internal/mariadb/query"
)

// A Handler does one job. It may be run again after a crash, so it must be safe to repeat. With again
// above 0 the job is repeated after that time; an error repeats it later and later, unless it is a
// [Final] one.
type Handler func(ctx context.Context, job query.Job) (again time.Duration, err error)

// Final wraps an error that no repetition will mend.
type Final struct{ Err error }

func (f Final) Error() string { return f.Err.Error() }

// Unwrap gives the wrapped error.
func (f Final) Unwrap() error { return f.Err }

// Runner takes jobs from the table and does them, beside any number of other processes.
type Runner struct {
	DB       *DB
	Handlers map[string]Handler
	GiveUp   map[string]Handler // what is done instead with a job of a kind that several processes have died with
	Log      *slog.Logger
	Now      func() time.Time
	Workers  int
	First    string        // a kind for which one worker is kept, and that is never given up; may be empty
	Lease    time.Duration // how long a job stays taken without a sign of life; 0: 20 s

	Done func(kind string, err error) // for figures; may be nil

	taking sync.Mutex // so that the workers of a process count the jobs under way one after the other
}

// poll is how often an idle worker looks for a job.
const poll = 300 * time.Millisecond

func (r *Runner) lease() time.Duration { return cmp.Or(r.Lease, 20*time.Second) }

// longestWait bounds the time between two tries.
const longestWait = 5 * time.Minute

// Run works until ctx ends; then running handlers are told to stop and their jobs are given back.
func (r *Runner) Run(ctx context.Context) {
	var workers sync.WaitGroup
	for n := range r.Workers {
		only := ""
		if n == 0 && r.Workers > 1 {
			only = r.First
		}
		workers.Go(func() {
			for ctx.Err() == nil {
				worked, err := r.one(ctx, only)
				if err != nil && ctx.Err() == nil {
					r.Log.Warn("jobs cannot be read", "error", err)
				}
				if !worked {
					pause := poll
					if err != nil {
						pause = time.Second
					}
					select {
					case <-ctx.Done():
					case <-time.After(pause):
					}
				}
			}
		})
	}
	workers.Wait()
}

func (r *Runner) one(ctx context.Context, only string) (worked bool, err error) {
	job, err := r.take(ctx, only)
	if errors.Is(err, sql.ErrNoRows) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	work, stop := context.WithCancel(ctx)
	var alive sync.WaitGroup
	alive.Go(func() { r.keep(work, job, stop) })
	again, err := r.do(work, job)
	stop()
	alive.Wait()
	if r.Done != nil {
		r.Done(job.Kind, err)
	}
	return true, r.settle(ctx, job, again, err)
}

// deathsToGiveUp is how many processes have to die with a job before it is given up, and restsFor how long a job rests
// then of whose kind nobody says what is done instead.
const (
	deathsToGiveUp = 3
	restsFor       = time.Hour
)

// take takes a job, of one kind only where it is named: of students with none under way, else with the fewest, the one
// that has waited longest. A job that a process has died with is taken only when no other such job is under way, so
// that of those which died together the guilty one is found. The first kind is never suspected: it must not wait. Time
// does not grow with the queue as long as a student in it has no job under way.
func (r *Runner) take(ctx context.Context, only string) (job query.Job, err error) {
	r.taking.Lock()
	defer r.taking.Unlock()
	now := r.Now().UTC()
	idle, err := r.DB.JobsDue(ctx, query.JobsDueParams{Now: now, Lease: nullTime(now), Only: only, First: r.First})
	if err != nil {
		return job, err
	}
	job, err = r.takeOneOf(ctx, now, idle)
	if !errors.Is(err, sql.ErrNoRows) {
		return job, err
	}
	busy, err := r.DB.JobsDueOfBusy(ctx,
		query.JobsDueOfBusyParams{Now: now, Lease: nullTime(now), Only: only, First: r.First})
	if err != nil {
		return job, err
	}
	var fair []query.JobsDueRow
	for _, d := range busy {
		if d.Kind == r.First || d.Busy < int64(max(1, r.Workers/2)) { // the other workers are for other students
			fair = append(fair, query.JobsDueRow{ID: d.ID, Kind: d.Kind})
		}
	}
	return r.takeOneOf(ctx, now, fair)
}

// takeOneOf takes the first job of a list that nobody else was quicker to take.
func (r *Runner) takeOneOf(ctx context.Context, now time.Time, due []query.JobsDueRow) (job query.Job, err error) {
	for _, d := range due {
		err = r.DB.InTx(ctx, func(q *query.Queries) error {
			if job, err = q.LockJob(ctx, query.LockJobParams{ID: d.ID, Now: now, Lease: nullTime(now)}); err != nil {
				return err
			}
			if job.Token != "" { // its lease has run out
				job.Deaths++
			}
			job.Token = rand.Text()
			return q.TakeJob(ctx, query.TakeJobParams{
				TakenUntil: nullTime(now.Add(r.lease())), Token: job.Token, Deaths: job.Deaths, ID: d.ID,
			})
		})
		if !errors.Is(err, sql.ErrNoRows) { // somebody else was quicker
			return job, err
		}
	}
	return job, sql.ErrNoRows
}

// keep renews a job's lease while it is done. A job that somebody else has taken in the meantime is stopped.
func (r *Runner) keep(ctx context.Context, job query.Job, stop func()) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(r.lease() / 4):
		}
		n, err := r.DB.KeepJob(
			ctx,
			query.KeepJobParams{TakenUntil: nullTime(r.Now().UTC().Add(r.lease())), ID: job.ID, Token: job.Token},
		)
		switch {
		case err != nil && ctx.Err() == nil:
			r.Log.Warn("a job's lease was not renewed", "job", job.ID, "error", err)
		case err == nil && n == 0:
			r.Log.Warn("a job was taken over or taken back", "kind", job.Kind, "subject", job.Subject)
			stop()
			return
		}
	}
}

func (r *Runner) do(ctx context.Context, job query.Job) (again time.Duration, err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("it stopped unexpectedly: %v", p)
		}
	}()
	if job.Deaths >= deathsToGiveUp && job.Kind != r.First {
		r.Log.Error("a job is given up, since processes die with it", "kind", job.Kind, "subject", job.Subject)
		if instead, ok := r.GiveUp[job.Kind]; ok {
			return instead(ctx, job)
		}
		return restsFor, nil
	}
	handler, ok := r.Handlers[job.Kind]
	if !ok {
		return 0, Final{fmt.Errorf("nobody does jobs of kind %q", job.Kind)}
	}
	return handler(ctx, job)
}

// settle records how a job went, unless somebody else has taken it in the meantime. It must also succeed while the
// process shuts down.
func (r *Runner) settle(ctx context.Context, job query.Job, again time.Duration, err error) error {
	stopped := ctx.Err() != nil
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
	defer cancel()
	now := r.Now().UTC()
	repeat := query.RepeatJobParams{Now: now, RunAt: now.Add(again), ID: job.ID, Token: job.Token}
	retry := query.RetryJobParams{RunAt: now, Failure: job.Failure, ID: job.ID, Token: job.Token}
	var final Final
	switch {
	case err == nil && again > 0:
		_, err := r.DB.RepeatJob(ctx, repeat)
		return err
	case err == nil, errors.As(err, &final):
		if err != nil {
			r.Log.Warn("a job was given up", "kind", job.Kind, "subject", job.Subject, "error", err)
		}
		n, err := r.DB.RemoveJob(ctx, query.RemoveJobParams{ID: job.ID, Token: job.Token})
		if err == nil && n == 0 { // it was asked for again while it ran
			_, err = r.DB.RepeatJob(ctx, repeat)
		}
		return err
	case stopped:
		_, err := r.DB.RetryJob(ctx, retry)
		return err
	}
	wait := min(time.Second<<min(job.Tries, 10), longestWait)
	r.Log.Warn(
		"a job failed and is tried again",
		"kind",
		job.Kind,
		"subject",
		job.Subject,
		"in",
		wait.String(),
		"error",
		err,
	)
	retry.RunAt, retry.Failure = now.Add(wait), wording.Clip(err.Error(), 500)
	_, err = r.DB.RetryJob(ctx, retry)
	return err
}

func nullTime(t time.Time) sql.NullTime { return sql.NullTime{Time: t, Valid: true} }
