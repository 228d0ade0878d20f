package prose

import (
	"slices"
	"time"
)

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
	word := func(k int) string {
		if k < len(t.tokens) {
			return t.tokens[k].s
		}
		return ""
	}
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
	word := func(k int) string {
		if k < len(tok) {
			return tok[k].s
		}
		return ""
	}
	at := i + 2
	if m, year, after, isMonth := t.ofMonth(at); isMonth {
		d.settle, d.start, d.end, d.whole, d.fixed = endOfMonth(
			m,
			year,
		), tok[i].start, tok[after-1].end, true, m != 0 &&
			m != 13
		return d, after, true
	}
	if word(at) == "the" {
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
	word := func(k int) string {
		if k < len(tok) {
			return tok[k].s
		}
		return ""
	}
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
	case has(word(at), "from", "on", "after"):
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
