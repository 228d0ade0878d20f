package similarity

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
)

// The filter before the comparison loses no source: of random texts over few letters, where runs are shared by chance
// all the time, it finds those that a search for every run of 25 characters finds; and hardly
// another where the letters are so many that little else is shared around a shorter run.
func TestTheFilterLosesNoSource(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	text := func(n int, letters string) string {
		out := make([]byte, n)
		for i := range out {
			out[i] = letters[r.IntN(len(letters))]
		}
		return string(out)
	}
	shared, more := 0, 0
	for round := range 60 {
		letters := []string{"ab", "abc", "abcdefgh"}[round%3]
		var sources []Source
		for n := range 12 {
			sources = append(sources, Source{Name: fmt.Sprint(n), Text: text(40+r.IntN(400), letters)})
		}
		document := text(200, letters)
		for range 4 { // runs of lengths around the guaranteed one
			from := sources[r.IntN(len(sources))].Text
			at, length := r.IntN(len(from)-30), 20+r.IntN(10)
			document += text(5, "xyz") + from[at:min(len(from), at+length)]
		}
		doc := normalise(document)
		var want []int
		for i, s := range sources {
			of := normalise(s.Text).Norm
			for at := 0; at+shortestRun <= len(doc.Norm); at++ {
				if bytes.Contains(of, doc.Norm[at:at+shortestRun]) {
					want = append(want, i)
					break
				}
			}
		}
		shared += len(want)
		found := NewIndex(sources).candidates(doc)
		require.Subset(t, found, want, "round %d", round)
		if len(letters) > 3 {
			more += len(found) - len(want)
			for _, i := range found { // and those share at least a gram
				of := normalise(sources[i].Text).Norm
				shares := func(at int) bool { return bytes.Contains(of, doc.Norm[at:at+Gram]) }
				require.True(t, slices.ContainsFunc(starts(len(doc.Norm)-Gram+1), shares), "round %d, source %d", round, i)
			}
		}
	}
	require.Greater(t, shared, 100)
	require.Less(t, more, 15) // where two shorter runs of one source stand together
}

// starts are the numbers below n.
func starts(n int) []int {
	list := make([]int, n)
	for i := range list {
		list[i] = i
	}
	return list
}
