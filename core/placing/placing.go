// Package placing says where things belong that come in from outside: which course an item of a calendar or a table is
// of, whether it was there before and what has become of it, and what an assignment begins with where nobody says more.
package placing

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"strings"
	"time"

	"orario/core/brief"
	"orario/core/calendar"
	"orario/core/timing"
	"orario/core/wording"
)

// A Course as far as things are filed by it.
type Course struct {
	ID          int64
	Code, Title string
	Archived    bool // nothing new belongs to it
}

// A Known item was filed before. Its ID is 0 where it was not.
type Known struct {
	ID, Course int64
	Due        string // as it is kept, in the course's zone
	Cancelled  bool   // by its calendar, or put away by the student
}

// Key is what an item is found again by: its UID and instance; of a table's rows title and course.
func Key(i calendar.Item) string {
	name := i.UID + "\n" + i.RecurrenceID
	if i.UID == "" {
		name = "row\n" + strings.ToLower(i.Title+"\n"+i.Course)
	}
	sum := sha256.Sum256([]byte(name))
	return "cal-" + hex.EncodeToString(sum[:16])
}

// Of is the course of an item: the one that it is in already, or the one that was chosen for all, or else the one that
// it names or whose code stands in its title, as in "HYD 214: Lab 3". 0: none of them.
func Of(i calendar.Item, was Known, chosen int64, courses []Course) int64 {
	named, title := squeezed(i.Course), squeezed(i.Title)
	best := int64(0)
	for _, c := range courses {
		if was.ID != 0 && c.ID == was.Course {
			return c.ID
		}
	}
	for _, c := range courses {
		code := squeezed(c.Code)
		switch {
		case chosen == c.ID:
			return c.ID
		case chosen != 0 || c.Archived || code == "":
		case strings.Contains(named, code) || named != "" && named == squeezed(c.Title):
			return c.ID
		case best == 0 && strings.Contains(title, code):
			best = c.ID
		}
	}
	return best
}

// NewCode is the code of a course for an item that belongs to none that is there.
func NewCode(i calendar.Item) string {
	return wording.Clip(cmp.Or(strings.TrimSpace(i.Course), "Other"), 32)
}

// What taking an item over does.
const (
	New       = "new"
	Changed   = "changed"
	Same      = "same"
	Cancelled = "cancelled"
	Past      = "past" // it is left out
)

// Kept is how long after its due time an item is still taken over.
const Kept = 14 * 24 * time.Hour

// Compare says what taking an item over would do, and of a changed one what its due time was.
func Compare(i calendar.Item, old Known, zone *time.Location, now time.Time) (does, was string) {
	due, _ := time.Parse(time.RFC3339, i.Due)
	switch {
	case i.Status == "cancelled" && (old.ID == 0 || old.Cancelled):
		return Past, ""
	case i.Status == "cancelled":
		return Cancelled, ""
	case old.ID == 0 && (due.Before(now.Add(-Kept)) || i.Status == "completed"):
		return Past, ""
	case old.ID == 0:
		return New, ""
	}
	if wall := due.In(zone).Format(wording.WallForm); wall != old.Due {
		return Changed, old.Due
	} else if old.Cancelled {
		return Past, "" // put away by the student
	}
	return Same, ""
}

// Asks are the requirements that an item holds, its times in a course's zone.
func Asks(i calendar.Item, zone *time.Location) []brief.Ask {
	asks := []brief.Ask{}
	wall := func(text string) (at time.Time, written string) {
		at, err := time.Parse(time.RFC3339, text)
		if err != nil {
			return at, ""
		}
		return at, at.In(zone).Format(wording.WallForm)
	}
	due, written := wall(i.Due)
	asks = append(asks, brief.Yours("due", written))
	if at, written := wall(i.Opens); written != "" && at.Before(due) {
		asks = append(asks, brief.Yours("opens", written))
	}
	if at, written := wall(i.Closes); written != "" && !at.Before(due) {
		asks = append(asks, brief.Yours("closes", written))
	}
	if i.Points > 0 {
		asks = append(asks, brief.Yours("points", i.Points))
	}
	return asks
}

// InZone turns a time that is said in a zone of its own into one of the course's.
func InZone(a *brief.Ask, zone string) error {
	text, ok := a.Item.Value.(string)
	if !ok || a.Item.Zone == "" || a.Item.Zone == zone || !brief.IsTime(a.Item.Kind) {
		return nil
	}
	from, err := timing.Zone(a.Item.Zone)
	if err != nil {
		return err
	}
	to, err := timing.Zone(zone)
	if err != nil {
		return err
	}
	wall, err := timing.ParseWall(text, from)
	if err != nil {
		return err
	}
	a.Item.Value, a.Item.Zone = wall.At().In(to).Format(wording.WallForm), ""
	return nil
}
