package timing

import (
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWhatNoSumCanBeMadeOfIsRefused(t *testing.T) {
	due := time.Date(2026, 11, 27, 23, 59, 0, 0, time.UTC)
	for what, c := range map[string]struct {
		job Job
		ok  bool
	}{
		"nothing":                      {Job{}, true},
		"no bytes and no rate":         {Job{Rate: 0}, true},
		"bytes and no rate":            {Job{Bytes: 1}, false},
		"bytes and a rate under 0":     {Job{Bytes: 1, Rate: -1}, false},
		"bytes and no number":          {Job{Bytes: 1, Rate: math.NaN()}, false},
		"bytes at the rate of a snail": {Job{Bytes: 1 << 40, Rate: 1e-9}, false},
		"a century to the minute":      {Job{Margin: MostMinutes * time.Minute}, true},
		"a minute more":                {Job{Margin: (MostMinutes + 1) * time.Minute}, false},
		"a margin under 0":             {Job{Margin: -time.Minute}, false},
	} {
		at, parts, err := SendBy(due, c.job)
		assert.Equal(t, c.ok, err == nil, what)
		if err != nil {
			assert.Equal(t, due, at, what)
			continue
		}
		require.Len(t, parts, 4, what)
		assert.False(t, at.After(due), what)
	}
}
