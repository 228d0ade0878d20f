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
	m := findMarks(document)
	r := Report{Length: text.Length, Passages: []Passage{}, Sources: []SourceShare{}}
	table := groups(text.words)
	for _, i := range x.candidates(text) {
		source := x.sources[i]
		st := normalise(source.Text)
		for _, match := range align(text, table, st) {
			p := Passage{
				Start: int(text.words[match.d0].start), End: int(text.words[match.d1-1].end),
				Source:      source.Name,
				SourceStart: int(st.words[match.s0].start), SourceEnd: int(st.words[match.s1-1].end),
				Exact: match.exact, Words: match.d1 - match.d0,
			}
			judge(&p, source.Kind, m, o)
			r.Passages = append(r.Passages, p)
		}
	}
	slices.SortFunc(r.Passages, func(a, b Passage) int {
		return cmp.Or(a.Start-b.Start, a.End-b.End, cmp.Compare(a.Source, b.Source))
	})
	r.count()
	return r
}

// judge decides on remedy and exclusion.
func judge(p *Passage, kind Kind, m marks, o Options) {
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
