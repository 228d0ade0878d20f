package prose

import (
	"regexp"
	"strings"
)

// role is what a time of the text is for.
type role int

const (
	unknown role = iota
	due
	opens
	closes
	until // new versions are taken
	other // of something else than the work
)

// Cues before a time. Of several the nearest counts; what is weak counts only where nothing else does.
var (
	closesCue  = rule(`\b{closes}\b`)
	afterCue   = rule(`\b{after}\b[^.;]{0,60}\b(?:after|past|beyond|later than)(?: that| the)?(?: is)?\s*$`)
	afterPlain = rule(`\b(?:after|past|beyond|later than|from|as of)(?: the)?\s*$`)
	refusal    = rule(`\b(?:absent|not|nothing|no|never|won't|cannot|can't|refused?|reject(?:ed|s)?|zero|ignored|locks?|` +
		`locked|shuts?|` +
		`closed|closes|unmarked|discarded|gone|too late|isn't|don't|doesn't)\b`,
	)
	opensCue = rule(`\b{opens}\b`)
	dueCue   = rule(`\b{due}\b`)
	weakDue  = regexp.MustCompile(
		`(?:\b(?:by|until|till|before|no later than|not later than|latest|at the latest|up to|through|ends?|` +
			`on or before)|<)(?: on)?(?: the| end of| noon on)?\W*$`,
	)
	weakOpens = regexp.MustCompile(`\b(?:from|since|as of)(?: the)?\W*$`)
	wrongCue  = rule(`\b{wrong}\W*$`)
	elseCue   = rule(`{else}\W*$`)
	eventCue  = rule(`\b(?:{event}|read|present(?:ed)?|away|out of office)(?: day)?(?: is| takes place| will be|` +
		` was| of| begins?|` +
		` starts?| comes)?(?: on| at| from|:)?(?: the)?\W*$`,
	)
	staysCue = rule(`\b{stays}\b[^.;:]{0,50}\b(?:by|until|till|before|from|on)(?: the)?\W*$`)
	againCue = rule(`\b{again}\b[^.;]{0,60}\b(?:until|till|up to|before|by|within)(?: the)?\W*$`)
	movedCue = rule(`\b(?:correction|corrected|is now|now (?:due|is|on)|moved|chang(?:e|ed)|extended|postponed|` +
		`new (?:deadline|date|due)|updated?|erratum|instead|pushed|brought forward|shifted|` +
		`revised (?:deadline|date))\b`,
	)
	notAfter = rule(`^\W*(?:,|and|-|\()?\s*(?:not|instead of|rather than|was)\b`)
	dueAfter = rule(`^\W*(?:\w+ ){0,3}?(?:is|as|being|for|:|-|at the)?\W*(?:the |your |our |a |final |firm |my |` +
		`absolute )*{dueafter}\b`)
	closesPost = rule(`^[^.;]{0,50}\b{closespost}\b`)
	opensPost  = rule(`^[^.;]{0,45}\b(?:opens?|available|releas(?:e|ed)|live|unlocks?|appears?|upload starts?|starts?)\b`)
	elsePost   = rule(`^[^.;,]{0,30}\b(?:class|lecture|drafts?|feedback|marks (?:are|will|come)|results|tour|visit|` +
		`trip|exam|` +
		`seminar|session|quiz|office hours?|last year)\b`,
	)
)

// end is where the last match of a cue ends, or -1.
func (p pattern) end(s string) int {
	last := -1
	for _, m := range p.matches(s) {
		last = m[1]
	}
	return last
}

