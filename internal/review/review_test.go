package review_test

import (
	"context"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/coursework"
	api "orario/internal/campus/campusapi"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/schedule"
	"orario/internal/worldtest"
)

const name = "Quintal_HYD214_chart-datum.txt"

const reader = "The lowest water that the table expects is called zero, and everything is measured upwards from that line by common consent."

func sent(w *worldtest.World, id int64, text string) query.SubmissionRow {
	w.Add(id, name, []byte(text))
	return w.Send(id)
}

func job(w *worldtest.World, sub query.SubmissionRow) query.Job {
	return query.Job{Subject: sub.ID, StudentID: w.Student}
}

func TestAReportIsAwaitedAndThenRead(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	require.NoError(t, w.Campus.PublishReading(ctx, "reader", "The reader", reader))
	essay := worldtest.Essay()
	essay.Turnaround.FirstMinutes = 60
	id := w.Publish(essay)
	sub := sent(w, id, "I begin. "+reader+" I end with something of my own about the mole.")
	again, err := w.Review.FetchReport(ctx, job(w, sub))
	require.NoError(t, err)
	assert.InDelta(t, 60, again.Minutes(), 1, "it is looked for again when it is expected")
	_, err = w.Review.Read(ctx, w.Student, sub.ID)
	assert.ErrorIs(t, err, refusal.ErrNotFound)
	desk, err := w.Desk.Desk(ctx, w.Student, id, 0)
	require.NoError(t, err)
	require.NotNil(t, desk.Attempts[0].Report)
	assert.Contains(t, desk.Attempts[0].Report.Said, "expected")

	require.NoError(t, w.Campus.MoveClock(ctx, 61*time.Minute))
	again, err = w.Review.FetchReport(ctx, job(w, sub))
	require.NoError(t, err)
	assert.Zero(t, again, "and then no more")
	reading, err := w.Review.Read(ctx, w.Student, sub.ID)
	require.NoError(t, err)
	require.Len(t, reading.Passages, 1)
	p := reading.Passages[0]
	assert.Equal(t, 1, p.Rank)
	assert.Equal(t, "Say it in your own words, or quote it.", p.Advice)
	assert.Equal(t, strings.TrimSuffix(reader, "."), p.Match)
	assert.Contains(t, reading.MoreRounds, "Another report fits if you send by")
	assert.Nil(t, reading.ShareWas)

	require.NoError(t, w.Review.Handle(ctx, w.Student, sub.ID, 0, "not_mine"))
	reading, err = w.Review.Read(ctx, w.Student, sub.ID)
	require.NoError(t, err)
	assert.Equal(t, "not_mine", reading.Passages[0].Handled)
	assert.Error(t, w.Review.Handle(ctx, w.Student, sub.ID, 7, "fixed"))
	assert.Error(t, w.Review.Handle(ctx, w.Student, sub.ID, 0, "burnt"))
	other, _ := w.AddStudent("20419", "rui@alvarim.example")
	_, err = w.Review.Read(ctx, other, sub.ID)
	assert.ErrorIs(t, err, refusal.ErrNotFound)
}

func TestOnesOwnFirstVersionIsNotHeldAgainstTheSecond(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := w.Publish(worldtest.Essay())
	text := "My own harbour has another zero, which I measured from the mole at night with a lamp and a rope of known length."
	first := sent(w, id, text)
	_, err := w.Review.FetchReport(ctx, job(w, first))
	require.NoError(t, err)
	second := sent(w, id, text+" And then once more by day.")
	_, err = w.Review.FetchReport(ctx, job(w, second))
	require.NoError(t, err)
	reading, err := w.Review.Read(ctx, w.Student, second.ID)
	require.NoError(t, err)
	require.NotEmpty(t, reading.Passages)
	assert.Equal(t, "own", string(reading.Passages[0].Remedy))
	assert.Equal(t, "own", reading.Passages[0].Excluded)
	assert.Zero(t, reading.Passages[0].Rank)
	assert.Zero(t, reading.Share)
	assert.Equal(t, "Nothing in the text needs a decision", reading.Summary)
	assert.Contains(t, reading.LeftOut, "your own earlier work")
	changes, err := w.Review.Changes(ctx, w.Student, first.ID, second.ID)
	require.NoError(t, err)
	assert.Equal(t, 6, changes.Added)
	assert.Zero(t, changes.Removed)
}

func TestAReturnIsTakenInOnceAndAgainWhenItChanges(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := w.Publish(worldtest.Essay())
	sub := sent(w, id, "An essay.")
	told := func() (n int) {
		events, err := w.DB.EventsAfter(ctx, query.EventsAfterParams{StudentID: w.Student})
		require.NoError(t, err)
		for _, e := range events {
			if e.Kind == "return" {
				n++
			}
		}
		return n
	}
	fetch := func() {
		again, err := w.Review.FetchReturn(ctx, job(w, sub))
		require.NoError(t, err)
		assert.Equal(t, 6*time.Hour, again, "marks can change; the site's revision says so before")
	}
	fetch()
	assert.Equal(t, 0, told())
	require.NoError(t, w.Campus.Return(ctx, sub.Number, 15, nil, false))
	fetch()
	fetch()
	assert.Equal(t, 1, told())
	require.NoError(t, w.Campus.Return(ctx, sub.Number, 16, nil, true))
	fetch()
	assert.Equal(t, 2, told())
	desk, err := w.Desk.Desk(ctx, w.Student, id, 0)
	require.NoError(t, err)
	back := desk.Attempts[0].Returned
	require.NotNil(t, back)
	assert.Equal(t, 16.0, *back.Mark)
	assert.True(t, back.Invited)
	assert.Equal(t, "A correction could gain up to 4 points, 4.0 % of the course.", back.Worth)
	assert.Equal(t, coursework.Back, desk.Line.State)
	require.NoError(
		t,
		w.Agenda.SetWork(ctx, w.Student, id, schedule.Work{Minutes: 60, Done: 60, Enough: true}),
	) // it is enough
	desk, err = w.Desk.Desk(ctx, w.Student, id, 0)
	require.NoError(t, err)
	assert.Equal(t, coursework.Done, desk.Line.State)
	assert.Equal(t, "punched", string(desk.Line.Strip[5].State))
}

