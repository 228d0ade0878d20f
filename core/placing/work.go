package placing

import (
	"cmp"
	"slices"
	"strings"
	"time"
	"unicode"
)

// A Work is open work that a file may belong to.
type Work struct {
	ID, Part    int64
	Code, Title string // of its course; its own
	Due         time.Time
}

// How much it says that words of a work stand in a file's name, or in its text.
const (
	codeInName  = 6.0
	wordInName  = 3.0
	codeInText  = 2.0
	wordInText  = 1.0
	lookedInto  = 4000 // bytes of the text
	leastLetter = 3    // of a word that says something
)

// Rank orders open work by how likely a file belongs to it: by the course's code and the words of the title in the
// file's name, then in the beginning of its text; of equals what is due first. A word says the less
// the more works share it.
func Rank(name, text string, works []Work) []Work {
	in, said := words(name), words(text[:min(len(text), lookedInto)])
	shared := map[string]int{}
	for _, w := range works {
		for word := range words(w.Title) {
			shared[word]++
		}
	}
	score := func(w Work) (sum float64) {
		code := squeezed(w.Code)
		if code != "" && strings.Contains(squeezed(name), code) {
			sum += codeInName
		}
		if code != "" && strings.Contains(squeezed(text[:min(len(text), lookedInto)]), code) {
			sum += codeInText
		}
		for word := range words(w.Title) {
			weight := 1 / float64(shared[word])
			if in[word] {
				sum += wordInName * weight
			}
			if said[word] {
				sum += wordInText * weight
			}
		}
		return sum
	}
	scores := map[[2]int64]float64{}
	for _, w := range works {
		scores[[2]int64{w.ID, w.Part}] = score(w)
	}
	return slices.SortedStableFunc(slices.Values(works), func(a, b Work) int {
		return cmp.Or(
			cmp.Compare(scores[[2]int64{b.ID, b.Part}], scores[[2]int64{a.ID, a.Part}]),
			a.Due.Compare(b.Due),
			cmp.Compare(a.ID, b.ID),
		)
	})
}

// words are those of a text that say something, in small letters.
func words(text string) map[string]bool {
	found := map[string]bool{}
	for word := range strings.FieldsFuncSeq(strings.ToLower(text), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r)
	}) {
		if len([]rune(word)) >= leastLetter || strings.ContainsFunc(word, unicode.IsDigit) {
			found[word] = true
		}
	}
	return found
}
