package prose

import (
	"cmp"
	"regexp"
	"slices"
	"strings"
)

var (
	nameCue   = rule(`\b{name}\b|\bfiles?\s*[:=]`)
	fields    = rule(`\b{field}\b`)
	extension = regexpOf(
		`^\.(?:pdf|docx?|odt|txt|md|csv|png|jpe?g|zip|mp3|mp4|wav|m4a|mov|xlsx?|pptx?|html?|rtf|heic|` +
			`py|java|cpp|c|hs|rs|go|js|ts|r|m|ipynb|tex|sql|css|json|xml|svg|stl|dxf|gpx)\b`,
	)
	example = rule(`{example}\W*(?:\w+\W+){0,2}$`)
	badName = rule(`\b(?:not|\w+n't|never)(?: \w+){0,4}\W*$|\bno (?:\w+ )*$|\bnot \W*$`)
)

// names finds patterns for file names: written out as a token, or told field by field.
func (r *reader) names() {
	var tokens []span
	for i, s := range r.sentences {
		cue := nameCue.in(r.plain[s.start:s.end])
		previous := i > 0 && nameCue.in(r.plain[r.sentences[i-1].start:r.sentences[i-1].end])
		for _, t := range r.nameTokens(s) {
			before := r.plain[s.start:t.start]
			pattern, known := r.pattern(t)
			if filled := r.lettersFilled(pattern, t); filled != pattern {
				pattern, known = filled, true
			}
			if firstNumber.MatchString(pattern) && inFront.in(before) { // "with the student number in front: 4711_map.png"
				pattern, known = firstNumber.ReplaceAllString(pattern, "{number}"), true
			}
			if numbered.MatchString(r.plain[t.end:s.end]) {
				continue // "1.txt to 4.txt"
			}
			if cue && !known && t.start > s.start && r.plain[t.start-1] == '(' && fields.in(before) {
				continue // an example of what is told before it
			}
			switch {
			case known && !cue && !previous && strings.Contains(pattern, "_"):
				tokens = append(tokens, t)
				r.addName(pattern, t)
			case known && !cue && !previous && fieldCode.MatchString(r.plain[t.start:t.end]) && r.camel(t):
				tokens = append(tokens, t)
				r.addName(pattern, t)
			case known && !cue && !previous && bracketed.MatchString(r.plain[t.start:t.end]):
				tokens = append(tokens, t)
				r.addName(pattern, t)
			case badName.in(before) && !known:
			case known && (cue || previous || strings.Count(pattern, "{") >= 2):
				if example.in(before) && len(tokens) > 0 {
					continue
				}
				tokens = append(tokens, t)
				r.addName(r.inCapitals(pattern, t, s), t)
			case !known && endsWith(r.plain[t.start:t.end], "_", "-"): // a part of one
			case !known && (fieldNext.MatchString(r.plain[t.end:s.end]) || strings.IndexByte("_-", r.plain[t.start]) >= 0):
			case !known && len(tokens) == 0 && (cue && callIt.in(before) || sendsIt.MatchString(before)) &&
				!example.in(before) &&
				!otherCalled.MatchString(before):
				tokens = append(tokens, t)
				r.addName(pattern, t)
			}
		}
		if len(tokens) == 0 && (cue || previous) {
			patterns, at := r.told(s, i)
			for _, p := range patterns {
				tokens = append(tokens, at)
				r.addName(p, at)
			}
		}
	}
}

// extended says that a name ends with a file's extension.
func (r *reader) extended(t span) bool {
	text := r.plain[t.start:t.end]
	dot := strings.LastIndexByte(text, '.')
	return dot > 0 && extension.MatchString(text[dot:])
}

