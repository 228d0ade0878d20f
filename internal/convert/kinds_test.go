package convert

import (
	"encoding/json"
	"flag"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/inspect"
)

var update = flag.Bool("update", false, "write what the interface knows of kinds anew")

const ofInterface = "../../web/src/shared/kinds.json"

// The interface offers for each kind what can be done with it here, no more and no less.
func TestKindsOfTheInterface(t *testing.T) {
	want, err := json.MarshalIndent(Kinds(), "", "  ")
	require.NoError(t, err)
	if *update {
		require.NoError(t, os.WriteFile(ofInterface, append(want, '\n'), 0o644))
	}
	there, err := os.ReadFile(ofInterface)
	require.NoError(t, err)
	assert.JSONEq(t, string(want), string(there), `run "make generate"`)
}

// Every kind is told apart by its contents, every form that is offered can be made, and sound never becomes film.
func TestKindsAreKnown(t *testing.T) {
	for kind, use := range Kinds() {
		assert.NotEmpty(t, use.Becomes, kind)
		for _, extension := range use.Becomes {
			assert.NoError(t, Wishes{}.fit(forms[extension], 1), "%s to %s", kind, extension)
			assert.True(t, can(kind, forms[extension]))
		}
		assert.Equal(t, use.Sort == Sound || use.Sort == Film, inspect.IsRecording(kind), kind)
	}
	assert.False(t, can("mp3", "mp4"))
	assert.False(t, can("zip", "pdf"))
	assert.False(t, can("pdf", "docx"))
}
