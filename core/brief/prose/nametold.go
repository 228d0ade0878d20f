package prose

import (
	"slices"
	"strings"
)

var (
	separator = rule(`\b(?:underscores?|hyphens?|dash(?:es)?|dots?|full stops?|periods?|spaces?|nothing between|` +
		`(?:followed )?directly(?: followed)?|` +
		`without (?:(?:a |any )?spaces?|separators?))\b|["'(]([_.-])["')]`,
	)
	capitals = rule(`\b(?:(?:in )?(?:all |block )?capitals?(?: letters)?|upper ?case|(?:all )?caps|(?:in )?lower ?case|` +
		`small letters)\b`,
	)
	literal = regexpOf(`\b(?:[A-Z]{2,}[0-9]{1,4}|[A-Z][a-z]+[0-9]+)\b`)
	quoted  = regexpOf(`["']([_-]?[A-Za-z0-9 ]{1,20}[_-]?)["']`)
	// joinedWord is a literal that is led to: "and the word reflection", "followed by a hyphen and lab5", "A3_ and then".
	joinedWord = regexpOf(`\bthe word (\w+)|\b(?:followed by|plus|and|then) ["']?([_-]\w+)|(?:[+:]|\b(?:and|then|plus|` +
		`by)) (?:the )?([A-Za-z]+\d+[a-z]?)\b|` +
		`\b([A-Za-z]\w*_)(?: |$)`)
	// signThen is one that is told behind the sign before it: "a hyphen and the sign T5".
	signThen = regexpOf(`\b(?:underscore|hyphen|dash|dot|space),? (?:and )?(?:the )?(?:sign |letters? |` +
		`code )?([A-Za-z]+\d+)\b|\b(?:number|name|code|id),? underscore,? (?:and )?(?:the word )?([a-z]{4,12})\W*$`)
	bothNames = rule(`\b(first|given|last|family)(?: name)? and (first|given|last|family) names?\b`)
	titled    = regexpOf(`^ (?:your|the|it|this)\b`)
)

// namePiece is a field or a literal of a name that is told.
type namePiece struct {
	span
	text string
}

// told reads a pattern that is described field by field; separators are those said or those of an example nearby.
func (r *reader) told(s span, i int) (string, span, bool) {
	text := r.plain[s.start:s.end]
	from := nameCue.regexp().FindStringIndex(text)
	if from == nil || badName.in(text[:from[0]]+" ") || onPage.MatchString(text) && !strings.Contains(text, "file") {
		return "", span{}, false
	}
	pieces := r.toldFields(s, from[0])
	if len(pieces) == 0 || partOfField.MatchString(r.plain[s.start:pieces[0].start]) {
		return "", span{}, false
	}
	pieces = r.withLiterals(s, from[0], pieces)
	around := span{s.start, s.end}
	if i+1 < len(r.sentences) {
		around.end = r.sentences[i+1].end
	}
	sep, said := r.signSaid(around)
	if len(pieces) == 1 && !said && !r.aloneInName(s, pieces[0]) {
		return "", span{}, false
	}
	if !said {
		sep = r.signShown(around, pieces)
	}
	var out []string
	for k, p := range pieces {
		p.text = r.inCase(p, around, text)
		if p.text == "{date}" {
			p.text = r.dateAs(p, around)
		}
		switch {
		case k > 0 && strings.HasPrefix(p.text, "{date:") && strings.HasPrefix(out[len(out)-1], "{date"):
		case k > 0 && (strings.ContainsAny(p.text[:1], "_-") ||
			endsWith(out[len(out)-1], "_", "-")): // "followed by '-essay'"
			out[len(out)-1] += p.text
		default:
			out = append(out, p.text)
		}
	}
	at := span{pieces[0].start, pieces[len(pieces)-1].end}
	ending := ""
	if m := endingSaid.FindStringSubmatchIndex(r.plain[at.end:s.end]); m != nil {
		ending = r.plain[at.end+m[2] : at.end+m[3]]
	}
	return strings.Join(out, sep) + ending, at, true
}

// toldFields are the fields that a sentence names behind the word that begins a name, which may have a colon behind it.
func (r *reader) toldFields(s span, from int) (pieces []namePiece) {
	text := r.plain[s.start:s.end]
	taken := func(at span) bool {
		return slices.ContainsFunc(pieces, func(o namePiece) bool { return o.overlaps(at) })
	}
	if m := bothNames.first(r.plain, s); m != nil {
		for n := 2; n <= 4; n += 2 {
			pieces = append(pieces, namePiece{span{m[n], m[n+1]}, field(r.plain[m[n]:m[n+1]] + "name")})
		}
	}
	for _, m := range fields.regexp().FindAllStringIndex(text, -1) {
		at := span{s.start + m[0], s.start + m[1]}
		if text[m[0]:m[1]] == "title" && titled.MatchString(text[m[1]:]) || taken(at) {
			continue
		}
		if f := field(strings.ReplaceAll(text[m[0]:m[1]], "'s", "")); f != "" {
			pieces = append(pieces, namePiece{at, f})
		}
	}
	colon := strings.IndexByte(text, ':')
	if colon <= from {
		return pieces
	}
	behind := slices.DeleteFunc(slices.Clone(pieces), func(p namePiece) bool { return p.start < s.start+colon })
	if len(behind) > 1 || len(behind) == 1 && quoted.MatchString(text[colon:]) {
		return behind // "after your group: group number, underscore, 'pitch'"
	}
	return pieces
}

