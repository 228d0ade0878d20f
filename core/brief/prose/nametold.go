package prose

import (
	"cmp"
	"slices"
	"strings"
)

var (
	separator = rule(`\b(?:{rowsign}|{rowdirect})|["'(][_.-]["')]`)
	capitals  = rule(`\b(?:{rowcase})\b`)
	titled    = regexpOf(`^ (?:your|the|it|this)\b|^ ["']`)
)

// told reads the patterns that a sentence describes piece by piece; signs between them are those said there, those said
// for all of it, or those of an example nearby.
func (r *reader) told(s span, i int) (patterns []string, at span) {
	text := r.plain[s.start:s.end]
	from := nameCue.regexp().FindStringIndex(text)
	if from == nil && i > 0 && endsWith(r.plain[r.sentences[i-1].start:r.sentences[i-1].end], "?", ";") {
		from = []int{0, 0} // the answer
	}
	if from == nil || badName.in(text[:from[0]]+" ") && !orElse.MatchString(text[from[1]:]) || onPage.MatchString(text) && !strings.Contains(text, "file") {
		return nil, span{}
	}
	cue := span{s.start + from[0], s.start + from[1]}
	if first, _, _ := strings.Cut(text[from[0]:], " "); givesName.MatchString(first) {
		cue.end = cue.start + len(first) // "give it your surname as its name"
	}
	row := r.rowTold(s, cue)
	if row == nil && i > 0 && thatIsName.MatchString(text) { // "your surname, underscore, sketch. That is the file name."
		s = r.sentences[i-1]
		text, row = r.plain[s.start:s.end], r.rowTold(s, span{s.start, s.start})
	}
	if row == nil {
		return nil, span{}
	}
	if unknownNext.MatchString(r.plain[row.span().end:s.end]) {
		return nil, span{} // "your number and the language of the interview": half of a name is none
	}
	around := s
	if i+1 < len(r.sentences) {
		around.end = r.sentences[i+1].end
	}
	sign, said := r.signSaid(around)
	if len(row) == 1 && row[0].text[0] == '{' && strings.Count(row[0].text, "{") == 1 && !r.aloneInName(s, row[0]) {
		return nil, span{}
	}
	shown := r.signsShown(around, row)
	for k := range row {
		row[k].text = r.inCase(row[k], around, text)
		if row[k].text == "{date}" {
			row[k].text = r.dateAs(row[k], around)
		}
	}
	row = slices.CompactFunc(row, func(a, b namePiece) bool {
		return strings.HasPrefix(a.text, "{date") && strings.HasPrefix(b.text, "{date") // "the date, as YYYY-MM-DD"
	})
	join := func(k int) string {
		switch p := row[k]; {
		case p.signed:
			return p.sign
		case said && strings.Trim(r.plain[row[k-1].end:p.start], " \"'") == "+":
			return "" // the signs between are told one by one
		case said:
			return sign
		}
		return shown(k)
	}
	at = row.span()
	ending := ""
	if m := endingSaid.FindStringSubmatchIndex(r.plain[at.end:s.end]); m != nil {
		ending = r.plain[at.end+m[2] : at.end+m[3]]
	}
	for _, p := range row.patterns(join) {
		patterns = append(patterns, p+ending)
	}
	return patterns, at
}

var thatIsName = regexpOf(`^\W*(?:that|this) is (?:the|its|your) (?:whole )?(?:file ?)?name\b`)

var givesName = regexpOf(`^(?:give|carr|bear)`)

// orElse is what happens to a file that is not named so.
var orElse = regexpOf(`\b(?:back|returned|renamed|rejected|refused|ignored|lose|deleted|unread|not be|won't be|lost)\b`)

// unknownNext goes on in a row with what is no field.
var unknownNext = regexpOf(`^(?:,| and|, and) (?:then )?(?:the|your) (?:name|number|language|title|kind|type|colour|letter|place|year) of\b`)

// rowTold is the row of a sentence that tells the name: the first behind the words that lead to it that has a field and
// more, or else the first before them, or the first at all.
func (r *reader) rowTold(s, cue span) nameRow {
	rows := slices.DeleteFunc(r.nameRows(s, cue), func(w nameRow) bool { return w.fields() == 0 || len(w)-w.fields() > 2 })
	for _, good := range []func(nameRow) bool{
		func(w nameRow) bool { return w[0].start >= cue.end && len(w) > 1 },
		func(w nameRow) bool { return len(w) > 1 },
		func(w nameRow) bool { return w[0].start >= cue.end },
		func(nameRow) bool { return true },
	} {
		if k := slices.IndexFunc(rows, good); k >= 0 {
			return rows[k]
		}
	}
	return nil
}

// aloneInName says that one field is all of a name: by what is around it.
func (r *reader) aloneInName(s span, p namePiece) bool {
	text := r.plain[s.start:s.end]
	joined := strings.HasSuffix(strings.TrimSuffix(r.plain[s.start:p.start], "your "), " and ")
	if andMore.MatchString(r.plain[p.end:s.end]) || moreBefore.MatchString(r.plain[s.start:p.start]) {
		return false
	}
	return onlyField.MatchString(text) || mustHave.MatchString(text) || loneField.in(r.plain[max(s.start, p.start-12):s.end]) ||
		asName.MatchString(text) && !joined
}

// signSaid is the sign that is told in words, or shown alone in quotation marks.
func (r *reader) signSaid(around span) (sign string, said bool) {
	for _, m := range separator.all(r.plain, around) {
		if !without.MatchString(r.plain[around.start:m[0]]) {
			return signOf(r.plain[m[0]:m[1]]), true
		}
		said = true // "no spaces"
	}
	return "", said
}

