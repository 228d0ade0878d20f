package filing

import (
	"strings"

	"orario/core/wording"
)

// squeezed is a course's code as people type it.
func squeezed(code string) string {
	return strings.ToLower(strings.NewReplacer(" ", "", "-", "", "_", "", ".", "").Replace(code))
}

// SameCode says whether two codes are one as people type them.
func SameCode(a, b string) bool { return squeezed(a) == squeezed(b) }

// headLetters is how far into instructions a course is looked for, in code points.
const headLetters = 300

// Names says whether instructions name a course by its code in their first lines.
func Names(text, code string) bool {
	if r := []rune(text); len(r) > headLetters {
		text = string(r[:headLetters])
	}
	want := squeezed(code)
	return want != "" && strings.Contains(squeezed(text), want)
}

// Untitled takes a course's code off the beginning of a title, as in "HYD 214: Lab 3".
func Untitled(title, code string) string {
	at := 0
	for _, want := range squeezed(code) {
		for at < len(title) && strings.ContainsRune(" -_.", rune(title[at])) {
			at++
		}
		if at == len(title) || squeezed(title[at:at+1]) != string(want) {
			return title
		}
		at++
	}
	if rest := strings.TrimLeft(title[at:], " :,–-"); rest != "" && rest != title[at:] {
		return wording.Upper(rest)
	}
	return title
}

// Headline is the first line of instructions, if it could be a title.
func Headline(text string) string {
	for line := range strings.SplitSeq(text, "\n") {
		line = strings.Trim(strings.TrimSpace(line), "#*_ ")
		if n := len([]rune(line)); n > 2 && n <= 90 && !strings.HasSuffix(line, ".") {
			return line
		} else if n > 0 {
			return ""
		}
	}
	return ""
}
