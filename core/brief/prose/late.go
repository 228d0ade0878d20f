package prose

import (
	"slices"
	"strings"
	"time"

	"orario/core/timing"
)

const duration = `(` + num + `|half an|half|an?)[ -]?(?:calendar |full |whole )?(minutes?|mins?|hours?|hrs?|h|days?|` +
	`weeks?|fortnights?)(?:'s|')?(?: and a half)?\b`

// lateness gathers what the text says of work that comes late.
type lateness struct {
	*reader
	rule   Late
	at     span // of the rule
	grace  bool
	lately limit   // the grace that the sentence before told of, none where it is for no time
	limits []limit // up to how late work is taken
	upTo   float64 // minutes late up to which the price, or the last step, holds; 0: not said
	none   span    // that late work gets nothing; its end is 0 where that is not said
	about  bool    // the sentence before was about lateness
}

// late finds the late rule, the grace and the limit of lateness.
func (r *reader) late() {
	l := lateness{reader: r}
	for _, s := range r.answered() {
		if l.concerned(s) {
			l.read(s)
		}
	}
	r.closings(l.limits)
	if l.rule.Kind == timing.Fixed && l.rule.Of != "points" && *l.rule.Percent >= 100 {
		l.rule, l.none = Late{}, l.at
	}
	if l.rule.Kind != "" {
		r.find("late", l.rule, l.at, 0.9)
		return
	}
	if len(l.limits) > 0 || r.has("closes") {
		return
	}
	for _, m := range r.mentions { // "nothing is taken after 5 May"
		if l.none.end == 0 && m.neg && slices.ContainsFunc(r.dues, func(d Item) bool { return m.overlaps(span{d.Start, d.End}) }) {
			l.none = m.sentence
		}
	}
	if l.none.end > 0 {
		r.find("late", Late{Kind: timing.NoLateWork}, l.none, 0.9)
	}
}

// concerned says that a sentence is about lateness, by its words or as one that goes on with what the one before began.
func (l *lateness) concerned(s span) bool {
	text := l.digits[s.start:s.end]
	if lateCue.in(text) {
		l.about = true
		return !elsewhere.in(text)
	}
	if len(l.prices(s)) > 0 && (l.closesIn(s) || lossCue.in(text) && len(l.wallBounds(s)) > 0) {
		return !elsewhere.in(text) // "for reports that come in by Friday I give half"
	}
	l.about = l.about && len(text) < 110
	if l.about && itCosts.MatchString(text) && len(l.losses(s)) > 0 && lossCue.in(text) {
		return true // "A late film won't be shown; we subtract 5 points for it."
	}
	return l.about && !elsewhere.in(text) &&
		(limitRefusal.in(text) && refusedLate.in(text) || capSentence(text) || fromDay.in(text) && refusedLate.in(text) ||
			goesOn.MatchString(text) && noMore.in(text))
}

// itCosts says that something that was named costs something.
var itCosts = regexpOf(`\bfor (?:it|this|that|them)\b|^\W*(?:this|that|it) (?:costs?|takes?|means|is)\b`)

// goesOn begins what comes behind a price or a grace: "then 0", "after that nothing".
var goesOn = regexpOf(`^\W*(?:and )?(?:0|zero|nothing|none) (?:then|thereafter|after that|afterwards|later)\b|^\W*(?:and )?(?:then|later|after that|afterwards|thereafter)\b`)

