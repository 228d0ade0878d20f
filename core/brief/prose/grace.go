package prose

import "strings"

// graceIn finds how late work may be without any harm, in minutes.
func (r *reader) graceIn(s span) (span, int) {
	priced := len(r.prices(s)) > 0
	for _, cue := range graceCues {
		for _, m := range cue.all(r.digits, s) {
			if ofGap.MatchString(r.digits[s.start:m[0]]) || atHour.MatchString(r.digits[s.start:m[0]]) {
				continue
			}
			if costNext.in(r.digits[m[1]:s.end]) {
				continue // "three days' leeway at 5 % a day"
			}
			if (priced || strings.HasPrefix(r.digits[m[1]:s.end], " once")) && mayBeLate.in(r.digits[m[0]:m[1]]) {
				continue // a limit, then
			}
			if minutes := minutesOf(r.digits, m, 1); minutes >= 1 {
				return span{m[0], m[1]}, int(minutes)
			}
		}
	}
	return span{}, 0
}

// ofGap says that a time is not that of a delay.
var ofGap = regexpOf(`\b(?:gaps?|breaks?|pauses?|interruptions?) (?:of )?(?:up to )?$`)

// atHour leads to a time of day: "at 20h".
var atHour = regexpOf(`\b(?:at|by|until|till|before|um|klo) $`)

// costNext says that lateness is paid for.
var costNext = rule(`^,? (?:it|which|that) (?:will |would )?costs?\b|^[^.;,]{0,30} (?:at|for|with|costing|` +
	`costs?) (?:an? )?(?:\d|{loss}|reduction|reduced|half|lower)`)

var mayBeLate = rule(`\b(?:may|can|could|(?:is|are) allowed to) (?:be|come|arrive)(?: in)?(?: up to| by)? ` + duration + ` late\b`)

