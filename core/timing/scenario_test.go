package timing

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func answer(t *testing.T, scenario string) *Answer {
	t.Helper()
	var s Scenario
	require.NoError(t, json.Unmarshal([]byte(scenario), &s))
	a, err := s.Answer()
	require.NoError(t, err)
	return a
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
		got := answer(t, `{"zone":"Europe/Lisbon","due":"2026-11-06T23:59","grace_minutes":5,"points":20,"earned":16,"late":`+c.late+`,"at":["`+c.at+`"]}`).At[0]
		assert.Equal(t, c.state, got.State, c.what)
		assert.Equal(t, c.days, got.DaysLate, c.what)
		require.NotNil(t, got.CostPoints, c.what)
		assert.InDelta(t, c.cost, *got.CostPoints, 1e-9, c.what)
		assert.InDelta(t, 16-c.cost, *got.Mark, 1e-9, c.what)
	}
}

func TestStatesAndTheirChanges(t *testing.T) {
	a := answer(t, `{"zone":"Atlantic/Azores","opens":"2026-09-14T08:00","due":"2026-10-25T23:59","closes":"2026-10-30T23:59",
		"grace_minutes":5,"late":{"kind":"per_day","percent":10,"of":"possible"},"points":20,
		"at":["2026-09-14T07:59:00Z","2026-09-14T08:00:00Z","2026-10-26T01:05:00Z","2026-10-31T01:00:00Z"]}`)
	assert.Equal(t, "2026-10-26T00:59:00Z", a.Due) // the Azores are at UTC-1 since that morning
	for i, want := range []struct {
		state State
		next  string
	}{
		{NotOpen, "2026-09-14T08:00:00Z"}, {Open, "2026-10-26T01:05:00Z"}, {Late, "2026-10-31T01:00:00Z"}, {Closed, ""},
	} {
		assert.Equal(t, want.state, a.At[i].State)
		if want.next == "" {
			assert.Nil(t, a.At[i].NextChange)
			assert.Nil(t, a.At[i].CostPoints)
		} else {
			assert.Equal(t, want.next, *a.At[i].NextChange)
		}
	}
	require.Len(t, a.Curve, 5, "a price a day until it closes")
	assert.Equal(t, CurveAnswer{"2026-10-26T01:05:00Z", 2}, a.Curve[0])
	assert.Equal(t, CurveAnswer{"2026-10-30T01:05:00Z", 10}, a.Curve[4])
}

func TestNoLateWorkShutsAtDue(t *testing.T) {
	a := answer(t, `{"zone":"Europe/Lisbon","due":"2026-11-06T12:00","points":10,"late":{"kind":"none"},"at":["2026-11-06T12:00:59Z","2026-11-06T12:01:00Z"]}`)
	assert.Equal(t, Open, a.At[0].State)
	assert.Equal(t, Closed, a.At[1].State)
	assert.Empty(t, a.Curve)
}

func TestSendByNamesItsComponents(t *testing.T) {
	a := answer(t, `{"zone":"Europe/Lisbon","due":"2026-11-27T23:59","points":20,"late":{"kind":"none"},
		"bytes":5000000,"rate_bytes_per_second":250000,"report_rounds":2,"fix_minutes":120,"margin_minutes":600}`)
	// 2 × 5 MB at 250 kB/s = 40 s → 1 min; reports 1 h + 24 h; correcting 2 × 2 h.
	assert.Equal(t, []Component{{"margin", 600}, {"transfer", 1}, {"report", 1500}, {"fix", 240}}, a.SendBy.Because)
	assert.Equal(t, "2026-11-26T18:58:00Z", a.SendBy.At)
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

func TestScenariosThatCannotBeUsed(t *testing.T) {
	for scenario, complaint := range map[string]string{
		`{"due":"2026-11-06T23:59","points":1,"late":{"kind":"none"}}`:                                             "required",
		`{"zone":"Mars/Olympus","due":"2026-11-06T23:59","points":1,"late":{"kind":"none"}}`:                       "IANA",
		`{"zone":"UTC","due":"2026-11-06","points":1,"late":{"kind":"none"}}`:                                      "due:",
		`{"zone":"UTC","due":"2026-11-06T10:00","opens":"2026-11-06T10:00","points":1,"late":{"kind":"none"}}`:     "opens must be before",
		`{"zone":"UTC","due":"2026-11-06T10:00","closes":"2026-11-06T09:00","points":1,"late":{"kind":"none"}}`:    "closes must not",
		`{"zone":"UTC","due":"2026-11-06T10:00","points":-1,"late":{"kind":"none"}}`:                               "negative",
		`{"zone":"UTC","due":"2026-11-06T10:00","points":1,"bytes":1,"late":{"kind":"none"}}`:                      "rate_bytes_per_second",
		`{"zone":"UTC","due":"2026-11-06T10:00","points":1,"late":{"kind":"weekly"}}`:                              "late.kind",
		`{"zone":"UTC","due":"2026-11-06T10:00","points":1,"late":{"kind":"per_hours","percent":1,"of":"points"}}`: "late.hours",
	} {
		var s Scenario
		require.NoError(t, json.Unmarshal([]byte(scenario), &s))
		_, err := s.Answer()
		assert.ErrorContains(t, err, complaint, scenario)
	}
}
