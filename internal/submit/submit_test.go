package submit_test

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/receipt"
	"orario/internal/campus"
	"orario/internal/courier"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/submit"
	"orario/internal/worldtest"
)

const name = "Quintal_HYD214_chart-datum.txt"

var essay = []byte(strings.Repeat("A chart datum is a promise about the lowest water. ", 40))

func TestASubmissionIsProvedAndEntered(t *testing.T) {
	w := worldtest.New(t)
	id := w.Publish(worldtest.Essay())
	w.Add(id, name, essay)
	sub := w.Send(id)
	assert.Equal(t, query.SubmissionStateAccepted, sub.State)
	entries, err := w.Submit.Ledger(context.Background(), w.Student)
	require.NoError(t, err)
	require.Len(t, entries, 1)
	assert.True(t, entries[0].Proof.Agrees, "%+v", entries[0].Proof)
	assert.Equal(t, sub.Number, entries[0].Receipt.Number)
	assert.Equal(t, 1, w.Received())
	var mails int
	require.NoError(
		t,
		w.CampusDB.SQL.QueryRow("SELECT COUNT(*) FROM mail WHERE body LIKE ?", "%"+sub.Number+"%").Scan(&mails),
	)
	assert.Equal(t, 1, mails)
}

// Each fault strikes while a submission is carried, and is then mended: nothing is lost or doubled.
func TestFaultsLoseAndDoubleNothing(t *testing.T) {
	large := append(bytes.Repeat([]byte("tide and ebb\n"), 200_000), "end"...) // 2.6 MB, more than one piece
	for what, f := range map[string]campus.Faults{
		"refusing": {Refuse: true}, "cutting": {Cut: true}, "losing the answer": {Lose: true}, "slow": {Slow: true},
	} {
		t.Run(what, func(t *testing.T) {
			w := worldtest.New(t)
			ctx := context.Background()
			id := w.Publish(worldtest.Essay())
			w.Add(id, name, large)
			sub, err := w.Submit.Start(
				ctx,
				w.Student,
				submit.Order{Assignment: id, Declared: true, Comment: "by the storm"},
			)
			require.NoError(t, err)
			require.NoError(t, w.Campus.SetFaults(ctx, f))
			job := query.Job{Subject: sub, StudentID: w.Student}
			_, err = w.Submit.Carry(ctx, job)
			if f.Slow {
				require.NoError(t, err)
			} else {
				require.Error(t, err)
				assert.Equal(t, query.SubmissionStateSending, w.Submission(sub).State)
				assert.NotEmpty(t, w.Submission(sub).Reason)
			}
			if f.Cut {
				var at int64
				require.NoError(t, w.CampusDB.SQL.QueryRow("SELECT MAX(at) FROM upload").Scan(&at))
				assert.Greater(t, at, int64(1_000_000), "half of it stays and is not sent again")
			}
			if f.Lose {
				assert.Equal(t, 1, w.Received(), "the site has it, Orario does not know yet")
			}
			require.NoError(t, w.Campus.SetFaults(ctx, campus.Faults{}))
			for range 2 { // once more than needed, as after a crash
				_, err = w.Submit.Carry(ctx, job)
				require.NoError(t, err)
			}
			assert.Equal(t, query.SubmissionStateAccepted, w.Submission(sub).State)
			assert.Equal(t, 1, w.Received())
			entries, err := w.Submit.Ledger(ctx, w.Student)
			require.NoError(t, err)
			require.Len(t, entries, 1)
			assert.True(t, entries[0].Proof.Agrees, "%+v", entries[0].Proof)
		})
	}
}

