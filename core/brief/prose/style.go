package prose

import (
	"cmp"
	"strings"
)

var (
	spacing   = rule(`\b{spacing}\b`)
	fontSize  = rule(`\b(` + num + `)[- ]?(?:pt\.?|points?)\b`)
	sizeSaid  = rule(`\b(?:font |letter )?size(?: of|:)? (\d{1,2})\b`)
	fontNames = rule(`\b({fonts})\b`)
	citations = rule(`\b(apa|mla|chicago|harvard|ieee|vancouver|turabian|ama|acs|oscola|cse|bluebook|mhra|iso 690)\b`)
	citeNear  = rule(`\b(?:cit\w*|refer\w*|style|format\w*|sources?|bibliograph\w*|guidelines|edition|manual|footnotes?|` +
		`quot\w*|author-date|notes|apa|mla|ieee|oscola|mhra)\b`,
	)
)

func (r *reader) style() {
	var st Style
	var at span
	take := func(m []int) { at = at.and(span{m[0], m[1]}) }
	for _, s := range r.sentences {
		text := r.plain[s.start:s.end]
		if m := spacing.first(r.plain, s); m != nil && st.Spacing == 0 && !styleNo(text, m[0]-s.start) {
			switch word := cmp.Or(group(r.plain, m, 1), group(r.plain, m, 2), group(r.plain, m, 3)); {
			case has(word, "double", "2", "two", "2.0"):
				st.Spacing = 2
			case has(word, "single", "1", "one", "1.0"):
				st.Spacing = 1
			default:
				st.Spacing = 1.5
			}
			take(m)
		}
		font := fontNames.first(r.plain, s)
		if font != nil && st.Font == "" &&
			!(group(r.plain, font, 1) == "times" && ((r.original[font[0]] != 'T' || r.oneCase) &&
				!bareSize.MatchString(r.digits[font[1]:s.end]) || font[0] == s.start ||
				strings.HasPrefix(r.plain[font[1]:], " are") || strings.HasPrefix(r.plain[font[1]:], " in"))) &&
			!styleNo(text, font[0]-s.start) &&
			(r.capital(font[0]) || bareSize.MatchString(r.digits[font[1]:s.end])) {
			st.Font = r.name(span{font[2], font[3]})
			take(font)
			if m := bareSize.FindStringSubmatchIndex(r.digits[font[1]:s.end]); m != nil && st.Size == 0 &&
				number(r.digits[font[1]+m[2]:font[1]+m[3]]) >= leastSize {
				st.Size = number(r.digits[font[1]+m[2] : font[1]+m[3]])
				at.end = max(at.end, font[1]+m[3])
			}
		}
		if m := fontSize.first(r.digits, s); m != nil && st.Size == 0 &&
			(font != nil || styleWord.in(text) || spacing.in(text) || sizeNear.in(text) ||
				strings.Contains(r.plain[m[0]:m[1]], "pt") && !strings.Contains(r.plain[m[0]:m[1]], "pts") &&
					number(group(r.digits, m, 1)) <= 16 && !strings.Contains(text, "worth")) {
			if v := number(group(r.digits, m, 1)); v >= leastSize && v <= 40 {
				st.Size = v
				take(m)
			}
		}
		if m := sizeSaid.first(r.digits, s); m != nil && st.Size == 0 && (font != nil || spacing.in(text) ||
			styleWord.in(text)) {
			if v := number(group(r.digits, m, 1)); v >= leastSize && v <= 40 {
				st.Size = v
				take(m)
			}
		}
		if m := citations.first(r.plain, s); m != nil && st.Citations == "" && citeNear.in(text) &&
			r.capital(m[0]) {
			st.Citations = r.name(span{m[2], m[3]})
			take(m)
		}
	}
	if at.end > 0 {
		r.find("style", st, at, 0.9)
	}
}

// leastSize is the size below which a number is none of letters.
const leastSize = 6

// bareSize is a size right behind the name of a font: "Calibri 11".
var bareSize = regexpOf(`^,? (\d{1,2}(?:\.5)?)(?:$|[ ,;.)\n](?:$|[^%\d]))`)

var sizeNear = rule(`\b(?:size|lettering|type)\b`)

// name is a proper name as the text writes it; where it writes all alike, as is usual.
func (t *text) name(s span) string {
	if !t.oneCase {
		return t.written(s)
	}
	words := strings.Fields(t.plain[s.start:s.end])
	for i, word := range words {
		if has(word, "apa", "mla", "ieee", "ama", "acs", "cse", "mhra", "oscola", "iso", "eb", "ms", "ibm") {
			words[i] = strings.ToUpper(word)
		} else {
			words[i] = strings.ToUpper(word[:1]) + word[1:]
		}
	}
	return strings.Join(words, " ")
}

func styleNo(text string, at int) bool {
	return styleDenied.MatchString(text[:at])
}

var styleDenied = regexpOf(`\b(?:no|not|\w+n't|never)\b[ \w]{0,12}$`)
