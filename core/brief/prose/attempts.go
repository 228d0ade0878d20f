package prose

import (
	"fmt"
	"slices"
	"strings"
)

var (
	attemptCount = rule(`\b{attemptcount}`)
	resubmit     = rule(`{resubmit}`)
	unlimited    = rule(`\b(?:unlimited|as often as|as many (?:times|attempts|tries)|any number of|without limit|` +
		`no limit (?:on|` +
		`to) (?:the number of )?(?:attempts|tries|submissions))\b`,
	)
	countsCue  = rule(`{counts}`)
	notAttempt = rule(`\b(?:last year|drafts? may|make (?:an?|one) attempt at|repeat(?: \w+){0,2} {trial}|` +
		`{trial}(?: \w+){0,3} repeated|try the upload)\b`)
	bestOf     = rule(`\b(?:best|highest|lowest) 0*[2-9]\d*\b`) // of several pieces of work
	practised  = rule(`\b(?:rehears\w*|practi[sc]\w*|preview\w*|try out|watch\w*|listen\w*)\b`)
	untilDue   = rule(`\b{untildue}\b`)
	againWords = rule(`\b{againword}\b`)
)

// trying gathers what the text says of how often work can be sent.
type trying struct {
	*reader
	Attempts
	at   span
	said bool
}

func (t *trying) take(m []int) { t.at, t.said = t.at.and(span{m[0], m[1]}), true }

// attempts finds how often work can be sent, until when, and which attempt counts.
func (r *reader) attempts() {
	t := trying{reader: r}
	for i, s := range r.sentences {
		text := r.plain[s.start:s.end]
		if strings.HasSuffix(text, "?") && i+1 < len(r.sentences) && againWords.in(text) {
			s = s.and(r.sentences[i+1]) // with its answer
			text = r.plain[s.start:s.end]
		}
		if notAttempt.in(text) || bestOf.in(r.digits[s.start:s.end]) {
			continue
		}
		t.many(s, text)
		t.which(s)
		if m := untilDue.first(r.plain, s); m != nil && t.Until == "" && len(r.dues) > 0 &&
			(againWords.in(text) || t.said && t.at.overlaps(s)) {
			t.Until = r.dues[len(r.dues)-1].Value.(string)
			t.take(m)
		}
	}
	for _, m := range r.mentions {
		t.until(m)
	}
	if t.said && t.Attempts != (Attempts{}) {
		r.find("attempts", t.Attempts, t.at, 0.85)
	}
}

// many reads how many attempts there are: as a number, by those that may follow the first, or that there is no end of
// them.
func (t *trying) many(s span, text string) {
	count := func(m []int, groups ...int) int {
		for _, g := range groups {
			if word := group(t.digits, m, g); word != "" {
				return int(timesOf(word))
			}
		}
		return 0
	}
	if m := resubmit.first(t.digits, s); m != nil && t.Max == 0 && !resubmitNo.in(text) &&
		!atLeast.in(t.digits[m[0]:firstGroup(m).start]) && !twoWays.MatchString(t.plain[m[1]:s.end]) {
		if n := count(m, 1, 3, 4, 5, 2, 6, 7); n > 0 && n < 100 {
			t.Max = n + 1
			t.take(m)
		}
	}
	for n, again := range onceMore {
		if m := again.first(t.plain, s); m != nil && (t.Max == 0 || t.Max == 1 && n == 1) &&
			!strings.HasSuffix(strings.TrimSpace(text), "?") &&
			!(n == 1 && (unlimited.in(text) || cannot.MatchString(t.plain[s.start:m[0]]))) {
			t.Max = n + 1
			t.take(m)
		}
	}
	if m := unlimited.first(t.plain, s); m != nil && !practised.in(clauseAround(t.plain, s, m[0], m[1])) &&
		(againWords.in(text) || strings.Contains(text, "submi") || strings.Contains(text, "upload") ||
			strings.Contains(text, "send")) {
		t.take(m)
		return
	}
	m := attemptCount.first(t.digits, s)
	if m == nil || t.Max > 0 || !t.counted(m, s, text) {
		return
	}
	clause := clauseAround(t.plain, s, m[0], m[1])
	if n := count(m, 1, 2, 4, 5, 3, 6, 7); n > 0 && n < 1000 && !notOften.in(clause) && !practised.in(clause) &&
		!(n == 1 && (notOften.in(text) || !onlyOne.in(text))) {
		t.Max = n
		t.take(m)
	}
}