// lettersFilled puts a field where a letter stands for one: "TeamN_report, N being your group number".
func (r *reader) lettersFilled(pattern string, t span) string {
	for _, m := range letterFor.all(r.plain, span{t.end, min(len(r.plain), t.end+90)}) {
		letter := strings.ToUpper(group(r.plain, m, 1))
		f := field(group(r.plain, m, 2))
		switch small := strings.ToLower(letter) + "_"; {
		case f == "":
		case strings.Contains(pattern, letter):
			pattern = strings.Replace(pattern, letter, f, 1)
		case strings.Contains(pattern, small): // "Gx_report"
			pattern = strings.Replace(pattern, small, f+"_", 1)
		}
	}
	if m := wordFor.first(r.plain, span{t.end, min(len(r.plain), t.end+120)}); m != nil {
		word := string(r.original[m[2]:m[3]])
		pattern = strings.Replace(pattern, word, field(group(r.plain, m, 2))+field(group(r.plain, m, 3)), 1)
	}
	return pattern
}

// wordFor is a word that stands for fields: "where LastF is your last name and first initial".
var wordFor = rule(`\bwhere (\w+) (?:is|stands for|means) (?:your |the )*({field})(?: and (?:your |the )?({field}))?`)

var letterFor = rule(`\b(n|nn|x|xx|xxx|y|k)(?: is| being| stands for| for|{sep})(?: the| your)*\s*({field})\b`)

// inCapitals applies "with LASTNAME in capitals" to the field that stands before it.
func (r *reader) inCapitals(pattern string, t, s span) string {
	m := capitals.first(r.plain, span{t.end, s.end})
	if m == nil {
		return pattern
	}
	form := ":upper}"
	if word := r.plain[m[0]:m[1]]; strings.Contains(word, "lower") || strings.Contains(word, "small") {
		form = ":lower}"
	}
	between := r.plain[t.end:m[0]]
	f := fields.regexp().FindString(between)
	if f == "" {
		f = joinedField.FindString(between)
	}
	if f == "" && allInOne.MatchString(between) {
		for _, name := range []string{"{family", "{given", "{title"} {
			pattern = strings.ReplaceAll(pattern, name+"}", name+form)
		}
		return pattern
	}
	if name := strings.TrimSuffix(field(f), "}"); name != "" {
		return strings.Replace(pattern, name+"}", name+form, 1)
	}
	return pattern
}

// otherCalled leads to the name of what is not sent.
var otherCalled = regexpOf(`\b(?:folder|page|course|site|book|film|template|dataset|system|exercise) (?:is|` +
	`are) (?:\w+ )*$`)

// allInOne leads from a name to how all of it is written: "surname_firstname, all in lower case".
var allInOne = regexpOf(`^,? ?\(?(?:all|everything|both|written)? ?(?:in )?$`)

// bracketed is a name with a field in brackets and an extension, which can be nothing else.
var bracketed = regexpOf(`[<\[{][a-z ]{2,30}[>\]}][^ ]*\.[a-z0-9]{3,4}$`)

// fieldNext says that more of the name is told behind a token: "A3_ and then your number".
var fieldNext = regexpOf(`^\W*(?:plus|and|then|followed by|\+)(?: then)? (?:your |the )?{field}\b`)

var (
	firstNumber = regexpOf(`^\d{4,}`)
	inFront     = rule(`\b(?:student|candidate|roll|matriculation|matric|enrol?ment|registration|exam|index) ` +
		`?(?:numbers?|no\.?|ids?) (?:in front|first|before|at the (?:start|beginning|front))`)
)

// numbered stands behind the first of several names that are counted through.
var numbered = regexpOf(`^ (?:to|-|through|until|and so on|up to|\.\.\.|…) ?\d`)

// sendsIt leads to the name of the very file.
var sendsIt = regexpOf(`\b(?:submit|upload|turn in|hand in|send)(?: (?:the|a|your) (?:single )?(?:file|archive|` +
	`zip))?:? $`)

var callIt = rule(`\b(?:(?:re)?name(?:d)?|call(?:ed)?|save(?:d)?(?: \w+){0,3} as)\b[^.;]{0,30}$`)

func (r *reader) addName(pattern string, at span) {
	if slices.ContainsFunc(r.found, func(i Item) bool { return i.Kind == "name" && i.Value == pattern }) {
		return
	}
	r.found = append(r.found, Item{Kind: "name", Value: pattern, Start: at.start, End: at.end, Sure: 0.9})
	r.taken = append(r.taken, at)
}

