package calendar

import (
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"

	"github.com/teambition/rrule-go"
)

// What one file may cost, all its rules together.
const (
	mostItems = 50_000     // laid out in the stretch
	mostTimes = 3_000_000  // gone through, before the stretch too
	mostSteps = 40_000_000 // hours, minutes or seconds that rules step through
)

var errTooMany = fmt.Errorf("the calendar's repeating entries make more than %d items in that time; "+
	"export a shorter stretch, or leave such entries out", mostItems)

// budget is what is left of it.
type budget struct{ items, times, steps int }

var allowance = budget{mostItems, mostTimes, mostSteps}

// spend takes n from a part of the budget.
func spend(left *int, n int) error {
	if *left -= n; *left < 0 {
		return errTooMany
	}
	return nil
}

// rule lays out a recurrence rule for from ≤ t ≤ to. All times are wall times held as UTC; until turns the UTC time
// of an UNTIL into one. Rules that make too many items for what is left of the budget, or none ever, are refused, so
// that any file is answered within seconds.
func (b *budget) rule(
	text string,
	start time.Time,
	until func(time.Time) time.Time,
	from, to time.Time,
) ([]time.Time, error) {
	o, err := rrule.StrToROption(normal(text))
	if err != nil {
		return nil, fmt.Errorf("the rule %q cannot be read: %w", text, err)
	}
	o.Dtstart = start
	if err := possible(o); err != nil {
		return nil, fmt.Errorf("the rule %q: %w", text, err)
	}
	if !o.Until.IsZero() {
		if strings.Contains(strings.ToUpper(text), "Z") && untilIsUTC(text) {
			o.Until = until(o.Until)
		} else if untilIsDate(text) && (start.Hour() != 0 || start.Minute() != 0 || start.Second() != 0) {
			o.Until = o.Until.Add(24*time.Hour - time.Second) // a date includes its day
		}
	}
	if o.Until.IsZero() || o.Until.After(to) {
		o.Until = to
	}
	if o.Count == 0 {
		o.Dtstart = ahead(o, from)
	}
	if o.Dtstart.After(o.Until) {
		return nil, nil
	}
	if err := spend(&b.steps, int(o.Until.Sub(o.Dtstart)/stride(o.Freq))); err != nil {
		return nil, err
	}
	r, err := rrule.NewRRule(*o)
	if err != nil {
		return nil, fmt.Errorf("the rule %q cannot be used: %w", text, err)
	}
	var out []time.Time
	next := r.Iterator()
	for {
		t, ok := next()
		if !ok || t.After(to) {
			return out, nil
		}
		if err := spend(&b.times, 1); err != nil {
			return nil, err
		}
		if t.Before(from) {
			continue
		}
		if err := spend(&b.items, 1); err != nil {
			return nil, err
		}
		out = append(out, t)
	}
}

// stride is what the library goes through for a rule, one after another: days, or what is shorter.
func stride(f rrule.Frequency) time.Duration {
	switch f {
	case rrule.HOURLY:
		return time.Hour
	case rrule.MINUTELY:
		return time.Minute
	case rrule.SECONDLY:
		return time.Second
	}
	return 24 * time.Hour
}

// ahead is the last beginning of a rule's periods before an instant from which it goes on as from its own; a rule
// that counts has to be gone through from the start. Days that not every month has are not moved.
func ahead(o *rrule.ROption, from time.Time) time.Time {
	start, interval := o.Dtstart, max(1, o.Interval)
	months := 0
	switch o.Freq {
	case rrule.YEARLY:
		months = 12
	case rrule.MONTHLY:
		months = 1
	case rrule.WEEKLY:
		return stepped(start, from, 7*24*time.Hour*time.Duration(interval))
	default:
		return stepped(start, from, stride(o.Freq)*time.Duration(interval))
	}
	between := (from.Year()-start.Year())*12 + int(from.Month()-start.Month()) - 1
	if start.Day() > 28 || between <= 0 {
		return start
	}
	months *= interval
	return start.AddDate(0, between/months*months, 0)
}

