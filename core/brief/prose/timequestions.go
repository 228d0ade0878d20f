package prose

import (
	"slices"
	"time"
)

// slashOrder is the order of day and month that any slashed date of the text settles.
func (r *reader) slashOrder(today time.Time) string {
	for _, m := range r.mentions {
		if m.day != nil && m.day.slash != [2]int{} {
			if order := slashOrder(
				m.day.slash[0],
				m.day.slash[1],
				0,
				m.day.week,
				almanac{today: today, from: today},
			); order != "" {
				return order
			}
		}
	}
	return ""
}

func (r *reader) dueAsked() bool {
	return slices.ContainsFunc(r.asked, func(q Question) bool {
		return slices.ContainsFunc(
			r.mentions,
			func(m mention) bool { return m.role == due && m.overlaps(span{q.Start, q.End}) },
		)
	})
}

// promoteUnknown takes a lone date whose role nothing tells for the due date.
func (r *reader) promoteUnknown() {
	candidate := -1
	for i, m := range r.mentions {
		if m.role == unknown && m.day != nil {
			if candidate >= 0 {
				return
			}
			candidate = i
		}
	}
	if candidate >= 0 {
		r.mentions[candidate].role = due
	}
}

// oneDueEach keeps one due time for each part: what is repeated once, what was corrected in its last
// form. Two times for the same thing are asked about.
func (r *reader) oneDueEach(dues []settled) []settled {
	var out []settled
	for _, d := range dues {
		i := slices.IndexFunc(out, func(o settled) bool {
			return o.at.Equal(d.at) || midnight(o.at).Equal(midnight(d.at)) && (!o.full || !d.full)
		})
		switch {
		case i < 0:
			out = append(out, d)
		case d.full && !out[i].full:
			d.zone = cmpOr(d.zone, out[i].zone)
			out[i] = d
		default:
			out[i].zone = cmpOr(out[i].zone, d.zone)
		}
	}
	if len(out) < 2 {
		return out
	}
	for i := len(out) - 1; i >= 0; i-- {
		if s := out[i].sentence; movedCue.in(r.plain[s.start:s.end]) {
			if partner := slices.IndexFunc(
				out,
				func(o settled) bool { return o.sentence == s && o.start < out[i].start },
			); partner >= 0 ||
				len(out) == 2 {
				return []settled{out[i]}
			}
		}
	}
	if out[0].sentence == out[1].sentence {
		return out
	}
	labels, of := map[string]bool{}, map[int]string{}
	for _, d := range out {
		of[d.start] = label(d.before)
		labels[of[d.start]] = true
	}
	if len(labels) == len(out) && !labels[""] {
		return out
	}
	if len(labels) >= 2 {
		parts := out[:0:0]
		for _, d := range out {
			if of[d.start] != "" {
				parts = append(parts, d)
			}
		}
		if len(parts) >= 2 {
			return parts
		}
	}
	r.ask("The text names two due times; which holds?", out[1].span)
	return nil
}

var (
	classTime = rule(
		"class|lectur|seminar|tutorial|session|lab|practical|lesson|exam|meeting|period|week",
		`\b(?:before|at the (?:start|beginning|end) of|by the (?:start|beginning|end) of|by|in|until|`+
			`after)(?: (?:the|our|your|each|next|my|this))*(?: (?:next|first|last|following|coming))? (class|`+
			`lecture|seminar|tutorial|session|lab session|practical|lesson|exam|meeting|period)\b`,
	)
)

// eventQuestions asks where due hangs on something that the text does not date.
func (r *reader) eventQuestions(known bool) {
	if known || r.dueAsked() {
		return
	}
	for _, s := range r.sentences {
		m := classTime.first(r.plain, s)
		if m == nil {
			continue
		}
		before := r.plain[s.start:m[0]]
		if dueCue.in(before) && !wrongCue.in(before) && !elseCue.in(before) || dueCue.in(r.plain[m[1]:s.end]) {
			r.ask("When is the "+group(r.plain, m, 1)+"?", span{m[0], m[1]})
			return
		}
	}
}
