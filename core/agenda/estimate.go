package agenda

import (
	"fmt"
	"strings"
	"time"
	"unicode"

	"orario/core/planner"
	"orario/core/wording"
)

// estimate sets what the plan reckons with: the student's own figure (of three the PERT figure), shifted by what work
// of the same kind in the same course took so far.
func (p *Plan) estimate() {
	past := map[string][]planner.Past{}
	for _, e := range p.Entries {
		if !e.Ahead() && e.SentAt != nil && e.Done > 0 {
			done := planner.Past{Planned: e.effort(), Took: time.Duration(e.Done) * time.Minute}
			past[e.kind()] = append(past[e.kind()], done)
		}
	}
	for _, e := range p.Entries {
		own := e.effort()
		e.Minutes = int(own / time.Minute)
		if before := past[e.kind()]; e.Ahead() && len(before) > 0 {
			e.shift(own, planner.Factor(before))
		}
	}
}

func (e *Entry) shift(own time.Duration, factor float64) {
	e.Minutes = int((time.Duration(float64(own) * factor)).Round(5*time.Minute) / time.Minute)
	more := int(100*factor+0.5) - 100
	if more == 0 {
		return
	}
	word := "longer"
	if more < 0 {
		word, more = "less", -more
	}
	e.Estimate = fmt.Sprintf("%s in all: your %s, and %d %% %s by what such work took before.",
		wording.Work(time.Duration(e.Minutes)*time.Minute), wording.Work(own), more, word)
}

func (e *Entry) effort() time.Duration {
	of := e.Standing.Effort
	if of.Low > 0 || of.High > 0 {
		return planner.Effort{
			Optimistic:  float64(of.Low),
			Likely:      float64(of.Likely),
			Pessimistic: float64(of.High),
		}.Planned()
	}
	return time.Duration(of.Likely) * time.Minute
}

// kind is the kind of work within a course: the first word of its title, as in "Sheet 5" and "Lab 4, Tides".
func (e *Entry) kind() string {
	words := strings.FieldsFunc(strings.ToLower(e.Title), func(r rune) bool { return !unicode.IsLetter(r) })
	if len(words) == 0 {
		return fmt.Sprint(e.Course.ID)
	}
	return fmt.Sprint(e.Course.ID, words[0])
}
