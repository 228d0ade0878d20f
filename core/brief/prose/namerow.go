package prose

import (
	"cmp"
	"regexp"
	"slices"
	"strings"
)

// A name that is told is a row of pieces, read word by word: fields, words that stand as they are, and the signs
// between them. What else stands between two pieces only joins such a row ("then comes", "followed by"), or the row is
// over.

// rowScan reads the rows of a sentence.
type rowScan struct {
	*reader
	cased   string // the sentence as it is written, one byte a code point
	at      int    // in it
	from    int    // of the sentence, in the text
	row     nameRow
	rows    []nameRow
	sign    string
	signed  bool
	form    string // said before a piece
	foreign int    // words since the last piece that do not belong to a row
}

// nameRows are the rows that a sentence tells, without what stands at the word that leads to the name.
func (r *reader) nameRows(s, cue span) []nameRow {
	w := &rowScan{reader: r, cased: r.cased(s), from: s.start}
	for w.at < len(w.cased) {
		switch at := w.from + w.at; {
		case at >= cue.start && at < cue.end:
			if !inFileName.MatchString(w.before()) { // "the number goes first in the file name, then"
				w.close()
			}
			w.at += cue.end - at
		case w.beginsWord():
			w.word()
		default:
			if strings.IndexByte(";", w.cased[w.at]) >= 0 {
				w.close()
			}
			w.at++
		}
	}
	w.close()
	return w.rows
}

// cased is a stretch as it is written, with the plain form of what is not ASCII.
func (r *reader) cased(s span) string {
	out := []byte(r.plain[s.start:s.end])
	for i := range out {
		if c := r.original[s.start+i]; c >= 'A' && c <= 'Z' && isLetter(out[i]) {
			out[i] = byte(c)
		}
	}
	return string(out)
}

func (w *rowScan) beginsWord() bool {
	c := w.cased[w.at]
	if c == '"' || c == '(' || c == '_' || c == '+' {
		return true
	}
	return c != ' ' && (w.at == 0 || strings.IndexByte(" \"'(+,:/", w.cased[w.at-1]) >= 0)
}

// word reads what begins here.
func (w *rowScan) word() {
	rest := w.plain[w.from+w.at : w.from+len(w.cased)]
	for _, way := range rowWays {
		if m := way.begins.FindStringSubmatchIndex(rest); m != nil && way.read(w, rest, m) {
			return
		}
	}
	if m := rowLiteral.FindStringSubmatchIndex(w.cased[w.at:]); m != nil && w.literal(m) {
		return
	}
	end := rowWord.FindStringIndex(rest)
	w.foreign++
	if w.foreign > mostForeign {
		w.close()
	}
	w.at += max(1, end[1])
}

// mostForeign is how many words may stand between two pieces that are of no row.
const mostForeign = 2

var rowWord = regexpOf(`^[^ ]*`)

// rowWays are what can stand in a row, each with the words that it begins with, in the order in which they are tried.
// What a way reads it also passes; else it says false.
var rowWays []rowWay

type rowWay struct {
	begins *regexp.Regexp
	read   func(w *rowScan, rest string, m []int) bool
}

func init() { // here, since they lead back to the reading of rows
	rowWays = []rowWay{
		{regexpOf(`^{rowexample}`), (*rowScan).example},
		{regexpOf(`^(?:{rowjoint})`), (*rowScan).pass},
		{regexpOf(`^(?:{rowdirect})\b`), func(w *rowScan, rest string, m []int) bool {
			w.sign, w.signed = "", len(w.row) > 0
			return w.pass(rest, m)
		}},
		{regexpOf(`^(?:an? |the |one )?(?:single )?(?:{rowsign})`), func(w *rowScan, rest string, m []int) bool {
			w.sign, w.signed = signOf(rest[m[0]:m[1]]), len(w.row) > 0
			return w.pass(rest, m)
		}},
		{regexpOf(`^["']([^"']{1,40})["']`), (*rowScan).quotation},
		{regexpOf(`^\(?(?:{rowcase})\b\)?`), (*rowScan).inForm},
		{regexpOf(`^(?:first|given|last|family)(?: name)? and (?:first|given|last|family) names?\b`), (*rowScan).bothNames},
		{regexpOf(`^(?:the )?{field}\b`), (*rowScan).field},
		{regexpOf(`^the (?:{rowled}) `), (*rowScan).led},
		{regexpOf(`^\((?:for )?[^()]*\)`), (*rowScan).aside},
		{regexpOf(`^(?:{rowjoins})`), (*rowScan).pass},
	}
}

// before is what stands right before.
func (w *rowScan) before() string { return w.plain[w.from+max(0, w.at-longestField) : w.from+w.at] }

func (w *rowScan) pass(_ string, m []int) bool {
	w.at += m[1]
	return m[1] > 0
}

var inFileName = regexpOf(`\bin (?:the|its|every|each) $`)

