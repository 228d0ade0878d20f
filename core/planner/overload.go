package planner

import (
	"cmp"
	"slices"
	"time"
)

// An Overload is a stretch in which more is asked for than can be done. Of work that is overdue already
// End lies before Start, and the capacity is 0.
type Overload struct {
	Interval
	Demand, Capacity time.Duration
}

// FindOverload is the stretch with the largest excess of demand (work of tasks released and due within
// it) over capacity, the earliest of equals; nil if everything fits. Releases before now count from now.
// Time is O(n² + m log m).
func FindOverload(now time.Time, capacity []Interval, tasks []Task) *Overload {
	worst, _ := newLoad(now, capacity, tasks).worst(func(int) bool { return true })
	return worst
}

// load is a set of tasks prepared for asking which of them fit together.
type load struct {
	tasks      []Task          // with work left, by deadline; none released before now
	start, end []time.Duration // the capacity before release and before deadline
	byRelease  []int           // tasks, the earliest released first
	starts     []int           // the first task of each release
	left       []time.Duration // room for [load.fits]
	ready      []int
}

func newLoad(now time.Time, capacity []Interval, tasks []Task) *load {
	l := &load{
		tasks:     make([]Task, 0, len(tasks)),
		start:     make([]time.Duration, 0, len(tasks)),
		end:       make([]time.Duration, 0, len(tasks)),
		byRelease: make([]int, 0, len(tasks)),
	}
	for _, t := range tasks {
		if t.Left > 0 {
			t.Release = later(t.Release, now)
			l.tasks = append(l.tasks, t)
		}
	}
	slices.SortStableFunc(l.tasks, func(a, b Task) int { return a.Deadline.Compare(b.Deadline) })
	before := ruler(now, capacity)
	for i, t := range l.tasks {
		l.start, l.end = append(l.start, before(t.Release)), append(l.end, before(t.Deadline))
		l.byRelease = append(l.byRelease, i)
	}
	slices.SortStableFunc(l.byRelease, func(a, b int) int { return l.tasks[a].Release.Compare(l.tasks[b].Release) })
	l.starts = slices.CompactFunc(
		slices.Clone(l.byRelease),
		func(a, b int) bool { return l.tasks[a].Release.Equal(l.tasks[b].Release) },
	)
	return l
}

// ruler measures how much capacity lies between now and an instant.
func ruler(now time.Time, capacity []Interval) func(time.Time) time.Duration {
	var free []Interval
	var sums []time.Duration // before each interval
	sum := time.Duration(0)
	for _, c := range union(capacity) {
		c.Start = later(c.Start, now)
		if c.Start.Before(c.End) {
			free, sums = append(free, c), append(sums, sum)
			sum += c.End.Sub(c.Start)
		}
	}
	return func(t time.Time) time.Duration {
		i, found := slices.BinarySearchFunc(free, t, func(c Interval, t time.Time) int { return c.Start.Compare(t) })
		if !found {
			i--
		}
		if i < 0 {
			return 0
		}
		return sums[i] + earlier(t, free[i].End).Sub(free[i].Start)
	}
}

// worst is the most overloaded stretch of some of the tasks and which of them it holds.
func (l *load) worst(with func(i int) bool) (*Overload, []int) {
	excess, first, last := time.Duration(0), -1, -1
	for _, s := range l.starts {
		demand, release := time.Duration(0), l.tasks[s].Release
		for j := range l.tasks {
			if l.tasks[j].Release.Before(release) || !with(j) {
				continue
			}
			demand += l.tasks[j].Left
			if over := demand - max(0, l.end[j]-l.start[s]); over > excess {
				excess, first, last = over, s, j
			}
		}
	}
	if first < 0 {
		return nil, nil
	}
	o := &Overload{
		Interval: Interval{l.tasks[first].Release, l.tasks[last].Deadline},
		Capacity: max(0, l.end[last]-l.start[first]),
	}
	var in []int
	for i, t := range l.tasks[:last+1] {
		if with(i) && !t.Release.Before(o.Start) {
			o.Demand += t.Left
			in = append(in, i)
		}
	}
	return o, in
}

// common says whether all tasks are released at the same time.
func (l *load) common() bool { return len(l.starts) <= 1 }

// ids names some of the tasks, in the order given to the planner.
func (l *load) ids(of []int, order map[int64]int) []int64 {
	out := []int64{}
	for _, i := range of {
		out = append(out, l.tasks[i].ID)
	}
	slices.SortFunc(out, func(a, b int64) int { return cmp.Compare(order[a], order[b]) })
	return out
}