// pattern turns a written name into one of fields and literals; known says that it has a field.
func (r *reader) pattern(t span) (string, bool) {
	var out strings.Builder
	known := false
	plain := r.plain[t.start:t.end]
	for i := 0; i < len(plain); {
		if c := plain[i]; opensField(plain, i, 0) {
			if end := strings.IndexByte(plain[i:], closer(c)); end > 0 {
				inside := strings.Trim(plain[i+1:i+end], " ")
				if f := cmp.Or(countedField(plain[:i], inside), field(inside)); f != "" {
					out.WriteString(f)
					known = true
				} else {
					out.WriteString(string(r.original[t.start+i+1 : t.start+i+end]))
				}
				i += end + 1
				continue
			}
		}
		loc := joinedField.FindStringIndex(plain[i:])
		if loc == nil || loc[0] > 0 {
			next := len(plain)
			if loc != nil {
				next = i + loc[0]
			}
			for from := i; i < next && (i == from || !opensField(plain, i, 0)); i++ {
				out.WriteRune(r.original[t.start+i])
			}
			continue
		}
		word := plain[i : i+loc[1]]
		f := field(word)
		filled := i+loc[1] < len(plain) && strings.IndexByte("<[{", plain[i+loc[1]]) >= 0           // "group<number>"
		if n := countedBy.FindStringSubmatchIndex(plain[i+loc[1]:]); f == "{section}" && n != nil { // "GroupX"
			out.WriteString(string(r.original[t.start+i:t.start+i+loc[1]]) + f)
			known = true
			i += loc[1] + n[3]
			continue
		}
		if oneOfNames := has(word, "last", "first"); f == "" || filled || !r.boundary(t, i, loc[1]) ||
			oneOfNames && !(strings.Contains(plain, "last") && strings.Contains(plain, "first")) {
			for range loc[1] {
				out.WriteRune(r.original[t.start+i])
				i++
			}
			continue
		}
		out.WriteString(f)
		known = true
		i += loc[1]
		if i < len(plain) && isDigit(plain[i]) {
			i++ // one of two
		}
	}
	name := out.String()
	if strings.Contains(name, "{given}") { // "name_firstname"
		name = nameAlone.ReplaceAllString(name, "${1}{family}${2}")
	}
	if shape := dateShape.FindString(r.plain[t.end:min(len(r.plain), t.end+16)]); shape != "" { // "surname_date (YYYY-MM-DD)"
		name = strings.Replace(name, "{date}", "{date:"+strings.ToUpper(shape)+"}", 1)
	}
	return name, known
}

func startsWith(s string, prefixes ...string) bool {
	return slices.ContainsFunc(prefixes, func(p string) bool { return strings.HasPrefix(s, p) })
}

func endsWith(s string, suffixes ...string) bool {
	return slices.ContainsFunc(suffixes, func(p string) bool { return strings.HasSuffix(s, p) })
}

// nameAlone is a field of a pattern that says no more than name.
var nameAlone = regexp.MustCompile(`(?i)(^|[_\-. ])(?:your)?name([_\-. ]|$)`)

var (
	numberOf  = regexpOf(`^(?:number|name|letter) of (?:your|the) `)
	dateShape = regexpOf(`yyyy-?mm-?dd|yymmdd|ddmmyyyy|ddmmyy|dd-mm-yyyy`)
	asName    = regexpOf(`\bas (?:the |your |its )?file ?name\b`)
	mustHave  = regexpOf(`\b(?:must|has to|should|shall) (?:contain|include|have) (?:the |your )`)
	onlyField = regexpOf(`\b(?:named?|called?|name is|as) (?:just |only |simply |after )?(?:with )?(?:the |your )|` +
		`\bfile ?name: ?(?:just |only )?(?:the |your )|` +
		`\bonly\b.{0,40}\b(?:in|on) the file ?name`)
)
