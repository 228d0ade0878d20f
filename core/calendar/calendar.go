// Package calendar reads due times out of iCalendar files (RFC 5545) and tables (RFC 4180).
//
// What is due is the safe side: of a to-do its DUE, of an event its beginning. Recurrences are laid out
// within a stretch of time, changed and cancelled instances included.
package calendar

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"orario/core/timing"
)

// An Item is something that is due, or a time that is taken. Instants are RFC 3339 in UTC; what is not there is empty.
type Item struct {
	UID          string `json:"uid"`
	RecurrenceID string `json:"recurrence_id"` // the instant (all-day: the date) that an instance of a recurrence stands for
	Title        string `json:"title"`
	Course       string `json:"course"`
	Due          string `json:"due"`
	End          string `json:"end"`
	AllDay       bool   `json:"all_day"`
	Floating     bool   `json:"floating"` // the file names no zone for it
	Opens        string `json:"opens"`
	Zone         string `json:"zone"`
	Status       string `json:"status"` // confirmed tentative cancelled needs-action in-process completed, or empty
	Sequence     int    `json:"sequence"`

	Todo        bool    `json:"-"` // a to-do, no event
	Free        bool    `json:"-"` // TRANSP: it takes no time
	Description string  `json:"-"`
	Closes      string  `json:"-"` // of a table
	Points      float64 `json:"-"` // of a table; 0: not said
	Row         int     `json:"-"` // of a table, the header being 1
}

// A Stretch bounds what is listed: From ≤ due < To. Fixed says that it also bounds items that do not recur.
type Stretch struct {
	From, To time.Time
	Fixed    bool
}

// Around is the year around an instant.
func Around(now time.Time) Stretch {
	return Stretch{From: now.AddDate(0, -6, 0), To: now.AddDate(0, 6, 0)}
}

// Read lists the items of an iCalendar file by due time. floating is the zone of times without one, nil for
// the calendar's own or UTC.
func Read(text string, within Stretch, floating *time.Location) ([]Item, error) {
	calendars, err := parse(text)
	if err != nil {
		return nil, err
	}
	list := []Item{}
	for _, c := range calendars {
		items, err := read(c, within, floating)
		if err != nil {
			return nil, err
		}
		list = append(list, items...)
	}
	sortItems(list)
	return list, nil
}

func sortItems(list []Item) {
	slices.SortStableFunc(list, func(a, b Item) int {
		return cmp.Or(strings.Compare(a.Due, b.Due), strings.Compare(a.UID, b.UID), strings.Compare(a.RecurrenceID, b.RecurrenceID))
	})
}

// entry is a VEVENT or VTODO.
type entry struct {
	*component
	uid      string
	sequence int
	stamp    string
	id       stamp // RECURRENCE-ID
	hasID    bool
	future   bool // RANGE=THISANDFUTURE
}

func (e entry) newer(than entry) bool {
	return cmp.Or(cmp.Compare(e.sequence, than.sequence), strings.Compare(e.stamp, than.stamp)) > 0
}

// series is everything about one UID.
type series struct {
	master  *entry
	changed []entry // instances, the newest of each
}

type reader struct {
	zones
	within    Stretch
	course    string
	cancelled bool // the whole calendar cancels
}

func read(c *component, within Stretch, floating *time.Location) ([]Item, error) {
	r := &reader{zones: zones{own: map[string]*component{}, made: map[string]*time.Location{}, floating: floating}, within: within, course: c.text("X-WR-CALNAME"), cancelled: strings.EqualFold(c.text("METHOD"), "CANCEL")}
	if r.floating == nil {
		r.floating = time.UTC
		if zone, _, ok := r.find(c.text("X-WR-TIMEZONE")); ok {
			r.floating = zone
		}
	}
	for _, part := range c.parts {
		if part.name == "VTIMEZONE" {
			r.own[part.text("TZID")] = part
		}
	}
	all := map[string]*series{}
	var order []string
	for i, part := range c.parts {
		if part.name != "VEVENT" && part.name != "VTODO" {
			continue
		}
		e := entry{component: part, uid: part.text("UID"), stamp: part.text("DTSTAMP")}
		if e.uid == "" {
			e.uid = fmt.Sprintf("without-uid-%d", i+1)
		}
		e.sequence, _ = strconv.Atoi(strings.TrimSpace(part.text("SEQUENCE")))
		if p, ok := part.get("RECURRENCE-ID"); ok {
			id, err := r.stamp(p)
			if err != nil {
				return nil, fmt.Errorf("%s: %w", e.uid, err)
			}
			e.id, e.hasID, e.future = id, true, strings.EqualFold(p.params["RANGE"], "THISANDFUTURE")
		}
		s := all[e.uid]
		if s == nil {
			s = &series{}
			all[e.uid] = s
			order = append(order, e.uid)
		}
		s.add(e)
	}
	var list []Item
	for _, uid := range order {
		items, err := r.items(all[uid])
		if err != nil {
			return nil, fmt.Errorf("%s: %w", uid, err)
		}
		list = append(list, items...)
	}
	return list, nil
}

func (s *series) add(e entry) {
	if !e.hasID {
		if s.master == nil || e.newer(*s.master) {
			s.master = &e
		}
		return
	}
	for i, c := range s.changed {
		if c.id.at.Equal(e.id.at) {
			if e.newer(c) {
				s.changed[i] = e
			}
			return
		}
	}
	s.changed = append(s.changed, e)
}

