package prepare_test

import (
	"context"
	"fmt"
	"io"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/brief"
	"orario/core/coursework"
	"orario/core/inspect"
	"orario/demo"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
	"orario/internal/refusal"
	"orario/internal/submit"
	"orario/internal/worldtest"
)

// lab asks for a report and a table, and gives no name pattern.
func lab(w *worldtest.World) int64 {
	a := worldtest.Essay()
	a.Key, a.Title, a.Sheet.Name = "lab", "Tide tables", ""
	a.Sheet.Slots = []brief.Slot{
		{Name: "report", Required: true, Forms: []string{"pdf"}},
		{Name: "data", Required: true, Forms: []string{"csv"}},
	}
	return w.Publish(a)
}

func state(t *testing.T, w *worldtest.World, id int64) *coursework.Standing {
	s, err := w.Prepare.State(context.Background(), w.Student, id, 0)
	require.NoError(t, err)
	return s
}

func complains(t *testing.T, err error, about string) {
	t.Helper()
	var complaint refusal.Complaint
	require.ErrorAs(t, err, &complaint)
	assert.Contains(t, complaint.Message, about)
}

func TestFilesFindTheirSlots(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := lab(w)
	table := w.Add(id, "readings.csv", []byte("hour,height\n0,2.1\n1,2.4\n"))
	report := w.Add(id, "report.docx", demo.DOCX("nerea", "Tide tables", "Text."))
	s := state(t, w, id)
	slots := map[int64]string{}
	for _, i := range s.Items {
		slots[i.ID] = i.Slot
	}
	assert.Equal(t, map[int64]string{table: "data", report: "report"}, slots)
	assert.Equal(t, 3, *s.Items[0].Facts.Rows)

	require.NoError(t, w.Prepare.Change(ctx, w.Student, table, "", "report"))
	assert.Equal(t, map[string]int{"report": 2}, state(t, w, id).Filled())
	complains(t, w.Prepare.Change(ctx, w.Student, table, "", "map"), `no slot "map"`)
	complains(t, w.Prepare.Change(ctx, w.Student, table, "CON.csv", ""), "Windows")
	require.NoError(t, w.Prepare.Change(ctx, w.Student, table, "quintal_readings.csv", "data"))
	assert.Equal(t, "quintal_readings.csv", state(t, w, id).Items[0].Name)

	require.NoError(t, w.Prepare.Remove(ctx, w.Student, table))
	assert.Len(t, state(t, w, id).Items, 1)
	versions, err := w.DB.Versions(ctx, w.Student)
	require.NoError(t, err)
	assert.Len(t, versions, 2, "the library keeps it")
	assert.ErrorIs(t, w.Prepare.Remove(ctx, w.Student, table), refusal.ErrNotFound)
}

func TestAConversionCanBeTakenBack(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := lab(w)
	item := w.Add(id, "lab FINAL.docx", demo.DOCX("nerea", "Tide tables", "Text of the report."))
	require.NoError(t, w.Prepare.SettleName(ctx, w.Student, id, "{family:lower}_{title:dash}"))
	require.NoError(t, w.Prepare.Fix(ctx, w.Student, item, "convert"))
	job := query.Job{Kind: prepare.ConvertJob, Subject: item, StudentID: w.Student}
	jobs, err := w.DB.JobsOf(ctx, w.Student)
	require.NoError(t, err)
	for _, j := range jobs {
		if j.Kind == prepare.ConvertJob {
			job = j
		}
	}
	require.NotZero(t, job.ID)
	_, err = w.Prepare.Convert(ctx, job)
	require.NoError(t, err)
	made := state(t, w, id).Items[0]
	assert.Equal(t, "quintal_tide-tables.pdf", made.Name)
	assert.Equal(t, "pdf", made.Facts.Kind)
	_, err = w.Prepare.Convert(ctx, job)
	require.NoError(t, err, "done again, as after a crash")
	assert.Equal(t, made.Version, state(t, w, id).Items[0].Version)

	require.NoError(t, w.Prepare.Fix(ctx, w.Student, item, "revert"))
	assert.Equal(t, "lab FINAL.docx", state(t, w, id).Items[0].Name)
	assert.Equal(t, "docx", state(t, w, id).Items[0].Facts.Kind)
	complains(t, w.Prepare.Fix(ctx, w.Student, item, "revert"), "as you added it")
	complains(t, w.Prepare.Fix(ctx, w.Student, item, "rename"), "as it should be")
	complains(t, w.Prepare.Fix(ctx, w.Student, item, "polish"), "no fix")
}

func TestACancelledConversionChangesNothing(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := lab(w)
	item := w.Add(id, "lab.docx", demo.DOCX("nerea", "Tide tables", "Text."))
	require.NoError(t, w.Prepare.Fix(ctx, w.Student, item, "convert"))
	jobs, err := w.DB.JobsOf(ctx, w.Student)
	require.NoError(t, err)
	require.NoError(t, w.Prepare.CancelFix(ctx, w.Student, item))
	for _, j := range jobs {
		if j.Kind == prepare.ConvertJob {
			_, err := w.Prepare.Convert(ctx, j) // it was running already
			require.NoError(t, err)
		}
	}
	assert.Equal(t, "lab.docx", state(t, w, id).Items[0].Name)
}

