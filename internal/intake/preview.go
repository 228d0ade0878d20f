package intake

import (
	"bytes"
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"orario/core/calendar"
	"orario/core/placing"
	"orario/core/timing"
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
	Trouble string       `json:"trouble"`  // why there are no items
	More    int          `json:"more"`     // items that are not listed
	LeftOut []string     `json:"left_out"` // entries that cannot be read, with why
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
		LeftOut: []string{},
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
	items, left, err := s.items(text, in, who)
	if err != nil {
		if p.Kind == "calendar" {
			return nil, err
		}
		p.Trouble = err.Error()
		return p, nil
	}
	for _, l := range left[:min(len(left), shownItems)] {
		p.LeftOut = append(p.LeftOut, l.String())
	}
	on, err := s.shelf(ctx, s.Store, who, in.CourseID)
	if err != nil {
		return nil, err
	}
	for _, item := range items {
		v, err := shown(item, on)
		if err != nil {
			return nil, err
		}
		p.Items = append(p.Items, v)
	}
	if len(p.Items) > shownItems {
		p.More = len(p.Items) - shownItems
		p.Items = p.Items[:shownItems]
	}
	return p, nil
}

// shown is what taking one item would do.
func shown(item calendar.Item, on *shelf) (ImportItem, error) {
	f, err := on.fate(item)
	v := ImportItem{
		Key:    placing.Key(item),
		Title:  item.Title,
		Course: f.course.Code,
		Zone:   item.Zone,
		Now:    f.does,
		Was:    f.was,
		Take:   f.does != placing.Past,
	}
	v.Due, _ = time.Parse(time.RFC3339, item.Due)
	if v.Zone == "" || item.Floating {
		v.Zone = on.zone
	}
	return v, err
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

// items reads what stands in a text, in the order of its times, without what is long past; and what cannot be read.
func (s Service) items(
	text string,
	in Import,
	who query.Student,
) (list []calendar.Item, left []calendar.LeftOut, err error) {
	zone, err := timing.Zone(who.Zone)
	if err != nil {
		return nil, nil, err
	}
	now := s.Now().UTC()
	within := calendar.Around(now)
	if isCalendar(text) {
		if in.Purpose == PurposeBusy {
			within = calendar.Stretch{From: now.AddDate(0, 0, -1), To: now.Add(busyAhead), Fixed: true}
		}
		list, left, err = calendar.Read(text, within, zone)
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
		return nil, nil, refusal.Because(err)
	}
	oldest := now.Add(-placing.Kept).Format(time.RFC3339)
	list = slices.DeleteFunc(
		list,
		func(i calendar.Item) bool { return i.Due == "" || in.Purpose == PurposeDue && i.Due < oldest },
	)
	if len(list) > mostItems && in.Purpose == PurposeDue {
		return nil, nil, refusal.Say(
			"There are %d things in it; %d are taken over at most. Choose a calendar with less in it.",
			len(list),
			mostItems,
		)
	}
	return list, left, nil
}
