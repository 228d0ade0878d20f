package intake_test

import (
	"bytes"
	"context"
	"crypto/ed25519"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/brief"
	"orario/core/receipt"
	"orario/core/timing"
	api "orario/internal/campus/campusapi"
	"orario/internal/courier"
	"orario/internal/intake"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/worldtest"
)

// liar stands between Orario and a real campus and changes what it says.
type liar struct {
	intake.Site
	describe    func(courier.Description) (courier.Description, error)
	courses     func([]courier.Course) ([]courier.Course, error)
	assignments func([]courier.Assignment) ([]courier.Assignment, error)
	handout     func(io.ReadCloser) (io.ReadCloser, error)
	asked       int // how often for assignments
}

func (l *liar) Describe(ctx context.Context) (courier.Description, error) {
	d, err := l.Site.Describe(ctx)
	if l.describe != nil && err == nil {
		return l.describe(d)
	}
	return d, err
}

func (l *liar) Courses(ctx context.Context) ([]courier.Course, error) {
	list, err := l.Site.Courses(ctx)
	if l.courses != nil && err == nil {
		return l.courses(list)
	}
	return list, err
}

func (l *liar) Assignments(ctx context.Context) ([]courier.Assignment, error) {
	l.asked++
	list, err := l.Site.Assignments(ctx)
	if l.assignments != nil && err == nil {
		return l.assignments(list)
	}
	return list, err
}

func (l *liar) Handout(ctx context.Context, digest string, bytes int64) (io.ReadCloser, error) {
	r, err := l.Site.Handout(ctx, digest, bytes)
	if l.handout != nil && err == nil {
		return l.handout(r)
	}
	return r, err
}

// between puts a liar between a world and its campus.
func between(t *testing.T, w *worldtest.World) *liar {
	l := &liar{}
	w.Intake.Connect = func(s query.Site) (intake.Site, error) {
		site, err := courier.Connect(s.BaseUrl, w.Token)
		require.NoError(t, err)
		l.Site = site
		return l, nil
	}
	return l
}

func sync(w *worldtest.World) error {
	_, err := w.Intake.Sync(context.Background(), query.Job{Subject: w.Site, StudentID: w.Student})
	return err
}

func notice(t *testing.T, w *worldtest.World) string {
	s, err := w.DB.Site(context.Background(), w.Site)
	require.NoError(t, err)
	return s.Notice
}

// publish has the campus publish three essays.
func publish(t *testing.T, w *worldtest.World) {
	for _, key := range []string{"one", "two", "three"} {
		a := worldtest.Essay()
		a.Key, a.Title = key, "Essay "+key
		require.NoError(t, w.Campus.PublishAssignment(context.Background(), a))
	}
}