// without leads to a sign that shall not be there.
var without = regexpOf(`\b(?:no|not|without|never|instead of|any)(?: any| an?)? $`)

// signOf is the sign that words tell.
func signOf(words string) string {
	words = strings.TrimPrefix(strings.TrimPrefix(strings.TrimPrefix(words, "a "), "the "), "single ")
	if k := strings.IndexAny(words, "_.-"); k >= 0 && k <= 1 {
		return words[k : k+1]
	}
	for _, sign := range []struct{ words, is string }{
		{"hyphen", "-"}, {"dash", "-"}, {"minus", "-"}, {"dot", "."}, {"full stop", "."}, {"period", "."},
		{"space", " "}, {"blank", " "}, {"underscore", "_"}, {"underline", "_"}, {"low line", "_"},
	} {
		if strings.Contains(words, sign.words) && !strings.Contains(words, "without") {
			return sign.is
		}
	}
	return ""
}

// signsShown are the signs that an example or the pieces themselves show, each before the piece of that number; an
// underscore, where nothing does.
func (r *reader) signsShown(around span, row nameRow) func(k int) string {
	shown := ""
	for _, t := range r.nameTokens(around) {
		text := r.plain[t.start:t.end]
		if dot := strings.LastIndexByte(text, '.'); dot > 0 && extension.MatchString(text[dot:]) {
			text = text[:dot]
		}
		signs := strings.FieldsFunc(text, func(c rune) bool { return !strings.ContainsRune("_-.", c) })
		if len(signs) == len(row)-1 && strings.Trim(text, "_-.") == text {
			return func(k int) string { return signs[k-1] }
		}
		if len(signs) > 0 && shown == "" {
			shown = signs[0][:1]
		}
	}
	if len(row) > 1 && shown == "" && plainExample.MatchString(r.plain[row.span().end:around.end]) {
		return func(int) string { return "" } // "e.g. Brandt3"
	}
	if m := shownSign.FindStringSubmatch(r.plain[row.span().end:around.end]); m != nil {
		shown = m[1]
	}
	if len(row) > 1 {
		between := strings.Trim(r.plain[row[0].end:row[1].start], " ")
		switch {
		case has(between, "-", "_", "."):
			shown = between
		case shown == "" && strings.Trim(between, "\"'") == "+":
			return func(int) string { return "" }
		}
	}
	return func(int) string { return cmp.Or(shown, "_") }
}

// inCase is a piece with the case of its letters, where that is told for it or for all.
func (r *reader) inCase(p namePiece, around span, text string) string {
	if p.text[0] != '{' && p.form == ":lower" {
		return strings.ToLower(p.text)
	}
	if !strings.HasPrefix(p.text, "{") || strings.Contains(p.text, ":") || has(p.text, "{number}", "{date}", "{attempt}") {
		return p.text
	}
	form := p.form
	if m := capitals.first(r.plain, around); m != nil && form == "" && forAllOfIt.MatchString(text) {
		form = ":upper"
		if lowered.MatchString(r.plain[m[0]:m[1]]) {
			form = ":lower"
		}
	}
	if form == "" {
		return p.text
	}
	return strings.TrimSuffix(p.text, "}") + form + "}"
}

var forAllOfIt = regexpOf(`everything|all in|whole|all lower|throughout`)

// dateAs is a date with the form that is told or shown for it.
func (r *reader) dateAs(p namePiece, around span) string {
	if m := dateShape.FindString(r.plain[p.end:min(around.end, p.end+40)]); m != "" {
		return "{date:" + strings.ToUpper(m) + "}"
	}
	if isoDate.MatchString(r.plain[p.end:min(around.end, p.end+60)]) {
		return "{date:YYYY-MM-DD}"
	}
	return p.text
}

// andMore goes on behind a field with what is no field.
var (
	andMore    = regexpOf(`^ and (?:the|your|an?) `)
	moreBefore = regexpOf(`\b(?:after|of|by|with) (?:the|your) \w+(?: \([^)]*\))? and (?:the |your )?$`)
)

// loneField says that a field is all of a name.
var loneField = ways{
	rule(`^(?:.*? )?(?:by|after|with|under)? ?(?:your|the) {field}(?: as (?:its|the|their) (?:only |sole )?name|(?:,|` +
		` and)? (?:then )?nothing (?:else|more)| only| alone)`),
	rule(`^(?:.*? )?(?:call(?:ed)? (?:it|them) (?:by|after)|after|by) (?:your|the) {field}\W*$`),
}

// partOfField leads to a field of which only a part is meant.
var partOfField = regexpOf(`\bletters? of (?:your|the) $`)

// shownSign is the sign in an example right behind what is told: "like C-lighthouse".
var shownSign = regexpOf(`^,? \(?(?:like|e\.?g\.?,?|as in|for example,?|so) ["']?\w+([-_])\w+`)

// plainExample is one without any sign between its pieces.
var plainExample = regexpOf(`^,? \(?(?:like|e\.?g\.?,?|as in|for example,?|so) ["']?[a-z]+\d+["']?(?:[).,]|$)`)

// onPage says that a name is written on paper.
var onPage = regexpOf(`\b(?:on|in|at) (?:the|every|each|its|your) (?:top|cover|title|first|last|header|footer|page|` +
	`sheet|form(?: [a-z]|[.,]|$)|subject|corner)`)

// endingSaid is an extension that is told with the fields.
var endingSaid = regexpOf(`^,? ?(?:followed by|plus|and|\+|and then)(?: the)?(?: ending| extension|` +
	` suffix)? (\.[a-z0-9]{3,4})\b`)

var isoDate = regexpOf(`\b\d{4}-\d\d-\d\d\b|_\d{4}-\d\d-\d\d\b`)