func stepped(start, from time.Time, step time.Duration) time.Time {
	for skip := from.Sub(start); skip >= step; skip = from.Sub(start) { // a Duration holds no more than 292 years
		start = start.Add(skip / step * step)
	}
	return start
}

// normal drops what the library does not read but producers write.
func normal(text string) string {
	text = strings.ToUpper(strings.TrimSpace(strings.TrimPrefix(text, "RRULE:")))
	var out []string
	for part := range strings.SplitSeq(text, ";") {
		part = strings.TrimSpace(part)
		if part != "" && !strings.HasPrefix(part, "X-") && !strings.HasPrefix(part, "RSCALE=") &&
			!strings.HasPrefix(part, "SKIP=") {
			out = append(out, part)
		}
	}
	return strings.Join(out, ";")
}

func untilPart(text string) string {
	_, rest, _ := strings.Cut(strings.ToUpper(text), "UNTIL=")
	value, _, _ := strings.Cut(rest, ";")
	return value
}

func untilIsUTC(text string) bool  { return strings.HasSuffix(untilPart(text), "Z") }
func untilIsDate(text string) bool { return !strings.Contains(untilPart(text), "T") }

// possible refuses rules that no time ever agrees with, for which the library would search for minutes or
// for ever.
func possible(o *rrule.ROption) error {
	if o.Interval < 0 || o.Interval > 100_000 || o.Count < 0 {
		return errors.New("its interval or count cannot be used")
	}
	longest := []int{31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31}
	if len(o.Bymonthday) > 0 && len(o.Bymonth) > 0 {
		ok := false
		for _, m := range o.Bymonth {
			for _, d := range o.Bymonthday {
				ok = ok || m >= 1 && m <= 12 && d != 0 && max(d, -d) <= longest[m-1]
			}
		}
		if !ok {
			return errors.New("no month has such a day")
		}
	}
	for _, bad := range []struct {
		values     []int
		least, end int
	}{
		{o.Bymonth, 1, 12}, {o.Bymonthday, -31, 31}, {o.Byyearday, -366, 366}, {o.Byweekno, -53, 53},
		{o.Byhour, 0, 23}, {o.Byminute, 0, 59}, {o.Bysecond, 0, 60}, {o.Bysetpos, -366, 366},
	} {
		for _, v := range bad.values {
			if v < bad.least || v > bad.end || bad.least < 0 && v == 0 {
				return errors.New("the number " + strconv.Itoa(v) + " is out of range")
			}
		}
	}
	return meets(o)
}

// meets says whether the steps of a rule by hours, minutes or seconds ever meet the hours it asks for.
func meets(o *rrule.ROption) error {
	unit, day := 0, 0
	switch o.Freq {
	case rrule.HOURLY:
		unit, day = 3600, 24
	case rrule.MINUTELY:
		unit, day = 60, 1440
	case rrule.SECONDLY:
		unit, day = 1, 86400
	default:
		return nil
	}
	at := o.Dtstart.Hour()*3600 + o.Dtstart.Minute()*60 + o.Dtstart.Second()
	in := func(list []int, v int) bool {
		for _, x := range list {
			if x == v {
				return true
			}
		}
		return len(list) == 0
	}
	times := 1 // in one step
	finer := map[rrule.Frequency]int{rrule.HOURLY: 0, rrule.MINUTELY: 1, rrule.SECONDLY: 2}[o.Freq]
	for _, list := range [][]int{o.Byminute, o.Bysecond}[finer:] {
		times *= max(1, len(list))
	}
	for _, position := range o.Bysetpos {
		if max(position, -position) > times {
			return errors.New("one of its steps has fewer times than the position that it asks for")
		}
	}
	for range day {
		if in(o.Byhour, at/3600) && (o.Freq == rrule.HOURLY || in(o.Byminute, at/60%60)) &&
			(o.Freq != rrule.SECONDLY || in(o.Bysecond, at%60)) {
			return nil
		}
		at = (at + unit*max(1, o.Interval)) % 86400
	}
	return errors.New("its steps never meet the hours that it asks for")
}
