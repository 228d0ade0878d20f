package prose

import (
	"slices"
	"strings"
)

var (
	including = rule(`^\W*include `) // at the beginning of a sentence
	besides   = rule(`\b(?:in addition to|besides|apart from|beside|together with|` +
		`along with) ([^,.;]{3,40}?),? (?:please )?(?:also )?{send} ([^,.;]{3,40})`)
	sendCue  = rule(`\b{send}`)
	archived = rule(`\b(?:zip|archive|folder)(?: file)?(?: \([^)]*\))? (?:containing|with|holding|that contains)\b`)
	nounStop = regexpOf(`\b{nounstop}\b.*$`)
	leading  = regexpOf(`^{leading}+\b ?`)
	sections = rule(`^(?:{sectionof})(?: and \w+| section| part)?$`)
	asForm   = rule(`(?:^|[,;:] |\band )((?:the |your |an? |its )?[a-z][a-z -]{2,30}?) (?:as|in|is|are|` +
		`\() ?(?:an? )?{aform}\b`)
	document = rule(`\b{document} (?:must |should |will |has to |needs to |have to |ought to )?(?:contain|include|` +
		`have|has|consist|compris|cover|begin|start|end|name|show|state|give|list|say)\w*\b`)
	enumerat = regexpOf(`,|;|\band\b|\bplus\b|\bas well as\b|\btogether with\b|\balong with\b|\baccompanied by\b|&|\+`)
	bulleted = regexpOf(`^(?:\[[ x]?\]|[*\->|+]+|\d+[.)]|[a-h][.)]|\([a-h1-9]\)|\(?(?:i{1,3}|iv|vi?)[.)]|o) +`)
	verbs    = rule(`\b{verbs}\b`)
)

// slots finds the things to send where one sentence or list enumerates two or more.
func (r *reader) slots() {
	names, at, ok := r.listed(false)
	if !ok && sendAll.in(r.plain) {
		names, at, ok = r.listed(true) // the list stands before what asks for it
	}
	if ok {
		r.find("slots", names, at, 0.85)
		return
	}
	for i, s := range r.sentences {
		for k := i; strings.HasSuffix(r.plain[s.start:s.end], ";") && r.enumerates(s) && k+1 < len(r.sentences); k++ {
			s.end = r.sentences[k+1].end // "to be sent: sketch; drawing; model"
		}
		text := r.plain[s.start:s.end]
		if r.severalDue(s) {
			continue
		}
		if m := besides.first(r.plain, s); m != nil {
			one, other := nounPhrase(group(r.plain, m, 1)), nounPhrase(group(r.plain, m, 2))
			if isThing(one) && isThing(other) {
				r.find("slots", []string{one, other}, span{m[0], m[1]}, 0.8)
				return
			}
		}
		if words, _ := things(text); len(words) == 0 || !enumerat.MatchString(text) {
			continue
		}
		if document.in(text) && !strings.Contains(text, "upload") && !strings.Contains(text, "submit") || elsewhere.in(text) {
			continue
		}
		cues := sendCue.all(r.plain, s)
		if m := including.first(r.plain, s); m != nil {
			cues = [][]int{m}
		} else if i > 0 && wanted.in(r.question(i)) {
			cues = append([][]int{{s.start, s.start}}, cues...) // the answer
		}
		for _, m := range cues {
			if notSent.MatchString(r.plain[s.start:m[1]]) || ofFileName.MatchString(r.plain[m[1]:s.end]) {
				continue
			}
			from := m[1]
			if in := archived.first(r.plain, span{m[1], s.end}); in != nil {
				from = in[1] // "one ZIP with the report and the data"
			}
			if names, at, ok := r.enumeration(span{from, s.end}); ok {
				r.find("slots", names, at, 0.85)
				return
			}
			if m[0]-s.start > 12 { // "a report, a map and a table must be uploaded"
				if names, at, ok := r.enumeration(span{s.start, m[0]}); ok {
					r.find("slots", names, at, 0.75)
					return
				}
			}
		}
	}
	for _, s := range r.sentences { // a bare enumeration: "Abstract of 150 words, poster in PDF"
		if words, _ := things(r.plain[s.start:s.end]); r.severalDue(s) || r.otherRow(s) || len(words) < 2 ||
			s.end-s.start > 160 || denies.MatchString(r.plain[s.start:min(s.end, s.start+4)]) {
			continue
		}
		if names, at, ok := r.enumeration(s); ok && at.start == s.start &&
			!slices.ContainsFunc(names, func(n string) bool { return !isThing(lastField(n)) || len(strings.Fields(n)) > 3 }) {
			r.find("slots", names, at, 0.7)
			return
		}
	}
	for _, s := range r.sentences { // each with its form: "the report as PDF and the data as CSV"
		var names []string
		var at span
		for _, m := range asForm.all(r.plain, s) {
			if name := nounPhrase(group(r.plain, m, 1)); isThing(name) && !slices.Contains(names, name) && !sections.in(name) {
				names, at = append(names, name), at.and(span{m[0], m[1]})
			}
		}
		if len(names) >= 2 && !elsewhere.in(r.plain[s.start:s.end]) {
			r.find("slots", names, at, 0.75)
			return
		}
	}
}