// cannot leads to what is not possible.
var cannot = regexpOf(`\b(?:not|no|never|cannot|\w+n't)(?: \w+)? $`)

// counted says that a number in a sentence is one of attempts, and not of what is like them.
func (t *trying) counted(m []int, s span, text string) bool {
	said := t.plain[m[0]:m[1]]
	return !(strings.HasSuffix(said, " shot") && mediaWord.in(text)) && !strings.Contains(said, "penal") &&
		!overMore.MatchString(said) && !piecesOf(text, said) &&
		!datedNext(t.digits[m[1]:s.end]) && !asSoon.MatchString(t.plain[m[1]:s.end]) &&
		!ifYou.MatchString(t.plain[s.start:m[0]])
}

// which reads which attempt counts.
func (t *trying) which(s span) {
	if t.Counts != "" {
		return
	}
	if m := countsCue.first(t.plain, s); m != nil {
		for g := 1; 2*g+1 < len(m); g++ {
			switch word := group(t.plain, m, g); {
			case word == "":
			case has(word, "best", "highest", "better", "top", "strongest"):
				t.Counts = "best"
			case has(word, "latest", "last", "most recent", "newest", "final"):
				t.Counts = "latest"
			case has(word, "first", "earliest"):
				t.Counts = "first"
			default:
				t.Counts = "mean"
			}
		}
		if t.Counts != "" {
			t.take(m)
			return
		}
	}
	for _, w := range onlyRead {
		if m := w.cue.first(t.plain, s); m != nil {
			t.Counts = w.counts
			t.take(m)
			return
		}
	}
	if m := oneOfThem.first(t.plain, s); m != nil && (againWords.in(t.plain[s.start:s.end]) || severalTries.in(t.plain[s.start:s.end]) || t.said && s.start-t.at.end < 60) {
		for g, counts := range []string{"best", "latest", "first", "mean", "latest"} {
			if group(t.plain, m, g+1) != "" && (g < 4 || t.Max == 2) {
				t.Counts = counts
				t.take(m)
			}
		}
	}
}

// until takes a time up to which new versions are taken.
func (t *trying) until(m mention) {
	if m.role != closes && untilBefore.MatchString(m.before) && (t.said && m.overlaps(t.at) || t.again(m)) {
		m.role = until // "five tries in all, until the 16th"
		if end, ok := t.dueAt(m); ok && t.Until == "" {
			t.Until = end
			t.take([]int{m.start, m.end})
		}
	}
	if m.role != until || t.Until != "" || m.day == nil && m.relative == nil ||
		m.relative == nil && strings.HasPrefix(t.plain[m.start:], "within ") { // of getting it back
		return
	}
	today := midnight(t.now)
	from := today
	if len(t.dues) > 0 && goingOn.MatchString(m.before) { // "you may go on improving it until Sunday"
		if due, err := parseWall(t.dues[len(t.dues)-1].Value.(string)); err == nil {
			from = midnight(due)
		}
	}
	var before []settled
	for _, d := range t.dues {
		if at, err := parseWall(d.Value.(string)); err == nil {
			before = append(before, settled{mention: mention{span: span{d.Start, d.End}}, at: at, full: true})
		}
	}
	asked := len(t.asked)
	s, ok := t.settle(m, almanac{today: today, from: from, order: t.slashOrder(today)}, nil, before)
	t.asked = t.asked[:asked] // it is not worth a question
	if ok {
		t.Until = t.sameAsDue(m, s.at.Format(wallForm))
		t.take([]int{m.start, m.end})
	}
}