func TestAReturnIsLookedForDuringSixtyDays(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	sub := sent(w, w.Publish(worldtest.Essay()), "An essay.")
	for name, c := range map[string]struct {
		after time.Duration
		again time.Duration
	}{
		"at once":            {0, 6 * time.Hour},
		"on the last day":    {60*24*time.Hour - time.Minute, 6 * time.Hour},
		"after sixty days":   {60*24*time.Hour + time.Minute, 0},
		"after half a year":  {180 * 24 * time.Hour, 0},
		"before it was sent": {-time.Hour, 6 * time.Hour},
	} {
		t.Run(name, func(t *testing.T) {
			w.At(sub.StartedAt.Add(c.after))
			again, err := w.Review.FetchReturn(ctx, job(w, sub))
			require.NoError(t, err)
			assert.Equal(t, c.again, again)
		})
	}
	_, err := w.Review.FetchReturn(ctx, query.Job{Subject: 999, StudentID: w.Student})
	assert.ErrorAs(t, err, &mariadb.Final{}, "what is not there is not looked for again")
}

// Passages are handled in two tabs at once; nothing of it is lost.
func TestPassagesAreHandledTogether(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	var sources []string
	for n := range 8 {
		source := fmt.Sprintf(
			"%s keeper %s wrote down every lamp that went past during the equinoctial gale, and tallied %s barrels",
			reader,
			[]string{"Abel", "Benta", "Caio", "Dulce", "Elvio", "Fausta", "Gil", "Hilda"}[n],
			[]string{"eleven", "twenty", "thirty", "forty", "fifty", "sixty", "seventy", "eighty"}[n],
		)
		require.NoError(t, w.Campus.PublishReading(ctx, fmt.Sprint("r", n), fmt.Sprint("Reader ", n), source))
		sources = append(sources, source)
	}
	sub := sent(
		w,
		w.Publish(worldtest.Essay()),
		strings.Join(sources, " Between them there is something that is mine alone, and that nobody has said. "),
	)
	_, err := w.Review.FetchReport(ctx, job(w, sub))
	require.NoError(t, err)
	reading, err := w.Review.Read(ctx, w.Student, sub.ID)
	require.NoError(t, err)
	require.Greater(t, len(reading.Passages), 3)
	var all sync.WaitGroup
	for _, p := range reading.Passages {
		all.Go(func() { assert.NoError(t, w.Review.Handle(ctx, w.Student, sub.ID, p.N, "fixed")) })
		all.Go(func() { assert.NoError(t, w.Review.Handle(ctx, w.Student, sub.ID, p.N, "fixed")) })
	}
	all.Wait()
	reading, err = w.Review.Read(ctx, w.Student, sub.ID)
	require.NoError(t, err)
	for _, p := range reading.Passages {
		assert.Equal(t, "fixed", p.Handled, "passage %d", p.N)
	}
	second := reading.Passages[1].N
	require.NoError(t, w.Review.Handle(ctx, w.Student, sub.ID, second, ""))
	require.NoError(t, w.Review.Handle(ctx, w.Student, sub.ID, second, ""), "taken back twice")
	reading, err = w.Review.Read(ctx, w.Student, sub.ID)
	require.NoError(t, err)
	assert.Empty(t, reading.Passages[1].Handled)
}

func TestWhetherAnotherReportFits(t *testing.T) {
	due := func(h time.Duration) string { return time.Now().UTC().Add(h).Format("2006-01-02T15:04") }
	for name, c := range map[string]struct {
		change func(*api.Assignment)
		want   string
	}{
		"it does": {func(*api.Assignment) {}, "Another report fits if you send by"},
		"it comes after due": {
			func(a *api.Assignment) { a.Due, a.Turnaround.LaterMinutes = due(3*time.Hour), 120 },
			"its report would come after due",
		},
		"just in time": {
			func(a *api.Assignment) { a.Due, a.Turnaround.LaterMinutes = due(5*time.Hour), 120 },
			"Another report fits if you send by",
		},
		"not checked again": {func(a *api.Assignment) { a.Sheet.Report.Drafts = 1 }, "it is not checked again"},
		"no attempt left": {
			func(a *api.Assignment) { a.Sheet.Attempts.Max = 1 },
			"Another version cannot be sent: the only attempt is used.",
		},
	} {
		t.Run(name, func(t *testing.T) {
			w := worldtest.New(t)
			ctx := context.Background()
			essay := worldtest.Essay()
			c.change(&essay)
			sub := sent(w, w.Publish(essay), "An essay that is all mine.")
			_, err := w.Review.FetchReport(ctx, job(w, sub))
			require.NoError(t, err)
			reading, err := w.Review.Read(ctx, w.Student, sub.ID)
			require.NoError(t, err)
			assert.Contains(t, reading.MoreRounds, c.want)
		})
	}
}
