package prose

import (
	"slices"
	"strings"
)

var (
	fileNoun = `(?:pdf |searchable |zipped |signed |combined |complete |compressed |merged |short |small |` +
		`large |finished |final |jpe?g |png |mp3 |mp4 |csv |single |separate |different |image |audio |video |` +
		`data |text |sound |clear |sharp |good |original |individual |scanned |colour |landscape |labelled |` +
		`own )*(?:pdf )?(?:files?|documents?|photos?|photographs?|images?|pictures?|pdfs?|attachments?|` +
		`recordings?|boards?|scans?|videos?|clips?|screenshots?|zips?|zip files?|zip archives?)`
	fileAmount = rule(`\b(?:(` + num + `) ?(-|to|or|and) ?)?(single|0*1 single|` + num + `)(?: or more)? (` + fileNoun + `)\b(?:\s*(?:per|` +
		`for each|for every|each for|to each)(?: of the| \w+)? (\w+))?`,
	)
	notFiles = rule(`\b(?:last year|may be checked|for example)\b`)
	sumWord  = rule(`\b(?:(worth|total(?:s| of|:)?|out of|maximum(?: mark| score)?(?: is| of|:)?|counts?(?: for)?|carries|` +
		`carry|for|earns?(?: you)?|gives?(?: you)?|brings?|makes?|marked (?:out of|on)|graded (?:out of|on)|` +
		`of (?:the|a total of|all)(?: \w+)?|there are|the full|full marks?(?: are| is|:)?|` +
		`points?(?: possible)?:|marks?:|scored? (?:out of|on)|you can (?:get|earn|score|collect)|up to|in all|` +
		`altogether|this is an?|an?) ?)?(` + num + `)[- ]?(points?|marks?|pts?)\b( (?:in total|altogether|in all|` +
		`overall|total|are available|available|possible|are at stake|at stake|maximum|to be had|to be won|` +
		`to gain))?`,
	)
	outOf = rule(`\b(?:marked|graded|scored|marks?|grade|mark is|score|points?) (?:is )?(?:given )?(?:out of|` +
		`on a scale (?:of|to)|from 0 to|/) ?(` + num + `)\b`,
	)
	partOf = regexpOf(
		`^[^.;,]{0,6}(?:for|each|per|go to|are for|on|in question|if|off|will be|are (?:deducted|lost|taken)|` +
			`is (?:deducted|lost|taken)|lost|deducted|less)\b`,
	)
	lossBefore = regexpOf(
		`\b(?:lose|loses|lost|minus|deduct\w*|costs?|less|penalty(?: of)?|take off|taken off|minus|below|under|` +
			`at least|bonus|extra|additional|charge[sd]?|fine of|pay)\W*(?:you )?$`,
	)
)

// files finds how many files are sent.
func (r *reader) files() {
	var list []amount
	for _, s := range r.sentences {
		text := r.digits[s.start:s.end]
		amounts := fileAmount.all(r.digits, s)
		if len(amounts) == 0 || notFiles.in(text) {
			continue
		}
		for _, m := range amounts {
			word := group(r.digits, m, 3)
			if word == "" || strings.HasPrefix(word, "a ") || strings.HasPrefix(word, "an ") ||
				strings.HasPrefix(group(r.digits, m, 4), "mb") ||
				isDigit(word[0]) && m[6] > s.start && strings.IndexByte(".,/", r.digits[m[6]-1]) >= 0 {
				continue
			}
			hi := number(word)
			if strings.HasSuffix(word, "single") {
				hi = 1
			}
			if hi == 0 || hi > 500 || hi != float64(int(hi)) {
				continue
			}
			lo, from := nan, m[0]
			joiner := group(r.digits, m, 2)
			if g := group(r.digits, m, 1); g != "" {
				lo = number(g)
			}
			if joiner == "and" && !strings.HasSuffix(strings.TrimRight(r.digits[s.start:m[0]], " "), "between") {
				lo, from = nan, m[6]
			}
			a := r.bound(s, from, m[1], lo, hi, 1, joiner)
			if per := group(r.digits, m, 5); per != "" {
				n := r.countOf(strings.TrimSuffix(per, "s"), span{m[0], m[1]})
				if n == 0 && per != "file" &&
					has(
						per,
						"question",
						"problem",
						"task",
						"exercise",
						"map",
						"station",
						"site",
						"sample",
						"species",
						"plate",
						"sketch",
						"part",
						"page",
						"student",
						"person",
						"team",
						"group",
					) {
					if !has(per, "student", "person", "team", "group") {
						continue
					}
				} else if n > 0 {
					a.min, a.max = hi*n, hi*n
				}
			}
			before := r.digits[max(s.start, from-30):from]
			if eachBytes.MatchString(r.digits[m[1]:min(s.end, m[1]+14)]) || denied.MatchString(before) ||
				strings.HasSuffix(before, "in the ") && hi > 1 {
				continue
			}
			a.kind, a.thing = "files", strings.TrimSuffix(lastField(group(r.digits, m, 4)), "s")
			list = append(list, a)
		}
	}
	for i, a := range list {
		repeated := slices.ContainsFunc(
			list[:i],
			func(o amount) bool { return same(o.min, a.min) && same(o.max, a.max) },
		)
		partOf := slices.ContainsFunc(list, func(o amount) bool {
			return o.sentence == a.sentence && o.start < a.start && o.max > a.max &&
				strings.IndexByte(r.digits[o.end:a.start], ':') >= 0
		})
		if !repeated && !partOf {
			r.find("files", a.bounds(), a.span, 0.85)
		}
	}
}