func TestWhatMayNotBeSent(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := w.Publish(worldtest.Essay())
	var complaint refusal.Complaint
	_, err := w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true})
	require.ErrorAs(t, err, &complaint)
	assert.Contains(t, complaint.Message, "Nothing is in the slot")
	w.Add(id, "final2.txt", essay)
	_, err = w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true})
	require.ErrorAs(t, err, &complaint)
	assert.Contains(t, complaint.Message, "lacks your family name")
	state, err := w.Prepare.State(ctx, w.Student, id, 0)
	require.NoError(t, err)
	require.NoError(t, w.Prepare.Fix(ctx, w.Student, state.Items[0].ID, "rename"))
	_, err = w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id})
	require.ErrorAs(t, err, &complaint)
	assert.Contains(t, complaint.Message, "declaration")
	other, _ := w.AddStudent("20419", "rui@alvarim.example")
	_, err = w.Submit.Start(ctx, other, submit.Order{Assignment: id, Declared: true})
	assert.ErrorIs(t, err, refusal.ErrNotFound)
}

func TestPressingTwiceSendsOnce(t *testing.T) {
	w := worldtest.New(t)
	id := w.Publish(worldtest.Essay())
	w.Add(id, name, essay)
	var started atomic.Int64
	var presses sync.WaitGroup
	for range 8 {
		presses.Go(func() {
			if _, err := w.Submit.Start(
				context.Background(),
				w.Student,
				submit.Order{Assignment: id, Declared: true},
			); err == nil {
				started.Add(1)
			}
		})
	}
	presses.Wait()
	assert.Equal(t, int64(1), started.Load())
}

func TestCancelledBeforeItLeft(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := w.Publish(worldtest.Essay())
	w.Add(id, name, essay)
	sub, err := w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true})
	require.NoError(t, err)
	require.NoError(t, w.Submit.Cancel(ctx, w.Student, sub))
	_, err = w.Submit.Carry(ctx, query.Job{Subject: sub, StudentID: w.Student})
	require.NoError(t, err)
	assert.Equal(t, 0, w.Received())
	again := w.Send(id)
	assert.Equal(t, int32(1), again.Attempt, "the attempt is not used up")
	assert.Error(t, w.Submit.Cancel(ctx, w.Student, again.ID), "what has arrived cannot be cancelled")
}

func TestCancellingTwiceTouchesNothingElse(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := w.Publish(worldtest.Essay())
	w.Add(id, name, essay)
	first, err := w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true})
	require.NoError(t, err)
	require.NoError(t, w.Submit.Cancel(ctx, w.Student, first))
	second, err := w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true})
	require.NoError(t, err)
	require.NoError(t, w.Submit.Cancel(ctx, w.Student, first), "it is cancelled already")
	_, err = w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true})
	require.Error(t, err, "the second is still under way")
	_, err = w.Submit.Carry(ctx, query.Job{Subject: second, StudentID: w.Student})
	require.NoError(t, err)
	assert.Equal(t, query.SubmissionStateAccepted, w.Submission(second).State)
	assert.Equal(t, query.SubmissionStateCancelled, w.Submission(first).State)
	other, _ := w.AddStudent("20419", "rui@alvarim.example")
	assert.ErrorIs(t, w.Submit.Cancel(ctx, other, first), refusal.ErrNotFound)
}

// Of cancelling and carrying at once exactly one wins, and both agree which.
func TestCancellingWhileItLeaves(t *testing.T) {
	for range 6 {
		w := worldtest.New(t)
		ctx := context.Background()
		id := w.Publish(worldtest.Essay())
		w.Add(id, name, essay)
		sub, err := w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true})
		require.NoError(t, err)
		var cancelled error
		var both sync.WaitGroup
		both.Go(func() { cancelled = w.Submit.Cancel(ctx, w.Student, sub) })
		both.Go(func() {
			_, err := w.Submit.Carry(ctx, query.Job{Subject: sub, StudentID: w.Student})
			_ = err // it may have been cancelled on its way
		})
		both.Wait()
		if cancelled == nil {
			assert.Equal(t, query.SubmissionStateCancelled, w.Submission(sub).State)
			assert.Zero(t, w.Received())
		} else {
			assert.Equal(t, query.SubmissionStateAccepted, w.Submission(sub).State)
			assert.Equal(t, 1, w.Received())
		}
	}
}