func TestAConversionThatStopsTheProgramIsTold(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	item := w.Add(lab(w), "lab.docx", demo.DOCX("nerea", "Tide tables", "Text."))
	again, err := w.Prepare.GiveUpConvert(ctx, query.Job{Subject: item, StudentID: w.Student})
	require.NoError(t, err)
	assert.Zero(t, again)
	events, err := w.DB.EventsAfter(ctx, query.EventsAfterParams{StudentID: w.Student})
	require.NoError(t, err)
	assert.Contains(t, events[len(events)-1].Text, "lab.docx cannot be converted here")
}

func TestABundleHasABound(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := lab(w)
	first := w.Add(id, "a.csv", []byte("a,b\n"))
	_, err := w.DB.SQL.Exec("INSERT INTO item (student_id, attempt_id, slot, name, version_id) "+
		"SELECT student_id, attempt_id, slot, CONCAT(seq, name), version_id FROM item, seq_2_to_300 WHERE id = ?", first)
	require.NoError(t, err)
	_, err = w.Prepare.AddUpload(ctx, w.Student, id, 0, w.Upload("b.csv", []byte("c,d\n")), "")
	complains(t, err, "300 files lie in the bundle")
	require.NoError(t, w.Prepare.Remove(ctx, w.Student, first))
	w.Add(id, "b.csv", []byte("c,d\n"))
}

func TestTheNameIsSettledByTheStudent(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := lab(w)
	w.Add(id, "readings.csv", []byte("a,b\n1,2\n"))
	name := func() brief.Requirement {
		for _, r := range state(t, w, id).Requirements {
			if r.Key == "name" {
				return r
			}
		}
		t.Fatal("no requirement for the name")
		return brief.Requirement{}
	}
	assert.Equal(
		t,
		brief.Requirement{Key: "name", Text: "{family:lower}_{course}_{title:dash}", From: brief.FromCourse},
		name(),
	)
	complains(t, w.Prepare.SettleName(ctx, w.Student, id, "{surname}"), "unknown field")
	complains(t, w.Prepare.SettleName(ctx, w.Student, id, "{section}_{family}"), "section")
	require.NoError(t, w.Prepare.SettleName(ctx, w.Student, id, "{number}-{slot}"))
	assert.Equal(t, brief.Requirement{Key: "name", Text: "{number}-{slot}", From: brief.FromYou, Settled: true}, name())
	for _, f := range state(t, w, id).Findings {
		if f.Fix == "rename" {
			assert.Equal(t, "20418-data.csv", f.Becomes)
		}
	}
	require.NoError(t, w.Prepare.SettleName(ctx, w.Student, id, ""))
	assert.Equal(t, "as you like", name().Text)
}

func TestABundleUnderWayDoesNotChange(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := w.Publish(worldtest.Essay())
	item := w.Add(id, "Quintal_HYD214_chart-datum.txt", []byte("An essay."))
	_, err := w.Submit.Start(ctx, w.Student, submit.Order{Assignment: id, Declared: true})
	require.NoError(t, err)
	complains(t, w.Prepare.Remove(ctx, w.Student, item), "being sent")
	complains(t, w.Prepare.Change(ctx, w.Student, item, "other.txt", ""), "being sent")
	complains(t, w.Prepare.Fix(ctx, w.Student, item, "rename"), "being sent")
}

func TestAnAssignmentFollowsItsSitesClock(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := w.Publish(worldtest.Essay())
	require.NoError(t, w.Campus.MoveClock(ctx, 6*24*time.Hour)) // past due, not closed
	w.Sync()
	s := state(t, w, id)
	assert.WithinDuration(t, time.Now().Add(6*24*time.Hour), s.Now, 2*time.Second)
	found := map[string]bool{}
	for _, f := range s.Findings {
		found[f.Code] = true
	}
	assert.True(t, found["late"], "%+v", s.Findings)
	may, _ := s.MayGoOn()
	assert.True(t, may)
	require.NoError(t, w.Campus.MoveClock(ctx, 8*24*time.Hour))
	w.Sync()
	may, why := state(t, w, id).MayGoOn()
	assert.False(t, may)
	assert.Equal(t, "it is closed", why)
}

// unready are tools whose sandbox cannot be had for a while.
type unready struct {
	prepare.Tools
	broken bool
}

func (u *unready) Look(
	ctx context.Context,
	file inspect.Stored,
	open func() (io.Reader, error),
) (*inspect.Facts, string, error) {
	if u.broken {
		return inspect.Basic(file, []byte("An essay."), inspect.Unseen, "the sandbox cannot be had"), "", nil
	}
	return u.Tools.Look(ctx, file, open)
}