// graceCues are ways to say how late work may be without any harm.
var graceCues = []pattern{
	rule(duration + `[^.;\w]{0,3}grace\b`),
	rule(duration + `'?(?: long)?(?: of)? {leeway}\b`),
	rule(`\b(` + num + `|an?) (?:free|extra|spare) (minutes?|hours?|days?)\b`),
	rule(`\b(?:{loss})\b[^.;\d]{0,20}? (?:starts?|begins?|appl(?:y|ies)|counts?|sets? in|` +
		`kicks? in)(?: only)?(?: after)? ` + duration),
	rule(`\b{noloss}\b{..} (?:in|for|during|within|up to|under|less than|not more than|no more than)(?: the first)? ` + duration),
	rule(`\bgrace(?: period| time)? \(` + duration),
	rule(duration + `\b{..} (?:granted|allowed|conceded)(?: to)? (?:all|everybody|everyone|you)\b`),
	rule(`\bcounting (?:lateness|delays?|late days)(?: only)?(?: from)? ` + duration + ` (?:past|after|later)\b`),
	rule(`\bfor ` + duration + ` (?:longer|more)\b{..} (?:on|in) time\b`),
	rule(`\b(?:on|in) time\b{..} (?:within|up to) ` + duration + ` (?:of|after|past)\b`),
	rule(duration + `(?: late| past| after)?\W{1,3}{harmless}\b`),
	rule(`\b(?:costs? nothing|free(?: of charge)?|harmless)\b{..} (?:for|in|during|within|up to)(?: the)?(?: first)? ` + duration),
	rule(`\bno (?:{loss}) (?:in|for|during|within|up to) the first ()(hour|day)\b`),
	rule(`\blooks? (?:away|elsewhere|the other way)\b[^.;\d]{0,20}? ` + duration),
	rule(duration + ` (?:past|late|later|longer|after|over)\b{..} {unminded}\b`),
	rule(`\b{harmlessdelay}{duration},? {unminded}\b`),
	rule(duration + ` (?:over|past|late) (?:is|are) {harmless}\b`),
	rule(duration + `(?: late| of delay)? (?:is|are|will be) {harmless}\b`),
	rule(`\b({num}) (?:late|free) (days?|hours?|minutes?) (?:is|are) {harmless}\b`),
	rule(`\b(?:up to|less than|under|within|not more than|no more than) {duration}(?: late| of delay|` +
		` too late)?\b{..} {harmless}\b`),
	rule(`\b(?:generous|patient|lenient|tolerant) (?:for|about|by) {duration}`),
	mayBeLate,
	rule(`\b(?:give|grant|allow|get|have|waits?|add)(?: you| everybody| everyone| them)?(?: another)? ` + duration + ` (?:more|extra|longer|on top)\b`),
	rule(duration + ` after the {deadline}{..}(?:on|in) time\b`),
	rule(`\b{leeway}(?: \w+){0,5}(?: of|{sep}) ?` + duration),
	rule(`\b(?:start|begin) (?:deducting|counting|subtracting|penali[sz]ing|to deduct|to count)(?: only)? ` + duration + ` (?:after|later)\b`),
	rule(`\blate by (?:less than|under|up to) ` + duration + `\W{1,3}{unminded}`),
	rule(`\b{not} (?:be )?(?:penali[sz]ed?|punish(?:ed)?|charged?|deduct|lose)\b[^.;\d]{0,30}? ` + duration + ` late\b`),
	rule(duration + ` in hand\b`),
	rule(`\b(?:nobody|no one)(?: is| will be| gets)? (?:punished|penali[sz]ed|charged) for (?:being |coming )?` + duration),
	rule(`\b(?:the )?first ()(hour|day)\b(?: of delay| after (?:the {deadline}|that|it))?(?: (?:is|are|costs?|goes)|` +
		`,)? (?:free|` +
		`nothing|forgiven|unpunished|not counted)\b`),
	rule(`\b(?:the )?first ()(hour|day)\b(?: of delay| after (?:the {deadline}|that|it))? (?:isn't|doesn't|` +
		`does not) count(?:ed)?\b`),
	rule(duration + ` (?:past|after) (?:midnight|noon|the (?:hour|deadline|due time)|that|due) (?:is|` +
		`are) (?:still )?(?:fine|ok|accepted)\b`),
	rule(duration[:len(duration)-2] + `(?: more)?(?: minutes?| hours?)? without (?:any )?(?:penalty|deduction|loss)\b`),
	rule(`\bup to ` + duration + ` (?:i|we) (?:do not|don't) look at the clock\b`),
	rule(`\bgrace(?: period| time)?(?: of| is|:)?(?: up to)? ` + duration),
	rule(duration + `(?: long)?(?: of)? grace\b`),
	rule(`\b(?:within|there is|there's|have|of|for) ` + duration + `[^.;]{0,25}\bgrace\b`),
	harmless,
	rule(`\b(` + num + `) (?:more|extra|further) (minutes?|hours?)\b{..} without (?:any )?{loss}\b`),
	rule(duration + ` (?:longer|more)\b{..} (?:at no cost|free of charge|for free|without {loss})\b`),
	rule(`\b(?:tolerates?|forgives?|overlooks?|allows?)(?: an?)? delays?(?: of)?(?: up to)? ` + duration),
	rule(`\b(?:we|i|you)(?:'ll|'re| will| are)? {overlook}(?: you| delays? of| up to|` +
		` about)* {duration}(?: of)?(?: (?:leeway|slack|delay|lateness|grace|late))?`),
	rule(`\b(?:won't|don't|do not|will not|not|never|nobody|no one)(?: will)? {unpunished}(?: the| your| a| an|` +
		` any)*(?: first| delays? of(?: up to| under| less than)?)? {duration}`),
}

// harmless says that so long a delay costs nothing.
var harmless = rule(`\b{harmlessdelay}?{duration}(?: \w+){0,4}? (?:(?:is|are|will be|stays?|remains?|goes?|` +
	`go) )?(?:quietly |simply |always )?{harmless}\b`)
