package review

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"orario/core/coursework"
	"orario/core/similarity"
	"orario/core/wording"
	"orario/internal/courier"
)

var advice = map[similarity.Remedy]string{
	similarity.Leave:   "Nothing to do: it is quoted and attributed, or was given to you.",
	similarity.Quote:   "The source is named; put the words in quotation marks.",
	similarity.Cite:    "Name where this comes from.",
	similarity.Rewrite: "Say it in your own words, or quote it.",
	similarity.OwnWork: "Your own earlier work; ask whether that may be used again.",
}

var exclusions = map[string]string{
	"quotation":    "quotations",
	"bibliography": "the bibliography",
	"handout":      "handout text",
	"own":          "your own earlier work",
	"source":       "sources left out by choice",
	"common":       "wording that many share",
}

// layOut lays a report's passages out, with what the student did about each.
func layOut(state *coursework.Standing, body courier.Report, handled map[int]string) *Reading {
	r := &Reading{
		AssignmentID: state.ID,
		Title:        state.Titled(),
		Course:       state.Course.Code,
		Zone:         state.Course.Zone.String(),
		Text:         body.Text,
		Length:       body.Report.Length,
		Share:        body.Report.Share,
		Passages:     []Passage{},
	}
	r.MayGoOn, _ = state.MayGoOn()
	titles, texts := map[string]string{}, map[string][]rune{}
	for _, source := range body.Sources {
		titles[source.Name], texts[source.Name] = source.Title, []rune(source.Text)
	}
	for _, stretch := range body.Report.Stretches() {
		n := stretch.Best
		p := body.Report.Passages[n]
		shown := passage(n, p, r.Length, titles[p.Source], texts[p.Source], handled[n], []rune(body.Text))
		for _, also := range stretch.Also {
			name := body.Report.Passages[also].Source
			shown.Also = append(shown.Also, cmp.Or(titles[name], name))
		}
		r.Passages = append(r.Passages, shown)
	}
	r.Remedies = append([]similarity.RemedyShare{}, body.Report.ByRemedy()...)
	r.Counting = rank(r.Passages)
	r.Summary = "Nothing in the text needs a decision"
	if r.Counting > 0 {
		r.Summary = fmt.Sprintf("%s a decision, %.0f %% of the text",
			wording.Count(r.Counting, "passage needs", "passages need"), 100*r.Share)
	}
	r.LeftOut = leftOut(body.Report.Passages)
	return r
}

// aroundSource is how much of a source is shown on either side of a match, in code points.
const aroundSource = 140

func passage(
	n int, p similarity.Passage, length int, title string, source []rune, handled string, text []rune,
) Passage {
	cut := func(from, to int) string {
		from, to = max(0, min(from, len(source))), max(0, min(to, len(source)))
		return string(source[from:max(from, to)])
	}
	return Passage{
		N:           n,
		Start:       p.Start,
		End:         p.End,
		Remedy:      p.Remedy,
		Excluded:    p.Excluded,
		Share:       float64(p.End-p.Start) / float64(max(1, length)),
		Exact:       p.Exact,
		Words:       len(strings.Fields(string(text[min(p.Start, len(text)):min(p.End, len(text))]))),
		Source:      p.Source,
		SourceTitle: cmp.Or(title, p.Source),
		Before:      cut(p.SourceStart-aroundSource, p.SourceStart),
		Match:       cut(p.SourceStart, p.SourceEnd),
		After:       cut(p.SourceEnd, p.SourceEnd+aroundSource),
		Advice:      advice[p.Remedy],
		Handled:     handled,
		Also:        []string{},
	}
}

// rank numbers the passages that count, the heaviest first, and says how many they are.
func rank(passages []Passage) int {
	var order []int
	for i, p := range passages {
		if p.Excluded == "" {
			order = append(order, i)
		}
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(passages[b].Share, passages[a].Share) })
	for place, i := range order {
		passages[i].Rank = place + 1
	}
	return len(order)
}

func leftOut(passages []similarity.Passage) []string {
	list := []string{}
	small := 0
	for _, p := range passages {
		if p.Excluded == "small" {
			small++
		} else if name, ok := exclusions[p.Excluded]; ok && !slices.Contains(list, name) {
			list = append(list, name)
		}
	}
	if small == 1 {
		list = append(list, fmt.Sprintf("1 match under %d words", similarity.DefaultMinWords))
	} else if small > 1 {
		list = append(list, fmt.Sprintf("%d matches under %d words", small, similarity.DefaultMinWords))
	}
	return list
}
