package prose

import (
	"math"
	"slices"

	"orario/core/timing"
)

// bound is a stretch of lateness, in minutes; -1 where an end is not said.
type bound struct {
	span
	lower, upper float64
	then         bool // it counts from the end of the one before
}

// steps reads prices that hold for different stretches of lateness; last is where the last of them ends, 0 for never.
func (r *reader) steps(s span, prices []cost) (out []timing.Step, last float64, ok bool) {
	if len(prices) == 0 || len(prices) > mostSteps {
		return nil, 0, false
	}
	bounds := r.bounds(s, prices)
	if len(bounds) < 2 {
		return nil, 0, false
	}
	prices = r.bareSteps(s, prices, bounds)
	if len(prices) < 2 {
		return nil, 0, false
	}
	for i, k := range pairs(prices, bounds) {
		if k < 0 {
			continue
		}
		b := bounds[k]
		from := b.lower
		if from < 0 {
			from = last
		}
		switch {
		case b.upper > 0 && b.then:
			last = from + b.upper
		case b.upper > 0:
			last = b.upper
		default:
			last = 0 // without end
		}
		if len(out) == 0 || from > out[len(out)-1].AfterMinutes {
			out = append(out, timing.Step{AfterMinutes: from, Percent: prices[i].percent})
		}
	}
	if n := len(out) - 1; n > 0 && out[n].Percent >= 100 && !prices[0].points { // "else 100 %"
		out, last = out[:n], out[n].AfterMinutes
	}
	if len(out) < 2 || slices.ContainsFunc(out, func(s timing.Step) bool { return math.IsNaN(s.AfterMinutes) }) {
		return nil, 0, false
	}
	return out, last, true
}

// bareSteps adds the prices of further stretches that are told without their unit: "80 % on Friday, 60 on Saturday".
func (r *reader) bareSteps(s span, prices []cost, bounds []bound) []cost {
	first, all := prices[0], slices.Clone(prices)
	free := func(at span) bool {
		return !slices.ContainsFunc(all, func(c cost) bool { return c.overlaps(at) }) &&
			!slices.ContainsFunc(bounds, func(b bound) bool { return b.overlaps(at) })
	}
	for _, b := range bounds {
		var m []int
		if first.start < bounds[0].start {
			near := max(s.start, b.start-20)
			m = shift(bareBefore.FindStringSubmatchIndex(r.digits[near:b.start]), near)
		} else {
			m = shift(bareBehind.FindStringSubmatchIndex(r.digits[b.end:s.end]), b.end)
		}
		if m == nil || !free(span{m[2], m[3]}) {
			continue
		}
		v := number(r.digits[m[2]:m[3]])
		if first.kept {
			v = 100 - v
		}
		if v > 0 && (v < 100 || first.points) {
			all = append(all, cost{span{m[2], m[3]}, v, first.points, first.half, first.kept})
		}
	}
	slices.SortFunc(all, func(a, b cost) int { return a.start - b.start })
	return all
}

// bareBehind and bareBefore are amounts without a unit at a stretch of lateness.
var (
	bareBehind = regexpOf(`^(?: late)?[,:]? ?(?:it(?:'s| is) |minus |costs? |deduct |is |you (?:get|lose) |- ?)?(` + num +
		`)(?:[,;.]|$| and )`)
	bareBefore = regexpOf(`(?:^|[,;] |\band |\bthen )(?:minus |- ?)?(` + num + `) (?:on|after|by|until|from|for|within|up to)(?: the)? $`)
)

// pairs gives each price the stretch nearest to it, before the next price or after the last; -1 where there is none.
func pairs(prices []cost, bounds []bound) []int {
	out, used := make([]int, len(prices)), map[int]bool{}
	priceFirst := prices[0].start < bounds[0].start
	for i, c := range prices {
		best := -1
		for k, b := range bounds {
			if used[k] {
				continue
			}
			if priceFirst && b.start >= c.end && (i+1 == len(prices) || b.start < prices[i+1].start) ||
				!priceFirst && b.end <= c.start && (i == 0 || b.start >= prices[i-1].end) {
				best = k
				if priceFirst {
					break
				}
			}
		}
		if best < 0 && i > 0 { // "80 % on the first day, then 50 %"
			best = slices.IndexFunc(bounds, func(b bound) bool {
				return b.then && b.end <= c.start && b.start >= prices[i-1].end
			})
		}
		if out[i] = best; best >= 0 && used[best] {
			out[i] = -1
		}
		used[best] = true
	}
	return out
}

