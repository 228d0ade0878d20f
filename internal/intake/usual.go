package intake

import (
	"slices"
	"strings"
	"time"

	"orario/core/brief"
	"orario/core/brief/prose"
	"orario/core/coursework"
	"orario/core/wording"
)

// begin is the brief that a new assignment of a course begins with where nothing else is said.
func begin(u coursework.Usual, asks []brief.Ask, now time.Time) []brief.Ask {
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

// squeezed is a course's code as people type it.
func squeezed(code string) string {
	return strings.ToLower(strings.NewReplacer(" ", "", "-", "", "_", "", ".", "").Replace(code))
}

// untitled takes a course's code off the beginning of a title, as in "HYD 214: Lab 3".
func untitled(title, code string) string {
	at := 0
	for _, want := range squeezed(code) {
		for at < len(title) && strings.ContainsRune(" -_.", rune(title[at])) {
			at++
		}
		if at == len(title) || squeezed(title[at:at+1]) != string(want) {
			return title
		}
		at++
	}
	if rest := strings.TrimLeft(title[at:], " :,–-"); rest != "" && rest != title[at:] {
		return wording.Upper(rest)
	}
	return title
}
