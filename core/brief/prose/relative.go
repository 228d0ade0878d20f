package prose

import (
	"slices"
	"time"
)

// relative is a number of days after another date of the text: of an event, or the last one named.
type relative struct {
	days    int
	event   string // a word to find it by, or "" for the last date
	same    bool   // at the same time of day
	weekday int    // the first such day after that, or, negative, the last before the date that follows in the text; 0 for none
}

// relative reads "a week later, same time", "two days after the tour", "the day after the tour".
func (t *text) relative(i int) (r *relative, next int, ok bool) {
	tok := t.tokens
	word := t.word
	days, at, hours := 0, 0, false
	n, isCount := count(tok, i)
	switch {
	case isCount && has(singular(word(i+1)), "day", "week", "fortnight"):
		days, at = n*daysIn(singular(word(i+1))), i+2
	case isCount && n%24 == 0 && n > 0 && singular(word(i+1)) == "hour":
		days, at, hours = n/24, i+2, true
	case word(i) == "the" && weekdays[word(i+1)] != 0 && has(word(i+2), "after", "following") && has(word(i+3), ",", ".", "", ";", "at", "by", "("):
		next = t.sameHour(i + 3)
		return &relative{weekday: weekdays[word(i+1)], same: next > i+3}, next, true
	case word(i) == "the" && weekdays[word(i+1)] != 0 && word(i+2) == "before" && has(word(i+3), ",", ".", "", ";", "at", "by", "("):
		return &relative{weekday: -weekdays[word(i+1)]}, i + 3, true
	case word(i) == "the" && word(i+1) == "day" && word(i+2) == "after" && has(word(i+3), ",", ".", "", ";", "at", "by", "("):
		return &relative{days: 1}, i + 3, true
	case word(i) == "the" && word(i+1) == "day" && word(i+2) == "after" && word(i+3) != "tomorrow":
		days, at = 1, i+2
	case word(i) == "the" && has(word(i+1), "following", "next") && has(word(i+2), "day", "week"):
		return &relative{days: daysIn(word(i + 2))}, i + 3, true
	case has(word(i), "same", "that") && word(i+1) == "day":
		return &relative{}, i + 2, true
	default:
		return nil, i, false
	}
	r = &relative{days: days, same: hours}
	if (word(i-1) == "have" || word(i-2) == "have" && has(word(i-1), "exactly", "just", "only", "then")) &&
		has(word(at), ",", ".", ";", "", "to", "and") {
		r.same = true
		return r, at, true // "the questions go up on 7 May at 9:00, and you have 48 hours"
	}
	switch {
	case has(word(at), "before", "earlier") && has(word(at+1), ",", ".", "", ";", "at") && isCount:
		r.days, next = -days, at+1
	case has(word(at), "later", "afterwards") && word(at+1) != "than":
		next = at + 1
	case word(at) == "after", word(at) == "before" && isCount, has(word(at), "of", "following") && word(i-1) == "within":
		if word(at) == "before" {
			r.days = -days
		}
		k := at + 1
		if has(word(k), "that", "this") && has(word(k+1), ",", ".", "") {
			next = k + 1
			break
		}
		for has(word(k), "the", "your", "our", "that", "this", "each", "its") {
			k++
		}
		if k >= len(tok) || tok[k].number ||
			has(
				word(k),
				"due",
				"deadline",
				"that",
				"it",
				"this",
				"submission",
				"which",
				"closing",
				"closes",
				"date",
				".",
				",",
				"you",
				"we",
			) ||
			weekdays[word(k)] != 0 ||
			months[word(k)] != 0 {
			return nil, i, false
		}
		if has(word(k), "end", "start", "beginning", "completion") && word(k+1) == "of" {
			for k += 2; has(word(k), "the", "your", "our"); k++ {
			}
			if k >= len(tok) {
				return nil, i, false
			}
		}
		for after := k + 1; after < len(tok) && after < k+3 && isLetter(tok[after].s[0]) &&
			!has(word(after), "at", "by", "on", "is", "and", "or", "in", "has", "you", "we", "please", "if", "when", "unless"); after++ {
			k = after
		}
		r.event, next = word(k), k+1
	default:
		return nil, i, false
	}
	if then := t.sameHour(next); then > next {
		r.same, next = true, then
	}
	return r, next, true
}

// closing takes a bracket along that was opened before a date.
func closing(tok []token, after *int, from, to int) {
	for k := from; k < to; k++ {
		if tok[k].s == "(" && *after < len(tok) && tok[*after].s == ")" {
			*after++
		}
	}
}

// nthOf reads "second Monday in May", "last Thursday of the month".
func (t *text) nthOf(i, n, week int) (d day, next int, ok bool) {
	month, year, next, ok := t.ofMonth(i + 3)
	if !ok {
		return d, i, false
	}
	d.settle, d.start, d.end, d.fixed = nthWeekday(n, week, month, year), t.tokens[i].start, t.tokens[next-1].end, true
	return d, next, true
}

