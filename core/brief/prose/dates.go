package prose

import "time"

// day reads a date at a token.
func (t *text) day(i int) (d day, next int, ok bool) {
	tok := t.tokens
	word := t.word
	found := func(next int, settle func(almanac) (time.Time, string)) (day, int, bool) {
		d.settle, d.start, d.end = settle, tok[i].start, tok[next-1].end
		return d, next, true
	}
	year := func(k int) (int, int) { // an optional year
		at := k
		if word(at) == "." && tok[at].start == tok[at-1].end {
			at++
		}
		if word(at) == "," || word(at) == "of" {
			at++
		}
		if at < len(tok) && tok[at].number && !tok[at].ordinal && len(tok[at].s) == 4 &&
			fullYear(tok[at].s) > 1990 &&
			!(word(at+1) == "-" && tok[at+1].start == tok[at].end) &&
			!has(word(at+1), "h", "hrs", "hours", "words") {
			return fullYear(tok[at].s), at + 1
		}
		return 0, k
	}
	if i >= len(tok) {
		return d, i, false
	}
	if word(i) == "cob" { // close of business
		next := i + 1 + btoi(word(i+1) == "on")
		if nested, after, isDay := t.day(next); isDay {
			nested.start, nested.whole, nested.settle = tok[i].start, true, asked("At what time does business close?")
			return nested, after, true
		}
	}
	if has(word(i), "end", "close") && word(i+1) == "of" {
		return t.endOf(i)
	}
	if has(word(i), "today", "tonight") {
		if word(i) == "tonight" {
			d.part, d.whole = "tonight", true
		}
		return found(i+1, inDays(0))
	}
	if word(i) == "tomorrow" {
		next := i + 1
		if _, isPart := parts[word(next)]; isPart {
			d.part = word(next)
			next++
		}
		return found(next, inDays(1))
	}
	if word(i) == "this" && has(word(i+1), "evening", "afternoon", "morning") {
		d.part = word(i + 1)
		return found(i+2, inDays(0))
	}
	if word(i) == "day" && word(i+1) == "after" && word(i+2) == "tomorrow" {
		return found(i+3, inDays(2))
	}
	if word(i) == "in" || word(i) == "within" {
		if n, isCount := count(tok, i+1); isCount {
			if unit := singular(word(i + 2)); has(unit, "day", "week", "fortnight") &&
				!has(word(i+3), "of", "after", "before", "late", "later", "afterwards", "following", "from") {
				return found(i+3, inDays(n*daysIn(unit)))
			}
		}
		return d, i, false
	}
	if n, isCount := count(tok, i); isCount {
		if unit := singular(word(i + 1)); has(unit, "day", "week", "fortnight") {
			return t.daysFrom(i, n*daysIn(unit))
		}
	}
	if has(word(i), "week", "weeks") && i+1 < len(tok) && tok[i+1].number && !tok[i+1].ordinal {
		d.event = true
		return found(i+2, asked("When is "+t.written(span{tok[i].start, tok[i+1].end})+"?"))
	}
	if has(word(i), "next", "following") && has(word(i+1), "week", "week's") {
		at := i + 2
		for has(word(at), "on", ",") {
			at++
		}
		if week := weekdays[word(at)]; week != 0 { // next week on Friday
			if d, next, ok = t.day(at); ok && !d.fixed {
				d.settle = inWeek(1, week)
			}
			d.start = tok[i].start
			return d, next, ok
		}
	}
	if roughly, next, ok := t.roughDay(i); ok {
		d.event = true
		return found(next, asked("Which day "+t.written(span{tok[i].start, roughly})+" is meant?"))
	}
	if has(word(i), "this", "coming", "next", "following", "on") {
		at := i + 1
		if has(word(i), "this", "next") && word(at) == "coming" {
			at++
		}
		if week := weekdays[word(at)]; week != 0 && word(i) != "on" {
			d, next, ok = t.day(at)
			if !ok {
				return d, i, false
			}
			d.start = tok[i].start
			if word(i) == "next" && !d.fixed {
				d.settle = weekdayOfNextWeek(week)
				if named, after, ok := t.thatIs(next); ok {
					d.settle, d.fixed, d.end, next = named.settle, true, named.end, after
				}
			}
			return d, next, true
		}
		return d, i, false
	}
	if week := weekdays[word(i)]; week != 0 && !has(word(i-1), "a", "every", "each", "any") {
		return t.fromWeekday(i, week)
	}
	if week := shortWeekdays[word(i)]; week != 0 && i+1 < len(tok) && (tok[i+1].number || word(i+1) == ".") {
		if d, next, ok := t.fromWeekday(i, week); ok && d.fixed {
			return d, next, true // only with a whole date: most of them are words, too
		}
	}
	if n, isNth := nth(tok, i); isNth {
		if week := weekdays[word(i+1)]; week != 0 && has(word(i+2), "in", "of") {
			return t.nthOf(i, n, week)
		}
		if has(word(i), "last") && word(i+1) == "day" && word(i+2) == "of" {
			return t.endOf(i + 1)
		}
		if n < 0 {
			return d, i, false
		}
		at := i + 1
		if word(at) == "of" {
			at++
		}
		if m := t.month(at); m != 0 {
			y, next := year(at + 1)
			d.fixed = true
			return found(next, dated(y, m, n, 0))
		}
		if word(i-1) == "the" && (tok[i].ordinal || n > 3 && has(word(i-2), "by", "on", "until", "till", "before", "than") && has(word(i+1), "", ",", ".", "at")) &&
			!has(
				word(i+1),
				"attempt",
				"time",
				"question",
				"week",
				"floor",
				"edition",
				"century",
				"draft",
				"part",
				"day",
				"of",
				"lab",
				"sheet",
				"chapter",
				"hour",
			) {
			return found(i+1, dayOfMonth(n, 0))
		}
	}
	if m := t.month(i); m != 0 {
		if k := i + 1; k < len(tok) {
			if word(k) == "." && tok[k].start == tok[k-1].end {
				k++
			}
			if word(k) == "the" {
				k++
			}
			if n, isDay := dayNumber(tok, k); isDay &&
				!(word(k+1) == ":" && k+2 < len(tok) && tok[k+2].start == tok[k+1].end) {
				y, next := year(k + 1)
				d.fixed = true
				return found(next, dated(y, m, n, 0))
			}
		}
		return d, i, false
	}
	if !tok[i].number {
		return d, i, false
	}
	return t.numeric(i, 0)
}

