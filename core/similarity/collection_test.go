package similarity

import (
	"encoding/json"
	"fmt"
	"hash/fnv"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The collection that the judgement of evidence is settled and tried on. Its material is full of formulas: the texts of
// software licences (the npm package spdx-license-list), Newton's Opticks (a test file of Go), and Tom Sawyer (a test
// file of the module github.com/klauspost/compress; both in the public domain). A third of it is kept aside: nothing
// was settled by looking at that.

// material is paragraphs of prose by where they come from.
func material(t testing.TB) [][]string {
	t.Helper()
	read := func(path string) string {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		return string(text)
	}
	compress, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/klauspost/compress").Output()
	require.NoError(t, err)
	sawyer := read(filepath.Join(strings.TrimSpace(string(compress)), "testdata/Mark.Twain-Tom.Sawyer.txt"))
	list := [][]string{paragraphs(opticks(t)), paragraphs(sawyer)}
	files, err := filepath.Glob("../../web/node_modules/spdx-license-list/licenses/*.json")
	require.NoError(t, err)
	require.Greater(t, len(files), 300, `run "make test", which installs the texts`)
	taken := map[uint64]bool{}
	for _, file := range files {
		var licence struct{ LicenseText string }
		require.NoError(t, json.Unmarshal([]byte(read(file)), &licence))
		// Licences are copied from one another: only what is of nobody else's making is taken.
		own := paragraphs(licence.LicenseText)
		if runs := shingles(own, 5); len(own) > 3 && shareIn(runs, taken) < 0.04 {
			list = append(list, own)
			for _, r := range runs {
				taken[r] = true
			}
		}
	}
	return list
}

func shareIn(runs []uint64, taken map[uint64]bool) float64 {
	n := 0
	for _, r := range runs {
		if taken[r] {
			n++
		}
	}
	return float64(n) / float64(max(1, len(runs)))
}

var blank = regexp.MustCompile(`\n\s*\n`)

// paragraphs are those of at least forty words, in one line each.
func paragraphs(text string) (list []string) {
	for _, p := range blank.Split(text, -1) {
		if words := strings.Fields(p); len(words) >= 40 {
			list = append(list, strings.Join(words, " "))
		}
	}
	return list
}

// A planted passage and where it stands.
type planted struct {
	span
	kind string
}

// A trialDocument is a document with what is known of it.
type trialDocument struct {
	text    string
	planted []planted
}

// borrowing is how many words of a passage are changed, by kind.
var kindsOfBorrowing = []string{"verbatim", "light", "heavy", "quoted"}

// trialCollection makes sources and documents: a third of the documents are clean. Of two parts the texts are apart.
func trialCollection(t testing.TB, part uint64, sources, documents int) ([]Source, []trialDocument) {
	random := rand.New(rand.NewPCG(77, part))
	texts := material(t)
	// Paragraphs that stand in several texts are formulas; others belong to one text alone.
	seen := map[uint64]int{}
	for _, own := range texts {
		for _, p := range own { // a text may repeat itself as well
			for _, s := range shingles([]string{p}, 8) {
				seen[s]++
			}
		}
	}
	var mine, theirs []string // paragraphs of documents, and of sources
	for i, own := range texts {
		if i > 1 && fnvOf(fmt.Sprint(i))%3 != part {
			continue
		}
		for n, p := range own {
			if i < 2 && uint64(n/2)%3 != part {
				continue
			}
			if n%2 == 0 {
				if alone(p, seen) {
					mine = append(mine, p)
				}
			} else {
				theirs = append(theirs, p)
			}
		}
	}
	random.Shuffle(len(mine), func(i, j int) { mine[i], mine[j] = mine[j], mine[i] })
	random.Shuffle(len(theirs), func(i, j int) { theirs[i], theirs[j] = theirs[j], theirs[i] })
	var list []Source
	var unique []string // paragraphs of sources that stand in no other text
	each := max(2, len(theirs)/sources)
	for n := range sources {
		text := theirs[min(n*each, len(theirs)):min((n+1)*each, len(theirs))]
		list = append(list, Source{Name: fmt.Sprintf("s%03d", n), Text: strings.Join(text, "\n\n")})
		for _, p := range text {
			if alone(p, seen) {
				unique = append(unique, p)
			}
		}
	}
	var docs []trialDocument
	for n := range documents {
		var d trialDocument
		var plant int
		if n%3 != 0 {
			plant = 1 + random.IntN(3)
		}
		for k := range 4 + plant*2 {
			d.text += mine[random.IntN(len(mine))] + "\n\n"
			if k%2 == 1 && k/2 < plant {
				kind := kindsOfBorrowing[random.IntN(len(kindsOfBorrowing))]
				passage, behind := borrowed(unique[random.IntN(len(unique))], kind, random), " "
				if kind == "quoted" {
					d.text += "“"
					behind = "” (Vaz, 1931, p. 12). "
				}
				at := len([]rune(d.text))
				d.text += passage + behind
				length := len([]rune(passage))
				d.planted = append(d.planted, planted{span{at, at + length}, kind})
			}
		}
		docs = append(docs, d)
	}
	return list, docs
}

func fnvOf(s string) uint64 {
	h := fnv.New64a()
	_, _ = h.Write([]byte(s))
	return h.Sum64()
}

// shingles are the runs of n words in some texts.
func shingles(texts []string, n int) (list []uint64) {
	set := map[uint64]bool{}
	for _, p := range texts {
		words := strings.Fields(strings.ToLower(p))
		for i := range max(0, len(words)-n+1) {
			set[fnvOf(strings.Join(words[i:i+n], " "))] = true
		}
	}
	for s := range set {
		list = append(list, s)
	}
	return list
}

// formulaic is the share of a paragraph's runs of eight words that stand in other texts, too.
func formulaic(p string, seen map[uint64]int) float64 {
	all := shingles([]string{p}, 8)
	n := 0
	for _, s := range all {
		if seen[s] > 1 {
			n++
		}
	}
	return float64(n) / float64(max(1, len(all)))
}

func alone(p string, seen map[uint64]int) bool {
	return formulaic(p, seen) == 0
}

var sentenceEnd = regexp.MustCompile(`[.;:!?]["”)]? `)

// borrowed is a passage as somebody would take it: as it is, with every tenth word changed, with every sentence
// reworded, merged or turned round, or quoted.
func borrowed(paragraph, kind string, random *rand.Rand) string {
	words := strings.Fields(paragraph)
	length := min(len(words), 30+random.IntN(120))
	from := random.IntN(len(words) - length + 1)
	words = words[from : from+length]
	switch kind {
	case "quoted":
		words = words[:min(len(words), 20+random.IntN(25))]
		return strings.Trim(strings.ReplaceAll(strings.Join(words, " "), `"`, ""), ",.;: ")
	case "light":
		return strings.Join(changed(words, 0.10, random), " ")
	case "heavy":
		var out []string
		text := strings.Join(words, " ")
		var sentences []string
		for at := 0; at < len(text); {
			next := sentenceEnd.FindStringIndex(text[at:])
			if next == nil {
				sentences = append(sentences, text[at:])
				break
			}
			sentences, at = append(sentences, text[at:at+next[1]]), at+next[1]
		}
		for _, s := range sentences {
			part := changed(strings.Fields(s), 0.42, random)
			if cut := len(part) / 2; len(part) > 8 && random.IntN(2) == 0 {
				part = append(slices.Clone(part[cut:]), part[:cut]...) // the clauses change places
			}
			if random.IntN(3) == 0 {
				part = append([]string{"moreover"}, part...)
			}
			out = append(out, part...)
		}
		return strings.Join(out, " ")
	}
	return strings.Join(words, " ")
}

var stand = strings.Fields("matter course manner reason point ground sense place order work measure claim notion " +
	"record practice common rather hence besides wholly broad minor prior later early simple plain")

// changed has a share of the words replaced, left out or added to.
func changed(words []string, share float64, random *rand.Rand) (out []string) {
	for _, w := range words {
		if random.Float64() >= share {
			out = append(out, w)
			continue
		}
		switch random.IntN(4) {
		case 0: // left out
		case 1:
			out = append(out, w, stand[random.IntN(len(stand))])
		default:
			out = append(out, stand[random.IntN(len(stand))])
		}
	}
	return out
}

// A score has the measures of Potthast, Stein, Barrón-Cedeño and Rosso, "An Evaluation Framework for Plagiarism Detection"
// (2010): precision and recall over characters, averaged over what was claimed and what was planted; granularity; and
// plagdet, their F1 divided by log2(1 + granularity).
type score struct {
	precision, recall, granularity, plagdet float64
	byKind                                  map[string]float64 // recall
	accused, clean                          int
}

func (s score) String() string {
	return fmt.Sprintf("plagdet %.3f precision %.3f recall %.3f granularity %.2f accused %d of %d %v",
		s.plagdet, s.precision, s.recall, s.granularity, s.accused, s.clean, s.byKind)
}

func measure(docs []trialDocument, check func(string) []span) (s score) {
	var precision, recall, claims, plants, pieces, found float64
	kinds, kindRecall := map[string]float64{}, map[string]float64{}
	for _, d := range docs {
		claimed := check(d.text)
		if len(d.planted) == 0 {
			s.clean++
			if len(claimed) > 0 {
				s.accused++
			}
		}
		for _, c := range claimed {
			claims++
			var true1 []span
			for _, p := range d.planted {
				if o := p.overlap(c); o > 0 {
					true1 = append(true1, span{max(p.start, c.start), min(p.end, c.end)})
				}
			}
			precision += float64(covered(true1)) / float64(c.end-c.start)
		}
		for _, p := range d.planted {
			plants++
			kinds[p.kind]++
			var hit []span
			for _, c := range claimed {
				if p.overlap(c) > 0 {
					hit = append(hit, span{max(p.start, c.start), min(p.end, c.end)})
				}
			}
			if len(hit) > 0 {
				found++
				pieces += float64(len(hit))
			}
			slices.SortFunc(hit, func(a, b span) int { return a.start - b.start })
			share := float64(covered(hit)) / float64(p.end-p.start)
			recall += share
			kindRecall[p.kind] += share
		}
	}
	s.precision, s.recall, s.granularity = precision/max(1, claims), recall/max(1, plants), pieces/max(1, found)
	s.byKind = map[string]float64{}
	for k, n := range kinds {
		s.byKind[k] = math.Round(1000*kindRecall[k]/n) / 1000
	}
	if s.precision+s.recall > 0 {
		s.plagdet = 2 * s.precision * s.recall / (s.precision + s.recall) / math.Log2(1+s.granularity)
	}
	return s
}

func claims(x *Index, text string) (list []span) {
	for _, p := range x.Check(text, Options{MinWords: 8}).Passages {
		if p.Excluded == "" || p.Excluded == "quotation" {
			list = append(list, span{p.Start, p.End})
		}
	}
	return list
}

// What was settled on two thirds of the collection holds there, and is measured on the third that was kept aside.
func TestJudgementOnACollection(t *testing.T) {
	least := []float64{0.78, 0.93, 0.93} // the first is the one kept aside
	for part := range uint64(3) {
		sources, docs := trialCollection(t, part, 100, 120)
		x := NewIndex(sources)
		s := measure(docs, func(text string) []span { return claims(x, text) })
		t.Logf("part %d: %v", part, s)
		assert.Greater(t, s.plagdet, least[part])
		assert.Greater(t, s.byKind["verbatim"], 0.98)
		assert.Greater(t, s.byKind["light"], 0.98)
		assert.Greater(t, s.byKind["heavy"], 0.70)
		assert.Less(t, s.granularity, 1.1)
		if part > 0 {
			assert.LessOrEqual(t, s.accused, 1)
		}
	}
}
