package timing

import "time"

// smallestSample is the smallest transfer that says something about a line, in bytes.
const smallestSample = 64 << 10

// Rate is the rate to reckon with, in bytes per second, after a transfer: a slower one counts at once, a faster one
// moves it by a tenth. old is 0 where nothing is known; a transfer too small to say anything is not ok.
func Rate(old float64, bytes int64, took time.Duration) (rate float64, ok bool) {
	if bytes < smallestSample || took <= 0 {
		return old, false
	}
	rate = float64(bytes) / took.Seconds()
	if old > 0 && rate > old {
		rate = old + (rate-old)/10
	}
	return rate, true
}

// clockNoise is how far apart two clocks may seem to be because of an answer's way alone.
const clockNoise = 500 * time.Millisecond

// Offset is another clock less ours, by what it said when it was asked between two times of ours: it is taken to have
// looked halfway. Within the noise of the answer's way the clocks are the same.
func Offset(said, asked, answered time.Time) time.Duration {
	offset := said.Sub(asked.Add(answered.Sub(asked) / 2)).Truncate(time.Millisecond)
	if offset.Abs() < clockNoise {
		return 0
	}
	return offset
}
