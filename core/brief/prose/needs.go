package prose

import (
	"regexp/syntax"
	"slices"
	"strings"
)

// needs are the words that a text must have for an expression to match in it: of each group one. They are derived from
// the expression's syntax tree, so that no text is passed over that it matches.
//
// A string that begins with boundary begins a word.
func needs(expression string) (groups [][]string) {
	tree, err := syntax.Parse(expression, syntax.Perl)
	if err != nil {
		return nil
	}
	n := needOf(tree)
	groups = n.groups
	if n.exact != nil {
		groups = flushed(nil, n.exact)
	}
	slices.SortStableFunc(groups, func(a, b []string) int { return worth(b) - worth(a) })
	return groups[:min(len(groups), mostGroups)]
}

const (
	boundary   = "\x00"
	mostExact  = 72 // strings that are told apart
	mostGroups = 2  // groups that are looked for: more cost more than they save
)

// A need is what a part of an expression matches, if that is one of a few strings, else what any match holds.
type need struct {
	exact  []string // nil: too many
	groups [][]string
	begin  []string // what a match begins with, one of these; nil: not known
}

// worth is how much a group tells: long words, and few of them.
func worth(group []string) int {
	shortest := 99
	for _, s := range group {
		shortest = min(shortest, len(strings.Trim(s, boundary)))
	}
	return 20*min(shortest, 4) - len(group)
}

// flushed adds a group of strings of which one must be there; if one of them is empty, nothing must.
func flushed(groups [][]string, exact []string) [][]string {
	var group []string
	for _, s := range exact {
		begins := strings.HasPrefix(s, boundary)
		if s = strings.ReplaceAll(s, boundary, ""); strings.TrimSpace(s) == "" {
			return groups
		}
		if begins {
			s = boundary + s
		}
		group = append(group, s)
	}
	slices.Sort(group)
	return append(groups, slices.Compact(group))
}

func needOf(part *syntax.Regexp) need {
	switch part.Op {
	case syntax.OpLiteral:
		return need{exact: []string{strings.ToLower(string(part.Rune))}}
	case syntax.OpWordBoundary:
		return need{exact: []string{boundary}}
	case syntax.OpEmptyMatch, syntax.OpNoWordBoundary, syntax.OpBeginText, syntax.OpEndText, syntax.OpBeginLine,
		syntax.OpEndLine:
		return need{exact: []string{""}}
	case syntax.OpCharClass:
		return need{exact: lettersOf(part.Rune)}
	case syntax.OpCapture:
		return needOf(part.Sub[0])
	case syntax.OpQuest:
		if sub := needOf(part.Sub[0]); sub.exact != nil && len(sub.exact) < mostExact {
			return need{exact: append([]string{""}, sub.exact...)}
		}
	case syntax.OpPlus:
		return need{groups: needOf(part.Sub[0]).any()}
	case syntax.OpRepeat:
		if part.Min > 0 {
			return need{groups: needOf(part.Sub[0]).any()}
		}
	case syntax.OpConcat:
		return needOfAll(part.Sub)
	case syntax.OpAlternate:
		return needOfOne(part.Sub)
	}
	return need{}
}

// any are the groups of a part that stands there at least once.
func (n need) any() [][]string {
	if n.exact != nil {
		return flushed(nil, n.exact)
	}
	return n.groups
}

func lettersOf(ranges []rune) (list []string) {
	for i := 0; i+1 < len(ranges); i += 2 {
		for r := ranges[i]; r <= ranges[i+1]; r++ {
			if list = append(list, strings.ToLower(string(r))); len(list) > 12 {
				return nil
			}
		}
	}
	return list
}

// needOfAll is what parts need that follow each other.
func needOfAll(parts []*syntax.Regexp) need {
	run, broken := []string{""}, false
	var groups [][]string
	var begin []string
	for _, p := range parts {
		n := needOf(p)
		if n.exact != nil && len(run)*len(n.exact) <= mostExact {
			var longer []string
			for _, a := range run {
				for _, b := range n.exact {
					longer = append(longer, a+b)
				}
			}
			run = longer
			continue
		}
		first := run
		if n.begin != nil && len(run) == 1 && strings.Trim(run[0], boundary) == "" { // a word begins with it
			first = make([]string, len(n.begin))
			for i, s := range n.begin {
				first[i] = run[0] + s
			}
		}
		before := len(groups)
		if groups = flushed(groups, first); !broken && len(groups) > before {
			begin = first
		}
		broken = true
		if run = []string{""}; n.exact != nil {
			run = n.exact
		}
		groups = append(groups, n.groups...)
	}
	if !broken {
		return need{exact: run}
	}
	return need{groups: flushed(groups, run), begin: begin}
}

// needOfOne is what one of several parts needs: the best group of each.
func needOfOne(parts []*syntax.Regexp) need {
	var exact, best, begin []string
	allExact, all, allBegin := true, true, true
	for _, p := range parts {
		n := needOf(p)
		if n.exact == nil {
			allExact = false
		} else {
			exact = append(exact, n.exact...)
			n.begin = n.exact
		}
		begin, allBegin = append(begin, n.begin...), allBegin && n.begin != nil
		groups := n.any()
		if len(groups) == 0 {
			all = false
			continue
		}
		best = append(best, slices.MaxFunc(groups, func(a, b []string) int { return worth(a) - worth(b) })...)
	}
	switch {
	case allExact && len(exact) <= mostExact:
		return need{exact: exact}
	case !allBegin:
		begin = nil
	}
	if !all {
		best = []string{""}
	}
	return need{groups: flushed(nil, best), begin: begin}
}
