// Package compare finds what changed between two versions of a text, word by word, with the shortest
// edit script (Myers, "An O(ND) Difference Algorithm and Its Variations", 1986).
package compare

import (
	"slices"
	"strings"
	"unicode"

	"orario/core/wording"
)

// An Edit is a stretch of a and the stretch of b that takes its place; where both are of equal
// content, Same is true. Bounds are indices, end exclusive.
type Edit struct {
	A0, A1, B0, B1 int
	Same           bool
}

// mostEdits bounds time and memory: texts that differ in more words than this are told as one large
// change between their common beginning and end.
const mostEdits = 2000

// Sequences is the shortest edit script from a to b, as alternating equal and changed stretches.
// Time is O((len(a)+len(b)) · D) for D differences.
func Sequences[T comparable](a, b []T) []Edit {
	head := 0
	for head < len(a) && head < len(b) && a[head] == b[head] {
		head++
	}
	tail := 0
	for tail < len(a)-head && tail < len(b)-head && a[len(a)-1-tail] == b[len(b)-1-tail] {
		tail++
	}
	edits := appendEdit(nil, Edit{0, head, 0, head, true})
	for _, e := range middle(a[head:len(a)-tail], b[head:len(b)-tail]) {
		edits = appendEdit(edits, Edit{e.A0 + head, e.A1 + head, e.B0 + head, e.B1 + head, e.Same})
	}
	return appendEdit(edits, Edit{len(a) - tail, len(a), len(b) - tail, len(b), true})
}

func appendEdit(edits []Edit, e Edit) []Edit {
	if e.A0 == e.A1 && e.B0 == e.B1 {
		return edits
	}
	if n := len(edits); n > 0 && edits[n-1].Same == e.Same {
		edits[n-1].A1, edits[n-1].B1 = e.A1, e.B1
		return edits
	}
	return append(edits, e)
}

// middle is Myers' greedy algorithm with the furthest-reaching ends kept per round for the way back.
func middle[T comparable](a, b []T) []Edit {
	n, m := len(a), len(b)
	if n == 0 || m == 0 {
		return appendEdit(nil, Edit{0, n, 0, m, false})
	}
	limit := min(n+m, mostEdits)
	ends := make([]int32, 2*limit+3)
	at := func(k int) *int32 { return &ends[k+limit+1] }
	var rounds [][]int32 // rounds[d][k+d]: furthest x on diagonal k with d differences
	for d := 0; d <= limit; d++ {
		for k := -d; k <= d; k += 2 {
			var x int
			if k == -d || k != d && *at(k - 1) < *at(k + 1) {
				x = int(*at(k + 1))
			} else {
				x = int(*at(k - 1)) + 1
			}
			for x < n && x-k < m && a[x] == b[x-k] {
				x++
			}
			*at(k) = int32(x)
			if x >= n && x-k >= m {
				return walkBack(rounds, d, n, m)
			}
		}
		rounds = append(rounds, slices.Clone(ends[limit+1-d:limit+2+d]))
	}
	return []Edit{{0, n, 0, m, false}}
}

func walkBack(rounds [][]int32, d, n, m int) []Edit {
	var reversed []Edit
	x, y := n, m
	for ; d > 0; d-- {
		k := x - y
		before := func(k int) int {
			if k < -(d-1) || k > d-1 {
				return -1
			}
			return int(rounds[d-1][k+d-1])
		}
		down := k == -d || k != d && before(k-1) < before(k+1)
		fromK := k - 1
		if down {
			fromK = k + 1
		}
		fromX := before(fromK)
		fromY := fromX - fromK
		toX, toY := fromX+1, fromY
		if down {
			toX, toY = fromX, fromY+1
		}
		reversed = append(reversed, Edit{toX, x, toY, y, true}, Edit{fromX, toX, fromY, toY, false})
		x, y = fromX, fromY
	}
	reversed = append(reversed, Edit{0, x, 0, y, true})
	var edits []Edit
	for _, e := range slices.Backward(reversed) {
		edits = appendEdit(edits, e)
	}
	return edits
}

// A Change is a stretch of text that differs between two versions; one of both may be empty.
type Change struct {
	Before string `json:"before"`
	After  string `json:"after"`
	// Around is the unchanged text just before the change, for orientation.
	Around string `json:"around"`
}

// Summary is what changed between two versions of a text.
type Summary struct {
	Same    int      `json:"same"`    // words kept
	Removed int      `json:"removed"` // words
	Added   int      `json:"added"`   // words
	Changes []Change `json:"changes"`
}

// Texts compares two versions word by word; words are runs between white space.
func Texts(before, after string) Summary {
	a, b := strings.FieldsFunc(before, unicode.IsSpace), strings.FieldsFunc(after, unicode.IsSpace)
	s := Summary{Changes: []Change{}}
	for _, e := range Sequences(a, b) {
		if e.Same {
			s.Same += e.A1 - e.A0
			continue
		}
		s.Removed += e.A1 - e.A0
		s.Added += e.B1 - e.B0
		s.Changes = append(s.Changes, Change{
			strings.Join(a[e.A0:e.A1], " "), strings.Join(b[e.B0:e.B1], " "), strings.Join(a[max(0, e.A0-5):e.A0], " "),
		})
	}
	return s
}

// What a page shows of a comparison: so many changes, each of so many letters on both sides.
const (
	mostChanges = 12
	mostLetters = 300
)

// Shown is the beginning of a comparison, as much as a page shows.
func (s Summary) Shown() Summary {
	list := append([]Change{}, s.Changes[:min(len(s.Changes), mostChanges)]...)
	for i := range list {
		c := &list[i]
		c.Before, c.After = wording.Clip(c.Before, mostLetters), wording.Clip(c.After, mostLetters)
	}
	s.Changes = list
	return s
}
