package prose

import (
	"math"
	"slices"
	"strings"

	"orario/core/timing"
)

// steps reads prices that hold for different stretches of lateness.
func (r *reader) steps(s span, prices []cost) (out []timing.Step, last float64, ok bool) {
	if len(prices) < 2 || len(prices) > mostSteps {
		return nil, 0, false
	}
	// Each price goes with the stretch nearest to it, before the next price or after the last.
	type bound struct {
		span
		lower, upper float64 // minutes; -1: not said
		then         bool
	}
	var bounds []bound
	for _, m := range rangeBound.all(r.digits, s) { // "24-48 hours"
		unit := map[byte]float64{'h': 60, 'd': 1440}[group(r.digits, m, 3)[0]]
		bounds = append(bounds, bound{span{m[0], m[1]}, unit * number(group(r.digits, m, 1)), unit * number(group(r.digits, m, 2)), false})
	}
	for _, m := range lowerBound.all(r.digits, s) {
		if denies.MatchString(r.digits[s.start:m[0]]) || slices.ContainsFunc(bounds, func(o bound) bool { return o.overlaps(span{m[0], m[1]}) }) {
			continue // "no more than two days"
		}
		bounds = append(bounds, bound{span{m[0], m[1]}, minutesOf(r.digits, m, 1), -1, false})
	}
	for _, m := range upperBound.all(r.digits, s) {
		b := bound{span{m[0], m[1]}, -1, -1, false}
		if slices.ContainsFunc(bounds, func(o bound) bool { return o.overlaps(b.span) }) {
			continue
		}
		switch {
		case group(r.digits, m, 2) != "":
			b.upper = minutesOf(r.digits, m, 1)
			if text := r.digits[m[0]:m[1]]; strings.Contains(text, "next") || strings.Contains(text, "further") ||
				strings.Contains(text, "another") ||
				strings.Contains(text, "following") {
				b.then = true
			}
		case group(r.digits, m, 4) != "":
			unit := map[byte]float64{'d': 1440, '2': 1440, 'h': 60, 'w': 7 * 1440}[group(r.digits, m, 4)[0]]
			n := ordinals[group(r.digits, m, 3)]
			if n == 0 { // next, same
				n, b.then = 1, group(r.digits, m, 3) == "next"
			}
			b.upper = unit * float64(n)
			if !b.then {
				b.lower = unit * float64(n-1)
			}
		case group(r.digits, m, 9) != "": // the day was named before: "on the first day, on the second"
			n := float64(ordinals[group(r.digits, m, 9)])
			b.lower, b.upper = 1440*(n-1), 1440*n
		case group(r.digits, m, 8) != "": // two days late
			b.upper = minutesOf(r.digits, m, 7)
		default:
			unit := map[byte]float64{'d': 1440, 'h': 60}[group(r.digits, m, 5)[0]]
			n := number(group(r.digits, m, 6))
			b.lower, b.upper = unit*(n-1), unit*n
		}
		bounds = append(bounds, b)
	}
	for _, c := range prices { // "two days 15%"
		near := max(s.start, c.start-40)
		if m := spanBefore.FindStringSubmatchIndex(r.digits[near:c.start]); m != nil {
			at := span{near + m[0], near + m[1]}
			if !slices.ContainsFunc(bounds, func(b bound) bool { return b.overlaps(at) }) {
				bounds = append(bounds, bound{at, -1, minutesOf(r.digits, shift(m, near), 1), false})
			}
		}
	}
	for _, c := range prices { // "10% one day, 20% two days"
		if m := spanAfter.FindStringSubmatchIndex(r.digits[c.end:min(s.end, c.end+40)]); m != nil {
			at := span{c.end + m[0], c.end + m[1]}
			if !slices.ContainsFunc(bounds, func(b bound) bool { return b.overlaps(at) }) {
				bounds = append(bounds, bound{at, -1, minutesOf(r.digits, shift(m, c.end), 1), false})
			}
		}
	}
	for _, m := range thereafter.all(r.digits, s) {
		if !slices.ContainsFunc(bounds, func(b bound) bool { return b.overlaps(span{m[0], m[1]}) }) {
			bounds = append(bounds, bound{span{m[0], m[1]}, -1, -1, true})
		}
	}
	slices.SortFunc(bounds, func(a, b bound) int { return a.start - b.start })
	if len(bounds) < 2 {
		return nil, 0, false
	}
	used := map[int]bool{}
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
		if best < 0 || used[best] {
			continue
		}
		used[best] = true
		b := bounds[best]
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
		if len(out) > 0 && from <= out[len(out)-1].AfterMinutes {
			continue
		}
		out = append(out, timing.Step{AfterMinutes: from, Percent: c.percent})
	}
	if len(out) < 2 || slices.ContainsFunc(out, func(s timing.Step) bool { return math.IsNaN(s.AfterMinutes) }) {
		return nil, 0, false
	}
	return out, last, true
}

var rangeBound = rule(`\b({num}) ?(?:h|hours?|days?)? ?(?:-|to|and) ?({num}) ?(hours?|h|days?)\b`)

var denies = regexpOf(`\b(?:no|not) $`)

// mostSteps is more than any rule has.
const mostSteps = 20

// spanAfter is one right behind it.
var spanAfter = regexpOf(`^ ` + duration + `(?: late)?[,;.]`)

// spanBefore is a stretch of time right before its price.
var spanBefore = regexpOf(`\b` + duration + `[:,]? ?(?:costs? |minus |-|late:? )?$`)