var (
	eachBytes = regexpOf(`^ (?:is |are )?(?:of|under|over) \d`)
	denied    = regexpOf(
		`\b(?:not|no|never|\w+n't|instead of|rather than)(?: as| in| send| upload| want| as separate)?\W*$`,
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

// wholeSums are the ways to say what the whole is worth: as a label with its value, as what the parts make together, as
// that of which something is lost or given.
var wholeSums = []pattern{
	rule(`(?:^|\n)\W*(?:max(?:imum|\.)? )?(?:points?|marks?)(?: obtainable| possible| available)?` +
		`\W*[:\t ]\s*(?:max(?:imum|\.)? )?(` + num + `)(?: points?| marks?)?\b`),
	rule(`\bmax(?:imum|\.)? (?:marks?|points?)\W{1,4}(` + num + `)\b`),
	rule(`\btotal(?: is| of|:)?\s+(` + num + `)(?: points?| marks?)?\b`),
	rule(`\b(` + num + `)(?: points?| marks?)?,? (?:in all|in total|altogether|all told)\b`),
	rule(`\b(?:makes?|adds? up to|comes? to) (` + num + `)(?: points?| marks?)?\b`),
	rule(`\bof (?:the|its|these|all|your) (` + num + `) (?:points?|marks?)\b`),
	rule(`\bout of (` + num + `)\b`),
	rule(`\b(?:the|so) (` + num + `) (?:points?|marks?)\b`),
}

var (
	otherUnit = regexpOf(`^ ?(?:%|per cent|percent|mb|kb|gb|words?|pages?|minutes?|seconds?|files?|days?|hours?|[.:]\d|{month}\b|tenth|quarter|third|fifth)`)
	markWord  = rule(`\b(?:marks?|marked|points?|pts|grades?|graded|scores?|out of|total)\b`)
)

// around is a sentence with the one before it.
func (r *reader) around(s span) string { return r.digits[max(0, s.start-120):s.end] }

// points finds what the whole work is worth.
func (r *reader) points() {
	type sum struct {
		span
		value float64
		sure  int // 2: said to be the whole; 1: alone
	}
	var sums []sum
	parts := 0
	for _, s := range r.sentences {
		text := r.digits[s.start:s.end]
		if elsewhere.in(text) {
			continue
		}
		for _, m := range outOf.all(r.digits, s) {
			sums = append(sums, sum{span{m[0], m[1]}, number(group(r.digits, m, 1)), 2})
		}
		sumsHere := sumWord.all(r.digits, s)
		late := len(sumsHere) > 0 && (lateWord.in(text) || perCue.in(text))
		for _, m := range sumsHere {
			v := number(group(r.digits, m, 2))
			cue, tail := group(r.digits, m, 1), group(r.digits, m, 3+1)
			before, after := r.digits[max(s.start, m[0]-30):m[0]], r.digits[m[1]:min(s.end, m[1]+40)]
			if v == 0 || v > 1000 || fontAfter.MatchString(after) ||
				strings.HasPrefix(group(r.digits, m, 3), "pt") && (v == 10 || v == 11 || v == 12) && cue == "" {
				continue
			}
			if fontAfter.MatchString(after) || lossBefore.MatchString(before) ||
				styleWord.in(text) && strings.Contains(r.digits[m[0]:m[1]], "-") {
				continue
			}
			whole := tail != "" || strings.HasPrefix(cue, "worth") || strings.HasPrefix(cue, "total") ||
				strings.HasPrefix(cue, "out of") ||
				strings.HasPrefix(cue, "of ") ||
				strings.HasPrefix(cue, "max") ||
				strings.HasPrefix(cue, "carr") ||
				strings.HasPrefix(cue, "mark") ||
				strings.HasPrefix(cue, "grade") ||
				strings.HasPrefix(cue, "point") ||
				strings.HasPrefix(cue, "full") ||
				strings.HasPrefix(cue, "count") ||
				strings.HasPrefix(cue, "the full") ||
				strings.HasPrefix(cue, "this is") ||
				strings.HasPrefix(cue, "you can") ||
				strings.HasPrefix(cue, "there are")
			switch {
			case partOf.MatchString(after) && !totalFor.MatchString(after) || rubricOf.MatchString(before):
				if tail == "" && !strings.HasPrefix(cue, "of ") && !strings.HasPrefix(cue, "out of") {
					parts++
					continue
				}
				fallthrough
			case whole && !(late && !strings.HasPrefix(cue, "of ") && !strings.HasPrefix(cue, "out of") && !strings.HasPrefix(cue, "worth")):
				sums = append(sums, sum{span{m[0], m[1]}, v, 2})
			case !late:
				sums = append(sums, sum{span{m[0], m[1]}, v, 1})
			}
		}
	}
	for _, s := range r.sentences {
		text := r.digits[s.start:s.end]
		for _, p := range wholeSums {
			for _, m := range p.all(r.digits, s) {
				at := r.digits[m[1]:min(len(r.digits), m[1]+12)]
				if v := number(group(r.digits, m, 1)); v > 0 && v <= 1000 && !maxBefore.MatchString(r.digits[s.start:m[0]]) && !otherUnit.MatchString(at) &&
					markWord.in(r.around(s)) && !elsewhere.in(text) {
					sums = append(sums, sum{span{m[0], m[1]}, v, 3})
				}
			}
		}
	}
	best := sum{}
	alone := 0
	for _, s := range sums {
		if s.sure == 1 {
			alone++
		}
		if s.sure > best.sure || s.sure == best.sure && s.sure >= 2 && s.value > best.value {
			best = s
		}
	}
	if best.sure >= 2 || best.sure == 1 && alone == 1 && parts == 0 {
		r.find("points", best.value, best.span, 0.7+0.1*float64(min(2, best.sure)))
	}
}

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
			`presentation) ?\w*\s*[:(=-]\s*|\()$`,
	)
	styleWord = rule(`\b(?:spac\w+|font|typeface)\b`)
)
