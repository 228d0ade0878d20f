package planner

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// PERT's formulas (Malcolm et al. 1959) on figures worked by hand: 60, 90, 180 min.
func TestEffort(t *testing.T) {
	mean, deviation := Effort{60, 90, 180}.Expected()
	assert.InDelta(t, 100, mean, 1e-9)
	assert.InDelta(t, 20, deviation, 1e-9)
	assert.Equal(t, 133*time.Minute, Effort{60, 90, 180}.Planned())
}

func TestCapacityFollowsTheZone(t *testing.T) {
	lisbon, _ := time.LoadLocation("Europe/Lisbon")
	from := time.Date(2026, 10, 24, 0, 0, 0, 0, lisbon) // the clocks go back on Sunday
	got := UsualWeek.Capacity(from, from.AddDate(0, 0, 2), lisbon)
	assert.Equal(t, 10*time.Hour, Within(got, from, from.AddDate(0, 0, 2)))
	assert.Equal(t, 10, got[0].Start.UTC().Hour(), "summer time on Saturday")
	assert.Equal(t, 11, got[1].Start.UTC().Hour(), "winter time on Sunday")
}

func TestPastWorkShiftsTheEstimate(t *testing.T) {
	assert.Equal(t, 1.0, Factor(nil))
	hour := time.Hour
	assert.InDelta(t, 4.0/3, Factor([]Past{{hour, 2 * hour}}), 1e-9, "one piece that took twice as long counts a third")
	assert.InDelta(
		t,
		1.75,
		Factor([]Past{
			{hour, 2 * hour},
			{hour, 2 * hour},
			{hour, 2 * hour},
			{hour, 2 * hour},
			{hour, 2 * hour},
			{hour, 2 * hour},
		}),
		1e-9,
	)
	assert.Equal(t, 1.0, Factor([]Past{{0, hour}, {hour, 0}}), "nothing follows from nothing")
}

func TestBusyTimesAndTheMostOfADay(t *testing.T) {
	free := []Interval{{h(0), h(4)}, {h(10), h(14)}}
	assert.Equal(
		t,
		[]Interval{{h(0), h(1)}, {h(2), h(4)}, {h(12), h(14)}},
		Less(free, []Interval{{h(1), h(2)}, {h(9), h(12)}}),
	)
	assert.Equal(t, free, Less(free, nil))
	assert.Empty(t, Less(free, []Interval{{h(-1), h(20)}}))
	// t0 is 8:00 UTC, so that h(16) is midnight.
	assert.Equal(
		t,
		[]Interval{{h(0), h(3)}, {h(16), h(19)}},
		AtMost([]Interval{{h(0), h(4)}, {h(14), h(20)}}, span(3), time.UTC),
	)
}
