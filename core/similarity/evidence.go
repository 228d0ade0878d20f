package similarity

import (
	"cmp"
	_ "embed"
	"math"
	"slices"
	"strings"

	"orario/core/compare"
)

// A passage is judged as evidence that its words come from the source. Every word that both say in the same order
// counts by how rare it is: a word that English can't do without counts little (table below), and one that stands in a
// wording which many of the sources share counts less, by their number. What is not in the same order counts half. The
// sum is, roughly, the number of content words that agree.
//
// What is listed must have more of it than chance gives. The least was settled on two thirds of the tests' collection
// of licences, novel and science: of the values from 7 to 16 with which no clean document of 80 was accused and 19 of
// 20 listed characters were borrowed, it is the one that found most. The figures, also on the third that was kept
// aside, are in docs/benchmarks.md.
const (
	leastEvidence = 7.5 // of a passage that is listed; as common, where it has that only if nobody shared it
	disordered    = 0.5 // what a word counts that both say in another order
	unlike        = 0.1 // what a word counts against it that only one of the two says, or says elsewhere
	few           = 4   // sources may share a wording, and it is still theirs
	small         = 25  // sources: with fewer, common groups count less, since how many share a wording says little
	edge          = 0.3 // what a word counts against the edge of a passage that does not say it
	near          = 45  // words that two pieces of one passage may lie apart, in either text
)

// weights of words by how common they are, as parts of a word that is not common at all.
const (
	lightWeight  = 0.3
	commonWeight = 0.65
	stockWeight  = 0.5 // of what a word weighs otherwise
)

// commonWords are the thousand words that stand most often in Mark Twain's “The Adventures of Tom Sawyer” (1876) and
// Isaac Newton's “Opticks” (1704) together, function words left out; both are in the public domain.
//
//go:embed commonwords.txt
var commonWordsText string

var commonWords = func() map[string]bool {
	set := map[string]bool{}
	for _, w := range strings.Fields(commonWordsText) {
		set[w] = true
	}
	return set
}()

// commonGroups are the groups of three words that stand in five or more of eight works in the public domain: the six
// novels of Jane Austen (1811 to 1818), “The Adventures of Tom Sawyer” (1876) and “Opticks” (1704). A word of one of
// them counts less in a small collection, which can't tell what everybody says.
//
//go:embed commongroups.txt
var commonGroupsText string

var commonGroups = func() map[[3]uint32]bool {
	set := map[[3]uint32]bool{}
	for line := range strings.Lines(commonGroupsText) {
		var group [3]uint32
		for i, w := range strings.Fields(line) {
			group[i] = hashWord([]byte(w))
		}
		set[group] = true
	}
	return set
}()

// markStock marks the words that stand in a common group.
func markStock(words []word) {
	for i := 2; i < len(words); i++ {
		if commonGroups[[3]uint32{words[i-2].hash, words[i-1].hash, words[i].hash}] {
			words[i-2].stock, words[i-1].stock, words[i].stock = true, true, true
		}
	}
}

// A piece is a match together with which of its words both say.
type piece struct {
	match
	ordered []int32 // word numbers of the document that agree in order
	to      []int32 // and of the source that they agree with
	others  []int32 // that agree in another order
}

// evidence is what a piece weighs; shared tells for every word of the document how many sources share it.
func (p *piece) evidence(doc []word, shared []uint16) (all, rare float64) {
	add := func(list []int32, factor float64) {
		for _, i := range list {
			w := factor * doc[i].weight()
			all += w
			rare += w * rarity(shared[i])
		}
	}
	add(p.ordered, 1)
	add(p.others, disordered)
	against := unlike * (float64(p.d1-p.d0+p.s1-p.s0)/2 - float64(len(p.ordered)))
	return all - against, rare - against
}

func (w word) weight() float64 {
	if w.stock {
		w.stock = false
		return stockWeight * w.weight()
	}
	switch {
	case w.light:
		return lightWeight
	case w.common:
		return commonWeight
	}
	return 1
}

// rarity is what is left of a word's weight where so many sources say the same.
func rarity(sources uint16) float64 {
	if sources <= few {
		return 1
	}
	return 1 / (1 + math.Log2(float64(sources)/few))
}

// agree finds which words a piece and its source both say.
func agree(doc, source []word, m match) piece {
	p := piece{match: m}
	in := make([]bool, m.d1-m.d0)
	for _, e := range compare.Sequences(hashes(doc[m.d0:m.d1]), hashes(source[m.s0:m.s1])) {
		if e.Same {
			for i := e.A0; i < e.A1; i++ {
				in[i] = true
				p.ordered = append(p.ordered, int32(m.d0+i))
				p.to = append(p.to, int32(m.s0+e.B0+i-e.A0))
			}
		}
	}
	p.exact = p.inOrder()
	there := map[uint32]int{}
	for _, w := range source[m.s0:m.s1] {
		there[w.hash]++
	}
	for _, i := range p.ordered {
		there[doc[i].hash]--
	}
	for i := m.d0; i < m.d1; i++ {
		if !in[i-m.d0] && there[doc[i].hash] > 0 {
			there[doc[i].hash]--
			p.others = append(p.others, int32(i))
		}
	}
	return p
}

