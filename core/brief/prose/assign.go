package prose

import "strings"

// assign finds what each time is for, from the words around it.
func (t *text) assign(list []mention) {
	for i := range list {
		m := &list[i]
		before, after, from := t.around(list, i)
		m.role = roleOf(before, after)
		t.place(list, i, before, after)
		t.question(m, before)
		if t.otherWork(*m, before, after) || m.role == due && askedCue.MatchString(t.plain[m.sentence.start:m.sentence.end]) {
			m.role = other // somebody asks whether, or it is of another sheet
		}
		if m.role == closes {
			m.neg = afterCue.in(before)
		}
		if m.role == unknown && i > 0 {
			t.join(list, i, before, from)
		}
		if m.role == due && i > 0 && list[i-1].role == unknown && list[i-1].sentence == m.sentence && list[i-1].day != nil &&
			has(strings.Trim(before, " ,"), "and", "and on", "or") {
			list[i-1].role, list[i-1].firm = due, true // "on 8 May and on 5 June you show me"
		}
		m.before = before
		m.firm = m.role == due && (m.firm || m.ranged && firmDue.in(list[i-1].before) || isFirm(before, after))
	}
}

// around are the words before a time and behind it, up to the next ones, and where the former begin.
func (t *text) around(list []mention, i int) (before, after string, from int) {
	m := list[i]
	from, to := m.sentence.start, m.sentence.end
	if i > 0 && list[i-1].sentence == m.sentence {
		from = list[i-1].end
	}
	if i+1 < len(list) && list[i+1].sentence == m.sentence {
		to = list[i+1].start
	}
	before, after = t.plain[from:m.start], t.plain[min(m.end, to):to]
	for _, cut := range []string{" but ", "; ", " whereas ", " while "} {
		if k := strings.LastIndex(before, cut); k >= 0 {
			before = before[k+len(cut):]
		}
	}
	if len(before) > 160 {
		before = before[len(before)-160:]
	}
	if to < m.sentence.end && leadsOn.MatchString(after) { // "return the camera by 4 May, the photographs are due on"
		if k := strings.IndexAny(after, ",;:"); k >= 0 {
			after = after[:k]
		}
	}
	return before, after, from
}

// place finds what a time is for by how it stands in its sentence.
func (t *text) place(list []mention, i int, before, after string) {
	m := &list[i]
	switch {
	case ofNoun(before) && !dueSaid.in(before) || notThere.MatchString(t.plain[max(m.sentence.start, m.start-mostBefore):m.start]):
		m.role = other // "the lab of 28 April", "what is not there on 15 May can be handed in on 15 June"
	case movedTo.MatchString(before) && dueCue.in(t.plain[m.sentence.start:m.sentence.end]):
		m.role, m.firm = due, true
	case i > 0 && before == " read " && strings.HasSuffix(list[i-1].before, "for "):
		list[i-1].role, m.role = other, due // "for 4 May read 5 May"
	case t.dateFirst(list, i):
		m.role = t.roleBehind(after)
	}
	if m.role == other && m.relative != nil && m.relative.event != "" && strings.HasPrefix(after, " ("+m.relative.event) &&
		dueCue.in(t.plain[m.end:m.sentence.end]) {
		m.role, m.firm = due, true // "two days after the tour (tour: 4 May) the log is due"
	}
	if strings.HasPrefix(t.plain[m.start:], "within ") && againCue.in(before+"within ") {
		m.role = until // "it can be handed in again within ten days"
	}
	if strings.HasPrefix(t.plain[m.start:], "within ") && (m.role == due || m.role == unknown) && t.ofLate(m.sentence) {
		m.role = other // "within two days it counts half"
	}
	if exampleDate.MatchString(before) && nameCue.in(t.plain[m.sentence.start:m.sentence.end]) {
		m.role = other // of a file's name: "begins with the date (2026-05-14)"
	}
	if weekend.MatchString(t.plain[m.start:m.sentence.end]) || i > 0 && weekend.MatchString(t.plain[list[i-1].start:m.end]) {
		m.role = other // "Saturday and Sunday do not count"
	}
	if of := whichIsDue.FindStringSubmatch(before); of != nil && i > 0 && !strings.Contains(t.head(), of[1]) {
		m.role = other // "put your energy into the report, which is due on 5 June"
	}
	if m.role == unknown && hoursBehind.MatchString(after) {
		m.role = other // "Monday 10-12"
	}
}

// whichIsDue leads to the due time of other work, that is named in passing.
var whichIsDue = regexpOf(`\b(?:into|for|with|before|after|from) (?:the|your) (\w+), which is due(?: on| by)?(?: the)? $`)

