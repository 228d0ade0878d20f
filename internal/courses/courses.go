// Package courses is the set-up of courses, with how each stands.
package courses

import (
	"cmp"
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"orario/core/brief"
	"orario/core/coursework"
	"orario/core/naming"
	"orario/core/placing"
	"orario/core/timing"
	"orario/internal/announce"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/roster"
)

// Store is what courses are kept in.
type Store interface {
	roster.Store
	announce.Store
	InTx(context.Context, func(*query.Queries) error) error
}

// Service shows and changes courses.
type Service struct {
	Store Store
	Now   func() time.Time
}

// A Course as shown.
type Course struct {
	ID          int64            `json:"id"`
	Code        string           `json:"code"`
	Title       string           `json:"title"`
	Zone        string           `json:"zone"`
	Instructor  string           `json:"instructor"`
	Contact     string           `json:"contact"` // e-mail address
	Term        string           `json:"term"`
	Habit       string           `json:"habit"` // name pattern
	Usual       coursework.Usual `json:"usual"`
	Site        string           `json:"site"`      // empty: none
	SyncedAt    string           `json:"synced_at"` // RFC 3339 or empty
	EnrolmentID int64            `json:"enrolment_id"`
	Archived    bool             `json:"archived"`
	Open        int              `json:"open"`
	Weights     string           `json:"weights"` // what all assignments add up to
	Marked      string           `json:"marked"`  // what the marks so far add up to
}

// An Enrolment as shown.
type Enrolment struct {
	ID          int64  `json:"id"`
	Institution string `json:"institution"`
	Number      string `json:"number"`
	Family      string `json:"family"`
	Given       string `json:"given"`
	Zone        string `json:"zone"`
	FromSite    bool   `json:"from_site"` // a connected site keeps number and names up to date
}

// List is the courses with the institutions that they are at.
type List struct {
	Courses    []Course    `json:"courses"`
	Enrolments []Enrolment `json:"enrolments"`
}

// A Sheet is what a student can say of a course. Of a course that a site publishes code, title, zone, instructor and
// institution are the site's.
type Sheet struct {
	Code        string           `json:"code"`
	Title       string           `json:"title"`
	Zone        string           `json:"zone"`
	Instructor  string           `json:"instructor"`
	Contact     string           `json:"contact"`
	Term        string           `json:"term"`
	Habit       string           `json:"habit"`
	EnrolmentID int64            `json:"enrolment_id"` // 0: none
	Usual       coursework.Usual `json:"usual"`
}

// List shows the courses with how they stand, and the institutions.
func (s Service) List(ctx context.Context, student int64) (*List, error) {
	r, err := roster.Read(ctx, s.Store, student, s.Now())
	if err != nil {
		return nil, err
	}
	list := &List{Courses: Of(r, r.Stand(r.Now)), Enrolments: []Enrolment{}}
	for _, e := range r.Enrolments {
		v := Enrolment{
			ID:          e.ID,
			Institution: e.Institution,
			Number:      e.Number,
			Family:      e.Family,
			Given:       e.Given,
			Zone:        e.Zone,
		}
		v.FromSite = slices.ContainsFunc(
			r.Courses,
			func(c *coursework.Course) bool { return c.Site != nil && c.Enrolment == e },
		)
		list.Enrolments = append(list.Enrolments, v)
	}
	return list, nil
}

// Of shows the courses of a roster, with how they stand.
func Of(r *roster.Roster, standings []*coursework.Standing) []Course {
	out := []Course{}
	for _, c := range r.Courses {
		v := Course{
			ID:         c.ID,
			Code:       c.Code,
			Title:      c.Title,
			Zone:       c.Zone.String(),
			Instructor: c.Instructor,
			Contact:    c.Contact,
			Term:       c.Term,
			Habit:      c.Habit,
			Usual:      c.Usual,
			Archived:   c.Archived,
		}
		if c.Enrolment != nil {
			v.EnrolmentID = c.Enrolment.ID
		}
		if c.Site != nil {
			v.Site = c.Site.Name
			if c.Site.SyncedAt != nil {
				v.SyncedAt = c.Site.SyncedAt.Format(time.RFC3339)
			}
		}
		sum := coursework.Sum(standings, c)
		v.Open, v.Weights, v.Marked = sum.Open, sum.SayKnown(), sum.SayMarked()
		out = append(out, v)
	}
	return out
}

// Limits of a course's sheet, in letters; the pattern in bytes of the column.
const (
	mostCode  = 32
	mostName  = 200
	mostTerm  = 60
	mostHabit = 255
)

