package prose

import (
	"math"
	"slices"
	"strings"
)

var nan = math.NaN()

// manner finds how work is sent and set: attempts, declaration, report, text layer, style and route.
func (r *reader) manner() {
	r.attempts()
	for _, s := range r.sentences {
		text := r.plain[s.start:s.end]
		if !r.has("declaration") && !declarationNo.in(text) {
			m := declaration.first(r.plain, s)
			if m == nil {
				m = declared.first(r.plain, s)
			}
			if m != nil {
				r.find("declaration", true, span{m[0], m[1]}, 0.9)
			}
		}
		if !r.has("text_layer") {
			if m := textLayer.first(r.plain, s); m != nil && !textLayerNo.in(text) {
				r.find("text_layer", true, span{m[0], m[1]}, 0.9)
			}
		}
	}
	r.report()
	r.style()
	r.routes()
}

var (
	declaration = rule(`\b(?:sign(?:ed|ing)?|tick(?:ed|ing)?|confirm(?:ed|ing|s|ation)?|stat(?:e|es|ing|ement)|declar(?:e|es|ed|` +
		`ing|ation)|certif(?:y|ies|icate)|affirm\w*|check(?:box)?|box|pledge|assert|assure|attest|promise|` +
		`accept the|agree)\b[^.;]{0,90}\b(?:(?:your|their|my|his or her|the student's) own(?: unaided|` +
		` independent)?(?: work)?|own work|unaided|academic (?:integrity|honesty)|integrity|honesty|` +
		`authorship|(?:worked|written|done|made|wrote|produced|drew|drawn|did)(?: \w+){0,4} (?:alone|independently|without help|(?:have|had) (?:had )?no help|` +
		`by yourself|yourself|(?:him|her)self|myself)|(?:nobody|no one) else(?: has| had)? (?:drew|made|wrote|did|drawn|made|written|worked|helped)|independent work|honour)\b|\b(?:integrity|honesty|own[- ]work|authorship|` +
		`honour)[- ](?:declaration|statement|pledge|form|box|code (?:box|form|statement))\b|\b(?:declaration|` +
		`statement|confirmation) (?:of|on) (?:own work|authorship|academic|independent|honesty|integrity)\b`,
	)
	declared      = rule(`\bown work\W[^.;]{0,40}\b(?:signature|signed|initials)\b`) // the words first, then the name
	declarationNo = rule(`\bno (?:declaration|statement|signature|signed)\b|\b(?:not|\w+n't) (?:need|` +
		`require)[^.;]{0,30}(?:declaration|statement)\b`,
	)
	textLayer = rule(`\b(?:searchable|selectable|machine[- ]readable|copy-?able|copiable|ocr(?:'?e?d)?|text recognition|` +
		`character recognition|recogni[sz]ed text|text layer|(?:text|words|it|sentences|` +
		`passages)[^.;]{0,40}\b(?:can|must|should|has to|be able to)\b[^.;]{0,30}\b(?:be )?(?:searched|` +
		`selected|copied|marked and copied)|(?:able to|can|must be possible to|possible to) (?:search|select|` +
		`copy|mark)[^.;]{0,25}\b(?:text|words|it|in it|sentences|passages|from it)|(?:no|not|never|\w+n't|` +
		`without)(?: \w+){0,4} (?:pictures?|images?|photos?|photographs?|screenshots?|scans?) of (?:the |` +
		`your )?(?:text|words|pages of text|print)|real text|live text|` +
		`as text[, ]+not (?:as )?(?:an? )?(?:image|picture)s?|not (?:as )?(?:an? )?(?:image|picture|scan|` +
		`photo)s?(?: of)?,? but (?:as )?(?:real )?text|text recognised)\b`,
	)
	textLayerNo = rule(`\b(?:need not|not need|n't need|not have to|n't have to|not necessar\w+)\b`)
)

func (r *reader) routes() {
	for _, route := range routes {
		for i, s := range r.sentences {
			text := r.plain[s.start:s.end]
			m := route.cue.first(r.plain, s)
			if m == nil {
				continue
			}
			clause := clauseAround(r.plain, s, m[0], m[1])
			before := r.plain[s.start:m[0]]
			if strings.HasSuffix(text, "?") || aboutHelp.MatchString(text) || routeNo.MatchString(before) ||
				routeNotAfter.MatchString(r.plain[m[1]:s.end]) || !r.leads(i) ||
				routeElse.in(clause) && !routeStrong.in(clause) || elsewhere.in(text) {
				continue
			}
			r.find("route", route.name, span{m[0], m[1]}, 0.85)
			break
		}
	}
}

// leads says that a sentence can tell where work goes: it has a verb of sending, a label for the place or a due time, or
// answers a question for the place.
func (r *reader) leads(i int) bool {
	s := r.sentences[i]
	text := r.plain[s.start:s.end]
	if routeVerb.in(text) || routeLabel.MatchString(text) {
		return true
	}
	if i > 0 {
		if q := r.sentences[i-1]; whither.in(r.plain[q.start:q.end]) {
			return true
		}
	}
	return slices.ContainsFunc(r.mentions, func(m mention) bool { return m.role == due && s.overlaps(m.span) })
}
