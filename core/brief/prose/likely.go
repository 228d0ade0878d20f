package prose

import (
	"slices"
	"strings"
)

// likelihood is how much speaks for a time being the due one that no word says to be: that it is wanted, that its
// sentence names a place for the work, what it is of, an hour; less for what is about something that takes place.
func (r *reader) likelihood(m mention) (points int) {
	near := span{max(m.sentence.start, m.start-mostBefore), min(m.sentence.end, m.start+mostBefore)}
	sentence := r.plain[near.start:max(near.start, near.end)]
	for _, sign := range []struct {
		points int
		holds  bool
	}{
		{3, wantedThen.in(m.before) || wantedThen.in(sentence) && !happens.in(sentence)},
		{2, placeNamed.in(sentence)},
		{1, isThing(m.before)},
		{1, m.clock != nil},
		{-3, happens.in(sentence) && !beforeEvent.in(sentence)},
		{-3, notOurTime.in(sentence)},
		{-9, m.day != nil && r.passed(m)},
	} {
		if sign.holds {
			points += sign.points
		}
	}
	return points
}

// likeliest is the time for which clearly more speaks than for any other; -1 where there is none.
func (r *reader) likeliest() int {
	best, most, second := -1, 0, 0
	for i, m := range r.mentions {
		if m.role != unknown || m.day == nil || m.day.event {
			continue
		}
		switch n := r.likelihood(m); {
		case n > most:
			best, most, second = i, n, most
		case n > second:
			second = n
		}
	}
	if most < likelyEnough || most-second < 2 {
		return -1
	}
	return best
}

// likelyEnough is the likelihood of a time from which it is told.
const likelyEnough = 3

var (
	wantedThen = rule(`\b(?:{wantedthen})\b`)
	placeNamed = rule(`\b(?:{site}|{folder}|inbox|mailbox|{byhand}|by (?:e-)?mail)\b`)
	notOurTime = rule(`\b(?:{notours}|away|holidays?|returned|discuss\w*|results?|marks|rooms?|booked|vacation|open day)\b`)
)

// labelledDays are times that are told by nothing but a word and a colon each, of which all are due: "Applicant: 4 May.
// Respondent: 11 May."
func (r *reader) labelledDays() (list []int) {
	for i, m := range r.mentions {
		if m.role != unknown || m.day == nil {
			continue
		}
		if !lonelyLabel.MatchString(m.before) || happens.in(m.before) || notOurTime.in(m.before) || r.passed(m) ||
			strings.Trim(r.plain[min(m.end, m.sentence.end):m.sentence.end], " .;,)") != "" {
			return nil
		}
		list = append(list, i)
	}
	if len(list) < 2 {
		return nil
	}
	return list
}

var lonelyLabel = regexpOf(`^\W*[a-z]+ ?[:=] $`)

// surelyDue leaves out, and asks for, days without a time of day that nothing but a weak word makes due, where the text
// names another time that has one: what has an hour is rather when something is due.
func (r *reader) surelyDue(dues []settled) []settled {
	return slices.DeleteFunc(dues, func(d settled) bool {
		weak := !d.full && !d.firm && !(d.day != nil && d.day.whole) && slices.ContainsFunc(r.mentions, func(m mention) bool {
			return m.start != d.start && m.day != nil && m.clock != nil && m.role != opens && !r.passed(m)
		})
		if weak {
			r.ask("The text does not say for sure what "+r.written(d.span)+" is. Is the work due then?", d.span)
		}
		return weak
	})
}

// closesSaid says that the text tells when its box or page shuts, with the hour: that is the due time where no other is.
func (r *reader) closesSaid() bool {
	likely := func(m mention) bool {
		return m.role == unknown && m.day != nil && m.clock != nil && r.likelihood(m) > 0
	}
	return !slices.ContainsFunc(r.mentions, likely) && slices.ContainsFunc(r.mentions, func(m mention) bool {
		return m.role == closes && m.day != nil && m.clock != nil && !m.neg &&
			!lateTold.in(r.plain[m.sentence.start:m.sentence.end])
	})
}
