package prose

import (
	"strconv"
	"strings"
)

// numbered is a piece of work by its number.
var numberedWork = regexpOf(`\b({numberedwork})(?: no\.?| number)?(?: | ?#)(\d{1,2})\b`)

// head is the beginning of the text, where it says what it is about: its first paragraph, or some lines of it.
func (t *text) head() string {
	if first := t.sentences[0]; first.end-first.start < 40 {
		if line := t.plain[first.start:first.end]; numberedWork.MatchString(line) && !asideVerb.MatchString(line) {
			return line // a heading
		}
	}
	head := t.plain[:min(len(t.plain), 160)]
	if k := strings.Index(t.broken[:len(head)], "\n\n"); k > 20 {
		return head[:k]
	}
	return head
}

// otherNumber says whether a clause is about a piece of work of the same kind as the text's own, with another number.
// The text's own are those that its first lines name.
func (t *text) otherNumber(clause string) bool { return t.differs(t.head(), clause) }

// differs says whether a clause is about a piece of work of a kind that a head names, with another number.
func (t *text) differs(head, clause string) bool {
	all := numberedWork.FindAllStringSubmatch(clause, -1)
	if len(all) == 0 {
		return false
	}
	own := map[string]map[string]bool{}
	for _, m := range numberedWork.FindAllStringSubmatch(head, -1) {
		if own[m[1]] == nil {
			own[m[1]] = map[string]bool{}
		}
		own[m[1]][m[2]] = true
	}
	for _, m := range nthWork.FindAllStringSubmatch(head, -1) { // "second stage"
		if own[m[2]] == nil {
			own[m[2]] = map[string]bool{}
		}
		own[m[2]][strconv.Itoa(ordinals[m[1]])] = true
	}
	last := all[len(all)-1]
	return own[last[1]] != nil && !own[last[1]][last[2]]
}

var notLabel = regexpOf(`\b{notlabel}\b`)

// label is what else a clause names before a time: the part that it is for.
func label(before string) string {
	words := strings.FieldsFunc(
		notLabel.ReplaceAllString(before, " "),
		func(r rune) bool { return !(r >= 'a' && r <= 'z' || r >= '0' && r <= '9') },
	)
	return strings.Join(words, " ")
}

var nthWork = regexpOf(`\b(first|second|third|fourth|fifth|sixth) ({numberedwork})\b`)

// ofOtherWork says that a sentence or row begins with a piece of work of another number than the text's own.
func (t *text) ofOtherWork(s span) bool {
	lead := t.plain[s.start:min(s.end, s.start+24)]
	m := numberedWork.FindStringIndex(lead)
	if m == nil || strings.Trim(lead[:m[0]], " *-|") != "" || s == t.sentences[0] {
		return false
	}
	if first := t.sentences[0]; s.start <= len(t.head()) {
		return t.differs(t.plain[first.start:first.end], lead[:m[1]])
	}
	return t.otherNumber(lead[:m[1]])
}
