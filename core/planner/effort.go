package planner

import "time"

// Effort is how long work takes, in minutes: optimistic, likely and pessimistic.
type Effort struct{ Optimistic, Likely, Pessimistic float64 }

// Expected is the mean (o+4m+p)/6 and the standard deviation (p−o)/6 (PERT; Malcolm, Roseboom, Clark
// and Fazar 1959).
func (e Effort) Expected() (mean, deviation float64) {
	return (e.Optimistic + 4*e.Likely + e.Pessimistic) / 6, (e.Pessimistic - e.Optimistic) / 6
}

// Planned is the time to set aside: the mean and 1.645 deviations, enough in 95 of 100 cases.
func (e Effort) Planned() time.Duration {
	mean, deviation := e.Expected()
	return time.Duration((mean + 1.645*deviation) * float64(time.Minute)).Round(time.Minute)
}

// Past is work that is done: what was planned for it and what it took.
type Past struct{ Planned, Took time.Duration }

// doubt is how many pieces of past work it takes to believe them as much as the first guess.
const doubt = 2

// Factor is by how much work of a kind takes longer (above 1) or less long than planned, shrunk towards 1
// while little is known: (doubt + the sum of took/planned) / (doubt + how many). It lies between 1/3 and 3.
func Factor(past []Past) float64 {
	sum, n := float64(doubt), float64(doubt)
	for _, p := range past {
		if p.Planned > 0 && p.Took > 0 {
			sum += float64(p.Took) / float64(p.Planned)
			n++
		}
	}
	return min(3, max(1.0/3, sum/n))
}
