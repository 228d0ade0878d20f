package timing

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// aRule draws a late rule of any kind that can be used.
func aRule(t *rapid.T) Rule {
	r := Rule{
		Kind: rapid.SampledFrom([]Kind{Fixed, PerDay, PerHours, Steps}).
			Draw(t, "kind"),
		Of:           rapid.SampledFrom([]string{"earned", "possible", "points"}).Draw(t, "of"),
		Percent:      float64(rapid.IntRange(0, 60).Draw(t, "percent")),
		Hours:        float64(rapid.IntRange(1, 30).Draw(t, "hours")),
		WeekendsFree: rapid.Bool().Draw(t, "weekends"),
	}
	if rapid.Bool().Draw(t, "capped") {
		most := float64(rapid.IntRange(0, 80).Draw(t, "cap"))
		r.Cap = &most
	}
	if rapid.Bool().Draw(t, "floored") {
		r.Floor = float64(rapid.IntRange(0, 20).Draw(t, "floor"))
	}
	after, percent := 0.0, 0.0
	for range rapid.IntRange(1, 4).Draw(t, "steps") {
		after += float64(rapid.IntRange(1, 3000).Draw(t, "after"))
		percent += float64(rapid.IntRange(1, 25).Draw(t, "step"))
		r.Steps = append(r.Steps, Step{AfterMinutes: after, Percent: percent})
	}
	return r
}

func aWindow(t *rapid.T) Window {
	name := rapid.SampledFrom([]string{"UTC", "Europe/Lisbon", "America/Halifax", "Australia/Lord_Howe", "Asia/Kathmandu"}).
		Draw(t, "zone")
	due := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC).
		Add(time.Duration(rapid.IntRange(0, 365*24*60).Draw(t, "due")) * time.Minute)
	closes := ""
	if rapid.Bool().Draw(t, "closing") {
		closes = due.Add(time.Duration(rapid.IntRange(0, 20*24*60).Draw(t, "closes")) * time.Minute).
			Format("2006-01-02T15:04")
	}
	w, err := ParseWindow(
		name,
		due.AddDate(0, 0, -20).Format("2006-01-02T15:04"),
		due.Format("2006-01-02T15:04"),
		closes,
		rapid.IntRange(0, 90).Draw(t, "grace"),
	)
	if err != nil { // closes was written before due and lies after it by a change of the clocks
		t.SkipNow()
	}
	return w
}

// Waiting never makes it cheaper, nothing costs more than there is to lose, and the curve is the cost.
func TestLatenessNeverGetsCheaper(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w, rule := aWindow(t), aRule(t)
		earned, possible := float64(rapid.IntRange(0, 20).Draw(t, "earned")), 20.0
		curve := w.Curve(rule, earned, possible)
		last := 0.0
		for n := range 120 {
			at := w.Due.At().Add(time.Duration(n) * 4 * time.Hour)
			cost := w.Cost(at, rule, earned, possible)
			require.GreaterOrEqual(t, cost, last)
			require.LessOrEqual(t, cost, max(0, earned-rule.Floor))
			last = cost
			if state, _ := w.At(at, rule); state == Late && len(curve) < mostChanges {
				drawn := 0.0
				for _, c := range curve {
					if !c.From.After(at) {
						drawn = c.Cost
					}
				}
				require.InDelta(t, cost, drawn, 1e-9, "at %s", at)
			}
		}
		for i, c := range curve {
			require.InDelta(t, c.Cost, w.Cost(c.From, rule, earned, possible), 1e-9)
			require.Less(t, w.Cost(c.From.Add(-time.Nanosecond), rule, earned, possible), c.Cost, "change %d", i)
		}
	})
}

// The states come in their order, each until the instant that was named.
func TestStatesFollowEachOther(t *testing.T) {
	order := map[State]int{NotOpen: 0, Open: 1, Late: 2, Closed: 3}
	rapid.Check(t, func(t *rapid.T) {
		w, rule := aWindow(t), aRule(t)
		if rapid.Bool().Draw(t, "none") {
			rule = Rule{Kind: NoLateWork}
		}
		at := w.Opens.At().Add(-time.Hour)
		state, next := w.At(at, rule)
		require.Equal(t, NotOpen, state)
		for !next.IsZero() {
			before, _ := w.At(next.Add(-time.Nanosecond), rule)
			require.Equal(t, state, before)
			then, after := w.At(next, rule)
			require.Greater(t, order[then], order[state])
			state, next = then, after
		}
		if _, ever := w.Shuts(rule); ever {
			require.Equal(t, Closed, state)
		} else {
			require.Equal(t, Late, state)
		}
	})
}

// Send-by is before due by the larger of the margin and the sum of what the job needs.
func TestSendByIsNeverLaterThanItsParts(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		minutes := func(name string, most int) time.Duration {
			return time.Duration(rapid.IntRange(0, most).Draw(t, name)) * time.Minute
		}
		j := Job{
			Bytes:       int64(rapid.IntRange(0, 1<<30).Draw(t, "bytes")),
			Rate:        float64(rapid.IntRange(1000, 10_000_000).Draw(t, "rate")),
			Rounds:      rapid.IntRange(0, 4).Draw(t, "rounds"),
			FirstReport: minutes("first", 300),
			LaterReport: minutes("later", 3000),
			Fix:         minutes("fix", 600),
			Margin:      minutes("margin", 5000),
		}
		due := time.Date(2026, 11, 27, 23, 59, 0, 0, time.UTC)
		at, parts, err := SendBy(due, j)
		require.NoError(t, err)
		sum := time.Duration(0)
		for _, p := range parts[1:] {
			sum += time.Duration(p.Minutes) * time.Minute
		}
		require.Equal(t, max(sum, j.Margin), due.Sub(at))
		require.GreaterOrEqual(t, sum.Seconds(), 2*float64(j.Bytes)/j.Rate, "time for two tries")
	})
}