// inForm is a case of letters: of the piece before, where nothing stands between, or of the next.
func (w *rowScan) inForm(rest string, m []int) bool {
	form := ":upper"
	if lowered.MatchString(rest[:m[1]]) {
		form = ":lower"
	}
	if n := len(w.row); n > 0 && !strings.ContainsAny(w.cased[w.row[n-1].end-w.from:w.at], ",;") {
		w.row[n-1].form = form
	} else {
		w.form = form
	}
	return w.pass(rest, m)
}

var lowered = regexpOf(`lower|small`)

// example ends a row, and is no part of one.
func (w *rowScan) example(rest string, m []int) bool {
	if len(w.row) > 0 {
		w.close()
		w.at = len(w.cased)
		return true
	}
	w.at += m[1] + len(rowWord.FindString(rest[m[1]:]))
	return true
}

// add takes a piece into the row.
func (w *rowScan) add(from, to int, text string) {
	p := namePiece{span: span{w.from + from, w.from + to}, text: text, sign: w.sign, signed: w.signed, form: w.form}
	if len(w.row) > 0 && (strings.IndexByte("_-", text[0]) >= 0 || endsWith(w.row[len(w.row)-1].text, "_", "-")) {
		p.sign, p.signed = "", true // "followed by '-essay'"
	}
	w.row = append(w.row, p)
	w.sign, w.signed, w.form, w.foreign = "", false, "", 0
}

func (w *rowScan) close() {
	if len(w.row) > 0 {
		if w.form != "" { // said behind all of it
			for k := range w.row {
				w.row[k].form = cmp.Or(w.row[k].form, w.form)
			}
		}
		w.rows = append(w.rows, w.row)
	}
	w.row, w.sign, w.signed, w.form, w.foreign = nil, "", false, "", 0
}

// quotation is a literal, or fields written out.
func (w *rowScan) quotation(_ string, m []int) bool {
	inside := span{w.from + w.at + m[2], w.from + w.at + m[3]}
	text := w.cased[w.at+m[2] : w.at+m[3]]
	pattern, known := w.pattern(inside)
	switch {
	case known:
		text = pattern
	case !quotedPiece.MatchString(text):
		return false
	}
	w.add(w.at+m[2], w.at+m[3], text)
	w.at += m[1]
	w.forThing()
	return true
}

var quotedPiece = regexpOf(`^[_-]?[A-Za-z0-9][A-Za-z0-9 _-]{0,19}$`)

func (w *rowScan) bothNames(rest string, m []int) bool {
	first, last, _ := strings.Cut(rest[:m[1]], " and ")
	first = strings.TrimSuffix(first, " name")
	half := strings.Index(rest, " and ")
	at := w.at
	w.add(at, at+half, field(first+"name"))
	w.add(at+half+len(" and "), at+m[1], field(strings.TrimSuffix(strings.TrimSuffix(last, "s"), " name")+"name"))
	w.at = at + m[1]
	return true
}

func (w *rowScan) field(rest string, m []int) bool {
	words := strings.TrimPrefix(rest[:m[1]], "the ")
	if ofPlace.MatchString(rest[m[1]:]) { // "the group's folder"
		return false
	}
	if words == "title" && titled.MatchString(rest[m[1]:]) || partOfField.MatchString(w.before()) {
		return false
	}
	f := field(strings.ReplaceAll(words, "'s", ""))
	if f == "" {
		return false
	}
	at := w.at
	w.add(at+m[1]-len(words), at+m[1], f)
	if of := ofSeveral.FindStringIndex(rest[m[1]:]); of != nil && f == "{family}" {
		w.add(at+m[1], at+m[1]+of[1], f)
		m[1] += of[1]
	}
	if of := ofOwner.FindStringIndex(rest[m[1]:]); of != nil {
		m[1] += of[1]
	}
	w.at = at + m[1]
	w.forThing()
	return true
}

var ofPlace = regexpOf(`^(?:'s)? (?:folder|drive|page|site|space)\b`)

var behindIt = regexpOf(`\bafter (?:the (?:word|letters) )?["']?$`)

// ofOwner says whose field it is.
var ofOwner = regexpOf(`^ of (?:the|your) (?:(?:team|group|first|leading) )?(?:leader|author|student|writer|speaker|member|` +
	`owner|captain|photographer|person \w+)\b`)

// ofSeveral says that a field stands once for each of two.
var ofSeveral = regexpOf(`^ of (?:both|the two)(?: \w+)?\b`)

// aside is in brackets: what a word stands for, or nothing of the row.
func (w *rowScan) aside(rest string, m []int) bool {
	inside := rest[m[0]+1 : m[1]-1]
	if f := field(inside); f != "" && (len(w.row) == 0 || w.foreign > 0) { // "the name of its author (family name)"
		w.add(w.at+1, w.at+m[1]-1, f)
		w.at += m[1]
		return true
	}
	if len(w.row) == 0 || w.foreign > 0 && !aCode.MatchString(w.cased[w.at+1:w.at+m[1]-1]) {
		return false
	}
	if last := len(w.row) - 1; w.row[last].word { // "the short name of the practical (prac4)"
		w.row[last].text = w.cased[w.at+1 : w.at+m[1]-1]
	} else if w.foreign > 0 { // "the course (EC204)"
		w.add(w.at+1, w.at+m[1]-1, w.cased[w.at+1:w.at+m[1]-1])
	}
	w.at += m[1]
	return true
}

