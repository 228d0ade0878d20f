package similarity

import (
	"regexp"
	"strings"
	"unicode"
	"unicode/utf8"
)

// A span is a stretch of code points, end exclusive.
type span struct{ start, end int }

func (s span) overlap(o span) int { return max(0, min(s.end, o.end)-max(s.start, o.start)) }

// marks are what a document does with the words of others: what it puts in quotation marks, where it
// names sources, and where its bibliography stands.
type marks struct {
	quoted       []span
	cited        []span
	bibliography span
}

// longestQuote is how far an opening mark reaches for its partner, in code points.
const longestQuote = 3000

var closing = map[rune]string{'“': "”", '„': "“”", '«': "»", '»': "«", '‘': "’", '"': `"`}

// citations are the usual ways to name a source (common practice: author–year, author–page, numbers
// in brackets, superscripts and notes, and naming the author in the sentence).
var citations = regexp.MustCompile(
	`\([^()\n]{0,100}\b(1[5-9]|20)\d\d[a-z]?\b[^()\n]{0,60}\)` + // (Vaz, 1931, p. 12), Vaz (1931)
		// (Vaz 12)
		`|\(\p{Lu}[\p{L}'’.-]+(( and | & |, )\p{Lu}[\p{L}'’.-]+| et al\.)*,? (p\. ?|pp\. ?)?\d+([–-]\d+)?\)` +
		`|\[\^?\d{1,3}([,–-] ?\d{1,3})*(, pp?\. ?\d+)?\]` + // [3]
		`|[¹²³⁴-⁹]+` +
		`|(?i:\baccording to|\bas) \p{Lu}[\p{L}'’-]+` +
		`|\p{Lu}[\p{L}'’-]+ (writes|wrote|argues|argued|says|said|notes|noted|puts|claims|claimed|states` +
		`|stated|observes|observed|points out|explains)\b`)

var bibliographyHeading = regexp.MustCompile(
	`(?im)^[ \t#*\d.]*(references|bibliography|works cited|literature( cited)?|list of references` +
		`|reference list|sources)[ \t*:]*$`,
)

var afterBibliography = regexp.MustCompile(`(?im)^[ \t#*\d.]*(appendix\b.*|appendices|acknowledge?ments)[ \t*:]*$`)

func findMarks(text string) marks {
	var m marks
	m.quoted = quotations(text)
	offset := offsets(text)
	for _, at := range citations.FindAllStringIndex(text, -1) {
		m.cited = append(m.cited, span{offset(at[0]), offset(at[1])})
	}
	// The last such heading, if it stands behind the first third: earlier it is a chapter of its own.
	if all := bibliographyHeading.FindAllStringIndex(text, -1); len(all) > 0 {
		if at := all[len(all)-1]; at[0] > len(text)/3 {
			end := len(text)
			if next := afterBibliography.FindStringIndex(text[at[1]:]); next != nil {
				end = at[1] + next[0]
			}
			m.bibliography = span{offset(at[0]), offset(end)}
		}
	}
	return m
}

// offsets turns ascending byte offsets into offsets in code points.
func offsets(text string) func(int) int {
	bytes, points := 0, 0
	return func(at int) int {
		if at < bytes {
			bytes, points = 0, 0
		}
		points += utf8.RuneCountInString(text[bytes:at])
		bytes = at
		return points
	}
}

func quotations(text string) []span {
	runes := []rune(text)
	var found []span
	for i := 0; i < len(runes); i++ {
		if block, end := blockQuote(runes, i); block {
			found = append(found, span{i, end})
			i = end - 1
			continue
		}
		closers := closing[runes[i]]
		if closers == "" || !opensAt(runes, i) {
			continue
		}
		for j := i + 1; j < len(runes) && j < i+longestQuote; j++ {
			if runes[j] == '\n' && j+1 < len(runes) && runes[j+1] == '\n' {
				break
			}
			if strings.ContainsRune(closers, runes[j]) && closesAt(runes, j) {
				found = append(found, span{i, j + 1})
				i = j
				break
			}
		}
	}
	return found
}

// opensAt keeps apostrophes, inches and closing marks from opening a quotation.
func opensAt(runes []rune, i int) bool {
	return (i == 0 || !unicode.IsLetter(runes[i-1]) && !unicode.IsDigit(runes[i-1])) && i+1 < len(runes) &&
		!unicode.IsSpace(runes[i+1])
}

// closesAt: the apostrophe of “don’t” closes nothing.
func closesAt(runes []rune, j int) bool {
	return runes[j] != '’' || j+1 == len(runes) || !unicode.IsLetter(runes[j+1])
}

// blockQuote: lines that begin with "> ".
func blockQuote(runes []rune, i int) (bool, int) {
	if runes[i] != '>' || i > 0 && runes[i-1] != '\n' {
		return false, 0
	}
	for i < len(runes) && runes[i] == '>' {
		for i < len(runes) && runes[i] != '\n' {
			i++
		}
		i++
	}
	return true, min(i, len(runes))
}

// isQuoted: four fifths of the passage stand in quotation marks.
func (m marks) isQuoted(p span) bool {
	n := 0
	for _, q := range m.quoted {
		n += q.overlap(p)
	}
	return 5*n >= 4*(p.end-p.start)
}

// isCited: a source is named within the passage or close around it.
func (m marks) isCited(p span) bool {
	around := span{p.start - 80, p.end + 60}
	for _, c := range m.cited {
		if c.overlap(around) > 0 {
			return true
		}
	}
	return false
}

func (m marks) inBibliography(p span) bool {
	return 5*m.bibliography.overlap(p) >= 4*(p.end-p.start)
}
