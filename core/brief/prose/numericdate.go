package prose

import "time"

// numeric reads a date that begins with a number.
func (t *text) numeric(i, week int) (d day, next int, ok bool) {
	tok := t.tokens
	word := t.word
	joined := func(k int) bool { return k < len(tok) && tok[k].start == tok[k-1].end }
	num := func(k int) int {
		if k < len(tok) && tok[k].number && !tok[k].ordinal {
			return atoi(tok[k].s)
		}
		return -1
	}
	found := func(next int, settle func(almanac) (time.Time, string)) (day, int, bool) {
		d.settle, d.start, d.end, d.fixed = settle, tok[i].start, tok[next-1].end, true
		return d, next, true
	}
	n := num(i)
	if n < 0 {
		return d, i, false
	}
	if written := tok[i].s; len(written) == 8 && fullYear(written[:4]) > 1990 { // 20260508
		if month, dayOf := atoi(written[4:6]), atoi(written[6:]); month >= 1 && month <= 12 && dayOf >= 1 && dayOf <= 31 {
			return found(i+1, dated(fullYear(written[:4]), time.Month(month), dayOf, week))
		}
	}
	if len(tok[i].s) == 4 && fullYear(tok[i].s) > 0 && has(word(i+1), "-", "/", ".") && joined(i+1) &&
		word(i+3) == word(i+1) &&
		num(i+2) >= 1 &&
		num(i+2) <= 12 &&
		num(i+4) >= 1 {
		return found(i+5, dated(fullYear(tok[i].s), time.Month(num(i+2)), num(i+4), week))
	}
	if word(i-1) == "between" && word(i+1) == "and" && num(i+2) == n+1 && t.month(i+3) != 0 { // midnight between 6 and 7 May
		return found(i+4, dated(0, t.month(i+3), n, week))
	}
	if len(tok[i].s) > 2 || n < 1 || n > 31 || i > 0 && !t.newLine(i) && (numbersNoTime(tok[i-1].s) || has(tok[i-1].s, "spacing", "spaced", "scale", "question", "paragraph")) {
		return d, i, false
	}
	at := i + 1
	if has(word(at), "of", "de") && t.month(at+1) != 0 || word(at) == "." && joined(at) && t.month(at+1) != 0 { // 5. November
		at++
	}
	if word(at) == "-" && joined(at) && joined(at+1) && t.month(at+1) != 0 { // 5-Nov-2026
		next := at + 2
		y := 0
		if word(next) == "-" && joined(next) && joined(next+1) && num(next+1) >= 0 {
			y, next = fullYear(word(next+1)), next+2
		}
		return found(next, dated(y, t.month(at+1), n, week))
	}
	if m := t.month(at); m != 0 {
		y, next := 0, at+1
		if word(next) == "." && joined(next) && next+1 < len(tok) && len(tok[at].s) <= 4 && !t.newLine(next+1) {
			next++ // Nov.
		}
		k := next
		if word(k) == "," {
			k++
		}
		if k < len(tok) && tok[k].number && len(tok[k].s) == 4 && fullYear(tok[k].s) > 1990 &&
			!has(word(k+1), "h", "hrs", "hours", "words", ":") {
			y, next = fullYear(tok[k].s), k+1
		}
		return found(next, dated(y, m, n, week))
	}
	if word(at) == "." && joined(at) && joined(at+1) && num(at+1) >= 1 && num(at+1) <= 12 && len(word(at+1)) <= 2 &&
		word(at+2) == "." &&
		joined(at+2) {
		y, next := 0, at+3
		if k := at + 3; k < len(tok) && tok[k].number && (len(tok[k].s) == 4 || len(tok[k].s) == 2 && joined(k)) &&
			fullYear(tok[k].s) > 1990 &&
			word(k+1) != ":" {
			y, next = fullYear(tok[k].s), k+1
		}
		return found(next, dated(y, time.Month(num(at+1)), n, week))
	}
	if word(at) == "/" && joined(at) && joined(at+1) && num(at+1) >= 1 && num(at+1) <= 31 && len(word(at+1)) <= 2 {
		y, next := 0, at+2
		if word(next) == "/" && num(next+1) >= 0 {
			if y = fullYear(word(next + 1)); y == 0 {
				return d, i, false
			}
			next += 2
		} else if week == 0 && t.fraction(i, at+2) {
			return d, i, false
		}
		if word(next) == "(" && week == 0 && next+1 < len(tok) {
			if week = weekdays[word(next+1)]; week != 0 && word(next+2) == ")" {
				next += 3
			}
		}
		d.slash, d.week = [2]int{n, num(at + 1)}, week
		return found(next, slashed(n, num(at+1), y, week))
	}
	if word(at) == "-" && joined(at) && joined(at+1) && num(at+1) >= 1 && num(at+1) <= 12 && word(at+2) == "-" &&
		joined(at+3) &&
		len(word(at+3)) == 4 &&
		num(at+3) > 1990 {
		return found(at+4, dated(num(at+3), time.Month(num(at+1)), n, week)) // 06-11-2026, day first
	}
	return d, i, false
}

// fraction says that two numbers with a slash are no date: 24/7, 3/4 of, 12/20 points.
func (t *text) fraction(i, next int) bool {
	if next < len(t.tokens) && has(t.tokens[next].s, "of", "points", "marks", "%", "point", "mark") {
		return true
	}
	return t.tokens[i].s == "24" && t.tokens[i+2].s == "7"
}