// ofFileName says that what is put somewhere is put into a name.
var ofFileName = regexpOf(`^[^;]{0,60}\b(?:in|into) (?:the|your) file ?name\b`)

// question is the question that a sentence answers, or "".
func (r *reader) question(i int) string {
	if q := r.plain[r.sentences[i-1].start:r.sentences[i-1].end]; strings.HasSuffix(q, "?") {
		return q
	}
	return ""
}

var wanted = rule(`\b(?:what)\b{..} (?:wanted|want|need(?:ed)?|hand in|submit|send|upload|deliver|due|expected?)\b`)

// enumerates says that a sentence before a semicolon begins a list: by a colon, or by what asks for things.
func (r *reader) enumerates(s span) bool {
	if strings.Contains(r.plain[s.start:s.end], ":") {
		return true
	}
	m := sendCue.first(r.plain, s)
	return m != nil && m[0]-s.start < 12 && !strings.Contains(r.plain[s.start:s.end], " and ")
}

// otherRow says that a sentence begins with a day on which something else happens: "1 May   topic and outline".
func (r *reader) otherRow(s span) bool {
	return slices.ContainsFunc(r.mentions, func(m mention) bool { return m.start == s.start && m.role != due })
}

// severalDue says that a sentence has more than one due time: what it names are parts then.
func (r *reader) severalDue(s span) bool {
	n := 0
	for _, m := range r.mentions {
		n += btoi(m.sentence == s && m.role == due)
	}
	return n > 1
}

