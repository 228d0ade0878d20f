package prose

import (
	"math"
	"regexp"
	"slices"
	"strings"
)

var (
	wordAmount = rule(`\b(?:(` + num + `)(?: words?)? ?(-|to|and|or|up to|\+/?-) ?)?(` + num + `)[ -]?(words?)\b`)
	pageAmount = rule(`\b(?:(` + num + `)(?: pages?)? ?(-|to|and|or|up to) ?)?(` + num + `)[ -]?(?:(?:full|printed|` +
		`typed|single|double|` +
		`a4|written|handwritten)[- ](?:spaced )?)?(pages?|sides?)\b`,
	)
	timeAmount = rule(`\b(?:({num}|\d{1,2}:\d{2}|an?) ?(minutes?|mins?|seconds?|secs?|s)? ?(-|to|and|or|` +
		`up to) ?)?({num}|\d{1,2}:\d{2})[ -]?(minutes?|mins?|seconds?|secs?|hours?)\b{timeamount}?`)
	byteAmount = rule(`\b(` + num + `)[ -]?(kib|mib|gib|kb|mb|gb|kilobytes?|megabytes?|gigabytes?|megs?|mbytes?|` +
		`kbytes?|gbytes?)\b`)

	maxBefore = regexpOf(`{maxbefore}[ (]*(?:of |the |a |about )?$`)
	minBefore = regexpOf(`{minbefore}[ (]*(?:of |the |a )?$`)
	exactly   = regexpOf(`^[ ,(]*(?:no more,? (?:and )?no less|no less,? (?:and )?no more|neither more nor less|` +
		`exactly)\b`)
	thenMost = regexpOf(`^[^.;]{0,12}?(?:min(?:imum)?\.?|at least),? (?:and )?({num}) (?:max|at (?:the )?most)`)
	andMost  = regexpOf(`^,? and (?:the |a )?max(?:imum)?(?: of| is)? ({num})`)
	nearly   = regexp.MustCompile(
		`(?:\b(?:about|around|roughly|approx(?:imately|\.)?|circa|ca\.?|some|in the region of|close to|near|` +
			`nearly|in the order of|something like)|~)[ (]*(?:of |the |a )?$`,
	)
	maxAfter = regexpOf(`^,?[ (]*(?:each |long |in length |of a4 |in total |altogether |per \w+ )?[(,]? ?{maxafter}`)
	minAfter = regexp.MustCompile(
		`^,?[ (]*(?:each |long |in length |of a4 )?[(,]? ?(?:min(?:imum)?\b|at (?:the )?least|or (?:more|longer|above|` +
			`over)\b|and (?:up|over|more)\b|upwards|(?:is |are )?the (?:minimum|least)|as a minimum)`,
	)
	aboutPost = regexp.MustCompile(
		`^,?[ (]*(?:long )?(?:or so|or thereabouts|more or less|approximately|roughly|approx)\b`,
	)
	tolerance = regexpOf(`^\.?[^.;]{0,12}?{tolerance}(?: up to)? ?({num}) ?(%|percent|per cent|words?|pages?|seconds?|` +
		`secs?|s\b|minutes?|)`)
	tolPost = regexp.MustCompile(
		`^[^.;]{0,25}?\b(` + num + `|half a) ?(%|percent|per cent|seconds?|words?|minutes?|pages?) (?:either way|more or less|` +
			`up or down|over or under|tolerance|leeway|margin)`,
	)
	lowerFirst = regexpOf(`\b(?:at least|min(?:imum)?\.?(?: of)?|(?:no|not) (?:fewer|less|shorter) than|not (?:under|` +
		`below)) ({num})(?: \w+)?,? (?:and|but|to|,)? ?{lowerfirst}(?: of)? $`)
	nextAmount = regexp.MustCompile(`^[ ,(]*(?:max|min|at (?:the )?(?:most|least))[a-z.]*(?: of)? \d`)
	rejected   = rule(`^[^.;]{0,60}?\b{rejected}\b`)
	perEach    = rule(`^[^.;,]{0,12}\b(?:per|each|every)\b`)
	orphan     = rule(`{orphan}`)
)

// amount is a found number of something with its bounds.
type amount struct {
	span
	kind     string
	min, max float64 // NaN: not said
	thing    string
	sentence span
	bare     bool
}

func (a amount) bounds() Bounds {
	var b Bounds
	if !math.IsNaN(a.min) {
		b.Min = &a.min
	}
	if !math.IsNaN(a.max) {
		b.Max = &a.max
	}
	return b
}

func same(a, b float64) bool { return a == b || math.IsNaN(a) && math.IsNaN(b) }

