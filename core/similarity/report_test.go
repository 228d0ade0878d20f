package similarity

import (
	"fmt"
	"index/suffixarray"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// chapter cuts paragraphs out of Opticks for use as foreign and own text.
func chapter(t testing.TB, from, words int) string {
	return strings.Join(strings.Fields(opticks(t))[from:from+words], " ")
}

func at(document, part string) (start, end int) {
	i := strings.Index(document, part)
	start = len([]rune(document[:i]))
	return start, start + len([]rune(part))
}

func TestAVerbatimPassageIsFoundToTheWord(t *testing.T) {
	source := chapter(t, 1000, 900)
	stolen := strings.Join(strings.Fields(source)[300:360], " ")
	document := chapter(t, 20_000, 400) + " " + stolen + " " + chapter(t, 30_000, 400)
	r := NewIndex(
		[]Source{{Name: "a.txt", Text: source}, {Name: "b.txt", Text: chapter(t, 40_000, 900)}},
	).Check(document, Options{MinWords: 8})
	var counted []Passage
	for _, p := range r.Passages {
		if p.Excluded == "" {
			counted = append(counted, p)
		}
	}
	require.Len(t, counted, 1)
	p := counted[0]
	start, end := at(document, stolen)
	assert.InDelta(t, start, p.Start, 25)
	assert.InDelta(t, end, p.End, 25)
	s0, s1 := at(source, stolen)
	assert.InDelta(t, s0, p.SourceStart, 25)
	assert.InDelta(t, s1, p.SourceEnd, 25)
	assert.Equal(t, "a.txt", p.Source)
	assert.GreaterOrEqual(t, p.Exact, 0.95)
	assert.Equal(t, Rewrite, p.Remedy)
	assert.InDelta(t, float64(len([]rune(stolen)))/float64(r.Length), r.Share, 0.02)
	assert.Equal(t, []SourceShare{{"a.txt", r.Share, 1}}, r.Sources)
}

// obfuscate replaces and swaps words, as the "low obfuscation" of the published text-alignment
// evaluations does (Potthast et al. 2010).
func obfuscate(words []string, random *rand.Rand) []string {
	out := append([]string(nil), words...)
	for i := range out {
		switch random.IntN(100) {
		case 0, 1, 2, 3, 4, 5, 6, 7, 8:
			out[i] = fmt.Sprintf("replacement%d", random.IntN(1000))
		case 9, 10, 11, 12, 13:
			if i > 0 {
				out[i], out[i-1] = out[i-1], out[i]
			}
		}
	}
	return out
}

// The measures are those of Potthast et al., "An Evaluation Framework for Plagiarism Detection" (2010):
// precision and recall over characters, granularity, and plagdet = F1 / log2(1 + granularity).
func TestObfuscatedPassagesAreFoundWhole(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 6))
	var hit, claimed, planted, detections, detected int
	for round := range 30 {
		source := chapter(t, 500+round*1500, 1200)
		length := 60 + random.IntN(150)
		from := random.IntN(900)
		stolen := strings.Join(obfuscate(strings.Fields(source)[from:from+length], random), " ")
		document := chapter(t, 60_000+round*300, 300) + " " + stolen + " " + chapter(t, 50_000+round*200, 300)
		truth := span{}
		truth.start, truth.end = at(document, stolen)
		planted += truth.end - truth.start
		n := 0
		for _, p := range NewIndex([]Source{{Name: "s", Text: source}}).Check(document, Options{MinWords: 8}).Passages {
			if p.Excluded != "" {
				continue
			}
			claimed += p.End - p.Start
			if o := truth.overlap(span{p.Start, p.End}); o > 0 {
				hit += o
				n++
			}
		}
		detections += n
		if n > 0 {
			detected++
		}
	}
	precision, recall := float64(hit)/float64(claimed), float64(hit)/float64(planted)
	granularity := float64(detections) / float64(detected)
	t.Logf("precision %.3f recall %.3f granularity %.3f", precision, recall, granularity)
	assert.Greater(t, precision, 0.93)
	assert.Greater(t, recall, 0.93)
	assert.Less(t, granularity, 1.1)
}

