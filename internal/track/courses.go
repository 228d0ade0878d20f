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
	"orario/core/naming"
	"orario/core/timing"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
)

// A Course as shown.
type Course struct {
	ID         int64  `json:"id"`
	Code       string `json:"code"`
	Title      string `json:"title"`
	Zone       string `json:"zone"`
	Instructor string `json:"instructor"`
	Contact    string `json:"contact"` // e-mail address
	Term       string `json:"term"`
	Habit      string `json:"habit"` // name pattern
	Usual      Usual  `json:"usual"`
	Site       string `json:"site"`      // empty: none
	SyncedAt   string `json:"synced_at"` // RFC 3339 or empty
	Archived   bool   `json:"archived"`
	Open       int    `json:"open"`
	Weights    string `json:"weights"` // what all assignments add up to
	Marked     string `json:"marked"`  // what the marks so far add up to
}

// Usual is what new assignments of a course begin with.
type Usual struct {
	Forms   []string `json:"forms"`
	Late    string   `json:"late"`   // in words, as instructions say it
	Weight  float64  `json:"weight"` // percent of the course; 0: not said
	Points  float64  `json:"points"`
	Minutes int      `json:"minutes"` // of work
}

// A CourseSheet is what a student can say of a course. Of a course that a site publishes code, title, zone
// and instructor are the site's.
type CourseSheet struct {
	Code       string `json:"code"`
	Title      string `json:"title"`
	Zone       string `json:"zone"`
	Instructor string `json:"instructor"`
	Contact    string `json:"contact"`
	Term       string `json:"term"`
	Habit      string `json:"habit"`
	Usual      Usual  `json:"usual"`
}

// Courses lists the courses with how they stand.
func (s Service) Courses(ctx context.Context, student int64) ([]Course, error) {
	list, _, err := s.load(ctx, student)
	if err != nil {
		return nil, err
	}
	return s.courses(ctx, student, list)
}

func (s Service) courses(ctx context.Context, student int64, list []*tracked) ([]Course, error) {
	rows, err := s.Store.Courses(ctx, student)
	if err != nil {
		return nil, err
	}
	sites, err := s.Store.Sites(ctx, student)
	if err != nil {
		return nil, err
	}
	out := []Course{}
	for _, c := range rows {
		course := Course{ID: c.ID, Code: c.Code, Title: c.Title, Zone: c.Zone, Instructor: c.Instructor, Contact: c.Contact, Term: c.Term, Habit: c.NameHabit, Archived: c.Archived}
		if course.Usual, err = usual(c); err != nil {
			return nil, err
		}
		for _, site := range sites {
			if c.SiteID.Valid && site.ID == c.SiteID.Int64 {
				course.Site = site.Name
				if site.SyncedAt.Valid {
					course.SyncedAt = site.SyncedAt.Time.Format(time.RFC3339)
				}
			}
		}
		course.stand(list)
		out = append(out, course)
	}
	return out, nil
}

// stand adds up a course's assignments.
func (c *Course) stand(list []*tracked) {
	var earned, of, weights float64
	for _, t := range list {
		if t.Course.ID != c.ID || t.Assignment.Cancelled {
			continue
		}
		weights += t.Assignment.Weight
		if t.planned() {
			c.Open++
		}
		if last, sent := t.Last(); sent {
			if m, ok := t.Returned[last.ID]; ok && m.Mark.Valid {
				earned += m.Mark.Float64 / cmp.Or(m.Points, 1) * t.Assignment.Weight
				of += t.Assignment.Weight
			}
		}
	}
	c.Weights = fmt.Sprintf("%g %% of the course is known", weights)
	if of > 0 {
		c.Marked = fmt.Sprintf("%.1f of %g %% of the course", earned, of)
	}
}

func usual(c query.Course) (Usual, error) {
	u := Usual{Forms: []string{}}
	if err := json.Unmarshal(c.Usual, &u); err != nil {
		return u, fmt.Errorf("the usual of %s: %w", c.Code, err)
	}
	if u.Forms == nil {
		u.Forms = []string{}
	}
	return u, nil
}

// sound completes a sheet and says what is wrong with it, if anything is.
func (c *CourseSheet) sound(now time.Time) error {
	complain := func(text string, args ...any) error { return prepare.Complaint{Message: fmt.Sprintf(text, args...)} }
	c.Code, c.Title = strings.TrimSpace(c.Code), strings.TrimSpace(c.Title)
	if c.Code == "" || len(c.Code) > 32 {
		return complain("A course needs a short code of at most 32 characters, such as HYD 214.")
	}
	c.Title = cmp.Or(c.Title, c.Code)
	if _, err := timing.Zone(c.Zone); err != nil {
		return complain("%v.", err)
	}
	if c.Contact != "" && !strings.Contains(c.Contact, "@") {
		return complain("The contact %q is no e-mail address.", c.Contact)
	}
	if c.Habit != "" {
		if _, err := naming.Parse(c.Habit); err != nil {
			return complain("%v.", err)
		}
	}
	u := &c.Usual
	if u.Weight < 0 || u.Weight > 100 || u.Points < 0 || u.Points > 10_000 || u.Minutes < 0 || u.Minutes > 100_000 {
		return complain("Weights lie between 0 and 100 %%, points up to 10,000, work up to 100,000 minutes.")
	}
	if u.Late != "" {
		if _, err := brief.Reread("late", u.Late, now); err != nil {
			return complain("%v.", err)
		}
	}
	if u.Forms == nil {
		u.Forms = []string{}
	}
	return nil
}