// Forty students at once: nobody waits for the others so long that the line breaks, and each has a receipt of her own.
func TestFortyAtOnceDoNotStarveEachOther(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	const many = 40
	for n := range many {
		a := worldtest.Essay()
		a.Key, a.Title = fmt.Sprintf("essay-%d", n), fmt.Sprintf("Essay %d", n)
		require.NoError(t, w.Campus.PublishAssignment(ctx, a))
	}
	w.Sync()
	list, err := w.DB.Assignments(ctx, query.AssignmentsParams{StudentID: w.Student})
	require.NoError(t, err)
	require.Len(t, list, many)
	ids := make([]int64, many)
	for i, a := range list {
		w.Add(a.ID, fmt.Sprintf("Quintal_HYD214_%s.txt", strings.ReplaceAll(strings.ToLower(a.Title), " ", "-")), essay)
		ids[i], err = w.Submit.Start(ctx, w.Student, submit.Order{Assignment: a.ID, Declared: true})
		require.NoError(t, err)
	}
	var all sync.WaitGroup
	for _, id := range ids {
		all.Go(func() {
			_, err := w.Submit.Carry(ctx, query.Job{Subject: id, StudentID: w.Student})
			assert.NoError(t, err, "at the first try")
		})
	}
	all.Wait()
	assert.Equal(t, many, w.Received())
	entries, err := w.Submit.Ledger(ctx, w.Student)
	require.NoError(t, err)
	numbers := map[string]bool{}
	for _, e := range entries {
		assert.True(t, e.Proof.Agrees, "%+v", e.Proof)
		numbers[e.Receipt.Number] = true
	}
	assert.Len(t, numbers, many)
}

func TestARefusalIsFinalAndSaysWhy(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := w.Publish(worldtest.Essay())
	w.Add(id, name, essay)
	sub, err := w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true})
	require.NoError(t, err)
	require.NoError(t, w.Campus.MoveClock(ctx, 30*24*time.Hour)) // it closes before it arrives
	_, err = w.Submit.Carry(ctx, query.Job{Subject: sub, StudentID: w.Student})
	require.NoError(t, err)
	refused := w.Submission(sub)
	assert.Equal(t, query.SubmissionStateRefused, refused.State)
	assert.Contains(t, refused.Reason, "closed")
	entries, err := w.Submit.Ledger(ctx, w.Student)
	require.NoError(t, err)
	assert.Empty(t, entries)
}

func TestAReceiptThatLiesIsFound(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := w.Publish(worldtest.Essay())
	w.Add(id, name, essay)
	// The site's key is not the one that Orario knows: the signature must not count.
	_, err := w.DB.SQL.Exec("UPDATE site_key SET public_key = ?", receipt.FormatKey(make([]byte, 32)))
	require.NoError(t, err)
	w.Send(id)
	entries, err := w.Submit.Ledger(ctx, w.Student)
	require.NoError(t, err)
	assert.False(t, entries[0].Proof.Agrees)
	var told string
	require.NoError(t, w.DB.SQL.QueryRow("SELECT text FROM event WHERE kind = 'receipt' ORDER BY id DESC LIMIT 1").Scan(&told))
	assert.True(t, strings.HasPrefix(told, "The receipt of Chart datum does not agree with what was sent"), told)
	desk, err := w.Desk.Desk(ctx, w.Student, id, 0)
	require.NoError(t, err)
	assert.Equal(t, "proof", desk.Line.Strip[4].Place)
	assert.Equal(t, "begun", string(desk.Line.Strip[4].State), "the place is not punched")

	// It is asked for again, until it proves something: here the key becomes known.
	jobs, err := w.DB.JobsOf(ctx, w.Student)
	require.NoError(t, err)
	i := slices.IndexFunc(jobs, func(j query.Job) bool { return j.Kind == submit.ProveJob })
	require.GreaterOrEqual(t, i, 0)
	var again time.Duration
	begun := time.Now()
	for _, c := range []struct{ after, again time.Duration }{
		{0, 2 * time.Minute}, {time.Hour, time.Hour}, {72 * time.Hour, 6 * time.Hour},
	} {
		w.Clock(func() time.Time { return begun.Add(c.after) })
		again, err = w.Submit.Prove(ctx, jobs[i])
		require.NoError(t, err)
		assert.InDelta(t, c.again, again, float64(30*time.Second), "soon at first, then ever more rarely")
	}
	w.Clock(time.Now)
	said, err := courier.Connect(w.URL, w.Token)
	require.NoError(t, err)
	site, err := said.Describe(ctx)
	require.NoError(t, err)
	_, err = w.DB.SQL.Exec("UPDATE site_key SET public_key = ?", site.PublicKey)
	require.NoError(t, err)
	again, err = w.Submit.Prove(ctx, jobs[i])
	require.NoError(t, err)
	assert.Zero(t, again)
	entries, err = w.Submit.Ledger(ctx, w.Student)
	require.NoError(t, err)
	require.Len(t, entries, 1)
	assert.True(t, entries[0].Proof.Agrees)
}

