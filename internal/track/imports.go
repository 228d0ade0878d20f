package track

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/brief"
	"orario/core/brief/prose"
	"orario/core/calendar"
	"orario/core/timing"
	"orario/internal/mariadb/query"
)

// Imported is what an import did.
type Imported struct {
	Added, Changed, Same, Cancelled, Busy int
}

func (s Service) knownByKey(ctx context.Context, student int64) (map[string]query.Assignment, error) {
	rows, err := s.Store.Assignments(ctx, student)
	known := map[string]query.Assignment{}
	for _, a := range rows {
		if a.Source == query.AssignmentSourceCalendar {
			known[a.SiteKey] = a
		}
	}
	return known, err
}

const wallForm = "2006-01-02T15:04"

// take takes over what is due; watched: while the student looks.
func (s Service) take(ctx context.Context, student int64, in Import, text string, watched bool) (*Imported, error) {
	who, err := s.Store.StudentByID(ctx, student)
	if err != nil {
		return nil, err
	}
	items, err := s.items(text, in, who)
	if err != nil {
		return nil, err
	}
	known, err := s.knownByKey(ctx, student)
	if err != nil {
		return nil, err
	}
	done := &Imported{}
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		*done = Imported{}
		courses, err := q.Courses(ctx, student)
		if err != nil {
			return err
		}
		seen := map[string]bool{}
		for _, item := range items {
			k := key(item)
			if seen[k] || slices.Contains(in.Without, k) {
				continue
			}
			seen[k] = true
			course, found := filed(item, known[k], in.CourseID, courses)
			now, was := s.compare(item, known[k], course)
			if now == "past" {
				continue
			}
			if !found {
				if course, err = addCourse(ctx, q, who, newCode(item)); err != nil {
					return err
				}
				courses = append(courses, course)
			}
			if err := s.put(ctx, q, course, item, known[k], now, was, watched); err != nil {
				return fmt.Errorf("taking over %s: %w", item.Title, err)
			}
			switch now {
			case "new":
				done.Added++
			case "changed":
				done.Changed++
			case "cancelled":
				done.Cancelled++
			default:
				done.Same++
			}
		}
		return nil
	})
	return done, err
}

func addCourse(ctx context.Context, q *query.Queries, who query.Student, code string) (query.Course, error) {
	id, err := q.AddCourse(ctx, query.AddCourseParams{StudentID: who.ID, Code: code, Title: code, Zone: who.Zone, NameHabit: usualHabit, Usual: json.RawMessage("{}")})
	if err != nil {
		return query.Course{}, err
	}
	return q.Course(ctx, query.CourseParams{ID: id, StudentID: who.ID})
}

// put stores one item; watched: while the student looks.
func (s Service) put(ctx context.Context, q *query.Queries, course query.Course, i calendar.Item, old query.Assignment, now, was string, watched bool) error {
	event := query.AddEventParams{StudentID: course.StudentID, Kind: "changed", AssignmentID: old.ID}
	switch now {
	case "same":
		return nil
	case "cancelled":
		if err := q.SetAssignmentCancelled(ctx, query.SetAssignmentCancelledParams{Cancelled: true, ID: old.ID, StudentID: course.StudentID}); err != nil {
			return err
		}
		event.Text = fmt.Sprintf("%s: %s was cancelled in its calendar.", course.Code, old.Title)
		return q.AddEvent(ctx, event)
	}
	d := Draft{Title: clip(untitled(cmp.Or(strings.TrimSpace(i.Title), "Untitled"), course.Code), 300), CourseID: course.ID, Instructions: clip(i.Description, mostInstructions)}
	u, err := usual(course)
	if err != nil {
		return err
	}
	d.Weight, d.Minutes = u.Weight, u.Minutes
	asks, err := itemAsks(i, course.Zone)
	if err != nil {
		return err
	}
	if now == "new" {
		asks = u.begin(asks, s.Now())
	} else {
		var own brief.Own
		if err := json.Unmarshal(old.Own, &own); err != nil {
			return err
		}
		d.Title, d.Instructions, d.Weight, d.Minutes = old.Title, old.Instructions, old.Weight, int(old.EffortMinutes)
		for _, a := range own.Asks { // the times are the calendar's, the rest the student's
			if !slices.ContainsFunc(asks, func(b brief.Ask) bool { return b.Item.Kind == a.Item.Kind }) {
				asks = append(asks, a)
			}
		}
	}
	d.show(asks)
	row, err := s.row(ctx, course.StudentID, &d, q)
	if err != nil {
		return err
	}
	row.SiteKey, row.Source = key(i), query.AssignmentSourceCalendar
	if now == "new" {
		id, err := q.AddAssignment(ctx, *row)
		if err != nil {
			return err
		}
		event.Kind, event.AssignmentID, event.Text = "new", id, fmt.Sprintf("%s: %s is new, due %s.", course.Code, row.Title, wallSaid(row.Due))
		if watched {
			return nil // she has just chosen it herself
		}
		return q.AddEvent(ctx, event)
	}
	if row.Own, err = mergeOwn(old.Own, row.Own); err != nil {
		return err
	}
	if _, err := q.SetAssignment(ctx, set(*row, old.ID, false)); err != nil {
		return err
	}
	event.Text = fmt.Sprintf("%s: %s is due %s, no longer %s.", course.Code, row.Title, wallSaid(row.Due), wallSaid(was))
	return q.AddEvent(ctx, event)
}

// wallSaid writes a wall time as a timetable prints it.
func wallSaid(wall string) string {
	at, err := time.Parse(wallForm, wall)
	if err != nil {
		return wall
	}
	return at.Format("Mon 2 Jan 15:04")
}

// itemAsks are the requirements that a calendar's item holds.
func itemAsks(i calendar.Item, zone string) ([]brief.Ask, error) {
	location, err := timing.Zone(zone)
	if err != nil {
		return nil, err
	}
	asks := []brief.Ask{}
	wall := func(text string) (time.Time, string) {
		at, err := time.Parse(time.RFC3339, text)
		if err != nil {
			return at, ""
		}
		return at, at.In(location).Format(wallForm)
	}
	add := func(kind string, value any) {
		asks = append(asks, brief.Ask{Item: prose.Item{Kind: kind, Value: value, Sure: 1}, From: brief.FromYou, Settled: true})
	}
	due, written := wall(i.Due)
	add("due", written)
	if at, written := wall(i.Opens); written != "" && at.Before(due) {
		add("opens", written)
	}
	if at, written := wall(i.Closes); written != "" && !at.Before(due) {
		add("closes", written)
	}
	if i.Points > 0 {
		add("points", i.Points)
	}
	return asks, nil
}