// AddCourse adds a course of the student's own.
func (s Service) AddCourse(ctx context.Context, student int64, c CourseSheet) (int64, error) {
	if err := c.sound(s.Now()); err != nil {
		return 0, err
	}
	rows, err := s.Store.Courses(ctx, student)
	if err != nil {
		return 0, err
	}
	if slices.ContainsFunc(rows, func(r query.Course) bool { return squeezed(r.Code) == squeezed(c.Code) && r.Term == c.Term }) {
		return 0, prepare.Complaint{Message: fmt.Sprintf("There is a course %s already. Change that one, or give this one another code or term.", c.Code)}
	}
	text, err := json.Marshal(c.Usual)
	if err != nil {
		return 0, err
	}
	if c.Habit == "" {
		c.Habit = usualHabit
	}
	return s.Store.AddCourse(ctx, query.AddCourseParams{StudentID: student, SiteKey: "", Code: c.Code, Title: clip(c.Title, 200), Zone: c.Zone,
		Instructor: clip(c.Instructor, 200), Contact: clip(c.Contact, 200), Term: clip(c.Term, 60), NameHabit: c.Habit, Usual: text})
}

// SetCourse changes what the student says of a course.
func (s Service) SetCourse(ctx context.Context, student, id int64, c CourseSheet) error {
	row, err := s.Store.Course(ctx, query.CourseParams{ID: id, StudentID: student})
	if err != nil {
		return prepare.NotFound(err)
	}
	if row.SiteID.Valid {
		c.Code, c.Title, c.Zone, c.Instructor = row.Code, row.Title, row.Zone, row.Instructor
	}
	if err := c.sound(s.Now()); err != nil {
		return err
	}
	text, err := json.Marshal(c.Usual)
	if err != nil {
		return err
	}
	_, err = s.Store.SetCourse(ctx, query.SetCourseParams{Code: c.Code, Title: clip(c.Title, 200), Zone: c.Zone, Instructor: clip(c.Instructor, 200), Contact: clip(c.Contact, 200),
		Term: clip(c.Term, 60), NameHabit: c.Habit, Usual: text, ID: id, StudentID: student})
	return err
}

// ArchiveCourse puts a course with its assignments away, or takes it out again. Nothing is lost.
func (s Service) ArchiveCourse(ctx context.Context, student, id int64, archived bool) error {
	if _, err := s.Store.Course(ctx, query.CourseParams{ID: id, StudentID: student}); err != nil {
		return prepare.NotFound(err)
	}
	_, err := s.Store.SetCourseArchived(ctx, query.SetCourseArchivedParams{Archived: archived, ID: id, StudentID: student})
	return err
}

// begin is the brief that a new assignment of a course begins with where nothing else is said.
func (u Usual) begin(asks []brief.Ask, now time.Time) []brief.Ask {
	has := func(kind string) bool {
		return slices.ContainsFunc(asks, func(a brief.Ask) bool { return a.Item.Kind == kind })
	}
	add := func(i prose.Item) {
		asks = append(asks, brief.Ask{Item: i, From: brief.FromCourse})
	}
	if len(u.Forms) > 0 && !has("forms") {
		add(prose.Item{Kind: "forms", Value: u.Forms, Sure: 1})
	}
	if u.Points > 0 && !has("points") {
		add(prose.Item{Kind: "points", Value: u.Points, Sure: 1})
	}
	if u.Late != "" && !has("late") {
		if i, err := brief.Reread("late", u.Late, now); err == nil { // it was sound when it was set
			add(i)
		}
	}
	return asks
}

// squeezed is a course's code as people type it.
func squeezed(code string) string {
	return strings.ToLower(strings.NewReplacer(" ", "", "-", "", "_", "", ".", "").Replace(code))
}

// untitled takes a course's code off the beginning of a title, as in "HYD 214: Lab 3".
func untitled(title, code string) string {
	at := 0
	for _, want := range squeezed(code) {
		for at < len(title) && strings.ContainsRune(" -_.", rune(title[at])) {
			at++
		}
		if at == len(title) || squeezed(title[at:at+1]) != string(want) {
			return title
		}
		at++
	}
	if rest := strings.TrimLeft(title[at:], " :,–-"); rest != "" && rest != title[at:] {
		return upper(rest)
	}
	return title
}

func clip(text string, most int) string {
	if runes := []rune(text); len(runes) > most {
		return string(runes[:most])
	}
	return text
}
