package worldtest

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	core "orario/core/agenda"
	"orario/core/planner"
	"orario/internal/schedule"
)

// Monday is the clock of a planned world: a Monday morning in Lisbon, where it is UTC in winter.
var Monday = time.Date(2027, 1, 11, 8, 0, 0, 0, time.UTC)

// At is an hour of a day in that January.
func At(day, hour int) time.Time { return time.Date(2027, 1, day, hour, 0, 0, 0, time.UTC) }

// Planned is a world on that Monday, in which the student works from 18 to 20 o'clock and wants no margin.
func Planned(t testing.TB) *World {
	w := New(t)
	w.Sync()
	w.At(Monday)
	settings := core.Settings{MostADay: 600, Block: 30}
	for day := range settings.Week {
		settings.Week[day] = []planner.Hours{{From: 18 * 60, To: 20 * 60}}
	}
	require.NoError(t, w.Agenda.SetSettings(context.Background(), w.Student, settings))
	return w
}

// Own adds an assignment from one line and gives its id.
func (w *World) Own(line string, weight float64) int64 {
	w.T.Helper()
	ctx := context.Background()
	d, err := w.Intake.Typed(ctx, w.Student, line)
	require.NoError(w.T, err)
	require.Empty(w.T, d.Questions, line)
	d.Weight = weight
	id, err := w.Intake.Add(ctx, w.Student, *d)
	require.NoError(w.T, err)
	return id
}

// Line is an assignment on the Horizon.
func (w *World) Line(id int64) schedule.Line {
	w.T.Helper()
	h, err := w.Agenda.Horizon(context.Background(), w.Student)
	require.NoError(w.T, err)
	for _, l := range h.Lines {
		if l.ID == id {
			return l
		}
	}
	w.T.Fatalf("assignment %d is not on the Horizon", id)
	return schedule.Line{}
}

// Many adds courses with so many assignments each, as one table.
func (w *World) Many(courses, assignments int) {
	w.T.Helper()
	rows := []string{"title,course,due,points"}
	for course := range courses {
		for n := range assignments {
			due := Monday.AddDate(0, 0, 1+n*2).Add(time.Duration(course) * time.Hour)
			rows = append(rows, fmt.Sprintf("Work %d,CRS %d,%s,20", n, course, due.Format("2006-01-02T15:04")))
		}
	}
	done := w.Take("all.csv", strings.Join(rows, "\n"))
	require.Equal(w.T, courses*assignments, done.Added)
}

// Pages measures how long a page takes, and within which time 95 of 100 were done: while nothing changes, and after
// something has changed each time.
func (w *World) Pages(b *testing.B, page func()) {
	for _, c := range []struct{ name, before string }{
		{"unchanged", "DO ?"},
		{"changed", "UPDATE student SET seen_event = seen_event WHERE id = ?"},
	} {
		b.Run(c.name, func(b *testing.B) {
			var took []time.Duration
			for b.Loop() {
				_, err := w.DB.SQL.Exec(c.before, w.Student)
				require.NoError(b, err)
				begun := time.Now()
				page()
				took = append(took, time.Since(begun))
			}
			slices.Sort(took)
			b.ReportMetric(float64(took[len(took)/2].Microseconds())/1000, "p50-ms")
			b.ReportMetric(float64(took[len(took)*95/100].Microseconds())/1000, "p95-ms")
		})
	}
}
