package similarity

import (
	"encoding/binary"
	"sort"
)

const (
	shortestRun = Gram + Window - 1 // length in normalised bytes above which no shared run stays unfound
	rareIn      = 4                 // the most places of a fingerprint whose surroundings are compared
	around      = 150               // normalised bytes before and behind it that are
	leastPairs  = 12                // runs of pairLength bytes that both surroundings must have
	pairLength  = 8                 // about two words
)

// candidates are the numbers of the sources to align the text with, ascending: those that share a run of at least 25
// normalised characters with it, and those that share a shorter one which is rare, with more of the same words around
// it in both. The second finds what was reworded so thoroughly that hardly five words stand side by side any more: on
// the tests' collection three quarters of such passages are found with it, as many as by aligning with every source.
func (x *Index) candidates(text *Text) []int {
	seen := make([]bool, len(x.sources))
	var here surroundings
	for _, p := range Fingerprint(text.Norm, Gram, Window) {
		places, at := x.places(p.Hash), int(p.At)
		for _, place := range places {
			source := x.sourceAt(place)
			if seen[source] {
				continue
			}
			switch run := sharedRun(text.Norm, at, x.norm, int(place)); {
			case run == shortestRun:
				seen[source] = true
			case run >= Gram && len(places) <= rareIn:
				here.of(text.Norm, at)
				seen[source] = here.shared(x.norm, int(place)) >= leastPairs
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

// places are where the grams of a hash begin in the sources' normalised texts.
func (x *Index) places(hash uint32) []uint32 {
	prefix := hash >> (32 - prefixBits)
	from, to := int(x.first[prefix]), int(x.first[prefix+1])
	from += sort.Search(to-from, func(i int) bool { return x.hashes[from+i] >= hash })
	end := from
	for end < to && x.hashes[end] == hash {
		end++
	}
	return x.at[from:end]
}

func (x *Index) sourceAt(at uint32) int {
	return sort.Search(len(x.starts), func(i int) bool { return x.starts[i] > at }) - 1
}

// sharedRun is the length of the equal run of a and b around their bytes i and j, at most shortestRun.
func sharedRun(a []byte, i int, b []byte, j int) (length int) {
	for length < shortestRun && i+length < len(a) && a[i+length] == b[j+length] {
		length++
	}
	if length < Gram {
		return length // another gram with the same hash
	}
	for length < shortestRun && i > 0 && j > 0 && a[i-1] == b[j-1] {
		i, j, length = i-1, j-1, length+1
	}
	return length
}

// surroundings are the runs of pairLength bytes around one place of a text, as a table of open addresses.
type surroundings struct {
	runs [1024]uint64 // 0 where there is none: no text has a byte of 0
	at   int          // behind the place whose runs these are
}

func (s *surroundings) of(text []byte, at int) {
	if s.at == at+1 {
		return
	}
	*s = surroundings{at: at + 1}
	for i := max(0, at-around); i < min(len(text)-pairLength, at+around); i++ {
		run := binary.LittleEndian.Uint64(text[i:])
		s.runs[s.slot(run)] = run
	}
}

// shared counts the runs around a gram of another text that these have, too, outside of the gram.
func (s *surroundings) shared(text []byte, at int) (n int) {
	for i := max(0, at-around); i < min(len(text)-pairLength, at+around); i++ {
		run := binary.LittleEndian.Uint64(text[i:])
		if outside := i <= at-pairLength || i >= at+Gram; outside && s.runs[s.slot(run)] == run {
			n++
		}
	}
	return n
}

// slot is where a run stands, or would.
func (s *surroundings) slot(run uint64) uint64 {
	at := run * 0x9E3779B97F4A7C15 >> 54
	for s.runs[at] != 0 && s.runs[at] != run {
		at = (at + 1) % uint64(len(s.runs))
	}
	return at
}
