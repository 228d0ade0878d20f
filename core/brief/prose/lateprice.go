package prose

import (
	"cmp"
	"slices"
	"strings"

	"orario/core/timing"
)

var (
	lateCue = ways{rule(`\b{lateword}\b`), rule(`/ ?(?:day|h)\b`)}
	// An amount without a unit is in points.
	bareLoss = rule(`{bareloss}`)
	perCue   = rule(`{per}`)
	nextSpan = rule(`\b(?:with)?in the (?:following|next) {duration}`)
	// Each of several days costs something: "for another two days, each of which costs 4 marks".
	ofEachDay  = rule(`\b(days|hours),? each(?: of (?:which|them|these))?(?: one)? (?:at|costs?|for|costing|takes?)\b`)
	eachOfDays = rule(`\b(days|hours)\b{..} $`)
	workingDay = rule(`{workingday}`)
	capCue     = rule(`(?:\b{cap}\s*)$`)
	// A most without a unit is in that of the price.
	bareCap  = rule(`{barecap}`)
	capAfter = rule(`^\W{0,3}(?:and no more|in the worst case|at worst|at (?:the )?(?:very )?most|max(?:imum)?|in total|` +
		`altogether|in all|is the {mostword}|tops|cap|as (?:a|the) {mostword})\b`)
	floorCue  = rule(`{floor}`)
	earnedCue = rule(`{earned}`)
	limitCues = []pattern{
		rule(`\b{upto}(?: another| a further| the)? {duration}(?: \w+)? (?:late|after|past|following|beyond|delay|` +
			`of delay|of lateness|overdue)\b`),
		rule(`{duration} (?:after|past|later|afterwards|following|beyond)\b[^.;]{0,60}\b{ended}\b`),
		rule(`\b(?:locks?|locked|clos\w+|shuts?|ends?|offline|(?:turns|switches)(?: itself)? off|limit|accept\w*|` +
			`taken?)\b[^.;]{0,40}?` + duration + ` (?:after|past|` +
			`later|afterwards|following|beyond)\b`,
		),
		rule(`\b(?:up to|for(?: up to| at most| a maximum of| a further| another)?|max(?:imum)?\.?(?: of)?|at most|` +
			`a maximum of|(?:no|` +
			`not) (?:more|longer) than) ` + duration,
		),
	}
	limitRefusal = rule(`\b(?:after|more than|beyond|over|past|later than|once)(?: the| that| those| these|` +
		` a delay of| a further)? ` + duration)
	refusedLate = rule(`\b{refusedlate}\b`)
	fromDay     = rule(`\b(?:from|as of|on) (?:the (\w+) day|day (\d+))(?: on(?:wards?)?| after| late)?\b`)
	sameDay     = rule(`\b(?:only on the same day|the same day only|only (?:until|to) the end of (?:the same|that) day|` +
		`until midnight of the same day|on the same day only)\b`,
	)
	thereafter = rule(`{thereafter}`)
	upperBound = rule(`{within}`)
	lowerBound = rule(`\b(?:after|more than|over|beyond|from|past|longer than)(?: the first| the)? ` + duration)
)

// minutesOf reads a duration from two groups of a match.
func minutesOf(plain string, m []int, n int) float64 {
	amount, unit := group(plain, m, n), group(plain, m, n+1)
	if unit == "" {
		return 0
	}
	v := 1.0
	switch amount {
	case "half an", "half":
		v = 0.5
	case "a", "an", "":
	default:
		v = number(amount)
	}
	if strings.HasSuffix(plain[m[0]:m[1]], " and a half") {
		v += 0.5
	}
	return v * map[byte]float64{'m': 1, 'h': 60, 'd': 1440, 'w': 7 * 1440, 'f': 14 * 1440}[unit[0]]
}

