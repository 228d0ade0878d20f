package prose

import (
	"strings"
	"time"
)

// Lateness told by days and times of the calendar, not by stretches of time: "on Friday a fifth, on Saturday two fifths,
// later than that nothing".

// minutesLate is how late a mention is after the only due time, and whether it is a whole day from there on.
func (r *reader) minutesLate(m mention) (minutes float64, wholeDay, ok bool) {
	if len(r.dues) != 1 || m.overlaps(span{r.dues[0].Start, r.dues[0].End}) {
		return 0, false, false
	}
	due, err := parseWall(r.dues[0].Value.(string))
	if err != nil {
		return 0, false, false
	}
	var at time.Time
	switch {
	case m.day != nil && !m.day.event:
		date, question := m.day.settle(almanac{today: midnight(r.now), from: midnight(due)})
		if question != "" {
			return 0, false, false
		}
		at = date
	case m.relative != nil || m.day != nil:
		return 0, false, false
	default:
		at = midnight(due)
	}
	switch {
	case m.clock == nil:
		wholeDay = true
	case m.clock.bare:
		return 0, false, false
	default:
		at = at.Add(time.Duration(m.clock.h*60+m.clock.m) * time.Minute)
	}
	return at.Sub(due).Minutes(), wholeDay, true
}

// wallBounds are the stretches of lateness that days and times mark out.
func (r *reader) wallBounds(s span) (out []bound) {
	for _, m := range r.mentions {
		if m.start < s.start || m.end > s.end {
			continue
		}
		minutes, wholeDay, ok := r.minutesLate(m)
		before := r.digits[max(s.start, m.start-mostBefore):m.start]
		if from, ok := r.between(m, before); ok && !wholeDay && minutes > 0 {
			out = append(out, bound{m.span, from, minutes, false})
			continue
		}
		switch {
		case !ok || minutes+1440 <= 0 || !wholeDay && minutes < 0:
		case untilWall.MatchString(before):
			if wholeDay {
				minutes += 1440
			} else if m.clock.h == 23 && m.clock.m == 59 {
				minutes++ // midnight
			}
			out = append(out, bound{m.span, -1, minutes, false})
		case fromWall.MatchString(before):
			out = append(out, bound{m.span, max(0, minutes), -1, false})
		case wholeDay:
			from := max(0, minutes)
			if len(out) == 0 && from <= 1440 {
				from = 0 // the hours before it are not free, of which nothing is said
			}
			out = append(out, bound{m.span, from, minutes + 1440, false})
		}
	}
	return out
}

// between is how late the first of two times is: "between Tuesday noon and Wednesday noon".
func (r *reader) between(m mention, before string) (minutes float64, ok bool) {
	if !strings.HasSuffix(before, " and ") {
		return 0, false
	}
	for _, o := range r.mentions {
		if o.end+len(" and ") == m.start && strings.HasSuffix(r.digits[:o.start], "between ") {
			from, _, settled := r.minutesLate(o)
			return max(0, from), settled
		}
	}
	return 0, false
}

var (
	waits     = regexpOf(`\bwait(?:ing)? (?:until|till) $`)
	untilWall = regexpOf(`\b(?:by|until|till|up to|before|to|no later than|not later than)(?: the| end of)? $`)
	fromWall  = regexpOf(`\b(?:after|later than|from|past|since|beyond|as of)(?: the)? $`)
)

// wallLimit is up to when late work is taken, where a sentence names that time: "files are accepted until Sunday, but",
// "from Saturday on I take nothing".
func (r *reader) wallLimit(s span) (at span, closes time.Time, ok bool) {
	for _, m := range r.mentions {
		if m.start < s.start || m.end > s.end || m.role == due || m.role == opens {
			continue
		}
		minutes, wholeDay, settled := r.minutesLate(m)
		if !settled || minutes <= 0 || minutes > 60*1440 {
			continue
		}
		before, after := r.digits[max(s.start, m.start-mostBefore):m.start], r.digits[m.end:s.end]
		until := untilWall.MatchString(before) && !waits.MatchString(before) && stillOpen.in(before)
		from := fromWall.FindString(before)
		if !until && (from == "" || !takesNone.in(after)) {
			continue
		}
		due, err := parseWall(r.dues[0].Value.(string))
		if err != nil {
			return at, closes, false
		}
		switch {
		case wholeDay && (until || strings.HasPrefix(from, "after")):
			minutes += 1439
		case wholeDay:
			minutes-- // "from Saturday on": the end of the day before
		}
		return m.span, due.Add(time.Duration(minutes) * time.Minute), true
	}
	return at, closes, false
}

var (
	stillOpen = waysOf(
		`(?:{latework}|{belated}|still|also){..} (?:{taken}|open|possible|be (?:handed|turned|sent)(?: in)?)`,
		`(?:{latework}|{belated} {work}) (?:up )?(?:until|to|till|by)`,
		`(?:system|portal|box|page|folder|window|we|i|upload|site){..} (?:{taken}|open|possible)`,
	)
	takesNone = rule(`^(?: on(?:wards?)?)?,?{..} (?:{nothing}|{zero}|{refused}|{not} (?:be )?{taken}|take nothing|all of (?:them|it)|closed)\b`)
)

// pastDue says that a sentence is about what comes after the due time, which it names: "what lies in it after noon".
func (r *reader) pastDue(s span) bool {
	for _, m := range r.mentions {
		if m.start < s.start || m.end > s.end ||
			!fromWall.MatchString(r.digits[max(s.start, m.start-mostBefore):m.start]) {
			continue
		}
		if minutes, wholeDay, ok := r.minutesLate(m); ok && !wholeDay && minutes == 0 {
			return true
		}
	}
	return false
}
