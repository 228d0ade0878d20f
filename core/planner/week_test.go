package planner

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

// Blocks lie inside the capacity, never overlap, respect releases, and give each task just its work;
// what is left over could not have been done.
func TestASchedulesOwnRules(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		var tasks []Task
		for i := range rapid.IntRange(0, 6).Draw(rt, "n") {
			tasks = append(
				tasks,
				job(
					int64(i),
					h(float64(rapid.IntRange(0, 40).Draw(rt, "release"))),
					h(float64(rapid.IntRange(1, 60).Draw(rt, "deadline"))),
					time.Duration(rapid.IntRange(0, 600).Draw(rt, "minutes"))*time.Minute,
				),
			)
		}
		var capacity []Interval
		for range rapid.IntRange(0, 5).Draw(rt, "m") {
			from := float64(rapid.IntRange(0, 60).Draw(rt, "from"))
			capacity = append(capacity, Interval{h(from), h(from + float64(rapid.IntRange(0, 9).Draw(rt, "length")))})
		}
		now := h(float64(rapid.IntRange(0, 20).Draw(rt, "now")))
		blocks, left := Schedule(now, capacity, tasks, 0)
		given := map[int64]time.Duration{}
		for i, b := range blocks {
			if !b.Start.Before(b.End) || b.Start.Before(now) {
				rt.Fatalf("block %v", b)
			}
			if Within(capacity, b.Start, b.End) != b.End.Sub(b.Start) {
				rt.Fatalf("block %v lies outside the capacity", b)
			}
			if i > 0 && b.Start.Before(blocks[i-1].End) {
				rt.Fatalf("blocks %v and %v overlap", blocks[i-1], b)
			}
			if tasks[b.Task].Release.After(b.Start) {
				rt.Fatalf("block %v before the release", b)
			}
			given[b.Task] += b.End.Sub(b.Start)
		}
		for _, task := range tasks {
			if given[task.ID]+left[task.ID] != task.Left {
				rt.Fatalf("task %d got %v of %v, %v is left", task.ID, given[task.ID], task.Left, left[task.ID])
			}
			unused := Within(capacity, later(task.Release, now), h(1000))
			for _, b := range blocks {
				unused -= max(0, b.End.Sub(later(b.Start, later(task.Release, now))))
			}
			if left[task.ID] > 0 && unused > 0 {
				rt.Fatalf(
					"%v of task %d is left over while %v is free after its release",
					left[task.ID],
					task.ID,
					unused,
				)
			}
		}
	})
}

// Begun at its latest start, each task still meets its deadline when the others do the same; begun
// later, some task does not.
func TestLatestStartsAreLatest(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		var tasks []Task
		for i := range rapid.IntRange(1, 4).Draw(rt, "n") {
			tasks = append(
				tasks,
				job(
					int64(i),
					h(0),
					h(float64(rapid.IntRange(6, 40).Draw(rt, "deadline"))),
					span(float64(rapid.IntRange(1, 4).Draw(rt, "work"))),
				),
			)
		}
		capacity := []Interval{{h(0), h(10)}, {h(14), h(20)}, {h(24), h(40)}}
		if FindOverload(t0, capacity, tasks) != nil {
			return // only what fits has latest starts for all
		}
		starts := LatestStarts(t0, capacity, tasks)
		held := make([]Task, len(tasks))
		first := h(1000)
		for i, task := range tasks {
			start, ok := starts[task.ID]
			if !ok {
				rt.Fatalf("task %d fits and has no latest start", task.ID)
			}
			held[i] = task
			held[i].Release = start
			first = earlier(first, start)
		}
		if o := FindOverload(t0, capacity, held); o != nil {
			rt.Fatalf("begun at the latest starts there is too much in %v", *o)
		}
		for i := range held {
			held[i].Release = later(held[i].Release, first.Add(time.Minute))
		}
		if FindOverload(t0, capacity, held) == nil {
			rt.Fatalf("everything can be begun later than %v", first)
		}
	})
}

func TestTheUsualWeek(t *testing.T) {
	lisbon, err := time.LoadLocation("Europe/Lisbon")
	assert.NoError(t, err)
	from := time.Date(2026, 11, 2, 0, 0, 0, 0, lisbon) // a Monday
	assert.Equal(
		t,
		30*time.Hour,
		Within(UsualWeek.Capacity(from, from.AddDate(0, 0, 7), lisbon), from, from.AddDate(0, 0, 7)),
	)
	middle := from.Add(18*time.Hour + 30*time.Minute)
	got := UsualWeek.Capacity(middle, from.AddDate(0, 0, 1), lisbon)
	assert.Equal(
		t,
		[]Interval{{middle.UTC(), from.Add(21 * time.Hour).UTC()}},
		[]Interval{{got[0].Start.UTC(), got[0].End.UTC()}},
		"what has passed of a stretch does not count",
	)
}
