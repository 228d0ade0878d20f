package prose

import (
	"cmp"
	"regexp"
	"slices"
	"strings"
	"time"
)

// slashOrder is the order of day and month that any slashed date of the text settles.
func (r *reader) slashOrder(today time.Time) string {
	if r.order == nil {
		order := r.slashOrderSaid(today)
		r.order = &order
	}
	return *r.order
}

func (r *reader) slashOrderSaid(today time.Time) string {
	if m := orderSaid.FindStringSubmatch(r.plain); m != nil {
		return m[1] + m[2]
	}
	for _, m := range r.mentions {
		if m.day != nil && m.day.slash != [2]int{} {
			if order := slashOrder(
				m.day.slash[0],
				m.day.slash[1],
				0,
				m.day.week,
				almanac{today: today, from: today},
			); order != "" {
				return order
			}
		}
	}
	return ""
}

// orderSaid is the order of a date as the text gives it: "(dd/mm/yyyy)".
var orderSaid = regexpOf(`\b(d|m)[dm]?/(d|m)[dm]?/?y{0,4}\b`)

func (r *reader) dueAsked() bool {
	return slices.ContainsFunc(r.asked, func(q Question) bool {
		return slices.ContainsFunc(
			r.mentions,
			func(m mention) bool { return m.role == due && m.overlaps(span{q.Start, q.End}) },
		)
	})
}

// promoteUnknown takes a lone date whose role nothing tells for the due date.
func (r *reader) promoteUnknown() {
	var days, whole []int // with a time of day
	for i, m := range r.mentions {
		if m.role == unknown && m.day != nil {
			days = append(days, i)
			if m.clock != nil {
				whole = append(whole, i)
			}
		}
	}
	candidate := -1
	switch {
	case len(days) == 1:
		candidate = days[0]
	case len(whole) == 1:
		candidate = whole[0]
	}
	if candidate < 0 {
		if i := r.likeliest(); i >= 0 {
			r.settleOrAsk(&r.mentions[i])
			return
		}
		for _, i := range r.labelledDays() {
			r.mentions[i].role = due
		}
		for i := range r.mentions {
			if m := &r.mentions[i]; m.role == unknown && m.day != nil && r.ofThing(*m) && !r.passed(*m) {
				m.role = due
			}
		}
		return
	}
	m := &r.mentions[candidate]
	text := r.plain[m.sentence.start:m.sentence.end]
	before := r.plain[m.sentence.start:m.start]
	rest := strings.Fields(before + " " + r.plain[m.end:max(m.end, m.sentence.end)])
	switch {
	case r.ofThing(*m):
		m.role = due
	case happens.in(text) && !beforeEvent.in(text) || r.passed(*m):
	case len(rest) <= mostAround || itIs.MatchString(before) || dueCue.in(r.around(m.sentence)):
		m.role = due
	default:
		r.settleOrAsk(m)
	}
}

// settleOrAsk takes a time for the due one where its own clause says that something is wanted then, and asks else.
func (r *reader) settleOrAsk(m *mention) {
	if wantedThen.in(m.before) {
		m.role = due
		return
	}
	r.ask("The text does not say what "+r.written(m.span)+" is. Is the work due then?", m.span)
}

// ofThing says that a time stands right behind what is sent, or before it: "Essay: 12 May", "12 May: report", "the map
// (5 May)".
func (r *reader) ofThing(m mention) bool {
	lead := strings.TrimRight(m.before, " :(|-\t")
	name := lead[strings.LastIndexAny(lead, ".;,\n")+1:]
	if words := strings.Fields(name); len(words) > 0 && (len(words) < 5 || strings.Contains(name, " for ")) &&
		!happens.in(name) && (isThing(words[len(words)-1]) || partNamed.MatchString(name)) {
		return true
	}
	after, found := strings.CutPrefix(strings.TrimLeft(r.plain[min(m.end, m.sentence.end):m.sentence.end], " "), ":")
	words := strings.Fields(after)
	return found && len(words) > 0 && len(words) < 5 && isThing(words[len(words)-1]) && !happens.in(after)
}

var partNamed = regexp.MustCompile(`^\W*(?:part|stage|step|phase|task|exercise|milestone|instalment|(?:group|team|` +
	`class|section) (?:[a-h]|\d+))\b`)

// mostAround is how many words may stand around a lone date that is taken for the due date though nothing says so.
const mostAround = 5