// sound completes a sheet and says what is wrong with it, if anything is.
func (c *Sheet) sound(now time.Time) error {
	for _, field := range []*string{&c.Code, &c.Title, &c.Instructor, &c.Contact, &c.Term, &c.Habit} {
		*field = strings.TrimSpace(*field)
	}
	if c.Code == "" || len([]rune(c.Code)) > mostCode {
		return refusal.Say("A course needs a short code of at most %d letters, such as HYD 214.", mostCode)
	}
	c.Title = cmp.Or(c.Title, c.Code)
	for name, text := range map[string]string{"title": c.Title, "instructor": c.Instructor, "contact": c.Contact} {
		if len([]rune(text)) > mostName {
			return refusal.Say("The %s has at most %d letters. Shorten it.", name, mostName)
		}
	}
	if len([]rune(c.Term)) > mostTerm {
		return refusal.Say("The term has at most %d letters. Shorten it.", mostTerm)
	}
	if _, err := timing.Zone(c.Zone); err != nil {
		return refusal.Because(err)
	}
	if c.Contact != "" && !strings.Contains(c.Contact, "@") {
		return refusal.Say("The contact %q is no e-mail address.", c.Contact)
	}
	if c.Habit != "" {
		if _, err := naming.Parse(c.Habit); err != nil {
			return refusal.Because(err)
		}
		if len([]rune(c.Habit)) > mostHabit {
			return refusal.Say("The pattern for names has at most %d letters. Shorten it.", mostHabit)
		}
	}
	return soundUsual(&c.Usual, now)
}

func soundUsual(u *coursework.Usual, now time.Time) error {
	if u.Weight < 0 || u.Weight > 100 || u.Points < 0 || u.Points > 10_000 || u.Minutes < 0 || u.Minutes > 100_000 {
		return refusal.Say("Weights lie between 0 and 100 %%, points up to 10,000, work up to 100,000 minutes.")
	}
	if len(u.Forms) > 30 || len([]rune(u.Late)) > 300 {
		return refusal.Say("At most thirty forms, and 300 letters about late work, are kept. Shorten them.")
	}
	if u.Late != "" {
		if _, err := brief.Reread("late", u.Late, now); err != nil {
			return refusal.Because(err)
		}
	}
	if u.Forms == nil {
		u.Forms = []string{}
	}
	return nil
}

// Add adds a course of the student's own.
func (s Service) Add(ctx context.Context, student int64, c Sheet) (id int64, err error) {
	if err := c.sound(s.Now()); err != nil {
		return 0, err
	}
	text, err := json.Marshal(c.Usual)
	if err != nil {
		return 0, err
	}
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		rows, err := q.Courses(ctx, student)
		if err != nil {
			return err
		}
		if slices.ContainsFunc(
			rows,
			func(r query.Course) bool { return placing.SameCode(r.Code, c.Code) && r.Term == c.Term },
		) {
			return refusal.Say(
				"There is a course %s already. Change that one, or give this one another code or term.",
				c.Code,
			)
		}
		if err := hasEnrolment(ctx, q, student, c.EnrolmentID); err != nil {
			return err
		}
		id, err = q.AddCourse(ctx, query.AddCourseParams{
			StudentID:   student,
			EnrolmentID: mariadb.NullInt(c.EnrolmentID),
			Code:        c.Code,
			Title:       c.Title,
			Zone:        c.Zone,
			Instructor:  c.Instructor,
			Contact:     c.Contact,
			Term:        c.Term,
			NameHabit:   cmp.Or(c.Habit, placing.Habit),
			Usual:       text,
		})
		if err != nil {
			return err
		}
		return announce.Tell(ctx, q, s.Now(), announce.Event{Student: student, Kind: announce.Edited})
	})
	return id, err
}

func hasEnrolment(ctx context.Context, q *query.Queries, student, id int64) error {
	if id == 0 {
		return nil
	}
	_, err := q.Enrolment(ctx, query.EnrolmentParams{ID: id, StudentID: student})
	return refusal.NotFound(err)
}

// Set changes what the student says of a course.
func (s Service) Set(ctx context.Context, student, id int64, c Sheet) error {
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		row, err := q.Course(ctx, query.CourseParams{ID: id, StudentID: student})
		if err != nil {
			return refusal.NotFound(err)
		}
		if row.SiteID.Valid {
			c.Code, c.Title, c.Zone, c.Instructor, c.EnrolmentID = row.Code, row.Title, row.Zone, row.Instructor,
				row.EnrolmentID.Int64
		}
		if err := c.sound(s.Now()); err != nil {
			return err
		}
		if err := hasEnrolment(ctx, q, student, c.EnrolmentID); err != nil {
			return err
		}
		text, err := json.Marshal(c.Usual)
		if err != nil {
			return err
		}
		_, err = q.SetCourse(ctx, query.SetCourseParams{
			EnrolmentID: mariadb.NullInt(c.EnrolmentID),
			Code:        c.Code,
			Title:       c.Title,
			Zone:        c.Zone,
			Instructor:  c.Instructor,
			Contact:     c.Contact,
			Term:        c.Term,
			NameHabit:   c.Habit,
			Usual:       text,
			ID:          id,
			StudentID:   student,
		})
		if err != nil {
			return err
		}
		return announce.Tell(ctx, q, s.Now(), announce.Event{Student: student, Kind: announce.Edited})
	})
}

// Archive puts a course with its assignments away, or takes it out again. Nothing is lost.
func (s Service) Archive(ctx context.Context, student, id int64, archived bool) error {
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		n, err := q.SetCourseArchived(
			ctx,
			query.SetCourseArchivedParams{Archived: archived, ID: id, StudentID: student},
		)
		if err := refusal.Unless(n, err); err != nil {
			return err
		}
		return announce.Tell(ctx, q, s.Now(), announce.Event{Student: student, Kind: announce.Edited})
	})
}
