package prose

import (
	"cmp"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode"

	"orario/core/timing"
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
	Left   []Span // words that were not understood, and are no part of the title
}

// A Span is a stretch of a line, in code points, its end exclusive.
type Span struct {
	Start int `json:"start"`
	End   int `json:"end"`
}

var (
	quickPoints = regexpOf(`\b(\d+(?:\.\d+)?) ?(?:p|pts?|points?|marks?)\b`)
	quickWeight = regexpOf(
		`\b(\d{1,3}(?:\.\d+)?) ?(?:%|per ?cent)(?: of (?:the )?(?:course|module|grade|mark))?(?:$|[^\w%])`,
	)
	quickRoute  = regexpOf(`\b(?:by|via|per) (e-?mail|mail|hand)\b|\bon (paper)\b`)
	quickHours  = regexpOf(`(?:~|\b(?:est(?:imated?)?|work|takes?)\b\.?:?) ?(\d+(?:\.\d+)?) ?(h|hrs?|hours?|min|mins|minutes)\b`)
	quickWork   = regexpOf(`\b(\d+(?:\.\d+)?) ?(h|hrs?|hours?|min|mins|minutes) (?:of )?work\b`)
	quickBare   = regexpOf(`(?:^|[^\w.:-])([1-8](?:\.\d+)?) ?(h|hrs?|hours?)(?:$|[^\w:.])`)
	quickAt     = regexpOf(`\b(?:at|by|before|from|until|till|to) $`)
	quickLate   = regexpOf(`\blate:? ?-? ?(\d+(?:\.\d+)?) ?(%|points?|pts?|p)(?: ?(?:/|per|a|each|every) ?(day|d|hour|h))?\b`)
	quickGrace  = regexpOf(`\bgrace:? ?(\d+) ?(min|mins|minutes|h|hours?)?\b`)
	quickBest   = regexpOf(`\b(best|latest|last|first) of (\d{1,2})(?: (?:attempts?|tries))?\b`)
	quickUntil  = regexpOf(`\b(closes?|closed|locks?|shuts?|opens?)\W*$`)
	quickLoose  = regexpOf(`^(?:max|maximum|min|minimum|at|most|least|each|every|only|up|to|of|and|or|by|due|on|for|with|in|the|as|until|till|before|worth|ca|about|ff|[^\pL\pN]*)$`)
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
	// What has figures that could be those of a time goes first.
	t := prepare(line)
	again := func() { t = prepare(string(rest)) }
	l.lateness(t.plain, blank)
	again()
	l.work(t.plain, blank)
	again()
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
		if m.day == nil {
			continue
		}
		if end := quickUntil.FindStringSubmatchIndex(t.plain[:m.start]); end != nil {
			l.end(m, group(t.plain, end, 1), today)
			blank(span{end[0], m.end})
			continue
		}
		if l.Due != "" || len(l.Asked) > 0 {
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
	l.name([]rune(line), rest)
	return l
}

// name makes the title out of the first words that stand together and were not understood otherwise; what else was not
// understood is left.
func (l *Line) name(line, rest []rune) {
	for _, s := range leftIn(line, rest) {
		text := strings.Trim(string(line[s.Start:s.End]), " ,;:-–()/")
		for {
			shorter := strings.TrimSpace(quickFiller.ReplaceAllString(strings.ToLower(text), ""))
			if shorter == strings.ToLower(text) || shorter == "" {
				break
			}
			at := strings.Index(strings.ToLower(text), shorter)
			text = text[at : at+len(shorter)]
		}
		switch {
		case !strings.ContainsFunc(text, unicode.IsLetter) && !strings.ContainsFunc(text, unicode.IsDigit),
			!slices.ContainsFunc(strings.Fields(strings.ToLower(text)), func(w string) bool { return !quickLoose.MatchString(w) }):
		case l.Title == "" && strings.ContainsFunc(text, unicode.IsLetter) && line[s.Start] != '(':
			r := []rune(text)
			r[0] = unicode.ToUpper(r[0])
			l.Title = string(r)
		default:
			l.Left = append(l.Left, s)
		}
	}
}

// leftIn are the stretches of a line that nothing was understood of, apart where something was in between.
func leftIn(line, rest []rune) (list []Span) {
	taken := func(i int) bool { return rest[i] == ' ' && line[i] != ' ' }
	for i := 0; i < len(line); {
		if rest[i] == ' ' {
			i++
			continue
		}
		end := i
		for j := i; j < len(line) && !taken(j) && (line[j] != '(' || j == i); j++ {
			if rest[j] != ' ' {
				end = j + 1
			}
			if line[j] == ')' || line[j] == ';' {
				break
			}
		}
		list = append(list, Span{i, end})
		i = end
	}
	return list
}

// work takes how long it is expected to take. A bare "4h" is work and no time of day, since few mean four in the
// morning; from nine on it may be one (common practice: "14h").
func (l *Line) work(plain string, blank func(span)) {
	for _, way := range []*regexp.Regexp{quickHours, quickWork, quickBare} {
		m := way.FindStringSubmatchIndex(plain)
		if m == nil || way == quickBare && quickAt.MatchString(plain[:m[2]]) {
			continue
		}
		l.Hours = number(group(plain, m, 1))
		if strings.HasPrefix(group(plain, m, 2), "m") {
			l.Hours /= 60
		}
		from, to := m[0], m[1]
		if way == quickBare {
			from, to = m[2], m[5]
		}
		blank(span{from, to})
		return
	}
}

// lateness takes the price of late work, the grace and which attempt counts, in the short ways of a line.
func (l *Line) lateness(plain string, blank func(span)) {
	if m := quickLate.FindStringSubmatchIndex(plain); m != nil {
		late := Late{Kind: timing.Fixed, Of: "possible"}
		percent := number(group(plain, m, 1))
		late.Percent = &percent
		if group(plain, m, 2) != "%" {
			late.Of = "points"
		}
		switch group(plain, m, 3) {
		case "day", "d":
			late.Kind = timing.PerDay
		case "hour", "h":
			late.Kind, late.Hours = timing.PerHours, 1
		}
		l.Also = append(l.Also, Item{Kind: "late", Value: late, Start: m[0], End: m[1], Sure: 0.9})
		blank(span{m[0], m[1]})
	}
	if m := quickGrace.FindStringSubmatchIndex(plain); m != nil {
		minutes := int(number(group(plain, m, 1)))
		if strings.HasPrefix(group(plain, m, 2), "h") {
			minutes *= 60
		}
		l.Also = append(l.Also, Item{Kind: "grace", Value: minutes, Start: m[0], End: m[1], Sure: 0.9})
		blank(span{m[0], m[1]})
	}
	if m := quickBest.FindStringSubmatchIndex(plain); m != nil {
		counts := group(plain, m, 1)
		if counts == "last" {
			counts = "latest"
		}
		try := Attempts{Max: int(number(group(plain, m, 2))), Counts: counts}
		l.Also = append(l.Also, Item{Kind: "attempts", Value: try, Start: m[0], End: m[1], Sure: 0.9})
		blank(span{m[0], m[1]})
	}
}

// end takes from when on work is taken, or until when.
func (l *Line) end(m mention, word string, today time.Time) {
	kind, clock := "closes", endOfDayMinutes
	if strings.HasPrefix(word, "open") {
		kind, clock = "opens", 0
	}
	date, question := m.day.settle(almanac{today: today, from: today})
	if question != "" {
		l.Asked = append(l.Asked, Question{question, m.start, m.end})
		return
	}
	if m.clock != nil {
		clock = m.clock.h*60 + m.clock.m
	}
	at := date.Add(time.Duration(clock) * time.Minute).Format(wallForm)
	l.Also = append(l.Also, Item{Kind: kind, Value: at, Zone: m.zone, Start: m.start, End: m.end, Sure: 0.9})
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
		known := slices.ContainsFunc(l.Also, func(a Item) bool { return a.Kind == i.Kind })
		if !known && has(i.Kind, "words", "pages", "seconds", "attempts", "route", "files", "max_bytes", "max_total_bytes", "style",
			"text_layer", "late", "grace", "declaration", "report") {
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
