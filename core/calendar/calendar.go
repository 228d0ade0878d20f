// Package calendar reads due times out of iCalendar files (RFC 5545) and tables (RFC 4180).
//
// What is due is the safe side: of a VTODO its DUE, of an event its beginning. Recurrences are laid out
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
)

// An Item is something that is due, or a time that is taken. Instants are RFC 3339 in UTC; what is not there is empty.
type Item struct {
	UID string `json:"uid"`
	// The instant (all-day: the date) that an instance of a recurrence stands for
	RecurrenceID string `json:"recurrence_id"`
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

	Todo        bool    `json:"-"` // a VTODO, no VEVENT
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

// A LeftOut is an entry of a calendar that cannot be read, with all of its instances.
type LeftOut struct {
	UID, Title string
	Why        error
}

func (l LeftOut) String() string { return fmt.Sprintf("%s: %v", cmp.Or(l.Title, l.UID), l.Why) }

// Read lists the items of an iCalendar file by due time. floating is the zone of times without one, nil for
// the calendar's own or UTC. An entry that cannot be read is left out; it is an error only where there is no other, and
// where a file as a whole takes too much.
func Read(text string, within Stretch, floating *time.Location) ([]Item, []LeftOut, error) {
	calendars, err := parse(text)
	if err != nil {
		return nil, nil, err
	}
	list, left, entries := []Item{}, []LeftOut(nil), 0
	for _, c := range calendars {
		r := newReader(c, within, floating)
		items, err := r.read(c)
		if err != nil {
			return nil, nil, err
		}
		list, left, entries = append(list, items...), append(left, r.left...), entries+r.entries
	}
	if len(left) > 0 && len(left) == entries {
		return nil, nil, fmt.Errorf("%s: %w", left[0].UID, left[0].Why)
	}
	sortItems(list)
	return list, left, nil
}

func sortItems(list []Item) {
	slices.SortStableFunc(list, func(a, b Item) int {
		return cmp.Or(
			strings.Compare(a.Due, b.Due),
			strings.Compare(a.UID, b.UID),
			strings.Compare(a.RecurrenceID, b.RecurrenceID),
		)
	})
}

type reader struct {
	zones
	within    Stretch
	course    string
	cancelled bool // the whole calendar cancels
	left      []LeftOut
	entries   int // by their UIDs
}

func newReader(c *component, within Stretch, floating *time.Location) *reader {
	r := &reader{
		zones: zones{
			own:      map[string]*component{},
			made:     map[string]*time.Location{},
			floating: floating,
			budget:   allowance,
		},
		within:    within,
		course:    c.text("X-WR-CALNAME"),
		cancelled: strings.EqualFold(c.text("METHOD"), "CANCEL"),
	}
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
	return r
}

// read lists the items of a calendar. What is wrong with one entry is noted and costs only that one.
func (r *reader) read(c *component) ([]Item, error) {
	all := map[string]*series{}
	var order []string
	bad := map[string]LeftOut{}
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
				bad[e.uid] = LeftOut{e.uid, e.text("SUMMARY"), err}
			}
			e.id, e.hasID, e.future = id, true, strings.EqualFold(p.params["RANGE"], "THISANDFUTURE")
		}
		s := all[e.uid]
		if s == nil {
			s = &series{at: map[int64]int{}}
			all[e.uid] = s
			order = append(order, e.uid)
		}
		s.add(e)
	}
	r.entries = len(order)
	var list []Item
	for _, uid := range order {
		items, err := r.items(all[uid])
		if errors.Is(err, errTooMany) {
			return nil, fmt.Errorf("%s: %w", uid, err)
		}
		out, isBad := bad[uid]
		if !isBad && err != nil {
			out, isBad = LeftOut{uid, all[uid].title(), err}, true
		}
		if isBad {
			r.left = append(r.left, out)
			continue
		}
		list = append(list, items...)
	}
	return list, nil
}

func rfc3339(t time.Time) string {
	if t.IsZero() {
		return ""
	}
	return t.UTC().Format(time.RFC3339)
}