func TestRemediesAndExclusions(t *testing.T) {
	line := "habit is what remains of a decision when its reason is forgotten by everybody"
	other := "Before this the pilot spoke of rain. " + line + ", and then he went below."
	for what, c := range map[string]struct {
		document string
		kind     Kind
		options  Options
		remedy   Remedy
		excluded string
	}{
		"quoted and attributed": {
			"She notes “" + line + "” (Vaz, 1931, p. 12).",
			Other,
			Options{MinWords: 8},
			Leave,
			"quotation",
		},
		"kept quotations count": {
			"She notes “" + line + "” (Vaz, 1931, p. 12).",
			Other,
			Options{MinWords: 8, KeepQuotes: true},
			Leave,
			"",
		},
		"quoted without a source": {
			"In the end, \"" + line + "\", and that is all.",
			Other,
			Options{MinWords: 8},
			Cite,
			"",
		},
		"attributed, no marks":      {"It holds that " + line + " [3].", Other, Options{MinWords: 8}, Quote, ""},
		"neither":                   {"It is true that " + line + ".", Other, Options{MinWords: 8}, Rewrite, ""},
		"under the least words":     {"It is true that " + line + ".", Other, Options{MinWords: 20}, Rewrite, "small"},
		"the handout's own wording": {"It is true that " + line + ".", Handout, Options{MinWords: 8}, Leave, "handout"},
		"an earlier draft":          {"It is true that " + line + ".", Own, Options{MinWords: 8}, OwnWork, "own"},
		"a source left out": {
			"It is true that " + line + ".",
			Other,
			Options{MinWords: 8, LeaveOut: []string{"s"}},
			Rewrite,
			"source",
		},
		"in the bibliography": {
			strings.Repeat("Filler of an entirely different kind. ", 9) + "\n\nReferences\n\nVaz: " + line + ".\n",
			Other,
			Options{MinWords: 8},
			Leave,
			"bibliography",
		},
	} {
		r := NewIndex([]Source{{Name: "s", Text: other, Kind: c.kind}}).Check(c.document, c.options)
		require.Len(t, r.Passages, 1, what)
		assert.Equal(t, c.remedy, r.Passages[0].Remedy, what)
		assert.Equal(t, c.excluded, r.Passages[0].Excluded, what)
		assert.Equal(t, c.excluded == "", r.Share > 0, what)
	}
}

func TestQuotationMarksOfManyKinds(t *testing.T) {
	for text, want := range map[string]int{
		`a "b c" d`: 1, `“one” and “two”`: 2, "„deutsch“ und «français»": 2, "it’s the pilots’ own": 0, `6" by 4" boards`: 0, "> whole line\n> and next\nrest": 1,
	} {
		assert.Len(t, quotations(text), want, text)
	}
}

func TestGone(t *testing.T) {
	source := chapter(t, 3000, 500)
	words := strings.Fields(source)
	first, second := strings.Join(words[50:90], " "), strings.Join(words[300:340], " ")
	index := NewIndex([]Source{{Name: "s", Text: source}})
	before := index.Check(first+" "+chapter(t, 20_000, 60)+" "+second, Options{MinWords: 8})
	after := index.Check(chapter(t, 20_000, 60)+" "+second, Options{MinWords: 8})
	assert.Len(t, Gone(before, after), len(before.Passages)-len(after.Passages))
	assert.NotEmpty(t, Gone(before, after))
	assert.Empty(t, Gone(before, before))
}

func FuzzCheck(f *testing.F) {
	f.Add("a “b c d e f g” (Vaz 12)", "b c d e f g h")
	f.Add("\xff\xfe é e\u0301 \u00ad", "-\nx")
	f.Fuzz(func(t *testing.T, document, source string) {
		r := NewIndex([]Source{{Name: "s", Text: source}}).Check(document, Options{})
		for _, p := range r.Passages {
			if p.Start < 0 || p.Start >= p.End || p.End > r.Length || p.SourceStart >= p.SourceEnd {
				t.Fatalf("%+v of %d", p, r.Length)
			}
		}
		if r.Share < 0 || r.Share > 1 {
			t.Fatal(r.Share)
		}
	})
}

// collection invents documents of 2,000 words out of Opticks' vocabulary.
func collection(b *testing.B, n int) []Source {
	vocabulary := strings.Fields(opticks(b))
	random := rand.New(rand.NewPCG(9, 9))
	sources := make([]Source, n)
	for i := range sources {
		words := make([]string, 2000)
		for j := range words {
			words[j] = vocabulary[random.IntN(len(vocabulary))]
		}
		sources[i] = Source{Name: fmt.Sprint(i), Text: strings.Join(words, " ")}
	}
	return sources
}

// BenchmarkCheck10000 checks one document of 5,000 words, a tenth of it taken from ten sources,
// against 10,000 documents of 2,000 words; …SuffixArray looks the same runs up in a suffix array.
func BenchmarkCheck10000(b *testing.B) {
	sources := collection(b, 10_000)
	index := NewIndex(sources)
	document := chapter(b, 10_000, 4500)
	for i := range 10 {
		document += " " + strings.Join(strings.Fields(sources[i*997].Text)[100:150], " ")
	}
	var each time.Duration
	b.Run("index", func(b *testing.B) {
		for b.Loop() {
			require.GreaterOrEqual(b, len(index.Check(document, Options{MinWords: 8}).Sources), 10)
		}
		each = b.Elapsed() / time.Duration(b.N)
		b.ReportMetric(float64(8*len(index.hashes)+len(index.norm))/1e6, "MB-index")
	})
	b.Run("suffixarray", func(b *testing.B) {
		// A tenth of the collection, since building the array takes minutes for all of it.
		var all []byte
		for _, s := range sources[:1000] {
			all = append(all, normalise(s.Text).Norm...)
		}
		array := suffixarray.New(all)
		run := normalise(document).Norm
		b.ResetTimer()
		for b.Loop() {
			for at := 0; at+Gram+Window-1 <= len(run); at++ {
				array.Lookup(run[at:at+Gram+Window-1], -1)
			}
		}
		b.ReportMetric(float64(b.Elapsed())/float64(b.N)/float64(each), "times-the-index")
	})
}
