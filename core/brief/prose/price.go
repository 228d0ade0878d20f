package prose

import (
	"cmp"
	"slices"
	"strings"
)

// cost is a price in the text, or what is left of the mark, as it is said.
type cost struct {
	span
	percent float64
	points  bool
	half    bool // said as a part of the credit
	kept    bool // it was said as what is left
}

// prices are the amounts of a sentence that lateness may cost, in their order.
func (r *reader) prices(s span) []cost {
	out := append(r.unitPrices(s), r.fractions(s)...)
	for _, way := range priceWays {
		for _, m := range way.cue.all(r.digits, s) {
			c, ok := way.read(number(group(r.digits, m, 1)), number(group(r.digits, m, 2)))
			if !ok || c.percent == 0 {
				continue
			}
			if c.span = firstGroup(m); way.instead {
				c.span = span{m[0], m[1]}
			}
			out = slices.DeleteFunc(out, func(o cost) bool { return way.instead && o.overlaps(c.span) })
			out = append(out, c)
		}
	}
	slices.SortFunc(out, func(a, b cost) int { return a.start - b.start })
	if len(out) > 0 { // further ones need no unit: "10 % on the first day, 30 from the second on"
		last := out[len(out)-1]
		for _, m := range bareNext.all(r.digits, span{last.end, s.end}) {
			at := firstGroup(m)
			if v := number(r.digits[at.start:at.end]); v > 0 {
				out = append(out, cost{span: at, percent: v, points: last.points})
			}
		}
	}
	return out
}

// priceWays are ways to say a price otherwise than as an amount with its unit: what they read from the numbers of a
// match, and whether that stands instead of what else was read there.
var priceWays = []struct {
	cue     pattern
	read    func(one, two float64) (cost, bool)
	instead bool
}{
	{rule(`\b(` + num + `) (?:out )?of (?:(?:the|its|their|your|these|all) )?` + num + ` (?:points?|marks?|pts)\b`),
		lostPoints, true}, // "0.5 of its 10 points"
	{rule(`\b(?:out of|from|on) (` + num + `)(?: {marks})? (?:instead of|and not|rather than|not) (` + num + `)\b`),
		func(left, whole float64) (cost, bool) {
			return cost{percent: whole - left, points: true, half: true}, left < whole
		},
		false},
	{rule(`\b(?:multiplied by|times|(?:a )?factor(?: of)?) (0\.\d+)`),
		func(factor, _ float64) (cost, bool) { return cost{percent: 100 - 100*factor, half: true}, true }, false},
	{rule(`\b{keptpoints}(?: only)?(?: at most| no more than|` +
		` up to)? ({num})(?: {marks})? of (?:the )?({num}) (?:points?|marks?)\b`),
		func(left, whole float64) (cost, bool) {
			return cost{percent: whole - left, points: true, half: true}, left < whole && left >= whole/2
		}, true},
	{rule(`\b({num}) \((?:out )?of (?:the )?({num})\)`), // "lowered by 2 (of 20)"
		func(lost, whole float64) (cost, bool) { return cost{percent: lost, points: true}, lost < whole }, false},
	{rule(`\bcan(?: still)? (?:get|earn|reach|score)(?: only| at most| up to| no more than)? ({num})(?: at (?:the )?most)?` +
		`(?:[,;.]|$)`),
		func(left, _ float64) (cost, bool) {
			return cost{percent: 100 - left, kept: true}, left >= 40 && left < 100
		}, true},
	{rule(`\b(?:best|highest|top)(?: possible)? (?:mark|grade|score|result)(?: \w+){0,2}? (?:is|of|:|=) ({num}) ?(?:%|per)`),
		func(left, _ float64) (cost, bool) {
			return cost{percent: 100 - left, kept: true}, left < 100
		}, true},
	{rule(`\b(?:starts?|counts?) (?:from|at) ({num})(?: {marks})?,? (?:and )?(?:not|instead of|rather than)(?: from| at)? ({num})`),
		func(left, whole float64) (cost, bool) {
			return cost{percent: whole - left, points: whole != 100, kept: true}, left < whole
		}, true},
	// "5 pts, -1 if late"
	{rule(`[ ,(]-({num}) (?:if|when)(?: it's| it is| you're| you are)? {belated}\b`), lostPoints, false},
	{rule(`\b(?:({num})(?: {marks})?(?: is| are) (?:the most|all)(?: that)? (?:you|it|one|they) can(?: still)? ` +
		`(?:get|earn|have|score|reach)\b[^.;]{0,12}\bof ({num}))\b`), leftOf, true},
	{rule(`\b(?:gets?|earns?|reach|scores?|receives?|marked|graded|counts?)\b[^.;\d]{0,40}\b({num})(?: {marks})? ` +
		`out of (?:the )?({num})\b`), leftOf, true},
	{rule(`\bhalv(?:e|es|ed|ing) (?:the |your |its )?(?:marks?|grade|points|credit|result|score|value|worth)\b|` +
		`\b(?:mark|grade|credit|score|result) is halved\b`),
		func(_, _ float64) (cost, bool) { return cost{percent: 50, half: true}, true }, false},
}