// A file that cannot be looked at for our own reasons is taken, is not called damaged, and is looked at again.
func TestWhatCouldNotBeLookedAtIsLookedAtAgain(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := w.Publish(worldtest.Essay())
	tools := &unready{w.Tools, true}
	w.Prepare.Tools = tools
	w.Add(id, "Quintal_HYD214_chart-datum.txt", []byte("An essay of five words."))
	codes := func() (list []string) {
		state, err := w.Prepare.State(ctx, w.Student, id, 0)
		require.NoError(t, err)
		for _, f := range state.Findings {
			list = append(list, f.Code)
		}
		return list
	}
	assert.Contains(t, codes(), "unseen")
	assert.NotContains(t, codes(), "damaged")
	jobs, err := w.DB.JobsOf(ctx, w.Student)
	require.NoError(t, err)
	i := slices.IndexFunc(jobs, func(j query.Job) bool { return j.Kind == prepare.LookJob })
	require.GreaterOrEqual(t, i, 0)
	_, err = w.Prepare.LookAgain(ctx, jobs[i])
	require.ErrorContains(t, err, "the sandbox cannot be had", "it is tried later")
	tools.broken = false
	_, err = w.Prepare.LookAgain(ctx, jobs[i])
	require.NoError(t, err)
	assert.NotContains(t, codes(), "unseen")
	state, err := w.Prepare.State(ctx, w.Student, id, 0)
	require.NoError(t, err)
	assert.Equal(t, 5, *state.Items[0].Facts.Words)
	_, err = w.Prepare.LookAgain(ctx, query.Job{Subject: 999, StudentID: w.Student})
	assert.ErrorAs(t, err, &mariadb.Final{})
}

// Two tabs change one file at once: what one of them does is never undone by the other, and whoever comes too late is
// told.
func TestAFileIsChangedInTwoTabsAtOnce(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	essay := worldtest.Essay()
	essay.Sheet.Slots = append(essay.Sheet.Slots, brief.Slot{Name: "map", Forms: []string{"pdf", "txt"}})
	id := w.Publish(essay)
	item := w.Add(id, "a.txt", []byte("An essay."))
	state := func() coursework.Item {
		s, err := w.Prepare.State(ctx, w.Student, id, 0)
		require.NoError(t, err)
		require.Len(t, s.Items, 1)
		return s.Items[0]
	}
	for n := range 12 {
		before := state()
		name, slot := fmt.Sprintf("b%d.txt", n), []string{"map", "essay"}[n%2]
		var named, moved error
		var both sync.WaitGroup
		both.Go(func() { named = w.Prepare.Change(ctx, w.Student, item, name, "") })
		both.Go(func() { moved = w.Prepare.Change(ctx, w.Student, item, "", slot) })
		both.Wait()
		after := state()
		for _, err := range []error{named, moved} {
			if err != nil {
				assert.ErrorContains(t, err, "has just changed")
			}
		}
		assert.Equal(t, named == nil, after.Name == name, "%v, was %s, is %s", named, before.Name, after.Name)
		assert.Equal(
			t,
			moved == nil || before.Slot == slot,
			after.Slot == slot,
			"%v, was %s, is %s",
			moved,
			before.Slot,
			after.Slot,
		)
		assert.True(t, named == nil || moved == nil, "one of them comes through")
	}
}

// A file that is taken out or replaced while it is converted stays as the student left it.
func TestAConversionDoesNotUndoWhatWasDoneMeanwhile(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	essay := worldtest.Essay()
	essay.Sheet.Slots[0].Forms = []string{"pdf"}
	id := w.Publish(essay)
	item := w.Add(id, "a.txt", []byte("An essay."))
	require.NoError(t, w.Prepare.Fix(ctx, w.Student, item, "convert"))
	jobs, err := w.DB.JobsOf(ctx, w.Student)
	require.NoError(t, err)
	i := slices.IndexFunc(jobs, func(j query.Job) bool { return j.Kind == prepare.ConvertJob })
	require.GreaterOrEqual(t, i, 0)
	w.Prepare.Tools = &meanwhile{Tools: w.Tools, do: func() {
		assert.NoError(t, w.Prepare.Change(ctx, w.Student, item, "mine.txt", ""))
	}}
	_, err = w.Prepare.Convert(ctx, jobs[i])
	assert.ErrorContains(t, err, "has just changed", "it is tried again, with the file as it is now")
	state, err := w.Prepare.State(ctx, w.Student, id, 0)
	require.NoError(t, err)
	assert.Equal(t, []any{"mine.txt", int64(0)}, []any{state.Items[0].Name, state.Items[0].MadeFrom})
}

// meanwhile does something while a conversion runs.
type meanwhile struct {
	prepare.Tools
	do func()
}

func (m *meanwhile) ToPDF(ctx context.Context, kind string, data []byte) ([]byte, error) {
	m.do()
	return m.Tools.ToPDF(ctx, kind, data)
}
