package brief_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"orario/core/brief"
	"orario/core/brief/prose"
)

func TestStyleIsThatOfTheSlotFirst(t *testing.T) {
	of := func(thing string, s prose.Style) brief.Ask {
		a := brief.Yours("style", s)
		a.Thing = thing
		return a
	}
	asks := []brief.Ask{
		of("", prose.Style{Font: "Arial", Size: 11}), brief.Yours("forms", []string{"pdf"}),
		of("essay", prose.Style{Size: 12}), of("", prose.Style{Spacing: 1.5}), of("", prose.Style{Spacing: 2}),
	}
	assert.Equal(t, prose.Style{Font: "Arial", Size: 12, Spacing: 1.5}, brief.StyleOf(asks, "essay"))
	assert.Equal(t, prose.Style{Font: "Arial", Size: 11, Spacing: 1.5}, brief.StyleOf(asks, "data"))
	assert.Zero(t, brief.StyleOf(nil, ""))
}
