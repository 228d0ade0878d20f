package main

import (
	"context"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// The short form: a few submissions over a line on which every tenth answer is wrong, with programs killed all the time.
func TestEverySubmissionIsSettledRightly(t *testing.T) {
	binary := os.Getenv("ORARIO_BINARY")
	require.NotEmpty(t, binary, `run "make test", or set ORARIO_BINARY to the built program`)
	trial := &trial{
		submissions: 24,
		accounts:    3,
		processes:   2,
		faults:      100,
		between:     1500 * time.Millisecond,
		most:        3 * time.Minute,
		binary:      binary,
		dir:         t.TempDir(),
		root:        "../..",
	}
	if unmount, err := smallDisk(t.TempDir(), 1); err == nil {
		unmount()
		trial.disk = 2000
	} else {
		t.Logf("the disk does not fill up here: %v", err)
	}
	require.NoError(t, trial.run(context.Background()))
	require.NotEmpty(t, trial.had)
	require.Positive(t, trial.proxy.had.Load())
}
