package prose

import (
	"slices"
	"strings"
	"time"
)

// wallForm is how wall times are written.
const wallForm = "2006-01-02T15:04"

// settled is a time that has a value.
type settled struct {
	mention
	at   time.Time // the fields of the wall time, held as UTC
	full bool      // the time of day was said
}

func midnight(t time.Time) time.Time { return ymd(t.Year(), t.Month(), t.Day()) }

// times settles opens, due and closes.
func (r *reader) times() {
	today := midnight(r.now)
	order := r.slashOrder(today)
	base := almanac{today: today, from: today, order: order}
	var events []settled // dates of other things, which times may count from
	for _, m := range r.mentions {
		if m.day != nil && !m.day.event {
			if date, question := m.day.settle(base); question == "" {
				events = append(events, settled{mention: m, at: date})
			}
		}
	}
	r.datedEvents()
	r.saidAnew()
	r.weigh()
	r.untilLabels()
	r.lateEnds()
	r.hardOnly()
	r.joinTimes()
	var dues, shuts []settled
	for _, m := range r.mentions {
		if m.role == due || m.role == closes && m.day == nil && m.relative == nil {
			if s, ok := r.settle(m, base, events, dues); ok {
				dues = append(dues, s)
			}
		}
	}
	if len(dues) == 0 && !r.dueAsked() && !r.closesSaid() {
		r.promoteUnknown()
		r.joinTimes()
		for _, m := range r.mentions {
			if m.role == due {
				if s, ok := r.settle(m, base, events, dues); ok {
					dues = append(dues, s)
				}
			}
		}
	}
	if len(dues) == 0 && !r.dueAsked() { // the only end that the text names, or the first of them
		for i := range r.mentions {
			m := &r.mentions[i]
			if m.role != closes || m.day == nil && m.relative == nil ||
				lateTold.in(r.plain[m.sentence.start:m.sentence.end]) && len(r.prices(m.sentence)) > 0 {
				continue
			}
			if s, ok := r.settle(*m, base, events, dues); ok {
				m.role, s.role = due, due
				dues = append(dues, s)
				break
			}
		}
	}
	dues = r.surelyDue(r.oneDueEach(dues))
	var first, last time.Time
	for _, d := range dues {
		if first.IsZero() || d.at.Before(first) {
			first = d.at
		}
		if d.at.After(last) {
			last = d.at
		}
	}
	for _, m := range r.mentions {
		if m.role == closes && m.day == nil && m.relative == nil && m.clock != nil && !m.clock.bare && len(dues) == 1 &&
			boxShuts.in(r.plain[m.sentence.start:m.sentence.end]) {
			s := settled{mention: m, at: midnight(dues[0].at).Add(time.Duration(m.clock.h*60+m.clock.m) * time.Minute), full: true}
			shuts = append(shuts, s) // "at 2 pm I lock the folder"
		}
		if m.role != closes || m.day == nil && m.relative == nil {
			continue
		}
		a := base
		if !last.IsZero() {
			a.from = midnight(last)
			if m.clock != nil && m.day != nil &&
				time.Duration(m.clock.h*60+m.clock.m)*time.Minute <= last.Sub(midnight(last)) &&
				!m.day.fixed {
				a.from = a.from.AddDate(0, 0, 1)
			}
		}
		if s, ok := r.settle(m, a, events, append(dues, shuts...)); ok {
			if m.clock == nil && fromDayOn.MatchString(m.before) {
				s.at = midnight(s.at).Add(-time.Minute) // "from Sunday on I take nothing"
			}
			shuts = append(shuts, s)
		}
	}
	r.divide(dues)
	for _, d := range dues {
		r.time("due", d)
		r.dues = append(r.dues, r.found[len(r.found)-1])
	}
	var reported []time.Time
	for _, s := range shuts {
		repeated := slices.ContainsFunc(reported, func(o time.Time) bool {
			return s.at.Equal(o) || !s.full &&
				midnight(o).Equal(midnight(s.at))
		})
		far := !last.IsZero() && s.at.After(last.AddDate(0, 6, 0)) // it belongs to something else
		if (last.IsZero() || s.at.After(first)) && !repeated && !far &&
			!slices.ContainsFunc(dues, func(d settled) bool { return d.at.Equal(s.at) }) {
			r.time("closes", s)
			reported = append(reported, s.at)
		}
	}
	r.opening(base, events, first, dues)
	r.eventQuestions(len(dues) > 0)
}

