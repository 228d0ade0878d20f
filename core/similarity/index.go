package similarity

import "slices"

// Kind says whose a source is, which decides what a match with it means.
type Kind string

// The kinds of sources.
const (
	Other   Kind = ""        // somebody else's text
	Own     Kind = "own"     // an earlier work or draft of the same student
	Handout Kind = "handout" // given out with the assignment, or its instructions
)

// A Source is a text that documents are compared with.
type Source struct {
	Name string
	Text string
	Kind Kind
}

// An Index answers which of many sources share a run of text with a document. Beside the texts it
// holds their normalised form and 8 bytes per selected fingerprint, together about 2.2 bytes per
// character, and is safe for concurrent use. The normalised texts may be 4 GB together at the most.
type Index struct {
	sources []Source
	norm    []byte   // all normalised texts, a 0 byte behind each
	starts  []uint32 // where each begins in norm
	hashes  []uint32 // ascending
	at      []uint32 // at[i]: where in norm the gram of hashes[i] begins
	first   []uint32 // first[p]: where hashes whose upper bits are p begin
}

const prefixBits = 16

// NewIndex indexes sources; time is O(n log n) for n fingerprints.
func NewIndex(sources []Source) *Index {
	x := &Index{sources: sources}
	var pairs []uint64
	for _, s := range sources {
		from := len(x.norm)
		x.starts = append(x.starts, uint32(from))
		x.norm = append(append(x.norm, normalise(s.Text).Norm...), 0)
		for _, p := range Fingerprint(x.norm[from:len(x.norm)-1], Gram, Window) {
			pairs = append(pairs, uint64(p.Hash)<<32|uint64(from+int(p.At)))
		}
	}
	slices.Sort(pairs)
	x.hashes, x.at = make([]uint32, len(pairs)), make([]uint32, len(pairs))
	for i, p := range pairs {
		x.hashes[i], x.at[i] = uint32(p>>32), uint32(p)
	}
	x.lookUp()
	return x
}

// lookUp makes the table of where fingerprints of the same upper bits begin.
func (x *Index) lookUp() {
	x.first = make([]uint32, 1<<prefixBits+1)
	for _, h := range x.hashes {
		x.first[h>>(32-prefixBits)+1]++
	}
	for p := range 1 << prefixBits {
		x.first[p+1] += x.first[p]
	}
}
