package main

import (
	"encoding/json"
	"testing"

	"orario/core/timing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func answer(t *testing.T, scenario string) *timingAnswer {
	t.Helper()
	var s timingScenario
	require.NoError(t, json.Unmarshal([]byte(scenario), &s))
	a, err := s.answer()
	require.NoError(t, err)
	return a
}

func TestStatesAndTheirChanges(t *testing.T) {
	a := answer(
		t,
		`{"zone":"Atlantic/Azores","opens":"2026-09-14T08:00","due":"2026-10-25T23:59","closes":"2026-10-30T23:59",
		"grace_minutes":5,"late":{"kind":"per_day","percent":10,"of":"possible"},"points":20,
		"at":["2026-09-14T07:59:00Z","2026-09-14T08:00:00Z","2026-10-26T01:05:00Z","2026-10-31T01:00:00Z"]}`,
	)
	assert.Equal(t, "2026-10-26T00:59:00Z", a.Due) // the Azores are at UTC-1 since that morning
	for i, want := range []struct {
		state timing.State
		next  string
	}{
		{
			timing.NotOpen,
			"2026-09-14T08:00:00Z"}, {timing.Open,
			"2026-10-26T01:05:00Z"}, {timing.Late,
			"2026-10-31T01:00:00Z"}, {timing.Closed,
			"",
		},
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
	assert.Equal(t, curveAnswer{"2026-10-26T01:05:00Z", 2}, a.Curve[0])
	assert.Equal(t, curveAnswer{"2026-10-30T01:05:00Z", 10}, a.Curve[4])
}

func TestNoLateWorkShutsAtDue(t *testing.T) {
	a := answer(
		t,
		`{"zone":"Europe/Lisbon","due":"2026-11-06T12:00","points":10,"late":{"kind":"none"},"at":["2026-11-06T12:00:59Z","2026-11-06T12:01:00Z"]}`,
	)
	assert.Equal(t, timing.Open, a.At[0].State)
	assert.Equal(t, timing.Closed, a.At[1].State)
	assert.Empty(t, a.Curve)
}

func TestSendByNamesItsComponents(t *testing.T) {
	a := answer(t, `{"zone":"Europe/Lisbon","due":"2026-11-27T23:59","points":20,"late":{"kind":"none"},
		"bytes":5000000,"rate_bytes_per_second":250000,"report_rounds":2,"fix_minutes":120,"margin_minutes":600}`)
	// 2 × 5 MB at 250 kB/s = 40 s → 1 min; reports 1 h + 24 h; correcting 2 × 2 h.
	assert.Equal(
		t,
		[]timing.Component{
			{Part: "margin", Minutes: 600},
			{Part: "transfer", Minutes: 1},
			{Part: "report", Minutes: 1500},
			{Part: "fix", Minutes: 240},
		},
		a.SendBy.Because,
	)
	assert.Equal(t, "2026-11-26T18:58:00Z", a.SendBy.At)
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
		var s timingScenario
		require.NoError(t, json.Unmarshal([]byte(scenario), &s))
		_, err := s.answer()
		assert.ErrorContains(t, err, complaint, scenario)
	}
}