// items lays a series out.
func (r *reader) items(s *series) ([]Item, error) {
	var out []Item
	if s.master != nil {
		base, err := r.times(s.master.component)
		if err != nil {
			return nil, err
		}
		starts, recurs, err := r.instances(s.master.component, base)
		if err != nil {
			return nil, err
		}
		replaced := slices.ContainsFunc(s.changed, func(c entry) bool { return c.id.at.Equal(base.anchor.at) })
		if !recurs && !replaced {
			item := r.item(*s.master, base)
			if base.due.at.IsZero() || !r.within.Fixed || r.holds(base.due.at) {
				out = append(out, item)
			}
		}
		for _, start := range starts {
			if slices.ContainsFunc(s.changed, func(c entry) bool { return c.id.at.Equal(start.at) }) {
				continue
			}
			of, times := *s.master, base.moved(start)
			var latest *entry
			for i, c := range s.changed {
				if c.future && !c.id.at.After(start.at) && (latest == nil || c.id.at.After(latest.id.at)) {
					latest = &s.changed[i]
				}
			}
			if latest != nil {
				changed, err := r.times(latest.component)
				if err != nil {
					return nil, err
				}
				shift := changed.anchor.wall.Sub(latest.id.in(changed.anchor.zone))
				wall := start.in(changed.anchor.zone).Add(shift)
				of, times = *latest, changed.moved(changed.anchor.with(wall))
			}
			if r.holds(times.due.at) {
				item := r.item(of, times)
				item.UID, item.RecurrenceID = s.master.uid, start.written()
				out = append(out, item)
			}
		}
	}
	for _, c := range s.changed {
		times, err := r.times(c.component)
		if err != nil {
			return nil, err
		}
		item := r.item(c, times)
		item.RecurrenceID = c.id.written()
		if times.due.at.IsZero() && item.Status == "cancelled" { // an instance cancelled without its times
			item.Due = c.id.at.UTC().Format(time.RFC3339)
			times.due = c.id
		}
		if r.holds(times.due.at) || s.master == nil && !r.within.Fixed {
			out = append(out, item)
		}
	}
	return out, nil
}

func (r *reader) holds(due time.Time) bool {
	return !due.Before(r.within.From) && due.Before(r.within.To)
}

var statuses = []string{"confirmed", "tentative", "cancelled", "needs-action", "in-process", "completed"}

// item is the output for one instance.
func (r *reader) item(e entry, t span) Item {
	course := r.course
	if p, ok := e.get("CATEGORIES"); ok && firstOf(p.value) != "" {
		course = firstOf(p.value)
	}
	i := Item{
		UID: e.uid, Title: e.text("SUMMARY"), Course: course, Due: rfc3339(t.due.at), End: rfc3339(t.end.at), Opens: rfc3339(t.opens.at),
		AllDay: t.due.date, Floating: t.due.floating, Zone: t.due.name, Sequence: e.sequence, Todo: e.name == "VTODO", Free: strings.EqualFold(e.text("TRANSP"), "TRANSPARENT"), Description: e.text("DESCRIPTION"),
	}
	if status := strings.ToLower(strings.TrimSpace(e.text("STATUS"))); slices.Contains(statuses, status) {
		i.Status = status
	}
	if r.cancelled {
		i.Status = "cancelled"
	}
	return i
}

func rfc3339(t time.Time) string {
	if t.IsZero() {
		return ""
	}
	return t.UTC().Format(time.RFC3339)
}

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
	shift := start.wall.Sub(s.anchor.wall)
	move := func(t stamp) stamp {
		if t.at.IsZero() {
			return t
		}
		return t.with(t.wall.Add(shift))
	}
	return span{move(s.anchor), move(s.due), move(s.end), move(s.opens)}
}

// instances are the beginnings of a recurrence around the stretch.
func (r *reader) instances(c *component, s span) (out []stamp, recurs bool, err error) {
	if s.anchor.at.IsZero() {
		return nil, false, nil
	}
	lead := s.due.at.Sub(s.anchor.at) // how long before due an instance begins
	from, to := r.within.From.Add(-lead).AddDate(0, 0, -2), r.within.To.Add(-lead).AddDate(0, 0, 2)
	gone := map[int64]bool{}
	add := func(t stamp) {
		if !gone[t.at.Unix()] && !slices.ContainsFunc(out, func(o stamp) bool { return o.at.Equal(t.at) }) {
			out = append(out, t)
		}
	}
	var more []stamp
	for _, p := range c.props {
		if p.name != "EXDATE" && p.name != "RDATE" {
			continue
		}
		for value := range strings.SplitSeq(p.value, ",") {
			value, _, _ = strings.Cut(value, "/") // a period: its beginning
			if strings.TrimSpace(value) == "" {
				continue
			}
			t, err := r.stamp(property{value: value, params: p.params})
			if err != nil {
				return nil, false, err
			}
			if p.name == "EXDATE" {
				if t.date && !s.anchor.date { // some producers exclude a time by its date
					t = s.anchor.with(t.wall.Add(s.anchor.wall.Sub(s.anchor.wall.Truncate(24 * time.Hour))))
				}
				gone[t.at.Unix()] = true
			} else {
				more = append(more, s.anchor.with(t.in(s.anchor.zone)))
			}
		}
	}
	for _, p := range c.props {
		if p.name != "RRULE" {
			continue
		}
		recurs = true
		until := func(t time.Time) time.Time { return stamp{at: t}.in(s.anchor.zone) }
		walls, err := rule(p.value, s.anchor.wall, until, stamp{at: from}.in(s.anchor.zone), stamp{at: to}.in(s.anchor.zone))
		if err != nil {
			return nil, false, err
		}
		for _, wall := range walls {
			if t := s.anchor.with(wall); !gone[t.at.Unix()] {
				out = append(out, t)
			}
		}
	}
	for _, t := range more {
		recurs = true
		add(t)
	}
	if recurs {
		add(s.anchor) // the beginning counts even where the rule leaves it out
	}
	slices.SortFunc(out, func(a, b stamp) int { return a.at.Compare(b.at) })
	return out, recurs, nil
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
