package prose

import (
	"slices"
	"time"

	"orario/core/timing"
)

func (r *reader) graceIn(s span) (span, int) {
	for _, cue := range graceCues {
		for _, m := range cue.all(r.digits, s) {
			if minutes := minutesOf(r.digits, m, 1); minutes >= 1 {
				return span{m[0], m[1]}, int(minutes)
			}
		}
	}
	return span{}, 0
}

// limitSaid are ways to say up to how late work is taken, by what happens then.
var limitSaid = []pattern{
	rule(`\bafter ` + duration + `,? (?:a (?:mark|grade|score) of (?:zero|0)|(?:zero|0|no) (?:marks?|points?|credit)|nothing)\b`),
	rule(`\b(?:stays?|remains?|is kept|will be) open (?:for )?(?:a further|another|an? additional|an? extra)? ?` + duration),
	rule(`\bafter ` + duration + `,? (?:we|i) (?:do not|don't|no longer|will not|won't) (?:take|mark|accept|read|look at)\b`),
	rule(`\bafter ` + duration + `,? (?:we|i) (?:mark|count|grade) it (?:as )?(?:zero|0)\b`),
	rule(`\b(?:after|beyond) ` + duration + `,? (?:it is |they are )?not (?:accepted|taken|marked)\b`),
	rule(`\bup to ` + duration + `,? (?:then|and then|thereafter|after that) (?:zero|0|nothing)\b`),
}

// limit is up to how late work is taken.
type limit struct {
	span
	after   time.Duration
	sameDay bool
}

func (r *reader) limitIn(s span, l *Late) (limit, bool) {
	text := r.digits[s.start:s.end]
	if m := sameDay.first(r.digits, s); m != nil {
		return limit{span{m[0], m[1]}, 0, true}, true
	}
	if m := fromDay.first(r.digits, s); m != nil && refusedLate.in(text) {
		if n := ordinals[group(r.digits, m, 1)]; n > 1 {
			return limit{span{m[0], m[1]}, time.Duration(n-1) * 24 * time.Hour, false}, true
		}
	}
	for _, m := range limitRefusal.all(r.digits, s) {
		if minutes := minutesOf(r.digits, m, 1); minutes >= 30 &&
			refusedLate.in(r.digits[m[1]:s.end]+" "+r.digits[s.start:m[0]]) {
			return limit{span{m[0], m[1]}, time.Duration(minutes) * time.Minute, false}, true
		}
	}
	for _, cue := range limitSaid {
		for _, m := range cue.all(r.digits, s) {
			if minutes := minutesOf(r.digits, m, 1); minutes >= 30 {
				return limit{span{m[0], m[1]}, time.Duration(minutes) * time.Minute, false}, true
			}
		}
	}
	for i, cue := range limitCues {
		for _, m := range cue.all(r.digits, s) {
			minutes := minutesOf(r.digits, m, 1)
			if minutes < 30 || l.Kind == timing.Steps && i != 1 && i != 2 ||
				slices.ContainsFunc(
					r.found,
					func(f Item) bool { return f.Kind == "grace" && (span{f.Start, f.End}).overlaps(span{m[0], m[1]}) },
				) ||
				reportCue.in(text) {
				continue
			}
			if i == 3 && (l.Kind == "" || l.Kind == timing.Fixed) && !acceptLate.in(text) {
				continue
			}
			return limit{span{m[0], m[1]}, time.Duration(minutes) * time.Minute, false}, true
		}
	}
	return limit{}, false
}

// closings turns limits of lateness into closing times, counted from each due time.
func (r *reader) closings(limits []limit) {
	if len(limits) == 0 || r.has("closes") {
		return
	}
	for _, d := range r.dues {
		at, err := parseWall(d.Value.(string))
		if err != nil {
			continue
		}
		end := at.Add(limits[0].after)
		if limits[0].sameDay {
			end = midnight(at).Add(23*time.Hour + 59*time.Minute)
		}
		if end.After(at) {
			r.find("closes", end.Format(wallForm), limits[0].span, 0.8)
			r.found[len(r.found)-1].Zone = d.Zone
		}
	}
}

