package placing

import (
	"regexp"
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

// Headline is the first line of instructions, if it could be a title; below a greeting or the head of a letter, what
// its subject or the first due time is of; "" where nothing tells.
func Headline(text string) string {
	greeted, ofCourse := false, ""
	for line := range strings.SplitSeq(text, "\n") {
		line = strings.Trim(strings.TrimSpace(line), "#*_ ")
		n := len([]rune(line))
		if subject := subjectLine.FindStringSubmatch(line); subject != nil {
			line, n, greeted = subject[1], len([]rune(subject[1])), false
		} else if letterHead.MatchString(line) || greeting.MatchString(line) {
			greeted = true
			continue
		}
		switch {
		case n == 0:
		case !greeted && n > 2 && n <= 90 && !strings.HasSuffix(line, "."):
			if ofCourse == "" && courseLine.MatchString(line) && !workWord.MatchString(line) {
				ofCourse = line // the head of the course; the work's own may come below it
				continue
			}
			if ofCourse == "" || workWord.MatchString(line) {
				return line
			}
			return ofCourse
		case greeted:
			if of := dueOf.FindStringSubmatch(text); of != nil {
				return wording.Upper(of[1])
			}
			return ""
		default:
			return ofCourse
		}
	}
	return ofCourse
}

// courseLine begins with the code of a course, and workWord names a piece of work (common practice).
var (
	courseLine = regexp.MustCompile(`^[A-Z]{2,5}[ -]?\d{2,4}[A-Z]?\b`)
	workWord   = regexp.MustCompile(`(?i)\b(?:assignments?|labs?|essay|homework|project|exercises?|report|` +
		`task|problem set|sheet|coursework|paper|quiz|portfolio|presentation|practical)\b`)
)

var (
	greeting = regexp.MustCompile(`(?i)^(?:dear|hi|hello|hey|good (?:morning|afternoon|evening)|kia ora)\b` +
		`(?:.{0,60}[,!:.]|(?: \pL+){0,2})$`)
	letterHead  = regexp.MustCompile(`(?i)^(?:to|from|date|cc)\s*:`)
	subjectLine = regexp.MustCompile(`(?i)^(?:subject|re|regarding|title)\s*:\s*(\S.*)$`)
	// dueOf is what is due, by its noun with up to three words before it.
	dueOf = regexp.MustCompile(`(?i)\b(?:the|your|this)\s+((?:[\pL\d-]+\s+){0,3}?[\pL\d-]+)` +
		`(?:\s+\([^)]*\))?\s+(?:is|are)\s+(?:now\s+)?due\b`)
)
