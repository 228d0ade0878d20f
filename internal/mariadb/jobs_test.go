package mariadb_test

import (
	"context"
	"errors"
	"log/slog"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/internal/mariadb"
	"orario/internal/mariadb/mariadbtest"
	"orario/internal/mariadb/query"
)

func add(t *testing.T, db *mariadb.DB, kind string, subject int64) {
	require.NoError(
		t,
		db.AddJob(
			context.Background(),
			query.AddJobParams{Kind: kind, Subject: subject, StudentID: 1, RunAt: time.Now().UTC().Add(-time.Second)},
		),
	)
}

func jobs(t *testing.T, db *mariadb.DB) []query.Job {
	list, err := db.JobsOf(context.Background(), 1)
	require.NoError(t, err)
	return list
}

func run(db *mariadb.DB, handler mariadb.Handler) (stop func()) {
	ctx, cancel := context.WithCancel(context.Background())
	var done sync.WaitGroup
	r := mariadb.Runner{
		DB:       db,
		Handlers: map[string]mariadb.Handler{"k": handler},
		Log:      slog.New(slog.DiscardHandler),
		Workers:  3,
	}
	done.Go(func() { r.Run(ctx) })
	return func() { cancel(); done.Wait() }
}

func TestManyProcessesDoEachJobOnce(t *testing.T) {
	db := mariadbtest.Orario(t)
	for n := range int64(40) {
		add(t, db, "k", n)
		add(t, db, "k", n) // asked for twice, done once
	}
	var done [40]atomic.Int64
	handler := func(_ context.Context, job query.Job) (time.Duration, error) {
		done[job.Subject].Add(1)
		return 0, nil
	}
	stops := []func(){run(db, handler), run(db, handler), run(db, handler)}
	assert.Eventually(t, func() bool { return len(jobs(t, db)) == 0 }, 10*time.Second, 20*time.Millisecond)
	for _, stop := range stops {
		stop()
	}
	for n := range done {
		assert.Equal(t, int64(1), done[n].Load(), "job %d", n)
	}
}

func TestAJobIsGivenBackWhenTheProcessStops(t *testing.T) {
	db := mariadbtest.Orario(t)
	add(t, db, "k", 1)
	begun := make(chan bool)
	stop := run(db, func(ctx context.Context, _ query.Job) (time.Duration, error) {
		close(begun)
		<-ctx.Done()
		return 0, ctx.Err()
	})
	<-begun
	stop()
	list := jobs(t, db)
	require.Len(t, list, 1)
	assert.False(t, list[0].TakenUntil.Valid, "anybody may take it at once")
	assert.False(t, list[0].RunAt.After(time.Now().UTC()))
}

func TestFailuresAreRepeatedLaterAndFinalOnesGivenUp(t *testing.T) {
	db := mariadbtest.Orario(t)
	add(t, db, "k", 1)
	add(t, db, "k", 2)
	add(t, db, "k", 3)
	var tries atomic.Int64
	stop := run(db, func(_ context.Context, job query.Job) (time.Duration, error) {
		switch job.Subject {
		case 1:
			tries.Add(1)
			return 0, errors.New("not yet")
		case 2:
			return 0, mariadb.Final{Err: errors.New("never")}
		}
		panic("a mistake")
	})
	assert.Eventually(
		t,
		func() bool { return tries.Load() == 1 && len(jobs(t, db)) == 2 && jobs(t, db)[0].Failure != "" },
		5*time.Second,
		20*time.Millisecond,
	)
	stop()
	for _, job := range jobs(t, db) {
		assert.True(t, job.RunAt.After(time.Now().UTC()), "later")
	}
}

func TestAJobOfADeadProcessIsTakenOver(t *testing.T) {
	db := mariadbtest.Orario(t)
	add(t, db, "k", 1)
	_, err := db.SQL.Exec(
		"UPDATE job SET taken_until = ?, tries = 1",
		time.Now().UTC().Add(-time.Second),
	) // no sign of life
	require.NoError(t, err)
	done := make(chan bool, 1)
	stop := run(db, func(context.Context, query.Job) (time.Duration, error) { done <- true; return 0, nil })
	defer stop()
	select {
	case <-done:
	case <-time.After(5 * time.Second):
		t.Fatal("nobody took it over")
	}
}

func TestManyProcessesMigrateAtOnce(t *testing.T) {
	source := mariadbtest.Source(t)
	const name = "orario_test_migrate"
	var opened sync.WaitGroup
	for range 6 {
		opened.Go(func() {
			db, err := mariadb.Open(context.Background(), source, name, mariadb.Migrations())
			if assert.NoError(t, err) {
				_, err = db.StudentByEmail(context.Background(), "nobody")
				assert.Error(t, err)
				db.Close()
			}
		})
	}
	opened.Wait()
	db, err := mariadb.Open(context.Background(), source, name, mariadb.Migrations())
	require.NoError(t, err)
	defer db.Close()
	_, err = db.SQL.Exec("DROP DATABASE " + name)
	require.NoError(t, err)
}