// rate finds what lateness costs in a sentence.
func (r *reader) rate(s span) (l Late, at span, last float64, ok bool) {
	text := r.digits[s.start:s.end]
	prices := r.losses(s)
	if len(prices) == 0 {
		return l, at, 0, false
	}
	kept := r.kept(prices[0], s)
	whole := r.withSteps(s)
	all := prices
	if whole != s {
		all = append(slices.Clone(prices), r.pricesOrBare(span{s.end, whole.end})...)
	}
	if kept || r.falling(all) && !lossCue.in(text) {
		after := r.digits[prices[0].end:s.end]
		atMost := keptMost.MatchString(after) || strings.HasPrefix(after, " at ") ||
			mostOf.MatchString(r.digits[s.start:prices[0].start]) && !ofCredit.MatchString(after)
		for i := range all {
			all[i].percent, all[i].half, all[i].kept = 100-all[i].percent, kept && !atMost, true
		}
		prices = all
	}
	if steps, last, ok := r.steps(whole, all); ok {
		return Late{Kind: timing.Steps, Of: r.priceOf(prices[0], text), Steps: steps}, whole, last, true
	}
	first := prices[0]
	if r.isCap(first, s) && len(prices) > 1 && !kept {
		first = prices[1]
	}
	if len(prices) == 1 && !first.points && !kept && keptCeiling.in(r.digits[s.start:first.start]) {
		first.percent = 100 - first.percent // "marked, but with a ceiling of 40 %"
		l = Late{Kind: timing.Fixed, Percent: &first.percent, Of: "possible"}
		return l, first.span, 0, true
	}
	percent := first.percent
	l = Late{Percent: &percent, Of: r.priceOf(first, text)}
	if at, ok = r.perSpan(s, first, &l); ok {
		return l, at, 0, true
	}
	said := lateWord.in(text) || stillTaken.in(text) || nextSpan.in(text) || lateLabel.in(text) || r.closesIn(s) || r.pastDue(s) || len(r.wallBounds(s)) > 0 ||
		itCosts.MatchString(text)
	costs := lossCue.in(text) || lateLabel.in(text) || strings.Contains(text, "?") || first.half || first.kept
	if said && costs && !capOnly.in(text) {
		l.Kind = timing.Fixed
		return l, first.span, 0, true
	}
	return l, first.span, 0, false
}

// losses are the prices of a sentence that lateness costs: without what the work is worth, and what something that
// lacks costs.
func (r *reader) losses(s span) []cost {
	text := r.digits[s.start:s.end]
	prices := slices.DeleteFunc(r.prices(s), func(c cost) bool {
		before := r.digits[max(s.start, c.start-40):c.start]
		return worthCue.in(before) && !c.half && !r.kept(c, s) || ofTotal.in(before) && c.points ||
			lacking.in(before[strings.LastIndex(before, " and ")+1:]) || forLacking.MatchString(r.digits[c.end:s.end])
	})
	if len(prices) > 1 && (r.worthFirst(s, prices) ||
		prices[0].end <= prices[1].start && lessNext.MatchString(r.digits[prices[0].end:prices[1].start])) {
		prices = prices[1:] // "50 points, less 5 for every day"
	}
	if len(prices) == 0 && (lateWord.in(text) || perCue.in(text)) && !lacking.in(text) {
		return r.bareLosses(s)
	}
	return prices
}

// bareLosses are prices without a unit, which are in points: "minus 2".
func (r *reader) bareLosses(s span) (out []cost) {
	for _, m := range bareLoss.all(r.digits, s) {
		at := firstGroup(m)
		if !otherUnit.MatchString(r.digits[at.end:]) && !noun.MatchString(r.digits[at.end:]) {
			out = append(out, cost{span: at, percent: number(r.digits[at.start:at.end]), points: true})
		}
	}
	return out
}

func (r *reader) pricesOrBare(s span) []cost {
	if prices := r.prices(s); len(prices) > 0 {
		return prices
	}
	return r.bareLosses(s)
}

// worthFirst says that the first of several amounts is what the work is worth: "100 points, late models lose 15 % a
// day".
func (r *reader) worthFirst(s span, prices []cost) bool {
	cue := lateWord.first(r.digits, s)
	if cue == nil || prices[0].end >= cue[0] || prices[1].start <= cue[0] ||
		startsWith(r.digits[cue[0]:], "after", "later") {
		return false
	}
	between := r.digits[prices[0].end:cue[0]]
	return strings.Contains(between, ",") && !perCue.in(between)
}

