package naming

import (
	_ "embed"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"unicode"

	"orario/core/finding"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// A Problem is one thing that is wrong with a name, or was repaired in it.
type Problem struct {
	Code    string         `json:"code"`
	Weight  finding.Weight `json:"weight"`
	Message string         `json:"message"`
}

// MaxBytes is the longest name that every system takes (POSIX NAME_MAX on Linux file systems).
const MaxBytes = 255

// forbidden are the characters that Windows file systems reserve, as Microsoft publishes them in
// "Naming Files, Paths, and Namespaces", with the control characters.
const forbidden = `<>:"/\|?*`

// reserved device names, from the same page; also with any extension behind them.
var reserved = regexp.MustCompile(`(?i)^(con|prn|aux|nul|com[0-9¹²³]|lpt[0-9¹²³]) *(\.|$)`)

func isForbidden(r rune) bool {
	return r < 0x20 || r == 0x7f || strings.ContainsRune(forbidden, r)
}

// isHidden says whether a character is not seen, or turns the direction in which others are read, so that a name is
// not what it looks like ("gnp.exe" as "exe.png"): the explicit directional marks, embeddings, overrides and isolates
// of Unicode's UAX #9, and the spaces and joiners without width.
func isHidden(r rune) bool {
	return r == 0x061C || r == 0x200B || r == 0x200E || r == 0x200F || r >= 0x202A && r <= 0x202E || r == 0x2060 ||
		r >= 0x2066 && r <= 0x2069 || r == 0xFEFF
}

// soundValue repairs a field's value and says what it repaired.
func soundValue(field, value string) (string, []Problem) {
	var problems []Problem
	repaired := func(code, message string) {
		problems = append(problems, Problem{code, finding.Note, fmt.Sprintf(message, "{"+field+"}")})
	}
	if !norm.NFC.IsNormalString(value) {
		value = norm.NFC.String(value)
		repaired("not_nfc", "%s held decomposed characters; they are composed now.")
	}
	if strings.ContainsFunc(value, isForbidden) {
		value = strings.Map(func(r rune) rune {
			if isForbidden(r) {
				return '-'
			}
			return r
		}, value)
		repaired("forbidden", "%s held characters that some systems forbid; each became a hyphen.")
	}
	if strings.ContainsFunc(value, isHidden) {
		value = strings.Map(func(r rune) rune {
			if isHidden(r) {
				return -1
			}
			return r
		}, value)
		repaired("forbidden", "%s held characters that are not seen; they are left out.")
	}
	if trimmed := strings.Trim(value, " ."); trimmed != value {
		value = trimmed
		repaired("edge", "%s began or ended with a space or dot; it is trimmed.")
	}
	if value == "" {
		repaired("empty", "%s is empty.")
	}
	return value, problems
}

// Lint says what is wrong with a name that is to lie beside others. Plain asks for ASCII.
func Lint(name string, beside []string, plain bool) []Problem {
	problems := []Problem{}
	add := func(code string, weight finding.Weight, message string) {
		problems = append(problems, Problem{code, weight, message})
	}
	if stem, _ := Split(name); strings.Trim(stem, " .") == "" {
		add("empty", finding.Must, "The name has nothing before its extension. Give it a name.")
	}
	if reserved.MatchString(name) {
		add("reserved", finding.Must, "Windows keeps this name for a device. Choose another.")
	}
	if strings.ContainsFunc(name, isForbidden) {
		add("forbidden", finding.Must,
			`Some systems forbid < > : " / \ | ? * and control characters in names. Replace them.`)
	}
	if strings.ContainsFunc(name, isHidden) {
		add("forbidden", finding.Must,
			"The name holds characters that are not seen or that turn how it is read. Rename it.")
	}
	if strings.Trim(name, " .") != name {
		add("edge", finding.Must, "A name must not begin or end with a space or dot. Take it away.")
	}
	if len(name) > MaxBytes {
		add("too_long", finding.Must,
			fmt.Sprintf("The name has %d bytes; file systems take %d. Shorten it.", len(name), MaxBytes))
	}
	if !norm.NFC.IsNormalString(name) {
		add("not_nfc", finding.Should,
			"The name holds decomposed characters, which some systems show wrongly. Rename it.")
	}
	if plain {
		if _, ok := Plain(name); !ok {
			add("not_plain", finding.Should,
				"The course asks for plain letters; some have none. Spell them in Latin letters.")
		} else if !isASCII(name) {
			add("not_plain", finding.Should, "The course asks for plain letters, without accents.")
		}
	}
	for _, other := range beside {
		if Same(name, other) {
			add("collides", finding.Must,
				fmt.Sprintf("%q has the same name where capitals do not count. Rename one.", other))
			break
		}
	}
	if anyones(name) {
		add("anyone", finding.Should,
			"Anybody's file could have this name. Put your family name and what it is into it.")
	}
	return problems
}

// Same says whether two names are one where case is ignored.
func Same(a, b string) bool { return Fold(a) == Fold(b) }

// Fold is a name in the form in which names are one where case is ignored: full Unicode case folding of NFC.
func Fold(name string) string {
	return norm.NFC.String(cases.Fold().String(norm.NFC.String(name)))
}

// generic words tell nothing about whose work a file is: common practice.
var generic = regexp.MustCompile(
	`^(a|an|the|my|new|old|copy|of|final|finished|last|latest|real|really|done|draft|version|v|rev|edit` +
		`|edited|corrected|` +
		`paper|essay|text|work|homework|hw|assignment|task|exercise|project|report|lab|document|doc|file|data` +
		`|untitled|unnamed|submission|upload|download|` +
		`scan|scanned|scanner|img|image|photo|picture|pic|dsc|dscn|pxl|screenshot|screen|shot|recording|audio` +
		`|video|mov|page|pages|sheet|book|presentation|` +
		`slides|worksheet|template|part|number|no|nr|test|am|pm|at|\d+)$`,
)

var numbered = regexp.MustCompile(`\d+|\D+`)

// anyones says whether a name could be anyone's: it has no word that describes the work or its author.
func anyones(name string) bool {
	stem, _ := Split(name)
	for _, word := range words(strings.ToLower(stem)) {
		for _, piece := range numbered.FindAllString(word, -1) {
			if len([]rune(piece)) > 1 && !generic.MatchString(piece) {
				return false
			}
		}
	}
	return strings.Trim(stem, " .") != ""
}

// Split cuts a name into stem and extension (without its dot).
func Split(name string) (stem, ext string) {
	if dot := strings.LastIndexByte(name, '.'); dot > 0 {
		return name[:dot], name[dot+1:]
	}
	return name, ""
}

//go:embed latin-ascii.tsv
var latinASCIITable string

var latinASCII = func() map[rune]string {
	table := map[rune]string{}
	for line := range strings.Lines(latinASCIITable) {
		code, ascii, ok := strings.Cut(strings.TrimSuffix(line, "\n"), "\t")
		if n, err := strconv.Atoi(code); ok && err == nil {
			table[rune(n)] = ascii
		}
	}
	return table
}()

// Plain writes Latin letters in ASCII, as CLDR's transform Latin-ASCII does. Letters of other scripts
// stay, and ok is false.
func Plain(text string) (plain string, ok bool) {
	ok = true
	var b strings.Builder
	for _, r := range norm.NFC.String(text) {
		if r < 0x80 {
			b.WriteRune(r)
			continue
		}
		if ascii, found := latinASCII[r]; found {
			b.WriteString(ascii)
			continue
		}
		base := strings.Map(func(r rune) rune {
			if unicode.Is(unicode.Mn, r) {
				return -1
			}
			return r
		}, norm.NFD.String(string(r)))
		if isASCII(base) {
			b.WriteString(base)
			continue
		}
		ok = false
		b.WriteRune(r)
	}
	return b.String(), ok
}

func isASCII(s string) bool {
	for i := range len(s) {
		if s[i] >= 0x80 {
			return false
		}
	}
	return true
}
