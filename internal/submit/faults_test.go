package submit_test

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/internal/courier"
	"orario/internal/mariadb/query"
	"orario/internal/submit"
	"orario/internal/worldtest"
)

// A fault is what stands in the place of an answer. The request reaches the campus or not.
type fault struct {
	code    int
	body    string
	reaches bool
}

var faultsOnTheWay = map[string]fault{
	"a filter's 403":            {http.StatusForbidden, "<html>Blocked</html>", false},
	"403 after it was done":     {http.StatusForbidden, "<html>Blocked</html>", true},
	"401":                       {http.StatusUnauthorized, `{"code":"token","reason":"no"}`, false},
	"404":                       {http.StatusNotFound, "not here", false},
	"500 after it was done":     {http.StatusInternalServerError, "oops", true},
	"a page with 200":           {http.StatusOK, "<html>Sign in to the network</html>", false},
	"a page, after it was done": {http.StatusOK, "<html>Sign in to the network</html>", true},
	"{} with 200":               {http.StatusOK, "{}", false},
	"{}, after it was done":     {http.StatusOK, "{}", true},
	"a 422 of nobody":           {http.StatusUnprocessableEntity, "{}", false},
}

// between puts a proxy before the campus that has a fault at the n-th request and then none.
func between(t *testing.T, w *worldtest.World, n int, f fault) *atomic.Int64 {
	target, err := url.Parse(w.URL)
	require.NoError(t, err)
	pass := httputil.NewSingleHostReverseProxy(target)
	var seen atomic.Int64
	server := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		if int(seen.Add(1)) != n {
			pass.ServeHTTP(rw, r)
			return
		}
		if f.reaches {
			pass.ServeHTTP(httptest.NewRecorder(), r)
		} else {
			_, _ = io.Copy(io.Discard, r.Body)
		}
		rw.Header().Set("Content-Type", "application/json")
		rw.WriteHeader(f.code)
		_, _ = io.WriteString(rw, f.body)
	}))
	t.Cleanup(server.Close)
	w.Submit.Connect = func(query.Site) (submit.Site, error) { return courier.Connect(server.URL, w.Token) }
	return &seen
}

// Whatever stands in the way at whichever step, in the end the submission is at the site once, proved, and nothing was
// ever called refused.
func TestNothingOnTheWaySettlesASubmission(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	sent := 0
	for name, f := range faultsOnTheWay {
		for step := 1; step <= 8; step++ {
			t.Run(fmt.Sprintf("%s at step %d", name, step), func(t *testing.T) {
				a := worldtest.Essay()
				a.Sheet.Report = nil
				sent++
				a.Key, a.Title = fmt.Sprint("e", sent), fmt.Sprint("Essay ", sent)
				id := w.Publish(a)
				w.Add(
					id,
					fmt.Sprintf("Quintal_HYD214_essay-%d.txt", sent),
					[]byte(fmt.Sprintf("Essay %d. %s", sent, essay)),
				)
				sub, err := w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true})
				require.NoError(t, err)
				between(t, w, step, f)
				for range 4 {
					_, err = w.Submit.Carry(ctx, query.Job{Subject: sub, StudentID: w.Student})
					require.NotEqual(t, query.SubmissionStateRefused, w.Submission(sub).State, w.Submission(sub).Reason)
				}
				require.NoError(t, err)
				assert.Equal(t, query.SubmissionStateAccepted, w.Submission(sub).State)
				assert.NotEmpty(t, w.Submission(sub).Number)
				assert.Equal(t, sent, w.Received())
				l, err := w.DB.LedgerOf(ctx, query.LedgerOfParams{SubmissionID: sub, StudentID: w.Student})
				require.NoError(t, err)
				assert.True(t, l.Agrees, "%s", l.Proof)
			})
		}
	}
}

const unknown = `{"code":"unknown","reason":"There is no such draft."}`

