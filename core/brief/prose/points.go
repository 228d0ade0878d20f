package prose

import "strings"

var (
	sumWord = rule(`\b(?:({sumhead}) ?)?({num})[- ]?(?:participation |course )?(points?|marks?|pts?)\b( {sum})?`)
	outOf   = rule(`\b(?:marked|graded|scored|marks?|grade|mark is|score|points?) (?:is )?(?:given )?(?:out of|` +
		`on a scale (?:of|to)|from 0 to|/) ?(` + num + `)\b`,
	)
	partOf     = regexpOf(`^[^.;,]{0,6}{partof}\b`)
	lossBefore = regexpOf(`\b{lossbefore}\W*(?:you )?$`)
)

// wholeSums are the ways to say what the whole is worth: as a label with its value, as what the parts make together, as
// that of which something is lost or given.
var wholeSums = waysOf(
	`(?:max(?:imum|\.)?|highest|top|full|perfect)(?: possible| available| obtainable)? (?:{marks}|score|`+
		`result)(?: is| are| of)?(?:{sep}| )(`+num+`)`,
	`(?:total|sum)(?: is| of)?:?\s+(`+num+`)(?: {marks})?`,
	`(`+num+`)(?: {marks})?,? (?:in all|in total|altogether|all told)`,
	`(?:makes?|adds? up to|comes? to) (`+num+`)(?: {marks})?`,
	`(`+num+`) of the `+num+` {marks} (?:of|in) the course`,
	`worth (`+num+`) of the {num} (?:\w+ )?{marks}`,
	`(?:its|their) (`+num+`) {marks}`,
	`(`+num+`) of the (?:term|course|module|semester|class|year|unit)'s {num} {marks}`,
	`of (?:the|its|these|all|your) (`+num+`) {marks}`,
	`{marks} \(max(?:imum|\.)? (`+num+`)`,
	`(?:an?|{num}) {marks} out of (?:the )?(`+num+`)`,
	`(?:an?|{num}) {marks} of (?:the|its|their) (`+num+`)`,
	`out of (`+num+`)`,
	`(?:the|so) (`+num+`) {marks}`,
	`(?:get|earn|score|collect|give|award|reach)s? (?:up to|at most|no more than|a maximum of) (`+num+`) {marks}`,
	`on a scale (?:(?:from|of) 0* )?to (`+num+`)`,
	`(?:marked|graded|scored) out of{sep}(`+num+`)`,
	`{num} (?:out )?of (?:the )?(`+num+`) {marks}`,
	`{num} {marks} of (?:its |the |their |your |these )?(`+num+`)`,
	`({num}) {marks}(?: in all)?: {num} (?:{marks} )?(?:for|on)`,
	`{num}(?: \w+)? x {num}(?: {marks})? ?= ?(`+num+`)`,
	`instead of (`+num+`)`,
	`{num} {marks} \((?:out )?of (?:the )?(`+num+`)`,
	`lowered by {num} \((?:out )?of (?:the )?(`+num+`)`,
	`marks?{sep}(`+num+`),? (?:of which|of these|including|with)`,
	`together (`+num+`) {marks}`,
	`{num} {marks} (?:an?|per|for each|each|for every) (?:question|problem|exercise|task|item|page|photo|picture|part|answer|drawing), (?:so |in all )?(`+num+`) {marks}`,
	`all (?:\w+ )?together{sep}(`+num+`) ?(?:{marks}|p)`,
)

// labelledSum is a line of nothing but what the whole is worth.
var labelledSum = rule(`(?:^|\n|  )\W*{sumlabel}(?: obtainable| possible| available)?(?:{sep}| )\s*(?:max(?:imum|` +
	`\.)? )?` +
	`[(/]? ?({num})(?: ?{marks}| ?p)?\)?\W*(?:$|\n|\()`)

var (
	otherUnit = regexpOf(`^ ?(?:%|per cent|percent|mb|kb|gb|words?|pages?|minutes?|seconds?|files?|(?:(?:calendar|` +
		`working|full|whole|started|school|business) )?(?:days?|hours?)|[.:]\d|{month}\b|tenth|quarter|third|fifth|/\d)`)
	markWord = rule(`\b(?:marks?|marked|points?|pts|worth|grades?|graded|scores?|scoring|scale|assess\w*|out of|total|` +
		`sum|altogether|in all)\b`)
)

