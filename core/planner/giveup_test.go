package planner

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

// 1 || ΣU_j: five jobs after M. Pinedo, Scheduling, example 3.3.3 (values from memory): p = 7 8 4 6 6,
// d = 9 17 18 19 21; jobs 1 and 2 are late.
func TestMooreAsInTheTextbook(t *testing.T) {
	tasks := []Task{
		job(1, h(0), h(9), span(7)),
		job(2, h(0), h(17), span(8)),
		job(3, h(0), h(18), span(4)),
		job(4, h(0), h(19), span(6)),
		job(5, h(0), h(21), span(6)),
	}
	s := GiveUp(t0, []Interval{{h(0), h(100)}}, tasks)
	assert.True(t, s.Exact)
	assert.Equal(t, []int64{1, 2}, s.Fewest)
}

// 1 || Σw_jU_j with one due date, a knapsack; after M. Pinedo, Scheduling, example 3.3.4 (values from memory):
// p = 11 9 90, w = 12 9 89, d = 100. Giving up the third by its low weight per hour would cost 89; 12 is enough.
func TestLawlerMooreAsInTheTextbook(t *testing.T) {
	tasks := []Task{job(1, h(0), h(100), span(11)), job(2, h(0), h(100), span(9)), job(3, h(0), h(100), span(90))}
	for i, w := range []float64{12, 9, 89} {
		tasks[i].LateCost = w
	}
	s := GiveUp(t0, []Interval{{h(0), h(200)}}, tasks)
	assert.Equal(t, []int64{1}, s.Cheapest)
	assert.Equal(t, 12.0, s.Cost)
}

// 1 | r_j, prmp | L_max after M. Pinedo, Scheduling, example 3.2.5 (values from memory): p = 4 2 6 5, r = 0 1 3 5,
// d = 8 12 11 10. The preemptive schedule is late by 5, the bound at the root of the example's tree.
func TestEarliestDeadlineFirstAsInTheTextbook(t *testing.T) {
	tasks := []Task{
		job(1, h(0), h(8), span(4)),
		job(2, h(1), h(12), span(2)),
		job(3, h(3), h(11), span(6)),
		job(4, h(5), h(10), span(5)),
	}
	blocks, left := Schedule(t0, []Interval{{h(0), h(50)}}, tasks, 0)
	assert.Empty(t, left)
	assert.Equal(t, span(5), lateness(blocks, tasks))
}

// Of all subsets of small random instances none is smaller or cheaper.
func TestNoSacrificeIsSmallerOrCheaper(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		together := rapid.Bool().Draw(rt, "released together")
		var tasks []Task
		for i := range rapid.IntRange(1, 7).Draw(rt, "n") {
			task := job(
				int64(i),
				h(0),
				h(float64(rapid.IntRange(-2, 20).Draw(rt, "deadline"))),
				span(float64(rapid.IntRange(0, 5).Draw(rt, "length"))),
			)
			if !together {
				task.Release = h(float64(rapid.IntRange(-2, 12).Draw(rt, "release")))
			}
			task.LateCost = float64(rapid.IntRange(0, 5).Draw(rt, "cost"))
			tasks = append(tasks, task)
		}
		gap := float64(rapid.IntRange(1, 10).Draw(rt, "gap"))
		capacity := []Interval{{h(0), h(gap)}, {h(gap + 2), h(30)}}
		fewest, cheapest := len(tasks), 1000.0
		for set := range 1 << len(tasks) {
			var kept []Task
			n, cost := 0, 0.0
			for i, task := range tasks {
				if set&(1<<i) != 0 {
					n, cost = n+1, cost+task.LateCost
				} else {
					kept = append(kept, task)
				}
			}
			if FindOverload(t0, capacity, kept) == nil {
				fewest, cheapest = min(fewest, n), min(cheapest, cost)
			}
		}
		s := GiveUp(t0, capacity, tasks)
		if !s.Exact || len(s.Fewest) != fewest || s.Cost != cheapest {
			rt.Fatalf("got %+v, possible are %d and %v", s, fewest, cheapest)
		}
		l := newLoad(t0, capacity, tasks)
		for _, greedy := range [][]int{l.greedy(func(int) float64 { return 1 }), l.greedy(func(i int) float64 { return l.tasks[i].LateCost })} {
			over, _ := l.worst(func(i int) bool { return !slices.Contains(greedy, i) })
			if over != nil {
				rt.Fatal("the greedy choice is not enough")
			}
		}
		for _, given := range [][]int64{s.Fewest, s.Cheapest} {
			var kept []Task
			for _, task := range tasks {
				if !slices.Contains(given, task.ID) {
					kept = append(kept, task)
				}
			}
			blocks, left := Schedule(t0, capacity, kept, 0)
			if len(left) > 0 || lateness(blocks, kept) > 0 {
				rt.Fatalf("after giving up %v it is still late", given)
			}
		}
	})
}