// A site that forgets a draft, or says so, in the protocol's own form: from there on it ends nothing.
func TestASiteThatForgetsItsDraftSettlesNothing(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	sent := 0
	for _, reaches := range []bool{false, true} {
		for step := 3; step <= 8; step++ { // at the first it is asked for a receipt, at the second for a draft
			sent++
			sub := begun(t, w, sent)
			between(t, w, step, fault{http.StatusNotFound, unknown, reaches})
			var err error
			for range 4 {
				_, err = w.Submit.Carry(ctx, query.Job{Subject: sub, StudentID: w.Student})
				require.NotEqual(t, query.SubmissionStateRefused, w.Submission(sub).State, "step %d", step)
			}
			require.NoError(t, err)
			assert.Equal(t, query.SubmissionStateAccepted, w.Submission(sub).State, "step %d", step)
			assert.Equal(t, sent, w.Received())
		}
	}
	sent++
	sub := begun(t, w, sent)
	between(t, w, 2, fault{http.StatusNotFound, unknown, false})
	_, err := w.Submit.Carry(ctx, query.Job{Subject: sub, StudentID: w.Student})
	require.NoError(t, err)
	assert.Equal(t, query.SubmissionStateRefused, w.Submission(sub).State, "before there was a draft it is a refusal")
}

// begun begins to send the n-th essay.
func begun(t *testing.T, w *worldtest.World, n int) int64 {
	a := worldtest.Essay()
	a.Sheet.Report = nil
	a.Key, a.Title = fmt.Sprint("e", n), fmt.Sprint("Essay ", n)
	id := w.Publish(a)
	w.Add(id, fmt.Sprintf("Quintal_HYD214_essay-%d.txt", n), []byte(fmt.Sprintf("Essay %d. %s", n, essay)))
	sub, err := w.Submit.Start(context.Background(), w.Student, submit.Order{Assignment: id, Declared: true})
	require.NoError(t, err)
	return sub
}

// A site that takes the work, refuses it in the same breath and knows no receipt for a while: what is told as refused is
// looked for again, and accepted once the site admits to it.
func TestWhatWasRefusedAndIsThereAllTheSame(t *testing.T) {
	ctx := context.Background()
	for name, anew := range map[string]bool{"nothing was sent since": false, "it was sent anew since": true} {
		t.Run(name, func(t *testing.T) {
			w := worldtest.New(t)
			honest := w.Submit.Connect
			sub := begun(t, w, 1)
			liar := &denies{}
			w.Submit.Connect = func(s query.Site) (submit.Site, error) {
				site, err := honest(s)
				liar.Site = site
				return liar, err
			}
			_, err := w.Submit.Carry(ctx, query.Job{Subject: sub, StudentID: w.Student})
			require.NoError(t, err)
			require.Equal(t, query.SubmissionStateRefused, w.Submission(sub).State)
			require.Equal(t, 1, w.Received())
			jobs, err := w.DB.JobsOf(ctx, w.Student)
			require.NoError(t, err)
			looks := func(j query.Job) bool { return j.Kind == submit.RefusedJob && j.Subject == sub }
			require.True(t, slices.ContainsFunc(jobs, looks), "somebody looks for it again")
			job := query.Job{Subject: sub, StudentID: w.Student}
			again, err := w.Submit.LookAgain(ctx, job)
			require.NoError(t, err)
			assert.Positive(t, again, "and again, while it is denied")
			if anew {
				assignment := w.Submission(sub).AssignmentID
				_, err = w.Submit.Start(ctx, w.Student, submit.Order{Assignment: assignment, Declared: true})
				require.NoError(t, err)
			}
			w.Submit.Connect = honest
			again, err = w.Submit.LookAgain(ctx, job)
			require.NoError(t, err)
			assert.Zero(t, again)
			if anew {
				assert.Equal(t, query.SubmissionStateRefused, w.Submission(sub).State)
				var told string
				require.NoError(t, w.DB.SQL.QueryRow("SELECT text FROM event ORDER BY id DESC LIMIT 1").Scan(&told))
				assert.Contains(t, told, "all the same")
				return
			}
			assert.Equal(t, query.SubmissionStateAccepted, w.Submission(sub).State)
			l, err := w.DB.LedgerOf(ctx, query.LedgerOfParams{SubmissionID: sub, StudentID: w.Student})
			require.NoError(t, err)
			assert.True(t, l.Agrees, "%s", l.Proof)
			again, err = w.Submit.LookAgain(ctx, job)
			require.NoError(t, err)
			assert.Zero(t, again, "twice is as once")
		})
	}
}

// denies is a site that submits, says that it is closed, and knows of nothing.
type denies struct{ submit.Site }

func (d *denies) Submit(ctx context.Context, draft int64, key string, declared bool, comment string) (courier.Receipt, error) {
	if _, err := d.Site.Submit(ctx, draft, key, declared, comment); err != nil {
		return courier.Receipt{}, err
	}
	return courier.Receipt{}, courier.Refused{Code: "closed", Reason: "It is closed."}
}

func (d *denies) Receipt(context.Context, string) (courier.Receipt, error) {
	return courier.Receipt{}, courier.ErrUnknown
}

