package similarity

import (
	"cmp"
	"slices"
)

// Remedy is what to do about a passage.
type Remedy string

// The remedies.
const (
	Leave   Remedy = "leave"   // handout text, bibliography, quoted and attributed
	Quote   Remedy = "quote"   // mark as a quotation: the source is named, the marks lack
	Cite    Remedy = "cite"    // name the source
	Rewrite Remedy = "rewrite" // say it in own words, or quote it
	OwnWork Remedy = "own"     // one's own earlier work
)

// A Passage is a stretch of the document that matches one of a source. Exact is the share of words
// that agree in order, 0 to 1. Excluded says why it does not count, or is empty.
type Passage struct {
	Start       int     `json:"start"`
	End         int     `json:"end"`
	Source      string  `json:"source"`
	SourceStart int     `json:"source_start"`
	SourceEnd   int     `json:"source_end"`
	Exact       float64 `json:"exact"`
	Remedy      Remedy  `json:"remedy"`
	Excluded    string  `json:"excluded"`
	Words       int     `json:"-"` // of the document, in the passage
}

// A SourceShare is what one source has of the document, exclusions left out.
type SourceShare struct {
	Source   string  `json:"source"`
	Share    float64 `json:"share"`
	Passages int     `json:"passages"` // those that count
}

// A Report is the result of one check. Length is in code points; Share is the part of them that
// stands in passages which count, 0 to 1.
type Report struct {
	Length   int           `json:"length"`
	Share    float64       `json:"share"`
	Passages []Passage     `json:"passages"`
	Sources  []SourceShare `json:"sources"`
}

// Options are what an instructor sets for a report.
type Options struct {
	MinWords   int      // passages of fewer words do not count
	KeepQuotes bool     // quotations with their source named count too
	LeaveOut   []string // names of sources that do not count
}

// DefaultMinWords is used where nothing is set (common practice: single phrases do not count).
const DefaultMinWords = 8

// Exact enough to be somebody's wording rather than somebody's thought.
const verbatim = 0.75

// Check compares a document with the sources of the index.
func (x *Index) Check(document string, o Options) Report {
	text := normalise(document)
	if len(x.sources) < small {
		markStock(text.words)
	}
	m := findMarks(document)
	r := Report{Length: text.Length, Passages: []Passage{}, Sources: []SourceShare{}}
	for _, f := range x.find(text, m) {
		p := Passage{
			Start: int(text.words[f.d0].start), End: int(text.words[f.d1-1].end),
			Source:      x.sources[f.source].Name,
			SourceStart: int(f.text.words[f.s0].start), SourceEnd: int(f.text.words[f.s1-1].end),
			Exact: f.exact, Words: f.d1 - f.d0,
		}
		judge(&p, x.sources[f.source].Kind, f.common, m, o)
		r.Passages = append(r.Passages, p)
	}
	slices.SortFunc(r.Passages, func(a, b Passage) int {
		return cmp.Or(a.Start-b.Start, a.End-b.End, cmp.Compare(a.Source, b.Source))
	})
	r.count()
	return r
}

// A finding is a passage that a source has, as far as it is more than chance.
type finding struct {
	piece
	source int
	text   *Text // of the source
	common bool  // many sources share the wording
}

// find aligns the document with every candidate and keeps what weighs enough as evidence.
func (x *Index) find(text *Text, m marks) (list []finding) {
	table := groups(text.words)
	shared := make([]uint16, len(text.words)) // by how many sources each word of the document
	for _, i := range x.candidates(text) {
		st := normalise(x.sources[i].Text)
		matches := align(text, table, st)
		last := 0
		for _, m := range matches { // in the document's order
			for w := max(m.d0, last); w < m.d1; w++ {
				shared[w]++
			}
			last = max(last, m.d1)
		}
		for _, m := range gather(matches) {
			f := finding{piece: agree(text.words, st.words, m), source: i, text: st}
			f.trim(text.words)
			list = append(list, f)
		}
	}
	var listed []finding
	for _, f := range list {
		if f.weighed(text.words, shared) {
			listed = append(listed, f)
		}
	}
	return x.atMarks(text.words, x.whole(text.words, shared, listed), m)
}

