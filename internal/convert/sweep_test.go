package convert

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWhatAKilledProcessLeftIsSwept(t *testing.T) {
	root := t.TempDir()
	alive, err := New(root)
	require.NoError(t, err)
	defer alive.Close()
	old := time.Now().Add(-2 * justMade)
	folder := func(name string, at time.Time) string {
		path := filepath.Join(root, name)
		require.NoError(t, os.MkdirAll(filepath.Join(path, "look-1"), 0o700))
		require.NoError(t, os.Chtimes(path, at, at))
		return path
	}
	left, before, fresh, foreign := folder("run-1", old), folder("look-2", old), folder("run-3", time.Now()), folder("notes", old)
	require.NoError(t, os.Chtimes(alive.dir, old, old))
	other, err := New(root) // as a process does at its start
	require.NoError(t, err)
	for path, stays := range map[string]bool{left: false, before: false, fresh: true, foreign: true, alive.dir: true, other.dir: true} {
		_, err := os.Stat(path)
		assert.Equal(t, stays, err == nil, path)
	}
	require.NoError(t, os.Chtimes(fresh, old, old))
	alive.Sweep() // as it does once an hour
	assert.NoDirExists(t, fresh)
	other.Close()
	assert.NoDirExists(t, other.dir)
}
