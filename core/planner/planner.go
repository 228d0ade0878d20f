// Package planner lays work into the hours there are for it and says when each task must be begun at
// the latest.
//
// The schedule is preemptive earliest-deadline-first over the capacity, with release times. It has the
// least possible largest lateness, and is on time whenever any schedule is (Jackson 1955; Horn 1974). Where
// none is, the package names the stretch that proves it and what to give up: the fewest tasks (Moore 1968)
// or the cheapest (Lawler and Moore 1969).
package planner

import (
	"cmp"
	"slices"
	"time"
)

// A Task is work to be done between Release and Deadline.
type Task struct {
	ID       int64
	Release  time.Time
	Deadline time.Time
	Left     time.Duration // of work
	LateCost float64       // what giving the task up costs, however late it is then
}

// An Interval is a stretch of time, end exclusive.
type Interval struct{ Start, End time.Time }

// A Block is a stretch of time given to a task.
type Block struct {
	Task int64
	Interval
}

// Schedule lays tasks into capacity from now on. Blocks are in order of time and never overlap; of tasks
// with equal deadlines the earlier in the list comes first. No block is shorter than minimum unless it
// finishes its task; over a minute the least lateness is then no longer promised. Work that finds no
// capacity is left out; the second result is how much, by task. Time is O((n+m) · n) for n tasks and m
// intervals.
func Schedule(
	now time.Time,
	capacity []Interval,
	tasks []Task,
	minimum time.Duration,
) ([]Block, map[int64]time.Duration) {
	return sweep(now, union(capacity), tasks, minimum)
}

// waiting is a task in the sweep.
type waiting struct {
	Task
	order int
}

func (w *waiting) before(other *waiting) int {
	return cmp.Or(w.Deadline.Compare(other.Deadline), cmp.Compare(w.order, other.order))
}

// byRelease are the tasks with work, the earliest released first; of those released together the most urgent last.
func byRelease(tasks []Task) []*waiting {
	all := make([]waiting, len(tasks))
	coming := make([]*waiting, 0, len(tasks))
	for i, t := range tasks {
		if t.Left > 0 {
			all[i] = waiting{t, i}
			coming = append(coming, &all[i])
		}
	}
	slices.SortFunc(coming, func(a, b *waiting) int { return cmp.Or(a.Release.Compare(b.Release), b.before(a)) })
	return coming
}

func sweep(now time.Time, capacity []Interval, tasks []Task, minimum time.Duration) ([]Block, map[int64]time.Duration) {
	coming := byRelease(tasks)
	ready := make([]*waiting, 0, len(coming)) // the most urgent last, where it is cheap to take
	blocks := make([]Block, 0, len(tasks))
	for _, free := range capacity {
		at := later(free.Start, now)
		for at.Before(free.End) {
			for len(coming) > 0 && !coming[0].Release.After(at) {
				i, _ := slices.BinarySearchFunc(ready, coming[0], func(a, b *waiting) int { return b.before(a) })
				ready = slices.Insert(ready, i, coming[0])
				coming = coming[1:]
			}
			begun := func(w *waiting) time.Time { // of the block that a task would continue
				if n := len(blocks); n > 0 && blocks[n-1].Task == w.ID && blocks[n-1].End.Equal(at) {
					return blocks[n-1].Start
				}
				return at
			}
			chosen := len(ready) - 1
			for ; chosen >= 0; chosen-- {
				if w := ready[chosen]; w.Left <= free.End.Sub(at) || free.End.Sub(begun(w)) >= minimum {
					break
				}
			}
			if chosen < 0 {
				if len(coming) == 0 {
					break
				}
				at = coming[0].Release
				continue
			}
			w := ready[chosen]
			end := earlier(free.End, at.Add(w.Left))
			for _, next := range coming {
				if !next.Release.Before(end) {
					break
				}
				if next.before(w) < 0 { // it interrupts, once the block is long enough
					end = earlier(end, later(next.Release, begun(w).Add(minimum)))
					break
				}
			}
			blocks = appendBlock(blocks, Block{w.ID, Interval{at, end}})
			if w.Left -= end.Sub(at); w.Left == 0 {
				ready = slices.Delete(ready, chosen, chosen+1)
			}
			at = end
		}
	}
	left := map[int64]time.Duration{}
	for _, w := range append(ready, coming...) {
		left[w.ID] = w.Left
	}
	return blocks, left
}

func appendBlock(blocks []Block, b Block) []Block {
	if n := len(blocks); n > 0 && blocks[n-1].Task == b.Task && blocks[n-1].End.Equal(b.Start) {
		blocks[n-1].End = b.End
		return blocks
	}
	return append(blocks, b)
}

// LatestStarts is when each task begins in the same schedule run backwards from the deadlines: begun
// then, everything still gets done in time. Tasks without work, and those for which there is not
// enough capacity before their deadline, are absent.
func LatestStarts(now time.Time, capacity []Interval, tasks []Task) map[int64]time.Time {
	// Time is mirrored at now: deadlines become releases, releases deadlines, capacity runs back.
	mirror := func(t time.Time) time.Time { return now.Add(now.Sub(t)) }
	mirrored := make([]Task, 0, len(tasks))
	horizon := now
	for _, t := range tasks {
		horizon = later(horizon, t.Deadline)
		mirrored = append(
			mirrored,
			Task{ID: t.ID, Release: mirror(t.Deadline), Deadline: mirror(later(t.Release, now)), Left: t.Left},
		)
	}
	free := union(capacity)
	back := make([]Interval, 0, len(free))
	for _, c := range free {
		from, to := later(c.Start, now), earlier(c.End, horizon)
		if from.Before(to) {
			back = append(back, Interval{mirror(to), mirror(from)})
		}
	}
	slices.Reverse(back)
	blocks, left := sweep(mirror(horizon), back, mirrored, 0)
	starts := map[int64]time.Time{}
	for _, b := range blocks {
		if left[b.Task] == 0 {
			starts[b.Task] = mirror(b.End) // the last block back is the first forward
		}
	}
	return starts
}

// Within is how much of the capacity lies between two instants.
func Within(capacity []Interval, start, end time.Time) time.Duration {
	return within(union(capacity), start, end)
}

func within(capacity []Interval, start, end time.Time) (sum time.Duration) {
	for _, c := range capacity {
		if d := earlier(c.End, end).Sub(later(c.Start, start)); d > 0 {
			sum += d
		}
	}
	return sum
}

// union sorts intervals and joins those that touch.
func union(intervals []Interval) []Interval {
	sorted := slices.Clone(intervals)
	slices.SortFunc(sorted, func(a, b Interval) int { return a.Start.Compare(b.Start) })
	out := make([]Interval, 0, len(sorted))
	for _, i := range sorted {
		if n := len(out); n > 0 && !i.Start.After(out[n-1].End) {
			out[n-1].End = later(out[n-1].End, i.End)
		} else if i.Start.Before(i.End) {
			out = append(out, i)
		}
	}
	return out
}

func earlier(a, b time.Time) time.Time {
	if b.Before(a) {
		return b
	}
	return a
}

func later(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}