// wordForWord is how exact a passage has to be for its ends to be told from what lies beyond: of one that was reworded
// nobody can tell.
const wordForWord = 0.9

// trim takes from either end of a piece what is not borrowed: the longest stretch whose words weigh less than what lies
// among them of the document's own; where the rest is word for word the source's.
func (p *piece) trim(doc []word) {
	weights := make([]float64, p.d1-p.d0)
	for i := range weights {
		weights[i] = -edge
	}
	for _, i := range p.others {
		weights[int(i)-p.d0] = disordered * doc[i].weight()
	}
	for _, i := range p.ordered {
		weights[int(i)-p.d0] = doc[i].weight()
	}
	lose := func(at func(int) float64) (n int) { // as many as weigh least together
		sum, least := 0.0, 0.0
		for i := range weights {
			if sum += at(i); sum < least {
				least, n = sum, i+1
			}
		}
		return n
	}
	from := lose(func(i int) float64 { return weights[i] })
	to := lose(func(i int) float64 { return weights[len(weights)-1-i] })
	if from == 0 && to == 0 || from+to >= len(weights) {
		return
	}
	for _, part := range p.split([]int{p.d0 + from, p.d1 - to}) {
		if part.d0 == p.d0+from && part.exact >= wordForWord {
			*p = part
			return
		}
	}
}

// inOrder is the share of the words of both that agree in order; see [exactness].
func (p *piece) inOrder() float64 { return 2 * float64(len(p.ordered)) / float64(p.d1-p.d0+p.s1-p.s0) }

// gather makes one passage of the pieces of a source that lie close to each other in both texts, whichever comes
// first there.
func gather(matches []match) []match {
	slices.SortFunc(matches, func(a, b match) int { return cmp.Or(a.d0-b.d0, a.s0-b.s0) })
	var out []match
	for _, m := range matches {
		joined := false
		for i := len(out) - 1; i >= 0 && !joined; i-- {
			o := &out[i]
			room := min(near, 8+max(o.d1-o.d0, m.d1-m.d0))
			if m.d0-o.d1 > room {
				continue
			}
			both := match{d0: o.d0, d1: max(o.d1, m.d1), s0: min(o.s0, m.s0), s1: max(o.s1, m.s1)}
			if apart(o.s0, o.s1, m.s0, m.s1) <= room && alike(both.d1-both.d0, both.s1-both.s0) {
				*o, joined = both, true
			}
		}
		if !joined {
			out = append(out, m)
		}
	}
	return out
}

// reach is how many words two passages that are one may lie apart, in either text, and at most as many as both have.
const reach = 90

// continues says whether a match goes on where another ended, in both texts alike.
func continues(before, after match) bool {
	inDoc, inSource := after.d0-before.d1, after.s0-before.s1
	room := min(reach, before.d1-before.d0+after.d1-after.d0)
	return after.d0 > before.d0 && after.s0 > before.s0 && inDoc <= room && inSource <= room && inSource >= -near &&
		alike(max(0, inDoc), max(0, inSource))
}

// alike says whether one text may say in so many words what the other says in so many. Where it can't, the same words
// are borrowed twice.
func alike(a, b int) bool { return 5*max(a, b) <= 8*min(a, b)+75 }

func apart(a0, a1, b0, b1 int) int { return max(0, max(a0, b0)-min(a1, b1)) }

// opposite is the word of the source that stands where a word of the document does.
func (p *piece) opposite(at int) int {
	n, _ := slices.BinarySearch(p.ordered, int32(at))
	if n == len(p.to) {
		return p.s1
	}
	return int(p.to[n])
}

// split parts a piece at words of the document; each part has what lies opposite in the source. Parts without a word
// that agrees are left out.
func (p piece) split(at []int) (parts []piece) {
	from := p.d0
	for _, to := range append(slices.Clone(at), p.d1) {
		part := piece{match: match{d0: from, d1: to, s0: p.s1, s1: p.s0}}
		for n, i := range p.ordered {
			if int(i) >= from && int(i) < to {
				part.ordered, part.to = append(part.ordered, i), append(part.to, p.to[n])
				part.s0, part.s1 = min(part.s0, int(p.to[n])), max(part.s1, int(p.to[n])+1)
			}
		}
		for _, i := range p.others {
			if int(i) >= from && int(i) < to {
				part.others = append(part.others, i)
			}
		}
		from = to
		if len(part.ordered) > 0 {
			part.exact = part.inOrder()
			parts = append(parts, part)
		}
	}
	return parts
}
