// Package prepare gets work ready to be sent: the brief, the bundle with its versions, the checks and
// what mends what they find.
package prepare

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/brief"
	"orario/core/inspect"
	"orario/core/naming"
	"orario/core/timing"
	"orario/internal/account"
	"orario/internal/mariadb/query"
)

// ErrNotFound says that the student has no such thing.
var ErrNotFound = errors.New("there is no such thing among yours")

// State is one assignment as it stands: what is asked, what is in the bundle for the next attempt, what
// the checks find, and by when to send it. Everything in it follows from stored facts.
type State struct {
	Assignment   query.Assignment
	Course       query.Course
	Site         query.Site
	Sheet        brief.Sheet
	Requirements []brief.Requirement
	Own          brief.Own
	Parts        []Part        // one, or several with windows of their own
	Window       timing.Window // of the part that comes next
	Late         timing.Rule
	Now          time.Time // by the site's clock
	Attempt      int       // the one being prepared, or being sent
	Sending      bool
	Items        []Item
	Findings     []brief.Finding
	SendBy       time.Time
	Because      []timing.Component
	CrowdOf      int  // due times close to this one, itself included
	Crowded      bool //
	Submissions  []query.Submission
	Returned     map[int64]query.Returned // by submission
	Handouts     []query.Handout
	Extension    Extension
	Noted        Noted
	Settings     account.Settings
}

// Item is a file of the bundle with its facts.
type Item struct {
	query.ItemsRow
	Facts *inspect.Facts
}

// Reader is what a state is read from.
type Reader interface {
	StudentByID(ctx context.Context, id int64) (query.Student, error)
	Sites(ctx context.Context, student int64) ([]query.Site, error)
	Courses(ctx context.Context, student int64) ([]query.Course, error)
	Assignments(ctx context.Context, student int64) ([]query.Assignment, error)
	Handouts(ctx context.Context, student int64) ([]query.Handout, error)
	Items(ctx context.Context, student int64) ([]query.ItemsRow, error)
	Submissions(ctx context.Context, student int64) ([]query.Submission, error)
	Returned(ctx context.Context, student int64) ([]query.Returned, error)
}

// What is assumed of a transfer where the site has not been used yet: common practice for a home line.
const (
	usualRate  = 250_000   // bytes per second
	usualBytes = 5_000_000 // of work not yet there
	usualFix   = 2 * time.Hour
	rushFactor = 4 // by which a crowded hour slows a site down
)

// Load reads all assignments of a student, in the order of their ids. Time is that of eight queries.
func Load(ctx context.Context, r Reader, student int64, now time.Time) ([]*State, error) {
	all := loading{ctx: ctx, student: student}
	who := fetch(&all, r.StudentByID)
	sites := fetch(&all, r.Sites)
	courses := fetch(&all, r.Courses)
	assignments := fetch(&all, r.Assignments)
	handouts := fetch(&all, r.Handouts)
	items := fetch(&all, r.Items)
	submissions := fetch(&all, r.Submissions)
	returned := fetch(&all, r.Returned)
	if all.err != nil {
		return nil, fmt.Errorf("reading the assignments: %w", all.err)
	}
	settings, err := account.SettingsOf(who)
	if err != nil {
		return nil, err
	}
	inCourse := map[int64]query.Course{}
	for _, c := range courses {
		inCourse[c.ID] = c
	}
	states := make([]*State, 0, len(assignments))
	byID := map[int64]*State{}
	for _, a := range assignments {
		s := &State{Assignment: a, Attempt: 1, Returned: map[int64]query.Returned{}}
		s.Course, s.Settings = inCourse[a.CourseID], settings
		for _, site := range sites {
			if s.Course.SiteID.Valid && site.ID == s.Course.SiteID.Int64 && a.Source == query.AssignmentSourceSite {
				s.Site = site
			}
		}
		s.Now = now.Add(time.Duration(s.Site.ClockOffsetMs) * time.Millisecond).UTC()
		states, byID[a.ID] = append(states, s), s
	}
	for _, h := range handouts {
		byID[h.AssignmentID].Handouts = append(byID[h.AssignmentID].Handouts, h)
	}
	marks := map[int64]query.Returned{}
	for _, m := range returned {
		marks[m.SubmissionID] = m
	}
	for _, sub := range submissions {
		byID[sub.AssignmentID].addSubmission(sub, marks)
	}
	for _, i := range items {
		if s := byID[i.AssignmentID]; int(i.Attempt) == s.Attempt {
			facts := &inspect.Facts{}
			if err := json.Unmarshal(i.Facts, facts); err != nil {
				return nil, fmt.Errorf("reading the facts of %s: %w", i.VersionName, err)
			}
			s.Items = append(s.Items, Item{i, facts})
		}
	}
	var dues []time.Time
	for _, s := range states {
		if err := s.read(); err != nil {
			return nil, fmt.Errorf("assignment %d: %w", s.Assignment.ID, err)
		}
		if !s.Hidden() {
			dues = append(dues, s.Window.Due.At())
		}
	}
	slices.SortFunc(dues, time.Time.Compare)
	for _, s := range states {
		s.settle(who, around(dues, s.Window.Due.At()))
	}
	return states, nil
}

// around is the part of sorted due times that can be a due time's crowd.
func around(dues []time.Time, at time.Time) []time.Time {
	from, _ := slices.BinarySearchFunc(dues, at.Add(-timing.CrowdSpan), time.Time.Compare)
	to, _ := slices.BinarySearchFunc(dues, at.Add(timing.CrowdSpan+1), time.Time.Compare)
	return dues[from:to]
}

// Hidden says that an assignment is put away: its course is archived, or its calendar cancelled it.
func (s *State) Hidden() bool { return s.Course.Archived || s.Assignment.Cancelled }

