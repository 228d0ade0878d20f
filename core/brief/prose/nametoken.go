package prose

import (
	"slices"
	"strings"
	"unicode"
)

// nameTokens are the runs of a sentence that look like a file name: words joined by signs, fields in
// brackets, a name with an extension.
func (r *reader) nameTokens(s span) (out []span) {
	out = r.quotedFields(s)
	glued := r.glued(s)
	for i := s.start; i < s.end; {
		if isSpace(r.plain[i]) {
			i++
			continue
		}
		start := i
		depth := byte(0)
		for i < s.end {
			c := r.plain[i]
			if depth == 0 && isSpace(c) && !glued[i] {
				break
			}
			if depth == 0 && opensField(r.plain, i, start) &&
				strings.IndexByte(r.plain[i:min(s.end, i+40)], closer(c)) > 0 {
				depth = closer(c)
			} else if c == depth {
				depth = 0
			}
			i++
		}
		t := span{start, i}
		for t.start < t.end && strings.IndexByte(`"'(,;:`+"`*", r.plain[t.start]) >= 0 {
			t.start++
		}
		for t.end > t.start && strings.IndexByte(`"'),;:.!?`+"`*", r.plain[t.end-1]) >= 0 &&
			!(r.plain[t.end-1] == ')' && strings.Contains(r.plain[t.start:t.end], "(")) {
			t.end--
		}
		text := r.plain[t.start:t.end]
		if len(text) < 4 || len(text) > longestName || strings.Contains(text, "@") || strings.Contains(text, "//") ||
			strings.HasPrefix(text, "www") ||
			strings.HasPrefix(text, "/") || strings.Contains(text, "/") && inFolder.MatchString(r.plain[s.start:t.start]) {
			continue
		}
		joined := strings.ContainsAny(text, "_") || strings.ContainsAny(text, "<[{(") && len(text) > 6 ||
			strings.Contains(text, ".") && placeholders(text) >= 2 ||
			strings.Contains(text, "-your") && placeholders(text) >= 1 ||
			strings.Contains(text, "-") && !aYear.MatchString(text) && (fields.regexp().MatchString(strings.ReplaceAll(text, "-", " ")) ||
				strings.HasPrefix(text, "your")) ||
			r.camel(t) && placeholders(text) >= 2
		if (joined || r.extended(t)) && hasLetter(text) && !slices.ContainsFunc(out, t.overlaps) {
			out = append(out, t)
		}
	}
	return out
}

// fieldCode is a field with a hyphen and a code behind it, which is a name wherever it stands: "Familyname-Task9".
var fieldCode = regexpOf(`^(?:{joinedfield})-[a-z]+\d+$`)

// aYear is no name: "third-year".
var aYear = regexpOf(`^\w+-year$`)

// inFolder leads to where files are put.
var inFolder = regexpOf(`\b(?:folder|drive|directory)\W*$`)

// opensField says that a bracket stands around a field: "<surname>", "T2-(your number)".
func opensField(plain string, i, start int) bool {
	return strings.IndexByte("<[{", plain[i]) >= 0 ||
		plain[i] == '(' && i > start && strings.IndexByte("_-", plain[i-1]) >= 0
}

// longestName is that of file systems, in bytes; a longer run of signs is no name, and would take long to be taken
// apart.
const longestName = 255

func closer(c byte) byte { return map[byte]byte{'<': '>', '[': ']', '{': '}', '(': ')'}[c] }

func hasLetter(s string) bool { return strings.IndexFunc(s, unicode.IsLetter) >= 0 }

// camel says that a word has a capital inside: FirstnameLastname.
func (r *reader) camel(t span) bool {
	return slices.ContainsFunc(r.original[t.start+1:t.end], unicode.IsUpper)
}

// quotedFields are names in quotation marks that have two fields or more: "surname, forename - Review".
func (r *reader) quotedFields(s span) (out []span) {
	for _, m := range inQuotes.FindAllStringSubmatchIndex(r.plain[s.start:s.end], -1) {
		if at := (span{s.start + m[2], s.start + m[3]}); placeholders(r.plain[at.start:at.end]) >= 2 {
			out = append(out, at)
		}
	}
	return out
}

var inQuotes = regexpOf(`"([^"]{5,60})"`)

func placeholders(text string) int { return len(joinedField.FindAllString(text, -1)) }

// pieces of a written pattern, the longest first
var (
	joinedField = regexpOf(`{joinedfield}`)
)
