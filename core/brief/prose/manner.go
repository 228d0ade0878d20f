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
	declaration = rule(`{declaration}`)
	// the words first, then the name
	declared      = rule(`\bown work\W[^.;]{0,40}\b(?:signature|signed|initials|declared|confirmed|certified)\b`)
	declarationNo = rule(`\bno (?:declaration|statement|signature|signed)\b|\b(?:not|\w+n't) (?:need|` +
		`require)[^.;]{0,30}(?:declaration|statement)\b`,
	)
	textLayer   = rule(`\b{textlayer}\b`)
	textLayerNo = rule(`\b(?:need not|not need|n't need|not have to|n't have to|not necessar\w+)\b`)
)

func (r *reader) routes() {
	for _, route := range routes {
		for i, s := range r.sentences {
			text := r.plain[s.start:s.end]
			m := route.cue.first(r.plain, s)
			if m == nil && route.name == "folder" {
				m = folderLabel.first(r.plain, s)
			}
			if m != nil && route.name == "by_hand" && onSite.in(r.plain[m[1]:s.end]) {
				continue // "the drop box on our course site"
			}
			if m == nil || route.name == "folder" && ofSite.in(r.plain[m[1]:s.end]) {
				continue // "the folder 'Assignment 2' on the module site"
			}
			clause := clauseAround(r.plain, s, m[0], m[1])
			if route.name == "by_hand" && mailVerb.in(r.plain[s.start:m[0]]) {
				continue // "is e-mailed to the office"
			}
			before := r.plain[s.start:m[0]]
			if route.name == "site" && (notWeb.MatchString(r.plain[m[1]:s.end]) || ofPlaceSeen.MatchString(before)) || formThere.MatchString(before) || strings.HasPrefix(r.plain[m[1]:s.end], "'s") || route.name == "site" &&
				strings.HasSuffix(before, "your ") ||
				route.name == "by_hand" && addressNext.MatchString(r.plain[m[1]:s.end]) {
				continue // "to the photo desk's drive"
			}
			before = limitNo.ReplaceAllString(before, "")
			if k := strings.LastIndex(before, " - "); k >= 0 {
				before = before[k:] // "not by mail - on the course page"
			}
			if strings.HasSuffix(text, "?") || aboutHelp.MatchString(text) || inNeed.MatchString(text) ||
				routeNo.MatchString(before) ||
				notTaking(r.plain[m[1]:s.end]) || !r.leads(i) || r.otherTime(s) ||
				routeElse.in(clause) && !routeStrong.in(strings.Replace(clause, r.plain[m[0]:m[1]], "", 1)) || elsewhere.in(text) {
				continue
			}
			r.find("route", route.name, span{m[0], m[1]}, 0.85)
			break
		}
	}
}

// folderLabel is a line that names a folder.
var folderLabel = rule(`^\W*folder\b(?:{sep})`)

var onSite = rule(`^,? (?:on|in|of|at) (?:the|our|my|this) {site}\b`)

// notTaking says that what stands before is not where work goes: it is down, or not to be used. What it does not do
// with work tells of the place.
func notTaking(after string) bool {
	m := routeNotAfter.FindString(after)
	return m != "" && !itsRule.MatchString(after[len(m):])
}

var itsRule = regexpOf(`^ (?:later|more|earlier|before|after|until|allow|accept|take|let|open|support|keep|store|show)`)

// byMail begins a sentence that says nothing but the way.
var byMail = regexpOf(`^\W*on paper\b|^\W*(?:by|via|through|as an?) (?:e-?mail|mail)\b`)

// formThere leads to where something lies that is needed.
var formThere = regexpOf(`\((?:the )?(?:forms?|templates?|list|sheet|instructions)(?: is| are)? on (?:the|our) $`)

var labelAlone = regexpOf(`^\W*(?:submission|hand-?in|delivery|where|how)[.?]$`)

// addressNext is an address of mail behind the name of a place: "to the office, folio@art.example".
var addressNext = regexpOf(`^,? ?\(?[a-z0-9._-]+@`)

// inNeed begins what is done only where something goes wrong: "if it fails, mail me".
var inNeed = regexpOf(`^\W*(?:if|when|in case|should)\b[^.;,]*\b(?:fail\w*|down|problems?|trouble|ill|questions?|` +
	`unclear|stuck|broken|not work)\b`)

// limitNo denies no place: "of no more than 6 MB to the course site".
var limitNo = regexpOf(`\b(?:no|not) (?:more|larger|longer|bigger|greater|heavier|fewer|less|later|under|over|` +
	`exceed\w*)\b`)

var toSite = rule(`, (?:on|in|via|through) the (?:\w+ )?(?:page|site|portal|platform|folder|drive)\W*$|` +
	`\bto the (?:\w+ )?(?:portal|platform|site|course page)\b`)

var ofSite = rule(`^ (?:"[^"]*" )?(?:on|in|of) (?:the|our|this|my) {site}\b`)

// notWeb stands behind "site" where it is a place outside.
var notWeb = regexpOf(`^ (?:plans?|visits?|analys[ie]s|survey|maps?|models?|reports?|work|photos?|section|inspection)\b`)

// ofPlaceSeen leads to a site that is a place outside, or to what lies on one.
var ofPlaceSeen = regexpOf(`\b(?:photos?|photographs?|pictures?|maps?|plans?|models?|views?|sketch(?:es)?|drawings?|history|visits?) ` +
	`(?:of|to) (?:the|your|a|our) $|\bfiles? on the $`)

// formNamed says that a sentence is about the file that is sent: "PPTX, in the group's folder".
var formNamed = rule(`\b(?:pdf|docx|pptx|xlsx|mp3|mp4|jpe?g|png|wav|zip)\b`)

var toAddress = rule(`\bto (?:my|his|her|our|the|this)(?: \w+)? address\b`)

var mailVerb = rule(`\be-?mail(?:ed)?(?: \w+){0,2} to (?:the|my|our)? ?(?:\w+(?:'s)? )?$`)

// otherTime says that all times of a sentence are of something else than the work.
func (r *reader) otherTime(s span) bool {
	own, others := 0, 0
	for _, m := range r.mentions {
		if m.sentence == s && (m.day != nil || m.relative != nil) {
			own += btoi(m.role != other)
			others += btoi(m.role == other)
		}
	}
	return own == 0 && others > 0
}

// leads says that a sentence can tell where work goes: it has a verb of sending, a label for the place or a due time,
// or answers a question for the place.
func (r *reader) leads(i int) bool {
	s := r.sentences[i]
	text := r.plain[s.start:s.end]
	if routeVerb.in(text) || byMail.MatchString(text) || routeLabel.MatchString(text) || toAddress.in(text) ||
		toSite.in(text) || folderLabel.in(text) || formNamed.in(text) {
		return true
	}
	if i > 0 {
		if q := r.sentences[i-1]; whither.in(r.plain[q.start:q.end]) || labelAlone.MatchString(r.plain[q.start:q.end]) {
			return true
		}
	}
	return slices.ContainsFunc(r.mentions, func(m mention) bool { return m.role == due && s.overlaps(m.span) })
}
