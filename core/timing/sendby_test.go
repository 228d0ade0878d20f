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

// Three within half an hour are a crowd, and so is the last quarter of an hour before midnight alone (common practice).
func TestWhatACrowdIs(t *testing.T) {
	at := time.Date(2026, 11, 27, 18, 0, 0, 0, time.UTC)
	for n, crowded := range map[int]bool{1: false, 2: false, 3: true, 4: true} {
		var all []time.Time
		for i := range n {
			all = append(all, at.Add(time.Duration(i%2*2-1)*CrowdSpan)) // at the very edge, before and after
		}
		count, is := Crowd(at, all, time.UTC)
		assert.Equal(t, n, count)
		assert.Equal(t, crowded, is, "%d", n)
	}
	for _, beyond := range []time.Duration{CrowdSpan + time.Nanosecond, -CrowdSpan - time.Nanosecond} {
		n, _ := Crowd(at, []time.Time{at.Add(beyond)}, time.UTC)
		assert.Zero(t, n)
	}
	lisbon, err := Zone("Europe/Lisbon")
	require.NoError(t, err)
	for minute, crowded := range map[int]bool{44: false, 45: true, 59: true} {
		_, is := Crowd(time.Date(2026, 7, 1, 22, minute, 0, 0, time.UTC), nil, lisbon) // an hour later there
		assert.Equal(t, crowded, is, "23:%d", minute)
	}
	_, is := Crowd(time.Date(2026, 7, 1, 23, 0, 0, 0, time.UTC), nil, lisbon)
	assert.False(t, is, "at midnight it is over")
}

func TestTheYearsInWhichCoursesHaveTimes(t *testing.T) {
	for year, sound := range map[int]bool{1989: false, 1990: true, 2200: true, 2201: false} {
		err := SoundWindow("UTC", "", time.Date(year, 6, 1, 12, 0, 0, 0, time.UTC).Format("2006-01-02T15:04"), "", 0)
		assert.Equal(t, sound, err == nil, "%d", year)
	}
	for grace, sound := range map[int]bool{-1: false, 0: true, MostMinutes: true, MostMinutes + 1: false} {
		assert.Equal(t, sound, SoundWindow("UTC", "", "2026-06-01T12:00", "", grace) == nil, "%d", grace)
	}
}