// around is a sentence with the one before it.
func (r *reader) around(s span) string { return r.digits[max(0, s.start-120):s.end] }

// sum is an amount of marks that may be what the whole work is worth.
type sum struct {
	span
	value float64
	sure  int // 3: said to be the whole; 2: by a word before it; 1: alone
}

// points finds what the whole work is worth: what is said to be the whole, the largest of several, or the only amount.
func (r *reader) points() {
	sums, parts := r.sumsSaid()
	sums = append(append(sums, r.sumsOfWhole()...), r.sumsOfEach()...)
	if len(sums) == 0 && len(parts) == 1 && bracketsAround(r.digits, parts[0].span) {
		parts[0].sure = 1
		sums, parts = parts, nil // "the beach profile (28 points) is due": one amount is no part of several
	}
	best, alone := sum{}, 0
	for _, s := range sums {
		alone += btoi(s.sure == 1)
		if s.sure > best.sure || s.sure == best.sure && s.sure >= 2 && s.value > best.value {
			best = s
		}
	}
	if best.sure >= 2 || best.sure == 1 && alone == 1 && len(parts) == 0 {
		r.find("points", best.value, best.span, 0.7+0.1*float64(min(2, best.sure)))
	}
}

func bracketsAround(text string, s span) bool {
	return s.start > 0 && text[s.start-1] == '(' && s.end < len(text) && text[s.end] == ')'
}

// mostPoints is more than anything is worth.
const mostPoints = 1000

// sumsSaid are the amounts with a unit, and those of them that are of parts.
func (r *reader) sumsSaid() (sums, parts []sum) {
	for _, s := range r.sentences {
		if elsewhere.in(r.digits[s.start:s.end]) || r.ofAnother(s) || r.ofOtherWork(s) {
			continue
		}
		for _, m := range outOf.all(r.digits, s) {
			if !notThisSum.MatchString(r.digits[s.start:m[0]]) {
				sums = append(sums, sum{span{m[0], m[1]}, number(group(r.digits, m, 1)), 2})
			}
		}
		said := sumWord.all(r.digits, s)
		late := len(said) > 0 && r.losing(s)
		for _, m := range said {
			switch found, ofPart := r.sumSaid(s, m, late); {
			case ofPart:
				parts = append(parts, found)
			case found.sure > 0:
				sums = append(sums, found)
			}
		}
	}
	return sums, parts
}

// losing says that a sentence is about marks that are lost.
func (r *reader) losing(s span) bool {
	text := r.digits[s.start:s.end]
	return lateWord.in(text) || perCue.in(text) ||
		capWords.in(text) && lateWord.in(r.around(s)) && (deducted.in(text) || bareMost.MatchString(text))
}

// sumSaid judges an amount by the words around it; it may be that of a part, or no sum at all.
func (r *reader) sumSaid(s span, m []int, late bool) (found sum, ofPart bool) {
	text := r.digits[s.start:s.end]
	v, cue, tail := number(group(r.digits, m, 2)), group(r.digits, m, 1), group(r.digits, m, 4)
	before, after := r.digits[max(s.start, m[0]-30):m[0]], r.digits[m[1]:min(s.end, m[1]+40)]
	if v == 0 || v > mostPoints || r.isSize(s, m, v) || lossBefore.MatchString(before) {
		return found, false
	}
	found = sum{span: span{m[0], m[1]}, value: v}
	ofSum := startsWith(cue, "of ", "out of")
	if ofPartSaid.MatchString(before) && s.start > 0 {
		return found, true
	}
	if s.start == 0 && strings.HasPrefix(after, ")") && !late || shareNext.MatchString(after) { // a heading
		found.sure = 2
		return found, false
	}
	part := partOf.MatchString(after) && !totalFor.MatchString(after) || rubricOf.MatchString(before) && s.start > 0
	if part && tail == "" && !ofSum {
		return found, !late && !deducted.in(text) && !takenOff.MatchString(after) && !strings.HasSuffix(before, " -")
	}
	whole := tail != "" || ofSum || startsWith(cue, "worth", "total", "max", "carr", "mark", "grade", "point", "full", "count",
		"the full", "this is", "you can", "there are")
	// "5 pts, -1 if late"
	beforeLoss := strings.HasPrefix(after, ",") && lateWord.in(after) && !lateWord.in(r.digits[s.start:m[0]])
	switch {
	case whole && (!late || ofSum || strings.HasPrefix(cue, "worth")):
		found.sure = 2
	case !late || beforeLoss:
		found.sure = 1
	}
	return found, false
}

