package mariadb_test

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"log/slog"
	"strings"
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

func add(t *testing.T, db *mariadb.DB, kind string, subject int64) { addFor(t, db, 1, kind, subject) }

func addFor(t *testing.T, db *mariadb.DB, student int64, kind string, subject int64) {
	require.NoError(t, db.AddJob(context.Background(), query.AddJobParams{
		Kind: kind, Subject: subject, StudentID: student, RunAt: time.Now().UTC().Add(-time.Second),
	}))
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
		Now:      time.Now,
		Handlers: map[string]mariadb.Handler{"k": handler},
		Log:      slog.New(slog.DiscardHandler),
		Workers:  3,
		Lease:    1500 * time.Millisecond,
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
	began := time.Now().UTC()
	stop := run(db, func(_ context.Context, job query.Job) (time.Duration, error) {
		switch job.Subject {
		case 1:
			return 0, errors.New("not yet")
		case 2:
			return 0, mariadb.Final{Err: errors.New("never")}
		}
		panic("a mistake")
	})
	settled := func() bool { // a failure that is settled only while the process stops is given back at once
		list := jobs(t, db)
		return len(list) == 2 && list[0].Failure != "" && list[1].Failure != ""
	}
	assert.Eventually(t, settled, 5*time.Second, 20*time.Millisecond)
	stop()
	for _, job := range jobs(t, db) {
		assert.True(t, job.RunAt.After(began.Add(900*time.Millisecond)), "later")
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

func TestAJobThatTakesLongStaysTaken(t *testing.T) {
	db := mariadbtest.Orario(t)
	add(t, db, "k", 1)
	var begun atomic.Int64
	handler := func(context.Context, query.Job) (time.Duration, error) {
		begun.Add(1)
		time.Sleep(4 * time.Second) // several leases
		return 0, nil
	}
	stops := []func(){run(db, handler), run(db, handler)}
	assert.Eventually(t, func() bool { return len(jobs(t, db)) == 0 }, 15*time.Second, 20*time.Millisecond)
	for _, stop := range stops {
		stop()
	}
	assert.Equal(t, int64(1), begun.Load(), "its lease was renewed, so nobody else took it")
}

func TestAWorkerThatWasOvertakenStopsAndSettlesNothing(t *testing.T) {
	for name, outcome := range map[string]struct {
		again time.Duration
		err   error
	}{"done": {}, "to be repeated": {again: time.Hour}, "failed": {err: errors.New("no")}, "given up": {err: mariadb.Final{Err: errors.New("no")}}} {
		t.Run(name, func(t *testing.T) {
			db := mariadbtest.Orario(t)
			add(t, db, "k", 1)
			begun, stopped := make(chan bool, 1), make(chan bool, 1)
			stop := run(db, func(ctx context.Context, _ query.Job) (time.Duration, error) {
				begun <- true
				<-ctx.Done() // it is told that somebody else has the job
				stopped <- true
				return outcome.again, outcome.err
			})
			<-begun
			later := time.Now().UTC().Add(time.Hour).Truncate(time.Millisecond)
			_, err := db.SQL.Exec("UPDATE job SET token = 'another worker', taken_until = ?", later)
			require.NoError(t, err)
			select {
			case <-stopped:
			case <-time.After(5 * time.Second):
				t.Fatal("it was not stopped")
			}
			stop()
			list := jobs(t, db)
			require.Len(t, list, 1, "the job is another's to take out")
			assert.Equal(
				t,
				[]any{"another worker", later, ""},
				[]any{list[0].Token, list[0].TakenUntil.Time, list[0].Failure},
			)
		})
	}
}

func TestAJobThatIsAskedForWhileItRunsIsDoneOnceMore(t *testing.T) {
	for name, again := range map[string]time.Duration{"done for good": 0, "to be repeated in an hour": time.Hour} {
		t.Run(name, func(t *testing.T) {
			db := mariadbtest.Orario(t)
			add(t, db, "k", 1)
			var begun atomic.Int64
			first, asked := make(chan bool), make(chan bool)
			stop := run(db, func(context.Context, query.Job) (time.Duration, error) {
				if begun.Add(1) == 1 {
					close(first)
					<-asked
				}
				return again, nil
			})
			<-first
			add(t, db, "k", 1)
			add(t, db, "k", 1)
			close(asked)
			assert.Eventually(t, func() bool { return begun.Load() == 2 }, 5*time.Second, 10*time.Millisecond)
			time.Sleep(500 * time.Millisecond)
			stop()
			assert.Equal(t, int64(2), begun.Load(), "what was asked for while it ran is one more time, not two")
		})
	}
}

// However much else there is to do, what must not wait does not: one worker is kept for it.
func TestWhatComesFirstWaitsForNothingElse(t *testing.T) {
	db := mariadbtest.Orario(t)
	for n := range int64(20) {
		addFor(t, db, 1+n%4, "slow", n)
	}
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	carried, busy := make(chan bool, 1), make(chan bool, 20)
	r := mariadb.Runner{
		DB:  db,
		Now: time.Now,
		Handlers: map[string]mariadb.Handler{
			"slow": func(ctx context.Context, _ query.Job) (time.Duration, error) {
				busy <- true
				<-ctx.Done()
				return 0, ctx.Err()
			},
			"carry": func(context.Context, query.Job) (time.Duration, error) { carried <- true; return 0, nil },
		},
		Log:     slog.New(slog.DiscardHandler),
		Workers: 4,
		First:   "carry",
	}
	var done sync.WaitGroup
	done.Go(func() { r.Run(ctx) })
	for range 3 {
		<-busy // all the others have something to do
	}
	add(t, db, "carry", 1)
	select {
	case <-carried:
	case <-time.After(3 * time.Second):
		t.Error("it waited")
	}
	cancel()
	done.Wait()
}

// One student's many jobs do not hold up another's one.
func TestOneStudentTakesAtMostHalfOfTheWorkers(t *testing.T) {
	db := mariadbtest.Orario(t)
	for n := range int64(20) {
		addFor(t, db, 1, "k", n)
	}
	other, release := make(chan bool, 1), make(chan bool)
	var atOnce, most atomic.Int64
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	r := mariadb.Runner{DB: db, Now: time.Now, Log: slog.New(slog.DiscardHandler), Workers: 4, Handlers: map[string]mariadb.Handler{
		"k": func(_ context.Context, job query.Job) (time.Duration, error) {
			if job.StudentID == 2 {
				other <- true
				return 0, nil
			}
			most.Store(max(most.Load(), atOnce.Add(1)))
			<-release
			atOnce.Add(-1)
			return 0, nil
		},
	}}
	var done sync.WaitGroup
	done.Go(func() { r.Run(ctx) })
	assert.Eventually(t, func() bool { return atOnce.Load() == 2 }, 5*time.Second, 5*time.Millisecond)
	addFor(t, db, 2, "k", 100)
	select {
	case <-other:
	case <-time.After(3 * time.Second):
		t.Error("the other student waited")
	}
	close(release)
	assert.Eventually(t, func() bool { return len(jobs(t, db)) == 0 }, 5*time.Second, 10*time.Millisecond)
	cancel()
	done.Wait()
	assert.Equal(t, int64(2), most.Load())
}

// deadWith makes the jobs look as if the process that had taken them had died.
func deadWith(t *testing.T, db *mariadb.DB) {
	_, err := db.SQL.Exec("UPDATE job SET token = 'dead', taken_until = ?", time.Now().UTC().Add(-time.Second))
	require.NoError(t, err)
}

// A job that a process dies with three times is given up; one that only happened to run beside it is done.
func TestAJobThatKillsItsProcessIsGivenUp(t *testing.T) {
	for _, kind := range []string{"k", "rests"} {
		t.Run(kind, func(t *testing.T) {
			db := mariadbtest.Orario(t)
			add(t, db, kind, 1)
			var tried, given atomic.Int64
			ctx, cancel := context.WithCancel(context.Background())
			defer cancel()
			handler := func(ctx context.Context, _ query.Job) (time.Duration, error) {
				tried.Add(1)
				<-ctx.Done()
				return 0, ctx.Err()
			}
			r := mariadb.Runner{
				DB: db, Now: time.Now, Log: slog.New(slog.DiscardHandler), Workers: 2, Lease: 400 * time.Millisecond,
				Handlers: map[string]mariadb.Handler{"k": handler, "rests": handler},
				GiveUp: map[string]mariadb.Handler{"k": func(context.Context, query.Job) (time.Duration, error) {
					given.Add(1)
					return 0, nil
				}},
			}
			var done sync.WaitGroup
			done.Go(func() { r.Run(ctx) })
			for n := range int64(3) {
				require.Eventually(t, func() bool { return tried.Load() == n+1 }, 5*time.Second, 5*time.Millisecond)
				deadWith(t, db)
			}
			if kind == "k" {
				assert.Eventually(t, func() bool { return len(jobs(t, db)) == 0 }, 5*time.Second, 10*time.Millisecond)
				assert.Equal(t, int64(1), given.Load())
			} else {
				resting := func() bool { return jobs(t, db)[0].RunAt.After(time.Now().UTC().Add(50 * time.Minute)) }
				assert.Eventually(t, resting, 5*time.Second, 10*time.Millisecond)
				assert.Zero(t, jobs(t, db)[0].Deaths, "after its rest it is tried again")
			}
			assert.Equal(t, int64(3), tried.Load())
			cancel()
			done.Wait()
		})
	}
}

// Whatever died with it, what comes first is done again at once.
func TestWhatComesFirstIsNeverGivenUp(t *testing.T) {
	db := mariadbtest.Orario(t)
	add(t, db, "carry", 1)
	_, err := db.SQL.Exec("UPDATE job SET deaths = 9")
	require.NoError(t, err)
	deadWith(t, db)
	carried := make(chan int32, 1)
	ctx, cancel := context.WithCancel(context.Background())
	r := mariadb.Runner{
		DB: db, Now: time.Now, Log: slog.New(slog.DiscardHandler), Workers: 2, First: "carry",
		Handlers: map[string]mariadb.Handler{
			"carry": func(_ context.Context, job query.Job) (time.Duration, error) { carried <- job.Deaths; return 0, nil },
		},
	}
	var done sync.WaitGroup
	done.Go(func() { r.Run(ctx) })
	select {
	case deaths := <-carried:
		assert.Equal(t, int32(10), deaths)
	case <-time.After(5 * time.Second):
		t.Error("it rests")
	}
	cancel()
	done.Wait()
}

func TestOfThoseThatDiedTogetherOneIsTriedAtATime(t *testing.T) {
	db := mariadbtest.Orario(t)
	for n := range int64(6) {
		addFor(t, db, n, "k", n)
	}
	deadWith(t, db)
	var atOnce, most, all atomic.Int64
	stop := run(db, func(context.Context, query.Job) (time.Duration, error) {
		most.Store(max(most.Load(), atOnce.Add(1)))
		time.Sleep(30 * time.Millisecond)
		atOnce.Add(-1)
		all.Add(1)
		return 0, nil
	})
	defer stop()
	assert.Eventually(t, func() bool { return all.Load() == 6 }, 10*time.Second, 10*time.Millisecond)
	assert.Equal(t, int64(1), most.Load())
}

func TestAJobOfNoKnownKindIsGivenUp(t *testing.T) {
	db := mariadbtest.Orario(t)
	add(t, db, "unheard of", 1)
	stop := run(db, func(context.Context, query.Job) (time.Duration, error) { return 0, nil })
	defer stop()
	assert.Eventually(t, func() bool { return len(jobs(t, db)) == 0 }, 5*time.Second, 20*time.Millisecond)
}

func TestWhatHasHadItsTimeIsPurged(t *testing.T) {
	db := mariadbtest.Orario(t)
	ctx := context.Background()
	now := time.Now().UTC()
	days := func(n int) time.Time { return now.AddDate(0, 0, -n) }
	_, err := db.AddStudent(ctx, query.AddStudentParams{Email: "a@alvarim.example", Zone: "UTC"})
	require.NoError(t, err)
	for statement, kept := range map[string][2]time.Time{
		"INSERT INTO event (student_id, kind, text, at) VALUES (1, 'sync', '', ?)": {days(59), days(61)},
		"INSERT INTO guess (who, n, since) VALUES (UUID(), 1, ?)": {
			now.Add(-23 * time.Hour),
			now.Add(-25 * time.Hour),
		},
		"INSERT INTO session (digest, student_id, agent, begun_at, expires_at) SELECT UUID(), id, '', NOW(), ? FROM student": {
			now.Add(time.Minute),
			now.Add(-time.Minute),
		},
	} {
		for _, at := range kept {
			_, err := db.SQL.Exec(statement, at)
			require.NoError(t, err)
		}
	}
	// More than one step takes at once.
	_, err = db.SQL.Exec(
		"INSERT INTO event (student_id, kind, text, at) SELECT 1, 'sync', '', ? FROM seq_1_to_12000",
		days(100),
	)
	require.NoError(t, err)
	rows, err := db.Purge(ctx, now)
	require.NoError(t, err)
	assert.Equal(t, int64(12003), rows)
	for _, table := range []string{"event", "guess", "session"} {
		var n int
		require.NoError(t, db.SQL.QueryRow("SELECT COUNT(*) FROM "+table).Scan(&n))
		assert.Equal(t, 1, n, table)
	}
	rows, err = db.Purge(ctx, now)
	require.NoError(t, err)
	assert.Zero(t, rows, "a second time there is nothing to do")
}

func TestASnapshotSeesNothingOfWhatOthersCommit(t *testing.T) {
	db := mariadbtest.Orario(t)
	ctx := context.Background()
	add(t, db, "k", 1)
	require.NoError(t, db.Snapshot(ctx, func(q *query.Queries) error {
		before, err := q.JobsOf(ctx, 1)
		require.NoError(t, err)
		add(t, db, "k", 2)
		after, err := q.JobsOf(ctx, 1)
		require.NoError(t, err)
		assert.Equal(t, before, after)
		assert.Error(
			t,
			q.AddJob(ctx, query.AddJobParams{Kind: "k", Subject: 3, StudentID: 1, RunAt: time.Now()}),
			"it only reads",
		)
		return nil
	}))
	assert.Len(t, jobs(t, db), 2)
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

// A queue of 20,000 jobs of 200 students, half of whom have one under way.
func BenchmarkWhatIsDueOf20000(b *testing.B) {
	db := mariadbtest.Orario(b)
	ctx := context.Background()
	for student := range 200 {
		rows := make([]string, 100)
		for n := range rows {
			rows[n] = fmt.Sprintf("('return', %d, %d, '2026-01-01 00:00:00', NULL, '')", student*100+n, student+1)
		}
		if student%2 == 0 {
			rows[0] = fmt.Sprintf("('return', %d, %d, '2026-01-01 00:00:00', '2026-01-02 00:00:00', 'here')", student*100, student+1)
		}
		_, err := db.SQL.ExecContext(ctx, "INSERT INTO job (kind, subject, student_id, run_at, taken_until, token) VALUES "+
			strings.Join(rows, ","))
		require.NoError(b, err)
	}
	now := time.Date(2026, 1, 1, 12, 0, 0, 0, time.UTC)
	lease := sql.NullTime{Time: now, Valid: true}
	b.Run("others", func(b *testing.B) {
		for b.Loop() {
			due, err := db.JobsDue(ctx, query.JobsDueParams{Now: now, Lease: lease, First: "carry"})
			require.NoError(b, err)
			require.Len(b, due, 20)
		}
	})
	b.Run("of the busy", func(b *testing.B) {
		for b.Loop() {
			due, err := db.JobsDueOfBusy(ctx, query.JobsDueOfBusyParams{Now: now, Lease: lease, First: "carry"})
			require.NoError(b, err)
			require.Len(b, due, 20)
			require.EqualValues(b, 1, due[0].Busy)
		}
	})
}