// bound reads what is around a number: lo is the first of a range, or NaN.
func (r *reader) bound(s span, from, to int, lo, hi, scale float64, joiner string) (a amount) {
	before, after := r.digits[max(s.start, from-48):from], r.digits[to:min(s.end, to+70)]
	a = amount{span: span{from, to}, sentence: s, min: hi, max: hi}
	if !math.IsNaN(lo) && lo <= hi &&
		(joiner != "and" || strings.HasSuffix(strings.TrimRight(before, " "), "between")) {
		a.min = lo
		return a
	}
	if m := tolerance.FindStringSubmatchIndex(after); m != nil {
		v, unit := number(after[m[2]:m[3]]), after[m[4]:m[5]]
		switch {
		case unit == "%" || strings.HasPrefix(unit, "per") || unit == "" && v <= 25 && hi >= 100:
			v = hi * v / 100
		case strings.HasPrefix(unit, "s") && scale == 60:
		case strings.HasPrefix(unit, "m"):
			v *= 60
		}
		a.min, a.max, a.end = hi-v, hi+v, to+m[1]
		return a
	}
	if m := tolPost.FindStringSubmatchIndex(after); m != nil {
		v := number(after[m[2]:m[3]])
		switch unit := after[m[4]:m[5]]; {
		case unit[0] == 'm':
			v *= 60
		case unit == "%" || strings.HasPrefix(unit, "per"):
			v = hi * v / 100
		}
		a.min, a.max, a.end = hi-v, hi+v, to+m[1]
		return a
	}
	if m := lowerFirst.FindStringSubmatchIndex(r.digits[s.start:from]); m != nil && math.IsNaN(lo) {
		if v := number(r.digits[s.start+m[2] : s.start+m[3]]); v > 0 && v*scale <= hi {
			a.min, a.start = v*scale, s.start+m[0]
			return a
		}
	}
	if exactly.MatchString(after) {
		return a
	}
	nan := math.NaN()
	over := minBefore.MatchString(before)
	switch {
	case atLeast.in(before):
		a.max = nan
		if m := andMost.FindStringSubmatch(after); m != nil { // "a minimum of two files and a maximum of four"
			a.max = number(m[1]) * scale
		} else if m := mostThen.FindStringSubmatch(after); m != nil { // "at least two pictures, at most four"
			a.max = number(m[1]) * scale
		}
	case maxBefore.MatchString(before):
		a.min = nan
		if tooShort.in(before) && rejected.in(after) {
			a.min, a.max = hi, nan
		}
	case over && rejected.in(after), over && neverOver.in(before):
		a.min = nan
	case over:
		a.max = nan
		if m := andMost.FindStringSubmatch(after); m != nil { // "the minimum is 3 pages and the maximum 6"
			a.max = number(m[1]) * scale
		}
	case maxAfter.MatchString(after) && !nextAmount.MatchString(after):
		a.min = nan
	case minAfter.MatchString(after) && !nextAmount.MatchString(after):
		a.max = nan
		if m := thenMost.FindStringSubmatch(after); m != nil { // "4 pages minimum, 6 maximum"
			a.max = number(m[1]) * scale
		}
	case nearly.MatchString(before), aboutPost.MatchString(after):
		a.min, a.max = math.Round(hi*0.9*1e6)/1e6, math.Round(hi*1.1*1e6)/1e6
	default:
		a.bare = true
	}
	return a
}

var (
	oneSided = regexpOf(`\b(?:writ\w+|print\w*|copied|scann?\w*)(?: \w+){0,3} on (?:only |just )?0*1 side$`)
	mostThen = regexpOf(`^,? (?:and |but )?(?:at (?:the )?most|max(?:imum)?\.?(?: of)?|(?:no|not) more than|` +
		`up to) ({num})(?:$|[ ,.;)](?:$|[^%]))`)
	wordFile = regexpOf(`^ (?:documents?|files?|docs?)\b`)
	tooShort = rule(`\b(?:under|below|less than|fewer than|shorter than)[ (]*$`)
	atLeast  = rule(`\b(?:at least|min\w*\.?(?: of)?|(?:not|no) (?:less|fewer|shorter|smaller) than|not (?:under|` +
		`below))[ (]*$`)
	neverOver = rule(`\b(?:never|not|no|\w+n't|don't)(?: \w+){0,3} (?:over|more than|longer than|above|exceed\w*)[ (]*$`)
	mediaWord = rule(`\b{media}\b`)
	oneFile   = rule(`\b(?:zip|archive|(?:single|0*1)(?: \w+)? (?:file|document|pdf))\b`)
	inTotal   = rule(`\b(?:in total|altogether|combined|all|both)\b`)
	totalWord = rule(`\b{total}\b`)
)

// pagesInWords are lengths in pages without a number.
var pagesInWords = []struct {
	pattern
	pages float64
}{
	{rule(`\b(?:a|0*1) (?:page|side) and (?:a half|0*1 half)\b`), 1.5},
	{rule(`\b(?:a |0*1 )?single (?:page|side)\b`), 1},
	{rule(`\bhalf a (?:page|side)\b`), 0.5},
	{rule(`\b(?:text|note|paper|summary|letter) of (?:a|0*1) (?:page|side)\b`), 1},
}

