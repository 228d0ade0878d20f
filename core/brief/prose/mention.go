package prose

import (
	"cmp"
	"strings"
)

// mention is a place where the text names a time: a day, a time of day, or both.
type mention struct {
	span
	day      *day
	clock    *clock
	zone     string
	relative *relative
	role     role
	firm     bool   // of a due time: it is said to be one, or of what is sent
	ranged   bool   // the end of a period whose beginning is the mention before
	neg      bool   // named by what happens no more after it
	before   string // the words that lead to it
	sentence span
}

// before a time of day or between it and its day.
var leads = map[string]bool{
	"at":     true,
	"by":     true,
	"before": true,
	"until":  true,
	"till":   true,
	"@":      true,
	"around": true,
	"than":   true,
	"from":   true,
	"is":     true,
	"latest": true,
	"to":     true,
	":":      true,
	"after":  true,
	"about":  true,
	"klo":    true,
	"kl":     true,
	"um":     true,
}

// mentions finds all times in the text. Zones that stand apart from any time, beside a word such as
// "times", hold for all.
func (t *text) mentions() []mention {
	var out []mention
	all := ""
	for i := 0; i < len(t.tokens); {
		if at := t.tokens[i].start; at > 0 && t.plain[at-1] == '_' {
			i++ // within a file's name
			continue
		}
		m, next, ok := t.mention(i)
		if ok {
			m.sentence = t.sentence(m.start)
			if then := t.sameHour(next); then > next && m.day != nil && m.clock == nil {
				for k := len(out) - 1; k >= 0 && m.clock == nil; k-- {
					m.clock, m.zone = out[k].clock, out[k].zone
				}
				m.end, next = t.tokens[then-1].end, then
			}
			if n := len(out); n > 0 && m.sentence == out[n-1].sentence && m.clock != nil && m.day != nil &&
				m.clock.end <= m.day.start &&
				out[n-1].day != nil && out[n-1].clock == nil && strings.Contains(t.plain[m.clock.end:m.day.start], " - ") {
				// "14 May paper, 17:00 - 21 May exam": the time is of the day before it
				day := m
				day.clock, day.start = nil, m.day.start
				m.day, m.end = nil, m.clock.end
				out = append(out, m)
				m = day
			}
			out = append(out, m)
			i = next
			continue
		}
		if zone, after, bare := t.zone(i); zone != "" {
			s := t.sentence(t.tokens[i].start)
			if sentence := t.plain[s.start:s.end]; allTimes.in(sentence) || zoneLabel.in(sentence) {
				all = zone
			} else if !bare && len(out) > 0 && out[len(out)-1].sentence == s && out[len(out)-1].zone == "" &&
				out[len(out)-1].clock != nil {
				out[len(out)-1].zone = zone
			}
			i = after
			continue
		}
		i++
	}
	for k := range out {
		if out[k].zone == "" && (out[k].clock != nil || out[k].day != nil) {
			out[k].zone = all
		}
	}
	return out
}