var weekend = regexpOf(`^saturdays? (?:and|or) sundays?\b`)

var takesPlace = regexpOf(`\b(?:takes? place|(?:is|are|will be) held|happens?)\b`)

var exampleDate = regexpOf(`\b(?:date|e\.?g\.?,?|example,?|as in|like|form(?:at)?(?: of)?) [("']?$`)

// ofLate says that a sentence is about work that comes late, or answers a question about it.
func (t *text) ofLate(s span) bool {
	return lateTold.in(t.plain[s.start:s.end]) || withinPrice.in(t.digits[s.start:s.end]) ||
		lateTold.in(t.questionBefore(s.start))
}

var withinPrice = rule(`\bwithin\b[^.;]*?(?:%|percent|{marks}|credit|half|thirds|quarters?)`)

// question finds what a time is for by the question that its sentence answers.
func (t *text) question(m *mention, before string) {
	switch question := t.questionBefore(m.sentence.start); {
	case m.role == unknown && (whenQuestion.in(question) || dueCue.in(question)) && !happens.in(question):
		m.role = due
	case happens.in(question) && !dueCue.in(question) && len(before) < 20, helpAsked.in(question):
		m.role = other // "Is there a quiz? Yes, on 24 February"
	}
}

// mostBefore is how far before a time it is looked for what it is of, in letters.
const mostBefore = 300

// otherWork says that a time is of a piece of work with another number than the text's own.
func (t *text) otherWork(m mention, before, after string) bool {
	named := t.plain[max(m.sentence.start, m.start-mostBefore):m.start]
	if strings.TrimSpace(before) == "" { // a row that begins with its day
		named = after[:min(len(after), 40)]
	}
	return m.start > len(t.head()) && t.otherNumber(named)
}

// join finds what a time is for of which nothing tells but the one before it.
func (t *text) join(list []mention, i int, before string, from int) {
	m, former := &list[i], &list[i-1]
	if former.sentence != m.sentence {
		if former.role == due && from == m.sentence.start && isThing(before) && len(strings.Fields(before)) < 4 &&
			strings.HasSuffix(strings.TrimRight(t.plain[:from], " "), ";") {
			m.role = due // "deadlines: map 5 May; report 12 May"
		}
		return
	}
	joiner := strings.Trim(before, " ,")
	words := len(strings.Fields(joiner))
	until := has(joiner, "to", "-", "until", "till", "through")
	switch {
	case until && movedFrom.MatchString(former.before):
		m.role = due
	case until && m.day == nil && m.relative == nil: // from 14:00 to 15:00 something takes place
		former.role, m.role = other, other
	case joiner == "and" && former.role != other && strings.HasSuffix(former.before, "between ") && takesPlace.MatchString(former.before):
		former.role, m.role = other, other // "the defences take place between 1 and 5 June"
	case joiner == "and" && former.role != other && strings.HasSuffix(former.before, "between "),
		until && (former.role == opens || former.role == unknown || former.role == due && m.day != nil && former.day != nil),
		joiner == "and until" && former.role == opens:
		former.role, m.role, m.ranged = opens, due, true
	case former.role == other && deadlineFor.MatchString(former.before) && strings.HasPrefix(joiner, "for ") &&
		isThing(joiner):
		m.role, m.firm = due, true // "the deadline for questions is 11 May, for solutions 13 May"
	case former.role == due && softHard.MatchString(t.plain[min(m.end, m.sentence.end):m.sentence.end]):
		m.role = closes // "12 May (soft), 14 May (hard)"
	case joiner == "or" && !former.firm && m.day != nil:
		former.role, m.role = other, other // "see the list (19 May or 21 May)"
	case happensThen.in(before):
		m.role = other // "due on 5 May and discussed on 12 May"
	case strings.HasPrefix(joiner, "and"), words < 6 && strings.HasSuffix(joiner, " and") &&
		!strings.Contains(joiner, "("),
		words < 7 && strings.HasPrefix(strings.Trim(before, " "), ","):
		m.role, m.firm = former.role, former.firm
	}
}

// isFirm says that the words around a due time make it one for sure: by a verb or a label of sending, or of what is
// sent.
func isFirm(before, after string) bool {
	return firmDue.in(before) || dueSaid.in(before) || dueLabel.MatchString(before) ||
		dueAfter.in(after) && !andThen.MatchString(after) || softDue.in(before) && (isThing(before) || ownWord.in(before))
}