func TestOneBadAssignmentIsNamedAndTheOthersAreTaken(t *testing.T) {
	minus, nan := -1.0, 1e300
	for name, c := range map[string]struct {
		spoil func(*courier.Assignment)
		says  string
	}{
		"a due time that is none": {func(a *courier.Assignment) { a.Due = "soon" }, "Essay two: due"},
		"the year 9999": {
			func(a *courier.Assignment) { a.Due, a.Closes = "9999-12-31T23:59", "" },
			"no course has a time in the year 9999",
		},
		"an offset behind the time": {
			func(a *courier.Assignment) { a.Due = "2027-01-20T20:00:00+01:00" },
			"is no time like",
		},
		"a grace without end":   {func(a *courier.Assignment) { a.GraceMinutes = 1 << 40 }, "grace"},
		"a grace below nothing": {func(a *courier.Assignment) { a.GraceMinutes = -5 }, "grace"},
		"ten percent per 0 hours": {
			func(a *courier.Assignment) { a.Late = timing.Rule{Kind: timing.PerHours, Of: "earned", Percent: 10} },
			"late.hours",
		},
		"no due time": {func(a *courier.Assignment) { a.Due = "" }, "Essay two: due"},
		"closing before it is due": {
			func(a *courier.Assignment) { a.Closes = "2020-01-01T00:00" },
			"closes must not be before due",
		},
		"opening after it is due": {
			func(a *courier.Assignment) { a.Opens = "2090-01-01T00:00" },
			"opens must be before due",
		},
		"a late rule of no kind": {
			func(a *courier.Assignment) { a.Late = timing.Rule{Kind: "sometimes"} },
			"Essay two",
		},
		"a late rule below nothing": {
			func(a *courier.Assignment) { a.Late = timing.Rule{Kind: timing.PerDay, Of: "earned", Percent: minus} },
			"Essay two",
		},
		"points below nothing":       {func(a *courier.Assignment) { a.Points = minus }, "cannot be meant"},
		"points beyond anything":     {func(a *courier.Assignment) { a.Points = nan }, "cannot be meant"},
		"a weight beyond the course": {func(a *courier.Assignment) { a.Weight = 101 }, "cannot be meant"},
		"no title":                   {func(a *courier.Assignment) { a.Title = "" }, "it has no title"},
		"too long a key": {
			func(a *courier.Assignment) { a.Key = strings.Repeat("k", 65) },
			"too long a key",
		},
		"a course that is not": {func(a *courier.Assignment) { a.Course = "NONE" }, `a course "NONE" that is not`},
		"pages that nothing has": {
			func(a *courier.Assignment) {
				a.Sheet.Slots = []brief.Slot{{Name: "essay", Pages: &brief.Range{Min: 10, Max: 1}}}
			},
			`"essay" asks for at least 10 and at most 1 pages`,
		},
		"fewer than no attempts": {func(a *courier.Assignment) { a.Sheet.Attempts.Max = -1 }, "under 0"},
		"reports that take for ever": {
			func(a *courier.Assignment) { a.Turnaround.FirstMinutes = 1 << 40 },
			"cannot be meant",
		},
	} {
		t.Run(name, func(t *testing.T) {
			w := worldtest.New(t)
			publish(t, w)
			l := between(t, w)
			l.assignments = func(list []courier.Assignment) ([]courier.Assignment, error) {
				for i := range list {
					if list[i].Key == "two" {
						c.spoil(&list[i])
					}
				}
				return list, nil
			}
			require.NoError(t, sync(w))
			assert.Len(t, w.Titles(), 2)
			assert.Contains(t, notice(t, w), "publishes 1 assignment that cannot be used; ask the instructor: ")
			assert.Contains(t, notice(t, w), c.says)
			for range 3 {
				require.NoError(t, sync(w))
			}
			assert.Equal(t, 1, l.asked, "nobody asks for all of it again while the site says that nothing has changed")
			assert.Contains(t, notice(t, w), c.says, "and it stays told")
			l.assignments = nil
			publish(t, w)
			require.NoError(t, sync(w), "mended by the site")
			assert.Len(t, w.Titles(), 3)
			assert.Empty(t, notice(t, w))
		})
	}
}

func TestAHandoutThatDoesNotArriveWholeLeavesItsAssignmentOut(t *testing.T) {
	w := worldtest.New(t)
	publish(t, w)
	digest, size, err := w.Campus.AddHandout(context.Background(), []byte("all of the handout"))
	require.NoError(t, err)
	a := worldtest.Essay()
	a.Key, a.Title, a.Handouts = "four", "Essay four", []api.Handout{{Name: "reader.pdf", Bytes: size, Digest: digest}}
	require.NoError(t, w.Campus.PublishAssignment(context.Background(), a))
	l := between(t, w)
	l.handout = func(io.ReadCloser) (io.ReadCloser, error) {
		return io.NopCloser(strings.NewReader("half of it")), nil
	}
	require.NoError(t, sync(w))
	assert.Contains(t, notice(t, w), "Essay four: the handout reader.pdf did not arrive whole")
	assert.Len(t, w.Titles(), 3)
	l.handout = nil
	require.NoError(t, sync(w))
	assert.Len(t, w.Titles(), 3, "it is left alone for a while")
	w.At(time.Now().Add(5*time.Minute + time.Second))
	between(t, w)
	require.NoError(t, sync(w))
	assert.Empty(t, notice(t, w))
	assert.Len(t, w.Titles(), 4)
}

