package prose

import (
	"slices"
	"strings"
	"time"

	"orario/core/timing"
)

const duration = `(` + num + `|half an|half|a quarter of an|quarter of an|an?)[ -]?(?:calendar |full |whole )?(minutes?|mins?|hours?|hrs?|h|days?|` +
	`weeks?|fortnights?)(?:'s|')?(?: and a half)?\b`

// late finds the late rule, the grace and the limit of lateness.
func (r *reader) late() {
	l := Late{}
	var at span
	grace := false
	var limits []limit
	about := false // the sentence before was about lateness
	none := span{-1, -1}
	lastStep := 0.0 // minutes late up to which the last step holds; 0: not said
	for _, s := range r.answered() {
		text := r.digits[s.start:s.end]
		if !lateCue.in(text) {
			about = about && len(text) < 110
			if !about || !capSentence(text) && !(fromDay.in(text) && refusedLate.in(text)) {
				continue
			}
		} else {
			about = true
		}
		if elsewhere.in(text) {
			continue
		}
		graceHere := false
		if !grace {
			if span, minutes := r.graceIn(s); minutes > 0 {
				grace, graceHere = true, true
				r.find("grace", minutes, span, 0.9)
				if thenShut.in(r.digits[span.end:s.end]) {
					limits = append(limits, limit{span, time.Duration(minutes) * time.Minute, false})
				}
			}
		}
		if l.Kind == "" || l.Kind == timing.Fixed {
			if found, where, last, ok := r.rate(s); ok {
				l, at, lastStep = found, where, last
			}
		}
		r.capIn(s, &l)
		if m := floorCue.first(r.digits, s); m != nil && l.Kind != "" {
			l.Floor = number(cmpOr(group(r.digits, m, 1), group(r.digits, m, 2)))
		}
		if l.Kind != "" && workingDay.in(text) {
			l.WeekendsFree = true
		}
		if l.Kind != "" && l.Of == "possible" && earnedCue.in(text) {
			l.Of = "earned"
		}
		if lim, ok := r.limitIn(s, &l); ok {
			limits = append(limits, lim)
		} else if l.Kind == timing.Steps && lastStep > 0 && thereafter.in(text) && noMore.in(text) {
			limits = append(limits, limit{at.and(s), time.Duration(lastStep) * time.Minute, false})
		}
		if none.start < 0 && len(limits) == 0 && !graceHere {
			if m := noneCues.first(r.digits, s); m != nil && !harmless.in(text) && !costless.in(text) && !notLate.in(text) {
				none = span{m[0], m[1]}
			}
		}
	}
	r.closings(limits)
	if l.Kind == timing.Fixed && l.Of != "points" && *l.Percent >= 100 {
		l, none = Late{}, at
	}
	if l.Kind == "" {
		for _, m := range r.mentions {
			if none.start < 0 && m.neg && len(limits) == 0 && !r.has("closes") &&
				slices.ContainsFunc(r.dues, func(d Item) bool { return m.overlaps(span{d.Start, d.End}) }) {
				none = m.sentence
			}
		}
		if none.start >= 0 && !(len(limits) > 0 || r.has("closes")) {
			r.find("late", Late{Kind: timing.NoLateWork}, none, 0.9)
		}
		return
	}
	r.find("late", l, at, 0.9)
}

// answered are the sentences, a question about late work together with its answer.
func (r *reader) answered() (list []span) {
	for i := 0; i < len(r.sentences); i++ {
		s := r.sentences[i]
		asked, _, isQuestion := strings.Cut(r.digits[s.start:s.end], "?")
		if isQuestion && lateQuestion.in(asked) && i+1 < len(r.sentences) {
			i++
			s = s.and(r.sentences[i])
		}
		list = append(list, s)
	}
	return list
}

// thenShut says what comes behind a grace.
var thenShut = rule(`\b(?:then|after that|afterwards|thereafter)\b{..} (?:closed|shut|locked|over|closes|shuts|locks)\b`)

var (
	capWords  = rule(`\b(?:more than|beyond|exceed\w*|at worst|in all|limit(?:ed)?|worst|saturdays?|at most|most|stopp?\w*|nobody|max(?:imum)?|never|capped|weekends?|below|in total|ceiling)\b`)
	elsewhere = rule(`\b(?:last (?:year|term|semester)|other courses?)\b`)
)

func capSentence(s string) bool { return capWords.in(s) }

var (
	lateWord = rule(`\b(?:late|later|afterwards|beyond (?:that|this)|lateness|latecomers?|overdue|delay(?:ed)?|after (?:the|that|due|this)|past (?:the|due|` +
		`that)|miss(?:es|ed|ing)?)\b`,
	)
	stillTaken = rule(`\b(?:still (?:submit|send|hand|upload|accept|tak)\w*|(?:next|following) day|(?:comes?|arrives?|sent|` +
		`received|accepted) (?:in )?(?:then|afterwards|in that time)|in between)\b`)
	costless  = rule(`\bnothing (?:is|will be|gets) (?:deducted|lost|taken off|subtracted)\b`)
	untilThen = regexpOf(`\b(?:or|than|whether(?: it is| that is| by)?|up to|within|by|at most|more than|less than|after|until|for) $`)
	lossCue   = rule(`{losing}`)
	capOnly   = rule(`\bcapped at\b`)
	worthCue  = rule(`\b(?:plus or minus|give or take|worth|out of|counts? for|weigh\w*|similarity|matching|overlap)\W*(?:\w+\W+)?$`)
	ofTotal   = rule(`\bof (?:the|all)(?: possible| available| total| full)?\s*$`)
)

var (
	noMore     = rule(`\b(?:0|not|none|nothing|no|never|\w+n't|refused|rejected|zero|closed)\b`)
	acceptLate = rule(`\b(?:late|lateness|delay(?:ed|s)?)\b`)
	reportCue  = rule(`\b(?:similarity|report (?:is|will|comes|takes)|feedback|marks? (?:is|are|will))\b`)
)
