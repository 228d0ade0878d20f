package prose

import (
	"slices"
	"strings"
	"time"
	"unicode"
)

// A Line is an assignment typed in one line.
type Line struct {
	Title  string
	Course int    // place in the list of courses; -1: none was named
	Due    string // a wall time, or empty
	Zone   string // where the line names one
	Points float64
	Forms  []string
	Hours  float64 // of work; 0: not said
	Asked  []Question
}

var (
	quickPoints = regexpOf(`\b(\d+(?:\.\d+)?) ?(?:p|pts?|points?|marks?)\b`)
	quickHours  = regexpOf(`~ ?(\d+(?:\.\d+)?) ?h\b|\b(\d+(?:\.\d+)?) ?(?:hours?|h) (?:of )?work\b`)
	quickFiller = regexpOf(`\b(?:due|by|until|till|before|on|at|worth|as|in|the)\s*$|^\s*(?:due|by|until|on|for)\b`)
)

// Quick understands a line such as "lab 5 HYD Fri 23:59 20p pdf": a course by its code or the letters of it,
// the first time, points, forms, hours of work (~3h); what is left is the title.
func Quick(line string, now time.Time, codes []string) Line {
	l := Line{Course: -1}
	rest := []rune(line)
	blank := func(s span) {
		for i := s.start; i < s.end; i++ {
			rest[i] = ' '
		}
	}
	// Hours of work and points go first, since beside a day "3h" would be a time of day.
	t := prepare(line)
	for _, m := range quickHours.FindAllStringSubmatchIndex(t.plain, 1) {
		l.Hours = number(cmpOr(group(t.plain, m, 1), group(t.plain, m, 2)))
		blank(span{m[0], m[1]})
	}
	for _, m := range quickPoints.FindAllStringSubmatchIndex(t.plain, -1) {
		if l.Points == 0 && !strings.HasPrefix(t.plain[m[1]:], ".m") { // 5 p.m.
			l.Points = number(group(t.plain, m, 1))
			blank(span{m[0], m[1]})
		}
	}
	t = prepare(string(rest))
	today := midnight(now)
	for _, m := range t.mentions() {
		if m.day == nil || l.Due != "" || len(l.Asked) > 0 {
			continue
		}
		blank(m.span)
		date, question := m.day.settle(almanac{today: today, from: today})
		switch {
		case question != "":
			l.Asked = append(l.Asked, Question{question, m.start, m.end})
		case m.clock != nil && m.clock.bare:
			l.Asked = append(l.Asked, Question{"Is that in the morning or in the evening?", m.clock.start, m.clock.end})
		default:
			clock := endOfDayMinutes
			if m.clock != nil {
				clock = m.clock.h*60 + m.clock.m
			}
			l.Due, l.Zone = date.Add(time.Duration(clock)*time.Minute).Format(wallForm), m.zone
		}
	}
	for i := range t.tokens {
		name, next := t.formAt(i)
		s := span{t.tokens[i].start, t.tokens[max(i, next-1)].end}
		if name != "" && name != "link" && !slices.Contains(l.Forms, name) {
			l.Forms = append(l.Forms, name)
			blank(s)
		}
	}
	for i, k := range t.tokens {
		if l.Course >= 0 || rest[k.start] == ' ' {
			continue
		}
		for c, code := range codes {
			letters, digits := splitCode(code)
			next := i + 1
			if k.s != letters || letters == "" {
				continue
			}
			end := k.end
			if next < len(t.tokens) && t.tokens[next].s == digits && digits != "" {
				end = t.tokens[next].end
			}
			l.Course = c
			blank(span{k.start, end})
			break
		}
	}
	title := strings.Join(strings.Fields(string(rest)), " ")
	title = strings.Trim(title, " ,;:-–(")
	for {
		shorter := strings.TrimSpace(quickFiller.ReplaceAllString(strings.ToLower(title), ""))
		if shorter == strings.ToLower(title) || shorter == "" {
			break
		}
		at := strings.Index(strings.ToLower(title), shorter)
		title = title[at : at+len(shorter)]
	}
	if r := []rune(title); len(r) > 0 {
		r[0] = unicode.ToUpper(r[0])
		title = string(r)
	}
	l.Title = title
	return l
}

const endOfDayMinutes = 23*60 + 59

// splitCode takes HYD 214 apart.
func splitCode(code string) (letters, digits string) {
	code = strings.ToLower(strings.ReplaceAll(code, " ", ""))
	i := strings.IndexFunc(code, unicode.IsDigit)
	if i < 0 {
		return code, ""
	}
	return strings.TrimRight(code[:i], "-"), code[i:]
}
