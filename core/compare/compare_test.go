package compare

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func differences(edits []Edit) (n int) {
	for _, e := range edits {
		if !e.Same {
			n += e.A1 - e.A0 + e.B1 - e.B0
		}
	}
	return n
}

// Myers (1986), §2, figure 1: ABCABBA to CBABAC takes five edits and keeps four letters.
func TestMyersExample(t *testing.T) {
	assert.Equal(t, 5, differences(Sequences([]byte("ABCABBA"), []byte("CBABAC"))))
}

func TestEditsAreAScriptAndAreShortest(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		letters := rapid.SliceOfN(rapid.ByteRange('a', 'd'), 0, 14)
		a, b := letters.Draw(t, "a"), letters.Draw(t, "b")
		edits := Sequences(a, b)
		var back []byte
		atA, atB := 0, 0
		for _, e := range edits {
			if e.A0 != atA || e.B0 != atB {
				t.Fatalf("gap before %+v", e)
			}
			if e.Same && string(a[e.A0:e.A1]) != string(b[e.B0:e.B1]) {
				t.Fatalf("%+v is not equal", e)
			}
			back = append(back, b[e.B0:e.B1]...)
			atA, atB = e.A1, e.B1
		}
		if string(back) != string(b) || atA != len(a) {
			t.Fatalf("script does not give b")
		}
		// Oracle: the longest common subsequence by dynamic programming.
		lcs := make([][]int, len(a)+1)
		for i := range lcs {
			lcs[i] = make([]int, len(b)+1)
		}
		for i := range a {
			for j := range b {
				lcs[i+1][j+1] = max(lcs[i][j+1], lcs[i+1][j])
				if a[i] == b[j] {
					lcs[i+1][j+1] = lcs[i][j] + 1
				}
			}
		}
		if want := len(a) + len(b) - 2*lcs[len(a)][len(b)]; differences(edits) != want {
			t.Fatalf("%d differences, shortest is %d", differences(edits), want)
		}
	})
}

func TestTexts(t *testing.T) {
	s := Texts("The tide was\nlow at noon that day.", "The tide was very low at dusk that day.")
	assert.Equal(t, 7, s.Same)
	assert.Equal(t, []Change{{"", "very", "The tide was"}, {"noon", "dusk", "The tide was low at"}}, s.Changes)
	assert.Empty(t, Texts("a b", "a  b").Changes)
}

func TestVeryDifferentTextsStayCheap(t *testing.T) {
	a := strings.Fields(strings.Repeat("x y z ", 3000))
	b := strings.Fields(strings.Repeat("p q r ", 3000))
	assert.Equal(t, 18000, differences(Sequences(a, b)))
}
