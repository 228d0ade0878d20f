package similarity

import (
	"cmp"
	"slices"

	"orario/core/compare"
)

// A match is a stretch of words of the document and one of a source that say the same.
// Bounds are word numbers, end exclusive.
type match struct {
	d0, d1, s0, s1 int
	exact          float64
}

// A seed is a group of three words that document and source share, in any order, within four words
// of either; dPick and sPick say which of [picks] the words are.
type seed struct {
	d, s         int32
	dPick, sPick uint8
}

// picks are the second and third word of a group, counted from its first.
var picks = [...][2]int{{1, 2}, {1, 3}, {2, 3}}

const (
	widestGap   = 14  // words that a passage may skip in either text
	narrowGap   = 3   // the least to try, where a wider one gives no dense passage
	fewestWords = 5   // of a passage that is listed at all
	leastDense  = 0.5 // share of a passage's words that seeds must cover, on both sides
	commonest   = 12  // occurrences in the document above which a group of words is no seed
)

// align finds the matches of a document, whose groups are in the table, with one source, in the
// document's order.
func align(doc *Text, table *groupTable, source *Text) []match {
	seeds := findSeeds(table, source.words)
	var matches []match
	for gap := int32(widestGap); gap >= narrowGap && len(seeds) > 0; gap /= 2 {
		var left []seed
		for _, cluster := range clusters(seeds, gap) {
			if m, ok := settle(doc.words, source.words, cluster); ok {
				matches = append(matches, m)
			} else {
				left = append(left, cluster...)
			}
		}
		seeds = left
	}
	slices.SortFunc(matches, func(a, b match) int { return cmp.Or(a.d0-b.d0, a.d1-b.d1, a.s0-b.s0) })
	return strongest(joined(doc.words, source.words, matches))
}

// groupTable finds the word numbers at which a group of three words stands in the document.
type groupTable struct {
	mask  uint64
	heads []int32 // by hash: entry + 1
	hash  []uint64
	at    []int32
	pick  []uint8
	next  []int32
}

// eachGroup calls yield with the hash of every group of three words within four that begins at i.
// The hash does not depend on the order of the words. Groups of function words only are left out.
func eachGroup(words []word, i int, yield func(hash uint64, pick uint8)) {
	for n, pick := range picks {
		if i+pick[1] >= len(words) {
			continue
		}
		a, b, c := words[i], words[i+pick[0]], words[i+pick[1]]
		if a.light && b.light && c.light {
			continue
		}
		yield(spreadWord(a.hash)+spreadWord(b.hash)+spreadWord(c.hash), uint8(n))
	}
}

func spreadWord(h uint32) uint64 {
	x := uint64(h) * 0xD6E8FEB86659FD93
	x ^= x >> 32
	return x * 0x9E3779B97F4A7C15
}

func groups(words []word) *groupTable {
	size := uint64(16)
	for size < uint64(len(words))*4 {
		size *= 2
	}
	t := &groupTable{mask: size - 1, heads: make([]int32, size)}
	for i := range words {
		eachGroup(words, i, func(hash uint64, pick uint8) {
			slot := (hash >> 20) & t.mask
			t.hash, t.at, t.next = append(t.hash, hash), append(t.at, int32(i)), append(t.next, t.heads[slot])
			t.pick = append(t.pick, pick)
			t.heads[slot] = int32(len(t.at))
		})
	}
	return t
}

func findSeeds(doc *groupTable, source []word) []seed {
	var seeds []seed
	for i := range source {
		eachGroup(source, i, func(hash uint64, pick uint8) {
			start := len(seeds)
			for e := doc.heads[(hash>>20)&doc.mask]; e != 0; e = doc.next[e-1] {
				if doc.hash[e-1] == hash {
					seeds = append(seeds, seed{doc.at[e-1], int32(i), doc.pick[e-1], pick})
				}
			}
			if len(seeds)-start > commonest {
				seeds = seeds[:start]
			}
		})
	}
	return seeds
}

