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
	"orario/core/placing"
	"orario/core/timing"
	"orario/core/wording"
	"orario/internal/announce"
	"orario/internal/mariadb/query"
	"orario/internal/roster"
)

// Imported is what an import did.
type Imported struct {
	Added, Changed, Same, Cancelled, Busy int
	LeftOut                               []calendar.LeftOut // what could not be read
}

// A shelf is what items are filed by: the student's courses, and what was filed before.
type shelf struct {
	zone    string // the student's, of new courses
	student int64
	chosen  int64 // course of everything; 0: by the names in it
	courses []query.Course
	known   map[string]query.CalendarItemsRow // by key
	now     time.Time
}

// A fate is what taking an item over does.
type fate struct {
	course    query.Course // of none that is there: only its code
	known     query.CalendarItemsRow
	does, was string
}

func (f *shelf) fate(i calendar.Item) (fate, error) {
	row := f.known[placing.Key(i)]
	known := placing.Known{ID: row.ID, Course: row.CourseID, Due: row.Due, Cancelled: row.Cancelled}
	list := make([]placing.Course, 0, len(f.courses))
	for _, c := range f.courses {
		list = append(list, placing.Course{ID: c.ID, Code: c.Code, Title: c.Title, Archived: c.Archived})
	}
	out := fate{course: query.Course{Code: placing.NewCode(i), Zone: f.zone}, known: row}
	if of := placing.Of(i, known, f.chosen, list); of != 0 {
		out.course = f.courses[slices.IndexFunc(f.courses, func(c query.Course) bool { return c.ID == of })]
	}
	zone, err := timing.Zone(out.course.Zone)
	if err != nil {
		return out, err
	}
	out.does, out.was = placing.Compare(i, known, zone, f.now)
	return out, nil
}

// shelf reads what items are filed by, in a transaction as it stands there.
func (s Service) shelf(ctx context.Context, q shelved, who query.Student, chosen int64) (*shelf, error) {
	courses, err := q.Courses(ctx, who.ID)
	if err != nil {
		return nil, err
	}
	rows, err := q.CalendarItems(ctx, who.ID)
	known := map[string]query.CalendarItemsRow{}
	for _, a := range rows {
		known[a.SiteKey] = a
	}
	return &shelf{who.Zone, who.ID, chosen, courses, known, s.Now()}, err
}

// shelved is where courses and what was filed before are kept.
type shelved interface {
	Courses(ctx context.Context, student int64) ([]query.Course, error)
	CalendarItems(ctx context.Context, student int64) ([]query.CalendarItemsRow, error)
}

// take takes over what is due; watched: while the student looks.
func (s Service) take(ctx context.Context, student int64, in Import, text string, watched bool) (*Imported, error) {
	who, err := s.Store.StudentByID(ctx, student)
	if err != nil {
		return nil, err
	}
	items, left, err := s.items(text, in, who)
	if err != nil {
		return nil, err
	}
	done := &Imported{}
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		*done = Imported{LeftOut: left}
		on, err := s.shelf(ctx, q, who, in.CourseID)
		if err != nil {
			return err
		}
		seen := map[string]bool{}
		for _, item := range items {
			k := placing.Key(item)
			if seen[k] || slices.Contains(in.Without, k) {
				continue
			}
			seen[k] = true
			if err := s.takeOne(ctx, q, on, item, watched, done); err != nil {
				return fmt.Errorf("taking over %s: %w", item.Title, err)
			}
		}
		return announce.Tell(ctx, q, s.Now(), announce.Event{Student: student, Kind: announce.Calendar})
	})
	return done, err
}

// takeOne takes one item over and counts it.
func (s Service) takeOne(
	ctx context.Context,
	q *query.Queries,
	on *shelf,
	item calendar.Item,
	watched bool,
	done *Imported,
) error {
	f, err := on.fate(item)
	if err != nil {
		return err
	}
	switch f.does {
	case placing.Past:
		return nil
	case placing.New:
		done.Added++
	case placing.Changed:
		done.Changed++
	case placing.Cancelled:
		done.Cancelled++
	default:
		done.Same++
	}
	if f.course.ID == 0 {
		if f.course, err = addCourse(ctx, q, on, f.course.Code); err != nil {
			return err
		}
		on.courses = append(on.courses, f.course)
	}
	return s.put(ctx, q, f, item, watched)
}

func addCourse(ctx context.Context, q *query.Queries, on *shelf, code string) (query.Course, error) {
	id, err := q.AddCourse(ctx, query.AddCourseParams{
		StudentID: on.student,
		Code:      code,
		Title:     code,
		Zone:      on.zone,
		NameHabit: placing.Habit,
		Usual:     json.RawMessage("{}"),
	})
	if err != nil {
		return query.Course{}, err
	}
	return q.Course(ctx, query.CourseParams{ID: id, StudentID: on.student})
}

// put stores one item; watched: while the student looks.
func (s Service) put(ctx context.Context, q *query.Queries, f fate, i calendar.Item, watched bool) error {
	course, old := f.course, f.known
	event := announce.Event{Student: course.StudentID, Assignment: old.ID, Kind: announce.Changed}
	switch f.does {
	case placing.Same:
		return nil
	case placing.Cancelled:
		err := q.SetAssignmentCancelled(ctx, query.SetAssignmentCancelledParams{
			Cancelled: true, ID: old.ID, StudentID: course.StudentID,
		})
		if err != nil {
			return err
		}
		event.Text = fmt.Sprintf("%s: %s was cancelled in its calendar.", course.Code, old.Title)
		return announce.Tell(ctx, q, s.Now(), event)
	}
	zone, err := timing.Zone(course.Zone)
	if err != nil {
		return err
	}
	asks := placing.Asks(i, zone)
	if f.does == placing.New {
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
		return announce.Tell(ctx, q, s.Now(), event)
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
		wording.Wall(f.was),
	)
	return announce.Tell(ctx, q, s.Now(), event)
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
		Title:        wording.Clip(placing.Untitled(cmp.Or(strings.TrimSpace(i.Title), "Untitled"), course.Code), 300),
		CourseID:     course.ID,
		Instructions: wording.Clip(i.Description, mostInstructions),
		Weight:       u.Weight,
		Minutes:      u.Minutes,
	}
	d.show(placing.Begin(u, asks, s.Now()))
	w, err := s.written(ctx, q, course.StudentID, &d)
	if err != nil {
		return 0, "", "", err
	}
	w.SiteKey, w.Source = placing.Key(i), query.AssignmentSourceCalendar
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
