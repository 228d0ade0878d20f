package similarity

import (
	"slices"
	"sort"
)

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

// shortestRun is the length in normalised bytes above which no shared run stays unfound.
const shortestRun = Gram + Window - 1

// candidates are the numbers of the sources that share a run of at least 25 normalised characters
// with the text, ascending: each common fingerprint is extended in both texts.
func (x *Index) candidates(text *Text) []int {
	seen := make([]bool, len(x.sources))
	for _, p := range Fingerprint(text.Norm, Gram, Window) {
		prefix := p.Hash >> (32 - prefixBits)
		from, to := int(x.first[prefix]), int(x.first[prefix+1])
		first := from + sort.Search(to-from, func(i int) bool { return x.hashes[from+i] >= p.Hash })
		for i := first; i < to && x.hashes[i] == p.Hash; i++ {
			if x.sharesRun(text.Norm, int(p.At), int(x.at[i])) {
				seen[x.sourceAt(x.at[i])] = true
			}
		}
	}
	var found []int
	for i, yes := range seen {
		if yes {
			found = append(found, i)
		}
	}
	return found
}

func (x *Index) sourceAt(at uint32) int {
	return sort.Search(len(x.starts), func(i int) bool { return x.starts[i] > at }) - 1
}

// sharesRun extends equal text around position i of doc and position j of the sources.
func (x *Index) sharesRun(doc []byte, i, j int) bool {
	ahead := 0
	for ahead < shortestRun && i+ahead < len(doc) && doc[i+ahead] == x.norm[j+ahead] {
		ahead++
	}
	if ahead < Gram {
		return false // another gram with the same hash
	}
	for ahead < shortestRun && i > 0 && j > 0 && doc[i-1] == x.norm[j-1] {
		i, j, ahead = i-1, j-1, ahead+1
	}
	return ahead >= shortestRun
}