// fromDayOn leads to the first day on which nothing is taken.
var fromDayOn = regexpOf(`\b(?:from|as of)(?: the)?\W*$`)

// opening settles when work can first be sent: the last such time before due.
func (r *reader) opening(base almanac, events []settled, first time.Time, dues []settled) {
	if !first.IsZero() {
		base.upTo = midnight(first)
	}
	for _, m := range r.mentions {
		if m.role != opens || m.day == nil && m.relative == nil {
			continue
		}
		if s, ok := r.settle(m, base, events, dues); ok && (first.IsZero() || s.at.Before(first)) &&
			s.at.After(base.today.AddDate(0, -3, 0)) { // what began long ago is something else
			if m.clock == nil && (m.day == nil || !m.day.whole) {
				s.at = midnight(s.at)
			}
			r.time("opens", s)
			return
		}
	}
}

func (r *reader) time(kind string, s settled) {
	sure := 0.95
	if !s.full {
		sure = 0.85
	}
	r.find(kind, s.at.Format(wallForm), s.span, sure)
	r.found[len(r.found)-1].Zone = s.zone
}

// settle gives a mention its wall time, or asks.
func (r *reader) settle(m mention, a almanac, events, before []settled) (s settled, ok bool) {
	s.mention = m
	var date time.Time
	clockOf := time.Duration(23*60+59) * time.Minute
	switch {
	case m.relative != nil && m.relative.event != "":
		of, found := r.event(m.relative.event, m, events)
		if !found {
			r.ask("When is the "+m.relative.event+"?", m.span)
			return s, false
		}
		date = midnight(of.at).AddDate(0, 0, m.relative.days)
		if c := of.clock; m.relative.same && c != nil && !c.bare {
			clockOf, s.full = time.Duration(c.h*60+c.m)*time.Minute, true
		}
	case m.relative != nil && m.relative.weekday < 0:
		i := slices.IndexFunc(before, func(b settled) bool { return b.start > m.start })
		if i < 0 {
			return s, false
		}
		date = nextWeekday(midnight(before[i].at).AddDate(0, 0, -7), -m.relative.weekday)
	case m.relative != nil:
		i := slices.IndexFunc(before, func(b settled) bool { return b.start < m.start })
		for k, b := range before {
			if b.start < m.start {
				i = k
			}
		}
		if i < 0 { // of nothing that is due, then of the last date before it
			before = slices.DeleteFunc(slices.Clone(events), func(e settled) bool { return e.start >= m.start })
			if i = len(before) - 1; i < 0 {
				return s, false
			}
		}
		date = midnight(before[i].at).AddDate(0, 0, m.relative.days)
		if m.relative.weekday != 0 {
			date = nextWeekday(date.AddDate(0, 0, 1), m.relative.weekday)
		}
		if m.relative.same || m.role == closes && m.clock == nil {
			switch c := before[i].clock; {
			case before[i].full:
				clockOf, s.full = before[i].at.Sub(midnight(before[i].at)), true
			case c != nil && c.bare:
				r.ask("Is that in the morning or in the evening?", c.span)
				return s, false
			case c != nil:
				clockOf, s.full = time.Duration(c.h*60+c.m)*time.Minute, true
			}
		}
		if s.zone == "" {
			s.zone = before[i].zone
		}
	case m.day != nil:
		var question string
		if date, question = m.day.settle(a); question != "" {
			if m.day.event && !eventLed.MatchString(m.before) {
				return s, false // "in the folder of week 2"
			}
			r.ask(question, m.day.span)
			return s, false
		}
	default:
		return s, false
	}
	if m.clock != nil {
		if m.clock.bare {
			r.ask("Is that in the morning or in the evening?", m.clock.span)
			return s, false
		}
		clockOf, s.full = time.Duration(m.clock.h*60+m.clock.m)*time.Minute, true
	} else if m.role != opens && m.day != nil && has(m.day.part, "morning", "afternoon", "evening") {
		r.ask("At what time in the "+m.day.part+"?", m.span)
		return s, false
	}
	s.at = date.Add(clockOf)
	return s, true
}

