// Package similarity finds the passages that a document shares with other texts, says what to do
// about each, and what share of the document they make.
//
// Candidates come from winnowed fingerprints (Schleimer, Wilkerson and Aiken, "Winnowing: Local
// Algorithms for Document Fingerprinting", 2003): a shared run of 25 characters, or a shorter one that is rare and
// has more of the same words around it in both texts. A candidate is then aligned with the document word
// by word: shared groups of three words, in any order and with one word between them replaced, are
// seeds; seeds near each other in both texts become one passage.
//
// Offsets count Unicode code points of the text as given.
package similarity

import (
	"hash/maphash"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// A Text is a document with its normalised form: letters and digits only, in lower case, without
// accents. Every normalised byte knows the code point it comes from.
type Text struct {
	Norm   []byte  // UTF-8
	Origin []int32 // of each byte of Norm: offset in code points
	Length int     // of the original, in code points
	words  []word
}

// A word is a run of letters, digits, marks and apostrophes.
type word struct {
	start, end int32 // code points
	hash       uint32
	light      bool // a function word; three of them say nothing
	common     bool // another word that stands in every text
	stock      bool // it stands in a group of words that every text has: "in the course of"
}

// normalise reads a text once; time and memory are O(len(s)).
func normalise(s string) *Text {
	t := &Text{Norm: make([]byte, 0, len(s)), Origin: make([]int32, 0, len(s)), words: make([]word, 0, len(s)/6+1)}
	wordFrom, normFrom := int32(-1), 0
	at := int32(0)
	finish := func() {
		if wordFrom >= 0 && len(t.Norm) > normFrom {
			letters := t.Norm[normFrom:]
			t.words = append(
				t.words,
				word{wordFrom, at, hashWord(letters), isLight(letters), commonWords[string(letters)], false},
			)
		}
		wordFrom = -1
	}
	for i := 0; i < len(s); {
		c := s[i]
		if c < utf8.RuneSelf {
			i++
			switch kind := asciiKind[c]; kind {
			case 0:
				// A hyphen at a line's end joins the word to the next line.
				if c == '-' && wordFrom >= 0 && i+1 < len(s) && s[i] == '\n' && s[i+1] >= 'a' && s[i+1] <= 'z' {
					i++
					at++
					break
				}
				if c != '\'' || wordFrom < 0 {
					finish()
				}
			default:
				if wordFrom < 0 {
					wordFrom, normFrom = at, len(t.Norm)
				}
				t.Norm = append(t.Norm, kind)
				t.Origin = append(t.Origin, at)
			}
			at++
			continue
		}
		r, size := utf8.DecodeRuneInString(s[i:])
		i += size
		switch {
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			if wordFrom < 0 {
				wordFrom, normFrom = at, len(t.Norm)
			}
			for _, b := range folded(r) {
				t.Norm = append(t.Norm, b)
				t.Origin = append(t.Origin, at)
			}
		case unicode.IsMark(r) || r == '’' || r == '\u00ad':
		default:
			finish()
		}
		at++
	}
	finish()
	t.Length = int(at)
	return t
}

// asciiKind maps letters to lower case, digits to themselves, and the rest to 0.
var asciiKind = func() (kind [utf8.RuneSelf]byte) {
	for c := byte('0'); c <= '9'; c++ {
		kind[c] = c
	}
	for c := byte('a'); c <= 'z'; c++ {
		kind[c], kind[c-'a'+'A'] = c, c
	}
	return kind
}()

func folded(r rune) []byte {
	var out []byte
	for _, r := range norm.NFKD.String(string(r)) {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			out = utf8.AppendRune(out, unicode.ToLower(r))
		}
	}
	return out
}

var wordSeed = maphash.MakeSeed()

func hashWord(letters []byte) uint32 { return uint32(maphash.Bytes(wordSeed, letters)) }

var lightWords = func() map[string]bool {
	set := map[string]bool{}
	for _, w := range strings.Fields(`a an the and or but nor so yet if then than that this these those
		there here of in on at by to from for with
		without into onto as is are was were be been being am do does did has have had having will would shall
			should can could may might must not no
		it its he him his she her hers they them their we us our you your i me my one all any some such other
			who whom whose which what when where
		how why also only very more most much many few both each every own same just about after before over
			under between through during again up
		down out off because while until`) {
		set[w] = true
	}
	return set
}()

func isLight(letters []byte) bool { return lightWords[string(letters)] }
