package placing

import (
	"slices"
	"time"

	"orario/core/brief"
	"orario/core/brief/prose"
	"orario/core/coursework"
	"orario/core/timing"
)

// Habit is the name pattern that a new course begins with: common practice is the family name with words that describe
// the work.
const Habit = "{family:lower}_{course}_{title:dash}"

// Begin is the brief that a new assignment of a course begins with: what is said of it, and where nothing else is said
// what is usual in the course, to be confirmed.
func Begin(u coursework.Usual, asks []brief.Ask, now time.Time) []brief.Ask {
	has := func(kind string) bool {
		return slices.ContainsFunc(asks, func(a brief.Ask) bool { return a.Item.Kind == kind })
	}
	add := func(i prose.Item) {
		asks = append(asks, brief.Ask{Item: i, From: brief.FromCourse})
	}
	if len(u.Forms) > 0 && !has("forms") {
		add(prose.Item{Kind: "forms", Value: u.Forms, Sure: 1})
	}
	if u.Points > 0 && !has("points") {
		add(prose.Item{Kind: "points", Value: u.Points, Sure: 1})
	}
	if u.Late != "" && !has("late") {
		if i, err := brief.Reread("late", u.Late, now); err == nil { // it was sound when it was set
			add(i)
		}
	}
	return asks
}

// Late is the late rule of a brief: as it is said; where it closes when it is due none; and otherwise late work is
// taken at no price as long as nobody names one.
func Late(f brief.Filled) timing.Rule {
	switch {
	case f.Late != nil:
		return *f.Late
	case len(f.Parts) > 0 && f.Parts[0].Closes == f.Parts[0].Due:
		return timing.Rule{Kind: timing.NoLateWork}
	}
	return timing.Rule{Kind: timing.Fixed, Of: "possible"}
}
