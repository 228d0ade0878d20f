package prose

import (
	"math"
	"regexp"
	"slices"
	"strings"
)

var eachFile = rule(`\b(?:each|per|every|no (?:single )?file|any (?:one |single )?file|individual)\b[^.;,]{0,40}$`)

// clauseAround is the part of a sentence between commas that holds a stretch.
func clauseAround(plain string, s span, from, to int) string {
	for from > s.start && strings.IndexByte(",;:(", plain[from-1]) < 0 {
		from--
	}
	for to < s.end && strings.IndexByte(",;)", plain[to]) < 0 {
		to++
	}
	return plain[from:to]
}

// orphans are bounds whose unit was said before: "at least 800 words; over 1,200 is sent back".
func (r *reader) orphans(list []amount) []amount {
	for _, s := range r.sentences {
		for _, m := range orphan.all(r.digits, s) {
			over := group(r.digits, m, 1) != ""
			after := r.digits[m[1]:s.end]
			v := number(group(r.digits, m, 3))
			if slices.ContainsFunc(list, func(a amount) bool { return a.overlaps(span{m[0], m[1]}) }) ||
				len(after) > 0 && unitAfter.MatchString(after) ||
				(!rejected.in(after) || lateWord.in(r.around(s))) && group(r.digits, m, 4) == "" {
				continue
			}
			if said := group(r.digits, m, 4); said != "" { // "I stop reading at 700", "yours has 8 at most"
				over, v = true, number(said)
			}
			for i := len(list) - 1; i >= 0; i-- {
				a := list[i]
				if a.start < m[0] && a.bare && group(r.digits, m, 4) != "" && v > a.max && v < 2*a.max {
					list[i].min, list[i].max, list[i].bare = math.NaN(), v, false // "600 words will do; I stop at 700"
					break
				}
				if a.start < m[0] && (a.kind == "words" || a.kind == "pages") && v >= 1 &&
					(v > 50 || a.kind == "pages") {
					b := amount{
						span:     span{m[0], m[1]},
						sentence: s,
						kind:     a.kind,
						thing:    a.thing,
						min:      math.NaN(),
						max:      math.NaN(),
					}
					if over {
						b.max = v
					} else {
						b.min = v
					}
					list = append(list, b)
					break
				}
			}
		}
	}
	return list
}

// labelled adds amounts whose unit stands in the label before them: "Word limit: 1500", "Pages | 4 to 6".
func (r *reader) labelled(list []amount) []amount {
	for _, s := range r.sentences {
		m := amountLabel.first(r.digits, s)
		if m == nil || unitAfter.MatchString(r.digits[m[1]:s.end]) || r.foreign(span{m[0], m[1]}, s) ||
			group(r.digits, m, 2)+group(r.digits, m, 3) == "" && !strings.ContainsAny(r.digits[m[0]:m[1]], ":=|") &&
				!strings.Contains(r.digits[m[0]:m[1]], " is ") ||
			slices.ContainsFunc(list, func(a amount) bool { return a.overlaps(span{m[0], m[1]}) }) {
			continue
		}
		a := amount{span: span{m[0], m[1]}, sentence: s, kind: group(r.digits, m, 1) + "s", min: math.NaN(), max: number(group(r.digits, m, 6))}
		bounded := group(r.digits, m, 3) + group(r.digits, m, 4)
		switch low := group(r.digits, m, 5); {
		case low != "":
			a.min = number(low)
		case strings.Contains(bounded, "min") || strings.Contains(bounded, "least"):
			a.min, a.max = a.max, math.NaN()
		case bounded == "":
			a.min = a.max
		}
		list = append(list, a)
	}
	return list
}

var amountLabel = rule(`\b{amountlabel}?(word|page)s?( count| number)?( limit| m(?:ax|in)(?:imum|\.)?)?\)?(?:{sep}|` +
	` of | is (?:from )?| )(m(?:ax|in)(?:imum)?\.? |at most |at least |up to )?(?:({num}) ?(?:-|to) ?)?({num})\b`)

var unitAfter = regexp.MustCompile(
	`^[ -]?(?:%|per|points?|marks?|[kmg]i?b|days?|hours?|minutes?|seconds?|files?|photos?|words?|pages?|dpi|pt)\b|` +
		`^[ -]?%`,
)

// consolidate reports the amounts of one kind: once each, both bounds together, those of different
// things apart; two values for one thing are asked about.
func (r *reader) consolidate(list []amount) {
	var out []amount
next:
	for _, a := range list {
		for i := range out {
			o := &out[i]
			if same(a.min, o.min) && same(a.max, o.max) {
				continue next
			}
			apart := a.thing != "" && o.thing != "" && a.thing != o.thing
			if apart {
				continue
			}
			if math.IsNaN(a.min) && math.IsNaN(o.max) && a.max > o.min {
				o.max, o.span = a.max, o.span.and(a.span)
				continue next
			}
			if math.IsNaN(a.max) && math.IsNaN(o.min) && a.min < o.max {
				o.min, o.span = a.min, o.span.and(a.span)
				continue next
			}
			if within(a, *o) {
				continue next
			}
		}
		out = append(out, a)
	}
	for i := 0; i < len(out); i++ {
		for k := i + 1; k < len(out); k++ {
			a, b := out[i], out[k]
			if a.sentence == b.sentence || a.thing != b.thing && a.thing != "" && b.thing != "" {
				continue
			}
			if a.bare && !math.IsNaN(b.min) && !math.IsNaN(b.max) && b.min <= a.max && a.max <= b.max {
				out = slices.Delete(out, i, i+1) // "3,000 words; under 2,700 or over 3,300 is returned"
				i--
				break
			}
			above := a.bare && b.max > a.max && b.max < 2*a.max // "1,000 words", and later "the 1,200-word limit"
			if a.bare != b.bare && !above {                     // the one that is said to be a limit is asked for, the other only told
				out = slices.DeleteFunc(out, func(o amount) bool { return o.bare && (o.span == a.span || o.span == b.span) })
				i--
				break
			}
			if !math.IsNaN(a.min) && !math.IsNaN(a.max) && !math.IsNaN(b.min) && !math.IsNaN(b.max) && b.min < a.min && a.max < b.max {
				out = slices.Delete(out, k, k+1) // "1,200 to 1,400 words; under 1,000 or over 1,600 is not marked"
				k--
				continue
			}
			r.ask("The text gives two amounts; which holds: "+r.written(a.span)+" or "+r.written(b.span)+"?", b.span)
			out = slices.Delete(slices.Delete(out, k, k+1), i, i+1)
			i--
			break
		}
	}
	for _, a := range out {
		if strings.HasPrefix(a.kind, "max_") {
			r.find(a.kind, int64(math.Round(a.max)), a.span, 0.95)
		} else {
			r.find(a.kind, a.bounds(), a.span, 0.9)
		}
		r.found[len(r.found)-1].Thing = a.thing
	}
}

// within says that an amount only repeats another less precisely.
func within(a, o amount) bool {
	return a.bare && !math.IsNaN(o.min) && !math.IsNaN(o.max) && o.min != o.max && a.max == (o.min+o.max)/2
}