// whole makes one passage of those of one source that lie in the same order close together in both texts, with no
// passage of another source between them: what was reworded heavily agrees here and there. Each weighs enough by
// itself, and so has the whole.
func (x *Index) whole(words []word, shared []uint16, list []finding) []finding {
	slices.SortStableFunc(list, func(a, b finding) int { return cmp.Or(a.d0-b.d0, a.d1-b.d1) })
	between := func(from, to, source int) bool {
		return slices.ContainsFunc(list, func(f finding) bool { return f.source != source && f.d0 < to && f.d1 > from })
	}
	var out []finding
	for _, f := range list {
		i := slices.IndexFunc(out, func(o finding) bool {
			return o.source == f.source && continues(o.match, f.match) && !between(o.d1, f.d0, f.source)
		})
		if i >= 0 {
			o := out[i]
			both := finding{source: f.source, text: f.text}
			both.piece = agree(words, f.text.words, match{d0: o.d0, d1: max(o.d1, f.d1), s0: o.s0, s1: max(o.s1, f.s1)})
			if both.weighed(words, shared) {
				out[i] = both
				continue
			}
		}
		out = append(out, f)
	}
	return out
}

// weighed says whether a finding is listed, and whether as common.
func (f *finding) weighed(doc []word, shared []uint16) bool {
	all, rare := f.evidence(doc, shared)
	f.common = rare < leastEvidence
	return all >= leastEvidence
}

// atMarks splits the findings that run into or out of a quotation at its marks, since either side is judged for
// itself. Marks that the source has at the same place were borrowed with its words, and split nothing. A side outside
// of the marks that is nothing by itself goes.
func (x *Index) atMarks(words []word, list []finding, m marks) (out []finding) {
	for _, f := range list {
		cuts, opens := x.cuts(words, f, m)
		quoted := len(cuts) > 0 && !opens[cuts[0]]
		for _, part := range f.split(cuts) {
			if part.d0 > f.d0 {
				quoted = opens[part.d0]
			}
			if len(cuts) == 0 || quoted || len(part.ordered) >= fewestWords {
				out = append(out, finding{piece: part, source: f.source, text: f.text, common: f.common})
			}
		}
	}
	return out
}

// cuts are the words of a finding before which the document has a quotation mark and the source has none, ascending,
// with whether the mark opens.
func (x *Index) cuts(words []word, f finding, m marks) (cuts []int, opens map[int]bool) {
	opens = map[int]bool{}
	var theirs []int // words of the source at marks, once they are looked for
	looked := false
	for _, q := range m.quoted {
		for _, edge := range []int{q.start, q.end} {
			at := wordAt(words, edge)
			if at <= f.d0 || at >= f.d1 {
				continue
			}
			if !looked {
				looked = true
				for _, q := range quotations(x.sources[f.source].Text) {
					theirs = append(theirs, wordAt(f.text.words, q.start), wordAt(f.text.words, q.end))
				}
			}
			opposite := f.opposite(at)
			if !slices.ContainsFunc(theirs, func(w int) bool { return w-opposite >= -2 && w-opposite <= 2 }) {
				cuts = append(cuts, at)
				opens[at] = edge == q.start
			}
		}
	}
	slices.Sort(cuts)
	return slices.Compact(cuts), opens
}

// wordAt is the first word that begins at a code point or behind it.
func wordAt(words []word, point int) int {
	at, _ := slices.BinarySearchFunc(words, point, func(w word, p int) int { return int(w.start) - p })
	return at
}

// judge decides on remedy and exclusion.
func judge(p *Passage, kind Kind, common bool, m marks, o Options) {
	at := span{p.Start, p.End}
	quoted, cited := m.isQuoted(at), m.isCited(at)
	switch {
	case m.inBibliography(at):
		p.Remedy, p.Excluded = Leave, "bibliography"
	case kind == Handout:
		p.Remedy, p.Excluded = Leave, "handout"
	case quoted && cited:
		p.Remedy = Leave
		if !o.KeepQuotes {
			p.Excluded = "quotation"
		}
	case kind == Own:
		p.Remedy, p.Excluded = OwnWork, "own"
	case quoted:
		p.Remedy = Cite
	case cited && p.Exact >= verbatim:
		p.Remedy = Quote
	case cited || p.Exact >= verbatim:
		p.Remedy = Rewrite
	default:
		p.Remedy = Cite
	}
	if p.Excluded == "" && p.Words < o.MinWords {
		p.Excluded = "small"
	}
	if p.Excluded == "" && slices.Contains(o.LeaveOut, p.Source) {
		p.Excluded = "source"
	}
	if p.Excluded == "" && common {
		p.Excluded = "common"
	}
}

