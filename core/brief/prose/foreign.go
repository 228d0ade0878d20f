package prose

import (
	"regexp"
	"strings"
)

var (
	// What an amount belongs to that nobody is asked to send: a text to be read, other work, what was once.
	notOurs    = rule(`\b{notours}\b`)
	otherLabel = regexp.MustCompile(`^\W*(?:next (?:task|assignment|week)|text|readings?|sources?|see also)\W*:`)
	notThose   = regexp.MustCompile(`\b(?:not (?:the|those|these|of)(?: full)?|the (?:first|last)) $`)
	factAfter  = regexp.MustCompile(`^ (?:of memory|and more|which|that the|in (?:the|last))\b`)
	// What has a length and is not sent.
	liveOnly = rule(`\b(?:meeting|hearing|test (?:may|can|will) run|video call|consultation|bring|transcribe|` +
		`listen to)\b`)
	liveWord = rule(`\b(?:{event}|takes? place|in groups|each (?:side|team|group|of you)|per (?:team|group)|break)\b`)
	toBeMade = rule(`\b(?:your|must|should|at (?:most|least))\b`)
	fragment = regexp.MustCompile(`^\W*(?:(?:between|at most|about|around|exactly|no more than|not more than|up to|` +
		`max\.?) )?\d`)
	fileWord  = rule(`\b(?:record\w*|videos?|audio|films?|mp3|mp4|mov|m4a|wav|screencast|monologue|upload\w*|submit\w*)\b`)
	recorded  = rule(`\b(?:mp3|mp4|m4a|mov|wav)\b`)
	delayWord = rule(`\b(?:late|grace|in hand|deadline|delay\w*|takes? (?:about|around|up)|appointment|in advance|` +
		`forgiv\w*|` +
		`overlook\w*|report (?:takes|comes|appears)|every)\b`,
	)
)

var weRead = regexpOf(`\b(?:i|we)(?: \w+)? $`)

var ourNoun = rule(`\b(?:your|hands? in|send|submit|write|must|max(?:imum)?|at most|limit|file|length|extent)\b`)

// foreign says that an amount belongs to something that is not to be sent: by the nearest word before it in its
// sentence that decides, else by what follows it.
func (r *reader) foreign(at, s span) bool {
	if r.ofOtherWork(s) {
		return true
	}
	before, after := r.digits[s.start:at.start], r.digits[at.end:s.end]
	if strings.HasPrefix(after, " each") {
		return false
	}
	if otherLabel.MatchString(before) || notThose.MatchString(before) || factAfter.MatchString(after) {
		return true
	}
	theirs, ours := lastOf(notOurs, strings.ReplaceAll(before, "your readings", "your numbers ")), lastOf(ourNoun, before)
	if theirs > 0 && strings.HasPrefix(before[theirs:], "read") && weRead.MatchString(before[:theirs]) {
		theirs = -1 // "I read no more than"
	}
	if theirs >= 0 || ours >= 0 {
		return theirs > ours
	}
	clause, _, _ := strings.Cut(after, " not ")
	clause, _, _ = strings.Cut(clause, " so that ")
	return notOurs.in(clause) && !ourNoun.in(clause)
}

// lastOf is where the last match in s begins; -1: there is none.
func lastOf(p pattern, s string) int {
	found := p.matches(s)
	if len(found) == 0 {
		return -1
	}
	return found[len(found)-1][0]
}

// lasts says that minutes in a sentence are those of a recording: it, or what is near it, names one, or the text does
// and the sentence says nothing but a length; and it is not about something that happens at a time and a place.
func (r *reader) lasts(s span) bool {
	text := r.digits[s.start:s.end]
	switch {
	case delayWord.in(text), otherLabel.MatchString(text), liveOnly.in(text):
		return false
	case liveWord.in(text) && !toBeMade.in(text):
		return fileWord.in(text)
	}
	near := r.digits[max(0, s.start-120):min(len(r.digits), s.end+60)]
	return mediaWord.in(near) || recorded.in(text) || fragment.MatchString(text) && fileWord.in(r.plain)
}