// BenchmarkAccepted measures submissions accepted durably per second, from 32 clients at once.
func BenchmarkAccepted(b *testing.B) {
	w := worldtest.New(b)
	ctx := context.Background()
	var ids []int64
	const clients = 32
	for n := range b.N {
		a := worldtest.Essay()
		a.Key, a.Title = fmt.Sprintf("essay-%d", n), fmt.Sprintf("Essay %d", n)
		a.Sheet.Report = nil
		require.NoError(b, w.Campus.PublishAssignment(ctx, a))
	}
	w.Sync()
	list, err := w.DB.Assignments(ctx, query.AssignmentsParams{StudentID: w.Student})
	require.NoError(b, err)
	for _, a := range list {
		w.Add(a.ID, fmt.Sprintf("Quintal_HYD214_%s.txt", strings.ReplaceAll(strings.ToLower(a.Title), " ", "-")), essay)
		id, err := w.Submit.Start(ctx, w.Student, submit.Order{Assignment: a.ID, Declared: true})
		require.NoError(b, err)
		ids = append(ids, id)
	}
	b.ResetTimer()
	var next atomic.Int64
	var at sync.WaitGroup
	for range clients {
		at.Go(func() {
			for {
				n := int(next.Add(1)) - 1
				if n >= len(ids) {
					return
				}
				if _, err := w.Submit.Carry(ctx, query.Job{Subject: ids[n], StudentID: w.Student}); err != nil {
					b.Error(err)
				}
			}
		})
	}
	at.Wait()
	b.ReportMetric(float64(b.N)/b.Elapsed().Seconds(), "submissions/s")
	require.Equal(b, b.N, w.Received())
}

// What was looked at is what is sent: another tab's change in between is told.
func TestWhatIsSentIsWhatWasSeen(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	a := worldtest.Essay()
	a.Sheet.Name, a.Sheet.Slots[0].Most = "", 5
	id := w.Publish(a)
	seen := func() string {
		s, err := w.Prepare.State(ctx, w.Student, id, 0)
		require.NoError(t, err)
		return s.Mark()
	}
	marks := map[string]bool{seen(): true}
	item := w.Add(id, "Quintal_one.txt", essay)
	first := seen()
	for what, change := range map[string]func() error{
		"added":   func() error { w.Add(id, "Quintal_two.txt", []byte("Another essay.")); return nil },
		"renamed": func() error { return w.Prepare.Change(ctx, w.Student, item, "Quintal_three.txt", "") },
	} {
		require.NoError(t, change())
		_, err := w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true, Seen: first})
		require.ErrorContains(t, err, "has changed since you looked", what)
		require.NotContains(t, marks, seen(), what)
		marks[seen()] = true
	}
	_, err := w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true, Seen: seen()})
	require.NoError(t, err)
	_, err = w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true, Seen: first})
	require.ErrorContains(t, err, "being sent already", "the second press of a hurried hand")
}

