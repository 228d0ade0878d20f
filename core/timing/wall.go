// Package timing answers when work can be sent, what lateness costs, and by when it should be sent.
//
// Wall times keep the zone they were written in; instants are UTC. The package has no clock:
// the moment of interest is always an argument.
package timing

import (
	"fmt"
	"sync"
	"time"
	_ "time/tzdata" // zones must not depend on the machine
)

var zones sync.Map // of *time.Location by name: reading one costs more than all the rest of a window

// Zone finds a zone by its IANA name.
func Zone(name string) (*time.Location, error) {
	if known, ok := zones.Load(name); ok {
		return known.(*time.Location), nil
	}
	zone, err := time.LoadLocation(name)
	if err != nil || name == "" || name == "Local" {
		return nil, fmt.Errorf("zone %q is not an IANA name such as Europe/Lisbon", name)
	}
	zones.Store(name, zone)
	return zone, nil
}

// A Wall is a date and time as written, to the minute or to the second, in an IANA zone.
type Wall struct {
	at      time.Time // the instant that it is
	seconds bool      // written with seconds
}

// ParseWall reads "2026-10-25T23:59" or "2026-10-25T23:59:30", in the named zone unless an offset
// (RFC 3339) stands behind it. A date without a time is an error.
func ParseWall(text string, zone *time.Location) (Wall, error) {
	for _, form := range []struct {
		layout          string
		seconds, offset bool
	}{
		{"2006-01-02T15:04", false, false},
		{"2006-01-02T15:04:05", true, false},
		{"2006-01-02T15:04Z07:00", false, true},
		{time.RFC3339, true, true},
	} {
		t, err := time.Parse(form.layout, text)
		if err != nil {
			continue
		}
		if !form.offset {
			t = resolve(t, zone)
		}
		return Wall{t.UTC(), form.seconds}, nil
	}
	return Wall{}, fmt.Errorf("time %q: write it like 2026-10-25T23:59", text)
}

// At is the instant of the wall time. A time that a zone skips is read with the offset before the
// gap; one that occurs twice is the first (RFC 5545 §3.3.5).
func (w Wall) At() time.Time { return w.at }

// End is the instant at which the written minute (or second) is over, so that "due 23:59" still
// covers 23:59:59.
func (w Wall) End() time.Time {
	if w.seconds {
		return w.At().Add(time.Second)
	}
	return w.At().Add(time.Minute)
}

// Resolve is the instant at which the clocks of a zone show the given fields, by the rule of [Wall.At].
func Resolve(year int, month time.Month, day, hour, minute, sec int, zone *time.Location) time.Time {
	return resolve(time.Date(year, month, day, hour, minute, sec, 0, time.UTC), zone)
}

func resolve(local time.Time, zone *time.Location) time.Time {
	local = time.Date(
		local.Year(),
		local.Month(),
		local.Day(),
		local.Hour(),
		local.Minute(),
		local.Second(),
		local.Nanosecond(),
		time.UTC,
	)
	// No zone ever moved by more than a day, so two days around hold every transition that matters.
	const around = 50 * time.Hour
	last := local.Add(around)
	for at := local.Add(-around).In(zone); ; {
		_, seconds := at.Zone()
		candidate := local.Add(-time.Duration(seconds) * time.Second)
		_, end := at.ZoneBounds()
		if end.IsZero() || candidate.Before(end) {
			return candidate.UTC()
		}
		// The clocks had not yet shown the time when this offset ended. If they have passed it
		// once the next one begins, it was skipped.
		_, next := end.Zone()
		if local.Add(-time.Duration(next) * time.Second).Before(end) {
			return candidate.UTC()
		}
		if at = end; at.After(last) {
			return candidate.UTC()
		}
	}
}
