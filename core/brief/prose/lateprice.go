package prose

import (
	"slices"
	"strings"

	"orario/core/timing"
)

var (
	lateCue = ways{rule(`\b{lateword}\b`), rule(`/ ?(?:day|h)\b`)}
	price   = rule(`(` + num + `|half a|a)[ -]?(?:grade |penalty |raw |whole )?(%|percentage points?|percent\b|per cent\b|points?\b|marks?\b|pts?\b|p\b)`)
	// Some of what the whole is worth: "0.5 of its 10 points".
	ofWorth   = rule(`\b(` + num + `) (?:out )?of (?:(?:the|its|their|your|these|all) )?` + num + ` (?:points?|marks?|pts)\b`)
	fraction  = rule(`{fraction}`)
	insteadOf = rule(`\b(?:out of|from|on) (` + num + `)(?: {marks})? (?:instead of|and not|rather than|not) (` + num + `)\b`)
	// An amount without a unit is in points.
	bareLoss = waysOf(
		`(?:costs?|loses?|lose|minus|takes?(?: off| away)?|deduct|subtract|less|=| -) ?(`+num+`)(?: of (?:them|these|its|the|those)|)`,
		`(`+num+`)(?: of (?:them|these|those))?(?: are| is| will be)? (?:go|goes|gone|come off|lost|taken off|deducted|`+
			`subtracted|fewer|less)`,
	)
	perCue   = rule(`{per}`)
	nextSpan = rule(`\b(?:with)?in the (?:following|next) {duration}`)
	// Each of several days costs something: "for another two days, each of which costs 4 marks".
	ofEachDay  = rule(`\b(days|hours),? each(?: of (?:which|them|these))?(?: one)? (?:at|costs?|for|costing|takes?)\b`)
	workingDay = rule(`{workingday}`)
	capCue     = rule(`(?:\b{cap}\s*)$`)
	// A most without a unit is in that of the price.
	bareCap  = rule(`{barecap}`)
	capAfter = rule(`^\W{0,3}(?:and no more|in the worst case|at (?:the )?(?:very )?most|max(?:imum)?|in total|` +
		`altogether|in all|is the {mostword}|tops|cap|as (?:a|the) {mostword})\b`)
	floorCue  = rule(`{floor}`)
	earnedCue = rule(`{earned}`)
	limitCues = []pattern{
		rule(`\b{upto}(?: another| a further| the)? {duration}(?: \w+)? (?:late|after|past|following|beyond|delay|` +
			`of delay|of lateness|overdue)\b`),
		rule(`{duration} (?:after|past|later|afterwards|following|beyond)\b[^.;]{0,60}\b{ended}\b`),
		rule(`\b(?:locks?|locked|clos\w+|shuts?|ends?|offline|(?:turns|switches)(?: itself)? off|limit|accept\w*|taken?)\b[^.;]{0,40}?` + duration + ` (?:after|past|` +
			`later|afterwards|following|beyond)\b`,
		),
		rule(`\b(?:up to|for(?: up to| at most| a maximum of| a further| another)?|max(?:imum)?\.?(?: of)?|at most|a maximum of|(?:no|` +
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

// cost is a price in the text.
type cost struct {
	span
	percent float64
	points  bool
	half    bool // said as a part of the credit
}

func (r *reader) prices(s span) (out []cost) {
	for _, m := range price.all(r.digits, s) {
		if m[0] > s.start && (isLetter(r.digits[m[0]-1]) || isDigit(r.digits[m[0]-1]) || r.digits[m[0]-1] == '.') {
			continue
		}
		word, unit := group(r.digits, m, 1), group(r.digits, m, 2)
		if unit == "p" && strings.HasPrefix(r.digits[m[1]:], ".m") {
			continue // a time of day
		}
		v := number(word)
		if word == "a" {
			v = 1
		} else if word == "half a" {
			v = 0.5
		}
		if word == "a" && strings.HasPrefix(r.digits[m[1]:], " out of") {
			continue // "a mark out of 70 instead of 100"
		}
		if strings.HasPrefix(unit, "pt") && v >= 8 && v <= 14 && styleWord.in(r.digits[s.start:s.end]) {
			continue // a size of letters
		}
		if v == 0 || ofZero.MatchString(r.digits[m[1]:s.end]) || word == "a" && !startsWith(unit, "point", "mark") {
			continue
		}
		out = append(out, cost{
			span{m[0], m[1]},
			v,
			unit == "p" || strings.HasPrefix(unit, "point") || strings.HasPrefix(unit, "pt") || unit[0] == 'm',
			false,
		})
	}
	for _, m := range ofWorth.all(r.digits, s) {
		of := span{m[0], m[1]}
		out = slices.DeleteFunc(out, func(c cost) bool { return c.overlaps(of) })
		out = append(out, cost{of, number(group(r.digits, m, 1)), true, false})
	}
	for _, m := range fraction.all(r.digits, s) {
		at := firstGroup(m)
		if ofGrade.MatchString(r.digits[at.end:s.end]) {
			continue // of a letter, which has no points
		}
		word := strings.TrimPrefix(strings.TrimLeft(r.digits[at.start:at.end], "01 "), "a ")
		v := map[string]float64{"half": 50, "tenth": 10, "quarter": 25, "third": 100.0 / 3, "quarters": 75, "fifth": 20, "/2": 50, "/3": 100.0 / 3, "/4": 25, "/5": 20, "/10": 10}[word]
		end := m[1]
		if each := perCue.first(r.digits, span{at.end, s.end}); each != nil && each[0] < end {
			end = at.end // "a tenth per day"
		}
		out = append(
			out,
			cost{span{at.start, end}, v, false, word == "half" && !ofTheWhole.MatchString(r.digits[m[0]:m[1]]) && !mostOf.MatchString(r.digits[s.start:at.start])},
		)
	}
	for _, m := range insteadOf.all(r.digits, s) { // "out of 8 instead of 10"
		if left, whole := number(group(r.digits, m, 1)), number(group(r.digits, m, 2)); left < whole {
			out = append(out, cost{span{m[0], m[1]}, whole - left, true, true})
		}
	}
	for _, m := range times.all(r.digits, s) { // "multiplied by 0.9"
		out = append(out, cost{span{m[0], m[1]}, 100 - 100*number(group(r.digits, m, 1)), false, true})
	}
	for _, m := range keptPoints.all(r.digits, s) { // "at most 80 of 100 points"
		if left, whole := number(group(r.digits, m, 1)), number(group(r.digits, m, 2)); left < whole && left >= whole/2 {
			of := span{m[0], m[1]}
			out = slices.DeleteFunc(out, func(c cost) bool { return c.overlaps(of) })
			out = append(out, cost{of, whole - left, true, true})
		}
	}
	for _, m := range ofSum.all(r.digits, s) { // "lowered by 2 (of 20)"
		if lost, whole := number(group(r.digits, m, 1)), number(group(r.digits, m, 2)); lost < whole {
			out = append(out, cost{span{m[0], m[1]}, lost, true, false})
		}
	}
	for _, m := range minusLate.all(r.digits, s) { // "5 pts, -1 if late"
		out = append(out, cost{span{m[2], m[3]}, number(group(r.digits, m, 1)), true, false})
	}
	for _, m := range halved.all(r.digits, s) {
		out = append(out, cost{span{m[0], m[1]}, 50, false, true})
	}
	slices.SortFunc(out, func(a, b cost) int { return a.start - b.start })
	if len(out) > 0 { // further ones need no unit: "10 % on the first day, 30 from the second on"
		last := out[len(out)-1]
		for _, m := range bareNext.all(r.digits, span{last.end, s.end}) {
			at := firstGroup(m)
			if v := number(r.digits[at.start:at.end]); v > 0 {
				out = append(out, cost{at, v, last.points, false})
			}
		}
	}
	return out
}

var (
	bareNext = rule(`(?:[,;]|\band) (?:otherwise |then |and |but )?({num}) (?:from|on|after|for|if|thereafter|within) |` +
		`\b{later},? (?:it(?:'s| is) |with |costs? )?({num})[^\w%]*$`)
	ofSum      = rule(`\b({num}) \((?:out )?of (?:the )?({num})\)`)
	minusLate  = rule(`[ ,(]-({num}) (?:if|when)(?: it's| it is| you're| you are)? {belated}\b`)
	halved     = rule(`\bhalv(?:e|es|ed|ing) (?:the |your |its )?(?:mark|grade|points|credit)\b|\b(?:mark|grade|credit) is halved\b`)
	times      = rule(`\b(?:multiplied by|times|(?:a )?factor(?: of)?) (0\.\d+)`)
	keptPoints = rule(`\b(?:gets?|earns?|reach|scores?|receives?|graded with|marked with|given|worth)(?: only)?(?: at most| no more than| up to)? ({num})(?: {marks})? of (?:the )?({num}) (?:points?|marks?)\b`)
	ofTheWhole = regexpOf(` of (?:the )?(?:total|available|possible|maximum|full)\b`)
	mostOf     = regexpOf(`\b(?:no|not) more than $|\b(?:at most|a maximum of|up to) $`)
	ofGrade    = regexpOf(`^ of an? (?:letter )?grade\b`)
	forLacking = regexpOf(`^[^.;,]{0,6} ?(?:for|per) (?:every |each |any |wrong |missing )?\w+ (?:(?:that|which) (?:is|are) )?(?:missing|lacking|wrong|forgotten)`)
	lacking    = rule(`\b(?:missing|lacking|wrong|forgotten)\b`)
	ofZero     = regexpOf(`^ of (?:zero|0)`)
)

// rate finds what lateness costs in a sentence.
func (r *reader) rate(s span) (l Late, at span, last float64, ok bool) {
	text := r.digits[s.start:s.end]
	prices := slices.DeleteFunc(r.prices(s), func(c cost) bool {
		before := r.digits[max(s.start, c.start-40):c.start]
		return worthCue.in(before) && !c.half && !r.kept(c, s) || lacking.in(before[strings.LastIndex(before, " and ")+1:]) || forLacking.MatchString(r.digits[c.end:s.end]) || ofTotal.in(before) && c.points
	})
	if cue := lateWord.first(r.digits, s); cue != nil && len(prices) > 1 && prices[0].end < cue[0] && prices[1].start > cue[0] && !startsWith(r.digits[cue[0]:], "after", "later") &&
		strings.Contains(r.digits[prices[0].end:cue[0]], ",") && !perCue.in(r.digits[prices[0].end:cue[0]]) {
		prices = prices[1:] // "100 points, late models lose 15 % a day"
	}
	if len(prices) > 1 && prices[0].end <= prices[1].start && lessNext.MatchString(r.digits[prices[0].end:prices[1].start]) {
		prices = prices[1:] // "50 points, less 5 for every day"
	}
	if len(prices) == 0 && (lateWord.in(text) || perCue.in(text)) {
		if m := bareLoss.first(r.digits, s); m != nil && !otherUnit.MatchString(r.digits[m[3]:]) && !noun.MatchString(r.digits[m[3]:]) && !lacking.in(text) {
			prices = append(prices, cost{span{m[2], m[3]}, number(group(r.digits, m, 1)), true, false})
		}
	}
	if len(prices) == 0 {
		return l, at, 0, false
	}
	of := func(c cost) string {
		switch {
		case c.points:
			return "points"
		case c.half || earnedCue.in(text) || strings.HasPrefix(r.digits[c.end:], " credit"):
			return "earned"
		}
		return "possible"
	}
	kept := r.kept(prices[0], s)
	whole := s
	for _, next := range r.sentences {
		if next.start < whole.end || next.start-whole.end >= 4 || len(r.prices(next)) == 0 {
			continue
		}
		said := r.digits[next.start:next.end]
		if spanStart.MatchString(said) || upperBound.in(said) || thereafter.in(said) || lowerBound.in(said) || rangeBound.in(said) {
			whole.end = next.end
		}
	}
	all := prices
	if whole != s {
		all = append(slices.Clone(prices), r.prices(span{s.end, whole.end})...)
	}
	falling := r.falling(all) && !lossCue.in(text)
	if kept || falling {
		atMost := keptMost.MatchString(r.digits[prices[0].end:s.end]) || strings.HasPrefix(r.digits[prices[0].end:s.end], " at ")
		for i := range all {
			all[i].percent, all[i].half = 100-all[i].percent, kept && !atMost
		}
		prices = all
	}
	if steps, last, ok := r.steps(whole, all); ok {
		return Late{Kind: timing.Steps, Of: of(prices[0]), Steps: steps}, whole, last, true
	}
	first := prices[0]
	if r.isCap(first, s) && len(prices) > 1 && !kept {
		first = prices[1]
	}
	percent := first.percent
	l = Late{Percent: &percent, Of: of(first)}
	at = first.span
	for _, m := range perCue.all(r.digits, s) {
		unit := cmpOr(cmpOr(group(r.digits, m, 3), group(r.digits, m, 4)), group(r.digits, m, 5))
		between := m[0] - first.end
		if m[0] < first.start {
			between = first.start - m[1]
		}
		if between > 70 || between < -2 || untilThen.MatchString(r.digits[s.start:m[0]]) {
			continue
		}
		many := 1.0
		if n := group(r.digits, m, 2); n != "" {
			many = number(n)
		}
		switch {
		case strings.HasPrefix(unit, "d") || unit == "weekday" || strings.HasPrefix(unit, "24") || unit == "daily":
			l.Kind = timing.PerDay
			if many > 1 {
				l.Kind, l.Hours = timing.PerHours, 24*many
			}
			if group(r.digits, m, 1) != "" || unit == "weekday" {
				l.WeekendsFree = true
			}
		case strings.HasPrefix(unit, "half"):
			l.Kind, l.Hours = timing.PerHours, 12*many
		case unit[0] == 'h':
			l.Kind, l.Hours = timing.PerHours, many
			if many == 24 {
				l.Kind, l.Hours = timing.PerDay, 0
			}
		case unit[0] == 'w':
			l.Kind, l.Hours = timing.PerHours, 168*many
		case unit[0] == 'm':
			l.Kind, l.Hours = timing.PerHours, many/60
		}
		return l, span{min(first.start, m[0]), max(first.end, m[1])}, 0, true
	}
	if m := ofEachDay.first(r.digits, s); m != nil && m[1] <= first.start {
		l.Kind = timing.PerDay
		if group(r.digits, m, 1) == "hours" {
			l.Kind, l.Hours = timing.PerHours, 1
		}
		return l, span{m[0], first.end}, 0, true
	}
	if (lateWord.in(text) || stillTaken.in(text) || nextSpan.in(text) || lateLabel.in(text) || r.closesIn(s)) && (lossCue.in(text) || lateLabel.in(text) || strings.Contains(text, "?") || first.half) && !capOnly.in(text) {
		l.Kind = timing.Fixed
		return l, at, 0, true
	}
	return l, at, 0, false
}

// What is left of the mark, where that is said and not what is lost: "gets eighty percent of its mark".
var (
	keptShare = regexpOf(`\b(?:gets?|receives?|earns?|keeps?|retains?|reach|reaches|score|achieve|attain|(?:is|are) worth|counts?(?: for)?|` +
		`marked at)(?: only| just| at most| up to| a maximum of| no more than)* (?:0*3 )?$`)
	keptMost = regexpOf(`^ of (?:the|its|all) {marks} (?:at (?:the )?(?:most|best)|remain|stay|can be (?:had|got|` +
		`earned))\b|^ (?:is|are) (?:what|all)\b`)
	keptOf = regexpOf(`^ (?:of (?:its|their|the|your|what)|(?:of )?credit|at (?:best|most))\b`)
)

// lateLabel is a line about lateness, whose price needs no verb: "If late: 10 marks".
var lateLabel = rule(`^\W*(?:(?:if |when )?(?:it is )?(?:too )?{belated}(?: \w+){0,4}|penalt(?:y|ies)|deductions?)\W*[:=|]`)

// spanStart begins a further step: "two days: minus 12 points".
var spanStart = regexpOf(`^\W*(?:and )?(?:by )?` + duration + `(?: late)?[:,=]? `)

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
var takenAt = regexpOf(`\b(?:late|accepted|taken|possible)\b[^.;%]{0,40} at $`)

// kept says that a price is what stays.
func (r *reader) kept(c cost, s span) bool {
	if after := r.digits[c.end:s.end]; c.points || startsWith(after, " less", " off", " lower") {
		return false
	}
	if c.percent >= 60 && keptShare.MatchString(r.digits[s.start:c.start]) {
		return true // "counts ninety per cent"
	}
	return !c.points && c.percent > 50 && takenAt.MatchString(r.digits[s.start:c.start]) || !c.points && keptMost.MatchString(r.digits[c.end:s.end]) ||
		!c.points && keptShare.MatchString(r.digits[s.start:c.start]) && (keptOf.MatchString(r.digits[c.end:s.end]) || strings.HasPrefix(r.digits[c.start:c.end], "quarters"))
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
		if most := number(cmpOr(group(r.digits, m, 1), group(r.digits, m, 2))); most > *l.Percent && !otherUnit.MatchString(r.digits[m[1]:]) {
			l.Cap = &most
			return
		}
	}
}