// assign finds what each time is for, from the words around it.
func (t *text) assign(list []mention) {
	for i := range list {
		m := &list[i]
		from, to := m.sentence.start, m.sentence.end
		if i > 0 && list[i-1].sentence == m.sentence {
			from = list[i-1].end
		}
		if i+1 < len(list) && list[i+1].sentence == m.sentence {
			to = list[i+1].start
		}
		before, after := t.plain[from:m.start], t.plain[min(m.end, to):to]
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
		m.role = roleOf(before, after)
		sentence := t.plain[m.sentence.start:m.sentence.end]
		switch {
		case ofNoun(before):
			m.role = other // "the lab of 28 April"
		case movedTo.MatchString(before) && dueCue.in(sentence):
			m.role, m.firm = due, true
		case i > 0 && before == " read " && strings.HasSuffix(list[i-1].before, "for "):
			list[i-1].role, m.role = other, due // "for 4 May read 5 May"
		case t.dateFirst(list, i):
			m.role = t.roleBehind(after)
		}
		if strings.HasPrefix(t.plain[m.start:], "within ") && againCue.in(before+"within ") {
			m.role = until // "it can be handed in again within ten days"
		}
		if m.role == unknown && hoursBehind.MatchString(after) {
			m.role = other // "Monday 10-12"
		}
		switch question := t.questionBefore(m.sentence.start); {
		case m.role == unknown && (whenQuestion.in(question) || dueCue.in(question)) && !happens.in(question):
			m.role = due
		case happens.in(question) && !dueCue.in(question) && len(before) < 20:
			m.role = other // "Is there a quiz? Yes, on 24 February"
		}
		named := t.plain[m.sentence.start:m.start]
		if strings.TrimSpace(before) == "" { // a row that begins with its day
			named = after[:min(len(after), 40)]
		}
		if m.start > len(t.head()) && t.otherNumber(named) {
			m.role = other
		}
		if m.role == due && askedCue.MatchString(t.plain[m.sentence.start:m.sentence.end]) {
			m.role = other // somebody asks whether
		}
		if m.role == closes {
			m.neg = afterCue.in(before)
		}
		if m.role == unknown && i > 0 && list[i-1].sentence == m.sentence {
			joiner, former := strings.Trim(before, " ,"), list[i-1].role
			until := has(joiner, "to", "-", "until", "till", "through")
			switch {
			case until && movedFrom.MatchString(list[i-1].before):
				m.role = due
			case until && m.day == nil: // from 14:00 to 15:00 something takes place
				list[i-1].role, m.role = other, other
			case joiner == "and" && former == due && strings.HasSuffix(list[i-1].before, "between "):
				list[i-1].role, m.role, m.ranged = opens, due, true
			case until && (former == opens || former == unknown || former == due && m.day != nil && list[i-1].day != nil), joiner == "and until" && former == opens:
				list[i-1].role, m.role, m.ranged = opens, due, true
			case happensThen.in(before):
				m.role = other // "due on 5 May and discussed on 12 May"
			case strings.HasPrefix(joiner, "and") || len(strings.Fields(joiner)) < 6 && strings.HasSuffix(joiner, " and") && !strings.Contains(joiner, "(") || len(strings.Fields(joiner)) < 7 && strings.HasPrefix(strings.Trim(before, " "), ","):
				m.role, m.firm = former, list[i-1].firm
			}
		}
		if m.role == unknown && i > 0 && list[i-1].role == due && from == m.sentence.start && isThing(before) && len(strings.Fields(before)) < 4 &&
			strings.HasSuffix(strings.TrimRight(t.plain[:m.sentence.start], " "), ";") {
			m.role = due // "deadlines: map 5 May; report 12 May"
		}
		m.before = before
		m.firm = m.role == due && (m.firm || firmDue.in(before) || dueSaid.in(before) || dueLabel.MatchString(before) || dueAfter.in(after) && !andThen.MatchString(after) || softDue.in(before) && (isThing(before) || ownWord.in(before)) || m.ranged && firmDue.in(list[i-1].before))
	}
}

// andThen says that what follows a date is done at another: "photograph it on 1 May and upload it by".
var andThen = regexpOf(`^\W*(?:and|then)\b`)

// ofNoun says that a date tells which one of something is meant: "the lab of 28 April".
func ofNoun(before string) bool {
	m := nounOf.FindStringSubmatch(before)
	return m != nil && !ofDue.MatchString(m[1])
}

var (
	nounOf  = regexpOf(`(\w+) of(?: the)? $`)
	ofDue   = regexpOf(`^(?:deadline|date|day|evening|morning|night|afternoon|end|close|noon|midnight|hour|submission|delivery|time|clock|limit|most|\d+|start|beginning|\w+day)$`)
	movedTo = regexpOf(`\b(?:mov\w+|postpon\w+|extend\w+|shift\w+|chang\w+|push\w+|brought)(?: forward| back)?(?: by(?: \w+){1,2})? to(?: the)?\W*$`)
	// What makes a due time for sure, and what does of the work only.
	firmDue   = rule(`\b(?:due|deadlines?|submi\w+|upload\w*|hand(?:ed|ing)?(?: \w+){0,3}[ -](?:in|over)|turn(?:ed)?(?: \w+){0,3} in|deliver\w*|closing|lodge\w*)\b`)
	softDue   = rule(`\b{due}\b`)
	ownWord   = rule(`\b(?:{work}|it|this|everything|all|your)\b`)
	asideVerb = regexpOf(`\b(?:was|were|is|are)\b`)
)