var itIs = regexp.MustCompile(`\bit(?:'s| is| will be) *$|^\W*date\W*$`)

// happens says that a sentence is about something that takes place, or that was once.
var happens = rule(`\b(?:{event}|groups? (?:is|are)|versions? (?:of|from|by)|takes? place|published|announced|` +
	`released|` +
	`by (?:dr|prof)|(?:{place}) (?:is|stays|remains) (?:closed|open))\b`)

// beforeEvent says that something has to be done by the time of an event.
var beforeEvent = rule(`\b(?:before|by|until|till|for)(?: the| our| your| my)? {event}\b`)

// passed says that the day of a mention is over.
func (r *reader) passed(m mention) bool {
	today := midnight(r.now)
	date, question := m.day.settle(almanac{today: today, from: today, order: r.slashOrder(today)})
	return question == "" && date.Before(today)
}

// oneDueEach keeps one due time for each part: what is repeated once, what was corrected in its last
// form. Two times for the same thing are asked about.
func (r *reader) oneDueEach(dues []settled) []settled {
	for _, other := range []func(settled) bool{r.ofAnotherLabel, r.ofAnotherNumber} {
		if own := slices.DeleteFunc(slices.Clone(dues), other); len(own) > 0 {
			dues = own
		}
	}
	if near := slices.DeleteFunc(slices.Clone(dues), r.farOff); len(near) > 0 {
		dues = near
	}
	var out []settled
	for _, d := range dues {
		i := slices.IndexFunc(out, func(o settled) bool {
			return o.at.Equal(d.at) || midnight(o.at).Equal(midnight(d.at)) && (!o.full || !d.full)
		})
		switch {
		case i < 0:
			out = append(out, d)
		case d.full && !out[i].full:
			d.zone = cmp.Or(d.zone, out[i].zone)
			out[i] = d
		default:
			out[i].zone = cmp.Or(out[i].zone, d.zone)
		}
	}
	if len(out) < 2 {
		return out
	}
	for i := len(out) - 1; i >= 0; i-- {
		if s := out[i].sentence; movedCue.in(r.plain[s.start:s.end]) {
			if partner := slices.IndexFunc(
				out,
				func(o settled) bool { return o.sentence == s && o.start < out[i].start },
			); partner >= 0 ||
				len(out) == 2 {
				return []settled{out[i]}
			}
		}
	}
	if out[0].sentence == out[1].sentence {
		return out
	}
	if len(out) == 2 && midnight(out[0].at).Equal(midnight(out[1].at)) && !r.headedApart(out) {
		r.ask("The text names two times on that day; which holds?", out[1].span)
		return nil
	}
	if own := slices.DeleteFunc(slices.Clone(out), func(d settled) bool { return !r.rowOf(d) }); len(own) == 1 {
		return own // of a calendar the row of this work
	}
	if final := slices.DeleteFunc(slices.Clone(out), func(d settled) bool { return ofDraft.in(d.before) }); len(final) == 1 {
		return final // "your second draft is to be here by 5 May, the final version is due on the 26th"
	}
	labels, of := map[string]bool{}, map[int]string{}
	for _, d := range out {
		of[d.start] = label(d.before)
		if after := r.plain[min(d.end, d.sentence.end):d.sentence.end]; of[d.start] == "" && strings.HasPrefix(after, ":") {
			of[d.start] = label(after) // "by 5 May: the map"
		}
		labels[of[d.start]] = true
	}
	if len(labels) == len(out) && !labels[""] {
		return out
	}
	if len(labels) >= 2 {
		parts := out[:0:0]
		for _, d := range out {
			if of[d.start] != "" {
				parts = append(parts, d)
			}
		}
		if len(parts) >= 2 {
			return parts
		}
	}
	if r.headedApart(out) {
		return out
	}
	r.ask("The text names two due times; which holds?", out[1].span)
	return nil
}

// ofAnotherLabel says that a time stands behind a label of its own that names no work and no due time, and that nothing
// but a "by" makes it one: "Travel claims: by the end of the month".
func (r *reader) ofAnotherLabel(d settled) bool {
	before := r.plain[d.sentence.start:d.start]
	label, rest, ok := strings.Cut(before, ":")
	return ok && len(label) < 40 && len(rest) < 20 && !dueCue.in(before) && weakDue.MatchString(before) &&
		!isThing(label) && !numberedWork.MatchString(label) &&
		!partHeading.MatchString(label) && !ownLabel.in(label)
}