// loading runs queries until one fails.
type loading struct {
	ctx     context.Context
	student int64
	err     error
}

func fetch[T any](l *loading, read func(context.Context, int64) (T, error)) (out T) {
	if l.err == nil {
		out, l.err = read(l.ctx, l.student)
	}
	return out
}

func (s *State) addSubmission(sub query.Submission, marks map[int64]query.Returned) {
	s.Submissions = append(s.Submissions, sub)
	if m, ok := marks[sub.ID]; ok {
		s.Returned[sub.ID] = m
	}
	switch sub.State {
	case query.SubmissionStateAccepted:
		s.Attempt = int(sub.Attempt) + 1
	case query.SubmissionStateSending:
		s.Attempt, s.Sending = int(sub.Attempt), true
	}
}

// read decodes what the site published and the student added.
func (s *State) read() error {
	a := s.Assignment
	var published brief.Sheet
	var parts []brief.Part
	for _, column := range []struct {
		text json.RawMessage
		into any
	}{{a.Sheet, &published}, {a.Own, &s.Own}, {a.Late, &s.Late}, {a.Parts, &parts}, {a.Extension, &s.Extension}, {a.Noted, &s.Noted}} {
		if len(column.text) <= len("{}") {
			continue // nothing is in it, as in most
		}
		if err := json.Unmarshal(column.text, column.into); err != nil {
			return err
		}
	}
	s.Sheet, s.Requirements = brief.Merge(published, s.Own, s.Course.NameHabit)
	if len(parts) == 0 {
		parts = []brief.Part{{Opens: a.Opens, Due: a.Due, Closes: a.Closes}}
	}
	return s.window(parts)
}

// settle computes send-by and the findings.
func (s *State) settle(who query.Student, dues []time.Time) {
	s.CrowdOf, s.Crowded = timing.Crowd(s.Window.Due.At(), dues, s.Window.Zone)
	s.SendBy, s.Because = timing.SendBy(s.Window.Due.At(), s.Job())
	var items []brief.Item
	for _, i := range s.Items {
		items = append(items, brief.Item{ID: i.ID, Slot: i.Slot, Name: i.Name, Facts: i.Facts})
	}
	handouts := map[string]string{}
	for _, h := range s.Handouts {
		handouts[h.Digest] = h.Name
	}
	s.Findings = brief.Check(brief.Bundle{
		Sheet: s.Sheet, Items: items, Handouts: handouts, Window: s.Window, Late: s.Late, Now: s.Now, SendBy: s.SendBy, Fields: naming.Fields{
			"family": who.Family, "given": who.Given, "number": who.Number, "initials": initials(who), "course": strings.ReplaceAll(s.Course.Code, " ", ""),
			"assignment": s.Assignment.SiteKey, "title": s.Assignment.Title, "attempt": fmt.Sprint(s.Attempt), "date": s.Now.In(s.Window.Zone).Format(time.DateOnly),
		},
	})
}

func initials(who query.Student) string {
	out := ""
	for _, name := range strings.Fields(who.Given + " " + who.Family) {
		out += strings.ToUpper(string([]rune(name)[:1]))
	}
	return out
}

// Job is what sending this assignment needs before its due time.
func (s *State) Job() timing.Job {
	j := timing.Job{
		Bytes: usualBytes, Rate: usualRate, Fix: usualFix, Margin: time.Duration(s.Settings.Margin) * time.Minute,
		FirstReport: time.Duration(s.Assignment.FirstReportMinutes) * time.Minute, LaterReport: time.Duration(s.Assignment.LaterReportMinutes) * time.Minute,
	}
	if len(s.Items) > 0 {
		j.Bytes = s.Bytes()
	}
	if s.Site.BytesPerSecond.Valid {
		j.Rate = s.Site.BytesPerSecond.Float64
	}
	if s.Crowded {
		j.Rate /= rushFactor
	}
	if s.Sheet.Report != nil {
		j.Rounds = 1
	}
	return j
}

// Bytes is the size of the bundle.
func (s *State) Bytes() (n int64) {
	for _, i := range s.Items {
		n += i.ItemsRow.Bytes
	}
	return n
}

// Filled counts the bundle's files by slot.
func (s *State) Filled() map[string]int {
	filled := map[string]int{}
	for _, i := range s.Items {
		filled[i.Slot]++
	}
	return filled
}

// Last is the newest accepted submission, if there is one.
func (s *State) Last() (last query.Submission, ok bool) {
	for _, sub := range s.Submissions {
		if sub.State == query.SubmissionStateAccepted {
			last, ok = sub, true
		}
	}
	return last, ok
}

// MayGoOn says whether the site would take another attempt, and if not, why.
func (s *State) MayGoOn() (yes bool, why string) {
	last, sent := s.Last()
	if state, _ := s.Window.At(s.Now, s.Late); state == timing.Closed {
		return false, "it is closed"
	}
	switch most := s.Sheet.Attempts.Max; {
	case !sent:
		return true, ""
	case most > 0 && s.Attempt > most:
		return false, fmt.Sprintf("all %d attempts are used", most)
	case s.Sheet.Attempts.Invitation && !s.Returned[last.ID].Invited:
		return false, "another attempt needs an invitation"
	}
	return true, ""
}

// Find loads one assignment of a student; [ErrNotFound] if it is not there.
func Find(ctx context.Context, r Reader, student, assignment int64, now time.Time) (*State, error) {
	states, err := Load(ctx, r, student, now)
	if err != nil {
		return nil, err
	}
	for _, s := range states {
		if s.Assignment.ID == assignment {
			return s, nil
		}
	}
	return nil, ErrNotFound
}

// NotFound turns the database's word into this package's.
func NotFound(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}
