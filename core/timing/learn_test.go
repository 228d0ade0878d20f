package timing

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestTheRateThatIsReckonedWith(t *testing.T) {
	for name, c := range map[string]struct {
		old   float64
		bytes int64
		took  time.Duration
		want  float64
		ok    bool
	}{
		"the first":                 {0, 1_000_000, 2 * time.Second, 500_000, true},
		"a slower one counts":       {500_000, 1_000_000, 10 * time.Second, 100_000, true},
		"a faster one by a tenth":   {500_000, 1_000_000, time.Second, 550_000, true},
		"an equal one":              {500_000, 1_000_000, 2 * time.Second, 500_000, true},
		"too small to say anything": {500_000, 64<<10 - 1, time.Hour, 500_000, false},
		"just large enough":         {0, 64 << 10, time.Second, 64 << 10, true},
		"no time at all":            {500_000, 1_000_000, 0, 500_000, false},
		"a clock that went back":    {500_000, 1_000_000, -time.Second, 500_000, false},
	} {
		t.Run(name, func(t *testing.T) {
			rate, ok := Rate(c.old, c.bytes, c.took)
			assert.InDelta(t, c.want, rate, 1e-6)
			assert.Equal(t, c.ok, ok)
		})
	}
}

func TestHowFarAClockIsFromOurs(t *testing.T) {
	ours := time.Date(2026, 11, 26, 20, 0, 0, 0, time.UTC)
	for _, c := range []struct{ ahead, way, want time.Duration }{
		{0, 0, 0}, {499 * time.Millisecond, 0, 0}, {500 * time.Millisecond, 0, 500 * time.Millisecond},
		{-499 * time.Millisecond, 0, 0}, {-500 * time.Millisecond, 0, -500 * time.Millisecond},
		{time.Minute, 2 * time.Second, time.Minute}, {time.Minute + 300*time.Microsecond, 0, time.Minute},
		{-time.Hour, 10 * time.Second, -time.Hour},
	} {
		said := ours.Add(c.way / 2).Add(c.ahead)
		assert.Equal(t, c.want, Offset(said, ours, ours.Add(c.way)))
	}
}
