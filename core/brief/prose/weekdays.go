package prose

import (
	"strings"
	"time"
)

func count(tok []token, i int) (int, bool) {
	if i >= len(tok) {
		return 0, false
	}
	return tok[i].count()
}

func nth(tok []token, i int) (int, bool) {
	if i >= len(tok) {
		return 0, false
	}
	if tok[i].s == "last" {
		return -1, true
	}
	if i+2 < len(tok) && tok[i+1].s == "-" {
		if n, ok := ordinals[tok[i].s+"-"+tok[i+2].s]; ok {
			return n, true
		}
	}
	return tok[i].nth()
}

func dayNumber(tok []token, i int) (int, bool) {
	if i >= len(tok) {
		return 0, false
	}
	if n, ok := tok[i].nth(); ok {
		return n, n <= 31
	}
	if tok[i].number && len(tok[i].s) <= 2 {
		n := atoi(tok[i].s)
		return n, n >= 1 && n <= 31
	}
	return 0, false
}

// fromWeekday reads a date that begins with a weekday.
func (t *text) fromWeekday(i, week int) (d day, next int, ok bool) {
	tok := t.tokens
	word := t.word
	finish := func(next int) (day, int, bool) {
		d.start, d.end = tok[i].start, tok[next-1].end
		return d, next, true
	}
	next = i + 1
	if word(next) == "." && next+1 < len(tok) && tok[next].start == tok[next-1].end && len(word(i)) <= 5 {
		next++
	}
	if _, isPart := parts[word(next)]; isPart {
		d.part = word(next)
		next++
	}
	at := next
	for has(word(at), ",", "the", "(", "on", "/") || word(at) == "-" && d.part == "" {
		at++
	}
	if nested, after, isDate := t.numeric(at, week); isDate {
		closing(tok, &after, next, at)
		d.settle, d.fixed, d.slash, d.week = nested.settle, true, nested.slash, week
		return finish(after)
	}
	if n, isDay := dayNumber(tok, at); isDay {
		k := at + 1
		if m := word(k); m == "of" {
			k++
		}
		if m := t.month(k); m != 0 {
			y, after := 0, k+1
			q := after
			if word(q) == "," {
				q++
			}
			if q < len(tok) && tok[q].number && len(tok[q].s) == 4 && fullYear(tok[q].s) > 1990 && word(q+1) != ":" &&
				!has(word(q+1), "h", "hrs", "hours") {
				y, after = fullYear(tok[q].s), q+1
			}
			closing(tok, &after, next, at)
			d.settle, d.fixed = dated(y, m, n, week), true
			return finish(after)
		}
		if tok[at].ordinal || ordinals[tok[at].s] != 0 && word(at-1) == "the" {
			d.settle = dayOfMonth(n, week)
			return finish(at + 1)
		}
	}
	if m := t.month(at); m != 0 {
		k := at + 1
		if word(k) == "." && tok[k].start == tok[k-1].end {
			k++
		}
		if word(k) == "the" {
			k++
		}
		if n, isDay := dayNumber(tok, k); isDay {
			y, after := 0, k+1
			q := after
			if word(q) == "," {
				q++
			}
			if q < len(tok) && tok[q].number && len(tok[q].s) == 4 && fullYear(tok[q].s) > 1990 && word(q+1) != ":" {
				y, after = fullYear(tok[q].s), q+1
			}
			closing(tok, &after, next, at)
			d.settle, d.fixed = dated(y, m, n, week), true
			return finish(after)
		}
	}
	switch {
	case word(next) == "week" && next+1 < len(tok) && tok[next+1].number: // Thursday, week 20
		d.event, d.settle = true, asked("When is week "+word(next+1)+"?")
		return finish(next + 2)
	case word(next) == "week": // Friday week
		d.settle = onWeekday(week, 7)
		return finish(next + 1)
	case word(next) == "after" && word(next+1) == "next":
		name := weekdayNames[week]
		d.settle = func(a almanac) (time.Time, string) {
			first := nextWeekday(a.today.AddDate(0, 0, 8), week)
			return first, "Which " + name + " is meant: " + first.Format("2 January") + " or " +
				first.AddDate(0, 0, 7).Format("2 January") + "?"
		}
		return finish(next + 2)
	case word(next) == "next" && !has(word(next+1), "to", "week"):
		d.settle = weekdayOfNextWeek(week)
		return finish(next + 1)
	case word(next) == "of" && word(next+1) == "next" && word(next+2) == "week" || word(next) == "next" &&
		word(next+1) == "week":
		d.settle = inWeek(1, week)
		return finish(next + 2 + btoi(word(next) == "of"))
	case word(next) == "of" && word(next+1) == "this" && word(next+2) == "week" || word(next) == "this" &&
		word(next+1) == "week":
		d.settle = inWeek(0, week)
		return finish(next + 2 + btoi(word(next) == "of"))
	case word(next) == "of" && has(word(next+1), "week", "reading", "exam"):
		d.event, d.settle = true, asked("Which week is meant?")
		return finish(next + 3 - btoi(next+3 > len(tok)))
	}
	d.settle = onWeekday(week, 0)
	return finish(next)
}

// bracketedWeekday says whether a token belongs to a weekday in brackets: "December 18 (Fri.), 17:00".
func (t *text) bracketedWeekday(i int) bool {
	for k := i; k > 0 && k > i-3; k-- {
		if weekdays[t.tokens[k].s] != 0 {
			return t.tokens[k-1].s == "(" && (k == i || has(t.tokens[i].s, ".", ")"))
		}
	}
	return false
}

// newLine says whether a token is the first of its line.
func (t *text) newLine(i int) bool {
	return i > 0 && i < len(t.tokens) && strings.ContainsRune(t.broken[t.tokens[i-1].end:t.tokens[i].start], '\n')
}
