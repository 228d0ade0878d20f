package planner

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

var t0 = time.Date(2026, 11, 2, 8, 0, 0, 0, time.UTC)

func h(hours float64) time.Time        { return t0.Add(span(hours)) }
func span(hours float64) time.Duration { return time.Duration(hours * float64(time.Hour)) }

func job(id int64, release, deadline time.Time, left time.Duration) Task {
	return Task{ID: id, Release: release, Deadline: deadline, Left: left, LateCost: 1}
}

func lateness(blocks []Block, tasks []Task) (most time.Duration) {
	for _, b := range blocks {
		for _, t := range tasks {
			if t.ID == b.Task {
				most = max(most, b.End.Sub(t.Deadline))
			}
		}
	}
	return most
}

// 1 | r_j, pmtn | L_max. Processing times, releases and due dates are chosen so that the schedule can be
// followed by hand: 1 starts, 2 interrupts it, 3 interrupts 2, then 2 and 1 are finished.
func TestUrgentWorkInterrupts(t *testing.T) {
	tasks := []Task{job(1, h(0), h(20), span(4)), job(2, h(1), h(9), span(3)), job(3, h(2), h(4), span(2))}
	blocks, left := Schedule(t0, []Interval{{h(0), h(24)}}, tasks, 0)
	assert.Empty(t, left)
	assert.Equal(
		t,
		[]Block{
			{1, Interval{h(0), h(1)}},
			{2, Interval{h(1), h(2)}},
			{3, Interval{h(2), h(4)}},
			{2, Interval{h(4), h(6)}},
			{1, Interval{h(6), h(9)}},
		},
		blocks,
	)
}

func TestLatestStartsAndOverload(t *testing.T) {
	evenings := []Interval{{h(8), h(12)}, {h(32), h(36)}}
	tasks := []Task{job(1, h(0), h(36), span(3)), job(2, h(0), h(35), span(2))}
	starts := LatestStarts(t0, evenings, tasks)
	// Backwards from h36: 1 takes the hour to h35, then both want h32–h35; by the mirror's order the
	// rest is 4 h into 3 h of that evening and 1 h of the one before.
	assert.Len(t, starts, 2)
	first := earlier(starts[1], starts[2])
	assert.Equal(t, h(11), first, "five hours of work, four in the second evening")
	assert.Nil(t, FindOverload(t0, evenings, tasks))

	tasks[0].Left = span(8)
	o := FindOverload(t0, evenings, tasks)
	assert.Equal(t, &Overload{Interval{h(0), h(36)}, span(10), span(8)}, o)
}

// Brute force: hour by hour, every choice of a task, for the least largest lateness (Jackson's and
// Horn's theorems say that the schedule has it).
func TestNoScheduleIsLessLate(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		var tasks []Task
		total := 0
		for i := range rapid.IntRange(1, 3).Draw(rt, "n") {
			length := rapid.IntRange(1, 3).Draw(rt, "length")
			total += length
			tasks = append(
				tasks,
				job(
					int64(i),
					h(float64(rapid.IntRange(0, 4).Draw(rt, "release"))),
					h(float64(rapid.IntRange(1, 9).Draw(rt, "deadline"))),
					span(float64(length)),
				),
			)
		}
		gap := rapid.IntRange(1, 6).Draw(rt, "gap")
		capacity := []Interval{{h(0), h(float64(gap))}, {h(float64(gap + 2)), h(30)}}
		blocks, left := Schedule(t0, capacity, tasks, 0)
		if len(left) > 0 {
			rt.Fatalf("left over: %v", left)
		}
		best := bruteForce(tasks, capacity)
		if got := lateness(blocks, tasks); got != best {
			rt.Fatalf("late by %v, possible is %v", got, best)
		}
		if (FindOverload(t0, capacity, tasks) == nil) != (best <= 0) {
			rt.Fatalf("an overload proves lateness and nothing else does")
		}
		if best <= 0 && len(LatestStarts(t0, capacity, tasks)) != len(tasks) {
			rt.Fatal("a task that fits has a latest start")
		}
	})
}

func bruteForce(tasks []Task, capacity []Interval) time.Duration {
	best := 1000 * time.Hour
	left := make([]time.Duration, len(tasks))
	for i, t := range tasks {
		left[i] = t.Left
	}
	var try func(hour int, worst time.Duration)
	try = func(hour int, worst time.Duration) {
		if worst >= best {
			return
		}
		done := true
		for _, l := range left {
			done = done && l == 0
		}
		if done {
			best = worst
			return
		}
		at := h(float64(hour))
		if within(capacity, at, at.Add(time.Hour)) == 0 {
			try(hour+1, worst)
			return
		}
		some := false
		for i, t := range tasks {
			if left[i] > 0 && !t.Release.After(at) {
				some = true
				left[i] -= time.Hour
				w := worst
				if left[i] == 0 {
					w = max(w, at.Add(time.Hour).Sub(t.Deadline))
				}
				try(hour+1, w)
				left[i] += time.Hour
			}
		}
		if !some {
			try(hour+1, worst)
		}
	}
	try(0, 0)
	return best
}