// isSize says that an amount of points is the size of letters.
func (r *reader) isSize(s span, m []int, v float64) bool {
	text := r.digits[s.start:s.end]
	alone := len(strings.TrimRight(text, ". ")) <= m[1]-m[0] || strings.HasPrefix(r.broken[m[1]:], "\n")
	return v >= 8 && v <= 14 && styleWord.in(text) || fontAfter.MatchString(r.digits[m[1]:min(s.end, m[1]+40)]) ||
		styleWord.in(text) && strings.Contains(r.digits[m[0]:m[1]], "-") ||
		strings.HasPrefix(group(r.digits, m, 3), "pt") && (v == 10 || v == 11 || v == 12) &&
			group(r.digits, m, 1) == "" && !alone
}

// sumsOfWhole are the amounts that a way of saying makes those of the whole.
func (r *reader) sumsOfWhole() (sums []sum) {
	for _, s := range r.sentences {
		if at, v, ok := r.addsUp(s); ok {
			sums = append(sums, sum{at, v, 3})
		}
		if elsewhere.in(r.digits[s.start:s.end]) || !markWord.in(r.around(s)) {
			continue
		}
		for _, p := range append(wholeSums, labelledSum) {
			for _, m := range p.all(r.digits, s) {
				v, before, after := number(group(r.digits, m, 1)), r.digits[s.start:m[0]], r.digits[m[1]:min(len(r.digits), m[1]+12)]
				if v > 0 && v <= mostPoints && !notThisSum.MatchString(before) && !maxBefore.MatchString(before) &&
					!otherUnit.MatchString(after) && !ofCourse.MatchString(after) {
					sums = append(sums, sum{span{m[0], m[1]}, v, 3})
				}
			}
		}
	}
	return sums
}

// sumsOfEach are what several pieces are worth together, each as much as the other.
func (r *reader) sumsOfEach() (sums []sum) {
	for _, each := range eachWorth {
		for _, m := range each.all(r.digits, span{0, len(r.digits)}) {
			if v := number(group(r.digits, m, 1)) * number(group(r.digits, m, 2)); v > 0 && v <= mostPoints {
				sums = append(sums, sum{span{m[0], m[1]}, v, 2})
			}
		}
	}
	for _, s := range r.sentences {
		if at, v, ok := r.eachCounts(s); ok && v <= mostPoints {
			sums = append(sums, sum{at, v, 2})
		}
	}
	return sums
}

// ofAnother says that the marks of a sentence are those of something else that is graded, of which the text's first
// sentence does not speak.
func (r *reader) ofAnother(s span) bool {
	m := othersMarks.first(r.plain, s)
	first := r.sentences[0]
	return m != nil && s != first && !strings.Contains(r.plain[first.start:first.end], group(r.plain, m, 1))
}

var othersMarks = rule(`^\W*(?:and )?(?:the |our |your )?{othersname}(?: \w+){0,6} (?:is worth|was worth|counts?|` +
	`carries|gives?|was out of|had|has)\b`)

// eachCounts is what every piece of a number counts, which stands elsewhere: "six sketches ... each sketch counts 5 points".
func (r *reader) eachCounts(s span) (at span, sum float64, ok bool) {
	m := eachPiece.first(r.digits, s)
	if m == nil {
		return at, 0, false
	}
	n := r.countOf(strings.TrimSuffix(group(r.digits, m, 1), "s"), span{m[0], m[1]})
	return span{m[0], m[1]}, n * number(group(r.digits, m, 2)), n > 1
}