// dateFirst says that in a sentence the dates stand before what they are of: "28 April task, 5 May submission, 12 May marks".
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

var stopTaking = rule(`\b(?:i|we) stop (?:taking|accepting|marking)\b[^.;]{0,60}$`)

var lateTaken = rule(`^\W*(?:{latework}{..} {taken}|(?:you|it|they|work) (?:can|may|is|are) still)\b`)

var hasHandIn = rule(`\bhand-?in\b`)

var happensThen = rule(`\b(?:discuss\w*|present\w*|shown?|talk\w*|returned?|marked|handed back|held)\b`)

// What is not the work's has hours and ends of its own, which the nearest word before them would take for the work's.
var (
	othersTime = rule(`{otherstime}`)
	othersTask = waysOf(
		`(?:bought|buy|order|look at|have a look|pay|vote|apply|register|enrol|sign up|attend|borrow|reserve|`+
			`form (?:groups?|teams?|pairs)|show (?:me|us)|covers?)\b[^.;]{0,60}$`,
		`i (?:will )?answer\b[^.;]{0,40}$`,
		`(?:sign|fill in|return)(?: \w+){0,2} (?:safety|consent|ethics|registration|application) form\b[^.;]{0,30}$`,
		`team lists?\b[^.;]{0,30}$`,
		`^\W*next (?:week|time|month)\W+(?:\w+ ){1,3}\((?:due)?\W*$`,
		`topics?(?: \w+){0,4} (?:by|until|before|till)\W*$`,
		`(?:groups?|teams?|pairs)(?: \w+){0,3} formed(?: by| until| before)?\W*$`,
		`i(?:'ll| will| shall)? (?:return|give|hand|bring) (?:it|them|these|everything)(?: back)? (?:by|on|until|before)\W*$`,
		`(?:drop|leave|quit|change) the (?:course|class|module)\b[^.;]{0,30}$`,
		`(?:tell|send|mail|give|let) (?:me|us)(?: know)? (?:your|the) (?:topic|title|choice|subject|group|partner|name|team)\w*\b[^.;]{0,30}$`,
		`no(?: \w+)? (?:{event}|lectures|classes|teaching|lessons)(?: \w+)? (?:after|until|before|from)\W*$`,
		`(?:course|module|class|term|semester|unit) (?:started|began|starts|begins|ended)\b[^.;]{0,20}$`,
		`(?:return|returned) (?:to the library|(?:the|your|all)(?: \w+){0,2} (?:copy|copies|books?|keys?|equipment|kit|`+
			`devices?))\b[^.;]{0,60}$`,
		`(?:reviewers?|reviews?|topics?|partners?|films?|plays?)(?: \w+){0,3} (?:is|are|will be) (?:\w+ed|shown|drawn|`+
			`given)\b[^.;]{0,30}$`,
		`(?:will be (?:on|in|up|returned|announced|given back)|(?:is|are) (?:announced|returned|given back|assigned|`+
			`shown))\b[^.;]{0,60}$`,
		`(?:results?|marks|grades|feedback|appeals?)\b[^.;:]{0,30}\((?:expected|due|planned|by|on)?\W*$`,
		`(?:marking|grading|correct\w+|reviewing|repairs?)(?: will)? (?:takes?|lasts?|goes on|continues?)\b[^.;]{0,20}$`,
		`^\W*questions?\s*:.{0,90}$`,
		`bring (?:\w+ ){0,2}(?:laptops?|notes?|books?|calculators?|cop(?:y|ies)|headphones|boots|camera|id|`+
			`money)\b[^.;]{0,30}$`,
	)
	// A second verb behind another task is the work's: "vote and then upload your map by".
	thenSent = regexpOf(`\b(?:and|then|or) (?:then )?(?:submit|send|upload|hand|deliver|turn|write|complete|` +
		`finish)\b[^.;]*$`)
	isCollected = regexpOf(`\b(?:is|are|will be) (?:collected|picked up)(?: on| at)?(?: the)?\W*$`)
	iCollect    = regexpOf(`\b(?:i|we)(?:'ll| will| shall)? (?:collect|pick up|gather|empty)\b[^.;]{0,40}$`)
	ownWindow   = rule(`\b{graded}(?: \d+)? (?:is|will be|opens?)\b(?: open| available)?(?: from| on)?\W*$`) // a quiz has a window of its own
	// What those get who miss it is no due time of the others: "whoever misses it hands in by 15 August".
	whoMisses = rule(`\b(?:whoever|anybody who|anyone who|students who|those who|if you) (?:miss|missed|misses|fail|` +
		`fails)\b[^.;]{0,60}$`)
	staysOpen = rule(`\b(?:uploads?|submissions?|box|portal|page|link|form|window|it) (?:remains?|` +
		`stays?) (?:possible|open|available)\b[^.;]{0,20}$`)
	stillCue = rule(`\bstill (?:be )?(?:hand\w*|submit\w*|send|sent|upload\w*|accept\w*|tak\w+|turn\w*|deliver\w*|` +
		`come in)\b[^.;]{0,30}$`)
)