// Every block is as long as asked for, or finishes its task.
func TestMinimumBlocks(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		minimum := time.Duration(rapid.IntRange(2, 90).Draw(rt, "minimum")) * time.Minute
		var tasks []Task
		for i := range rapid.IntRange(1, 6).Draw(rt, "n") {
			tasks = append(
				tasks,
				job(
					int64(i),
					h(float64(rapid.IntRange(0, 12).Draw(rt, "release"))/3),
					h(float64(rapid.IntRange(1, 30).Draw(rt, "deadline"))),
					time.Duration(rapid.IntRange(1, 300).Draw(rt, "length"))*time.Minute,
				),
			)
		}
		var capacity []Interval
		for range rapid.IntRange(1, 5).Draw(rt, "m") {
			from := float64(rapid.IntRange(0, 80).Draw(rt, "from")) / 4
			capacity = append(
				capacity,
				Interval{h(from), h(from + float64(rapid.IntRange(1, 12).Draw(rt, "length"))/4)},
			)
		}
		blocks, left := Schedule(t0, capacity, tasks, minimum)
		for n, b := range blocks {
			last := !slices.ContainsFunc(blocks[n+1:], func(c Block) bool { return c.Task == b.Task }) &&
				left[b.Task] == 0
			if b.End.Sub(b.Start) < minimum && !last {
				rt.Fatalf("block %v is short", b)
			}
			if n > 0 && blocks[n-1].End.After(b.Start) {
				rt.Fatal("blocks overlap")
			}
		}
	})
}

func BenchmarkPlan(b *testing.B) {
	week := UsualWeek.Capacity(t0, t0.AddDate(0, 4, 0), time.UTC)
	var tasks []Task
	for i := range 300 {
		release := h(float64(i * 7 % 2000))
		task := job(int64(i), release, release.Add(span(float64(100+i*31%400))), time.Duration(40+i*17%150)*time.Minute)
		task.LateCost = float64(i % 11)
		tasks = append(tasks, task)
	}
	for b.Loop() {
		Schedule(t0, week, tasks, 25*time.Minute)
		GiveUp(t0, week, tasks)
		FindOverload(t0, week, tasks)
		LatestStarts(t0, week, tasks)
	}
}

// With more than twenty tasks that are released one after the other the choice is greedy: among those that are too much it
// gives up what frees most time for what it costs, and what is left can be done.
func TestTheGreedyChoiceLeavesWhatCanBeDone(t *testing.T) {
	start := time.Date(2026, 11, 2, 8, 0, 0, 0, time.UTC)
	var tasks []Task
	for n := range exactly + 1 { // an hour of work each, and half an hour for each
		at := start.Add(time.Duration(n) * 30 * time.Minute)
		tasks = append(tasks, Task{
			ID: int64(n + 1), Release: at, Deadline: at.Add(2 * time.Hour), Left: time.Hour, LateCost: float64(1 + n%5),
		})
	}
	capacity := []Interval{{start, start.Add(24 * time.Hour)}}
	s := GiveUp(start, capacity, tasks)
	assert.False(t, s.Exact)
	assert.NotEmpty(t, s.Cheapest)
	cost := 0.0
	var left []Task
	for _, task := range tasks {
		if slices.Contains(s.Cheapest, task.ID) {
			cost += task.LateCost
		} else {
			left = append(left, task)
		}
	}
	assert.InDelta(t, cost, s.Cost, 1e-9)
	assert.Empty(t, GiveUp(start, capacity, left).Fewest, "the others can be on time")
	assert.Less(t, cost/float64(len(s.Cheapest)), 3.0, "what costs little is given up before what costs the mean")
	assert.True(t, GiveUp(start, capacity, tasks[:exactly]).Exact, "of twenty the best is searched for")
}