// What fails on the site's side is a notice in words that fit; what fails here is an error of ours, and never said to
// be the site's.
func TestWhoseFailureItIs(t *testing.T) {
	for name, c := range map[string]struct {
		err  error
		says string
	}{
		"the line":       {errors.New("connection refused"), "cannot be reached"},
		"the token":      {courier.ErrToken, "does not accept the token any more"},
		"a foreign page": {courier.ErrForeign, "answers, but not as a course site does"},
		"nothing there":  {courier.ErrUnknown, "answers, but not as a course site does"},
		"its own":        {fmt.Errorf("listing: %w", courier.Trouble(503)), "answers that it is in trouble (503)"},
	} {
		t.Run(name, func(t *testing.T) {
			w := worldtest.New(t)
			publish(t, w)
			require.NoError(t, sync(w))
			l := between(t, w)
			l.describe = func(d courier.Description) (courier.Description, error) { return d, c.err }
			require.NoError(t, sync(w))
			assert.Contains(t, notice(t, w), c.says)
			assert.Len(t, w.Titles(), 3, "what was there stays")
			l.describe = nil
			require.NoError(t, sync(w))
			assert.Empty(t, notice(t, w))
			assert.Zero(t, l.asked, "with the same revision nothing more is asked")
		})
	}
	t.Run("ours", func(t *testing.T) {
		w := worldtest.New(t)
		publish(t, w)
		log := &bytes.Buffer{}
		w.Intake.Log = slog.New(slog.NewTextHandler(log, nil))
		w.Intake.Store = failing{w.DB}
		err := sync(w)
		require.ErrorIs(t, err, errOurs, "the job fails, is logged and tried again")
		assert.Empty(t, notice(t, w))
	})
	t.Run("a site that is gone", func(t *testing.T) {
		w := worldtest.New(t)
		_, err := w.Intake.Sync(context.Background(), query.Job{Subject: 999, StudentID: w.Student})
		assert.ErrorIs(t, err, sql.ErrNoRows)
		assert.ErrorAs(t, err, &mariadb.Final{}, "nobody looks for it again")
	})
}

var errOurs = errors.New("the disk is full")

// failing is a store that cannot keep anything.
type failing struct{ *mariadb.DB }

func (failing) InTx(context.Context, func(*query.Queries) error) error { return errOurs }

func TestWhereNothingChangedNothingIsAskedFor(t *testing.T) {
	w := worldtest.New(t)
	publish(t, w)
	l := between(t, w)
	for range 3 {
		require.NoError(t, sync(w))
	}
	assert.Equal(t, 1, l.asked)
	publish(t, w)
	require.NoError(t, sync(w))
	assert.Equal(t, 2, l.asked, "the site's revision grew")
	l.describe = func(d courier.Description) (courier.Description, error) {
		d.Now = d.Now.Add(-2 * time.Minute)
		return d, nil
	}
	require.NoError(t, sync(w))
	assert.Equal(t, 3, l.asked, "its clock moved")
}

