package similarity

import (
	"math"
	"math/bits"
	"math/rand/v2"
)

// The sizes that reports use: every shared run of Gram+Window−1 = 25 normalised characters, about
// five words, leaves a common fingerprint.
const (
	Gram   = 14 // k, bytes of normalised text per hash
	Window = 12 // w, hashes per window
)

// A Print is a selected fingerprint: the hash of the k-gram that begins at byte At of a normalised text.
type Print struct {
	Hash uint32
	At   int32
}

// spread gives each byte 64 random bits, the same in every run; a gram's hash is the exclusive or of
// its bytes' bits, each rotated by its distance from the end (a cyclic polynomial, Cohen 1997).
var spread = func() (table [256]uint64) {
	random := rand.New(rand.NewPCG(8, 13))
	for c := range table {
		table[c] = random.Uint64()
	}
	return table
}()

// Fingerprint selects, from the hashes of all k-grams, the least of each window of w, the rightmost
// where several are least. Two texts that share a run of w+k−1 bytes share a print of it; about
// 2/(w+1) of all k-grams are selected. A text shorter than a window gives the least it has.
//
// Time is O(len(text) · log w), in short loops without a branch that depends on the text.
// Requires k ≥ 1 and w ≥ 1.
func Fingerprint(text []byte, k, w int) []Print {
	grams := len(text) - k + 1
	if grams <= 0 {
		return nil
	}
	w = min(w, grams)
	roll := newRoller(text, k)
	prints := make([]Print, 0, 2*grams/(w+1)+grams/(4*(w+1))+16)
	// keys holds a stretch of grams; the last w−1 of them begin windows that end in the next stretch.
	keys := make([]uint64, stretch+w-1)
	least := make([]uint64, stretch+w-1)
	last := uint64(math.MaxUint64)
	held := 0
	for from := 0; from < grams; {
		n := min(len(keys)-held, grams-from)
		roll.keys(keys[held:held+n], from)
		from += n
		held += n
		windows := held - w + 1
		if windows <= 0 {
			continue
		}
		copy(least, keys[:held])
		minima(least[:held], w)
		prints, last = appendChanges(prints, least[:windows], last)
		held = copy(keys, keys[windows:held])
	}
	return prints
}

const stretch = 2048 // windows at a time, so that they stay in the nearest cache

// A roller hashes the grams of a text one after the other.
type roller struct {
	text    []byte
	k       int
	hash    uint64
	leaving [256]uint64 // takes the first byte of the previous gram out of the hash
	gone    uint64      // of the byte that leaves next; 0 before the first gram
}

func newRoller(text []byte, k int) *roller {
	r := &roller{text: text, k: k}
	for _, c := range text[:k-1] {
		r.hash = bits.RotateLeft64(r.hash, 1) ^ spread[c]
	}
	for c := range r.leaving {
		r.leaving[c] = bits.RotateLeft64(spread[c], k)
	}
	return r
}

// keys writes the keys of the grams that begin at from and after: the hash above, the position below
// it inverted, so that of equal hashes the rightmost is least.
func (r *roller) keys(keys []uint64, from int) {
	incoming, outgoing := r.text[from+r.k-1:][:len(keys)], r.text[from:][:len(keys)]
	hash, gone, at := r.hash, r.gone, uint64(^uint32(from))
	for j := range keys {
		hash = bits.RotateLeft64(hash, 1) ^ (spread[incoming[j]] ^ gone)
		gone = r.leaving[outgoing[j]]
		keys[j] = hash&^math.MaxUint32 | at
		at--
	}
	r.hash, r.gone = hash, gone
}

// minima replaces each value by the least of itself and the w−1 behind it, the span growing fourfold
// in each pass; the last w−1 values are not meant to be used.
func minima(values []uint64, w int) {
	for span := 1; span < w; {
		next := min(4*span, w)
		lessen(values, span, min(2*span, next-span), next-span)
		span = next
	}
}

// lessen takes into each value those a, b and c places behind it, a ≤ b ≤ c.
func lessen(values []uint64, a, b, c int) {
	a = min(a, c)
	last := values[c:]
	n := len(last)
	first, second, here := values[a:a+n], values[b:b+n], values[:n]
	for i := range here {
		here[i] = min(min(here[i], first[i]), min(second[i], last[i]))
	}
}

// appendChanges appends every value that differs from the one before it.
func appendChanges(prints []Print, least []uint64, last uint64) ([]Print, uint64) {
	var chosen [stretch]uint64
	n := 0
	for _, key := range least {
		chosen[n] = key
		changed := 0
		if key != last {
			changed = 1
		}
		n += changed
		last = key
	}
	for _, key := range chosen[:n] {
		prints = append(prints, Print{uint32(key >> 32), int32(^uint32(key))})
	}
	return prints, last
}