// count computes the shares from the passages that are not excluded; what two passages cover counts once.
func (r *Report) count() {
	bySource := map[string][]span{}
	var all []span
	for _, p := range r.Passages {
		if p.Excluded == "" {
			all = append(all, span{p.Start, p.End})
			bySource[p.Source] = append(bySource[p.Source], span{p.Start, p.End})
		}
	}
	share := func(spans []span) float64 { return float64(covered(spans)) / float64(max(1, r.Length)) }
	r.Share = share(all)
	for name, spans := range bySource {
		r.Sources = append(r.Sources, SourceShare{name, share(spans), len(spans)})
	}
	slices.SortFunc(r.Sources, func(a, b SourceShare) int {
		return cmp.Or(cmp.Compare(b.Share, a.Share), cmp.Compare(a.Source, b.Source))
	})
}

// A RemedyShare is the part of a document that asks for one remedy.
type RemedyShare struct {
	Remedy Remedy  `json:"remedy"`
	Share  float64 `json:"share"` // 0 to 1
	Counts bool    `json:"counts"`
}

// heaviest are the remedies in the order in which a code point that several passages cover counts for one.
var heaviest = []Remedy{Rewrite, Quote, Cite, OwnWork, Leave}

// ByRemedy says what part of the document asks for which remedy; every code point counts once, for the heaviest. Those
// that count make the report's share together.
func (r *Report) ByRemedy() (list []RemedyShare) {
	var before []span
	for _, counts := range []bool{true, false} {
		for _, remedy := range heaviest {
			had := covered(before)
			for _, p := range r.Passages {
				shown := p.Excluded == "" || p.Remedy == OwnWork || p.Remedy == Leave
				if p.Remedy == remedy && shown && (p.Excluded == "") == counts {
					before = append(before, span{p.Start, p.End})
				}
			}
			slices.SortFunc(before, func(a, b span) int { return a.start - b.start })
			if share := float64(covered(before)-had) / float64(max(1, r.Length)); share > 0 {
				list = append(list, RemedyShare{remedy, share, counts})
			}
		}
	}
	return list
}

// A Stretch is a part of the document with the passage that weighs most there, and behind it those that other sources
// have of the same words. Both are numbers of the report's passages.
type Stretch struct {
	Best int
	Also []int
}

// Stretches puts the passages that cover the same words together: those that share half of the shorter one's length
// with the best. What counts comes before what doesn't, then the longer.
func (r *Report) Stretches() (list []Stretch) {
	order := make([]int, len(r.Passages))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int {
		p, q := r.Passages[a], r.Passages[b]
		weight := func(p Passage) float64 { return float64(p.End-p.Start) * (0.5 + p.Exact) }
		out := func(p Passage) int {
			if p.Excluded == "" {
				return 0
			}
			return 1
		}
		return cmp.Or(out(p)-out(q), cmp.Compare(weight(q), weight(p)))
	})
	for _, i := range order {
		p := r.Passages[i]
		at := slices.IndexFunc(list, func(s Stretch) bool {
			best := r.Passages[s.Best]
			shared := span{p.Start, p.End}.overlap(span{best.Start, best.End})
			return best.Source != p.Source && 2*shared >= min(p.End-p.Start, best.End-best.Start)
		})
		if at >= 0 {
			list[at].Also = append(list[at].Also, i)
		} else {
			list = append(list, Stretch{Best: i})
		}
	}
	slices.SortFunc(list, func(a, b Stretch) int { return a.Best - b.Best })
	return list
}

// covered is the number of code points in at least one span; spans are in order of their starts.
func covered(spans []span) int {
	n, end := 0, 0
	for _, s := range spans {
		n += max(0, s.end-max(s.start, end))
		end = max(end, s.end)
	}
	return n
}

// Gone counts the passages of an earlier report that have no counterpart in a later one: none of the
// later passages from the same source overlaps its place there by half.
func Gone(earlier, later Report) (gone []Passage) {
	for _, p := range earlier.Passages {
		at := span{p.SourceStart, p.SourceEnd}
		stays := slices.ContainsFunc(later.Passages, func(q Passage) bool {
			return q.Source == p.Source && 2*at.overlap(span{q.SourceStart, q.SourceEnd}) >= at.end-at.start
		})
		if !stays {
			gone = append(gone, p)
		}
	}
	return gone
}
