package intake

import (
	"bytes"
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"slices"
	"strings"
	"time"

	"orario/core/calendar"
	"orario/core/timing"
	"orario/core/wording"
	"orario/internal/courier"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// What the items of a calendar are.
const (
	PurposeDue  = "due"
	PurposeBusy = "busy"
)

// An Import is a calendar or table to take over: an upload, or an address to fetch.
type Import struct {
	Upload   string   `json:"upload"`
	URL      string   `json:"url"`
	Name     string   `json:"name"`
	Purpose  string   `json:"purpose"`
	CourseID int64    `json:"course_id"` // of everything in it; 0: by the names in it
	Columns  []string `json:"columns"`   // of a table; empty: guessed
	Without  []string `json:"without"`   // keys of what to leave out
	Again    bool     `json:"again"`     // fetch the address again from time to time
}

// A Preview is what an import would do.
type Preview struct {
	Kind    string       `json:"kind"` // calendar or table
	Name    string       `json:"name"`
	Header  []string     `json:"header"` // of a table
	Rows    [][]string   `json:"rows"`   // the first of a table
	Columns []string     `json:"columns"`
	Items   []ImportItem `json:"items"`
	Trouble string       `json:"trouble"` // why there are no items
	More    int          `json:"more"`    // items that are not listed
}

// An ImportItem is one thing of a calendar or table.
type ImportItem struct {
	Key    string    `json:"key"`
	Title  string    `json:"title"`
	Course string    `json:"course"` // as it will be filed
	Due    time.Time `json:"due"`
	Zone   string    `json:"zone"`
	Now    string    `json:"now"` // new, changed, same, cancelled or past
	Was    string    `json:"was"` // of a changed one
	Take   bool      `json:"take"`
}

// Limits of an import.
const (
	mostItems    = 2000
	shownItems   = 300
	pastKept     = 14 * 24 * time.Hour // older things are not taken over
	busyAhead    = 180 * 24 * time.Hour
	sampledRows  = 6
	mostCalendar = 8 << 20 // bytes of a file
)

// Preview reads a calendar or table and says what taking it over would do.
func (s Service) Preview(ctx context.Context, student int64, in Import) (*Preview, error) {
	text, err := s.source(ctx, student, in)
	if err != nil {
		return nil, err
	}
	who, err := s.Store.StudentByID(ctx, student)
	if err != nil {
		return nil, err
	}
	p := &Preview{
		Kind:    "calendar",
		Name:    in.Name,
		Header:  []string{},
		Rows:    [][]string{},
		Columns: []string{},
		Items:   []ImportItem{},
	}
	if !isCalendar(text) {
		p.Kind = "table"
		header, rows, err := calendar.Table(text)
		if err != nil {
			return nil, refusal.Complaint{
				Message: "This is neither an iCalendar file nor a table: " + err.Error() + ".",
			}
		}
		p.Header, p.Rows, p.Columns = header, rows[:min(len(rows), sampledRows)], in.Columns
		if len(p.Columns) == 0 {
			p.Columns = calendar.Match(header)
		}
		in.Columns = p.Columns
	}
	items, err := s.items(text, in, who)
	if err != nil {
		if p.Kind == "calendar" {
			return nil, err
		}
		p.Trouble = err.Error()
		return p, nil
	}
	courses, err := s.Store.Courses(ctx, student)
	if err != nil {
		return nil, err
	}
	known, err := s.knownByKey(ctx, student)
	if err != nil {
		return nil, err
	}
	for _, item := range items {
		p.Items = append(p.Items, s.shown(item, known[key(item)], in.CourseID, courses, who.Zone))
	}
	if len(p.Items) > shownItems {
		p.More = len(p.Items) - shownItems
		p.Items = p.Items[:shownItems]
	}
	return p, nil
}

// shown is what taking one item would do.
func (s Service) shown(
	item calendar.Item,
	known query.CalendarItemsRow,
	into int64,
	courses []query.Course,
	zone string,
) ImportItem {
	v := ImportItem{Key: key(item), Title: item.Title, Zone: item.Zone, Take: true}
	v.Due, _ = time.Parse(time.RFC3339, item.Due)
	if v.Zone == "" || item.Floating {
		v.Zone = zone
	}
	course, found := filed(item, known, into, courses)
	v.Course = course.Code
	if !found {
		v.Course = newCode(item)
	}
	v.Now, v.Was = s.compare(item, known, course)
	if v.Now == "past" {
		v.Take = false
	}
	return v
}

// Import takes a calendar or table over. What was taken over before is found again, so that nothing comes
// twice; what the student did about it stays.
func (s Service) Import(ctx context.Context, student int64, in Import) (*Imported, error) {
	text, err := s.source(ctx, student, in)
	if err != nil {
		return nil, err
	}
	if in.URL != "" && in.Again || in.Purpose == PurposeBusy {
		return s.addFeed(ctx, student, in, text)
	}
	return s.take(ctx, student, in, text, true)
}

func (s Service) source(ctx context.Context, student int64, in Import) (string, error) {
	if in.Purpose != PurposeDue && in.Purpose != PurposeBusy {
		return "", refusal.Say("Say whether the calendar holds what is due or when you are busy.")
	}
	if in.URL == "" {
		_, data, err := s.Files.Upload(ctx, student, in.Upload, mostCalendar)
		return string(bytes.ToValidUTF8(data, []byte("\uFFFD"))), err
	}
	data, err := s.Fetch(ctx, in.URL)
	var refused courier.Refused
	if errors.As(err, &refused) {
		return "", refusal.Complaint{Message: refused.Reason}
	}
	if err != nil {
		return "", refusal.Say("The address could not be reached. Check it, or try again later.")
	}
	return string(data), nil
}

func isCalendar(text string) bool {
	return strings.Contains(text[:min(len(text), 2000)], "BEGIN:VCALENDAR")
}

// items reads what stands in a text, in the order of its times, without what is long past.
func (s Service) items(text string, in Import, who query.Student) ([]calendar.Item, error) {
	zone, err := timing.Zone(who.Zone)
	if err != nil {
		return nil, err
	}
	now := s.Now().UTC()
	within := calendar.Around(now)
	var list []calendar.Item
	if isCalendar(text) {
		if in.Purpose == PurposeBusy {
			within = calendar.Stretch{From: now.AddDate(0, 0, -1), To: now.Add(busyAhead), Fixed: true}
		}
		list, err = calendar.Read(text, within, zone)
	} else {
		var header []string
		var rows [][]string
		if header, rows, err = calendar.Table(text); err == nil {
			columns := in.Columns
			if len(columns) == 0 {
				columns = calendar.Match(header)
			}
			list, err = calendar.Rows(columns, rows, within, zone)
		}
	}
	if err != nil {
		return nil, refusal.Because(err)
	}
	oldest := now.Add(-pastKept).Format(time.RFC3339)
	list = slices.DeleteFunc(
		list,
		func(i calendar.Item) bool { return i.Due == "" || in.Purpose == PurposeDue && i.Due < oldest },
	)
	if len(list) > mostItems && in.Purpose == PurposeDue {
		return nil, refusal.Say(
			"There are %d things in it; %d are taken over at most. Choose a calendar with less in it.",
			len(list),
			mostItems,
		)
	}
	return list, nil
}

// key is what an item is found again by: its UID and instance; of a table's rows title and course.
func key(i calendar.Item) string {
	name := i.UID + "\n" + i.RecurrenceID
	if i.UID == "" {
		name = "row\n" + strings.ToLower(i.Title+"\n"+i.Course)
	}
	sum := sha256.Sum256([]byte(name))
	return "cal-" + hex.EncodeToString(sum[:16])
}

// filed is the course of an item: the one that it is in already, else as [courseOf] finds it.
func filed(i calendar.Item, old query.CalendarItemsRow, chosen int64, courses []query.Course) (query.Course, bool) {
	for _, c := range courses {
		if old.ID != 0 && c.ID == old.CourseID {
			return c, true
		}
	}
	return courseOf(i, chosen, courses)
}

// courseOf finds an item's course by its name or, as in "HYD 214: Lab 3", by its title.
func courseOf(i calendar.Item, chosen int64, courses []query.Course) (query.Course, bool) {
	named, title := squeezed(i.Course), squeezed(i.Title)
	var best query.Course
	for _, c := range courses {
		code := squeezed(c.Code)
		switch {
		case chosen == c.ID:
			return c, true
		case chosen != 0 || c.Archived:
		case strings.Contains(named, code) || named != "" && named == squeezed(c.Title):
			return c, true
		case best.ID == 0 && strings.Contains(title, code):
			best = c
		}
	}
	return best, best.ID != 0
}

// newCode is the code of a course that no calendar item could be filed in yet.
func newCode(i calendar.Item) string {
	return wording.Clip(cmp.Or(strings.TrimSpace(i.Course), "Other"), 32)
}

// compare says what taking an item over would do.
func (s Service) compare(i calendar.Item, old query.CalendarItemsRow, course query.Course) (now, was string) {
	due, _ := time.Parse(time.RFC3339, i.Due)
	switch {
	case i.Status == "cancelled" && (old.ID == 0 || old.Cancelled):
		return "past", ""
	case i.Status == "cancelled":
		return "cancelled", ""
	case old.ID == 0 && (due.Before(s.Now().Add(-pastKept)) || i.Status == "completed"):
		return "past", ""
	case old.ID == 0:
		return "new", ""
	}
	zone, err := timing.Zone(course.Zone)
	if err != nil {
		return "same", ""
	}
	if wall := due.In(zone).Format(wording.WallForm); wall != old.Due {
		return "changed", old.Due
	} else if old.Cancelled {
		return "past", "" // put away by the student
	}
	return "same", ""
}
