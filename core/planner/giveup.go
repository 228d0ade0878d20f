package planner

import (
	"cmp"
	"container/heap"
	"math"
	"math/bits"
	"slices"
	"time"
)

// A Sacrifice is which tasks to give up so that all others can be on time.
type Sacrifice struct {
	Fewest   []int64 // as few as possible
	Cheapest []int64 // as little late cost as possible
	Cost     float64 // of Cheapest
	Exact    bool    // no better choice exists, of either
}

// exactly is up to how many tasks with differing releases the best choice is searched for.
const exactly = 20

// GiveUp finds what to give up. It is exact where all tasks are released together: by Moore (1968) in
// O(n log n) and by Lawler and Moore (1969) in O(n · e) for an excess of e minutes; and, by search, for up
// to 20 tasks with differing releases, a problem that no fast method is known for. Beyond that it is a
// choice of which nothing can be taken back.
func GiveUp(now time.Time, capacity []Interval, tasks []Task) Sacrifice {
	order := map[int64]int{}
	for i, t := range tasks {
		order[t.ID] = i
	}
	l := newLoad(now, capacity, tasks)
	if l.fits(slices.Repeat([]bool{true}, len(l.tasks))) {
		return Sacrifice{Fewest: []int64{}, Cheapest: []int64{}, Exact: true}
	}
	var fewest, cheapest []int
	one := func(int) float64 { return 1 }
	cost := func(i int) float64 { return l.tasks[i].LateCost }
	s := Sacrifice{Exact: true}
	switch {
	case l.common():
		fewest, cheapest = l.moore(), l.takeBack(l.lawlerMoore())
	case len(l.tasks) <= exactly:
		fewest, cheapest = l.search(one), l.takeBack(l.search(cost))
	default:
		fewest, cheapest, s.Exact = l.greedy(one), l.greedy(cost), false
	}
	s.Fewest, s.Cheapest = l.ids(fewest, order), l.ids(cheapest, order)
	for _, i := range cheapest {
		s.Cost += cost(i)
	}
	return s
}

// moore takes tasks in the order of their deadlines and drops the longest whenever one would be late.
func (l *load) moore() []int {
	var dropped []int
	kept := &byLength{load: l}
	total := time.Duration(0)
	for j, t := range l.tasks {
		heap.Push(kept, j)
		total += t.Left
		if total > max(0, l.end[j]-l.start[j]) {
			longest := heap.Pop(kept).(int)
			total -= l.tasks[longest].Left
			dropped = append(dropped, longest)
		}
	}
	return dropped
}

type byLength struct {
	*load
	list []int
}

func (b byLength) Len() int { return len(b.list) }
func (b byLength) Less(i, j int) bool {
	return b.tasks[b.list[i]].Left > b.tasks[b.list[j]].Left
}
func (b byLength) Swap(i, j int) { b.list[i], b.list[j] = b.list[j], b.list[i] }
func (b *byLength) Push(x any)   { b.list = append(b.list, x.(int)) }
func (b *byLength) Pop() any {
	last := b.list[len(b.list)-1]
	b.list = b.list[:len(b.list)-1]
	return last
}

// given is a choice among the first tasks: how much work is given up at which cost.
type given struct {
	work   time.Duration
	cost   float64
	task   int // the last one given up
	before *given
}

// lawlerMoore goes through the tasks by deadline and keeps the choices that no other beats in both work
// given up and cost. More than the largest excess still ahead need never be given up, so there are at
// most as many choices as that has minutes.
func (l *load) lawlerMoore() []int {
	excess := make([]time.Duration, len(l.tasks)) // at each deadline, with nothing given up
	total := time.Duration(0)
	for j, t := range l.tasks {
		total += t.Left
		excess[j] = total - max(0, l.end[j]-l.start[j])
	}
	need := slices.Clone(excess) // the largest still ahead
	for j := len(need) - 2; j >= 0; j-- {
		need[j] = max(need[j], need[j+1])
	}
	choices := []*given{{task: -1}} // ascending in work and in cost
	for j, t := range l.tasks {
		more := make([]*given, 0, len(choices))
		for _, c := range choices {
			more = append(more, &given{min(need[j], c.work+t.Left), c.cost + t.LateCost, j, c})
		}
		merged := append(choices, more...)
		// The cheaper first, of equals the one that gives up more: what follows must give up more yet.
		slices.SortFunc(merged, func(a, b *given) int {
			return cmp.Or(cmp.Compare(a.cost, b.cost), cmp.Compare(b.work, a.work))
		})
		choices = nil
		most := time.Duration(math.MinInt64)
		for _, c := range merged {
			if c.work >= excess[j] && c.work > most {
				choices = append(choices, c)
				most = c.work
			}
		}
	}
	var out []int
	for c := choices[0]; c.before != nil; c = c.before {
		out = append(out, c.task)
	}
	return out
}

// A node of the search is a set of tasks given up, as bits.
type node struct {
	set   uint32
	bound float64 // of the cost of any sufficient set above it
}

type frontier []node