// roughDay reads what is near a date and none: "first week of May", "mid-May", "the beginning of June".
func (t *text) roughDay(i int) (end, next int, ok bool) {
	word := t.word
	k := i
	switch {
	case has(word(i), "first", "second", "third", "last") && word(i+1) == "week" && has(word(i+2), "of", "in"),
		has(word(i), "beginning", "middle") && word(i+1) == "of":
		k = i + 2
		if has(word(k), "of", "in") {
			k++
		}
	case has(word(i), "mid", "early"):
		k = i + 1
		if word(k) == "-" {
			k++
		}
	default:
		return 0, i, false
	}
	if t.month(k) == 0 || k+1 < len(t.tokens) && t.tokens[k+1].number {
		return 0, i, false
	}
	return t.tokens[k].end, k + 1, true
}

// thatIs reads the date behind "next Wednesday, that's 6 May".
func (t *text) thatIs(i int) (d day, next int, ok bool) {
	for k := i; k < len(t.tokens) && k < i+6; k++ {
		if d, next, ok = t.day(k); ok {
			return d, next, d.fixed
		}
		if !has(t.tokens[k].s, ",", "(", "-", "that", "that's", "'", "s", "is", "i.e", ".", "i", "e", "namely", "which", "meaning", "the") {
			break
		}
	}
	return d, i, false
}

func daysIn(unit string) int { return map[string]int{"day": 1, "week": 7, "fortnight": 14}[unit] }

// month reads the name of a month; "may" and "march" only in capitals at their start, "mar" and "sun"
// likewise, since they are words.
func (t *text) month(i int) time.Month {
	if i >= len(t.tokens) {
		return 0
	}
	m := months[t.tokens[i].s]
	if m != 0 && !t.small && has(t.tokens[i].s, "may", "march", "mar", "dec", "jan") {
		if r := t.original[t.tokens[i].start]; (r < 'A' || r > 'Z') && !t.monthInSmall(i) {
			return 0
		}
	}
	return m
}

// monthInSmall says that a word in small letters is a month all the same: "fri 8 may", "due fri may 8", "by may 8".
func (t *text) monthInSmall(i int) bool {
	if i > 0 && t.tokens[i-1].number && len(t.tokens[i-1].s) < 3 && (i > 1 && weekdays[t.tokens[i-2].s] != 0 || !t.verbAt(i+1)) {
		return true
	}
	if i > 1 && t.tokens[i-1].s == "of" && (t.tokens[i-2].ordinal || ordinals[t.tokens[i-2].s] > 0 || has(t.tokens[i-2].s, "end", "monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")) {
		return true
	}
	day, isDay := dayNumber(t.tokens, i+1)
	return isDay && day > 0 && day < 32 && i > 0 && !has(t.tokens[i-1].s, "you", "we", "i", "it", "they", "that", "which", "who", "this", "each")
}

// verbAt says that a word that may be a verb is at a token, so that the "may" before it is no month: "3 may be sent".
func (t *text) verbAt(i int) bool {
	return i < len(t.tokens) && isLetter(t.tokens[i].s[0]) && !has(t.tokens[i].s, "at", "by", "on", "noon", "midnight", "midday", "before", "and", "to", "till",
		"until", "or", "in", "is", "from", "for", "the", "latest", "around", "you", "we", "i", "with", "as")
}

func btoi(b bool) int {
	if b {
		return 1
	}
	return 0
}

// written is a stretch of the text as the student reads it.
func (t *text) written(s span) string { return string(t.original[s.start:s.end]) }
