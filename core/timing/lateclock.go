package timing

import "time"

// A lateClock counts late time from an instant on; with freeWeekends it stands still on Saturdays
// and Sundays of its zone, local midnight to midnight, whatever their real length.
type lateClock struct {
	start        time.Time
	zone         *time.Location
	freeWeekends bool
}

func (w Window) clock(rule Rule) lateClock {
	return lateClock{w.lateFrom(), w.Zone, rule.WeekendsFree}
}

// A reading is the late time passed, and whether the clock runs at that instant.
type reading struct {
	passed  time.Duration
	running bool
}

// begun counts the periods that have begun: one begins the moment the clock runs at its start.
func (r reading) begun(period time.Duration) int {
	if r.running {
		return int(r.passed/period) + 1
	}
	return int((r.passed + period - 1) / period)
}

func (r reading) reached(after time.Duration) bool {
	return r.passed > after || r.running && r.passed == after
}

func (c lateClock) read(t time.Time) reading {
	if t.Before(c.start) {
		return reading{}
	}
	if !c.freeWeekends {
		return reading{t.Sub(c.start), true}
	}
	var passed time.Duration
	for from := c.start; ; {
		free, until := c.stretch(from)
		if t.Before(until) {
			if !free {
				passed += t.Sub(from)
			}
			return reading{passed, !free}
		}
		if !free {
			passed += until.Sub(from)
		}
		from = until
	}
}

// when is the first instant at which the clock runs and shows the given late time.
func (c lateClock) when(passed time.Duration) time.Time {
	if !c.freeWeekends {
		return c.start.Add(passed)
	}
	for from := c.start; ; {
		free, until := c.stretch(from)
		if !free {
			if length := until.Sub(from); passed >= length {
				passed -= length
			} else {
				return from.Add(passed)
			}
		}
		from = until
	}
}

// stretch says whether t lies in a weekend and when that stretch of weekend or week ends.
func (c lateClock) stretch(t time.Time) (free bool, until time.Time) {
	local := t.In(c.zone)
	weekday := int(local.Weekday())
	days := 6 - weekday // to Saturday
	if weekday == 6 {
		free, days = true, 2
	} else if weekday == 0 {
		free, days = true, 1
	}
	day := time.Date(local.Year(), local.Month(), local.Day()+days, 0, 0, 0, 0, time.UTC)
	return free, resolve(day, c.zone)
}
