package similarity

import (
	"index/suffixarray"
	"math/bits"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// opticks is Newton's Opticks (1704), public domain, as Go's source tree ships it.
func opticks(t testing.TB) string {
	t.Helper()
	root, err := exec.Command("go", "env", "GOROOT").Output()
	require.NoError(t, err)
	text, err := os.ReadFile(filepath.Join(strings.TrimSpace(string(root)), "src/testdata/Isaac.Newton-Opticks.txt"))
	require.NoError(t, err)
	return string(text)
}

// naive is winnowing as the paper's definition 1 states it, window by window.
func naive(text []byte, k, w int) map[int32]uint32 {
	var hashes []uint32
	for i := 0; i+k <= len(text); i++ {
		var h uint64
		for _, c := range text[i : i+k] {
			h = bits.RotateLeft64(h, 1) ^ spread[c]
		}
		hashes = append(hashes, uint32(h>>32))
	}
	chosen := map[int32]uint32{}
	w = min(w, len(hashes))
	for i := 0; len(hashes) > 0 && i+w <= len(hashes); i++ {
		least := i
		for j := i; j < i+w; j++ {
			if hashes[j] <= hashes[least] {
				least = j
			}
		}
		chosen[int32(least)] = hashes[least]
	}
	return chosen
}

func TestFingerprintIsWinnowingAsDefined(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.SliceOfN(rapid.ByteRange('a', 'c'), 0, 120).Draw(t, "text")
		k, w := rapid.IntRange(1, 8).Draw(t, "k"), rapid.IntRange(1, 9).Draw(t, "w")
		got := map[int32]uint32{}
		for _, p := range Fingerprint(text, k, w) {
			got[p.At] = p.Hash
		}
		assert.Equal(t, naive(text, k, w), got)
	})
}

func TestFingerprintAcrossStretches(t *testing.T) {
	text := normalise(opticks(t)).Norm[:3*stretch+100]
	got := map[int32]uint32{}
	for _, p := range Fingerprint(text, Gram, Window) {
		got[p.At] = p.Hash
	}
	assert.Equal(t, naive(text, Gram, Window), got)
}

// The guarantee of Schleimer, Wilkerson and Aiken (2003), §3: a shared run of at least w+k−1
// characters is always found. The oracle for what is shared is index/suffixarray over Opticks.
func TestEverySharedRunIsFound(t *testing.T) {
	book := normalise(opticks(t)).Norm
	index := suffixarray.New(book)
	known := map[uint32]bool{}
	for _, p := range Fingerprint(book, Gram, Window) {
		known[p.Hash] = true
	}
	random := rand.New(rand.NewPCG(1, 2))
	const threshold = Gram + Window - 1
	for range 2000 {
		at := random.IntN(len(book) - threshold)
		run := book[at : at+threshold]
		// Foreign text around it, so that the windows at its edges differ.
		text := append(append([]byte("qqzxjvkwqqzxjvkwqqzxjvkw"), run...), "xxqjzvkwxxqjzvkwxxqjzvkw"...)
		require.NotEmpty(t, index.Lookup(run, 1))
		found := false
		for _, p := range Fingerprint(text, Gram, Window) {
			if known[p.Hash] && int(p.At) >= 24 && int(p.At)+Gram <= 24+threshold {
				found = true
			}
		}
		require.True(t, found, "no print of %q", run)
	}
}

// The paper's theorem 1: on random hashes the density is 2/(w+1).
func TestDensity(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 4))
	text := make([]byte, 1<<20)
	for i := range text {
		text[i] = byte('a' + random.IntN(26))
	}
	for _, w := range []int{4, 12, 50} {
		density := float64(len(Fingerprint(text, Gram, w))) / float64(len(text))
		assert.InEpsilon(t, 2/float64(w+1), density, 0.02, "w = %d", w)
	}
}

func TestNormalisedTextLeadsBack(t *testing.T) {
	text := "“Maré” — l’été, exam-\nple 42."
	n := normalise(text)
	assert.Equal(t, "marelete"+"example42", string(n.Norm))
	runes := []rune(text)
	assert.Equal(t, len(runes), n.Length)
	assert.Equal(t, 'M', runes[n.Origin[0]])
	assert.Equal(t, '2', runes[n.Origin[len(n.Origin)-1]])
	assert.Len(t, n.words, 4)
	assert.Equal(t, normalise("été").Norm, normalise("e\u0301te\u0301").Norm, "composed and decomposed alike")
}

func BenchmarkFingerprint(b *testing.B) {
	text := normalise(opticks(b)).Norm
	b.SetBytes(int64(len(text)))
	for b.Loop() {
		Fingerprint(text, Gram, Window)
	}
}

func BenchmarkNormalise(b *testing.B) {
	text := opticks(b)
	b.SetBytes(int64(len(text)))
	for b.Loop() {
		normalise(text)
	}
}