// A site that shows another key under an id that is known could sign anything: it is refused, and the key stays.
func TestAKeyIsNeverReplaced(t *testing.T) {
	w := worldtest.New(t)
	publish(t, w)
	require.NoError(t, sync(w))
	keys := func() []query.SiteKey {
		list, err := w.DB.SiteKeys(context.Background(), w.Site)
		require.NoError(t, err)
		return list
	}
	before := keys()
	require.Len(t, before, 1)
	other := receipt.FormatKey(ed25519.NewKeyFromSeed(bytes.Repeat([]byte{7}, 32)).Public().(ed25519.PublicKey))
	l := between(t, w)
	l.describe = func(d courier.Description) (courier.Description, error) {
		d.PublicKey, d.Revision = other, d.Revision+1
		return d, nil
	}
	require.NoError(t, sync(w))
	assert.Contains(t, notice(t, w), "shows another key under the name")
	assert.Equal(t, before, keys())
	l.describe = func(d courier.Description) (courier.Description, error) {
		d.Key, d.PublicKey, d.Revision = "2027", other, d.Revision+2
		return d, nil
	}
	require.NoError(t, sync(w))
	assert.Len(t, keys(), 2, "a new key has an id of its own, the old one stays for old receipts")
	assert.Empty(t, notice(t, w))
}

// A student is known to each institution by another number. Receipts of each are held against its own.
func TestTwoInstitutions(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	second := w.Elsewhere("N-7734", "Quintal Reis", "Nerea")
	first := w.Publish(worldtest.Essay())
	other := second.Publish(worldtest.Essay())
	require.NotEqual(t, first, other)

	r, err := w.DB.Enrolments(ctx, w.Student)
	require.NoError(t, err)
	require.Len(t, r, 2)
	assert.Equal(t, []string{"20418", "N-7734"}, []string{r[0].Number, r[1].Number})
	assert.Equal(t, "Quintal Reis", r[1].Family, "as it is registered there")

	for id, name := range map[int64]string{first: "Quintal_HYD214_chart-datum.txt", other: "Quintal-Reis_HYD214_chart-datum.txt"} {
		w.Add(id, "draft.txt", []byte("An essay on chart datum."))
		state, err := w.Prepare.State(ctx, w.Student, id, 0)
		require.NoError(t, err)
		require.NoError(t, w.Prepare.Fix(ctx, w.Student, state.Items[0].ID, "rename"))
		sub := w.Send(id)
		assert.Equal(t, query.SubmissionStateAccepted, sub.State)
		files, err := w.DB.FilesOfSubmission(ctx, sub.ID)
		require.NoError(t, err)
		assert.Equal(t, name, strings.ReplaceAll(files[0].Name, " ", "-"))
	}
	entries, err := w.Submit.Ledger(ctx, w.Student)
	require.NoError(t, err)
	require.Len(t, entries, 2)
	numbers := map[string]bool{}
	for _, e := range entries {
		assert.True(t, e.Proof.Agrees, "%+v", e.Proof)
		numbers[e.Receipt.Student] = true
	}
	assert.Equal(t, map[string]bool{"20418": true, "N-7734": true}, numbers)
	assert.Equal(t, []int{1, 1}, []int{w.Received(), second.Received()})
}

// A site or calendar that processes died with is told, and left alone: the site for six hours, the calendar for good.
func TestWhatStopsTheProgramIsLeftAlone(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	for range 2 { // told once, however often it comes to that
		again, err := w.Intake.RestSite(ctx, query.Job{Subject: w.Site, StudentID: w.Student})
		require.NoError(t, err)
		assert.Equal(t, 6*time.Hour, again)
		assert.Contains(t, notice(t, w), "is left alone for six hours")
	}
	w.Sync()
	assert.Empty(t, notice(t, w), "it is read again")

	feed, err := w.DB.AddFeed(ctx, query.AddFeedParams{
		StudentID: w.Student, Name: "Tides", Url: "https://tides.example/all.ics", Purpose: "busy",
	})
	require.NoError(t, err)
	again, err := w.Intake.GiveUpFeed(ctx, query.Job{Subject: feed, StudentID: w.Student})
	require.NoError(t, err)
	assert.Zero(t, again)
	feeds, err := w.Intake.Feeds(ctx, w.Student)
	require.NoError(t, err)
	assert.Contains(t, feeds[0].Notice, "Tides stopped Orario")
}
