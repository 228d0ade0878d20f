package prose

import (
	"slices"
	"strings"
)

// namePiece is a field or a literal of a name that is told.
type namePiece struct {
	span
	text   string
	sign   string // between it and the piece before
	signed bool   // that sign is said
	form   string // :upper or :lower, where that is said of it
	word   bool   // no more than some word behind a sign
	thing  string // what it is the name of, where that is said: "_map for the map"
}

// nameRow is a name as far as it is told in one stretch.
type nameRow []namePiece

func (w nameRow) span() span { return span{w[0].start, w[len(w)-1].end} }

func (w nameRow) fields() (n int) {
	for _, p := range w {
		if p.text[0] == '{' {
			n++
		}
	}
	return n
}

// patterns are the names that a row tells: several where its last pieces are of different things.
func (w nameRow) patterns(join func(k int) string) []string {
	var out []string
	first := slices.IndexFunc(w, func(p namePiece) bool { return p.thing != "" })
	things := 0
	for _, p := range w {
		if p.thing != "" {
			things++
		}
	}
	for k, p := range w {
		switch {
		case things >= 2 && k > first:
			out = append(out, patternOf(w[:first], join)+join(first)+p.text)
		case things < 2 && k == len(w)-1 || things >= 2 && k == first:
			out = append(out, patternOf(w[:k+1], join))
		}
	}
	return out
}

func patternOf(w nameRow, join func(k int) string) string {
	var out strings.Builder
	for k, p := range w {
		if k > 0 {
			out.WriteString(join(k))
		}
		out.WriteString(p.text)
	}
	return out.String()
}
