package prose

import (
	"regexp"
	"slices"
	"strings"
	"sync"
)

// pattern is a regular expression over the plain text that is tried only where its words begin, since looking for a
// word is a hundred times cheaper. It is made when it is first used: most programs that hold this package read nothing.
type pattern struct{ *made }

type made struct {
	expression string // with the words of the vocabulary
	once       sync.Once
	words      []beginnings // of each group one must be there
	wordwise   *wordwise    // nil: it may begin anywhere
	whole      *regexp.Regexp
}

// rules are all that there are, for the tests.
var rules []pattern

// rule makes a pattern of an expression, with the words of the [vocabulary] and those that a text must have for it; see
// [needs].
func rule(expression string) pattern {
	p := pattern{&made{expression: spelled(expression, vocabulary)}}
	rules = append(rules, p)
	return p
}

func (m *made) make() *made {
	m.once.Do(func() {
		m.wordwise, m.whole = newWordwise(m.expression), regexp.MustCompile(m.expression)
		for _, group := range needs(m.expression) {
			m.words = append(m.words, newBeginnings(group))
		}
	})
	return m
}

func (p pattern) regexp() *regexp.Regexp { return p.make().whole }

func (p pattern) may(s string) bool {
	words := p.make().words
	if len(words) == 0 {
		return true
	}
	there := presentIn(s)
	for i := range words {
		if !words[i].in(s, there) {
			return false
		}
	}
	return true
}

// beginnings are beginnings of words, by their first letter, and what may stand anywhere.
type beginnings struct {
	by     [26][]string
	signs  []string
	begins twoLetters
}

func newBeginnings(words []string) (b beginnings) {
	for _, w := range words {
		if implied(w, words) {
			continue
		}
		if begun, ok := strings.CutPrefix(w, boundary); ok && isLetter(begun[0]) {
			b.by[begun[0]-'a'] = append(b.by[begun[0]-'a'], begun)
			b.beginning(begun)
		} else {
			b.signs = append(b.signs, strings.TrimPrefix(w, boundary))
		}
	}
	return b
}

// beginning adds by which letters a word begins: of one that is cut off behind its first, all.
func (b *beginnings) beginning(word string) {
	if len(word) > 1 {
		b.begins.add(word[0], word[1])
		return
	}
	for second := byte('a'); second <= 'z'; second++ {
		b.begins.add(word[0], second)
	}
	b.begins.add(word[0], ' ')
}

// implied says that where a word stands another of them does: "lateness" tells no more than "late".
func implied(word string, words []string) bool {
	return slices.ContainsFunc(words, func(o string) bool {
		return o != word && (strings.HasPrefix(word, o) || o[0] != boundary[0] && strings.Contains(word, o))
	})
}

// in says that one of them stands in s, in which what is there is present.
func (b *beginnings) in(s string, there *present) bool {
	if slices.ContainsFunc(b.signs, func(w string) bool { return there.mayHold(w) && strings.Contains(s, w) }) {
		return true
	}
	if !b.begins.meets(&there.begins) {
		return false
	}
	inside := false // of a word
	for i := range len(s) {
		letter := isLetter(s[i])
		if letter && !inside {
			for _, w := range b.by[s[i]-'a'] {
				if strings.HasPrefix(s[i:], w) {
					return true
				}
			}
		}
		inside = letter
	}
	return false
}

func (p pattern) in(s string) bool {
	switch {
	case !p.may(s):
		return false
	case p.anywhere(s):
		return p.whole.MatchString(s)
	}
	return p.wordwise.next(s, 0) != nil
}

// mostWordwise bounds what is tried word by word, each try costing some time for all of the rest.
const mostWordwise = 1500

func (p pattern) anywhere(s string) bool { return p.wordwise == nil || len(s) > mostWordwise }

// matches is every match, with groups.
func (p pattern) matches(s string) (found [][]int) {
	if !p.may(s) {
		return nil
	}
	if p.anywhere(s) {
		return p.whole.FindAllStringSubmatchIndex(s, -1)
	}
	for m := p.wordwise.next(s, 0); m != nil; m = p.wordwise.next(s, m[1]) {
		found = append(found, m)
	}
	return found
}

// all is every match in a sentence, with groups, as offsets in the text.
func (p pattern) all(plain string, in span) [][]int {
	found := p.matches(plain[in.start:in.end])
	for _, f := range found {
		shift(f, in.start)
	}
	return found
}

// first is the first match.
func (p pattern) first(plain string, in span) []int {
	s := plain[in.start:in.end]
	switch {
	case !p.may(s):
		return nil
	case p.anywhere(s):
		return shift(p.whole.FindStringSubmatchIndex(s), in.start)
	}
	return shift(p.wordwise.next(s, 0), in.start)
}

// shift makes offsets in a sentence ones in the text.
func shift(match []int, by int) []int {
	for k := range match {
		if match[k] >= 0 {
			match[k] += by
		}
	}
	return match
}

func group(plain string, m []int, n int) string {
	if 2*n+1 >= len(m) || m[2*n] < 0 {
		return ""
	}
	return plain[m[2*n]:m[2*n+1]]
}

// firstGroup is where the first group stands that matched, or the whole match.
func firstGroup(m []int) span {
	for n := 2; n+1 < len(m); n += 2 {
		if m[n] >= 0 {
			return span{m[n], m[n+1]}
		}
	}
	return span{m[0], m[1]}
}
