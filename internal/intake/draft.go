package intake

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/brief"
	"orario/core/brief/prose"
	"orario/core/coursework"
	"orario/core/placing"
	"orario/core/timing"
	"orario/core/wording"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/roster"
)

// A Draft is an assignment as the student puts it down: typed in a line, read in instructions, or changed.
type Draft struct {
	ID       int64  `json:"id"` // 0: it is new
	Title    string `json:"title"`
	CourseID int64  `json:"course_id"` // 0: not chosen yet
	// What looks like the code of a course that is not known yet
	NewCourse    string     `json:"new_course"`
	Instructions string     `json:"instructions"`
	Weight       float64    `json:"weight"`  // percent of the course
	Minutes      int        `json:"minutes"` // of work; 0: not said
	Asks         []AskView  `json:"asks"`
	Questions    []Question `json:"questions"`
	// Of a line: the words that were not understood, in code points
	Left []prose.Span `json:"left,omitempty"`
}

// An AskView is a requirement with the sentence that it comes from.
type AskView struct {
	brief.Ask
	Label    string `json:"label"`
	Text     string `json:"text"`
	Sentence string `json:"sentence"` // empty: written by the student
	Singly   bool   `json:"singly"`   // it is confirmed by itself
}

// A Question is what the instructions leave open.
type Question struct {
	Text     string `json:"text"`
	Sentence string `json:"sentence"`
	Start    int    `json:"start"` // code points
	End      int    `json:"end"`
}

// mostInstructions bounds what is read at once: some twenty pages.
const mostInstructions = 60_000

// show completes a draft's requirements with what is read from them.
func (d *Draft) show(asks []brief.Ask) {
	d.Asks = []AskView{}
	sentence := prose.Sentences(d.Instructions)
	for _, a := range asks {
		v := AskView{Ask: a, Singly: brief.Singly(a, asks)}
		v.Label, v.Text = a.Said()
		if a.Item.End > a.Item.Start {
			v.Sentence = sentence(a.Item.Start)
		}
		d.Asks = append(d.Asks, v)
	}
	if d.Questions == nil {
		d.Questions = []Question{}
	}
}

func (d *Draft) asks() []brief.Ask {
	list := []brief.Ask{}
	for _, v := range d.Asks {
		list = append(list, v.Ask)
	}
	return list
}

// Typed understands an assignment typed in one line.
func (s Service) Typed(ctx context.Context, student int64, line string) (*Draft, error) {
	courses, who, err := s.coursesOf(ctx, student)
	if err != nil {
		return nil, err
	}
	known := knownOf(courses)
	if line = strings.TrimSpace(line); len([]rune(line)) > 300 {
		return nil, refusal.Say("One line has at most 300 letters. Paste longer instructions into the field below.")
	}
	now, err := s.nowIn(who.Zone)
	if err != nil {
		return nil, err
	}
	l := prose.Quick(line, now, known)
	d := &Draft{Title: l.Title, NewCourse: l.New, Minutes: int(l.Hours*60 + 0.5), Left: l.Left}
	var u coursework.Usual
	if l.Course < 0 && l.New == "" && len(courses) == 1 {
		l.Course = 0 // there is no other
	}
	if l.Course >= 0 {
		course := courses[l.Course]
		d.CourseID = course.ID
		if u, err = roster.Usual(course); err != nil {
			return nil, err
		}
	}
	if d.Weight = u.Weight; l.Weight > 0 && l.Weight <= 100 {
		d.Weight = l.Weight
	}
	if d.Minutes == 0 {
		d.Minutes = u.Minutes
	}
	asks := []brief.Ask{}
	if l.Due != "" {
		due := brief.Yours("due", l.Due)
		due.Item.Zone = l.Zone
		asks = append(asks, due)
	}
	if l.Points > 0 {
		asks = append(asks, brief.Yours("points", l.Points))
	}
	if len(l.Forms) > 0 {
		asks = append(asks, brief.Yours("forms", l.Forms))
	}
	for _, i := range l.Also {
		asks = append(asks, brief.Yours(i.Kind, i.Value))
	}
	for _, q := range l.Asked {
		d.Questions = append(d.Questions, Question{Text: q.Question, Sentence: line, Start: q.Start, End: q.End})
	}
	d.show(placing.Begin(u, asks, now))
	return d, nil
}

func knownOf(courses []query.Course) (known []prose.Known) {
	for _, c := range courses {
		known = append(known, prose.Known{Code: c.Code, Title: c.Title})
	}
	return known
}

