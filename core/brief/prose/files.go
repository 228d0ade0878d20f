package prose

import (
	"slices"
	"strings"
)

var (
	fileAmount = rule(`\b(?:(` + num + `) ?(-|to|or|and) ?)?(single|0*1 single|` + num + `)(?:\+| or more)? ({filenoun})\b(?:\s*(?:per|` +
		`for each|for every|each for|to each)(?: of the| \w+)? (\w+))?`,
	)
	// What is read, watched or given is not sent.
	workedOn  = regexpOf(`\b{workedon}\b[^.;:]{0,30}$`)
	fileLabel = rule(`\b(?:max(?:imum)?\.? )?{filecount}(?: allowed| accepted| \(max\.?\))?(?:{sep}|` +
		` is (?:limited to )?| are limited to )(?:{atmostoften} |max(?:imum)?\.? )?({num})\b`)
	fileMost   = rule(`\b(?:max\w*|most|more|up to|limited)\b`)
	oneForEach = rule(`\b0*1 (?:\w+ )?(?:of|for|per) each of the (` + num + `)\b`)
	eachOwn    = rule(`\b({num}) (?:\w+ )?\w+s (?:are|have|must|should){..},? each (?:one )?(?:as|in) (?:its own|` +
		`a separate|one|a single) (?:pdf|file|document)\b`)
	eachAsForm = rule(`\b({num}) (?:of (?:them|these)|in all|altogether)?,? ?each (?:one )?(?:as|in|is) an? (?:separate |single )?{aform}\b`)
	fileNoun   = rule(`\b{filethings}\b`)
	inSums     = regexpOf(`\(\d+ \w+, \d+ \w+`)
	notFiles   = rule(`\b(?:last year|may be checked|for example)\b`)
)

// files finds how many files are sent.
func (r *reader) files() {
	var list []amount
	for _, s := range r.sentences {
		if notFiles.in(r.digits[s.start:s.end]) || r.ofOtherWork(s) {
			continue
		}
		if m := oneForEach.first(r.digits, s); m != nil && fileNoun.in(r.digits[s.start:s.end]) {
			continue // it is counted below
		}
		for _, m := range fileAmount.all(r.digits, s) {
			if a, ok := r.fileCount(s, m); ok {
				list = append(list, a)
			}
		}
	}
	for _, s := range r.sentences {
		m := eachOwn.first(r.digits, s)
		if m == nil {
			m = eachAsForm.first(r.digits, s)
		}
		if m == nil && fileNoun.in(r.digits[s.start:s.end]) {
			m = oneForEach.first(r.digits, s)
		}
		if m != nil {
			n := number(group(r.digits, m, 1))
			list = append(list, amount{span: span{m[0], m[1]}, sentence: s, kind: "files", min: n, max: n})
		}
		if m := fileLabel.first(r.digits, s); m != nil {
			n := number(group(r.digits, m, 1))
			a := amount{span: span{m[0], m[1]}, sentence: s, kind: "files", min: n, max: n}
			if fileMost.in(r.digits[m[0]:m[1]]) {
				a.min = nan
			}
			list = append(list, a)
		}
	}
	for i, a := range list {
		repeated := slices.ContainsFunc(
			list[:i],
			func(o amount) bool { return same(o.min, a.min) && same(o.max, a.max) },
		)
		partOf := slices.ContainsFunc(list, func(o amount) bool {
			return o.sentence == a.sentence && o.end <= a.start && o.max > a.max &&
				strings.IndexByte(r.digits[o.end:a.start], ':') >= 0
		})
		if !repeated && !partOf {
			r.find("files", a.bounds(), a.span, 0.85)
		}
	}
}

