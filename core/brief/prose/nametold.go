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
	joinedWord = regexpOf(`\bthe word (\w+)|\b(?:followed by|plus|and|then) ["']?([_-]\w+)|(?:[+:]|\b(?:and|then|plus|by)) (?:the )?([A-Za-z]+\d+[a-z]?)\b|` +
		`\b([A-Za-z]\w*_)(?: |$)`)
	// signThen is one that is told behind the sign before it: "a hyphen and the sign T5".
	signThen = regexpOf(`\b(?:underscore|hyphen|dash|dot|space),? (?:and )?(?:the )?(?:sign |letters? |` +
		`code )?([A-Za-z]+\d+)\b|\b(?:number|name|code|id),? underscore,? (?:and )?(?:the word )?([a-z]{4,12})\W*$`)
	bothNames = rule(`\b(first|given|last|family)(?: name)? and (first|given|last|family) names?\b`)
	titled    = regexpOf(`^ (?:your|the|it|this)\b`)
)

// told reads a pattern that is described field by field; separators are those said or those of an example
// nearby.
func (r *reader) told(s span, i int) (string, span, bool) {
	text := r.plain[s.start:s.end]
	from := nameCue.regexp().FindStringIndex(text)
	if from == nil || badName.in(text[:from[0]]+" ") || onPage.MatchString(text) && !strings.Contains(text, "file") {
		return "", span{}, false
	}
	type piece struct {
		span
		text string
	}
	var pieces []piece
	if m := bothNames.first(r.plain, s); m != nil {
		for n := 2; n <= 4; n += 2 {
			pieces = append(pieces, piece{span{m[n], m[n+1]}, field(r.plain[m[n]:m[n+1]] + "name")})
		}
	}
	for _, m := range fields.regexp().FindAllStringIndex(text, -1) {
		at := span{s.start + m[0], s.start + m[1]}
		if text[m[0]:m[1]] == "title" && titled.MatchString(text[m[1]:]) ||
			slices.ContainsFunc(pieces, func(o piece) bool { return o.overlaps(at) }) {
			continue
		}
		if f := field(strings.ReplaceAll(text[m[0]:m[1]], "'s", "")); f != "" {
			pieces = append(pieces, piece{at, f})
		}
	}
	if colon := s.start + strings.IndexByte(text, ':'); colon > s.start && from[0] < colon-s.start { // "after your group: group number, ..."
		if behind := slices.DeleteFunc(slices.Clone(pieces), func(p piece) bool { return p.start < colon }); len(behind) > 1 || len(behind) == 1 && quoted.MatchString(text[colon-s.start:]) {
			pieces = behind
		}
	}
	if len(pieces) == 0 || partOfField.MatchString(r.plain[s.start:pieces[0].start]) {
		return "", span{}, false
	}
	original := strings.ReplaceAll(string(r.original[s.start:s.end]), "\n", " ")
	if len([]rune(original)) == len(original) {
		for _, m := range append(quotedSpans(original), literal.FindAllStringIndex(original, -1)...) {
			p := span{s.start + m[0], s.start + m[1]}
			if p.start > pieces[0].start-60 &&
				!slices.ContainsFunc(pieces, func(o piece) bool { return o.overlaps(p) }) &&
				!example.in(r.plain[s.start:p.start]) && r.plain[p.start-1] != '(' &&
				p.start >= s.start+from[0] {
				pieces = append(pieces, piece{p, original[m[0]:m[1]]})
			}
		}
	}
	if len([]rune(original)) == len(original) {
		for _, m := range append(joinedWord.FindAllStringSubmatchIndex(original, -1), signThen.FindAllStringSubmatchIndex(original, -1)...) {
			at := firstGroup(m)
			p := piece{span{s.start + at.start, s.start + at.end}, original[at.start:at.end]}
			if !slices.ContainsFunc(pieces, func(o piece) bool { return o.overlaps(p.span) }) && !example.in(r.plain[s.start:p.start]) {
				pieces = append(pieces, p)
			}
		}
	}
	slices.SortFunc(pieces, func(a, b piece) int { return a.start - b.start })
	sep, said := "_", false
	around := span{s.start, s.end}
	if i+1 < len(r.sentences) {
		around.end = r.sentences[i+1].end
	}
	if m := separator.first(r.plain, around); m != nil {
		word := r.plain[m[0]:m[1]]
		said = true
		switch {
		case group(r.plain, m, 1) != "":
			sep = group(r.plain, m, 1)
		case startsWith(word, "hyphen", "dash"):
			sep = "-"
		case startsWith(word, "dot", "full", "period"):
			sep = "."
		case startsWith(word, "space"):
			sep = " "
		case startsWith(word, "nothing", "without", "followed directly", "directly"):
			sep = ""
		}
	}
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
	if !said {
		sep = cmpOr(shown, sep)
	}
	if !said && len(pieces) > 1 {
		if sign := strings.Trim(r.plain[pieces[0].end:pieces[1].start], " "); has(sign, "-", "_", ".") {
			sep = sign
		}
	}
	if len(pieces) == 1 && !said && !onlyField.MatchString(text) && !loneField.in(r.plain[max(s.start, pieces[0].start-12):s.end]) && (!asName.MatchString(text) || strings.HasSuffix(strings.TrimSuffix(r.plain[s.start:pieces[0].start], "your "), " and ")) {
		return "", span{}, false
	}
	if !said && shown == "" && len(pieces) > 1 && strings.Trim(r.plain[pieces[0].end:pieces[1].start], " \"'") == "+" {
		sep = ""
	}
	form := ""
	if m := capitals.first(r.plain, around); m != nil {
		form = ":upper"
		if strings.Contains(r.plain[m[0]:m[1]], "lower") || strings.Contains(r.plain[m[0]:m[1]], "small") {
			form = ":lower"
		}
	}
	var out []string
	for k, p := range pieces {
		if form != "" && strings.HasPrefix(p.text, "{") && !strings.Contains(p.text, ":") &&
			!has(p.text, "{number}", "{date}", "{attempt}") {
			whole := strings.Contains(text, "everything") || strings.Contains(text, "all in") ||
				strings.Contains(text, "whole") ||
				strings.Contains(text, "all lower")
			if m := capitals.first(r.plain, around); whole ||
				m != nil && (m[0] >= p.end && m[0]-p.end < 14 || m[0] < p.start && p.start-m[1] < 12) {
				p.text = strings.TrimSuffix(p.text, "}") + form + "}"
			}
		}
		if p.text == "{date}" {
			if m := dateShape.FindString(r.plain[p.end:min(around.end, p.end+40)]); m != "" {
				p.text = "{date:" + strings.ToUpper(m) + "}"
			} else if isoDate.MatchString(r.plain[p.end:min(around.end, p.end+60)]) {
				p.text = "{date:YYYY-MM-DD}"
			}
		}
		if k > 0 && strings.HasPrefix(p.text, "{date:") && strings.HasPrefix(out[len(out)-1], "{date") {
			continue
		}
		if k > 0 && (strings.ContainsAny(p.text[:1], "_-") || strings.ContainsAny(out[len(out)-1][len(out[len(out)-1])-1:], "_-")) { // "followed by '-essay'"
			out[len(out)-1] += p.text
			continue
		}
		out = append(out, p.text)
	}
	at := span{pieces[0].start, pieces[len(pieces)-1].end}
	ending := ""
	if m := endingSaid.FindStringSubmatchIndex(r.plain[at.end:s.end]); m != nil {
		ending = r.plain[at.end+m[2] : at.end+m[3]]
	}
	return strings.Join(out, sep) + ending, at, true
}

// loneField says that a field is all of a name.
var loneField = ways{
	rule(`^(?:.*? )?(?:by|after|with|under)? ?(?:your|the) {field}(?: as (?:its|the|their) (?:only |sole )?name|(?:,| and)? nothing (?:else|more)| only| alone)`),
	rule(`^(?:.*? )?(?:call(?:ed)? (?:it|them) (?:by|after)|after|by) (?:your|the) {field}\W*$`),
}

// partOfField leads to a field of which only a part is meant.
var partOfField = regexpOf(`\bletters? of (?:your|the) $`)

// shownSign is the sign in an example right behind what is told: "like C-lighthouse".
var shownSign = regexpOf(`^,? \(?(?:like|e\.?g\.?,?|as in|for example,?|so) ["']?\w+([-_])\w+`)

// onPage says that a name is written on paper.
var onPage = regexpOf(`\b(?:on|in|at) (?:the|every|each|its|your) (?:top|cover|title|first|last|header|footer|page|sheet|form|subject|corner)`)

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
