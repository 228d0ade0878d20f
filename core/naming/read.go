package naming

import (
	"strings"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// A Reading is what one part of a given name says against what the pattern expects there. Field is
// "literal" for fixed text, which is listed only where it is not as expected.
type Reading struct {
	Field    string `json:"field"`
	Expected string `json:"expected"`
	Found    string `json:"found"`
	OK       bool   `json:"ok"`
}

// Read lays a given name along the pattern, with as few disagreements as possible, and says which
// part agrees. Expected values are tried first, so a value may itself hold separators.
func Read(p Pattern, fields Fields, plain bool, name string) (agrees bool, parts []Reading, err error) {
	want, _, err := Make(p, fields, plain)
	if err != nil {
		return false, nil, err
	}
	if !p.has("ext") && fields["ext"] != "" {
		p = append(p[:len(p):len(p)], part{literal: "."}, part{field: "ext"})
	}
	name = norm.NFC.String(name)
	expected := make([]string, len(p))
	for i, part := range p {
		expected[i] = part.literal
		if part.field != "" {
			value := strings.TrimPrefix(fields[part.field], ".")
			if plain {
				value, _ = Plain(value)
			}
			value, _ = soundValue(part.field, value)
			expected[i] = part.shaped(value)
		}
	}
	for i, found := range align(p, expected, name) {
		ok := found == expected[i]
		switch {
		case p[i].field != "":
			parts = append(parts, Reading{p[i].field, expected[i], found, ok})
		case !ok:
			parts = append(parts, Reading{"literal", expected[i], found, false})
		}
	}
	return name == want, parts, nil
}

// Costs of disagreement, in the alignment: a part that is absent costs more than one that is wrong,
// and a literal that does not stand as written more than either, since literals are the fence posts.
const (
	wrongField    = 10
	absentField   = 14
	absentLiteral = 21
	strayByte     = 1 // per byte by which a wrong value differs in length
)

// align cuts name into one stretch per part at the least total cost. Time is O(parts × len(name)²).
func align(p Pattern, expected []string, name string) []string {
	n := len(name)
	const far = 1 << 30
	best := make([][]int, len(p)+1) // best[i][at]: cost of laying parts i… along name[at:]
	take := make([][]int, len(p))   // take[i][at]: bytes that part i takes there
	best[len(p)] = make([]int, n+1)
	for at := range best[len(p)] {
		best[len(p)][at] = (n - at) * 30 // text that no part covers
	}
	for i := len(p) - 1; i >= 0; i-- {
		best[i], take[i] = make([]int, n+1), make([]int, n+1)
		for at := 0; at <= n; at++ {
			best[i][at] = far
			offer := func(length, cost int) {
				if cost += best[i+1][at+length]; cost < best[i][at] {
					best[i][at], take[i][at] = cost, length
				}
			}
			if strings.HasPrefix(name[at:], expected[i]) {
				offer(len(expected[i]), 0)
			}
			if p[i].field == "" {
				offer(0, absentLiteral)
				if l := len(expected[i]); at+l <= n && strings.EqualFold(name[at:at+l], expected[i]) {
					offer(l, wrongField)
				}
			} else {
				offer(0, absentField)
			}
			for length := 1; at+length <= n; length++ {
				if at+length < n && !utf8.RuneStart(name[at+length]) {
					continue
				}
				difference := length - len(expected[i])
				if difference < 0 {
					difference = -difference
				}
				cost := wrongField
				if p[i].field == "" {
					cost = absentLiteral + 2*length
				}
				offer(length, cost+strayByte*difference)
			}
		}
	}
	found, at := make([]string, len(p)), 0
	for i := range p {
		found[i] = name[at : at+take[i][at]]
		at += take[i][at]
	}
	return found
}