// ReadText reads instructions for a course: what they ask for, and what they leave open.
func (s Service) ReadText(ctx context.Context, student, course int64, text string) (*Draft, error) {
	courses, who, err := s.coursesOf(ctx, student)
	if err != nil {
		return nil, err
	}
	text = strings.TrimSpace(strings.ReplaceAll(text, "\r\n", "\n"))
	if text == "" {
		return nil, refusal.Say("There is no text to read. Paste the instructions, or drop a file that has text in it.")
	}
	if len([]rune(text)) > mostInstructions {
		return nil, refusal.Say(
			"At most %d letters are read at once. Paste the part that says what to submit.",
			mostInstructions,
		)
	}
	d := &Draft{Instructions: text, Title: placing.Headline(text)}
	zone := who.Zone
	var u coursework.Usual
	for _, c := range courses {
		// A course's code in the first lines names the course where none was chosen.
		if c.ID == course ||
			course == 0 && d.CourseID == 0 && placing.Names(text, c.Code) {
			d.CourseID, zone, d.Title = c.ID, c.Zone, placing.Untitled(d.Title, c.Code)
			if u, err = roster.Usual(c); err != nil {
				return nil, err
			}
			d.Weight, d.Minutes = u.Weight, u.Minutes
		}
	}
	if d.CourseID == 0 {
		d.NewCourse = prose.NewCourse(d.Title, knownOf(courses))
		d.Title = placing.Untitled(d.Title, d.NewCourse)
	}
	now, err := s.nowIn(zone)
	if err != nil {
		return nil, err
	}
	reading := prose.Read(text, now)
	sentence := prose.Sentences(text)
	for _, q := range reading.Unsettled {
		d.Questions = append(d.Questions, Question{q.Question, sentence(q.Start), q.Start, q.End})
	}
	d.show(placing.Begin(u, brief.Asked(reading), now))
	return d, nil
}

// Correct understands a requirement as the student writes it, of a kind or, with an empty kind, of any.
func (s Service) Correct(ctx context.Context, student, course int64, kind, words string) (*AskView, error) {
	courses, who, err := s.coursesOf(ctx, student)
	if err != nil {
		return nil, err
	}
	zone := who.Zone
	for _, c := range courses {
		if c.ID == course {
			zone = c.Zone
		}
	}
	now, err := s.nowIn(zone)
	if err != nil {
		return nil, err
	}
	if len([]rune(words)) > 500 {
		return nil, refusal.Say("One requirement has at most 500 letters. Write it shorter.")
	}
	ask := brief.Yours(kind, words[:min(len(words), len(wording.WallForm))]) // as a date field gives a time
	if _, err := timing.ParseWall(words, now.Location()); err != nil || !brief.IsTime(kind) {
		if ask.Item, err = brief.Reread(kind, words, now); err != nil {
			return nil, refusal.Because(err)
		}
	}
	v := &AskView{Ask: ask}
	v.Label, v.Text = v.Said()
	return v, nil
}

// DraftOf is an assignment of the student's own, to be changed.
func (s Service) DraftOf(ctx context.Context, student, assignment int64) (*Draft, error) {
	a, err := s.Store.Assignment(ctx, query.AssignmentParams{ID: assignment, StudentID: student})
	if err != nil {
		return nil, refusal.NotFound(err)
	}
	if a.Source == query.AssignmentSourceSite {
		return nil, published
	}
	var own brief.Own
	if err := json.Unmarshal(a.Own, &own); err != nil {
		return nil, fmt.Errorf("reading the brief: %w", err)
	}
	d := draftOf(a)
	d.show(own.Asks)
	return d, nil
}

func draftOf(a query.Assignment) *Draft {
	return &Draft{
		ID:           a.ID,
		Title:        a.Title,
		CourseID:     a.CourseID,
		Instructions: a.Instructions,
		Weight:       a.Weight,
		Minutes:      int(a.EffortMinutes),
	}
}

func (s Service) coursesOf(ctx context.Context, student int64) ([]query.Course, query.Student, error) {
	who, err := s.Store.StudentByID(ctx, student)
	if err != nil {
		return nil, who, err
	}
	courses, err := s.Store.Courses(ctx, student)
	courses = slices.DeleteFunc(courses, func(c query.Course) bool { return c.Archived })
	return courses, who, err
}

func (s Service) nowIn(zone string) (time.Time, error) {
	location, err := timing.Zone(zone)
	return s.Now().In(location), err
}
