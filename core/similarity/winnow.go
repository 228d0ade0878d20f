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
// Expected time is O(len(text)): a new least is found by one comparison, and when the least leaves the
// window, about once in w+1 grams, the window is looked through. Requires k ≥ 1 and w ≥ 1.
func Fingerprint(text []byte, k, w int) []Print {
	grams := len(text) - k + 1
	if grams <= 0 {
		return nil
	}
	w = min(w, grams)
	roll := newRoller(text, k)
	// keys holds a stretch of grams behind the last w−1 of the one before.
	keys := make([]uint64, w-1+stretch)
	held := min(w-1, grams)
	roll.keys(keys[:held], 0)
	least := leastOf(keys[:held])
	prints := make([]Print, 0, 2*grams/(w+1)+grams/(4*(w+1))+16)
	for from := held; from < grams; {
		n := min(stretch, grams-from)
		roll.keys(keys[w-1:w-1+n], from)
		begin := uint32(from - held) // of the window that ends with the first of these grams
		for i, key := range keys[w-1 : w-1+n] {
			if key < least {
				least = key
			} else if ^uint32(least) < begin+uint32(i) {
				least = leastOf(keys[i : i+w])
			} else if from > held || i > 0 {
				continue
			}
			prints = append(prints, Print{uint32(least >> 32), int32(^uint32(least))})
		}
		copy(keys, keys[n:n+w-1])
		from += n
	}
	return prints
}

func leastOf(keys []uint64) uint64 {
	least := uint64(math.MaxUint64)
	for _, key := range keys {
		least = min(least, key)
	}
	return least
}

const stretch = 2048 // grams at a time, so that they stay in the nearest cache

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
