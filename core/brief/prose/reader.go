// Package prose reads an instructor's instructions and finds what they ask for: times, forms, sizes,
// names, amounts and the rest, each with the stretch of the text that says it, and what the text leaves
// open. It is a grammar of the usual English ways of writing these things and knows no particular text.
//
// What a time is for is told by the nearest verb or label that governs it: in its clause first, then in its sentence,
// by the time that it is joined to, by the question that it answers, by the piece of work that its row or the text's
// heading names. Where one time is said to be the due time for sure, what only a "by" makes one gives way, unless it is
// of something that is sent, too; where two still compete, it is asked and not told. The steps are in assign.go and
// weigh.go, in the order in which they are taken. Where no word says which time is the due one, all that stands around
// each is weighed, and a day without an hour is asked for, where another time has one: likely.go.
//
// Ways of saying a thing stand in ways.txt, one a line, and the words that do the same in them in vocabulary.txt; what
// they mean together is here.
package prose

import (
	"cmp"
	"slices"
	"time"

	"orario/core/timing"
)

// An Item is a requirement found. Offsets count code points, end exclusive.
type Item struct {
	Kind  string  `json:"kind"`
	Value any     `json:"value"`
	Zone  string  `json:"zone,omitempty"` // IANA, where the text names one for a time
	Start int     `json:"start"`
	End   int     `json:"end"`
	Sure  float64 `json:"sure"` // 0 to 1
	Thing string  `json:"-"`    // what it is said of, where the text tells
	Part  string  `json:"-"`    // that it belongs to, where there are several with due times of their own
}

// A Question is something that the text leaves open.
type Question struct {
	Question string `json:"question"`
	Start    int    `json:"start"`
	End      int    `json:"end"`
}

// A Reading is what was found in a text and what was not settled, both in the order of the text.
type Reading struct {
	Found     []Item     `json:"found"`
	Unsettled []Question `json:"unsettled"`
}

// Values of items.
type (
	// Bounds is an amount; a bound that is not said is nil.
	Bounds struct {
		Min *float64 `json:"min,omitempty"`
		Max *float64 `json:"max,omitempty"`
	}
	// Attempts is how often work can be sent and which attempt counts.
	Attempts struct {
		Max    int    `json:"max,omitempty"`
		Counts string `json:"counts,omitempty"` // best latest first mean
		Until  string `json:"until,omitempty"`  // a wall time
	}
	// Report says whether work is checked for similarity.
	Report struct {
		Checked bool `json:"checked"`
		Drafts  *int `json:"drafts,omitempty"`
	}
	// Style is how a text is set.
	Style struct {
		Spacing   float64 `json:"spacing,omitempty"`
		Font      string  `json:"font,omitempty"`
		Size      float64 `json:"size,omitempty"` // points
		Citations string  `json:"citations,omitempty"`
	}
	// Late is the late rule, as far as it is said.
	Late struct {
		Kind         timing.Kind   `json:"kind"`
		Percent      *float64      `json:"percent,omitempty"`
		Of           string        `json:"of,omitempty"`
		Hours        float64       `json:"hours,omitempty"`
		Steps        []timing.Step `json:"steps,omitempty"`
		Cap          *float64      `json:"cap,omitempty"`
		Floor        float64       `json:"floor,omitempty"`
		WeekendsFree bool          `json:"weekends_free,omitempty"`
	}
)

// reader gathers what is found.
type reader struct {
	*text
	now      time.Time // in the zone of the reader
	found    []Item
	asked    []Question
	mentions []mention
	dues     []Item  // settled, of all parts
	order    *string // of day and month in slashed dates; nil: not looked for yet
	parts    []part
	taken    []span // that one rule has used up and no other may read
}

// Read finds the requirements in a text. Dates without a year and weekdays count from the day of now in its
// location. Time is about linear in the length of the text.
func Read(original string, now time.Time) Reading {
	whole, back := unbroken(original)
	r := &reader{text: prepare(whole), now: now}
	r.mentions = r.text.mentions()
	r.assign(r.mentions)
	r.names()
	r.times()
	r.late()
	r.amounts()
	r.forms()
	r.slots()
	r.manner()
	out := Reading{Found: []Item{}, Unsettled: []Question{}}
	for _, i := range r.found {
		if slices.Contains(dividing, i.Kind) {
			i.Part = r.partAt(i.Start)
		}
		i.Start, i.End = back(i.Start), back(i.End)
		out.Found = append(out.Found, i)
	}
	for _, q := range r.asked {
		q.Start, q.End = back(q.Start), back(q.End)
		if !slices.ContainsFunc(
			out.Unsettled,
			func(o Question) bool { return (span{o.Start, o.End}).overlaps(span{q.Start, q.End}) },
		) {
			out.Unsettled = append(out.Unsettled, q)
		}
	}
	slices.SortStableFunc(out.Found, func(a, b Item) int {
		return cmp.Or(cmp.Compare(a.Start, b.Start), cmp.Compare(a.End, b.End), cmp.Compare(a.Kind, b.Kind))
	})
	slices.SortStableFunc(out.Unsettled, func(a, b Question) int { return cmp.Compare(a.Start, b.Start) })
	return out
}

func (r *reader) find(kind string, value any, at span, sure float64) {
	r.found = append(r.found, Item{Kind: kind, Value: value, Start: at.start, End: at.end, Sure: sure})
}

func (r *reader) ask(question string, at span) {
	r.asked = append(r.asked, Question{question, at.start, at.end})
}

// has says whether an item of a kind was found.
func (r *reader) has(kind string) bool {
	return slices.ContainsFunc(r.found, func(i Item) bool { return i.Kind == kind })
}

func (r *reader) isTaken(s span) bool {
	return slices.ContainsFunc(r.taken, s.overlaps)
}

// Sentences cuts a text into its sentences; the function returns the one that an offset lies in, "" if none.
func Sentences(original string) func(at int) string {
	t := prepare(original)
	return func(at int) string {
		if at < 0 || at >= len(t.original) {
			return ""
		}
		s := t.sentence(at)
		return string(t.original[s.start:s.end])
	}
}