// withSteps is a sentence with those behind it that name further steps.
func (r *reader) withSteps(s span) span {
	for _, next := range r.sentences {
		if next.start < s.end || next.start-s.end >= 4 || len(r.pricesOrBare(next)) == 0 {
			continue
		}
		said := r.digits[next.start:next.end]
		if spanStart.MatchString(said) || elidedSpan.MatchString(said) || upperBound.in(said) || thereafter.in(said) || lowerBound.in(said) ||
			rangeBound.in(said) {
			s.end = next.end
		}
	}
	return s
}

// priceOf is of what a price is taken.
func (r *reader) priceOf(c cost, text string) string {
	switch {
	case c.points:
		return "points"
	case c.half || earnedCue.in(text) || strings.HasPrefix(r.digits[c.end:], " credit"):
		return "earned"
	}
	return "possible"
}

// perSpan finds per what stretch of lateness a price is taken.
func (r *reader) perSpan(s span, price cost, l *Late) (at span, ok bool) {
	for _, m := range perCue.all(r.digits, s) {
		between := m[0] - price.end
		if m[0] < price.start {
			between = price.start - m[1]
		}
		if between > 70 || between < -2 || untilThen.MatchString(r.digits[s.start:m[0]]) {
			continue
		}
		many := 1.0
		if n := group(r.digits, m, 2); n != "" {
			many = number(n)
		}
		unit := cmp.Or(group(r.digits, m, 3), group(r.digits, m, 4), group(r.digits, m, 5))
		hours := many * hoursIn(unit)
		l.Kind, l.Hours = timing.PerHours, hours
		if hours == 24 {
			l.Kind, l.Hours = timing.PerDay, 0
		}
		l.WeekendsFree = l.WeekendsFree || hours >= 24 && unit[0] != 'w' && group(r.digits, m, 1) != "" || unit == "weekday"
		return span{min(price.start, m[0]), max(price.end, m[1])}, true
	}
	m := ofEachDay.first(r.digits, s)
	if m == nil && strings.HasPrefix(r.digits[price.end:], " each") { // "the two days after that are 15 % each"
		m = eachOfDays.first(r.digits, span{s.start, price.start})
	}
	if m != nil && m[1] <= price.start {
		l.Kind = timing.PerDay
		if group(r.digits, m, 1) == "hours" {
			l.Kind, l.Hours = timing.PerHours, 1
		}
		return span{m[0], price.end}, true
	}
	return at, false
}

// hoursIn is how many hours a unit of time has.
func hoursIn(unit string) float64 {
	switch {
	case strings.HasPrefix(unit, "half"):
		return 12
	case startsWith(unit, "d", "24", "weekday"):
		return 24
	case unit[0] == 'w':
		return 168
	case unit[0] == 'm':
		return 1.0 / 60
	}
	return 1
}

var (
	forLacking = regexpOf(`^[^.;,]{0,6} ?(?:for|per) (?:every |each |any |wrong |missing )?\w+ (?:(?:that|which) (?:is|` +
		`are) )?` +
		`(?:missing|lacking|wrong|forgotten)`)
	lacking = rule(`\b(?:missing|lacking|wrong|forgotten)\b`)
)

// What is left of the mark, where that is said and not what is lost: "gets eighty percent of its mark".
var (
	keptShare = regexpOf(`\b(?:gets?|receives?|earns?|keeps?|retains?|reach|reaches|score|achieve|attain|(?:is|` +
		`are) worth|counts?(?: for)?|` +
		`marked at)(?: only| just| at most| up to| a maximum of| no more than)* (?:0*3 )?$`)
	keptMost = regexpOf(`^ of (?:the|its|all) {marks} (?:at (?:the )?(?:most|best)|remain|stay|can be (?:had|got|` +
		`earned))\b|^ (?:is|are) (?:what|all)\b`)
	keptOf = regexpOf(`^ (?:of (?:its|their|the|your|what)|(?:of )?credit|at (?:best|most))\b`)
)

