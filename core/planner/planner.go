// Package planner lays work into the hours there are for it and says when each task must be begun at
// the latest.
//
// The schedule is preemptive earliest-deadline-first over the capacity, with release times. It has the
// least possible largest lateness, and is on time whenever any schedule is (Jackson 1955; Horn 1974).
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
}

// An Interval is a stretch of time, end exclusive.
type Interval struct{ Start, End time.Time }

// A Block is a stretch of time given to a task.
type Block struct {
	Task int64
	Interval
}

// Schedule lays tasks into capacity from now on. Blocks are in order of time and never overlap. Work
// that finds no capacity is left out; the second result is how much, by task.
// Time is O((n+m) · n) for n tasks and m intervals.
func Schedule(now time.Time, capacity []Interval, tasks []Task) ([]Block, map[int64]time.Duration) {
	return sweep(now, union(capacity), tasks)
}

func sweep(now time.Time, capacity []Interval, tasks []Task) ([]Block, map[int64]time.Duration) {
	left := map[int64]time.Duration{}
	for _, t := range tasks {
		if t.Left > 0 {
			left[t.ID] = t.Left
		}
	}
	var blocks []Block
	for _, free := range capacity {
		at := later(free.Start, now)
		for at.Before(free.End) && len(left) > 0 {
			var chosen *Task
			until := free.End // or the next release, which may bring something more urgent
			for i := range tasks {
				t := &tasks[i]
				if left[t.ID] == 0 {
					continue
				}
				if t.Release.After(at) {
					until = earlier(until, t.Release)
				} else if chosen == nil || t.Deadline.Before(chosen.Deadline) {
					chosen = t
				}
			}
			if chosen == nil {
				at = until
				continue
			}
			end := earlier(until, at.Add(left[chosen.ID]))
			if left[chosen.ID] -= end.Sub(at); left[chosen.ID] == 0 {
				delete(left, chosen.ID)
			}
			blocks = appendBlock(blocks, Block{chosen.ID, Interval{at, end}})
			at = end
		}
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
	var mirrored []Task
	horizon := now
	for _, t := range tasks {
		horizon = later(horizon, t.Deadline)
		mirrored = append(mirrored, Task{t.ID, mirror(t.Deadline), mirror(later(t.Release, now)), t.Left})
	}
	var back []Interval
	for _, c := range union(capacity) {
		from, to := later(c.Start, now), earlier(c.End, horizon)
		if from.Before(to) {
			back = append(back, Interval{mirror(to), mirror(from)})
		}
	}
	slices.Reverse(back)
	blocks, left := sweep(mirror(horizon), back, mirrored)
	starts := map[int64]time.Time{}
	for _, b := range blocks {
		if left[b.Task] == 0 {
			starts[b.Task] = mirror(b.End) // the last block back is the first forward
		}
	}
	return starts
}

// An Overload is a stretch in which more is asked for than can be done.
type Overload struct {
	Interval
	Demand, Capacity time.Duration
}

// FindOverload is the stretch with the largest excess of demand (work of tasks released and due within
// it) over capacity, the earliest of equals; nil if everything fits. Time is O(n³ + n²·m).
func FindOverload(now time.Time, capacity []Interval, tasks []Task) *Overload {
	capacity = union(capacity)
	var worst *Overload
	for _, first := range tasks {
		for _, last := range tasks {
			start, end := later(first.Release, now), last.Deadline
			var demand time.Duration
			for _, t := range tasks {
				if !later(t.Release, now).Before(start) && !t.Deadline.After(end) {
					demand += t.Left
				}
			}
			have := within(capacity, start, end)
			excess := demand - have
			if excess <= 0 {
				continue
			}
			if worst == nil || excess > worst.Demand-worst.Capacity ||
				excess == worst.Demand-worst.Capacity && start.Before(worst.Start) {
				worst = &Overload{Interval{start, end}, demand, have}
			}
		}
	}
	return worst
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
	sorted := slices.SortedFunc(slices.Values(intervals), func(a, b Interval) int { return a.Start.Compare(b.Start) })
	var out []Interval
	for _, i := range sorted {
		if n := len(out); n > 0 && !i.Start.After(out[n-1].End) {
			out[n-1].End = later(out[n-1].End, i.End)
		} else if i.Start.Before(i.End) {
			out = append(out, i)
		}
	}
	return out
}

// Hours is a stretch of a weekday, in minutes from local midnight.
type Hours struct{ From, To int }

// A Week is when a student can work, by weekday from Sunday on.
type Week [7][]Hours

// UsualWeek is assumed where the student has said nothing: four evening hours on weekdays and five by
// day at weekends.
var UsualWeek = Week{
	{{11 * 60, 16 * 60}}, {{17 * 60, 21 * 60}}, {{17 * 60, 21 * 60}}, {{17 * 60, 21 * 60}}, {{17 * 60, 21 * 60}}, {{17 * 60, 21 * 60}}, {{11 * 60, 16 * 60}},
}

// Capacity lays a week out between two instants, in the student's zone.
func (w Week) Capacity(from, to time.Time, zone *time.Location) []Interval {
	var out []Interval
	for day := from.In(zone).AddDate(0, 0, -1); day.Before(to.AddDate(0, 0, 1)); day = day.AddDate(0, 0, 1) {
		for _, h := range w[day.Weekday()] {
			at := func(minutes int) time.Time {
				return time.Date(day.Year(), day.Month(), day.Day(), minutes/60, minutes%60, 0, 0, zone).UTC()
			}
			if i := (Interval{later(at(h.From), from), earlier(at(h.To), to)}); i.Start.Before(i.End) {
				out = append(out, i)
			}
		}
	}
	return out
}

// Effort is how long work takes, in minutes: optimistic, likely and pessimistic.
type Effort struct{ Optimistic, Likely, Pessimistic float64 }

// Expected is the mean (o+4m+p)/6 and the standard deviation (p−o)/6 (PERT; Malcolm, Roseboom, Clark
// and Fazar 1959).
func (e Effort) Expected() (mean, deviation float64) {
	return (e.Optimistic + 4*e.Likely + e.Pessimistic) / 6, (e.Pessimistic - e.Optimistic) / 6
}

// Planned is the time to set aside: the mean and 1.645 deviations, enough in 95 of 100 cases.
func (e Effort) Planned() time.Duration {
	mean, deviation := e.Expected()
	return time.Duration((mean + 1.645*deviation) * float64(time.Minute)).Round(time.Minute)
}

func earlier(a, b time.Time) time.Time {
	if cmp.Compare(a.UnixNano(), b.UnixNano()) <= 0 {
		return a
	}
	return b
}

func later(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}