// clusters splits seeds wherever the document or the source goes on for more than gap words without
// one, in turns until nothing splits.
func clusters(seeds []seed, gap int32) [][]seed {
	var done [][]seed
	var split func(part []seed, bySource bool, settled int)
	split = func(part []seed, bySource bool, settled int) {
		if settled == 2 {
			done = append(done, part)
			return
		}
		key := func(s seed) int32 { return s.d }
		if bySource {
			key = func(s seed) int32 { return s.s }
		}
		slices.SortStableFunc(part, func(a, b seed) int { return int(key(a) - key(b)) })
		from := 0
		for i := 1; i <= len(part); i++ {
			if i < len(part) && key(part[i])-key(part[i-1]) <= gap {
				continue
			}
			if from == 0 && i == len(part) {
				split(part, !bySource, settled+1)
			} else {
				split(part[from:i], !bySource, 0)
			}
			from = i
		}
	}
	split(slices.Clone(seeds), false, 0)
	return done
}

// settle makes a passage of a cluster if its seeds cover enough of it, and extends it over the equal
// words at both ends.
func settle(doc, source []word, cluster []seed) (match, bool) {
	m := match{d0: len(doc), s0: len(source)}
	inDoc, inSource := map[int]bool{}, map[int]bool{}
	for _, s := range cluster {
		d, at := int(s.d), int(s.s)
		dLast, sLast := d+picks[s.dPick][1], at+picks[s.sPick][1]
		m.d0, m.s0, m.d1, m.s1 = min(m.d0, d), min(m.s0, at), max(m.d1, dLast+1), max(m.s1, sLast+1)
		inDoc[d], inDoc[d+picks[s.dPick][0]], inDoc[dLast] = true, true, true
		inSource[at], inSource[at+picks[s.sPick][0]], inSource[sLast] = true, true, true
	}
	if float64(len(inDoc)) < leastDense*float64(m.d1-m.d0) || float64(len(inSource)) < leastDense*float64(m.s1-m.s0) {
		return m, false
	}
	for m.d0 > 0 && m.s0 > 0 && doc[m.d0-1].hash == source[m.s0-1].hash {
		m.d0, m.s0 = m.d0-1, m.s0-1
	}
	for m.d1 < len(doc) && m.s1 < len(source) && doc[m.d1].hash == source[m.s1].hash {
		m.d1, m.s1 = m.d1+1, m.s1+1
	}
	if m.d1-m.d0 < fewestWords || m.s1-m.s0 < fewestWords {
		return m, false
	}
	m.exact = exactness(doc[m.d0:m.d1], source[m.s0:m.s1])
	return m, m.exact >= leastExact(min(m.d1-m.d0, m.s1-m.s0))
}

// leastExact falls with the length of a passage: the shorter it is, the more exact it must be to be
// more than the language's small change. Settled on Opticks against itself.
func leastExact(words int) float64 { return max(0.45, min(0.85, 1.05-0.03*float64(words))) }

// exactness is the share of words in the longest common order of both, 0 to 1: 2·kept/(len(a)+len(b)).
func exactness(a, b []word) float64 {
	kept := 0
	for _, e := range compare.Sequences(hashes(a), hashes(b)) {
		if e.Same {
			kept += e.A1 - e.A0
		}
	}
	return 2 * float64(kept) / float64(len(a)+len(b))
}

func hashes(words []word) []uint32 {
	list := make([]uint32, len(words))
	for i, w := range words {
		list[i] = w.hash
	}
	return list
}

// joined makes one match of those that overlap in both texts.
func joined(doc, source []word, matches []match) []match {
	var out []match
	for _, m := range matches {
		if n := len(out); n > 0 {
			last := &out[n-1]
			if m.d0 <= last.d1 && m.s0 <= last.s1 && last.s0 <= m.s1 {
				last.d1, last.s0, last.s1 = max(last.d1, m.d1), min(last.s0, m.s0), max(last.s1, m.s1)
				last.exact = exactness(doc[last.d0:last.d1], source[last.s0:last.s1])
				continue
			}
		}
		out = append(out, m)
	}
	return out
}

// strongest leaves out matches most of whose words lie in a longer match with the same source: the
// source repeats itself there.
func strongest(matches []match) []match {
	return slices.DeleteFunc(matches, func(m match) bool {
		return slices.ContainsFunc(matches, func(o match) bool {
			shared := min(m.d1, o.d1) - max(m.d0, o.d0)
			return o.d1-o.d0 > m.d1-m.d0 && 2*shared >= m.d1-m.d0
		})
	})
}
