package prose

// clock is a time of day.
type clock struct {
	span
	h, m int
	bare bool // an hour from 1 to 12 of which nobody knows whether it is in the morning
}

// parts are the parts of a day: whether an hour in it is past noon.
var parts = map[string]bool{"morning": false, "afternoon": true, "evening": true, "night": true, "tonight": true}

// clock reads a time of day at a token. known says that something before it tells that a time follows,
// so that a lone number can be an hour; part is a part of the day named before, or empty.
func (t *text) clock(i int, known bool, part string) (c clock, next int, ok bool) {
	tok := t.tokens
	word := t.word
	if i >= len(tok) {
		return c, i, false
	}
	c.start = tok[i].start
	done := func(h, m, next int, bare bool) (clock, int, bool) {
		c.h, c.m, c.bare, c.end = h, m, bare, tok[next-1].end
		return c, next, h < 24 && m < 60
	}
	switch word(i) {
	case "noon", "midday":
		return done(12, 0, i+1, false)
	case "midnight":
		if word(i+1) == "between" { // the 6th and the 7th
			return done(23, 59, i+2, false)
		}
		return done(23, 59, i+1, false)
	case "half", "quarter", "five", "ten", "twenty", "a", "one": // half past eight, quarter to nine
		at := i
		if word(at) == "a" && word(at+1) == "quarter" {
			at++
		}
		minutes := map[string]int{"half": 30, "quarter": 15, "five": 5, "ten": 10, "twenty": 20, "a": 1, "one": 1}[word(at)]
		if word(at+1) == "minutes" || word(at+1) == "minute" {
			at++
		}
		direction := word(at + 1)
		if direction != "past" && direction != "to" && direction != "before" {
			break
		}
		hour, isHour := 0, false
		if word(at+2) == "midnight" || word(at+2) == "noon" {
			hour, isHour = map[string]int{"midnight": 24, "noon": 12}[word(at+2)], true
		} else if at+2 < len(tok) {
			hour, isHour = tok[at+2].count()
		}
		if !isHour || hour > 24 || hour < 1 || word(at) == "a" && hour != 24 {
			break
		}
		next := at + 3
		late, next := t.half(next, part)
		if late == "pm" && hour < 12 {
			hour += 12
		} else if late == "am" && hour == 12 {
			hour = 0
		}
		of := hour*60 + minutes
		if direction != "past" {
			of = hour*60 - minutes
		}
		return done(of/60%24, of%60, next, false)
	}
	if has(word(i), "am", "pm") && i+1 < len(tok) && tok[i+1].number { // PM 5:00
		late, next, ok := t.clock(i+1, true, map[string]string{"am": "morning", "pm": "afternoon"}[word(i)])
		late.start = c.start
		if word(i) == "pm" && late.h < 12 {
			late.h += 12
		}
		late.bare = false
		return late, next, ok
	}
	if !tok[i].number {
		hour, isHour := tok[i].count()
		if !isHour || hour < 1 || hour > 12 || word(i) == "a" || word(i) == "an" || word(i) == "single" ||
			word(i) == "once" ||
			word(i) == "both" {
			return c, i, false
		}
		return t.hour(c, i, hour, known, part)
	}
	if tok[i].ordinal {
		return c, i, false
	}
	n := atoi(tok[i].s)
	joined := func(k int) bool { return k < len(tok) && tok[k].start == tok[k-1].end }
	if len(tok[i].s) <= 2 && n <= 24 && (word(i+1) == ":" || word(i+1) == "." || word(i+1) == "h") && joined(i+1) &&
		joined(i+2) &&
		tok[i+2].number &&
		len(tok[i+2].s) == 2 &&
		!tok[i+2].ordinal {
		m := atoi(tok[i+2].s)
		next := i + 3
		if word(i+1) == ":" && word(next) == ":" && joined(next) && joined(next+1) && tok[next+1].number {
			next += 2 // seconds
		}
		late, after := t.half(next, part)
		said := after > next
		hours := word(after) == "h" || word(after) == "hrs" || word(after) == "hours" || word(after) == "uhr"
		if word(i+1) == "." && !said && !known && !hours {
			return c, i, false // a decimal number, a date or a version
		}
		if hours {
			after++
		}
		if n == 12 && m == 0 && has(word(after), "noon", "midday") {
			after++
		}
		if n == 24 && m == 0 {
			return done(23, 59, after, false)
		}
		if late == "pm" && n < 12 {
			n += 12
		} else if late == "am" && n == 12 {
			n = 0
		}
		return done(n, m, after, false)
	}
	if len(tok[i].s) <= 2 && n <= 23 && word(i+1) == "h" && i+2 < len(tok) && tok[i+2].number && len(tok[i+2].s) == 2 &&
		!tok[i+2].ordinal && t.month(i+3) == 0 && !(has(word(i+3), ".", "/") && i+4 < len(tok) && tok[i+4].number) { // 17 h 30
		return done(n, atoi(tok[i+2].s), i+3, false)
	}
	if len(tok[i].s) == 4 && fullYear(tok[i].s) == 0 && known && has(word(i+1), "on", ",", ".", "") && n/100 < 24 && n%100 < 60 {
		return done(n/100, n%100, i+1, false) // at 1700
	}
	if len(tok[i].s) == 4 && (word(i+1) == "h" || word(i+1) == "hrs" || word(i+1) == "hours") && n/100 < 25 &&
		n%100 < 60 {
		if n == 2400 {
			return done(23, 59, i+2, false)
		}
		return done(n/100, n%100, i+2, false)
	}
	if len(tok[i].s) <= 2 && n <= 24 {
		return t.hour(c, i, n, known, part)
	}
	return c, i, false
}

