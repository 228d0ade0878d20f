package prose

import (
	"regexp"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// text is the instructions, prepared for looking through. Its plain form has one ASCII byte for every code
// point of the original, in lower case, so that an offset means the same in both.
type text struct {
	original  []rune
	broken    string // the plain form as it stands, in lines
	plain     string // with spaces for line breaks within sentences
	digits    string // plain with numbers in digits
	sentences []span
	tokens    []token
	oneCase   bool // all of it is in small letters, or in capitals, which tell nothing then
	small     bool // it is a typed line, in which months may be written small
}

// span is a stretch of the text in code points, end exclusive.
type span struct{ start, end int }

// and is the stretch from one to another, whatever their order.
func (s span) and(o span) span {
	if s.end == 0 {
		return o
	}
	return span{min(s.start, o.start), max(s.end, o.end)}
}

func (s span) overlaps(o span) bool { return s.start < o.end && o.start < s.end }

// plainer is what a character outside of ASCII is read as.
var plainer = map[rune]byte{
	'–':      '-',
	'—':      '-',
	'‑':      '-',
	'‒':      '-',
	'−':      '-',
	'’':      '\'',
	'‘':      '\'',
	'“':      '"',
	'”':      '"',
	'„':      '"',
	'«':      '"',
	'»':      '"',
	'•':      '*',
	'◦':      '*',
	'▪':      '*',
	'·':      '*',
	'±':      '~',
	'≤':      '<',
	'≥':      '>',
	'≈':      '~',
	'×':      'x',
	'…':      '.',
	'½':      '^',
	'\ufeff': ' ',
	'ß':      's',
	'ø':      'o',
	'æ':      'a',
	'œ':      'o',
}

// spaced are spaces at the end of a line.
var spaced = regexp.MustCompile(`[ \t\r]\n`)

// unbroken joins words that are hyphenated at the end of a line, as in text out of a PDF, and leaves out spaces at the
// ends of lines. The function gives the offset in the original, in code points, of one in what is left.
func unbroken(original string) (whole string, back func(int) int) {
	if !strings.Contains(original, "-\n") && !spaced.MatchString(original) {
		return original, func(at int) int { return at }
	}
	in := []rune(original)
	out, places := make([]rune, 0, len(in)), make([]int, 0, len(in)+1)
	for i := 0; i < len(in); i++ {
		space := isBlank(in[i])
		if space || in[i] == '-' {
			next := i + 1
			for next < len(in) && isBlank(in[next]) {
				next++
			}
			switch ends := next < len(in) && in[next] == '\n'; {
			case ends && space:
				i = next - 1 // the line break follows
				continue
			case ends && i > 1 && unicode.IsLower(in[i-1]) && unicode.IsLower(in[i-2]) && next+1 < len(in) &&
				unicode.IsLower(in[next+1]):
				i = next // the next letter follows
				continue
			}
		}
		out, places = append(out, in[i]), append(places, i)
	}
	places = append(places, len(in))
	return string(out), func(at int) int { return places[at] }
}

// leaders are the dots between a label and its value: "Submission date ........ 11 May".
var leaders = regexp.MustCompile(`\.{4,}`)

// questionLabels makes labels of the letters before questions and answers: "Q. When?"
func questionLabels(plain string) string {
	if !strings.Contains("\n"+plain, "\nq. ") || !strings.Contains(plain, "\na. ") {
		return plain
	}
	return strings.NewReplacer("\nq. ", "\nq: ", "\na. ", "\na: ").Replace("\n" + plain)[1:]
}

func isBlank(r rune) bool { return r == ' ' || r == '\t' || r == '\r' }

func prepare(original string) *text {
	t := &text{original: []rune(original)}
	var plain strings.Builder
	plain.Grow(len(t.original))
	for i, r := range t.original {
		if r == '\u00a0' || r == '\u202f' || r == '\u2007' { // spaces that hold words together
			t.original[i] = ' '
		}
		plain.WriteByte(plainByte(r))
	}
	t.broken = leaders.ReplaceAllStringFunc(questionLabels(plain.String()), func(dots string) string {
		return ":" + strings.Repeat(" ", len(dots)-1)
	})
	t.oneCase = !slices.ContainsFunc(t.original, unicode.IsUpper) || !slices.ContainsFunc(t.original, unicode.IsLower)
	t.sentences = split(t.original, t.broken)
	t.plain = withoutNumbering(t.original, t.broken, undotted(flowing(t.broken, t.sentences)))
	t.tokens = tokenise(t.plain)
	t.digits = inMinutes(inDigits(t.plain, t.tokens))
	return t
}

// flowing is the plain text with spaces for the line breaks within sentences.
func flowing(plain string, sentences []span) string {
	out := []byte(plain)
	for _, s := range sentences {
		for i := s.start; i < s.end; i++ {
			if out[i] == '\n' || out[i] == '\r' {
				out[i] = ' '
			}
		}
	}
	return string(out)
}

// undotted leaves out the dots of abbreviations, which would end a clause: "chapters 4 and 5 (pp. 61-98)".
func undotted(plain string) string {
	out := []byte(plain)
	for _, m := range abbreviated.FindAllStringIndex(plain, -1) {
		out[m[0]+strings.IndexByte(plain[m[0]:m[1]], '.')] = ' '
	}
	return string(out)
}

var abbreviated = regexp.MustCompile(`\b(?:pp?|chs?|chap|nr|figs?|vol|profs?|dr|resp)\.(?:$|[ \d])`)

// withoutNumbering leaves out the numbers of headings that are counted through without a dot, which would be taken for
// amounts: "4 Submissions".
func withoutNumbering(original []rune, broken, plain string) string {
	next := 1
	var places []span
	for _, m := range headNumber.FindAllStringSubmatchIndex(broken, -1) {
		if atoi(plain[m[2]:m[3]]) == next && unicode.IsUpper(original[m[4]]) {
			places = append(places, span{m[2], m[3]})
			next++
		}
	}
	if len(places) < leastNumbered {
		return plain
	}
	out := []byte(plain)
	for _, at := range places {
		copy(out[at.start:], strings.Repeat(" ", at.end-at.start))
	}
	return string(out)
}

// leastNumbered is how many headings make a numbering.
const leastNumbered = 3

var headNumber = regexp.MustCompile(`(?:^|\n)[ \t]*(\d{1,2})[ \t]+([a-z])`)

func plainByte(r rune) byte {
	switch {
	case r >= 'A' && r <= 'Z':
		return byte(r) + 'a' - 'A'
	case r < 0x80:
		return byte(r)
	}
	if b, ok := plainer[unicode.ToLower(r)]; ok {
		return b
	}
	if unicode.IsSpace(r) {
		return ' '
	}
	switch {
	case unicode.Is(unicode.So, r):
		return '*' // an emoji is a bullet
	case unicode.Is(unicode.Mn, r), unicode.Is(unicode.Cf, r):
		return ' '
	}
	if base := norm.NFD.String(string(unicode.ToLower(r))); base != "" && base[0] < 0x80 {
		return base[0] // the letter without its accent
	}
	if unicode.IsLetter(r) {
		return 'z'
	}
	return '_'
}

// capital says that a word begins with one, or that nothing is told by it.
func (t *text) capital(at int) bool { return t.oneCase || unicode.IsUpper(t.original[at]) }

func isSpace(b byte) bool  { return b == ' ' || b == '\n' || b == '\t' || b == '\r' }
func isDigit(b byte) bool  { return b >= '0' && b <= '9' }
func isLetter(b byte) bool { return b >= 'a' && b <= 'z' }

func isNumber(word string) bool {
	for i := range len(word) {
		if !isDigit(word[i]) {
			return false
		}
	}
	return word != ""
}

func lastWord(plain string) string {
	i := len(plain)
	for i > 0 && (isLetter(plain[i-1]) || isDigit(plain[i-1]) || plain[i-1] == '.' && i < len(plain) &&
		isLetter(plain[i])) {
		i--
	}
	return strings.TrimLeft(plain[i:], ".")
}

// token is a word, a number or a sign.
type token struct {
	span
	s       string
	number  bool
	ordinal bool // a number with st, nd, rd or th behind it, which the span includes
}

func tokenise(plain string) []token {
	var out []token
	for i := 0; i < len(plain); {
		start := i
		t := token{}
		switch c := plain[i]; {
		case isSpace(c):
			i++
			continue
		case isDigit(c):
			for i < len(plain) && isDigit(plain[i]) {
				i++
			}
			t.s, t.number = plain[start:i], true
			if i+2 <= len(plain) && (i+2 == len(plain) || !isLetter(plain[i+2])) {
				switch plain[i : i+2] {
				case "st", "nd", "rd", "th":
					t.ordinal = true
					i += 2
				}
			}
		case isLetter(c):
			for i < len(plain) && (isLetter(plain[i]) || plain[i] == '\'' && i+1 < len(plain) && isLetter(plain[i+1])) {
				i++
			}
			t.s = plain[start:i]
		default:
			i++
			t.s = plain[start:i]
		}
		t.span = span{start, i}
		out = append(out, t)
	}
	return out
}

// word is the token of a number, "" where there is none.
func (t *text) word(k int) string {
	if k < 0 || k >= len(t.tokens) {
		return ""
	}
	return t.tokens[k].s
}

// sentence is the one that an offset lies in.
func (t *text) sentence(at int) span {
	for _, s := range t.sentences {
		if at < s.end {
			return s
		}
	}
	return span{0, len(t.plain)}
}