// enumeration reads "a report, the data file and a sketch".
func (r *reader) enumeration(s span) (names []string, at span, ok bool) {
	text := r.plain[s.start:s.end]
	if k := strings.Index(text, ":"); k >= 0 && k < 45 && enumerat.MatchString(text[k:]) {
		s.start += k + 1
		text = text[k+1:]
	}
	depth := 0
	blank := []byte(text) // what stands in brackets is no part of a name
	for i, c := range blank {
		if c == '(' && !numberFirst.MatchString(text[i:]) {
			depth++
		}
		if depth > 0 {
			blank[i] = ' '
		}
		if c == ')' && depth > 0 {
			depth--
		}
	}
	for _, m := range r.mentions { // nor is a time
		for i := max(m.start, s.start); i < min(m.end, s.end); i++ {
			blank[i-s.start] = ' '
		}
	}
	marks := enumerat
	if numberedIn.MatchString(string(blank)) { // "(1) the solutions, typed or not, and (2) the script"
		marks = numberMark
		first := marks.FindIndex(blank)
		copy(blank[:first[0]], strings.Repeat(" ", first[0]))
	}
	start := 0
	flush := func(end int) bool {
		raw := string(blank[start:end])
		if len(names) > 0 && bareForm.MatchString(strings.Trim(raw, " .")) || ifAny.MatchString(raw) || len(names) == 0 &&
			someThings.MatchString(raw) {
			return true // "a report, PDF, and a map"; "two things, a map and a report"
		}
		name := nounPhrase(raw)
		if name == "" {
			return strings.TrimSpace(raw) == "" || furtherFile.MatchString(raw)
		}
		if !slices.Contains(names, name) {
			names = append(names, name)
			lead := len(raw) - len(strings.TrimLeft(raw, " "))
			if len(names) == 1 {
				at.start = s.start + start + lead
			}
			at.end = s.start + start + len(strings.TrimRight(raw, " "))
		}
		return true
	}
	for _, m := range append(marks.FindAllStringIndex(string(blank), -1), []int{len(blank), len(blank)}) {
		if !flush(m[0]) {
			break
		}
		start = m[1]
	}
	if len(names) < 2 || slices.ContainsFunc(names, sections.in) ||
		!slices.ContainsFunc(names, func(n string) bool { return isThing(n) || strings.HasSuffix(n, "file") }) {
		return nil, at, false
	}
	for _, n := range names {
		if fileLike.MatchString(n) || formOnly.MatchString(n) {
			return nil, at, false
		}
	}
	return names, at, true
}

var (
	numberMark = regexpOf(`\b(?:and|or) +\(?(?:\d|i{1,3}|iv|v)\)|\(?\b(?:\d|i{1,3}|iv|v)\)`)
	fileLike   = regexpOf(`@|_|\w\.[a-z0-9]{2,4}$`)
	noNoun     = regexpOf(`^(?:together|altogether)\b|^(?:for|on|in|at|by|as|from|uncut|unedited|stapled|handwritten|printed)\b(?:$| )|` +
		`\b(?:office|drawer|room|desk|every)\b`)
	endsOpen = regexpOf(`\b(?:on|in|at|by|to|for|from|one)$|"|\btab\b|\ba[0-5]\b|\b(?:class|course) page\b`)
	ifAny    = regexpOf(`^\W*(?:where|if|as far as) (?:applicable|necessary|needed|possible|available|any|required|` +
		`relevant|appropriate)\W*$`)
	someThings = regexpOf(`^\W*(?:two|three|four|five|six|several|\d|the following|these) (?:things|items|parts|files|` +
		`documents|pieces)\W*$`)
	bareForm    = regexpOf(`^{aform}$`)
	lengthLead  = regexpOf(`^(?:and |plus )?(?:an?|the|your|one) \w+-(?:page|word|minute|second|side|line)(?:-long)? `)
	numberFirst = regexpOf(`^\((?:\d|i{1,3}|iv|v)\)`)
	numberedIn  = regexpOf(`\b(?:\d|i)\).*\b(?:\d|i{1,3}|iv|v)\)`)
	formOnly    = regexpOf(`^{formonly}$`)
	furtherFile = regexpOf(`^\W*(?:(?:as (?:a|the)|in a) (?:second|third|separate|further|own)\b|separately|` +
		`photographs? of (?:it|them))`)
	fillers = regexpOf(`\b(?:short|brief) (?:of)?$`)
)

// nounPhrase is the noun with its adjectives, or "" if the words are none.
func nounPhrase(raw string) string {
	p := strings.Trim(raw, " .:\n\t\"'*-")
	p = strings.Join(strings.Fields(p), " ")
	if noNoun.MatchString(p) {
		return ""
	}
	p = lengthLead.ReplaceAllString(p, "")
	p = leading.ReplaceAllString(p, "")
	p = amountLead.ReplaceAllString(p, "")
	p = leading.ReplaceAllString(p, "")
	p = nounStop.ReplaceAllString(p, "")
	p = fillers.ReplaceAllString(p, "")
	p = strings.Trim(p, " .:,;\"'*-")
	if k := strings.Index(p, " - "); k > 0 {
		p = p[:k]
	}
	if n := len(strings.Fields(p)); p == "" || endsOpen.MatchString(p) || n > 6 || isNumber(p) || !sendable[oneOf(p)] &&
		verbs.regexp().MatchString(withoutThing(strings.ReplaceAll(p, "-", "_"))) {
		return ""
	}
	return p
}