var eachPiece = rule(`\beach (\w+) (?:counts?|is worth|brings?|gives?|carries|earns?)(?: for)? ({num}) {marks}`)

// addsUp finds the amount that a sentence about marks gives as the sum of its others: "12 for the map, 8 for the text,
// 20".
func (r *reader) addsUp(s span) (at span, sum float64, ok bool) {
	if !markWord.in(r.around(s)) {
		return at, 0, false
	}
	var all [][]int
	for _, m := range plainAmount.all(r.digits, s) {
		if !otherUnit.MatchString(r.digits[m[3]:min(len(r.digits), m[3]+12)]) {
			all = append(all, m)
		}
	}
	if len(all) < 3 {
		return at, 0, false
	}
	total := 0.0
	for _, m := range all {
		total += number(group(r.digits, m, 1))
	}
	for _, m := range [][]int{all[0], all[len(all)-1]} {
		if v := number(group(r.digits, m, 1)); v > 0 && v <= 1000 && total == 2*v {
			return span{m[2], m[3]}, v, true
		}
	}
	return at, 0, false
}

// eachWorth is what each of several pieces is worth.
var eachWorth = waysOf(
	`({num}) (?:sketches|pieces|photos|photographs|pictures|drawings|recordings|entries|reviews|places|words|answers)\b`+
		`[^.;]{0,200}?\b({num}) {marks} each`,
	`({num}) {questions},? (?:worth |with |for |of |at )?({num}) {marks} each`,
	`({num}) {questions} (?:at|of|with|worth) ({num}) {marks}`,
	`({num}) {questions} \(({num}) {marks} each`,
	`({num}) {marks} (?:per|for each|for every|a) (?:question|problem|exercise|task|item)[^.;]{0,20}?({num}) {questions}`,
	`({num}) {questions},? each (?:is |of them )?(?:worth |with |of |at )?({num}) {marks}`,
	`each of the ({num}) (?:\w+ )?(?:is worth|gives|brings|carries|counts|counts for) ({num}) {marks}`,
)

// ofPartSaid leads to the marks of a part.
var ofPartSaid = regexpOf(`\bpart(?: [a-z\d]+)? (?:carries |is worth |counts |brings |has )?$|[a-z]+ \d+, [a-z]+ \d+,? (?:and )?[a-z]+ $`)

// notThisSum leads to what something else had, or to a result: "the first was out of 20", "less than 10 out of 20".
var notThisSum = regexpOf(`\bwas $|\b(?:less|fewer|more|better|worse) than {num} $|\bfrom {num} to {num} $`)

// takenOff says of marks that they are lost.
var takenOff = regexpOf(`^ (?:is|are|will be) (?:taken|lost|deducted)`)

var deducted = rule(`\b(?:{loss}|deduct\w*|reduc\w*|subtract\w*)\b`)

// bareMost is a sentence that goes on with the most that something costs.
var bareMost = regexpOf(`^\W*(?:but )?(?:no|not|never) more than`)

// shareNext is the share of the course behind the marks: "(30 marks, 40% of the unit)".
var shareNext = regexpOf(`^,? (?:\(|or |and |= ?)?{num} ?(?:%|percent|per cent) of the `)

var ofCourse = regexpOf(`^ (?:{marks} )?(?:of|in) the (?:co|term|sem|year|mod)`)

// plainAmount is a number that belongs to no date, time or name.
var plainAmount = rule(`(?:^|[\s(])(\d{1,4})(?:[\s,.;:)]|$)`)

var (
	fontAfter = regexpOf(
		`^[- ]?(?:font|type|times|arial|calibri|garamond|cambria|georgia|helvetica|verdana|letters|lettering|size|` +
			`liberation|palatino|courier)\b`,
	)
	totalFor = regexpOf(
		`^ for (?:this|the (?:assignment|lab|essay|work|whole|sheet|report|problem set|portfolio|set)|everything|` +
			`all)\b`,
	)
	rubricOf = regexpOf(
		`(?:\b(?:question|part|task|section|criterion|map|content|language|style|structure|method|` +
			`presentation) ?\w*\s*[:(=-]\s*|\w \()$`,
	)
	styleWord = rule(`\b(?:spac\w+|font|typeface)\b`)
)