// lateLabel is a line about lateness, whose price needs no verb: "If late: 10 marks".
var lateLabel = rule(`^\W*(?:(?:if |when )?(?:it is )?(?:too )?{belated}(?: \w+){0,4}|penalt(?:y|ies)|` +
	`deductions?)\W*[:=|]`)

// keptCeiling leads to the most that late work can still get.
var keptCeiling = rule(`\b(?:{stillgets})\b{..} (?:(?:{mostword}|max\.?)(?: mark| score| grade)?(?: of| at)?|capped at|` +
	`limited to|no more than|up to|at most) $|\b(?:is|are|will be) (?:capped at|limited to) $`)

var ofCredit = regexpOf(`^ of (?:the |its |their |your )?(?:credit|marks?|grade|points|value)\b`)

// spanStart begins a further step: "two days: minus 12 points".
var spanStart = regexpOf(`^\W*(?:and )?(?:late )?(?:by )?` + duration + `(?: late)?[:,=]? `)

// falling says that prices are what is left from step to step: "up to 12 h late 90 %, up to 24 h 75 %".
func (r *reader) falling(prices []cost) bool {
	return len(prices) > 1 && prices[0].percent < 100 && prices[len(prices)-1].percent >= 20 &&
		slices.IsSortedFunc(prices, func(a, b cost) int { return int(b.percent - a.percent) }) &&
		prices[0].percent > prices[1].percent && !slices.ContainsFunc(prices, func(c cost) bool { return c.points })
}

// closesIn says that a sentence tells until when late work is taken.
func (r *reader) closesIn(s span) bool {
	return slices.ContainsFunc(r.mentions, func(m mention) bool { return m.sentence == s && m.role == closes })
}

// noun is what a number counts, other than marks: "one class".
var noun = regexpOf(`^ (?:class|grade|step|letter|notch|level|rank|chance|try|place)`)

// lessNext stands between a sum and what is taken off it.
var lessNext = regexpOf(`^,? (?:less |minus |-)$`)

// takenAt leads to a share of more than half that stays: "late: up to Thursday, at 75%".
var takenAt = regexpOf(`\b(?:late|accept(?:ed)?|taken?|possible)\b[^.;%]{0,45} at (?:0*3 )?$`)

// kept says that a price is what stays.
func (r *reader) kept(c cost, s span) bool {
	if after := r.digits[c.end:s.end]; c.points || startsWith(after, " less", " off", " lower") {
		return false
	}
	if c.percent >= 60 && keptShare.MatchString(r.digits[s.start:c.start]) {
		return true // "counts ninety per cent"
	}
	return !c.points && c.percent > 50 && takenAt.MatchString(r.digits[s.start:c.start]) || !c.points &&
		keptMost.MatchString(r.digits[c.end:s.end]) ||
		!c.points && keptShare.MatchString(r.digits[s.start:c.start]) && (keptOf.MatchString(r.digits[c.end:s.end]) ||
			strings.HasPrefix(r.digits[c.start:c.end], "quarters"))
}

func (r *reader) isCap(c cost, s span) bool {
	return capCue.in(r.digits[max(s.start, c.start-45):c.start]) || capAfter.in(r.digits[c.end:min(s.end, c.end+30)])
}

// capIn finds the most that lateness costs, where a rate is known.
func (r *reader) capIn(s span, l *Late) {
	if l.Kind == "" || l.Kind == timing.Steps || l.Cap != nil {
		return
	}
	for _, c := range r.prices(s) {
		if r.isCap(c, s) && !r.kept(c, s) && (c.percent != *l.Percent || c.points != (l.Of == "points")) &&
			!ofTotal.in(r.digits[max(s.start, c.start-30):c.start]) {
			most := c.percent
			l.Cap = &most
			return
		}
	}
	for _, m := range bareCap.all(r.digits, s) {
		if most := number(cmp.Or(group(r.digits, m, 1), group(r.digits, m, 2), group(r.digits, m, 3))); most > *l.Percent && (l.Of == "points" &&
			most <= mostPoints || most <= 100) && !otherUnit.MatchString(r.digits[m[1]:]) {
			l.Cap = &most
			return
		}
	}
}