// fileCount reads a number with what is sent, if it is one of files that are.
func (r *reader) fileCount(s span, m []int) (a amount, ok bool) {
	word, before, after := group(r.digits, m, 3), r.plain[s.start:m[0]], r.plain[m[1]:s.end]
	if word == "" || startsWith(word, "a ", "an ") || strings.HasPrefix(group(r.digits, m, 4), "mb") ||
		isDigit(word[0]) && m[6] > s.start && strings.IndexByte(".,/", r.digits[m[6]-1]) >= 0 {
		return a, false
	}
	hi := number(word)
	if strings.HasSuffix(word, "single") {
		hi = 1
	}
	if hi == 0 || hi > mostFiles || hi != float64(int(hi)) || workedOn.MatchString(before) && !sentNext.MatchString(before) ||
		lyingThere.MatchString(after) || withinOne(before, group(r.digits, m, 4), after) || inSums.MatchString(before) ||
		regularly.MatchString(after) || each.MatchString(after) && hi == 1 {
		return a, false
	}
	lo, from := nan, m[0]
	joiner := group(r.digits, m, 2)
	if g := group(r.digits, m, 1); g != "" {
		lo = number(g)
	}
	if m := orBefore.FindStringSubmatchIndex(r.digits[s.start:m[0]]); joiner == "or" && m != nil { // "two, three or four"
		lo, from = number(r.digits[s.start+m[2]:s.start+m[3]]), s.start+m[0]
	}
	if joiner == "and" && !strings.HasSuffix(strings.TrimRight(before, " "), "between") {
		lo, from = nan, m[6]
	}
	a = r.bound(s, from, m[1], lo, hi, 1, joiner)
	if orMore.MatchString(r.digits[m[6]:m[1]]) {
		a.max = nan
	}
	if of := timesEach.FindStringSubmatch(r.digits[s.start:m[0]]); of != nil && strings.HasPrefix(after, " each") {
		a.min, a.max = hi*number(of[1]), hi*number(of[1]) // "6 stages, 2 pictures each"
	}
	if per := group(r.digits, m, 5); per != "" && !has(per, "group", "team", "pair", "student", "person", "head") {
		switch n := r.countOf(strings.TrimSuffix(per, "s"), span{m[0], m[1]}); {
		case n > 0:
			a.min, a.max = hi*n, hi*n
		case perUnknown.MatchString(per):
			return a, false
		}
	}
	lead := r.digits[max(s.start, from-30):from]
	if hi == 1 && eachBytes.MatchString(r.digits[m[1]:min(s.end, m[1]+14)]) || denied.MatchString(lead) ||
		strings.HasSuffix(lead, "in the ") && hi > 1 {
		return a, false
	}
	a.kind, a.thing = "files", strings.TrimSuffix(lastField(group(r.digits, m, 4)), "s")
	return a, true
}

// sentNext leads to what is sent.
var sentNext = regexpOf(`\b(?:attach|upload|submit|send|hand in|turn in|deliver|mail) $`)

// withinOne says that pictures are counted that lie within a document, and not files: "the report contains three photos",
// "a text with four images in it".
func withinOne(before, noun, after string) bool {
	if !pictured.MatchString(noun) {
		return false
	}
	return holdsThem.MatchString(before) || inIt.MatchString(after) || strings.HasSuffix(before, "the ") && ontoOne.MatchString(after)
}

var (
	pictured  = regexpOf(`\b(?:photos?|photographs?|pictures?|images?|screenshots?|scans?|clips?)$`)
	holdsThem = regexpOf(`\b(?:{onedocument})s? (?:must |should |will |may |can |has to )?(?:also )?(?:{holding})[^.;:]{0,50}$`)
	inIt      = regexpOf(`^(?: \w+){0,2} (?:in (?:it|the (?:text|report|document|essay|appendix))|within (?:it|the \w+))\b`)
	ontoOne   = regexpOf(`^ (?:on|onto|into|in) (?:one|a single|a) \w+`)
)

// mostFiles is more than anybody sends at once.
const mostFiles = 500

// perUnknown is what there may be several of, so that the number of files is not known: "one photo per station".
var perUnknown = regexpOf(`^(?:question|problem|task|exercise|map|station|site|sample|species|plate|sketch|part|page)$`)

var (
	// What is online already is not sent.
	lyingThere = regexpOf(`^[^.;,]{0,25}? (?:(?:are|is|hangs?) )?(?:on the \w+ (?:page|site)|in the (?:hall|folder|library)|` +
		`online)\b`)
	regularly = regexpOf(`^ (?:an?|per|each|every|in each) (?:week|day|lesson|month|session|class|meeting)\b`)
	each      = regexpOf(`^ for each\b[^\w]*$`)
	timesEach = regexpOf(`(` + num + `) \w+s(?:,| with| at|:)? $`)
	orBefore  = regexpOf(`({num}), $`)
	orMore    = regexpOf(`^{num}(?:\+| or more)`)
	eachBytes = regexpOf(`^ (?:is |are )?(?:of|under|over) [\d.]+ ?(?:[kmg]i?b|megs?|\w*bytes?)\b`)
	denied    = regexpOf(
		`\b(?:not|no|never|\w+n't|instead of|rather than)(?: as| in| send(?: me| us)?| upload| want| as separate)?\W*$`,
	)
)

func lastField(s string) string {
	f := strings.Fields(s)
	if len(f) == 0 {
		return ""
	}
	return f[len(f)-1]
}

// countOf is how many of something the text names: "four maps".
func (r *reader) countOf(noun string, not span) float64 {
	for i, k := range r.tokens {
		if strings.TrimSuffix(k.s, "s") != noun && strings.TrimSuffix(k.s, "es") != noun || k.overlaps(not) {
			continue
		}
		for back := 1; back <= 2 && i-back >= 0; back++ {
			if n, ok := r.tokens[i-back].count(); ok && n > 1 && n < 100 {
				return float64(n)
			}
		}
	}
	return 0
}