// dueSaid and opensSaid are what decides at once, right before a time or in the label of its line.
var (
	dueSaid = ways{
		rule(`\btime is up(?: on| at)?(?: the)?\W*$`),
		rule(`\bdue (?:an?|0*1|\d+) (?:weeks?|days?) (?:before|earlier),\W*$`),
		rule(`\b(?:it|and) is now(?: due)?(?: on)?(?: the)?\W*$`),
		rule(`\b(?:no|not) later than(?: at| on)?(?: the)?\W*$`),
		rule(`^\W*(?:returns?|return by|in|back|ends?|finish|handed back by students|until)(?: on| by)?\s*[:=|]\W*$`),
		rule(`\bto be (?:returned|handed back) (?:to \w+ )?(?:by|on|until|before)(?: the)?\W*$`),
		rule(`\bbefore(?: the| our| your)?(?: \w+)? {event}(?: starts| begins)? at\W*$`),
		// The event is dated behind it: "before the last class, which is on Thursday".
		rule(`\b(?:before|by|until)(?: the| our| your| my)?(?: \w+){0,2} {event}(?: \w+){0,3},? (?:which|that) ` +
			`(?:is|takes place|falls|starts|begins)(?: on| at)?(?: the)?\W*$`),
	}
	opensSaid = ways{
		rule(`^\W*(?:set|issued?|out|posted|released|given out)(?: on)?\W*$`),
		rule(`\b(?:takes?|accepts?|open|opens|available|possible|reachable)(?: \w+){0,2} (?:from|as of)(?: the)?\W*$`),
		rule(`\b(?:not|no|never) (?:before|earlier than|sooner than)(?: the)?\W*$`),
		rule(`\b(?:start|begin) (?:uploading|submitting|sending|handing in)(?: on| from)?(?: the)?\W*$`),
		rule(`^\W*(?:issued?|out|set|release[ds]?|posted|starts?|begins?|given)(?: on)?\s*[:=|]\W*$`),
		rule(`\b(?:questions?|tasks?|topics?|papers?|exam|assignment|sheet|brief) (?:is|are|will be) ` +
			`(?:online|posted|available|released|published|visible)(?: on the(?: \w+){1,3})?(?: from| on| at)*(?: the)?\W*$`),
	}
)

// questionBefore is the question that what begins at an offset answers: "When? The 19th of May.", or "".
func (t *text) questionBefore(at int) string {
	question := strings.TrimRight(t.plain[max(0, at-80):at], " \n")
	if !strings.HasSuffix(question, "?") {
		return ""
	}
	return question[strings.LastIndexAny(question[:len(question)-1], ".?!\n")+1:]
}

var whenQuestion = rule(`^\W*(?:(?:and|so|q:?) )?(?:by |until |till )?when\b`)

func roleOf(before, after string) role {
	switch {
	case aside(before) || mistaken.in(after) || weBegin.in(after) || lastDayElse.in(after):
		return other
	case dueSaid.in(before):
		return due
	case opensSaid.in(before):
		return opens
	case wrongCue.in(before) || whoMisses.in(before):
		return other
	case othersTime.in(before) && !ownWindow.in(before) || othersTask.in(before) && !thenSent.MatchString(before):
		return other
	case iCollect.MatchString(before) || isCollected.MatchString(before) && isThing(before):
		return due
	case againCue.in(before) || rewriteDue.in(before):
		return until
	case stopTaking.in(before):
		return closes
	case stillCue.in(before) || staysOpen.in(before) || weakDue.MatchString(before) && lateTaken.in(after):
		return closes
	case afterCue.in(before):
		return closes
	}
	dueAt, opensAt, closesAt := dueCue.end(before), opensCue.end(before), closesCue.end(before)
	weakly := weakDue.MatchString(before)
	if elseCue.in(before) && elseCue.end(before) > dueAt-7 {
		return other
	}
	if afterPlain.in(before) && closesAt < 0 && refusal.in(after) {
		return closes
	}
	if eventCue.in(before) && !weakly || staysCue.in(before) {
		return other
	}
	if closesAt >= 0 && closesAt >= opensAt && (closesAt >= dueAt || weakly && closesAt > dueAt-12) {
		return closes
	}
	if opensAt >= 0 && opensAt > dueAt && !weakly || weakOpens.MatchString(before) && closesAt < 0 {
		if othersOpen.in(before) || movedFrom.MatchString(before) {
			return other
		}
		return opens
	}
	if weakly {
		return due
	}
	if notAfter.in(after) {
		return due
	}
	if dueAt >= 0 {
		return due
	}
	switch {
	case closesPost.in(after) && !dueAfter.in(after):
		return closes
	case dueAfter.in(after) && !andThen.MatchString(after):
		return due
	case opensPost.in(after):
		return opens
	case elsePost.in(after):
		return other
	}
	return unknown
}

