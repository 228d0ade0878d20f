package calendar

import (
	"cmp"
	"slices"
	"strings"
	"time"
)

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
	changed []entry       // instances, the newest of each
	at      map[int64]int // by the instant that they change
}

func (s *series) title() string {
	if s.master != nil {
		return s.master.text("SUMMARY")
	}
	return s.changed[0].text("SUMMARY")
}

func (s *series) add(e entry) {
	if !e.hasID {
		if s.master == nil || e.newer(*s.master) {
			s.master = &e
		}
		return
	}
	if i, ok := s.at[e.id.at.Unix()]; ok {
		if e.newer(s.changed[i]) {
			s.changed[i] = e
		}
		return
	}
	s.at[e.id.at.Unix()] = len(s.changed)
	s.changed = append(s.changed, e)
}

// replaces says whether an instance of its own stands in the place of the one at an instant.
func (s *series) replaces(at time.Time) bool {
	_, ok := s.at[at.Unix()]
	return ok
}

// following are the changes that hold for all later instances, too, in the order of time.
func (s *series) following() (list []*entry) {
	for i := range s.changed {
		if s.changed[i].future {
			list = append(list, &s.changed[i])
		}
	}
	slices.SortStableFunc(list, func(a, b *entry) int { return a.id.at.Compare(b.id.at) })
	return list
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
		if !recurs && !s.replaces(base.anchor.at) {
			item := r.item(*s.master, base)
			if base.due.at.IsZero() || !r.within.Fixed || r.holds(base.due.at) {
				out = append(out, item)
			}
		}
		following := s.following()
		var latest *entry // the change that holds for an instance and all after it
		for _, start := range starts {
			for len(following) > 0 && !following[0].id.at.After(start.at) {
				latest, following = following[0], following[1:]
			}
			if s.replaces(start.at) {
				continue
			}
			of, times := *s.master, base.moved(start)
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
		UID:         e.uid,
		Title:       e.text("SUMMARY"),
		Course:      course,
		Due:         rfc3339(t.due.at),
		End:         rfc3339(t.end.at),
		Opens:       rfc3339(t.opens.at),
		AllDay:      t.due.date,
		Floating:    t.due.floating,
		Zone:        t.due.name,
		Sequence:    e.sequence,
		Todo:        e.name == "VTODO",
		Free:        strings.EqualFold(e.text("TRANSP"), "TRANSPARENT"),
		Description: e.text("DESCRIPTION"),
	}
	if status := strings.ToLower(strings.TrimSpace(e.text("STATUS"))); slices.Contains(statuses, status) {
		i.Status = status
	}
	if r.cancelled {
		i.Status = "cancelled"
	}
	return i
}

// instances are the beginnings of a recurrence around the stretch.
func (r *reader) instances(c *component, s span) (out []stamp, recurs bool, err error) {
	if s.anchor.at.IsZero() {
		return nil, false, nil
	}
	lead := s.due.at.Sub(s.anchor.at) // how long before due an instance begins
	from, to := r.within.From.Add(-lead).AddDate(0, 0, -2), r.within.To.Add(-lead).AddDate(0, 0, 2)
	more, gone, err := r.listed(c, s)
	if err != nil {
		return nil, false, err
	}
	add := func(t stamp) {
		if !gone[t.at.Unix()] {
			gone[t.at.Unix()] = true // it is there, and not wanted a second time
			out = append(out, t)
		}
	}
	for _, p := range c.props {
		if p.name != "RRULE" {
			continue
		}
		recurs = true
		until := func(t time.Time) time.Time { return stamp{at: t}.in(s.anchor.zone) }
		walls, err := r.budget.rule(
			p.value,
			s.anchor.wall,
			until,
			stamp{at: from}.in(s.anchor.zone),
			stamp{at: to}.in(s.anchor.zone),
		)
		if err != nil {
			return nil, false, err
		}
		for _, wall := range walls {
			add(s.anchor.with(wall))
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

// listed are the instances that a component adds one by one (RDATE), and those it takes out (EXDATE).
func (r *reader) listed(c *component, s span) (more []stamp, gone map[int64]bool, err error) {
	gone = map[int64]bool{}
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
				return nil, nil, err
			}
			if err := spend(&r.budget.times, 1); err != nil {
				return nil, nil, err
			}
			if p.name == "RDATE" {
				more = append(more, s.anchor.with(t.in(s.anchor.zone)))
				continue
			}
			if t.date && !s.anchor.date { // some producers exclude a time by its date
				t = s.anchor.with(t.wall.Add(s.anchor.wall.Sub(s.anchor.wall.Truncate(24 * time.Hour))))
			}
			gone[t.at.Unix()] = true
		}
	}
	return more, gone, nil
}