// mention reads a time at a token.
func (t *text) mention(i int) (m mention, next int, ok bool) {
	tok := t.tokens
	word := t.word
	if r, next, ok := t.relative(i); ok {
		m.relative, m.start, m.end = r, tok[i].start, tok[next-1].end
		if at := next + btoi(word(next) == ","); has(word(at), "at", "by") {
			if c, after, isClock := t.clock(at+1, true, ""); isClock {
				m.clock, m.end = &c, c.end
				next = t.zoneAfter(&m, after)
			}
		} else if at > next {
			if c, after, isClock := t.clock(at, false, ""); isClock && !c.bare && t.free(at, after) {
				m.clock, m.end = &c, c.end
				next = t.zoneAfter(&m, after)
			}
		}
		return m, next, true
	}
	if d, isDay := t.dayOfRange(i); isDay {
		m.day, m.start, m.end = &d, d.start, d.end
		return m, i + 1, true
	}
	if d, after, isDay := t.day(i); isDay {
		if has(word(i-2), "evening", "afternoon", "morning") && word(i-1) == "of" && d.part == "" {
			d.part = word(i - 2) // "by the evening of Wednesday 13 May, eight o'clock"
		}
		m.day, m.start, m.end = &d, d.start, d.end
		next = after
		from, lesson := t.lessonBegins(after)
		for k := from; k < len(tok) && k < from+9; k++ {
			known := leads[word(k-1)] || word(k-1) == "(" || word(k-1) == "," ||
				t.dotted(k) && (k == after || has(word(k-1), "-", "|", "/", ".", ")"))
			if k == after && d.whole && !isTime(tok, k) {
				break
			}
			if c, then, isClock := t.clock(
				k,
				known && (!has(word(k-1), ",", "(") || has(word(k+1), ".", ":")),
				d.part,
			); isClock &&
				t.free(k, then) {
				m.clock, m.end, next = &c, c.end, then
				break
			}
			if !has(
				word(k),
				",",
				"at",
				"by",
				"before",
				"until",
				"till",
				"@",
				"-",
				"(",
				"no",
				"not",
				"later",
				"than",
				"latest",
				"sharp",
				"exactly",
				"the",
				"strictly",
				"punctually",
				"in",
				"from",
				"around",
				"|",
				"/",
				"time",
				":",
				"on",
				"klo",
				"kl",
				"um",
				"that",
				"is",
			) && !t.bracketedWeekday(k) && !(k == after && (word(k) == "t" || word(k) == ")" && word(i-1) == "is" && has(word(i-2), "that", "which"))) ||
				word(k) == "in" && word(k+1) == "the" {
				break
			}
		}
		if lesson != "" && m.clock == nil {
			d.settle, m.end, next = asked("At what time does the "+lesson+" begin?"), tok[from-1].end, from
		}
		next = t.zoneAfter(&m, next)
		return m, next, true
	}
	if numbersNoTime(word(i-1)) && !t.newLine(i) {
		return m, i, false // "Room 4.11, Monday"
	}
	known := leads[word(i-1)] && !(word(i-1) == "to" && !has(word(i-2), "up", "next"))
	if !known && t.dotted(i) { // "18.00, 5 November"
		k := i + 3
		for has(word(k), ",", "on", "(", "the") {
			k++
		}
		_, _, known = t.day(k)
	}
	if c, after, isClock := t.clock(i, known, ""); isClock && t.free(i, after) {
		m.clock, m.start, m.end = &c, c.start, c.end
		next = t.zoneAfter(&m, after)
		part := ""
		for k := next; k < len(tok) && k < next+6; k++ {
			if has(word(k), "evening", "afternoon", "morning") && word(k+1) == "of" {
				part = word(k) // "half past six on the evening of 14 May"
				continue
			}
			if t.newLine(k) && weekdays[word(k)] != 0 {
				break // the next row of a list
			}
			if r, then, isRelative := t.relative(k); isRelative && (k == next || r.days == 0 && r.event == "") {
				m.relative, m.end, next = r, tok[then-1].end, then
				break
			}
			if d, then, isDay := t.day(k); isDay {
				if told := part != ""; (c.bare || told) && cmp.Or(d.part, part) != "" {
					part = cmp.Or(d.part, part)
					if late, then, ok := t.clock(i, true, part); ok && then == after {
						*m.clock = late
					}
				}
				m.day, m.end, next = &d, d.end, then
				if m.zone == "" {
					next = t.zoneAfter(&m, next)
				}
				break
			}
			if !has(
				word(k),
				",",
				"on",
				"of",
				"(",
				")",
				"sharp",
				"exactly",
				"latest",
				"at",
				"the",
				"-",
				"that",
				"strictly",
				"every",
				"by",
				"/",
			) {
				break
			}
		}
		lesson := i > 1 && word(i-1) == "at" && has(word(i-2), "starts", "begins", "class", "lecture")
		if m.day == nil && !(m.clock.bare && lesson) && (m.clock.bare || !clockly(t.plain[m.clock.start:m.clock.end])) {
			return m, i, false
		}
		return m, next, true
	}
	return m, i, false
}

// lessonBegins reads "at the beginning of class" behind a day, and says where it goes on; without it, at i.
func (t *text) lessonBegins(i int) (next int, lesson string) {
	word := t.word
	k := i
	for has(word(k), ",", "(", "at", "by", "before", "the") {
		k++
	}
	if !has(word(k), "beginning", "start") || word(k+1) != "of" {
		return i, ""
	}
	k += 2
	if has(word(k), "the", "our", "your") {
		k++
	}
	if !has(word(k), "class", "lecture", "lesson", "seminar", "tutorial", "lab", "session", "section", "course") {
		return i, ""
	}
	return k + 1, word(k)
}
