package prose

import (
	"strings"
	"unicode"
)

// countedBy is what stands for the number of a group right behind the word.
var countedBy = regexpOf(`^(x{1,3}|n{1,2}|#{1,2})(?:[^a-z0-9]|$)`)

// countedField is the field that a number in brackets stands for, by the word before it: "Group<number>".
func countedField(before, inside string) string {
	if !has(inside, "number", "no", "no.", "nr", "x", "n", "#") {
		return ""
	}
	switch {
	case endsWith(before, "group", "team", "section"):
		return "{section}"
	case endsWith(before, "assignment", "exercise", "homework", "lab", "sheet"):
		return "{assignment}"
	}
	return ""
}

// boundary says that a field's word stands by itself: beside a sign, an end, or a change to a capital.
func (r *reader) boundary(t span, i, length int) bool {
	at := t.start + i
	before := i == 0 || !unicode.IsLetter(r.original[at-1]) ||
		unicode.IsUpper(r.original[at]) && unicode.IsLower(r.original[at-1])
	end := at + length
	if plain := r.plain[t.start:t.end]; end < t.end && has(plain[i+length:i+length+1], "1", "2") {
		word := plain[i : i+length]
		if strings.Contains(plain, word+"1") && strings.Contains(plain, word+"2") {
			end++ // "surname1_surname2"
		}
	}
	after := end >= t.end || !unicode.IsLetter(r.original[end]) && !unicode.IsDigit(r.original[end]) ||
		unicode.IsUpper(r.original[end]) && unicode.IsLower(r.original[end-1])
	return before && after
}

// field is the field that words stand for, or "".
func field(words string) string {
	w := strings.NewReplacer("_", " ", "-", " ").Replace(words)
	switch {
	case ofWork.MatchString(w):
		return "{assignment}"
	case dateShape.MatchString(words):
		return "{date:" + strings.ToUpper(dateShape.FindString(words)) + "}"
	case strings.HasPrefix(w, "code of "), strings.HasPrefix(w, "codes of "):
		return "{course}"
	case ofGroup.MatchString(w):
		return "{section}"
	}
	w = numberOf.ReplaceAllString(w, "")
	w = strings.TrimPrefix(strings.TrimPrefix(w, "your "), "the ")
	squeezed := strings.TrimPrefix(strings.ReplaceAll(w, " ", ""), "your")
	squeezed = strings.TrimSuffix(squeezed, "s")
	switch {
	case has(squeezed, "lastname", "surname", "familyname", "family", "last"):
		return "{family}"
	case has(squeezed, "firstname", "givenname", "forename", "given", "first"):
		return "{given}"
	case has(squeezed, "initial", "firstinitial"):
		return "{initials}"
	case startsWith(squeezed, "matrikel"), has(squeezed, "matriculation", "idnumber", "studentid", "id", "number", "uid", "userid", "netid") || startsWith(squeezed, "student", "candidate", "roll", "matric", "enrol", "registration", "index", "exam", "seat", "card", "library", "personal") && endsWith(squeezed, "number", "num", "no", "no.", "nr", "id"):
		return "{number}"
	case squeezed == "team" || squeezed == "group":
		return "{section}"
	case has(squeezed, "course", "module") || startsWith(squeezed, "course", "module", "class", "unit", "subject") &&
		endsWith(squeezed, "number", "code", "id", "no", "abbreviation"):
		return "{course}"
	case startsWith(squeezed, "section", "group", "teamn", "teaml", "tutorialgroup", "labgroup", "classgroup", "stream"):
		return "{section}"
	case startsWith(squeezed, "assignment", "exercise", "homework", "lab", "sheet", "week", "task", "problem", "essay", "report") && endsWith(squeezed, "number", "no"):
		return "{assignment}"
	case startsWith(squeezed, "title", "shorttitle", "topic", "thetitle"):
		return "{title}"
	case startsWith(squeezed, "part", "piece", "slot", "nameofthe"):
		return "{slot}"
	case startsWith(squeezed, "version", "attempt", "draftnumber"):
		return "{attempt}"
	case startsWith(squeezed, "yyyy", "yymm", "ddmm"):
		return "{date:" + strings.ToUpper(strings.ReplaceAll(words, "_", "")) + "}"
	case squeezed == "year":
		return "{date:YYYY}"
	case startsWith(squeezed, "date", "submissiondate", "today"):
		return "{date}"
	}
	return ""
}

// glued are the spaces inside of a field beside a sign: "last name_first name".
func (r *reader) glued(s span) map[int]bool {
	var at map[int]bool
	glue := func(m []int, from int) {
		if m == nil {
			return
		}
		field := r.plain[from+m[0] : from+m[1]]
		space := strings.IndexByte(field, ' ')
		for i := space; space >= 0 && i < len(field); i++ {
			if at == nil {
				at = map[int]bool{}
			}
			at[from+m[0]+i] = true
		}
	}
	for i := s.start + 1; i+1 < s.end; i++ {
		if c := r.plain[i]; c != '_' && c != '-' || isSpace(r.plain[i-1]) || isSpace(r.plain[i+1]) {
			continue
		}
		from := max(s.start, i-longestField)
		glue(fieldBefore.FindStringIndex(r.plain[from:i]), from)
		glue(fieldBehind.FindStringIndex(r.plain[i+1:min(s.end, i+longestField)]), i+1)
	}
	return at
}

// ofWork is the number of the work, told in a phrase.
var ofWork = regexpOf(`^(?:numbers?|no\.?) of the (?:experiment|assignment|exercise|sheet|task|lab|problem set|` +
	`practical|essay|report|paper|homework)$`)

var ofGroup = regexpOf(`^(?:number|letter|name) of (?:your|the) (?:lab |tutorial |work )?(?:group|team|section)$`)

// longestField is more than the words of any field have letters.
const longestField = 30

var (
	fieldBefore = regexpOf(`\b(?:{joinedfield})$`)
	fieldBehind = regexpOf(`^(?:{joinedfield})`)
)