// withLiterals adds what stands in a name as it is told, between its fields.
func (r *reader) withLiterals(s span, from int, pieces []namePiece) []namePiece {
	original := strings.ReplaceAll(string(r.original[s.start:s.end]), "\n", " ")
	if len([]rune(original)) != len(original) {
		return pieces // offsets would not be those of the plain text
	}
	add := func(at span) {
		p := namePiece{span{s.start + at.start, s.start + at.end}, original[at.start:at.end]}
		if !slices.ContainsFunc(pieces, func(o namePiece) bool { return o.overlaps(p.span) }) &&
			!example.in(r.plain[s.start:p.start]) {
			pieces = append(pieces, p)
		}
	}
	first := pieces[0].start
	for _, m := range append(quotedSpans(original), literal.FindAllStringIndex(original, -1)...) {
		if at := s.start + m[0]; at > first-60 && at >= s.start+from && r.plain[at-1] != '(' {
			add(span{m[0], m[1]})
		}
	}
	for _, m := range append(joinedWord.FindAllStringSubmatchIndex(original, -1), signThen.FindAllStringSubmatchIndex(original, -1)...) {
		add(firstGroup(m))
	}
	slices.SortFunc(pieces, func(a, b namePiece) int { return a.start - b.start })
	return pieces
}

// aloneInName says that one field is all of a name: by what is around it.
func (r *reader) aloneInName(s span, p namePiece) bool {
	text := r.plain[s.start:s.end]
	joined := strings.HasSuffix(strings.TrimSuffix(r.plain[s.start:p.start], "your "), " and ")
	return onlyField.MatchString(text) || loneField.in(r.plain[max(s.start, p.start-12):s.end]) ||
		asName.MatchString(text) && !joined
}

// signSaid is the separator that is told in words, or shown alone in quotation marks.
func (r *reader) signSaid(around span) (sign string, said bool) {
	m := separator.first(r.plain, around)
	if m == nil {
		return "", false
	}
	switch word := r.plain[m[0]:m[1]]; {
	case group(r.plain, m, 1) != "":
		return group(r.plain, m, 1), true
	case startsWith(word, "hyphen", "dash"):
		return "-", true
	case startsWith(word, "dot", "full", "period"):
		return ".", true
	case startsWith(word, "space"):
		return " ", true
	case startsWith(word, "nothing", "without", "followed directly", "directly"):
		return "", true
	}
	return "_", true
}

// signShown is the separator that an example or the fields themselves show; an underscore, where nothing does.
func (r *reader) signShown(around span, pieces []namePiece) string {
	shown := ""
	for _, t := range r.nameTokens(around) {
		if k := strings.IndexAny(r.plain[t.start:t.end], "_-."); k > 0 && !extension.MatchString(r.plain[t.start+k:t.end]) {
			shown = r.plain[t.start+k : t.start+k+1]
			break
		}
	}
	if m := shownSign.FindStringSubmatch(r.plain[pieces[len(pieces)-1].end:around.end]); m != nil {
		shown = m[1]
	}
	if len(pieces) > 1 {
		between := r.plain[pieces[0].end:pieces[1].start]
		if sign := strings.Trim(between, " "); has(sign, "-", "_", ".") {
			return sign
		}
		if shown == "" && strings.Trim(between, " \"'") == "+" {
			return ""
		}
	}
	return cmpOr(shown, "_")
}

// inCase is a piece with the case of its letters, where that is told for all or right beside it.
func (r *reader) inCase(p namePiece, around span, text string) string {
	m := capitals.first(r.plain, around)
	if m == nil || !strings.HasPrefix(p.text, "{") || strings.Contains(p.text, ":") ||
		has(p.text, "{number}", "{date}", "{attempt}") {
		return p.text
	}
	form := ":upper}"
	if word := r.plain[m[0]:m[1]]; strings.Contains(word, "lower") || strings.Contains(word, "small") {
		form = ":lower}"
	}
	beside := m[0] >= p.end && m[0]-p.end < 14 || m[0] < p.start && p.start-m[1] < 12
	if !beside && !forAllOfIt.MatchString(text) {
		return p.text
	}
	return strings.TrimSuffix(p.text, "}") + form
}

var forAllOfIt = regexpOf(`everything|all in|whole|all lower`)

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

// loneField says that a field is all of a name.
var loneField = ways{
	rule(`^(?:.*? )?(?:by|after|with|under)? ?(?:your|the) {field}(?: as (?:its|the|their) (?:only |sole )?name|(?:,|` +
		` and)? nothing (?:else|more)| only| alone)`),
	rule(`^(?:.*? )?(?:call(?:ed)? (?:it|them) (?:by|after)|after|by) (?:your|the) {field}\W*$`),
}

// partOfField leads to a field of which only a part is meant.
var partOfField = regexpOf(`\bletters? of (?:your|the) $`)

// shownSign is the sign in an example right behind what is told: "like C-lighthouse".
var shownSign = regexpOf(`^,? \(?(?:like|e\.?g\.?,?|as in|for example,?|so) ["']?\w+([-_])\w+`)

// onPage says that a name is written on paper.
var onPage = regexpOf(`\b(?:on|in|at) (?:the|every|each|its|your) (?:top|cover|title|first|last|header|footer|page|` +
	`sheet|form|subject|corner)`)

// endingSaid is an extension that is told with the fields.
var endingSaid = regexpOf(`^,? ?(?:followed by|plus|and|\+|and then)(?: the)?(?: ending| extension|` +
	` suffix)? (\.[a-z0-9]{3,4})\b`)

var isoDate = regexpOf(`\b\d{4}-\d\d-\d\d\b|_\d{4}-\d\d-\d\d\b`)

func quotedSpans(original string) (out [][]int) {
	for _, m := range quoted.FindAllStringSubmatchIndex(original, -1) {
		out = append(out, []int{m[2], m[3]})
	}
	return out
}
