// Package coursework is what a student has to hand over and what became of it: courses, assignments with their parts,
// attempts, submissions, and what came back. These are facts, told by a site or by the student; once a standing has
// been computed from them they may be shared, and are not changed any more.
//
// What follows from them is a [Standing]: where each assignment is, which attempt comes next, what is in the way of
// sending it, by when it has to go, and its punch strip. No standing is ever stored; it is computed from the facts
// for an instant. The package reads no clock and no database.
package coursework

import (
	"strings"
	"sync"
	"time"

	"orario/core/brief"
	"orario/core/inspect"
	"orario/core/timing"
)

// Coursework is everything of one student.
type Coursework struct {
	Student     Student
	Margin      time.Duration // the student's own, ahead of due
	Courses     []*Course
	Assignments []*Assignment
}

// A Student is somebody with an account.
type Student struct {
	ID                           int64
	Email, Family, Given, Number string
	Zone                         *time.Location
}

// An Enrolment is a student at an institution: her number and names as registered there. Receipts and names of files
// go by it and not by the account.
type Enrolment struct {
	ID                    int64
	Institution           string
	Number, Family, Given string
	Zone                  string        // IANA name of the institution's zone
	Clock                 time.Duration // the institution's clock less ours
}

// Initials are the first letters of the names, given names first.
func (e Enrolment) Initials() string {
	out := ""
	for _, name := range strings.Fields(e.Given + " " + e.Family) {
		out += strings.ToUpper(string([]rune(name)[:1]))
	}
	return out
}

// A Site is a connected course site.
type Site struct {
	ID       int64
	Name     string
	Rate     float64 // bytes per second, the pessimistic figure of past transfers; 0: not known
	Notice   string  // why the last sync failed, or what it left out
	SyncedAt *time.Time
}

// A Course of a term. Without a site it is the student's own; without an enrolment the account's names hold.
type Course struct {
	ID                                          int64
	Key, Code, Title, Instructor, Contact, Term string
	Zone                                        *time.Location
	Habit                                       string // name pattern where an assignment gives none
	Usual                                       Usual
	Archived                                    bool
	Site                                        *Site
	Enrolment                                   *Enrolment
}

// Usual is what new assignments of a course begin with.
type Usual struct {
	Forms   []string `json:"forms"`
	Late    string   `json:"late"`   // in words, as instructions say it
	Weight  float64  `json:"weight"` // percent of the course; 0: not said
	Points  float64  `json:"points"`
	Minutes int      `json:"minutes"` // of work
}

// Source is where an assignment comes from.
type Source string

// The sources of assignments.
const (
	FromSite     Source = "site"
	FromStudent  Source = "own"
	FromCalendar Source = "calendar"
)

// An Assignment is work that a course asks for. It has at least one part.
type Assignment struct {
	ID                       int64
	Course                   *Course
	Source                   Source
	Key                      string // at its site or in its calendar
	Title                    string
	Points                   float64
	Weight                   float64 // percent of the course
	Late                     timing.Rule
	Sheet                    brief.Sheet // as published
	Own                      brief.Own   // what the student adds
	FirstReport, LaterReport time.Duration
	Handouts                 []Handout
	Effort                   Effort
	Done                     int        // minutes worked
	NotBefore                *time.Time // of planned work
	Enough                   bool       // the student says so
	Cancelled                bool       // by the calendar that it came from, or put away
	Parts                    []*Part
}

// Effort is how many minutes of work the student reckons with in all, and if all goes well or little does; 0: not
// said.
type Effort struct{ Low, Likely, High int }

// A Handout is a file that the instructor gives out.
type Handout struct {
	ID     int64
	Name   string
	Bytes  int64
	Digest string
	Inside map[string]string // names of what it holds, by digest, if it is an archive
}

// A Part of an assignment has a window, and attempts, of its own.
type Part struct {
	ID        int64
	Name      string // empty where there is only one
	Window    timing.Window
	DueWas    *time.Time   // before the last change
	Points    float64      // of its own; 0: not said
	Weight    float64      // percent of the course; 0: not said
	Route     string       // site, folder, mail, by_hand, or empty: not said
	Slots     []brief.Slot // of its own; none: those of the sheet
	Extension *Extension
	Noted     *Noted
	Attempts  []*Attempt // by number

	merging      sync.Once // see [Part.applies]
	sheet        brief.Sheet
	requirements []brief.Requirement
}

// An Extension is more time that the student asked for or was given. Due and Closes are wall times in the course's
// zone; Closes may be empty.
type Extension struct {
	Asked, Granted *time.Time
	Due, Closes    string
	Note           string
	Proof          int64 // a version in the library; 0: none
}

// Noted says that the student sent a part outside of Orario.
type Noted struct {
	At   time.Time `json:"at"`
	Note string    `json:"note"`
}

// An Attempt is one going at a part.
type Attempt struct {
	ID          int64
	Number      int
	BegunFrom   int64         // the attempt whose files it began with; 0: none
	Items       []Item        // what lies in its bundle; of a sent attempt they are not kept here
	Submissions []*Submission // of which one at the most is accepted
}

// An Item is a file in a slot of a bundle.
type Item struct {
	ID        int64
	Slot      string
	Name      string // under which it is sent
	Version   int64
	Original  string // the name that the version came with
	Digest    string
	MadeFrom  int64 // the version that it was converted from; 0: none
	AddedAt   time.Time
	Inherited bool // copied from the attempt before and not touched since
	Facts     *inspect.Facts
	Newer     int64 // a version of the same name that came in later; 0: none
}

// FollowedFor is how long after its sending it is looked for what comes back of a submission: common practice is that
// work is marked within some weeks.
const FollowedFor = 60 * 24 * time.Hour

// SubmissionState is how far a submission is.
type SubmissionState string

// The states of a submission.
const (
	Carried   SubmissionState = "sending"
	Accepted  SubmissionState = "accepted"
	Refused   SubmissionState = "refused"
	Cancelled SubmissionState = "cancelled"
)

// A Submission is a bundle on its way to a site, or there.
type Submission struct {
	ID                    int64
	Attempt               int
	State                 SubmissionState
	Comment               string
	StartedAt             time.Time
	Reason                string // of a refusal, or of the last failure
	Begun                 bool   // the site knows of it, so it cannot be cancelled
	TotalBytes, SentBytes int64
	Number                string // that the site gave it
	AcceptedAt            *time.Time
	Proved                *bool // whether receipt and work agree; nil: there is no receipt
	Report                *Report
	Return                *Return
}

// A Report on the similarity of what was sent.
type Report struct {
	Ready      bool
	ExpectedAt *time.Time
	Share      float64 // 0 to 1, of one that is ready
}

// A Return is what an instructor gave back.
type Return struct {
	Mark     *float64
	Points   float64
	Comments []Comment
	Invited  bool
}

// A Comment of the instructor.
type Comment struct {
	Text   string   `json:"text"`
	Open   bool     `json:"open"` // asks for a correction
	Points *float64 `json:"points,omitempty"`
}
