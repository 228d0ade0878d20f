package prose

import (
	"cmp"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode"
)

// A Line is an assignment typed in one line.
type Line struct {
	Title  string
	Course int    // place in the list of courses; -1: none was named
	New    string // what looks like the code of a course that is not known
	Due    string // a wall time, or empty
	Zone   string // where the line names one
	Points float64
	Forms  []string
	Hours  float64 // of work; 0: not said
	Weight float64 // percent of the course; 0: not said
	Also   []Item  // what else the line asks for: words, pages, seconds, attempts, the route, …
	Asked  []Question
}

var (
	quickPoints = regexpOf(`\b(\d+(?:\.\d+)?) ?(?:p|pts?|points?|marks?)\b`)
	quickWeight = regexpOf(
		`\b(\d{1,3}(?:\.\d+)?) ?(?:%|per ?cent)(?: of (?:the )?(?:course|module|grade|mark))?(?:$|[^\w%])`,
	)
	quickRoute  = regexpOf(`\b(?:by|via|per) (e-?mail|mail|hand)\b|\bon (paper)\b`)
	quickHours  = regexpOf(`~ ?(\d+(?:\.\d+)?) ?h\b|\b(\d+(?:\.\d+)?) ?(?:hours?|h) (?:of )?work\b`)
	quickFiller = regexpOf(
		`\b(?:due|by|until|till|before|on|at|worth|as|in|the|for|or|and|with|of)\s*$|^\s*(?:due|by|until|on|for|or|and|at)\b`,
	)
)

// A Known course is one that a line may name: by its code, the letters or the number of that, its title, or a word of
// the title that no other has.
type Known struct{ Code, Title string }

// Quick understands a line such as "lab 5 HYD Fri 23:59 20p pdf": a course, the first time, points, forms, hours of
// work (~3h), the weight, and whatever else [Read] understands, in any order; what is left is the title.
func Quick(line string, now time.Time, courses []Known) Line {
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
		l.Hours = number(cmp.Or(group(t.plain, m, 1), group(t.plain, m, 2)))
		blank(span{m[0], m[1]})
	}
	for _, m := range quickPoints.FindAllStringSubmatchIndex(t.plain, -1) {
		if l.Points == 0 && !strings.HasPrefix(t.plain[m[1]:], ".m") { // 5 p.m.
			l.Points = number(group(t.plain, m, 1))
			blank(span{m[0], m[1]})
		}
	}
	if m := quickWeight.FindStringSubmatchIndex(t.plain); m != nil {
		l.Weight = number(group(t.plain, m, 1))
		blank(span{m[0], m[1]})
	}
	t = prepare(string(rest))
	t.small = true
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
	l.also(string(rest), now, blank)
	t = prepare(string(rest))
	if m := quickRoute.FindStringSubmatchIndex(t.plain); m != nil {
		route := "mail"
		if word := cmp.Or(group(t.plain, m, 1), group(t.plain, m, 2)); has(word, "hand", "paper") {
			route = "by_hand"
		}
		l.Also = append(l.Also, Item{Kind: "route", Value: route, Start: m[0], End: m[1], Sure: 0.9})
		blank(span{m[0], m[1]})
	}
	if l.New = NewCourse(string(rest), courses); l.New != "" {
		at := len([]rune(string(rest)[:strings.Index(string(rest), l.New)]))
		blank(span{at, at + len(l.New)})
	} else {
		l.course(t, courses, func(s span) bool { return rest[s.start] == ' ' }, blank)
	}
	title := strings.Join(strings.Fields(string(rest)), " ")
	title = strings.Trim(strings.ReplaceAll(title, " ,", ""), " ,;:-–()")
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

// courseCode looks like the code of a course: a few capitals and a number of three or four digits (common practice).
var courseCode = regexp.MustCompile(`\b[A-Z]{2,5}[ -]?\d{3,4}[A-Z]?\b`)

// NewCourse is what looks in a text like the code of a course that is not among those known, or "".
func NewCourse(text string, courses []Known) string {
	if code := courseCode.FindString(text); code != "" && !knows(courses, code) {
		return code
	}
	return ""
}

func knows(courses []Known, code string) bool {
	plain := func(c string) string { return strings.ToLower(strings.NewReplacer(" ", "", "-", "").Replace(c)) }
	return slices.ContainsFunc(courses, func(k Known) bool { return plain(k.Code) == plain(code) })
}

// also takes what else a line asks for.
func (l *Line) also(line string, now time.Time, blank func(span)) {
	for _, i := range Read(line, now).Found {
		if has(i.Kind, "words", "pages", "seconds", "attempts", "route", "files", "max_bytes", "style", "text_layer") {
			l.Also = append(l.Also, i)
			blank(span{i.Start, i.End})
		}
	}
}

// course finds the course that a line names: by its code or the letters of it, else by words of its title.
func (l *Line) course(t *text, courses []Known, gone func(span) bool, blank func(span)) {
	for i, k := range t.tokens {
		for c, known := range courses {
			letters, digits := splitCode(known.Code)
			if gone(k.span) || k.s != letters || letters == "" {
				continue
			}
			end := k.end
			next := i + 1
			if next < len(t.tokens) && t.tokens[next].s == "-" {
				next++
			}
			if next < len(t.tokens) && t.tokens[next].s == digits && digits != "" {
				end = t.tokens[next].end
			}
			l.Course = c
			blank(span{k.start, end})
			return
		}
	}
	for _, k := range t.tokens {
		named := -1
		for c, known := range courses {
			if len(k.s) < 4 || gone(k.span) || !slices.Contains(strings.Fields(prepare(known.Title).plain), k.s) {
				continue
			}
			if named >= 0 {
				named = -1 // two have this word
				break
			}
			named = c
		}
		if named >= 0 {
			l.Course = named
			title := prepare(courses[named].Title).plain
			if at := strings.Index(t.plain, title); at >= 0 {
				blank(span{at, at + len(title)})
			} else {
				blank(k.span)
			}
			return
		}
	}
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
