package prose

import (
	"slices"
	"strings"
)

// datedEvents passes on what an event is for to the date that stands right behind it: "due: week 10, Friday 22 May".
func (r *reader) datedEvents() {
	for i := 1; i < len(r.mentions); i++ {
		event, dated := &r.mentions[i-1], &r.mentions[i]
		if event.day == nil || !event.day.event || dated.day == nil || dated.sentence != event.sentence ||
			strings.Trim(r.plain[event.end:max(event.end, dated.start)], " ,(:-") != "" {
			continue
		}
		if dated.role == unknown {
			dated.role = event.role
		}
		event.role = other
	}
}

// saidAnew passes what a weekday is for to the date that says it anew: "on the Sunday after the course, that is 24 May,
// by 18:00".
func (r *reader) saidAnew() {
	for i := 1; i < len(r.mentions); i++ {
		day, dated := &r.mentions[i-1], &r.mentions[i]
		if day.day == nil && day.relative == nil || day.clock != nil || dated.day == nil ||
			dated.sentence != day.sentence || dated.start < day.end ||
			!loose.MatchString(r.plain[day.start:day.end]) || !thatIs.MatchString(r.plain[day.end:dated.start]) {
			continue
		}
		if dated.role == unknown || dated.role == day.role || !firmDue.in(dated.before) && day.role == due {
			dated.role, dated.firm, dated.before = day.role, day.firm || dated.firm, day.before
			day.role = other
		}
	}
}

// loose is a day that a date may say anew.
var loose = regexpOf(`^(?:\w+day(?: week \d+)?|in \w+ (?:weeks?|days?)|\w+ (?:weeks?|days?|fortnights?) later)$`)

var thatIs = regexpOf(`^(?:'? time)?(?:, on|(?: (?:after|before|of|following) (?:the|our|` +
	`your) \w+(?: \w+)?)?[,( ]+(?:i\.?e\.?|that is|that's|namely|which is|meaning),?) ?(?:on )?(?:the )?$`)

// weigh drops what only a "by" or a period makes a due time, and nothing that is sent, where another time is said to be
// one: "I answer mails until 4 May. The essay is due on the 5th."
func (r *reader) weigh() {
	for i := range r.mentions {
		if m := &r.mentions[i]; m.role == due && !m.firm && notSending.MatchString(m.before) &&
			slices.ContainsFunc(r.mentions, func(o mention) bool { return o.role == due && !notSending.MatchString(o.before) }) {
			m.role = other // "print your poster by 18 May"
		}
	}
	firm := func(m mention) bool { return m.role == due && m.firm && !r.ofAnotherNumber(settled{mention: m}) }
	if !slices.ContainsFunc(r.mentions, firm) {
		if !slices.ContainsFunc(r.mentions, r.ofThing) {
			return
		}
		for i := range r.mentions {
			if m := &r.mentions[i]; m.role == unknown && m.day != nil && r.ofThing(*m) && !r.passed(*m) {
				m.role, m.firm = due, true
			}
		}
		if !slices.ContainsFunc(r.mentions, firm) {
			return
		}
	}
	for i := range r.mentions {
		m := &r.mentions[i]
		if m.role == due && lateGroup.in(m.before) && !m.ranged && slices.ContainsFunc(r.mentions[:i], firm) &&
			len(r.prices(m.sentence)) > 0 {
			m.role = closes // "for reports that come in by Friday I give half"
			if !weakDue.MatchString(m.before) {
				m.role = other
			}
			continue
		}
		if m.role == due && handedIn.MatchString(m.before) && getsThen.MatchString(r.plain[m.end:max(m.end, m.sentence.end)]) &&
			slices.ContainsFunc(r.mentions[:i], firm) {
			m.role = other // "handed in on the 15th it gets half the marks"
			continue
		}
		if m.role == due && ifOnly.in(m.before) && !whoseName.MatchString(m.before) &&
			slices.ContainsFunc(r.mentions, func(o mention) bool {
				return firm(o) && o.start != m.start &&
					!ifOnly.in(o.before)
			}) {
			m.role = other // "if you hand in by 1 June, you get comments"
			continue
		}
		if m.role == due && m.relative != nil && m.relative.days == 0 && m.relative.weekday == 0 && len(r.prices(m.sentence)) > 0 && slices.ContainsFunc(r.mentions[:i], firm) {
			m.role = closes // "until midnight of that day, at the price of 3 points"
			continue
		}
		if m.role != due || m.firm || m.day == nil || isThing(m.before) && !notSending.MatchString(m.before) || r.sameDay(i) {
			continue
		}
		if latestSaid.MatchString(m.before) {
			m.role = closes
			continue
		}
		if m.role = other; lateTold.in(r.plain[m.sentence.start:m.sentence.end]) && weakDue.MatchString(m.before) {
			m.role = closes // "latecomers have until 7 May"
		}
		if m.ranged {
			r.mentions[i-1].role = other
		}
	}
}