// read takes what a sentence says of lateness.
func (l *lateness) read(s span) {
	text := l.digits[s.start:s.end]
	if l.lately.after > 0 && shutThen.MatchString(text) && len(l.prices(s)) == 0 {
		l.lately.span = l.lately.and(s) // "Six hours late is all right. Then the link dies."
		l.limits = append(l.limits, l.lately)
	}
	l.lately = limit{}
	refusal := s // where it can be said that nothing is taken late
	if !l.grace {
		span, minutes := l.graceIn(s)
		if minutes == 0 {
			span, minutes = l.graceByClock(s)
		}
		if minutes > 0 {
			l.grace, refusal.start = true, span.end
			l.find("grace", minutes, span, 0.9)
			l.lately = limit{span: span, after: time.Duration(minutes) * time.Minute}
			if thenShut.in(l.digits[span.end:s.end]) {
				l.limits = append(l.limits, limit{span, time.Duration(minutes) * time.Minute, false})
			}
		}
	}
	if l.rule.Kind == "" || l.rule.Kind == timing.Fixed {
		if found, where, last, ok := l.rate(s); ok {
			l.rule, l.at, l.upTo = found, where, last
			if found.Kind == timing.Fixed {
				l.upTo = l.holdsFor(s)
			}
		}
	}
	l.more(s)
	if lim, ok := l.limitIn(s, &l.rule); ok {
		l.limits = append(l.limits, lim)
	} else if l.upTo > 0 && thereafter.in(text) && noMore.in(text) {
		l.limits = append(l.limits, limit{l.at.and(s), time.Duration(l.upTo) * time.Minute, false})
	}
	if at, closes, ok := l.wallLimit(s); ok && !l.has("closes") {
		l.find("closes", closes.Format(wallForm), at, 0.8)
	}
	if l.none.end > 0 || len(l.limits) > 0 || l.has("closes") || harmless.in(l.digits[refusal.start:s.end]) || costless.in(text) ||
		notLate.in(text) {
		return
	}
	m := noneCues.first(l.digits, refusal)
	if m == nil && refusal != s {
		m = nothingThen.first(l.digits, refusal)
	}
	if m != nil {
		l.none = span{m[0], m[1]}
	}
}

// graceByClock is a grace that is told by its end, on the day of the only due time: "up to 18:30 there is no
// deduction".
func (r *reader) graceByClock(s span) (span, int) {
	if len(r.dues) != 1 || !unharmed.in(r.digits[s.start:s.end]) || noneTolerated.MatchString(r.digits[s.start:s.end]) {
		return span{}, 0
	}
	due, err := parseWall(r.dues[0].Value.(string))
	if err != nil {
		return span{}, 0
	}
	for _, m := range r.mentions {
		if m.sentence != s || m.clock == nil || m.day != nil || m.relative != nil && m.relative.days != 0 {
			continue
		}
		if late := m.clock.h*60 + m.clock.m - due.Hour()*60 - due.Minute(); late > 0 && late <= 6*60 {
			return m.span, late
		}
	}
	return span{}, 0
}

// shutThen says what comes behind a grace in a sentence of its own.
var shutThen = regexpOf(`^\W*(?:and )?(?:then|after that|afterwards|thereafter),? [^.;]{0,45}?\b(?:closed|shut|locked|over|` +
	`closes|shuts|locks|gone|dies|dead|vanishes|disappears)\b`)

var noneTolerated = regexpOf(`\b(?:none|not|no delay) (?:is |are )?(?:tolerated|accepted|allowed)`)

var unharmed = rule(`\b(?:{leeway}|{noloss}|{harmless}|{unminded})\b`)

// more adds to a rule that is known: the most, the least that remains, free days, and of what the price is taken.
func (l *lateness) more(s span) {
	if l.rule.Kind == "" {
		return
	}
	text := l.digits[s.start:s.end]
	l.capIn(s, &l.rule)
	if m := floorCue.first(l.digits, s); m != nil {
		l.rule.Floor = number(l.digits[firstGroup(m).start:firstGroup(m).end])
	}
	if workingDay.in(text) {
		l.rule.WeekendsFree = true
	}
	if l.rule.Of == "possible" && earnedCue.in(text) {
		l.rule.Of = "earned"
	}
}

// holdsFor is up to how many minutes late the price of a sentence holds: "within 48 hours: 25% off"; 0: that is not
// said.
func (r *reader) holdsFor(s span) float64 {
	if m := upperBound.first(r.digits, s); m != nil && group(r.digits, m, 2) != "" {
		return minutesOf(r.digits, m, 1)
	}
	return 0
}

