package inspect

import (
	"bytes"
	"errors"
	"strconv"
	"strings"
	"unicode/utf16"

	"golang.org/x/text/encoding/charmap"
)

// passedOver are the destinations of RTF 1.9.1 that hold no words of the text: tables of fonts and styles, pictures,
// headers and footers, notes and comments. Those after \* are passed over unless they are known to hold text.
var passedOver = map[string]bool{
	"fonttbl": true, "colortbl": true, "stylesheet": true, "listtable": true, "listoverridetable": true, "pict": true,
	"object": true, "objdata": true, "header": true, "headerl": true, "headerr": true, "headerf": true, "footer": true,
	"footerl": true, "footerr": true, "footerf": true, "footnote": true, "annotation": true, "info": true,
	"rsidtbl": true, "generator": true, "themedata": true, "colorschememapping": true, "datastore": true,
	"xmlnstbl": true,
	"fldinst":  true, "nonshppict": true, "atnid": true, "atnauthor": true, "bkmkstart": true, "bkmkend": true,
	"filetbl": true, "revtbl": true, "mmathPr": true, "latentstyles": true, "listtext": true, "pntext": true,
}

// told are the entries of \info that say who made it.
var told = map[string]bool{"author": true, "operator": true, "company": true, "manager": true}

// An rtf is what a file of that form says.
type rtf struct {
	text   strings.Builder
	people map[string]string
}

// An rtfGroup is what holds within braces.
type rtfGroup struct {
	passed, hidden, deleted bool
	person                  string // whose name it holds
	skip                    int    // characters that stand for one of \u
}

// errRTF says that a file is no RTF, or breaks off.
var errRTF = errors.New("its braces do not agree")

// An rtfReader reads one file.
type rtfReader struct {
	out     *rtf
	group   rtfGroup
	groups  []rtfGroup // around it
	page    *charmap.Charmap
	left    int  // characters yet to come that stand for one of \u
	starred bool // the next word's destination may be passed over
	pair    rune // the first half of a character beyond the basic plane
}

// readRTF reads RTF 1.9.1, which is written in braces, words behind backslashes, and text.
func readRTF(data []byte) (*rtf, error) {
	r := &rtfReader{out: &rtf{people: map[string]string{}}, group: rtfGroup{skip: 1}, page: charmap.Windows1252}
	for at := 0; at < len(data); {
		c := data[at]
		at++
		switch c {
		case '{':
			r.groups, r.starred = append(r.groups, r.group), false
		case '}':
			if len(r.groups) == 0 {
				return nil, errRTF
			}
			r.group, r.groups, r.left = r.groups[len(r.groups)-1], r.groups[:len(r.groups)-1], 0
			if len(r.groups) == 0 {
				return r.out, nil
			}
		case '\r', '\n':
		case '\\':
			word, n, has, next := controlWord(data, at)
			if at = next; word == "bin" {
				at = min(len(data), at+min(max(n, 0), len(data)))
			}
			r.word(word, n, has)
		default:
			r.write(r.page.DecodeByte(c))
		}
		if len(r.groups) > mostGroups {
			return nil, errRTF
		}
		if r.out.text.Len() > mostXML {
			return nil, errors.New("it holds more than 64 MB of text")
		}
	}
	return nil, errRTF
}

func (r *rtfReader) write(c rune) {
	switch {
	case r.left > 0:
		r.left--
	case r.group.person != "":
		r.out.people[r.group.person] += string(c)
	case !r.group.passed && !r.group.hidden && !r.group.deleted:
		r.out.text.WriteRune(c)
	}
}

// word does what a word behind a backslash says.
func (r *rtfReader) word(word string, n int, has bool) {
	switch word {
	case "'":
		r.write(r.page.DecodeByte(byte(n)))
	case "*":
		r.starred = true
	case "u":
		c := rune(uint16(n))
		switch {
		case utf16.IsSurrogate(c) && r.pair == 0:
			r.pair = c
		case r.pair != 0:
			c, r.pair = utf16.DecodeRune(r.pair, c), 0
			fallthrough
		default:
			r.write(c)
		}
		r.left = r.group.skip
	case "uc":
		r.group.skip = n
	case "ansicpg":
		if p, known := codePages[n]; known {
			r.page = p
		}
	case "v":
		r.group.hidden = !has || n != 0
	case "deleted":
		r.group.deleted = !has || n != 0
	default:
		r.group.opens(word, r.starred)
		for _, c := range spoken[word] {
			r.write(c)
		}
		r.starred = false
	}
}

// mostGroups bounds how deep braces stand within each other.
const mostGroups = 10_000

// spoken are the words that stand for characters.
var spoken = map[string]string{
	"par": "\n", "line": "\n", "tab": "\t", "cell": "\t", "row": "\n", "page": "\n", "sect": "\n", "column": "\n",
	"emdash": "—", "endash": "–", "lquote": "‘", "rquote": "’", "ldblquote": "“", "rdblquote": "”", "bullet": "•",
	"~": "\u00a0", "_": "\u2011", "\\": "\\", "{": "{", "}": "}", "\n": "\n", "\r": "\n", "emspace": " ",
	"enspace": " ",
}

// codePages are those that files say they are written in.
var codePages = map[int]*charmap.Charmap{
	437: charmap.CodePage437, 850: charmap.CodePage850, 1250: charmap.Windows1250, 1251: charmap.Windows1251,
	1252: charmap.Windows1252, 1253: charmap.Windows1253, 1254: charmap.Windows1254, 1257: charmap.Windows1257,
	10000: charmap.Macintosh,
}

// opens tells a group what it is by its first word.
func (g *rtfGroup) opens(word string, starred bool) {
	switch {
	case told[word]:
		g.person = word
	case passedOver[word], starred && word != "shptxt" && word != "ftnsep":
		g.passed = true
	case word == "shptxt", word == "fldrslt":
		g.passed = false
	case word == "plain":
		g.hidden, g.deleted = false, false
	}
}

// controlWord reads the word behind a backslash with its number: "par", "u" with 8364, "'" with the two hexadecimal
// digits behind it.
func controlWord(data []byte, at int) (word string, n int, has bool, next int) {
	if at >= len(data) {
		return "", 0, false, at
	}
	if c := data[at] | 0x20; c < 'a' || c > 'z' {
		if data[at] == '\'' {
			n, err := strconv.ParseUint(string(data[at+1:min(len(data), at+3)]), 16, 8)
			if err != nil {
				return "", 0, false, at + 1
			}
			return "'", int(n), true, at + 3
		}
		return string(data[at]), 0, false, at + 1
	}
	end := at
	for end < len(data) && (data[end]|0x20) >= 'a' && (data[end]|0x20) <= 'z' {
		end++
	}
	word, next = string(data[at:end]), end
	if next < len(data) && data[next] == '-' {
		next++
	}
	for next < len(data) && data[next] >= '0' && data[next] <= '9' {
		next++
	}
	if number, err := strconv.Atoi(string(data[end:next])); err == nil {
		n, has = number, true
	}
	if next < len(data) && data[next] == ' ' {
		next++
	}
	return word, n, has, next
}

func (f *Facts) rtf(data []byte) {
	r, err := readRTF(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")))
	if err != nil {
		f.problem("truncated", "words", "The document breaks off, or contradicts itself: %v.", err)
		return
	}
	f.Words = ref(countWords(r.text.String()))
	f.people(strings.TrimSpace(r.people["author"]), []Trait{
		{"last editor", strings.TrimSpace(r.people["operator"])}, {"company", strings.TrimSpace(r.people["company"])},
		{"manager", strings.TrimSpace(r.people["manager"])},
	})
}
