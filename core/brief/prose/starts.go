package prose

import (
	"regexp"
	"regexp/syntax"
	"slices"
	"sync"
	"sync/atomic"
)

// starts are the letters that a match of an expression can begin with.
type starts [128]bool

// startsOf finds them for an expression whose matches begin at the beginning of a word; ok is false for others.
func startsOf(expression string) (set starts, ok bool) {
	tree, err := syntax.Parse(expression, syntax.Perl)
	if err != nil || !fromBoundary(tree) {
		return set, false
	}
	empty, ok := set.add(tree)
	if !ok || empty {
		return set, false
	}
	for c, in := range set {
		if in && !isWord(byte(c)) {
			return set, false
		}
	}
	return set, true
}

// fromBoundary says that every match begins where a word begins or ends.
func fromBoundary(part *syntax.Regexp) bool {
	switch part.Op {
	case syntax.OpAlternate:
		return !slices.ContainsFunc(part.Sub, func(sub *syntax.Regexp) bool { return !fromBoundary(sub) })
	case syntax.OpConcat, syntax.OpCapture:
		return fromBoundary(part.Sub[0])
	}
	return part.Op == syntax.OpWordBoundary
}

// add puts in what a match of a part can begin with. empty: the part may match nothing, so that what stands
// behind it counts, too. ok is false where it cannot be told.
func (set *starts) add(part *syntax.Regexp) (empty, ok bool) {
	switch part.Op {
	case syntax.OpEmptyMatch, syntax.OpWordBoundary:
		return true, true
	case syntax.OpLiteral:
		return false, part.Flags&syntax.FoldCase == 0 && set.put(part.Rune[0], part.Rune[0])
	case syntax.OpCharClass:
		for i := 0; i+1 < len(part.Rune); i += 2 {
			if !set.put(part.Rune[i], part.Rune[i+1]) {
				return false, false
			}
		}
		return false, true
	case syntax.OpCapture, syntax.OpPlus:
		return set.add(part.Sub[0])
	case syntax.OpStar, syntax.OpQuest:
		_, ok = set.add(part.Sub[0])
		return true, ok
	case syntax.OpRepeat:
		empty, ok = set.add(part.Sub[0])
		return empty || part.Min == 0, ok
	case syntax.OpAlternate:
		for _, sub := range part.Sub {
			e, fine := set.add(sub)
			if !fine {
				return false, false
			}
			empty = empty || e
		}
		return empty, true
	case syntax.OpConcat:
		for _, sub := range part.Sub {
			e, fine := set.add(sub)
			if !fine {
				return false, false
			}
			if !e {
				return false, true
			}
		}
		return true, true
	}
	return false, false
}

func (set *starts) put(from, to rune) bool {
	if to >= 128 {
		return false
	}
	for r := from; r <= to; r++ {
		set[r] = true
	}
	return true
}

func isWord(c byte) bool {
	return c >= 'a' && c <= 'z' || c >= '0' && c <= '9' || c >= 'A' && c <= 'Z' || c == '_'
}

// wordwise tries an expression only at beginnings of words with a fitting letter. The result is that of the
// expression itself, leftmost first; a tenth of the positions have to be tried.
type wordwise struct {
	starts
	anchored *regexp.Regexp
	// A long one is tried in parts, by its first letter, once that pays.
	tree     *syntax.Regexp
	caps     int // groups of the tree
	tries    atomic.Int32
	byLetter [128]struct {
		once sync.Once
		tail
	}
}

// tail is what an expression matches from one letter on.
type tail struct {
	*regexp.Regexp
	groups []int // of the whole expression, by those of this one
}

// An expression of some length is too large for the fast engine of package regexp, and is better tried in parts; making
// these takes as long as some ten pages do without. Both were found by measuring.
const (
	longExpression = 1200
	manyTries      = 5000
)

func newWordwise(expression string) *wordwise {
	set, ok := startsOf(expression)
	if !ok {
		return nil
	}
	w := &wordwise{starts: set, anchored: regexp.MustCompile(`\A(?:` + expression + `)`)}
	if len(expression) > longExpression {
		w.tree, _ = syntax.Parse(expression, syntax.Perl) // it was parsed before
		w.caps = w.tree.MaxCap()
	}
	return w
}

// next is the first match from an offset on.
func (w *wordwise) next(s string, from int) []int {
	for i := from; i < len(s); i++ {
		if s[i] < 128 && w.starts[s[i]] && (i == 0 || !isWord(s[i-1])) {
			if m := w.match(s[i:]); m != nil {
				return shift(m, i)
			}
		}
	}
	return nil
}

// match is the match at the beginning of a string.
func (w *wordwise) match(s string) []int {
	if w.tree == nil || w.tries.Load() < manyTries && w.tries.Add(1) < manyTries {
		return w.anchored.FindStringSubmatchIndex(s)
	}
	letter := &w.byLetter[s[0]]
	letter.once.Do(func() {
		part := beginningWith(w.tree, s[0])
		letter.tail = tail{regexp.MustCompile(`\A(?:` + part.String() + `)`), groupsOf(part, []int{0})}
	})
	m := letter.FindStringSubmatchIndex(s)
	if m == nil {
		return nil
	}
	out := make([]int, 2*(w.caps+1))
	for k := range out {
		out[k] = -1
	}
	for k, group := range letter.groups {
		out[2*group], out[2*group+1] = m[2*k], m[2*k+1]
	}
	return out
}

// beginningWith is an expression without those of its alternatives that cannot begin with a letter.
func beginningWith(part *syntax.Regexp, letter byte) *syntax.Regexp {
	fits := func(sub *syntax.Regexp) bool {
		var set starts
		empty, ok := set.add(sub)
		return !ok || empty || set[letter]
	}
	switch {
	case part.Op == syntax.OpAlternate:
		return withSubs(part, slices.DeleteFunc(slices.Clone(part.Sub), func(sub *syntax.Regexp) bool { return !fits(sub) }))
	case part.Op == syntax.OpConcat && len(part.Sub) > 1 && part.Sub[0].Op == syntax.OpWordBoundary:
		subs := slices.Clone(part.Sub)
		subs[1] = beginningWith(subs[1], letter)
		return withSubs(part, subs)
	}
	return part
}

func withSubs(part *syntax.Regexp, subs []*syntax.Regexp) *syntax.Regexp {
	other := *part
	other.Sub = subs
	return &other
}

// groupsOf are the groups of an expression, in the order in which they begin.
func groupsOf(part *syntax.Regexp, list []int) []int {
	if part.Op == syntax.OpCapture {
		list = append(list, part.Cap)
	}
	for _, sub := range part.Sub {
		list = groupsOf(sub, list)
	}
	return list
}
