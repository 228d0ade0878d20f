package calendar

import (
	"encoding/csv"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"orario/core/timing"
)

// Columns are what a table can hold.
var Columns = []string{"title", "course", "due", "opens", "closes", "points", "zone"}

// Table splits a table into its header and rows; separators may be commas, semicolons or tabs.
func Table(text string) (header []string, rows [][]string, err error) {
	text = strings.TrimPrefix(text, "\ufeff")
	first, _, _ := strings.Cut(text, "\n")
	r := csv.NewReader(strings.NewReader(text))
	r.FieldsPerRecord = -1
	for _, c := range ",;\t" {
		if strings.ContainsRune(first, c) && strings.Count(first, string(c)) > strings.Count(first, string(r.Comma)) {
			r.Comma = c
		}
	}
	all, err := r.ReadAll()
	if err != nil {
		return nil, nil, fmt.Errorf("it is not a table: %w", err)
	}
	if len(all) == 0 {
		return nil, nil, errors.New("the table is empty; its first row must name the columns")
	}
	return all[0], all[1:], nil
}

// Match guesses which column of a header is which, by its name; "" where nothing fits.
func Match(header []string) []string {
	names := map[string][]string{
		"title": {
			"title",
			"name",
			"assignment",
			"task",
			"what",
			"work",
		},
		"course": {"course", "module", "class", "subject", "code"},
		"due": {
			"due",
			"deadline",
			"due date",
			"due_date",
			"until",
			"date",
		},
		"opens": {"opens", "open", "available", "from", "start", "released"},
		"closes": {
			"closes",
			"close",
			"closed",
			"locks",
			"end",
		},
		"points": {"points", "marks", "worth", "max points"},
		"zone":   {"zone", "timezone", "time zone", "tz"},
	}
	out := make([]string, len(header))
	for _, column := range Columns {
		for _, name := range names[column] {
			i := slices.IndexFunc(header, func(h string) bool { return strings.EqualFold(strings.TrimSpace(h), name) })
			if i >= 0 && out[i] == "" {
				out[i] = column
				break
			}
		}
	}
	return out
}

// FromTable lists the items of a table whose header names the columns exactly.
func FromTable(text string, within Stretch, floating *time.Location) ([]Item, error) {
	header, rows, err := Table(text)
	if err != nil {
		return nil, err
	}
	for i, name := range header {
		header[i] = strings.ToLower(strings.TrimSpace(name))
		if !slices.Contains(Columns, header[i]) {
			return nil, fmt.Errorf("the column %q is none of %s", name, strings.Join(Columns, ", "))
		}
		if slices.Contains(header[:i], header[i]) {
			return nil, fmt.Errorf("the column %q is there twice", name)
		}
	}
	return Rows(header, rows, within, floating)
}

// Rows reads rows whose columns are known; "" leaves a column out. An error names the row.
func Rows(columns []string, rows [][]string, within Stretch, floating *time.Location) ([]Item, error) {
	if !slices.Contains(columns, "title") || !slices.Contains(columns, "due") {
		return nil, errors.New("a table needs the columns title and due")
	}
	if floating == nil {
		floating = time.UTC
	}
	list := []Item{}
	for n, row := range rows {
		if strings.TrimSpace(strings.Join(row, "")) == "" {
			continue
		}
		item, err := rowItem(columns, row, floating)
		if err != nil {
			return nil, fmt.Errorf("row %d: %w", n+2, err)
		}
		item.Row = n + 2
		due, _ := time.Parse(time.RFC3339, item.Due)
		if within.Fixed && item.Due != "" && (due.Before(within.From) || !due.Before(within.To)) {
			continue
		}
		list = append(list, item)
	}
	sortItems(list)
	return list, nil
}

// rowItem reads one row; times without a zone of their own are meant in the given one.
func rowItem(columns, row []string, zone *time.Location) (Item, error) {
	cell := func(name string) string {
		if i := slices.Index(columns, name); i >= 0 && i < len(row) {
			return strings.TrimSpace(row[i])
		}
		return ""
	}
	item := Item{Title: cell("title"), Course: cell("course"), Floating: true}
	if item.Title == "" {
		return item, errors.New("the title is empty")
	}
	if name := cell("zone"); name != "" {
		var err error
		if zone, err = timing.Zone(name); err != nil {
			return item, err
		}
		item.Floating = false
	}
	item.Zone = zone.String()
	for name, into := range map[string]*string{"due": &item.Due, "opens": &item.Opens, "closes": &item.Closes} {
		text := cell(name)
		if text == "" {
			continue
		}
		at, date, err := cellTime(text, name == "opens", zone)
		if err != nil {
			return item, fmt.Errorf("%s: %w", name, err)
		}
		if name == "due" {
			item.AllDay = date
			item.Floating = item.Floating && !date && !strings.HasSuffix(text, "Z") && !offsetWritten(text)
		}
		*into = rfc3339(at)
	}
	if points := cell("points"); points != "" {
		v, err := strconv.ParseFloat(points, 64)
		if err != nil || v < 0 {
			return item, fmt.Errorf("points %q are no number", points)
		}
		item.Points = v
	}
	return item, nil
}

func offsetWritten(text string) bool {
	return len(text) > 16 && (text[len(text)-6] == '+' || text[len(text)-6] == '-')
}

// cellTime reads 2026-11-06T23:59, with a space for the T, with an offset, or a date alone.
func cellTime(text string, opens bool, zone *time.Location) (at time.Time, date bool, err error) {
	if day, err := time.Parse(time.DateOnly, text); err == nil {
		if !opens {
			day = day.Add(endOfDay)
		}
		return timing.Resolve(day.Year(), day.Month(), day.Day(), day.Hour(), day.Minute(), 0, zone), true, nil
	}
	if len(text) > 10 && text[10] == ' ' {
		text = text[:10] + "T" + text[11:]
	}
	wall, err := timing.ParseWall(text, zone)
	if err != nil {
		return at, false, err
	}
	return wall.At(), false, nil
}
