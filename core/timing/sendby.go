package timing

import (
	"fmt"
	"math"
	"time"
)

// A Job is what sending some work needs before its due time. The zero value needs nothing.
type Job struct {
	Bytes       int64
	Rate        float64 // bytes per second, the pessimistic figure of past transfers on that site
	Rounds      int     // report rounds wanted before due
	FirstReport time.Duration
	LaterReport time.Duration // for a replaced file
	Fix         time.Duration // to correct, per round
	Margin      time.Duration // the student's own
}

// Turnarounds of similarity reports and the margin, where nothing else is known: common practice.
const (
	UsualFirstReport = time.Hour
	UsualLaterReport = 24 * time.Hour
	UsualMargin      = 24 * time.Hour
)

// A Component is one term of the sum that send-by is made of, in whole minutes.
type Component struct {
	Part    string `json:"part"` // margin, transfer, report or fix
	Minutes int64  `json:"minutes"`
}

// SendBy is due as written less the larger of the margin and what the job needs: a transfer of two
// tries, the report rounds and the time to correct after each. It returns all four components. Bytes without a rate
// above 0 have no time to go by, and a need of more than [MostMinutes] cannot be meant: both are errors.
func SendBy(due time.Time, j Job) (time.Time, []Component, error) {
	transfer := int64(0)
	if j.Bytes > 0 {
		minutes := math.Ceil(2 * float64(j.Bytes) / j.Rate / 60)
		if !(j.Rate > 0) || minutes > MostMinutes { // NaN is not above 0 either
			return due, nil, fmt.Errorf("%d bytes at %g bytes per second take no time that can be planned with",
				j.Bytes, j.Rate)
		}
		transfer = int64(minutes)
	}
	report, fix := int64(0), int64(0)
	if j.Rounds > 0 {
		report = inMinutes(j.FirstReport) + int64(j.Rounds-1)*inMinutes(j.LaterReport)
		fix = int64(j.Rounds) * inMinutes(j.Fix)
	}
	margin := inMinutes(j.Margin)
	need := max(margin, transfer+report+fix)
	if need > MostMinutes || min(margin, report, fix) < 0 {
		return due, nil, fmt.Errorf("what sending needs, %d minutes, cannot be meant", need)
	}
	return due.Add(-time.Duration(need) * time.Minute), []Component{
		{"margin", margin}, {"transfer", transfer}, {"report", report}, {"fix", fix},
	}, nil
}

func inMinutes(d time.Duration) int64 { return int64(d / time.Minute) }

// RoundsLeft is how many report rounds, each with time to correct, still fit between now and due.
// The first report of an attempt not yet sent takes FirstReport, each later one LaterReport;
// replaced says that a first report has been had already. attemptsLeft bounds it.
func RoundsLeft(now, due time.Time, j Job, replaced bool, attemptsLeft int) int {
	n := 0
	for at := now; n < attemptsLeft; n++ {
		wait := j.LaterReport
		if n == 0 && !replaced {
			wait = j.FirstReport
		}
		if at = at.Add(wait + j.Fix); at.After(due) {
			break
		}
	}
	return n
}

// CrowdSpan is how close due times must lie to be each other's crowd.
const CrowdSpan = 30 * time.Minute

// Crowd counts the due times within [CrowdSpan] of t, t's own included, and says whether the hour is
// crowded: three or more, or the last quarter of an hour before local midnight, which is crowded
// even alone (common practice).
func Crowd(t time.Time, all []time.Time, zone *time.Location) (n int, crowded bool) {
	for _, other := range all {
		if d := other.Sub(t); d >= -CrowdSpan && d <= CrowdSpan {
			n++
		}
	}
	local := t.In(zone)
	return n, n >= 3 || local.Hour() == 23 && local.Minute() >= 45
}