// untilLabels makes "until" the end of lateness where another label is of the due time: "Due: 6 May", "Until: 9 May".
func (r *reader) untilLabels() {
	if !slices.ContainsFunc(r.mentions, func(m mention) bool { return m.role == due && firmDue.in(m.before) }) {
		return
	}
	for i := range r.mentions {
		if m := &r.mentions[i]; m.role == due && untilLabel.MatchString(m.before) {
			m.role = closes
		}
	}
}

var untilLabel = regexpOf(`^\W*(?:until|last)\s*[:=|]\W*$`)

// lateEnds makes times at which late work is due its end, where another time is due without such words: "late hand-in
// (minus 10%): 7 May".
func (r *reader) lateEnds() {
	late := func(m mention) bool { return lateTold.in(r.plain[m.sentence.start:m.sentence.end]) }
	if !slices.ContainsFunc(r.mentions, func(m mention) bool { return m.role == due && m.firm && !late(m) }) {
		return
	}
	for i := range r.mentions {
		if m := &r.mentions[i]; m.role == due && late(*m) && lateBefore.in(m.before) {
			m.role = closes
		}
	}
}

var (
	latestSaid = regexpOf(`\bat the very latest(?: on| by)?\W*$`)
	lateTold   = rule(`\b(?:late|latecomers?|overdue|belated|comes? later)\b`)
	lateBefore = rule(`\b(?:late|latecomers?|overdue|belated|comes? later)\b[^.;]{0,50}$`)
)

var (
	handedIn = regexpOf(`^\W*(?:handed in|submitted|sent|uploaded|turned in|delivered)(?: on| by| until)?(?: the)? $`)
	getsThen = regexpOf(`^,? (?:it|they|you|a \w+|the \w+) (?:gets?|loses?|costs?|counts?|earns?|is worth|are worth)\b`)
)

// ifOnly begins what need not be.
var ifOnly = ways{
	rule(`^\W*(?:then )?(?:if|when|in case|provided)(?: that)? (?:you|it|they|your \w+|no \w+|nothing|the \w+|an? \w+)\b`),
	rule(`^\W*(?:then )?you (?:can|may|could) (?:still )?bring\b`),
	rule(`\bif you (?:hand|submit|send|upload|turn)\b[^.;]*$`),
}

var whoseName = regexpOf(`\b(?:begins?|starts?) with\b`)

// notSending begins what is done with work before it is sent.
var notSending = regexpOf(`^\W*(?:please |then )?(?:print|rehearse|discuss|choose|plan|practi[sc]e|try|borrow|test|` +
	`proofread)\b`)

// lateGroup is what comes at another time than the due one.
var lateGroup = rule(`\b(?:{work}|anything|everything|whatever|what|those)(?: {come}){1,4}(?: by| on| until| till|` +
	` up to| before| the)*\W*$`)

// sameDay says that a firm due time is on the day of another.
func (r *reader) sameDay(i int) bool {
	text := r.plain[r.mentions[i].day.start:r.mentions[i].day.end]
	return slices.ContainsFunc(r.mentions, func(m mention) bool {
		return m.role == due && m.firm && m.day != nil && r.plain[m.day.start:m.day.end] == text
	})
}

var boxShuts = rule(`\b(?:i|we) (?:lock|close|shut)|\b(?:folder|portal|page|box|upload|slot|system|` +
	`drive) (?:is (?:locked|closed|shut)|closes|locks|shuts)\b`)

// hardOnly makes hard and final deadlines due times where a text names no other.
func (r *reader) hardOnly() {
	if slices.ContainsFunc(r.mentions, func(m mention) bool { return m.role == due }) {
		return
	}
	for i := range r.mentions {
		if m := &r.mentions[i]; m.role == closes && deadlineSaid.MatchString(m.before) {
			m.role = due
		}
	}
}

var eventLed = regexpOf(`\b(?:in|by|before|until|till|due|on|end of|during|after|deadline|date|when)(?: the)?\W*$`)

var deadlineSaid = regexpOf(`\bdeadline\b[^.;]{0,12}$`)
