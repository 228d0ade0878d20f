package intake

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/brief"
	"orario/core/calendar"
	"orario/core/timing"
	"orario/core/wording"
	"orario/internal/announce"
	"orario/internal/mariadb/query"
	"orario/internal/roster"
)

// Imported is what an import did.
type Imported struct {
	Added, Changed, Same, Cancelled, Busy int
}

func (s Service) knownByKey(ctx context.Context, student int64) (map[string]query.CalendarItemsRow, error) {
	rows, err := s.Store.CalendarItems(ctx, student)
	known := map[string]query.CalendarItemsRow{}
	for _, a := range rows {
		known[a.SiteKey] = a
	}
	return known, err
}

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
		return announce.Tell(ctx, q, announce.Event{Student: student, Kind: announce.Calendar})
	})
	return done, err
}

func addCourse(ctx context.Context, q *query.Queries, who query.Student, code string) (query.Course, error) {
	id, err := q.AddCourse(ctx, query.AddCourseParams{
		StudentID: who.ID,
		Code:      code,
		Title:     code,
		Zone:      who.Zone,
		NameHabit: usualHabit,
		Usual:     json.RawMessage("{}"),
	})
	if err != nil {
		return query.Course{}, err
	}
	return q.Course(ctx, query.CourseParams{ID: id, StudentID: who.ID})
}

// put stores one item; watched: while the student looks.
func (s Service) put(
	ctx context.Context,
	q *query.Queries,
	course query.Course,
	i calendar.Item,
	old query.CalendarItemsRow,
	now, was string,
	watched bool,
) error {
	event := announce.Event{Student: course.StudentID, Assignment: old.ID, Kind: announce.Changed}
	switch now {
	case "same":
		return nil
	case "cancelled":
		if err := q.SetAssignmentCancelled(
			ctx,
			query.SetAssignmentCancelledParams{Cancelled: true, ID: old.ID, StudentID: course.StudentID},
		); err != nil {
			return err
		}
		event.Text = fmt.Sprintf("%s: %s was cancelled in its calendar.", course.Code, old.Title)
		return announce.Tell(ctx, q, event)
	}
	asks, err := itemAsks(i, course.Zone)
	if err != nil {
		return err
	}
	if now == "new" {
		id, title, due, err := s.addItem(ctx, q, course, i, asks)
		if err != nil || watched {
			return err // she has just chosen it herself
		}
		event.Kind, event.Assignment, event.Text = announce.New, id, fmt.Sprintf(
			"%s: %s is new, due %s.",
			course.Code,
			title,
			wording.Wall(due),
		)
		return announce.Tell(ctx, q, event)
	}
	title, due, err := s.moveItem(ctx, q, course, old.ID, asks)
	if err != nil {
		return err
	}
	event.Text = fmt.Sprintf(
		"%s: %s is due %s, no longer %s.",
		course.Code,
		title,
		wording.Wall(due),
		wording.Wall(was),
	)
	return announce.Tell(ctx, q, event)
}

// addItem adds an item as a new assignment, with what is usual in its course.
func (s Service) addItem(
	ctx context.Context,
	q *query.Queries,
	course query.Course,
	i calendar.Item,
	asks []brief.Ask,
) (id int64, title, due string, err error) {
	u, err := roster.Usual(course)
	if err != nil {
		return 0, "", "", err
	}
	d := Draft{
		Title:        wording.Clip(untitled(cmp.Or(strings.TrimSpace(i.Title), "Untitled"), course.Code), 300),
		CourseID:     course.ID,
		Instructions: wording.Clip(i.Description, mostInstructions),
		Weight:       u.Weight,
		Minutes:      u.Minutes,
	}
	d.show(begin(u, asks, s.Now()))
	w, err := s.written(ctx, q, course.StudentID, &d)
	if err != nil {
		return 0, "", "", err
	}
	w.SiteKey, w.Source = key(i), query.AssignmentSourceCalendar
	id, err = w.add(ctx, q)
	return id, w.Title, w.parts[0].due, err
}

// moveItem gives an assignment the times of its item; the rest stays the student's.
func (s Service) moveItem(
	ctx context.Context,
	q *query.Queries,
	course query.Course,
	assignment int64,
	asks []brief.Ask,
) (title, due string, err error) {
	old, err := q.LockAssignment(ctx, query.LockAssignmentParams{ID: assignment, StudentID: course.StudentID})
	if err != nil {
		return "", "", err
	}
	var own brief.Own
	if err := json.Unmarshal(old.Own, &own); err != nil {
		return "", "", err
	}
	for _, a := range own.Asks { // the times are the calendar's, the rest the student's
		if !slices.ContainsFunc(asks, func(b brief.Ask) bool { return b.Item.Kind == a.Item.Kind }) {
			asks = append(asks, a)
		}
	}
	d := draftOf(old)
	d.CourseID = course.ID
	d.show(asks)
	w, err := s.written(ctx, q, course.StudentID, d)
	if err != nil {
		return "", "", err
	}
	return w.Title, w.parts[0].due, w.replace(ctx, q, old, false)
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
		return at, at.In(location).Format(wording.WallForm)
	}
	add := func(kind string, value any) { asks = append(asks, brief.Yours(kind, value)) }
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