// noneCues are ways to say that late work gets nothing, by who or what comes late.
var noneCues = []pattern{
	noneCue,
	rule(`\b(?:neither|no)(?: \w+){0,2} (?:is|are) (?:accepted|taken|marked|read) late\b`),
	rule(`\blate(?:r)? (?:\w+ ){1,2}(?:is|are) (?:not|never) (?:\w+ )?(?:marked|read|accepted|taken|graded)\b`),
	rule(`\b(?:who|whoever|that|which|what) comes? (?:in )?late(?:r)?\b[^.;]{0,40}\b(?:no (?:points|marks|credit)|` +
		`zero|nothing|0)\b`),
	rule(`\blate(?:r)? \w+ (?:get|gets|receive|receives|score|scores|earn|earns) (?:no (?:points|marks|credit)|zero|` +
		`nothing|0)\b`),
	rule(`\bafter the (?:deadline|due (?:date|time))\b[^.;]{0,20}\b(?:get|receive|score|earn)s? (?:zero|nothing|0|` +
		`no (?:points|marks|credit))\b`),
}

// graceCues are ways to say how late work may be without any harm.
var graceCues = []pattern{
	rule(duration + `[^.;\w]{0,3}grace\b`),
	rule(duration + ` in hand\b`),
	rule(`\bthe first ()(hour|day)\b(?: of delay)? (?:is|are|costs?|goes) (?:free|nothing|forgiven|unpunished)\b`),
	rule(duration + ` (?:past|after) (?:midnight|noon|the (?:hour|deadline|due time)|that|due) (?:is|are) (?:still )?(?:fine|ok|accepted)\b`),
	rule(duration[:len(duration)-2] + `(?: more)?(?: minutes?| hours?)? without (?:any )?(?:penalty|deduction|loss)\b`),
	rule(`\bup to ` + duration + ` (?:i|we) (?:do not|don't) look at the clock\b`),
	rule(`\bgrace(?: period| time)?(?: of| is|:)?(?: up to)? ` + duration),
	rule(duration + `(?: long)?(?: of)? grace\b`),
	rule(`\b(?:within|there is|there's|have|of|for) ` + duration + `[^.;]{0,25}\bgrace\b`),
	harmless,
	rule(`\b(?:we|i|you)(?:'ll|'re| will| are)? (?:overlook|forgive|tolerate|ignore|allow(?:ed)?|` +
		`turn a blind eye (?:to|for)|get|have)(?: you| delays? of| up to| about)* ` + duration + `(?: of)?(?: (?:leeway|` +
		`slack|delay|lateness|grace|late))?`,
	),
	rule(`\b(?:won't|don't|do not|will not|not|never|nobody|no one)(?: will)? (?:counts?|penali[sz]es?|` +
		`punish(?:es)?|minds?|notices?|charges? for|holds?)(?: the| your| a| an| any)*(?: first|` +
		` delays? of| delay of)? ` + duration,
	),
}

// harmless says that so long a delay costs nothing.
var harmless = rule(`\b(?:the first |up to |for (?:the first )?|within |a delay of |about |another |less than |` +
	`delays? (?:of )?(?:under |up to |below )?)?` + duration + `(?: \w+){0,4}? (?:(?:is|are|will be|` +
	`stays?|remains?|goes?|go) )?(?:quietly |simply |always )?(?:overlooked|forgiven|tolerated|` +
	`ignored|fine|free(?: of charge)?|unpunished|not (?:counted|penali[sz]ed|punished|held|charged|` +
	`a problem)|without (?:penalty|deduction|loss|consequence|charge)|don't count|do not count|` +
	`doesn't (?:count|matter|cost)|does not (?:count|cost)|no (?:harm|penalty|deduction)|` +
	`costs? nothing|won't (?:count|cost|hurt|be)|counts? as (?:punctual|on time|in time)|` +
	`(?:still )?(?:on|in) time)\b`,
)