// nothingThen says behind a grace that nothing is taken later.
var nothingThen = rule(`\band (?:no longer|not (?:a|1) (?:second|minute|moment) (?:longer|more))\b|\b(?:{nothing}|{zero}) (?:after|beyond|past|then|later)\b|\b(?:after|beyond|past) (?:that|` +
	`this|it),? (?:{nothing}|{zero})`)

// answered are the sentences, a question about late work together with its answer.
func (r *reader) answered() (list []span) {
	for i := 0; i < len(r.sentences); i++ {
		s := r.sentences[i]
		if i+1 < len(r.sentences) && strings.HasSuffix(r.digits[s.start:s.end], ";") && lateCue.in(r.digits[s.start:s.end]) &&
			ofThem.MatchString(r.digits[r.sentences[i+1].start:r.sentences[i+1].end]) {
			i++
			s = s.and(r.sentences[i]) // "late essays are taken until 5 May; their mark is lowered by 2"
		}
		asked, _, isQuestion := strings.Cut(r.digits[s.start:s.end], "?")
		if isQuestion && lateQuestion.in(asked) && i+1 < len(r.sentences) {
			i++
			s = s.and(r.sentences[i])
			for strings.HasSuffix(r.digits[s.start:s.end], ";") && i+1 < len(r.sentences) {
				i++
				s = s.and(r.sentences[i])
			}
		}
		list = append(list, s)
	}
	return list
}

// ofThem goes on about the late work that was named before.
var ofThem = regexpOf(`^(?:this|that) (?:costs?|takes?|means|is paid)\b|^(?:their|its|the) (?:marks?|grades?|points|scores?)\b|^(?:it|they|these|those) (?:los|get|` +
	`cost|count|are|is|will|earn)`)

// thenShut says what comes behind a grace.
var thenShut = rule(`\b(?:then|after that|afterwards|thereafter)\b{..} (?:closed|shut|locked|over|closes|shuts|` +
	`locks|gone)\b`)

var (
	capWords = rule(`\b(?:more than|beyond|exceed\w*|at worst|in all|limit(?:ed)?|worst|saturdays?|at most|most|` +
		`stopp?\w*|nobody|max(?:imum)?|never|capped|weekends?|below|in total|ceiling)\b`)
	elsewhere = rule(`\b(?:last (?:year|term|semester)|other courses?)\b|^\W*(?:and )?if you are (?:sick|ill|absent|away|unwell)\b`)
)

func capSentence(s string) bool { return capWords.in(s) }

var (
	lateWord   = rule(`\b{latesaid}\b`)
	stillTaken = rule(`\b(?:still (?:submit|send|hand|upload|accept|tak)\w*|(?:next|following) day|(?:comes?|arrives?|` +
		`sent|` +
		`received|accepted) (?:in )?(?:then|afterwards|in that time)|in between)\b`)
	costless  = rule(`\bnothing (?:is|will be|gets) (?:deducted|lost|taken off|subtracted)\b`)
	untilThen = regexpOf(`\b(?:or|than|whether(?: it is| it's| that is| by)?|up to|within|by|be it|at most|more than|` +
		`less than|after|until|for) $`)
	lossCue  = rule(`{losing}`)
	capOnly  = rule(`\bcapped at\b`)
	worthCue = rule(`\b(?:plus or minus|give or take|worth|out of|counts? for|weigh\w*|similarity|matching|` +
		`overlap)\W*(?:\w+\W+)?$`)
	ofTotal = rule(`\bof (?:the|all)(?: possible| available| total| full)?\s*$`)
)

var (
	noMore     = rule(`\b(?:0|fail|not|none|nothing|no|never|\w+n't|refused|rejected|zero|closed)\b`)
	acceptLate = rule(`\b(?:{belated}|lateness|delays?)\b`)
	reportCue  = rule(`\b(?:similarity|report (?:is|will|comes|takes)|feedback|marks? (?:is|are|will))\b`)
)
