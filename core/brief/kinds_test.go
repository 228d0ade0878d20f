package brief

import (
	"encoding/json"
	"flag"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/brief/prose"
)

var update = flag.Bool("update", false, "write the kinds that the interface offers anew")

const ofInterface = "../../web/src/add/kinds.json"

// The interface offers the kinds that there are, as they are called and written here.
func TestKindsOfTheInterface(t *testing.T) {
	want, err := json.MarshalIndent(Kinds, "", "  ")
	require.NoError(t, err)
	if *update {
		require.NoError(t, os.WriteFile(ofInterface, append(want, '\n'), 0o644))
	}
	there, err := os.ReadFile(ofInterface)
	require.NoError(t, err)
	assert.JSONEq(t, string(want), string(there), `run "make generate"`)
}

// The value of every kind is of the type that it is kept as, is said, and is never mistaken for another's.
func TestEveryKindIsReadKeptSaidAndApplied(t *testing.T) {
	applied := map[string]bool{}
	for _, k := range Kinds {
		i, err := Reread(k.Name, k.Example, monday)
		require.NoError(t, err, k.Name)
		raw, err := json.Marshal(i)
		require.NoError(t, err)
		var back prose.Item
		require.NoError(t, json.Unmarshal(raw, &back), k.Name)
		assert.IsType(t, i.Value, back.Value, k.Name)
		label, text := Say(back)
		assert.NotEmpty(t, label, k.Name)
		assert.NotEmpty(t, text, k.Name)
		without, with := Fill(nil), Fill([]prose.Item{back})
		applied[k.Name] = !assert.ObjectsAreEqual(without, with)

		wrong := prose.Item{Kind: k.Name, Value: struct{}{}}
		_, text = Say(wrong)
		assert.Empty(t, text, k.Name)
		assert.Equal(t, without, Fill([]prose.Item{wrong}), k.Name)
	}
	for _, k := range Kinds {
		switch k.Name {
		case "opens", "closes": // they bound parts, and there is none
		case "route", "style": // they are looked at where work is sent and typed
			assert.False(t, applied[k.Name], k.Name)
		default:
			assert.True(t, applied[k.Name], k.Name)
		}
	}
	label, text := Say(prose.Item{Kind: "weather", Value: "fine"})
	assert.Equal(t, []string{"weather", ""}, []string{label, text})
}