// withoutThing leaves out a first and a last word that is a thing, though it may be a verb elsewhere: "log sheet",
// "test log".
func withoutThing(p string) string {
	if first, rest, ok := strings.Cut(p, " "); ok && isThing(first) {
		if sendable[oneOf(rest)] {
			return ""
		}
		p = rest
	}
	if k := strings.LastIndexByte(p, ' '); k > 0 && isThing(p[k:]) {
		p = p[:k]
	}
	return p
}

var amountLead = regexpOf(`^(?:\d[\d,.]*|[a-z]+)[- ](?:page|word|minute|second|side|line)s?(?:[- ]long)?(?: of)? `)

// sendAll asks for what was listed before.
var sendAll = rule(`\b(?:submit|upload|send|hand in|deliver) (?:all (?:of )?(?:these|them|the above|three|four|` +
	`five)|these|them all)\b`)

// listed reads a list of bullets or numbers under a line that asks for files, or any, where they are asked for
// elsewhere.
func (r *reader) listed(asked bool) (names []string, at span, ok bool) {
	lines := strings.SplitAfter(r.broken, "\n")
	offset, open := 0, asked
	for _, line := range lines {
		text := strings.TrimSpace(line)
		indent := strings.Index(line, text)
		m := bulleted.FindString(text)
		switch {
		case text == "":
			if len(names) > 0 {
				open = false
			}
		case open && ruled.MatchString(text): // below the head of a table
		case m != "" && (open || m[0] == '['):
			open = true
			item := text[len(m):]
			if k := strings.IndexAny(item, "(:;,.|"); k > 0 {
				item = item[:k]
			}
			item, _, _ = strings.Cut(item, "  ") // another column
			name := nounPhrase(item)
			if name == "" || formOnly.MatchString(name) {
				return nil, at, false
			}
			if len(names) == 0 {
				at.start = offset + indent
			}
			names = append(names, name)
			at.end = offset + indent + len(text)
		default:
			if len(names) >= 2 {
				open = false
				break
			}
			names = nil
			open = asked || strings.HasSuffix(text, ":") && (including.in(text) || sendCue.in(text) || neededCue.in(text)) ||
				sendEnd.MatchString(text) ||
				listHead.MatchString(text) || listBegun.in(text)
		}
		offset += len(line)
		if len(names) >= 2 && !open {
			break
		}
	}
	if len(names) < 2 || slices.ContainsFunc(names, sections.in) ||
		!slices.ContainsFunc(names, func(n string) bool { return isThing(n) || strings.HasSuffix(n, "file") }) {
		return nil, at, false
	}
	return names, at, true
}

var notSent = regexpOf(`\b(?:not|n't|no need) (?:to )?(?:be )?\w+:?$`)

var (
	neededCue = rule(`\b(?:required|needed|pieces|files|items|documents|parts|following)\b`)
	sendEnd   = regexpOf(`\b(?:hand in|submit|upload|send|deliver|attach)$`)
)

var ruled = regexpOf(`^[|:\- ]+$`)

var listHead = regexpOf(`^(?:#+ *)?{listhead}\b[^.]{0,40}:?$|\bwhat to (?:submit|send|hand in|upload)$|` +
	`\bit (?:must )?(?:holds?|contains?|includes?|consists of)$`)

// listBegun is a line that leads to a list: "one zip containing", or the head of a table's first column.
var listBegun = ways{
	rule(`\b(?:zip|archive|folder|file)\b.*\b(?:containing|holding|with|that contains)$`),
	rule(`^\| ?(?:what|items?|deliverables?|files?|pieces?|documents?|components?|things?|elements?)\b`),
}