// farOff says that a date without a year is over, so that it would be next year's.
func (r *reader) farOff(d settled) bool {
	return d.at.After(r.now.AddDate(0, 8, 0)) && !strings.Contains(r.plain[d.start:d.end], d.at.Format("2006"))
}

// ofAnotherNumber says that a time is that of a numbered piece of work of which the text's first sentence does not
// speak, as "Diary 3 is due on 1 June" where another due time has no number.
func (r *reader) ofAnotherNumber(d settled) bool {
	m := numberedDue.FindStringSubmatch(d.before)
	return m != nil && !partHeading.MatchString(m[1]) && months[m[1]] == 0 && weekdays[m[1]] == 0 &&
		!strings.Contains(r.plain[r.sentences[0].start:r.sentences[0].end], m[1]+" "+m[2])
}

var numberedDue = regexp.MustCompile(`(?:^|[.;,:] ?|\bthe )([a-z]{4,}) #?(\d{1,2}) (?:is|are|will be|has to be|` +
	`must be|follows)\b[^.;]*$`)

var ownLabel = rule(`\b(?:{work}|when|date|time|final|full|both|all|everything|how|where)\b`)

// rowOf says whether a due time's sentence names the piece of work, with its number, that the text's head does.
func (r *reader) rowOf(d settled) bool {
	row := r.plain[d.sentence.start:d.sentence.end]
	return d.start > len(r.head()) && slices.ContainsFunc(numberedWork.FindAllString(r.head(), -1), func(work string) bool {
		return strings.Contains(row, work)
	})
}

var ofDraft = rule(`\b(?:drafts?|preliminary versions?)\b`)

// partHeading is the line that heads a part: "Part B: Pitch deck", "Step two, the poster", "2. Report".
var partHeading = regexp.MustCompile(
	`^\W*(?:(?:part|stage|step|phase|section|deliverable|task|exercise|milestone|component|round|piece|item|unit)\b|` +
		`(?:[a-f]|[1-9]|i{1,3}|iv|v)[.):])`,
)

// headedApart says whether each of several times stands under a heading of its own, so that they are due times of
// parts.
func (r *reader) headedApart(list []settled) bool {
	seen := map[int]bool{}
	for _, d := range list {
		at := r.heading(d.start)
		if at < 0 || seen[at] {
			return false
		}
		seen[at] = true
	}
	return true
}

// heading is where the line begins that heads the part in which an offset lies; -1 where none does.
func (r *reader) heading(at int) int {
	for end := at; end >= 0; {
		begin := strings.LastIndexByte(r.broken[:end], '\n') + 1
		line := strings.TrimSpace(r.plain[begin:end])
		if begin < at && len(line) < 80 && partHeading.MatchString(line) && (end < at || !strings.Contains(line, ". ")) {
			return begin
		}
		end = begin - 1
	}
	return -1
}

var (
	// beforeSlot is some time before what each student has at an hour of her own.
	beforeSlot = rule(`\b{num} (?:hours?|days?|minutes?|weeks?) (?:before|ahead of|prior to|in advance of) (?:your|the|` +
		`each|our) (?:own )?(slot|appointment|turn|{event})\b`)
	classTime = rule(`\b{classtime}(?: (?:the|our|your|each|next|my|this))*(?: (?:next|first|last|following|` +
		`coming))? (class|lecture|seminar|tutorial|session|lab session|practical|lesson|exam|meeting|period)\b`)
)

// eventQuestions asks where due hangs on something that the text does not date.
func (r *reader) eventQuestions(known bool) {
	if known || r.dueAsked() {
		return
	}
	for _, s := range r.sentences {
		if m := beforeSlot.first(r.digits, s); m != nil && (dueCue.in(r.plain[s.start:m[0]]) ||
			isThing(r.plain[s.start:m[0]])) {
			r.ask("When is the "+group(r.plain, m, 1)+"?", span{m[0], m[1]})
			return
		}
		m := classTime.first(r.plain, s)
		if m == nil {
			continue
		}
		before := r.plain[s.start:m[0]]
		if dueCue.in(before) && !wrongCue.in(before) && !elseCue.in(before) || dueCue.in(r.plain[m[1]:s.end]) {
			r.ask("When is the "+group(r.plain, m, 1)+"?", span{m[0], m[1]})
			return
		}
	}
}