// questionBefore is the question that what begins at an offset answers: "When? The 19th of May.", or "".
func (t *text) questionBefore(at int) string {
	question := strings.TrimRight(t.plain[max(0, at-80):at], " \n")
	if !strings.HasSuffix(question, "?") {
		return ""
	}
	return question[strings.LastIndexAny(question[:len(question)-1], ".?!\n")+1:]
}

// helpAsked is a question for what somebody else does.
var helpAsked = rule(`\b(?:drafts?|extensions?|feedback|help|results?|marks back|office hours?)\b`)

var whenQuestion = rule(`^\W*(?:(?:and|so|q:?) )?(?:by |until |till )?when\b`)

var deadlineFor = regexpOf(`\b(?:deadline|closing date|last day) for\b`)

var softHard = regexpOf(`^\W*(?:hard|final|absolute|ultimate|cut-?off)\b`)

// andThen says that what follows a date is done at another: "photograph it on 1 May and upload it by".
var andThen = regexpOf(`^\W*(?:and|then)\b`)

// ofNoun says that a date tells which one of something is meant: "the lab of 28 April".
func ofNoun(before string) bool {
	m := nounOf.FindStringSubmatch(before)
	return m != nil && !ofDue.MatchString(m[1])
}

var (
	notThere = regexpOf(`\b(?:that|which|who|what) (?:is|are) not (?:there|in|here)\b`)
	nounOf   = regexpOf(`(\w+) of(?: the)? $`)
	ofDue    = regexpOf(`^(?:stroke|deadline|date|day|evening|morning|night|afternoon|end|close|noon|midnight|hour|` +
		`submission|delivery|time|clock|limit|most|\d+|start|beginning|\w+day)$`)
	movedTo = regexpOf(`\b(?:mov\w+|postpon\w+|extend\w+|shift\w+|chang\w+|push\w+|brought)(?: forward|` +
		` back)?(?: by(?: \w+){1,2})? to(?: the)?\W*$`)
	// What makes a due time for sure, and what does of the work only.
	firmDue = rule(`\b(?:due|deadlines?|submi\w+|upload\w*|hand(?:ed|ing)?(?: \w+){0,3}[ -](?:in|over)|` +
		`turn(?:ed)?(?: \w+){0,3} in|deliver\w*|closing|lodge\w*)\b`)
	softDue   = rule(`\b{due}\b`)
	ownWord   = rule(`\b(?:{work}|it|this|everything|all|your)\b`)
	asideVerb = regexpOf(`\b(?:was|were|is|are)\b`)
)

// dateFirst says that in a sentence the dates stand before what they are of: "28 April task, 5 May submission, 12 May
// marks".
func (t *text) dateFirst(list []mention, i int) bool {
	first := i
	for first > 0 && list[first-1].sentence == list[i].sentence {
		first--
	}
	if first == i && (i+1 == len(list) || list[i+1].sentence != list[i].sentence) {
		return false
	}
	lead := strings.TrimSpace(t.plain[list[i].sentence.start:list[first].start])
	if lead != "" && (!strings.HasSuffix(lead, ":") || dueCue.in(lead)) {
		return false
	}
	for k := first; k < len(list) && list[k].sentence == list[i].sentence; k++ {
		if next := strings.TrimLeft(t.plain[min(list[k].end, list[k].sentence.end):list[k].sentence.end], " )"); next == "" || !isLetter(next[0]) {
			return false
		}
	}
	return true
}

// roleBehind is what a date is for by the words behind it.
func (t *text) roleBehind(after string) role {
	name := after
	if k := strings.IndexAny(after, ",;."); k >= 0 {
		name = after[:k]
	}
	if firmDue.in(name) || hasHandIn.in(name) {
		return due
	}
	return other
}

var leadsOn = regexpOf(`\b(?:on|by|until|till|before|at)(?: the)?\W*$`)

var dueLabel = regexpOf(`^\W*(?:by|until|till|before|latest|when|date|at the latest)(?: on)?\W*$`)

var hoursBehind = regexpOf(`^,? (?:from )?\d{1,2}(?:[.:]\d\d)? ?(?:am|pm|h)? ?(?:-|to|till|until) ?\d{1,2}\b`)

var stopTaking = rule(`\b(?:i|we) stop (?:\w+ing)\b[^.;]{0,60}$`)

var lateTaken = rule(`^\W*(?:{latework}{..} {taken}|(?:you|it|they|work) (?:can|may|is|are) still)\b`)

var hasHandIn = rule(`\bhand-?in\b`)

var happensThen = rule(`\b(?:discuss\w*|present\w*|shown?|talk\w*|returned?|marked|handed back|held)\b`)