// hour reads what may follow a lone hour.
func (t *text) hour(c clock, i, hour int, known bool, part string) (clock, int, bool) {
	next := i + 1
	word := ""
	if next < len(t.tokens) {
		word = t.tokens[next].s
	}
	oclock := word == "o'clock" || word == "oclock"
	if oclock {
		next++
	}
	late, after := t.half(next, part)
	c.end = t.tokens[after-1].end
	switch {
	case late == "" && (word == "noon" || word == "midday") && hour == 12:
		c.h, c.end = 12, t.tokens[next].end
		return c, next + 1, true
	case late == "" && word == "midnight" && hour == 12:
		c.h, c.m, c.end = 23, 59, t.tokens[next].end
		return c, next + 1, true
	case late == "pm":
		c.h = hour%12 + 12
		if hour > 12 {
			c.h = hour
		}
		if hour == 12 && after > next && t.tokens[after-1].s == "night" {
			c.h, c.m = 23, 59
		}
		return c, after, hour < 24
	case late == "am":
		c.h = hour % 12
		return c, after, hour <= 12
	case word == "h" || word == "hrs" || word == "uhr" || word == "hours" && hour > 12:
		c.h, c.end = hour, t.tokens[next].end
		if hour == 24 {
			c.h, c.m = 23, 59
		}
		return c, next + 1, hour > 0
	case !known && !oclock || hour == 0 && !oclock:
		return c, i, false
	case hour == 24:
		c.h, c.m = 23, 59
		return c, after, true
	}
	c.h, c.bare = hour, hour <= 12
	return c, after, true
}

// half reads which half of the day is meant: a.m., p.m., or a part of the day; "" if nothing says it.
func (t *text) half(i int, part string) (half string, next int) {
	tok := t.tokens
	at := func(k int) string {
		if k < len(tok) {
			return tok[k].s
		}
		return ""
	}
	switch at(i) {
	case "am", "pm":
		return at(i), i + 1
	case "a", "p":
		if at(i+1) == "." && at(i+2) == "m" {
			next = i + 3
			if at(next) == "." && next < len(tok) && tok[next].start == tok[next-1].end {
				next++
			}
			return at(i) + "m", next
		}
	}
	k := i
	if at(k) == "in" && at(k+1) == "the" {
		k += 2
	} else if at(k) == "at" && at(k+1) == "night" {
		k++
	} else if at(k) == "on" || at(k) == "tonight" || at(k) == "sharp" {
		k += 0
	} else {
		k = len(tok)
	}
	if late, ok := parts[at(k)]; ok && at(k) != "" {
		if late {
			return "pm", k + 1
		}
		return "am", k + 1
	}
	if late, ok := parts[part]; ok {
		if late {
			return "pm", i
		}
		return "am", i
	}
	return "", i
}

// dotted says that a number looks like a time with a dot: 18.00.
func (t *text) dotted(i int) bool {
	tok := t.tokens
	return i+2 < len(tok) && tok[i].number && len(tok[i].s) <= 2 && tok[i+1].s == "." && tok[i+2].number &&
		len(tok[i+2].s) == 2 &&
		tok[i+1].start == tok[i].end && tok[i+2].start == tok[i+1].end && (i+3 == len(tok) || tok[i+3].s != "." ||
		tok[i+3].start > tok[i+2].end || i+4 == len(tok) || tok[i+4].start > tok[i+3].end)
}

// clockly says that words are a time of day even without a date: 18:00, noon, 6 pm.
func clockly(s string) bool {
	for i := range len(s) {
		if s[i] == ':' || s[i] == 'm' || s[i] == 'h' || s[i] == 'n' {
			return true
		}
	}
	return len(s) > 2
}

func isTime(tok []token, k int) bool {
	return k < len(tok) && (tok[k].s == "," || tok[k].s == "at" || tok[k].s == "(" || tok[k].number)
}

// free says that what was read as a time is not the beginning of an amount: ten to twelve pages.
func (t *text) free(i, next int) bool {
	if next == i+1 && t.month(next) != 0 {
		return false // "until 5 May"
	}
	if next >= len(t.tokens) || t.newLine(next) {
		return true
	}
	switch t.tokens[next].s {
	case "pages",
		"page",
		"words",
		"word",
		"minutes",
		"minute",
		"seconds",
		"points",
		"point",
		"marks",
		"files",
		"days",
		"day",
		"weeks",
		"week",
		"hour",
		"photos",
		"images",
		"pictures",
		"%",
		"percent",
		"per",
		"mb",
		"kb",
		"gb",
		"attempts",
		"attempt",
		"drafts",
		"sources",
		"times",
		"questions",
		"lines",
		"slides",
		"x",
		"sentences",
		"paragraphs":
		return false
	case "hours":
		return t.tokens[next-1].s == "hours" || t.tokens[i].number && len(t.tokens[i].s) == 4
	}
	return !(t.tokens[next].s == "/" && t.tokens[next].start == t.tokens[next-1].end)
}