// What is added or taken out while it is submitted is either sent or told not to be, and never lost on the way.
func TestABundleThatChangesWhileItIsSubmitted(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	for n := range 8 {
		a := worldtest.Essay()
		a.Key, a.Title = fmt.Sprint("e", n), fmt.Sprint("Essay ", n)
		a.Sheet.Slots[0].Most = 5
		a.Sheet.Name = ""
		id := w.Publish(a)
		w.Add(id, "Quintal_one.txt", essay)
		upload := w.Upload("Quintal_two.txt", []byte(strings.ToUpper(string(essay))))
		var added, started error
		var sub int64
		var both sync.WaitGroup
		both.Go(func() { _, added = w.Prepare.AddUpload(ctx, w.Student, id, 0, upload, "essay") })
		both.Go(func() { sub, started = w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true}) })
		both.Wait()
		if started != nil {
			assert.ErrorContains(t, started, "has changed since")
			require.NoError(t, added)
			continue
		}
		files, err := w.DB.FilesOfSubmission(ctx, sub)
		require.NoError(t, err)
		if added == nil {
			assert.Len(t, files, 2, "it was taken, so it is sent")
		} else {
			assert.Len(t, files, 1)
		}
	}
}

// Between the last sync and the receipt the site's clock is moved, or ours is: the proof asks the site what time it has.
func TestAMovedClockIsNoDisagreement(t *testing.T) {
	for name, move := range map[string]func(*worldtest.World){
		"the site's ahead":  func(w *worldtest.World) { require.NoError(t, w.Campus.MoveClock(context.Background(), 8*time.Minute)) },
		"the site's behind": func(w *worldtest.World) { require.NoError(t, w.Campus.MoveClock(context.Background(), -8*time.Minute)) },
		"ours ahead":        func(w *worldtest.World) { w.At(time.Now().Add(9 * time.Minute)) },
		"ours behind":       func(w *worldtest.World) { w.At(time.Now().Add(-9 * time.Minute)) },
	} {
		t.Run(name, func(t *testing.T) {
			w := worldtest.New(t)
			id := w.Publish(worldtest.Essay())
			w.Add(id, "Quintal_HYD214_chart-datum.txt", []byte("An essay."))
			move(w)
			w.Send(id)
			entries, err := w.Submit.Ledger(context.Background(), w.Student)
			require.NoError(t, err)
			require.Len(t, entries, 1)
			assert.True(t, entries[0].Proof.Agrees, "%+v", entries[0].Proof.Parts)
		})
	}
}

// slipping is a site whose clock is moved again between the receipt being given and being read.
type slipping struct {
	submit.Site
	move func()
}

func (s slipping) Submit(
	ctx context.Context, draft int64, key string, declared bool, comment string,
) (courier.Receipt, error) {
	r, err := s.Site.Submit(ctx, draft, key, declared, comment)
	s.move()
	return r, err
}

// The site's clock is wrong only while it receives the work, or ours while we send it: what the site had said its time
// was just before is held on to.
func TestAClockThatIsSetRightAfterTheReceipt(t *testing.T) {
	ctx := context.Background()
	for name, c := range map[string]struct{ site, ours time.Duration }{
		"the site's was ahead":              {site: 9 * time.Minute},
		"the site's was behind":             {site: -9 * time.Minute},
		"the site's was behind, ours ahead": {site: -9 * time.Minute, ours: 9 * time.Minute},
		"ours was ahead":                    {ours: 9 * time.Minute},
	} {
		t.Run(name, func(t *testing.T) {
			w := worldtest.New(t)
			id := w.Publish(worldtest.Essay())
			w.Add(id, "Quintal_HYD214_chart-datum.txt", []byte("An essay."))
			require.NoError(t, w.Campus.MoveClock(ctx, c.site))
			w.Clock(func() time.Time { return time.Now().Add(c.ours) })
			connect := w.Submit.Connect
			w.Submit.Connect = func(s query.Site) (submit.Site, error) {
				site, err := connect(s)
				return slipping{site, func() {
					require.NoError(t, w.Campus.MoveClock(ctx, 0))
					c.ours = 0
				}}, err
			}
			w.Send(id)
			entries, err := w.Submit.Ledger(ctx, w.Student)
			require.NoError(t, err)
			require.Len(t, entries, 1)
			assert.True(t, entries[0].Proof.Agrees, "%+v", entries[0].Proof.Parts)
		})
	}
}
