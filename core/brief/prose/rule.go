package prose

import (
	"regexp"
	"strings"
)

// pattern is a regular expression over the plain text that is tried only where its words begin, since
// looking for a word is a hundred times cheaper.
type pattern struct {
	words [][]string // of each group one must be there
	*regexp.Regexp
}

// rule makes a pattern. Words are beginnings of words, separated by |; with & between groups there must be one
// of each.
func rule(words, expression string) pattern {
	p := pattern{Regexp: regexp.MustCompile(expression)}
	for group := range strings.SplitSeq(words, "&") {
		p.words = append(p.words, strings.Split(group, "|"))
	}
	return p
}

func (p pattern) may(s string) bool {
	for _, group := range p.words {
		if !begins(s, group) {
			return false
		}
	}
	return true
}

// begins says that one of the words stands in s, not after a letter.
func begins(s string, words []string) bool {
	for _, w := range words {
		for from := 0; from <= len(s); {
			i := strings.Index(s[from:], w)
			if i < 0 {
				break
			}
			at := from + i
			if at == 0 || w == "" || !isLetter(w[0]) || w == "n't" || !isLetter(s[at-1]) {
				return true
			}
			from = at + 1
		}
	}
	return false
}

func (p pattern) in(s string) bool { return p.may(s) && p.MatchString(s) }

// all is every match in a sentence, with groups, as offsets in the text.
func (p pattern) all(plain string, in span) [][]int {
	s := plain[in.start:in.end]
	if !p.may(s) {
		return nil
	}
	found := p.FindAllStringSubmatchIndex(s, -1)
	for _, f := range found {
		shift(f, in.start)
	}
	return found
}

// first is the first match.
func (p pattern) first(plain string, in span) []int {
	s := plain[in.start:in.end]
	if !p.may(s) {
		return nil
	}
	return shift(p.FindStringSubmatchIndex(s), in.start)
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