// sameAsDue is a time without a time of day as that of the due time of that day; of a day that only has a number,
// "until the 15th", as that of the due time on such a day.
func (t *trying) sameAsDue(m mention, wall string) string {
	if m.clock != nil {
		return wall
	}
	for _, d := range t.dues {
		due := d.Value.(string)
		if due[:10] == wall[:10] || due[8:10] == wall[8:10] && m.day != nil &&
			!hasLetter(ordinalEnd.ReplaceAllString(t.plain[m.day.start:m.day.end], "")) {
			return due
		}
	}
	return wall
}

// ordinalEnd is what stands behind the number of a day.
var ordinalEnd = regexpOf(`\b(?:the )?(\d+)(?:st|nd|rd|th)`)

// goingOn says that something is done beyond the due time.
var goingOn = regexpOf(`\b(?:go on|still|further|even after|afterwards|continue)\b`)

var (
	resubmitNo = rule(`\b(?:no|nothing|not|\w+n't|cannot|never)\b[^.;]{0,20}\b(?:resubmi\w*|again|replac\w*)\b`)
	notOften   = rule(`\b(?:per (?:day|week|hour|group|team|pair)|drafts?|check(?:ed|s)|subtract\w*|deduct\w*|` +
		`los[et]\w*|costs?)\b`)
	onlyOne = rule(`\b(?:(?:attempts?|tries|submissions?)(?: allowed| possible)?: ?(?:one|0*1)|only|single|just|` +
		`exactly|(?:one|1) (?:attempt|submission|try|go|shot|chance|upload)|once)\b`)
)

// twoWays says that "twice" counts the places that work is sent to: "submitted twice: on paper and as a PDF".
var twoWays = regexpOf(`^(?::|, (?:once|as)|,? once|[: -]+in print)`)

var overMore = regexpOf(`(?:^|[^ot] |[^n]o |[^o]t )more than`) // and not "no more than"

var untilBefore = regexpOf(`\b(?:until|till|up to)(?: the)?\W*$`)

// piecesOf says that uploads are counted of which each is another piece: "three uploads: the text, the chart and the
// data".
func piecesOf(text, counted string) bool {
	return strings.HasSuffix(counted, " uploads") && strings.Contains(text, ":") && !allowed.in(text)
}

var allowed = rule(`\b(?:allowed|possible|have|get|max\w*|most|only|permitted|limit|can|may be|you may|up to|number)\b`)

// again says that a time is up to when new versions are taken: it is not the one by which the due time is told.
func (r *reader) again(m mention) bool {
	return againWords.in(r.plain[m.sentence.start:m.sentence.end]) &&
		!slices.ContainsFunc(r.dues, func(d Item) bool { return m.overlaps(span{d.Start, d.End}) })
}

// dueAt is the due time whose time of day a time without a day repeats: "until 18:00".
func (r *reader) dueAt(m mention) (wall string, ok bool) {
	if m.day != nil || m.relative != nil || m.clock == nil || len(r.dues) == 0 {
		return "", false
	}
	wall = r.dues[len(r.dues)-1].Value.(string)
	return wall, strings.HasSuffix(wall, fmt.Sprintf("T%02d:%02d", m.clock.h, m.clock.m))
}

// asSoon says that "once" is no number: "submit it once you are done"; ifYou that a number is only supposed.
var (
	asSoon = regexpOf(`^ (?:you|the|it|they|and for all|we|your|all|everything)\b`)
	ifYou  = regexpOf(`\b(?:if|when|should) (?:you|students|somebody|anyone) $`)
)

// datedNext says that a number belongs to a date: "submissions: 12 May", and not "3 versions may be uploaded".
func datedNext(after string) bool { return monthNext.MatchString(after) && !mayBe.MatchString(after) }

var (
	monthNext = regexpOf(`^ ?(?:{month}\b|[./]\d)`)
	mayBe     = regexpOf(`^ may \w`)
)

func timesOf(word string) float64 {
	word = strings.TrimSuffix(strings.TrimSuffix(word, " times"), " time")
	if count, _, ok := strings.Cut(word, " "); ok && isDigit(word[0]) {
		word = count // "1 attempt"
	}
	switch {
	case strings.Contains(word, "once"), word == "a", word == "an", word == "one", strings.Contains(word, "single"):
		return 1
	case word == "twice":
		return 2
	}
	return number(word)
}
