// Package roster reads everything of a student in one snapshot of the database and turns the rows into the values of
// core/coursework and core/agenda. It is the only place that does; use cases that show things work on what it gives.
package roster

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"time"

	"orario/core/agenda"
	"orario/core/coursework"
	"orario/core/timing"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// Store gives a snapshot: what is read in one sees the database as it is at one instant, whatever others commit
// meanwhile.
type Store interface {
	Snapshot(ctx context.Context, read func(*query.Queries) error) error
}

// A Roster is everything of a student, as it was at one instant.
type Roster struct {
	coursework.Coursework
	Now        time.Time
	Settings   agenda.Settings
	Enrolments []*coursework.Enrolment
	Sites      []*coursework.Site
	Busy       []agenda.Busy
	Wish       agenda.Wish // as it is kept
	Seen       int64       // the last event that the student has looked at
	// Of the assignment that they were asked for; see [WithInstructions]
	Instructions string
	Troubles     []string // what is stored and cannot be used, in sentences; everything else is there

	courses     map[int64]*coursework.Course
	assignments map[int64]*coursework.Assignment
}

// A Detail is something more to be read in the same snapshot.
type Detail func(ctx context.Context, q *query.Queries, r *Roster) error

// Read reads a student's roster: in one query where nothing has changed since it was last read, else in fifteen more;
// and those of the details. It is shared with other readers, and nobody changes it. [refusal.ErrNotFound] if there is
// no such student.
func Read(ctx context.Context, s Store, student int64, now time.Time, details ...Detail) (*Roster, error) {
	var r *Roster
	err := s.Snapshot(ctx, func(q *query.Queries) error {
		is, err := q.Touched(ctx, student)
		if err != nil {
			return err
		}
		if r = remembered(s, student, is, now.UTC()); r == nil {
			if r, err = load(ctx, q, student, 0, now.UTC()); err != nil {
				return err
			}
			remember(s, student, is, r)
		}
		for _, detail := range details {
			if err := detail(ctx, q, r); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return nil, fmt.Errorf("reading the coursework: %w", err)
	}
	return r, nil
}

// load reads all of a student's coursework, or of one assignment only.
func load(ctx context.Context, q *query.Queries, student, only int64, now time.Time) (*Roster, error) {
	r := &Roster{
		Now:         now,
		courses:     map[int64]*coursework.Course{},
		assignments: map[int64]*coursework.Assignment{},
	}
	l := loading{ctx: ctx, q: q, student: student, only: only, roster: r}
	steps := []func() error{
		l.who, l.coursesAndSites, l.assignmentsAndParts, l.extensionsAndNotes, l.attempts, l.handouts,
	}
	if only == 0 {
		steps = append(steps, l.plan)
	}
	for _, step := range steps {
		if err := step(); err != nil {
			return nil, err
		}
	}
	return r, nil
}

// Plan lays out the work as the student keeps it. Assignments are seen from the part that comes next, but for the
// parts with the given ids.
func (r *Roster) Plan(parts ...int64) *agenda.Plan { return r.Try(r.Wish, parts...) }

// Try lays out the work as a wish would have it.
func (r *Roster) Try(w agenda.Wish, parts ...int64) *agenda.Plan {
	return agenda.Lay(agenda.Input{
		Now:       r.Now,
		Zone:      r.Student.Zone,
		Settings:  r.Settings,
		Standings: r.Stand(r.Now, parts...),
		Busy:      r.Busy,
		Wish:      w,
	})
}

// Standing is where one assignment stands, seen from a part or, with 0, from the one that comes next.
// [refusal.ErrNotFound] if it, or the part, is not there.
func (r *Roster) Standing(assignment, part int64) (*coursework.Standing, error) {
	s := r.StandOf(assignment, part, r.Now)
	if s == nil || part != 0 && s.Part.ID != part {
		return nil, refusal.ErrNotFound
	}
	return s, nil
}

// Find reads a student's roster for one standing; see [Roster.Standing].
func Find(
	ctx context.Context,
	s Store,
	student, assignment, part int64,
	now time.Time,
	details ...Detail,
) (*Roster, *coursework.Standing, error) {
	r, err := Read(ctx, s, student, now, details...)
	if err != nil {
		return nil, nil, err
	}
	standing, err := r.Standing(assignment, part)
	return r, standing, err
}

// One is [Find] for who changes one assignment and shows none: where something was changed since the roster was read
// last, that assignment alone is read, so that the others' due times are not in its crowd.
func One(
	ctx context.Context, s Store, student, assignment, part int64, now time.Time,
) (standing *coursework.Standing, err error) {
	err = s.Snapshot(ctx, func(q *query.Queries) error {
		is, err := q.Touched(ctx, student)
		if err != nil {
			return err
		}
		r := remembered(s, student, is, now.UTC())
		if r == nil {
			if r, err = load(ctx, q, student, assignment, now.UTC()); err != nil {
				return err
			}
		}
		standing, err = r.Standing(assignment, part)
		return err
	})
	if err != nil {
		return nil, fmt.Errorf("reading the assignment: %w", err)
	}
	return standing, nil
}

// WithInstructions is the detail of one assignment's instructions, which are long and seldom wanted.
func WithInstructions(assignment int64) Detail {
	return func(ctx context.Context, q *query.Queries, r *Roster) error {
		if r.Assignment(assignment) == nil {
			return refusal.ErrNotFound
		}
		text, err := q.Instructions(ctx, query.InstructionsParams{ID: assignment, StudentID: r.Student.ID})
		r.Instructions = text
		return err
	}
}

// Settings reads what a student wants Orario to go by.
func Settings(who query.Student) (agenda.Settings, error) {
	s := agenda.Usual
	if len(who.Settings) <= len("{}") {
		return s, nil
	}
	s.Week = agenda.Settings{}.Week
	if err := json.Unmarshal(who.Settings, &s); err != nil {
		return s, fmt.Errorf("the settings of %s: %w", who.Email, err)
	}
	return s, nil
}

// Usual reads what new assignments of a course begin with.
func Usual(c query.Course) (coursework.Usual, error) {
	u := coursework.Usual{}
	if err := json.Unmarshal(c.Usual, &u); err != nil {
		return u, fmt.Errorf("the usual of %s: %w", c.Code, err)
	}
	if u.Forms == nil {
		u.Forms = []string{}
	}
	return u, nil
}

// loading is one snapshot being read.
type loading struct {
	ctx     context.Context
	q       *query.Queries
	student int64
	only    int64 // the assignment that is read; 0: all
	roster  *Roster

	parts map[int64]*coursework.Part
	tries map[int64]*coursework.Attempt
}

func (l *loading) who() error {
	row, err := l.q.StudentByID(l.ctx, l.student)
	if err != nil {
		return refusal.NotFound(err)
	}
	r := l.roster
	if r.Settings, err = Settings(row); err != nil {
		return err
	}
	zone, err := timing.Zone(row.Zone)
	if err != nil {
		return fmt.Errorf("the zone of %s: %w", row.Email, err)
	}
	r.Margin = time.Duration(r.Settings.Margin) * time.Minute
	r.Student = coursework.Student{
		ID:     row.ID,
		Email:  row.Email,
		Family: row.Family,
		Given:  row.Given,
		Number: row.Number,
		Zone:   zone,
	}
	r.Seen = row.SeenEvent
	return nil
}

func (l *loading) coursesAndSites() error {
	r := l.roster
	enrolled, err := l.enrolments()
	if err != nil {
		return err
	}
	sites, err := l.q.Sites(l.ctx, l.student)
	if err != nil {
		return err
	}
	connected := map[int64]*coursework.Site{}
	for _, s := range sites {
		connected[s.ID] = &coursework.Site{
			ID:       s.ID,
			Name:     s.Name,
			Rate:     s.BytesPerSecond.Float64,
			Notice:   s.Notice,
			SyncedAt: moment(s.SyncedAt),
		}
		r.Sites = append(r.Sites, connected[s.ID])
	}
	courses, err := l.q.Courses(l.ctx, l.student)
	if err != nil {
		return err
	}
	for _, c := range courses {
		course := &coursework.Course{
			ID:         c.ID,
			Key:        c.SiteKey,
			Code:       c.Code,
			Title:      c.Title,
			Instructor: c.Instructor,
			Contact:    c.Contact,
			Term:       c.Term,
			Habit:      c.NameHabit,
			Archived:   c.Archived,
			Site:       connected[c.SiteID.Int64],
			Enrolment:  enrolled[c.EnrolmentID.Int64],
		}
		if course.Usual, err = Usual(c); err == nil {
			course.Zone, err = timing.Zone(c.Zone)
		}
		if err != nil {
			r.trouble("The course %s cannot be shown: %v.", c.Code, err)
			continue
		}
		r.Courses = append(r.Courses, course)
		r.courses[c.ID] = course
	}
	return nil
}

func (l *loading) enrolments() (map[int64]*coursework.Enrolment, error) {
	enrolments, err := l.q.Enrolments(l.ctx, l.student)
	if err != nil {
		return nil, err
	}
	enrolled := map[int64]*coursework.Enrolment{}
	for _, e := range enrolments {
		enrolled[e.ID] = &coursework.Enrolment{
			ID:          e.ID,
			Institution: e.Institution,
			Number:      e.Number,
			Family:      e.Family,
			Given:       e.Given,
			Zone:        e.Zone,
			Clock:       time.Duration(e.ClockOffsetMs) * time.Millisecond,
		}
		l.roster.Enrolments = append(l.roster.Enrolments, enrolled[e.ID])
	}
	return enrolled, nil
}

func (r *Roster) trouble(text string, args ...any) {
	r.Troubles = append(r.Troubles, fmt.Sprintf(text, args...))
}

// plan reads what the plan follows from beside the coursework.
func (l *loading) plan() error {
	r := l.roster
	pins, err := l.q.Pins(l.ctx, l.student)
	if err != nil {
		return err
	}
	r.Wish = agenda.Wish{Pins: []agenda.Pin{}, NotBefore: []agenda.Begin{}}
	for _, p := range pins {
		r.Wish.Pins = append(r.Wish.Pins, agenda.Pin{AssignmentID: p.AssignmentID, Start: p.StartAt, End: p.EndAt})
	}
	for _, a := range r.Assignments {
		if a.NotBefore != nil {
			r.Wish.NotBefore = append(r.Wish.NotBefore, agenda.Begin{AssignmentID: a.ID, At: *a.NotBefore})
		}
	}
	busy, err := l.q.Busy(l.ctx, query.BusyParams{StudentID: l.student, EndAt: r.Now})
	if err != nil {
		return err
	}
	for _, b := range busy {
		r.Busy = append(r.Busy, agenda.Busy{Title: b.Title, Start: b.StartAt, End: b.EndAt})
	}
	return nil
}

func moment(t sql.NullTime) *time.Time {
	if !t.Valid {
		return nil
	}
	return &t.Time
}