// amounts finds words, pages, seconds, bytes, files and points.
func (r *reader) amounts() {
	var list []amount
	for _, s := range r.sentences {
		text := r.digits[s.start:s.end]
		for _, m := range wordAmount.all(r.digits, s) {
			list = r.add(list, "words", s, m)
		}
		for _, m := range pageAmount.all(r.digits, s) {
			if oneSided.MatchString(r.digits[s.start:m[1]]) {
				continue
			}
			list = r.add(list, "pages", s, m)
		}
		for _, said := range pagesInWords {
			for _, m := range said.all(r.digits, s) {
				a := r.bound(s, m[0], m[1], math.NaN(), said.pages, 1, "")
				a.kind, a.thing = "pages", r.thing(a.span, s)
				list = append(list, a)
			}
		}
		if timeAmount.may(text) && r.lasts(s) {
			for _, m := range timeAmount.all(r.digits, s) {
				list = r.addTime(list, s, m)
			}
		}
		for _, m := range byteAmount.all(r.digits, s) {
			list = r.addBytes(list, s, m)
		}
	}
	list = r.orphans(r.labelled(list))
	for _, kind := range []string{"words", "pages", "seconds", "max_bytes", "max_total_bytes"} {
		r.consolidate(slices.DeleteFunc(slices.Clone(list), func(a amount) bool { return a.kind != kind }))
	}
	r.files()
	r.points()
}

func (r *reader) add(list []amount, kind string, s span, m []int) []amount {
	if m[0] > s.start && strings.IndexByte(".,:/", r.digits[m[0]-1]) >= 0 && m[0] > s.start+1 &&
		isDigit(r.digits[m[0]-2]) {
		return list
	}
	low := math.NaN()
	if g := group(r.digits, m, 1); g != "" {
		low = number(g)
	}
	from := m[0]
	high := number(group(r.digits, m, 3))
	join := group(r.digits, m, 2)
	if join == "and" && !strings.HasSuffix(strings.TrimRight(r.digits[s.start:m[0]], " "), "between") {
		low, from = math.NaN(), m[6]
	}
	if high == 0 {
		return list
	}
	a := r.bound(s, from, m[1], low, high, 1, join)
	if strings.HasPrefix(join, "+") { // "1500 +/- 150 words"
		a.min, a.max, a.bare = low-high, low+high, false
	}
	a.kind = kind
	if kind == "words" && wordFile.MatchString(r.digits[m[1]:s.end]) {
		return list // "one Word document"
	}
	if r.foreign(a.span, s) || r.isTaken(a.span) {
		return list
	}
	a.thing = r.thing(a.span, s)
	return append(list, a)
}

func (r *reader) addTime(list []amount, s span, m []int) []amount {
	unit := func(g string) float64 {
		switch {
		case g == "":
			return 0
		case g[0] == 'm':
			return 60
		case g[0] == 'h':
			return 3600
		}
		return 1
	}
	read := func(g string, scale float64) float64 {
		if h, rest, ok := strings.Cut(g, ":"); ok {
			return float64(atoi(h)*60 + atoi(rest))
		}
		return number(g) * scale
	}
	scale := unit(group(r.digits, m, 5))
	high := read(group(r.digits, m, 4), scale)
	if g := group(r.digits, m, 6); g != "" {
		high += number(g)
	}
	if group(r.digits, m, 8) != "" || group(r.digits, m, 9) != "" {
		high += scale / 2
	}
	low := math.NaN()
	from := m[0]
	join := group(r.digits, m, 3)
	if g := group(r.digits, m, 1); g != "" {
		lowScale := unit(group(r.digits, m, 2))
		if lowScale == 0 {
			lowScale = scale
		}
		low = read(g, lowScale)
		if join == "and" && !strings.HasSuffix(strings.TrimRight(r.digits[s.start:m[0]], " "), "between") {
			low, from = math.NaN(), m[8]
		}
	}
	if high < 5 || high > 4*3600 {
		return list
	}
	a := r.bound(s, from, m[1], low, high, 60, join)
	a.kind = "seconds"
	a.thing = r.thing(a.span, s)
	if len(list) > 0 && list[len(list)-1].kind == "seconds" && list[len(list)-1].overlaps(a.span) {
		return list
	}
	return append(list, a)
}

func (r *reader) addBytes(list []amount, s span, m []int) []amount {
	unit := group(r.digits, m, 2)
	base := 1000.0
	if strings.Contains(unit, "ib") {
		base = 1024
	}
	v := number(group(r.digits, m, 1)) * math.Pow(base, map[byte]float64{'k': 1, 'm': 2, 'g': 3}[unit[0]])
	a := amount{span: span{m[0], m[1]}, sentence: s, kind: "max_bytes", min: math.NaN(), max: v}
	before, after := r.digits[s.start:m[0]], r.digits[m[1]:s.end]
	if v == 0 || r.foreign(a.span, s) || minBefore.MatchString(before) && atLeast.in(before) {
		return list
	}
	a.bare = !maxBefore.MatchString(before) && !maxAfter.MatchString(after)
	clause := clauseAround(r.digits, s, m[0], m[1])
	if each := perEach.in(r.digits[m[1]:min(s.end, m[1]+25)]) ||
		eachFile.in(before[strings.LastIndex(before, " and ")+1:]); totalWord.in(clause) && !each &&
		(!oneFile.in(clause) || inTotal.in(clause)) {
		a.kind = "max_total_bytes"
		return append(list, a) // of all things
	}
	a.thing = r.thing(a.span, s)
	return append(list, a)
}
