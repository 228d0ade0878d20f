package calendar

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"orario/core/timing"
)

// stamp is a date or time as written.
type stamp struct {
	at       time.Time // the instant
	wall     time.Time // its fields, held as UTC
	zone     *time.Location
	name     string
	date     bool
	floating bool
}

// in are the fields of a stamp in a zone.
func (s stamp) in(zone *time.Location) time.Time {
	if s.date || s.zone == zone {
		return s.wall
	}
	l := s.at.In(zone)
	return time.Date(l.Year(), l.Month(), l.Day(), l.Hour(), l.Minute(), l.Second(), 0, time.UTC)
}

// with is another time in the same zone and of the same kind.
func (s stamp) with(wall time.Time) stamp {
	s.wall = wall
	s.at = timing.Resolve(wall.Year(), wall.Month(), wall.Day(), wall.Hour(), wall.Minute(), wall.Second(), s.zone)
	return s
}

func (s stamp) written() string {
	if s.date {
		return s.wall.Format(time.DateOnly)
	}
	return rfc3339(s.at)
}

var errTime = errors.New("a time is not written like 20261105T235900")

// dateTime reads the fields of a DATE or DATE-TIME.
func dateTime(value string) (wall time.Time, date bool, err error) {
	value = strings.TrimSpace(value)
	if len(value) == 8 {
		wall, err = time.Parse("20060102", value)
		date = true
	} else {
		wall, err = time.Parse("20060102T150405", strings.TrimSuffix(value, "Z"))
	}
	if err != nil {
		err = fmt.Errorf("%q: %w", value, errTime)
	}
	return wall, date, err
}

func (r *reader) stamp(p property) (stamp, error) {
	wall, date, err := dateTime(p.value)
	if err != nil {
		return stamp{}, err
	}
	s := stamp{zone: r.floating, name: r.floating.String(), date: date, floating: !date}
	if strings.HasSuffix(strings.TrimSpace(p.value), "Z") {
		s.zone, s.name, s.floating = time.UTC, "UTC", false
	} else if tzid := p.params["TZID"]; tzid != "" && !date {
		if zone, name, ok := r.find(tzid); ok {
			s.zone, s.name, s.floating = zone, name, false
		}
	}
	return s.with(wall), nil
}

// span are the times of an item; anchor is what recurs.
type span struct {
	anchor, due, end, opens stamp
}

// endOfDay is when something is due that has a date only.
const endOfDay = 23*time.Hour + 59*time.Minute

// times reads DTSTART, DUE, DTEND and DURATION.
func (r *reader) times(c *component) (s span, err error) {
	var start, due, end stamp
	for name, into := range map[string]*stamp{"DTSTART": &start, "DUE": &due, "DTEND": &end} {
		if p, ok := c.get(name); ok && strings.TrimSpace(p.value) != "" {
			if *into, err = r.stamp(p); err != nil {
				return s, err
			}
		}
	}
	length, hasLength := time.Duration(0), false
	days := 0
	if p, ok := c.get("DURATION"); ok {
		if days, length, err = duration(p.value); err != nil {
			return s, err
		}
		hasLength = true
	}
	after := func(from stamp) stamp { // nominal days, then exact time (RFC 5545 §3.3.6)
		to := from.with(from.wall.AddDate(0, 0, days))
		if length == 0 {
			return to
		}
		if from.date {
			return to.with(to.wall.Add(length))
		}
		to.at = to.at.Add(length)
		to.wall = stamp{at: to.at}.in(to.zone)
		return to
	}
	s.anchor = start
	switch {
	case c.name == "VEVENT":
		s.due = lastMinute(start)
		if !end.at.IsZero() {
			s.end = end
		} else if hasLength && !start.at.IsZero() {
			s.end = after(start)
		}
	case !due.at.IsZero():
		s.due, s.opens = lastMinute(due), start
		if start.at.IsZero() {
			s.anchor = due
		}
	case hasLength && !start.at.IsZero():
		s.due = lastMinute(after(start))
	default:
		s.due = stamp{}
	}
	return s, nil
}

func lastMinute(s stamp) stamp {
	if s.date && !s.at.IsZero() {
		return s.with(s.wall.Add(endOfDay))
	}
	return s
}

// moved is the same item beginning at another time.
func (s span) moved(start stamp) span {
	move := func(t stamp) stamp {
		if t.at.IsZero() {
			return t
		}
		// Not by how far start is from the anchor: that may be more than a Duration holds.
		return t.with(start.wall.Add(t.wall.Sub(s.anchor.wall)))
	}
	return span{move(s.anchor), move(s.due), move(s.end), move(s.opens)}
}

// duration reads P15DT5H0M20S, P7W, -PT15M: whole days and exact time.
func duration(text string) (days int, exact time.Duration, err error) {
	rest, sign := strings.TrimSpace(text), 1
	if strings.HasPrefix(rest, "-") {
		sign = -1
	}
	rest = strings.TrimLeft(rest, "+-")
	bad := fmt.Errorf("the duration %q is not written like P1DT2H30M", text)
	if !strings.HasPrefix(rest, "P") || len(rest) < 3 {
		return 0, 0, bad
	}
	inTime, n, digits := false, 0, 0
	for _, c := range rest[1:] {
		switch {
		case c >= '0' && c <= '9':
			if n, digits = n*10+int(c-'0'), digits+1; digits > 7 {
				return 0, 0, bad
			}
			continue
		case c == 'T' && !inTime && digits == 0:
			inTime = true
			continue
		case digits == 0:
			return 0, 0, bad
		case c == 'W' && !inTime:
			days += 7 * n
		case c == 'D' && !inTime:
			days += n
		case c == 'H' && inTime:
			exact += time.Duration(n) * time.Hour
		case c == 'M' && inTime:
			exact += time.Duration(n) * time.Minute
		case c == 'S' && inTime:
			exact += time.Duration(n) * time.Second
		default:
			return 0, 0, bad
		}
		n, digits = 0, 0
	}
	if digits > 0 {
		return 0, 0, bad
	}
	return sign * days, time.Duration(sign) * exact, nil
}