func (f frontier) Len() int { return len(f) }
func (f frontier) Less(i, j int) bool {
	return f[i].bound < f[j].bound ||
		f[i].bound == f[j].bound && bits.OnesCount32(f[i].set) > bits.OnesCount32(f[j].set)
}
func (f frontier) Swap(i, j int) { f[i], f[j] = f[j], f[i] }
func (f *frontier) Push(x any)   { *f = append(*f, x.(node)) }
func (f *frontier) Pop() any {
	last := (*f)[len(*f)-1]
	*f = (*f)[:len(*f)-1]
	return last
}

// search is the cheapest sufficient set, best bound first: of every overloaded stretch at least one task
// must be given up.
func (l *load) search(cost func(int) float64) []int {
	seen := map[uint32]bool{0: true}
	open := &frontier{{0, 0}}
	for {
		n := heap.Pop(open).(node)
		_, in := l.without(n.set)
		if in == nil {
			var out []int
			for i := range l.tasks {
				if n.set&(1<<i) != 0 {
					out = append(out, i)
				}
			}
			return out
		}
		paid := 0.0
		for i := range l.tasks {
			if n.set&(1<<i) != 0 {
				paid += cost(i)
			}
		}
		for _, i := range in {
			set := n.set | 1<<i
			if seen[set] {
				continue
			}
			seen[set] = true
			over, in := l.without(set)
			heap.Push(open, node{set, paid + cost(i) + l.atLeast(over, in, cost)})
		}
	}
}

func (l *load) without(set uint32) (*Overload, []int) {
	return l.worst(func(i int) bool { return set&(1<<i) == 0 })
}

// atLeast is what must be paid in any case to relieve a stretch: the cheapest parts of tasks per minute,
// and no less than the cheapest whole one.
func (l *load) atLeast(over *Overload, in []int, cost func(int) float64) float64 {
	if over == nil {
		return 0
	}
	need := over.Demand - over.Capacity
	byPrice := slices.Clone(in)
	slices.SortFunc(byPrice, func(a, b int) int {
		return cmp.Compare(cost(a)*float64(l.tasks[b].Left), cost(b)*float64(l.tasks[a].Left))
	})
	sum, cheapest := 0.0, math.Inf(1)
	for _, i := range byPrice {
		cheapest = min(cheapest, cost(i))
		if need > 0 {
			sum += cost(i) * min(1, float64(need)/float64(l.tasks[i].Left))
			need -= l.tasks[i].Left
		}
	}
	return max(sum*(1-1e-12), cheapest) // less what rounding may have added
}

// greedy takes tasks one by one, the costliest per minute first, and gives up those that no longer fit
// beside the ones it has.
func (l *load) greedy(cost func(int) float64) []int {
	order := make([]int, len(l.tasks))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int {
		return cmp.Compare(cost(b)*float64(l.tasks[a].Left), cost(a)*float64(l.tasks[b].Left))
	})
	kept := make([]bool, len(l.tasks))
	var out []int
	for _, i := range order {
		if kept[i] = true; !l.fits(kept) {
			kept[i] = false
			out = append(out, i)
		}
	}
	return out
}

// takeBack keeps what need not be given up, the costliest first.
func (l *load) takeBack(set []int) []int {
	kept := make([]bool, len(l.tasks))
	for i := range kept {
		kept[i] = !slices.Contains(set, i)
	}
	slices.SortStableFunc(set, func(a, b int) int { return cmp.Compare(l.tasks[b].LateCost, l.tasks[a].LateCost) })
	return slices.DeleteFunc(set, func(i int) bool {
		kept[i] = true
		kept[i] = l.fits(kept)
		return kept[i]
	})
}

// fits says whether some of the tasks can all be on time: it runs them by deadline on a clock that counts capacity
// only. Time is O(n) where all are released together, else O(n log n).
func (l *load) fits(with []bool) bool {
	if l.common() {
		return l.fitTogether(with)
	}
	left := l.left[:0]
	ready := l.ready[:0] // places in l.tasks, which is in the order of deadlines
	at := time.Duration(0)
	for i := range l.tasks {
		left = append(left, l.tasks[i].Left)
		if with[i] && l.end[i]-l.start[i] < left[i] {
			return false
		}
	}
	l.left, l.ready = left, ready
	for n := 0; n < len(l.byRelease) || len(ready) > 0; {
		if len(ready) == 0 {
			at = max(at, l.start[l.byRelease[n]])
		}
		for ; n < len(l.byRelease) && l.start[l.byRelease[n]] <= at; n++ {
			if i := l.byRelease[n]; with[i] {
				place, _ := slices.BinarySearchFunc(ready, i, func(a, b int) int { return cmp.Compare(b, a) })
				ready = slices.Insert(ready, place, i)
			}
		}
		if len(ready) == 0 {
			continue
		}
		urgent := ready[len(ready)-1]
		until := at + left[urgent]
		if until > l.end[urgent] {
			return false
		}
		if n < len(l.byRelease) {
			until = min(until, l.start[l.byRelease[n]])
		}
		left[urgent] -= until - at
		if at = until; left[urgent] == 0 {
			ready = ready[:len(ready)-1]
		}
	}
	return true
}

// fitTogether is [load.fits] of tasks that are all released together.
func (l *load) fitTogether(with []bool) bool {
	for i, work := 0, time.Duration(0); i < len(l.tasks); i++ {
		if !with[i] {
			continue
		}
		if work += l.tasks[i].Left; work > l.end[i]-l.start[i] {
			return false
		}
	}
	return true
}
