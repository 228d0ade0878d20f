package timing

import (
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func Example() {
	window, _ := ParseWindow("Europe/Lisbon", "", "2026-11-06T23:59", "", 5)
	rule := Rule{Kind: PerDay, Percent: 10, Of: "possible"}
	at := time.Date(2026, 11, 8, 12, 0, 0, 0, time.UTC)
	state, _ := window.At(at, rule)
	fmt.Println(state, window.DaysLate(at, rule), "days", window.Cost(at, rule, 16, 20), "points")
	// Output: late 2 days 4 points
}

func window(t *testing.T, zone, opens, due, closes string, grace int) Window {
	t.Helper()
	w, err := ParseWindow(zone, opens, due, closes, grace)
	require.NoError(t, err)
	return w
}

func instant(t *testing.T, text string) time.Time {
	t.Helper()
	at, err := time.Parse(time.RFC3339, text)
	require.NoError(t, err)
	return at
}

// Late costs worked by hand for 20 points of which 16 were earned.
func TestLateCosts(t *testing.T) {
	for _, c := range []struct {
		what, late, at string
		state          State
		days           int
		cost           float64
	}{
		{"the due minute itself is in time", `{"kind":"per_day","percent":10,"of":"possible"}`, "2026-11-06T23:59:59Z", Open, 0, 0},
		{"grace costs nothing", `{"kind":"per_day","percent":10,"of":"possible"}`, "2026-11-07T00:04:59Z", Open, 0, 0},
		{"first day: 10 % of 20", `{"kind":"per_day","percent":10,"of":"possible"}`, "2026-11-07T00:05:00Z", Late, 1, 2},
		{"third day begun: 30 % of 16", `{"kind":"per_day","percent":10,"of":"earned"}`, "2026-11-09T00:05:00Z", Late, 3, 4.8},
		{"cap of 25 %", `{"kind":"per_day","percent":10,"of":"possible","cap":25}`, "2026-11-10T00:05:00Z", Late, 4, 5},
		{"floor of 12 points", `{"kind":"per_day","percent":10,"of":"possible","floor":12}`, "2026-11-10T00:05:00Z", Late, 4, 4},
		{"a fixed price is paid once", `{"kind":"fixed","percent":3,"of":"points"}`, "2026-11-12T10:00:00Z", Late, 6, 3},
		{"13 h are three periods of 6 h begun", `{"kind":"per_hours","hours":6,"percent":5,"of":"possible"}`, "2026-11-07T13:05:00Z", Late, 1, 3},
		{"second step, not the sum", `{"kind":"steps","of":"possible","steps":[{"after_minutes":0,"percent":5},{"after_minutes":60,"percent":25}]}`, "2026-11-07T01:05:00Z", Late, 1, 5},
		{"before the first step late costs nothing", `{"kind":"steps","of":"possible","steps":[{"after_minutes":60,"percent":25}]}`, "2026-11-07T00:30:00Z", Late, 1, 0},
		// Due Friday 6 November: the clock stands until Monday 00:00 and then one day begins.
		{"a free weekend", `{"kind":"per_day","percent":10,"of":"possible","weekends_free":true}`, "2026-11-08T12:00:00Z", Late, 0, 0},
		{"Monday after a free weekend", `{"kind":"per_day","percent":10,"of":"possible","weekends_free":true}`, "2026-11-09T00:00:00Z", Late, 1, 2},
		{"Tuesday after a free weekend", `{"kind":"per_day","percent":10,"of":"possible","weekends_free":true}`, "2026-11-10T00:00:00Z", Late, 2, 4},
	} {
		t.Run(c.what, func(t *testing.T) {
			w, at := window(t, "Europe/Lisbon", "", "2026-11-06T23:59", "", 5), instant(t, c.at)
			var rule Rule
			require.NoError(t, json.Unmarshal([]byte(c.late), &rule))
			require.NoError(t, rule.Validate())
			state, _ := w.At(at, rule)
			assert.Equal(t, c.state, state)
			assert.Equal(t, c.days, w.DaysLate(at, rule))
			assert.InDelta(t, c.cost, w.Cost(at, rule, 16, 20), 1e-9)
		})
	}
}

func TestStatesAndTheirChanges(t *testing.T) {
	w := window(t, "Atlantic/Azores", "2026-09-14T08:00", "2026-10-25T23:59", "2026-10-30T23:59", 5)
	rule := Rule{Kind: PerDay, Percent: 10, Of: "possible"}
	// The Azores are at UTC-1 since the morning of 25 October.
	assert.Equal(t, instant(t, "2026-10-26T00:59:00Z"), w.Due.At().UTC())
	for _, c := range []struct {
		at    string
		state State
		next  string
	}{
		{
			"2026-09-14T07:59:00Z",
			NotOpen,
			"2026-09-14T08:00:00Z"}, {"2026-09-14T08:00:00Z",
			Open,
			"2026-10-26T01:05:00Z",
		},
		{"2026-10-26T01:05:00Z", Late, "2026-10-31T01:00:00Z"}, {"2026-10-31T01:00:00Z", Closed, ""},
	} {
		state, next := w.At(instant(t, c.at), rule)
		assert.Equal(t, c.state, state, c.at)
		if c.next == "" {
			assert.True(t, next.IsZero(), c.at)
		} else {
			assert.Equal(t, instant(t, c.next), next.UTC(), c.at)
		}
	}
	curve := w.Curve(rule, 20, 20)
	require.Len(t, curve, 5, "a price a day until it closes")
	assert.Equal(t, Change{instant(t, "2026-10-26T01:05:00Z"), 2}, Change{curve[0].From.UTC(), curve[0].Cost})
	assert.Equal(t, Change{instant(t, "2026-10-30T01:05:00Z"), 10}, Change{curve[4].From.UTC(), curve[4].Cost})
}

func TestNoLateWorkShutsAtDue(t *testing.T) {
	w, rule := window(t, "Europe/Lisbon", "", "2026-11-06T12:00", "", 0), Rule{Kind: NoLateWork}
	state, _ := w.At(instant(t, "2026-11-06T12:00:59Z"), rule)
	assert.Equal(t, Open, state)
	state, _ = w.At(instant(t, "2026-11-06T12:01:00Z"), rule)
	assert.Equal(t, Closed, state)
	assert.Empty(t, w.Curve(rule, 10, 10))
}

func TestRulesThatCannotBeUsed(t *testing.T) {
	for want, rule := range map[string]Rule{
		"kind is required": {}, "none of none": {Kind: "weekly"}, "none of earned": {Kind: Fixed}, "negative": {Kind: Fixed,
			Of:      "points",
			Percent: -1}, "above 0": {Kind: PerHours,
			Of:      "points",
			Percent: 1,
		},
		"steps is required": {
			Kind: Steps,
			Of:   "points"}, "must ascend": {Kind: Steps,
			Of:    "points",
			Steps: []Step{{60, 1}, {60, 2}},
		},
	} {
		t.Run(want, func(t *testing.T) { assert.ErrorContains(t, rule.Validate(), want) })
	}
}

func TestRoundsLeft(t *testing.T) {
	due := time.Date(2026, 11, 27, 23, 59, 0, 0, time.UTC)
	j := Job{FirstReport: UsualFirstReport, LaterReport: UsualLaterReport, Fix: 2 * time.Hour}
	assert.Equal(t, 0, RoundsLeft(due.Add(-2*time.Hour), due, j, false, 9))
	assert.Equal(t, 1, RoundsLeft(due.Add(-3*time.Hour), due, j, false, 9))
	assert.Equal(t, 2, RoundsLeft(due.Add(-29*time.Hour), due, j, false, 9))
	assert.Equal(t, 1, RoundsLeft(due.Add(-29*time.Hour), due, j, true, 9))
	assert.Equal(t, 1, RoundsLeft(due.Add(-90*time.Hour), due, j, false, 1), "attempts bound it")
}

func TestCrowd(t *testing.T) {
	lisbon := zone(t, "Europe/Lisbon")
	noon := time.Date(2026, 11, 27, 12, 0, 0, 0, time.UTC)
	n, crowded := Crowd(noon, []time.Time{noon, noon.Add(30 * time.Minute), noon.Add(31 * time.Minute)}, lisbon)
	assert.Equal(t, 2, n)
	assert.False(t, crowded)
	_, crowded = Crowd(noon.Add(11*time.Hour+59*time.Minute), nil, lisbon)
	assert.True(t, crowded, "the last quarter of an hour before midnight: common practice")
}