// ofMonth reads a month by name, or this or the next one.
func (t *text) ofMonth(i int) (m time.Month, year, next int, ok bool) {
	word := t.word
	if m = t.month(i); m != 0 {
		next = i + 1
		if next < len(t.tokens) && t.tokens[next].number && len(word(next)) == 4 && fullYear(word(next)) > 1990 {
			return m, fullYear(word(next)), next + 1, true
		}
		return m, 0, next, true
	}
	at := i
	if word(at) == "the" {
		at++
	}
	switch {
	case word(at) == "month":
		return 0, 0, at + 1, true
	case has(word(at), "this", "current") && word(at+1) == "month":
		return 0, 0, at + 2, true
	case has(word(at), "next", "following", "coming") && word(at+1) == "month":
		return 13, 0, at + 2, true
	}
	return 0, 0, i, false
}

// endOf reads "end of Friday", "end of the month", "close of business on Friday"; and "day of the month"
// of the last day.
func (t *text) endOf(i int) (d day, next int, ok bool) {
	tok := t.tokens
	word := t.word
	at := i + 2
	if m, year, after, isMonth := t.ofMonth(at); isMonth {
		d.settle, d.start, d.end, d.whole, d.fixed = endOfMonth(
			m,
			year,
		), tok[i].start, tok[after-1].end, true, m != 0 &&
			m != 13
		return d, after, true
	}
	if has(word(at), "the", "this", "next") && (word(at) == "the" || word(at+1) == "week") {
		at++
	}
	if has(word(at), "day", "business", "play") {
		at++
		business := word(at-1) == "business"
		for has(word(at), "on", ",", "day") {
			at++
		}
		if nested, after, isDay := t.day(at); isDay {
			nested.start, nested.whole = tok[i].start, true
			if business {
				nested.settle = asked("At what time does business close?")
			}
			return nested, after, true
		}
		return d, i, false
	}
	if has(
		word(at),
		"week",
		"term",
		"semester",
		"module",
		"course",
		"year",
		"lesson",
		"class",
		"lecture",
		"session",
		"seminar",
		"tutorial",
	) {
		d.event, d.settle, d.start, d.end = true, asked(
			"When is the end of the "+word(at)+"?",
		), tok[i].start, tok[at].end
		return d, at + 1, true
	}
	if nested, after, isDay := t.day(at); isDay {
		nested.start, nested.whole = tok[i].start, true
		return nested, after, true
	}
	return d, i, false
}

// daysFrom reads "a week from Friday", "two weeks from today", "a fortnight today", "ten days from now",
// "two days after the tour".
func (t *text) daysFrom(i, days int) (d day, next int, ok bool) {
	tok := t.tokens
	word := t.word
	at := i + 2
	switch {
	case has(word(at), "later", "afterwards") && !has(word(at-2), "each"):
		return d, i, false // relative to a date of the text: see [text.mentions]
	case has(word(at), "from", "on", "after") && has(word(at+1), "now", "today"):
		at++
		fallthrough
	case has(word(at), "today", "tomorrow"):
		n := days
		if word(at) == "tomorrow" {
			n++
		}
		d.settle, d.start, d.end = inDays(n), tok[i].start, tok[at].end
		return d, at + 1, true
	case has(word(at), "from", "on", "after") || word(at) == "this" && weekdays[word(at+1)] != 0: // a week this Friday
		if has(word(at+1), "this", "next", "coming") || weekdays[word(at+1)] != 0 || word(at+1) == "tomorrow" ||
			t.month(at+1) != 0 ||
			at+1 < len(tok) && tok[at+1].number {
			if nested, after, isDay := t.day(at + 1); isDay {
				if slices.ContainsFunc(tok[at+1:after], func(k token) bool { return k.s == "(" }) {
					days = 0 // "a week on Friday (8 May)": the date in brackets is the one meant
				}
				settle := nested.settle
				nested.settle = func(a almanac) (time.Time, string) {
					date, question := settle(almanac{today: a.today, from: a.today, order: a.order})
					return date.AddDate(0, 0, days), question
				}
				nested.start = tok[i].start
				return nested, after, true
			}
		}
	}
	return d, i, false
}

// sameHour reads "same time" behind a day, and says where it goes on; without it, at i.
func (t *text) sameHour(i int) int {
	k := i
	for k < len(t.tokens) && has(t.tokens[k].s, ",", "at", "the", "(", "and") {
		k++
	}
	if k+1 < len(t.tokens) && t.tokens[k].s == "same" && has(t.tokens[k+1].s, "time", "hour") {
		return k + 2
	}
	return i
}