// bounds are the stretches of lateness that a sentence names, in their order.
func (r *reader) bounds(s span, prices []cost) (bounds []bound) {
	add := func(b bound) {
		if !slices.ContainsFunc(bounds, func(o bound) bool { return o.overlaps(b.span) }) {
			bounds = append(bounds, b)
		}
	}
	for _, m := range rangeBound.all(r.digits, s) { // "24-48 hours"
		unit := map[byte]float64{'h': 60, 'd': 1440}[group(r.digits, m, 3)[0]]
		bounds = append(bounds, bound{span{m[0], m[1]}, unit * number(group(r.digits, m, 1)), unit * number(group(r.digits, m, 2)), false})
	}
	ranges := bounds
	for _, m := range lowerBound.all(r.digits, s) {
		at := span{m[0], m[1]}
		if !denies.MatchString(r.digits[s.start:m[0]]) &&
			!slices.ContainsFunc(ranges, func(o bound) bool { return o.overlaps(at) }) { // and not "no more than two days"
			bounds = append(bounds, bound{at, minutesOf(r.digits, m, 1), -1, false})
		}
	}
	for _, m := range upperBound.all(r.digits, s) {
		add(r.upTo(m))
	}
	for _, c := range prices { // "two days 15%"
		near := max(s.start, c.start-40)
		if m := shift(spanBefore.FindStringSubmatchIndex(r.digits[near:c.start]), near); m != nil {
			add(bound{span{m[0], m[1]}, -1, minutesOf(r.digits, m, 1), false})
		}
	}
	for _, c := range prices { // "10% one day, 20% two days"
		if m := shift(spanAfter.FindStringSubmatchIndex(r.digits[c.end:min(s.end, c.end+40)]), c.end); m != nil {
			add(bound{span{m[0], m[1]}, -1, minutesOf(r.digits, m, 1), false})
		}
	}
	for _, m := range elidedSpan.FindAllStringSubmatchIndex(r.digits[s.start:s.end], -1) {
		at := shift(m, s.start)
		if unit := lastUnit.FindStringSubmatch(r.digits[:at[2]]); unit != nil {
			minutes := number(group(r.digits, at, 1)) * 60 * hoursIn(unit[1])
			add(bound{span{at[2], at[3]}, -1, minutes, false})
		}
	}
	for _, m := range bareSpan.FindAllStringSubmatchIndex(r.digits[s.start:s.end], -1) {
		at := shift(m, s.start)
		add(bound{span{at[2], at[5]}, -1, minutesOf(r.digits, at, 1), false})
	}
	for _, b := range r.wallBounds(s) {
		add(b)
	}
	for _, m := range thereafter.all(r.digits, s) {
		add(bound{span{m[0], m[1]}, -1, -1, true})
	}
	slices.SortFunc(bounds, func(a, b bound) int { return a.start - b.start })
	return bounds
}

// upTo reads a match of [upperBound].
func (r *reader) upTo(m []int) bound {
	b := bound{span{m[0], m[1]}, -1, -1, false}
	nth := func(n, unit float64) { b.lower, b.upper = unit*(n-1), unit*n }
	switch {
	case group(r.digits, m, 2) != "":
		b.upper = minutesOf(r.digits, m, 1)
		b.then = goesFurther.MatchString(r.digits[m[0]:m[1]])
	case group(r.digits, m, 4) != "":
		unit := map[byte]float64{'d': 1440, '2': 1440, 'h': 60, 'w': 7 * 1440}[group(r.digits, m, 4)[0]]
		n := ordinals[group(r.digits, m, 3)]
		if n == 0 { // next, same
			b.upper, b.then = unit, group(r.digits, m, 3) == "next"
		}
		if !b.then {
			nth(float64(max(1, n)), unit)
		}
	case group(r.digits, m, 9) != "": // the day was named before: "on the first day, on the second"
		nth(float64(ordinals[group(r.digits, m, 9)]), 1440)
	case group(r.digits, m, 8) != "": // two days late
		b.upper = minutesOf(r.digits, m, 7)
	default:
		nth(number(group(r.digits, m, 6)), map[byte]float64{'d': 1440, 'h': 60}[group(r.digits, m, 5)[0]])
	}
	return b
}

var (
	// elidedSpan is one whose unit was said before: "up to two days 20 %, up to three, 30".
	elidedSpan = regexpOf(`\b(?:up to|within|by) (` + num + `)[.,:;](?: |$)`)
	lastUnit   = regexpOf(`^[\s\S]*\b(minute|hour|day|week)s?\b`)
	// bareSpan is one with no more than its price behind it: "two days 80".
	bareSpan = regexpOf(`\b` + duration + `,? ` + num + `(?:[,;.]|$)`)
)

// goesFurther says that a stretch begins where the one before ends.
var goesFurther = regexpOf(`next|further|another|following`)

var rangeBound = rule(`\b({num}) ?(?:h|hours?|days?)? ?(?:-|to|and) ?({num}) ?(hours?|h|days?)\b`)

var denies = regexpOf(`\b(?:no|not) $`)

// mostSteps is more than any rule has.
const mostSteps = 20

// spanAfter is one right behind it.
var spanAfter = regexpOf(`^ ` + duration + `(?: late)?[,;.]`)

// spanBefore is a stretch of time right before its price.
var spanBefore = regexpOf(`\b` + duration + `[:,]? ?(?:= ?)?(?:costs? |minus |-|late:? )?$`)
