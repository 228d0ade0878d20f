package prose

import (
	"regexp"
	"regexp/syntax"
	"slices"
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
}

func newWordwise(expression string) *wordwise {
	set, ok := startsOf(expression)
	if !ok {
		return nil
	}
	return &wordwise{set, regexp.MustCompile(`\A(?:` + expression + `)`)}
}

// next is the first match from an offset on.
func (w *wordwise) next(s string, from int) []int {
	for i := from; i < len(s); i++ {
		if s[i] < 128 && w.starts[s[i]] && (i == 0 || !isWord(s[i-1])) {
			if m := w.anchored.FindStringSubmatchIndex(s[i:]); m != nil {
				return shift(m, i)
			}
		}
	}
	return nil
}