var aCode = regexpOf(`^[A-Za-z]{2,}-?\d+$`)

// led reads what stands in the name as it is behind "the word".
func (w *rowScan) led(_ string, m []int) bool {
	word := ledWord.FindStringSubmatchIndex(w.cased[w.at+m[1]:])
	if word == nil {
		return false
	}
	from := w.at + m[1]
	text := w.cased[from+word[2] : from+word[3]]
	if rowStop.MatchString(strings.ToLower(text)) {
		return false
	}
	w.add(from+word[2], from+word[3], text)
	w.at = from + word[1]
	w.forThing()
	return true
}

var ledWord = regexpOf(`^["'(]?([A-Za-z0-9_-]+)["')]?`)

// literal reads a word that stands in the name as it is; m has the word in the first group that matched.
func (w *rowScan) literal(m []int) bool {
	at := firstGroup(m)
	text := w.cased[w.at+at.start : w.at+at.end]
	bare := m[len(m)-2] >= 0 // no more than a word
	switch {
	case bare && len(w.row) == 0 && nameIs.MatchString(w.before()) &&
		!rowStop.MatchString(strings.ToLower(text)) && leadsRow.MatchString(w.plain[w.from+w.at+at.end:w.from+min(len(w.cased), w.at+at.end+longestField)]):
		// "the name refl, your section and your surname"
	case bare && (len(w.row) == 0 || !w.signed && !endsRow.MatchString(w.cased[w.at+at.end:])):
		return false
	case bare && (rowStop.MatchString(strings.ToLower(text)) || !w.signed && !joinsOn.MatchString(w.before())):
		return false
	case rowStop.MatchString(strings.ToLower(text)):
		return false
	case slices.ContainsFunc(w.row, func(p namePiece) bool { return p.text == text }): // an example begins
		w.close()
		w.at = len(w.cased)
		return true
	}
	w.add(w.at+at.start, w.at+at.end, text)
	w.row[len(w.row)-1].word = bare
	w.at += at.end
	if w.at < len(w.cased) && strings.IndexByte("\"'", w.cased[w.at]) >= 0 {
		w.at++
	}
	w.forThing()
	return true
}

// forThing reads what the piece makes the name of: "_map for the map".
func (w *rowScan) forThing() {
	if n := len(w.row); n > 1 && w.row[n-1].text[0] != '{' && !w.row[n-1].signed && // "your number after 'Micro_'"
		behindIt.MatchString(w.plain[w.row[n-2].end:w.row[n-1].start]) {
		w.row[n-2], w.row[n-1] = w.row[n-1], w.row[n-2]
		if endsWith(w.row[n-2].text, "_", "-") {
			w.row[n-1].sign, w.row[n-1].signed = "", true
		}
	}
	if m := orLiteral.FindStringSubmatchIndex(w.cased[w.at:]); m != nil && len(w.row) > 1 && w.row[len(w.row)-1].text[0] != '{' {
		last := &w.row[len(w.row)-1] // "POSTER or VOICE"
		last.thing = "one"
		w.sign, w.signed = last.sign, last.signed
		from := w.at
		w.add(from+m[2], from+m[3], w.cased[from+m[2]:from+m[3]])
		w.row[len(w.row)-1].thing = "other"
		w.at = from + m[1]
		return
	}
	if m := forThing.FindStringSubmatchIndex(w.cased[w.at:]); m != nil && w.row[len(w.row)-1].text[0] != '{' {
		w.row[len(w.row)-1].thing = w.cased[w.at+m[2] : w.at+m[3]]
		w.at += m[1]
	}
}

var (
	// rowLiteral is what stands in a name as it is: with a figure, or joined to a sign; the last group is any other word,
	// which is one only in the right place.
	rowLiteral = regexpOf(`^(?:{rowliteral})`)
	// endsRow stands behind the last word of a row.
	endsRow   = regexpOf(`^["']?\s*(?:$|[.,;:)!?]|in (?:that|this) order)`)
	joinsOn   = regexpOf(`(?:\b(?:plus|then|by|and)|\+)\s+(?:the )?$`)
	nameIs    = regexpOf(`\b(?:the name|called|named|titled) ["']?$`)
	leadsRow  = regexpOf(`^,? (?:and |then |plus )?(?:your |the )?{field}\b`)
	rowStop   = regexpOf(`^(?:{rowstop})$`)
	orLiteral = regexpOf(`^["']? or ["']?([A-Z][A-Za-z0-9]+)["']?(?:[.,;)]|\s*$)`)
	forThing  = regexpOf(`^["']?,? for (?:the|your) (\w+)`)
)