// Whatever is open or unproved has a job that settles it, also where the job was lost.
func TestLostJobsAreMadeAnew(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	kinds := func() (list []string) {
		jobs, err := w.DB.JobsOf(ctx, w.Student)
		require.NoError(t, err)
		for _, j := range jobs {
			if j.Kind != "sync" && j.Kind != "remind" {
				list = append(list, j.Kind)
			}
		}
		slices.Sort(list)
		return list
	}
	lose := func() {
		_, err := w.DB.SQL.Exec("DELETE FROM job")
		require.NoError(t, err)
		_, err = w.Submit.Reconcile(ctx, query.Job{})
		require.NoError(t, err)
	}
	lose()
	assert.Empty(t, kinds(), "where nothing is open, nothing is to do")
	id := w.Publish(worldtest.Essay())
	w.Add(id, "Quintal_HYD214_chart-datum.txt", essay)
	sub, err := w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true})
	require.NoError(t, err)
	lose()
	assert.Equal(t, []string{"carry"}, kinds())
	_, err = w.Submit.Carry(ctx, query.Job{Subject: sub, StudentID: w.Student})
	require.NoError(t, err)
	require.NoError(t, w.DB.PutReport(ctx, query.PutReportParams{SubmissionID: sub, StudentID: w.Student, State: "waiting"}))
	_, err = w.DB.SQL.Exec("UPDATE ledger SET agrees = FALSE")
	require.NoError(t, err)
	lose()
	assert.Equal(t, []string{"prove", "report", "return"}, kinds())
	_, err = w.Submit.Reconcile(ctx, query.Job{})
	require.NoError(t, err)
	assert.Len(t, kinds(), 3, "never twice")
	_, err = w.DB.SQL.Exec("UPDATE submission SET started_at = started_at - INTERVAL 61 DAY")
	require.NoError(t, err)
	lose()
	assert.Empty(t, kinds(), "after sixty days nothing is asked for any more")
}

// BenchmarkPress measures one press of Submit for a student with some forty assignments, of which something has just
// changed: what it costs Orario and MariaDB in processor time.
func BenchmarkPress(b *testing.B) {
	w := worldtest.Planned(b)
	w.Many(8, 5)
	w.Clock(time.Now)
	w.Submit.Store = w.DB // each transaction once
	ctx := context.Background()
	var ids []int64
	for n := range b.N {
		a := worldtest.Essay()
		a.Key, a.Title = fmt.Sprint("e", n), fmt.Sprint("Essay ", n)
		ids = append(ids, w.Publish(a))
		w.Add(ids[n], fmt.Sprintf("Quintal_HYD214_essay-%d.txt", n), []byte(fmt.Sprintf("Essay %d. %s", n, essay)))
	}
	own, db := spent(b, "self"), spent(b, mariadbPid(b, w))
	b.ResetTimer()
	for _, id := range ids {
		_, err := w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true})
		require.NoError(b, err)
	}
	b.StopTimer()
	b.ReportMetric(float64((spent(b, "self")-own).Microseconds())/float64(b.N), "own-µs/op")
	b.ReportMetric(float64((spent(b, mariadbPid(b, w))-db).Microseconds())/float64(b.N), "db-µs/op")
}

func mariadbPid(b *testing.B, w *worldtest.World) string {
	var file string
	require.NoError(b, w.DB.SQL.QueryRow("SELECT @@pid_file").Scan(&file))
	text, err := os.ReadFile(file)
	require.NoError(b, err)
	return strings.TrimSpace(string(text))
}

// spent is the processor time of a process, to a hundredth of a second (proc(5)).
func spent(b *testing.B, pid string) time.Duration {
	text, err := os.ReadFile("/proc/" + pid + "/stat")
	require.NoError(b, err)
	fields := strings.Fields(string(text)[strings.LastIndexByte(string(text), ')')+1:])
	var user, system int64
	_, err = fmt.Sscan(fields[11]+" "+fields[12], &user, &system)
	require.NoError(b, err)
	return time.Duration(user+system) * 10 * time.Millisecond
}
