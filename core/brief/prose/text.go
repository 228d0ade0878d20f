package prose

import (
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// text is the instructions, prepared for looking through. Its plain form has one ASCII byte for every code
// point of the original, in lower case, so that an offset means the same in both.
type text struct {
	original  []rune
	plain     string
	digits    string // plain with numbers in digits
	sentences []span
	tokens    []token
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
	t.plain = plain.String()
	t.sentences = split(t.original, t.plain)
	t.tokens = tokenise(t.plain)
	t.digits = inDigits(t.plain, t.tokens)
	return t
}

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
	if base := norm.NFD.String(string(unicode.ToLower(r))); base != "" && base[0] < 0x80 {
		return base[0] // the letter without its accent
	}
	if unicode.IsLetter(r) {
		return 'z'
	}
	return '_'
}

// unfinished are words whose dot ends no sentence.
var unfinished = map[string]bool{
	"max":    true,
	"min":    true,
	"approx": true,
	"ca":     true,
	"e.g":    true,
	"i.e":    true,
	"eg":     true,
	"ie":     true,
	"no":     true,
	"nr":     true,
	"dr":     true,
	"prof":   true,
	"mr":     true,
	"ms":     true,
	"mrs":    true,
	"st":     true,
	"vs":     true,
	"incl":   true,
	"excl":   true,
	"fig":    true,
	"cf":     true,
	"a.m":    true,
	"p.m":    true,
	"pp":     true,
	"p":      true,
	"resp":   true,
	"etc":    true,
	"jan":    true,
	"feb":    true,
	"mar":    true,
	"apr":    true,
	"jun":    true,
	"jul":    true,
	"aug":    true,
	"sep":    true,
	"sept":   true,
	"oct":    true,
	"nov":    true,
	"dec":    true,
	"mon":    true,
	"tue":    true,
	"tues":   true,
	"wed":    true,
	"thu":    true,
	"thur":   true,
	"thurs":  true,
	"fri":    true,
	"sat":    true,
	"sun":    true,
}

// split cuts the text into sentences. A line break ends one only where the line seems complete: before a
// blank line, a bullet or a label, after a short line or one that ends like a sentence.
func split(original []rune, plain string) []span {
	var out []span
	from := 0
	cut := func(to int) {
		start, end := from, to
		for start < end && isSpace(plain[start]) {
			start++
		}
		for end > start && isSpace(plain[end-1]) {
			end--
		}
		if start < end {
			out = append(out, span{start, end})
		}
		from = to
	}
	for i := 0; i < len(plain); i++ {
		switch plain[i] {
		case '.', '!', '?':
			next := i + 1
			for next < len(plain) && strings.IndexByte(`)"'`, plain[next]) >= 0 {
				next++
			}
			if next < len(plain) && !isSpace(plain[next]) {
				continue
			}
			after := next
			for after < len(plain) && plain[after] == ' ' {
				after++
			}
			if plain[i] == '.' && after < len(plain) && plain[after] != '\n' {
				word := lastWord(plain[from:i])
				lower := unicode.IsLower(original[after])
				short := unfinished[word] && !(word == "no" && lower) &&
					(lower || unicode.IsDigit(original[after]) || word != "p.m" && word != "a.m" && word != "etc")
				if lower || short || isNumber(word) && i > from && startsDate(plain[from:i], word) {
					continue
				}
			}
			cut(next)
		case ';':
			cut(i + 1)
		case '\n':
			if endsLine(original, plain, i) {
				cut(i + 1)
			}
		}
	}
	cut(len(plain))
	return out
}

// startsDate says whether a number before a dot looks like the day or month of a date such as 6.11.
func startsDate(before, word string) bool {
	rest := strings.TrimSuffix(before, word)
	return len(word) <= 2 && (strings.HasSuffix(rest, ".") && len(rest) > 1 && isDigit(rest[len(rest)-2]))
}

func endsLine(original []rune, plain string, i int) bool {
	next := i + 1
	for next < len(plain) && (plain[next] == ' ' || plain[next] == '\t') {
		next++
	}
	if next >= len(plain) || plain[next] == '\n' || plain[next] == '\r' {
		return true
	}
	line := strings.TrimRight(plain[strings.LastIndexByte(plain[:i], '\n')+1:i], " \r")
	if line == "" || strings.IndexByte(".:;!?", line[len(line)-1]) >= 0 ||
		strings.IndexByte("*-#>|", plain[next]) >= 0 && next+1 < len(plain) && plain[next+1] == ' ' {
		return true
	}
	if n := strings.IndexByte(plain[next:], ' '); isDigit(plain[next]) && n > 0 &&
		strings.IndexByte(".)", plain[next+n-1]) >= 0 {
		return true // a numbered item
	}
	following := plain[next:]
	if end := strings.IndexByte(following, '\n'); end >= 0 {
		following = following[:end]
	}
	if colon := strings.IndexByte(following, ':'); colon > 0 && colon < 25 && !isDigit(following[colon-1]) &&
		unicode.IsUpper(original[next]) {
		return true // a label
	}
	return len(line) < 48 && unicode.IsUpper(original[next]) && strings.IndexByte(",(&", line[len(line)-1]) < 0
}

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
	for i > 0 && (isLetter(plain[i-1]) || isDigit(plain[i-1]) || plain[i-1] == '.' && i < len(plain) && isLetter(plain[i])) {
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

// sentence is the one that an offset lies in.
func (t *text) sentence(at int) span {
	for _, s := range t.sentences {
		if at < s.end {
			return s
		}
	}
	return span{0, len(t.plain)}
}