func leftOf(left, whole float64) (cost, bool) {
	return cost{percent: whole - left, points: true, half: true}, left < whole
}

func lostPoints(lost, _ float64) (cost, bool) { return cost{percent: lost, points: true}, true }

// unitPrices are amounts with a unit: "5 %", "half a point".
func (r *reader) unitPrices(s span) (out []cost) {
	for _, m := range price.all(r.digits, s) {
		if m[0] > s.start && (isLetter(r.digits[m[0]-1]) || isDigit(r.digits[m[0]-1]) || r.digits[m[0]-1] == '.') {
			continue
		}
		word, unit, after := group(r.digits, m, 1), group(r.digits, m, 2), r.digits[m[1]:s.end]
		v := number(word)
		switch word {
		case "a":
			v = 1
		case "half a":
			v = 0.5
		}
		switch {
		case unit == "p" && strings.HasPrefix(after, ".m"): // a time of day
		case word == "a" && (strings.HasPrefix(after, " out of") ||
			!startsWith(unit, "point", "mark")): // "a mark out of 70 instead of 100"
		case strings.HasPrefix(unit, "pt") && v >= 8 && v <= 14 && styleWord.in(r.digits[s.start:s.end]): // a size of letters
		case v == 0 || ofZero.MatchString(after):
		default:
			points := unit == "p" || startsWith(unit, "point", "pt", "m")
			out = append(out, cost{span: span{m[0], m[1]}, percent: v, points: points})
		}
	}
	return out
}

// fractions are parts of the mark in words, or in figures: "half the marks", "1/3 of the points".
func (r *reader) fractions(s span) (out []cost) {
	for _, m := range fraction.all(r.digits, s) {
		at := firstGroup(m)
		if ofGrade.MatchString(r.digits[at.end:s.end]) {
			continue // of a letter, which has no points
		}
		word := strings.TrimPrefix(strings.TrimLeft(r.digits[at.start:at.end], "01 "), "a ")
		half := word == "half" && !ofTheWhole.MatchString(r.digits[m[0]:m[1]]) &&
			!mostOf.MatchString(r.digits[s.start:at.start])
		end := m[1]
		if each := perCue.first(r.digits, span{at.end, s.end}); each != nil && each[0] < end {
			end = at.end // "a tenth per day"
		}
		out = append(out, cost{span: span{at.start, end}, percent: shares[word], half: half})
	}
	for _, m := range share.all(r.digits, s) {
		at := span{m[2], m[5]}
		many, part := strings.TrimRight(group(r.digits, m, 1), "an"), strings.TrimSuffix(group(r.digits, m, 2), "s")
		v := number(cmp.Or(many, "1")) * shares[part]
		if slices.ContainsFunc(out, func(c cost) bool { return c.overlaps(at) }) || v <= 0 || v >= 100 ||
			ofTime.MatchString(r.digits[at.end:s.end]) || ofGrade.MatchString(r.digits[at.end:s.end]) {
			continue
		}
		out = append(out, cost{span: at, percent: v})
	}
	return out
}

// ofTime says that it is a part of a stretch of time, or the like.
var ofTime = regexpOf(`^(?: of)? (?:an?|the) (?:hours?|days?|minutes?|pages?|weeks?|semester|term|year|course)\b`)

// shares are parts of a whole in per cent; of those in figures what stands behind the one.
var shares = map[string]float64{
	"half": 50, "tenth": 10, "quarter": 25, "third": 100.0 / 3, "quarters": 75, "fifth": 20, "sixth": 100.0 / 6,
	"eighth": 12.5, "twentieth": 5,
	"/2": 50, "/3": 100.0 / 3, "/4": 25, "/5": 20, "/10": 10,
}

var (
	price = rule(`(` + num + `|half a|a)[ -]?(?:grade |penalty |raw |whole )?(%|percentage points?|percent\b|per cent\b|` +
		`points?\b|marks?\b|pts?\b|p\b)`)
	fraction = rule(`{fraction}`)
	share    = rule(`{share}`)
	bareNext = rule(`(?:[,;]|\band) (?:otherwise |then |and |but )?({num}) (?:from|on|after|for|if|thereafter|within) |` +
		`\b{later},? (?:it(?:'s| is) |with |costs? )?({num})[^\w%]*$`)
	ofTheWhole = regexpOf(` of (?:the )?(?:total|available|possible|maximum|full)\b`)
	mostOf     = regexpOf(`\b(?:no|not) more than $|\b(?:at most|a maximum of|up to) $`)
	ofGrade    = regexpOf(`^ of an? (?:letter )?grade\b`)
	ofZero     = regexpOf(`^ of (?:zero|0)`)
)
