package planner

import (
	"slices"
	"time"
)

// Hours is a stretch of a weekday, in minutes from local midnight.
type Hours struct {
	From int `json:"from"`
	To   int `json:"to"`
}

// A Week is when a student can work, by weekday from Sunday on.
type Week [7][]Hours

// UsualWeek is assumed where the student has said nothing: four evening hours on weekdays and five by
// day at weekends.
var UsualWeek = Week{
	{
		{11 * 60, 16 * 60},
	},
	{{17 * 60, 21 * 60}},
	{{17 * 60, 21 * 60}},
	{{17 * 60, 21 * 60}},
	{{17 * 60, 21 * 60}},
	{{17 * 60, 21 * 60}},
	{{11 * 60, 16 * 60}},
}

// Capacity lays a week out between two instants, in the student's zone.
func (w Week) Capacity(from, to time.Time, zone *time.Location) []Interval {
	var out []Interval
	for day := from.In(zone).AddDate(0, 0, -1); day.Before(to.AddDate(0, 0, 1)); day = day.AddDate(0, 0, 1) {
		for _, h := range w[day.Weekday()] {
			at := func(minutes int) time.Time {
				return time.Date(day.Year(), day.Month(), day.Day(), minutes/60, minutes%60, 0, 0, zone).UTC()
			}
			if i := (Interval{later(at(h.From), from), earlier(at(h.To), to)}); i.Start.Before(i.End) {
				out = append(out, i)
			}
		}
	}
	return out
}

// Less takes busy times out of a capacity.
func Less(capacity, busy []Interval) []Interval {
	var out []Interval
	for _, free := range union(capacity) {
		at := free.Start
		for _, b := range union(busy) {
			if b.End.After(at) && b.Start.Before(free.End) {
				if b.Start.After(at) {
					out = append(out, Interval{at, b.Start})
				}
				at = b.End
			}
		}
		if at.Before(free.End) {
			out = append(out, Interval{at, free.End})
		}
	}
	return out
}

// AtMost keeps the first so much of every local day's capacity.
func AtMost(capacity []Interval, most time.Duration, zone *time.Location) []Interval {
	used := map[string]time.Duration{}
	var out []Interval
	for _, free := range union(capacity) {
		for at := free.Start; at.Before(free.End); {
			local := at.In(zone)
			day := local.Format(time.DateOnly)
			midnight := time.Date(local.Year(), local.Month(), local.Day()+1, 0, 0, 0, 0, zone)
			end := earlier(free.End, midnight)
			if room := earlier(end, at.Add(most-used[day])); room.After(at) {
				out = append(out, Interval{at, room.UTC()})
				used[day] += room.Sub(at)
			}
			at = end.UTC()
		}
	}
	return slices.Clip(out)
}
