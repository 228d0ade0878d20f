package timing

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func zone(t testing.TB, name string) *time.Location {
	t.Helper()
	loc, err := time.LoadLocation(name)
	require.NoError(t, err)
	return loc
}

// The transitions are those of the IANA tz database (release 2024a and later); how a wall time that
// falls on one is read: RFC 5545 §3.3.5.
func TestWallTimesOnTransitions(t *testing.T) {
	for _, c := range []struct{ what, zone, wall, want string }{
		{"RFC 5545's own example of a gap", "America/New_York", "2007-03-11T02:30", "2007-03-11T07:30:00Z"},
		{"RFC 5545's own example of an overlap", "America/New_York", "2007-11-04T01:30", "2007-11-04T05:30:00Z"},
		{"Lisbon forward", "Europe/Lisbon", "2026-03-29T01:30", "2026-03-29T01:30:00Z"},
		{"Lisbon back", "Europe/Lisbon", "2026-10-25T01:30", "2026-10-25T00:30:00Z"},
		{"Azores, gap at midnight", "Atlantic/Azores", "2026-03-29T00:30", "2026-03-29T01:30:00Z"},
		{"Halifax back", "America/Halifax", "2026-11-01T01:15", "2026-11-01T04:15:00Z"},
		{
			"southern hemisphere: Sydney forward in October",
			"Australia/Sydney",
			"2026-10-04T02:30",
			"2026-10-03T16:30:00Z",
		},
		{"southern hemisphere: Sydney back in April", "Australia/Sydney", "2026-04-05T02:30", "2026-04-04T15:30:00Z"},
		{"Lord Howe moves by 30 minutes, gap", "Australia/Lord_Howe", "2026-10-04T02:15", "2026-10-03T15:45:00Z"},
		{"Lord Howe moves by 30 minutes, overlap", "Australia/Lord_Howe", "2026-04-05T01:45", "2026-04-04T14:45:00Z"},
		{"Samoa skipped a whole day", "Pacific/Apia", "2011-12-30T12:00", "2011-12-30T22:00:00Z"},
		{"the hour after the gap is an ordinary one", "America/New_York", "2007-03-11T03:00", "2007-03-11T07:00:00Z"},
	} {
		w, err := ParseWall(c.wall, zone(t, c.zone))
		require.NoError(t, err, c.what)
		assert.Equal(t, c.want, w.At().Format(time.RFC3339), c.what)
	}
}

func TestWallTimesThatExistComeBackUnchanged(t *testing.T) {
	zones := []string{
		"Europe/Lisbon",
		"Atlantic/Azores",
		"America/Halifax",
		"Australia/Lord_Howe",
		"Asia/Kathmandu",
		"America/Santiago",
	}
	rapid.Check(t, func(t *rapid.T) {
		loc, _ := time.LoadLocation(rapid.SampledFrom(zones).Draw(t, "zone"))
		at := time.Unix(rapid.Int64Range(0, 2_000_000_000).Draw(t, "unix")/60*60, 0).In(loc)
		wall, err := ParseWall(at.Format("2006-01-02T15:04"), loc)
		if err != nil {
			t.Fatal(err)
		}
		if got := wall.At(); got.After(at) || got.In(loc).Format("2006-01-02T15:04") != at.Format("2006-01-02T15:04") {
			t.Fatalf("%s became %s", at, got.In(loc))
		}
	})
}

func TestEndOfTheWrittenMinute(t *testing.T) {
	lisbon := zone(t, "Europe/Lisbon")
	minute, _ := ParseWall("2026-11-27T23:59", lisbon)
	second, _ := ParseWall("2026-11-27T23:59:30", lisbon)
	assert.Equal(t, "2026-11-28T00:00:00Z", minute.End().Format(time.RFC3339))
	assert.Equal(t, "2026-11-27T23:59:31Z", second.End().Format(time.RFC3339))
	_, err := ParseWall("2026-11-27", lisbon)
	assert.ErrorContains(t, err, "write it like")
}