var (
	weBegin     = rule(`^\W*(?:we|i) (?:will )?(?:start|begin|continue|discuss|talk|look|meet|visit)\b`)
	lastDayElse = rule(`^\W*(?:is )?(?:the )?last (?:day|date|chance) (?:to|for) (?:drop|withdraw|enrol|regist|` +
		`chang|sign|join|leav|add|pay)`)
	rewriteDue = rule(`\b(?:rewrites?|rewriting|resubmissions?|resits?|second attempts?|` +
		`(?:revised|corrected) versions?)\b[^.;:]{0,30}$`)
	mistaken = rule(`^[^.;]{0,20}\bbut (?:the|it is) (?:right|correct|real|actual|true)\b|^[^.;]{0,70}\b(?:is|` +
		`was|are) (?:wrong|an? (?:error|mistake|misprint)|superseded|out of date|void|no longer)\b`)
	// What is not the work opens and begins, too.
	othersOpen = rule(`\b{othersopen}\b[^.;:]*$`)
	askedCue   = regexp.MustCompile(`^\W*(?:q:? ?)?(?:is|are|was|may|can|could|does|do|will|should|why|what|when|where|` +
		`which)\b[^?]*\?\W*$`)
	movedFrom = regexpOf(`\b(?:mov\w+|postpon\w+|extend\w+|shift\w+|chang\w+|push\w+|` +
		`brought) (?:forward )?from(?: the)?\W*$`)
	asideIs = rule(`\b(?:is|are) (?:\w+ ){0,2}(?:there|in|open|here)\b`)
)

// aside says whether a time stands in brackets with a sentence of their own: "(room 3, she is there Tuesday)".
func aside(before string) bool {
	open := strings.LastIndexByte(before, '(')
	return open > strings.LastIndexByte(before, ')') && asideIs.in(before[open:])
}

// numbered is a piece of work by its number.
var numberedWork = regexp.MustCompile(
	`\b(assignment|lab|lab report|quiz|exercise|sheet|problem sheet|problem set|homework|essay|report|check|project|` +
		`task|diario|diary|worksheet|paper)(?: no\.?| number)?(?: | ?#)(\d{1,2})\b`,
)

// head is the beginning of the text, where it says what it is about: its first paragraph, or some lines of it.
func (t *text) head() string {
	if first := t.sentences[0]; first.end-first.start < 40 {
		if line := t.plain[first.start:first.end]; numberedWork.MatchString(line) && !asideVerb.MatchString(line) {
			return line // a heading
		}
	}
	head := t.plain[:min(len(t.plain), 160)]
	if k := strings.Index(t.broken[:len(head)], "\n\n"); k > 20 {
		return head[:k]
	}
	return head
}

// otherNumber says whether a clause is about a piece of work of the same kind as the text's own, with another number.
// The text's own are those that its first lines name.
func (t *text) otherNumber(clause string) bool {
	head := t.head()
	own := map[string]map[string]bool{}
	for _, m := range numberedWork.FindAllStringSubmatch(head, -1) {
		if own[m[1]] == nil {
			own[m[1]] = map[string]bool{}
		}
		own[m[1]][m[2]] = true
	}
	all := numberedWork.FindAllStringSubmatch(clause, -1)
	if len(all) == 0 {
		return false
	}
	last := all[len(all)-1]
	return own[last[1]] != nil && !own[last[1]][last[2]]
}

var notLabel = regexpOf(`\b{notlabel}\b`)

// label is what else a clause names before a time: the part that it is for.
func label(before string) string {
	words := strings.FieldsFunc(
		notLabel.ReplaceAllString(before, " "),
		func(r rune) bool { return !(r >= 'a' && r <= 'z' || r >= '0' && r <= '9') },
	)
	return strings.Join(words, " ")
}
