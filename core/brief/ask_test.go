package brief

import (
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/brief/prose"
	"orario/core/timing"
)

// Everything that is read can be put away and taken out again.
func TestABriefSurvivesStorage(t *testing.T) {
	text, err := os.ReadFile("prose/testdata/written.txt")
	require.NoError(t, err)
	kinds := map[string]bool{}
	for _, block := range strings.Split(string(text), "\n=== ")[1:] {
		asks := Asked(prose.Read(block, monday))
		stored, err := json.Marshal(asks)
		require.NoError(t, err)
		var back []Ask
		require.NoError(t, json.Unmarshal(stored, &back), block)
		require.Len(t, back, len(asks))
		for i := range asks {
			kinds[asks[i].Item.Kind] = true
			label, said := asks[i].Said()
			againLabel, again := back[i].Said()
			assert.Equal(t, label, againLabel)
			assert.Equal(t, said, again)
		}
		assert.Equal(t, FillAsked(asks), FillAsked(back))
	}
	assert.Greater(t, len(kinds), 15)
	assert.ErrorContains(t, new(prose.Item).UnmarshalJSON([]byte(`{"kind":"weather","value":1}`)), "weather")
	assert.Error(t, new(prose.Item).UnmarshalJSON([]byte(`{"kind":"due","value":1}`)))
}

// A time is written in the same way wherever it stands.
func TestTimesAreSaidAlike(t *testing.T) {
	said := map[string]string{}
	for _, a := range Asked(prose.Read("Due 6 May, 18:00. Until then you may upload again, and the last version counts.", monday)) {
		label, words := a.Said()
		said[label] = words
	}
	require.Contains(t, said["due"], " 6 May ")
	assert.True(t, strings.HasSuffix(said["attempts"], "the latest counts, until "+said["due"]), said["attempts"])
}

// Every example that a complaint offers is understood.
func TestCorrectionsAreReadAsTyped(t *testing.T) {
	for _, k := range Kinds {
		i, err := Reread(k.Name, k.Example, monday)
		if assert.NoError(t, err, k.Name) {
			assert.Equal(t, k.Name, i.Kind)
		}
	}
	_, err := Reread("", "at most 10 MB", monday)
	require.NoError(t, err)
	i, err := Reread("late", "5 points per started day", monday)
	require.NoError(t, err)
	assert.Equal(t, timing.PerDay, i.Value.(prose.Late).Kind)
	i, err = Reread("", "Fri 8 May 18:00", monday)
	require.NoError(t, err)
	assert.Equal(t, "2026-05-08T18:00", i.Value)
	i, err = Reread("points", "25", monday)
	require.NoError(t, err)
	assert.Equal(t, 25.0, i.Value)
	_, err = Reread("due", "3/4", monday)
	assert.ErrorContains(t, err, "not settled")
	_, err = Reread("pages", "blue", monday)
	assert.ErrorContains(t, err, "4 to 6 pages")
}

func TestPartsHaveWindowsOfTheirOwn(t *testing.T) {
	wall := func(kind, at, thing string) Ask {
		return Ask{Item: prose.Item{Kind: kind, Value: at}, Thing: thing, From: FromYou, Settled: true}
	}
	f := FillAsked([]Ask{
		wall("due", "2026-05-20T18:00", "final"),
		wall("due", "2026-05-08T18:00", "draft"),
		wall("opens", "2026-05-10T08:00", "final"),
		wall("closes", "2026-05-22T18:00", ""),
		wall("closes", "2026-05-09T18:00", "draft"),
	})
	assert.Equal(
		t,
		[]Part{
			{"draft", "", "2026-05-08T18:00", "2026-05-09T18:00", nil},
			{"final", "2026-05-10T08:00", "2026-05-20T18:00", "2026-05-22T18:00", nil},
		},
		f.Parts,
	)

	sheet, list := Merge(f.Sheet, Own{Asks: []Ask{wall("due", "2026-05-20T18:00", "final")}}, "{family}_{course}")
	assert.Equal(
		t,
		[]Requirement{
			{"due", "final: Wed 20 May 2026 18:00", FromYou, true, 1, true},
			{"name", "{family}_{course}", FromCourse, false, 0, false},
		},
		list,
	)
	assert.Empty(t, sheet.Name)
}
