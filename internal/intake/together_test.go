package intake_test

import (
	"context"
	"encoding/json"
	"fmt"
	"sync/atomic"
	"testing"

	gosync "sync"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/brief"
	"orario/internal/intake"
	"orario/internal/mariadb/query"
	"orario/internal/worldtest"
)

// together runs do so many times at once.
func together(n int, do func(n int)) {
	var all gosync.WaitGroup
	for i := range n {
		all.Go(func() { do(i) })
	}
	all.Wait()
}

// read adds an assignment from instructions, of which nothing is confirmed.
func read(t *testing.T, w *worldtest.World) (id int64, draft intake.Draft) {
	ctx := context.Background()
	courses, err := w.DB.Courses(ctx, w.Student)
	require.NoError(t, err)
	d, err := w.Intake.ReadText(
		ctx,
		w.Student,
		courses[0].ID,
		"Tide report. Due Friday 13 November 2099 at 18:00. Submit one PDF of at most 8 pages and 2,000 words. "+
			"The file is called Familyname_HYD214.pdf. You may submit twice; late work loses 10 % a day. 20 points.",
	)
	require.NoError(t, err)
	d.CourseID, d.Title = courses[0].ID, "Tide report"
	for i := range d.Asks {
		d.Asks[i].Settled = false
	}
	id, err = w.Intake.Add(ctx, w.Student, *d)
	require.NoError(t, err)
	return id, *d
}

func ownOf(t *testing.T, w *worldtest.World, id int64) (own brief.Own) {
	row, err := w.DB.Assignment(context.Background(), query.AssignmentParams{ID: id, StudentID: w.Student})
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(row.Own, &own))
	return own
}

// Every tab confirms one requirement at the same time, and one settles the name: nothing of it is lost.
func TestConfirmingInSeveralTabsLosesNothing(t *testing.T) {
	w := worldtest.New(t)
	w.Sync()
	id, d := read(t, w)
	require.Greater(t, len(d.Asks), 5)
	ctx := context.Background()
	together(len(d.Asks)+1, func(n int) {
		if n == len(d.Asks) {
			assert.NoError(t, w.Prepare.SettleName(ctx, w.Student, id, "{family}_tides"))
			return
		}
		assert.NoError(t, w.Intake.SettleAsk(ctx, w.Student, id, n+1))
	})
	own := ownOf(t, w, id)
	for i, a := range own.Asks {
		assert.True(t, a.Settled, "requirement %d", i+1)
	}
	assert.Equal(t, "{family}_tides", own.Name)
}

// A change of the whole keeps what was settled elsewhere in the meantime.
func TestAChangeOfTheWholeKeepsTheSettledName(t *testing.T) {
	w := worldtest.New(t)
	w.Sync()
	id, d := read(t, w)
	ctx := context.Background()
	require.NoError(t, w.Prepare.SettleName(ctx, w.Student, id, "{family}_tides"))
	d.ID, d.Title = id, "Tide report, second"
	require.NoError(t, w.Intake.Change(ctx, w.Student, d))
	assert.Equal(t, "{family}_tides", ownOf(t, w, id).Name)
}

func TestTheSameCalendarAtOnceComesOnce(t *testing.T) {
	w := worldtest.New(t)
	w.Sync()
	text := worldtest.Calendar(
		worldtest.Todo("a@x", "20991113T180000", "HYD 214 Sheet 1", ""),
		worldtest.Todo("b@x", "20991120T180000", "HYD 214 Sheet 2", ""),
	)
	uploads := [6]string{}
	for n := range uploads {
		uploads[n] = w.Upload("dues.ics", []byte(text))
	}
	var added atomic.Int64
	together(len(uploads), func(n int) {
		done, err := w.Intake.Import(
			context.Background(),
			w.Student,
			intake.Import{Upload: uploads[n], Name: "dues.ics", Purpose: intake.PurposeDue},
		)
		if err == nil {
			added.Add(int64(done.Added))
		}
	})
	assert.Equal(t, int64(2), added.Load())
	assert.Len(t, w.Titles(), 2)
}

func TestEnrolmentsThatCannotBeMeant(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	good := intake.Enrolment{
		Institution: "Elsewhere",
		Number:      "7",
		Family:      "Quintal",
		Given:       "Nerea",
		Zone:        "Europe/Lisbon",
	}
	id, err := w.Intake.AddEnrolment(ctx, w.Student, good)
	require.NoError(t, err)
	other, _ := w.AddStudent("20419", "rui@alvarim.example")
	assert.Error(t, w.Intake.SetEnrolment(ctx, other, id, good), "somebody else's")
	for name, spoil := range map[string]func(*intake.Enrolment){
		"no institution":      func(e *intake.Enrolment) { e.Institution = " " },
		"no family name":      func(e *intake.Enrolment) { e.Family = "" },
		"a zone that is none": func(e *intake.Enrolment) { e.Zone = "Mars/Olympus" },
		"endless":             func(e *intake.Enrolment) { e.Institution = fmt.Sprintf("%0*d", 500, 1) },
	} {
		t.Run(name, func(t *testing.T) {
			e := good
			spoil(&e)
			assert.Error(t, w.Intake.SetEnrolment(ctx, w.Student, id, e))
		})
	}
}

// What is read in instructions is sound before it is kept, however odd it is; and no page is lost by it.
func TestOddInstructionsTakeNoPageDown(t *testing.T) {
	w := worldtest.New(t)
	w.Sync()
	ctx := context.Background()
	courses, err := w.DB.Courses(ctx, w.Student)
	require.NoError(t, err)
	for _, text := range []string{
		"Due 13 November 2099 at 18:00. Late work loses 10% per 0 hours.",
		"Due 13 November 2099 at 18:00. Late work loses 1e400 % per 0.0000001 hours.",
		"Due 13 November 9999 at 18:00. 20 points.",
		"Due 13 November 2099 at 18:00. At most 0 pages, at least 99999999999999999999 words.",
		"Due 13 November 2099 at 18:00. The file is called {family}{{.pdf.",
	} {
		d, err := w.Intake.ReadText(ctx, w.Student, courses[0].ID, text)
		if err != nil {
			continue
		}
		d.CourseID, d.Title = courses[0].ID, "Odd"
		id, err := w.Intake.Add(ctx, w.Student, *d)
		if err != nil {
			assert.NotContains(t, err.Error(), "Error 1", "refused in words, not by a table")
			continue
		}
		_, err = w.Desk.Desk(ctx, w.Student, id, 0)
		require.NoError(t, err, text)
		h, err := w.Agenda.Horizon(ctx, w.Student)
		require.NoError(t, err, text)
		assert.Empty(t, h.Notices, text)
		require.NoError(t, w.Intake.Remove(ctx, w.Student, id), "and it can be taken away")
	}
}