// event finds the date of something that the text dates elsewhere: the one that its word stands nearest to.
func (r *reader) event(word string, m mention, events []settled) (nearest settled, ok bool) {
	best := mostApart
	for _, e := range events {
		if e.span == m.span || e.role == due && ifOnly.in(e.before) || e.start > m.end && e.sentence == m.sentence &&
			atLatest.MatchString(r.plain[m.end:e.start]) {
			continue
		}
		from := max(e.sentence.start, e.start-40)
		before, after := r.plain[from:e.start], r.plain[e.end:max(e.end, min(e.sentence.end, e.end+25))]
		apart := mostApart
		if k := strings.LastIndex(before, word); k >= 0 && !(k > 0 && before[k-1] == '-') {
			apart = len(before) - k - len(word)
		} else if k := strings.Index(after, word); k >= 0 {
			apart = k
		}
		if apart < best {
			best, nearest, ok = apart, e, true
		}
	}
	return nearest, ok
}

// mostApart is more letters than stand between an event and its date.
const mostApart = 99

// atLatest leads to another date than that of an event: "four weeks after the training, at the latest on 12 June".
var atLatest = regexpOf(`\b(?:latest|however|but|later than)\b`)

// usual leads to a time that is the same each time: "as always at 23:55".
var usual = rule(`\b(?:always|usual|usually)\b`)

// unchanged says that a time holds on, whatever its day is now.
var unchanged = regexpOf(`^\W*(?:stays|remains|is unchanged|as before|holds|is the (?:hour|time))\b`)

var insteadDay = regexpOf(`^\W*(?:instead of|rather than|and not|not)(?: on)?(?: the)?\W*$`)

// forAll says that a time is that of all days before it.
var forAll = regexpOf(`\b(?:both|all|each|every|always)\b`)

// joinTimes gives a day without a time of day the time that stands alone in another place: "Friday 6
// November. Upload by 18:00."
func (r *reader) joinTimes() {
	for i := 1; i < len(r.mentions); i++ { // in one row of a list: "5 June   full paper, 17:00"
		day, c := &r.mentions[i-1], &r.mentions[i]
		if c.start < day.end {
			continue
		}
		between := r.plain[day.end:c.start]
		if day.role == due && day.day != nil && day.clock == nil && !day.day.whole && c.day == nil && c.relative == nil &&
			c.clock != nil &&
			c.role != other && day.sentence == c.sentence && !forAll.MatchString(between) && len(between) < 60 &&
			!strings.ContainsAny(between, ".;:\n") {
			day.clock, c.role = c.clock, other
		}
	}
	for i := 0; i+1 < len(r.mentions); i++ { // "on 15 May instead of 8 May, 9 pm as before"
		moved, former := &r.mentions[i], r.mentions[i+1]
		if moved.role == due && moved.day != nil && moved.clock == nil && former.clock != nil &&
			moved.sentence == former.sentence &&
			insteadDay.MatchString(r.plain[moved.end:max(moved.end, former.start)]) {
			moved.clock = former.clock
		}
	}
	var alone, open []int
	ends := slices.ContainsFunc(r.mentions, func(m mention) bool {
		return m.role == due && (m.day != nil ||
			m.relative != nil)
	})
	for i, m := range r.mentions {
		switch {
		case m.day == nil && m.relative == nil && m.clock != nil && has(roleName(m.role), "due", "unknown", "closes"):
			alone = append(alone, i)
		case (m.role == due || m.role == closes && !ends) && m.clock == nil && !(m.day != nil && m.day.whole) &&
			!(m.relative != nil && m.relative.same):
			open = append(open, i)
		}
	}
	if len(alone) != 1 || len(open) == 0 {
		return
	}
	c := r.mentions[alone[0]]
	labelled := strings.Contains(r.plain[c.sentence.start:c.start], "time") ||
		strings.Contains(r.plain[c.sentence.start:c.start], "hour") || usual.in(r.plain[c.sentence.start:c.start]) ||
		unchanged.MatchString(r.plain[min(c.end, c.sentence.end):c.sentence.end])
	if c.role == unknown && !labelled && c.sentence != r.mentions[open[0]].sentence {
		return
	}
	for _, i := range open {
		m := &r.mentions[i]
		m.clock = c.clock
		if m.zone == "" {
			m.zone = c.zone
		}
		r.mentions[alone[0]].role = other
	}
}

func roleName(r role) string {
	return []string{"unknown", "due", "opens", "closes", "until", "other"}[r]
}

func parseWall(s string) (time.Time, error) { return time.Parse(wallForm, s) }
