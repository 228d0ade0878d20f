package courier

import (
	"time"

	"orario/core/brief"
	"orario/core/similarity"
	"orario/core/timing"
	api "orario/internal/courier/campusapi"
)

// A Description is what a site says of itself, and whom it knows the student as.
type Description struct {
	Key, Name, PublicKey string
	Now                  time.Time // by its clock
	Revision             int64     // rises with whatever it publishes
	Student              Registered
}

// Registered is a student as a site knows her.
type Registered struct{ Family, Given, Number string }

// A Course that a site publishes.
type Course struct{ Code, Instructor, Key, Title, Zone string }

// An Assignment that a site publishes. Opens and Closes are wall times of the course's zone, or empty.
type Assignment struct {
	Key, Course, Title, Instructions string
	Opens, Due, Closes               string
	GraceMinutes                     int
	Late                             timing.Rule
	Points, Weight                   float64 // percent of the course
	Revision                         int
	Sheet                            brief.Sheet
	Turnaround                       Turnaround
	Handouts                         []Handout
}

// Turnaround is how long a site takes for reports, in minutes.
type Turnaround struct{ FirstMinutes, LaterMinutes int }

// A Handout is a file that comes with an assignment.
type Handout struct {
	Bytes        int64
	Digest, Name string
}

// A Draft is work that lies at a site and is not submitted.
type Draft struct {
	ID    int64
	Files []DraftFile
}

// A DraftFile is one file of it.
type DraftFile struct {
	Bytes              int64
	Name, SHA256, Slot string
}

// A Report on similarity, as far as it is made: that of a site, or the student's own check. It is kept as JSON.
type Report struct {
	ExpectedAt *time.Time         `json:"expected_at,omitempty"`
	MadeAt     *time.Time         `json:"made_at,omitempty"`
	Report     *similarity.Report `json:"report,omitempty"`
	Sources    []SourceText       `json:"sources"`
	State      ReportState        `json:"state"`
	Text       string             `json:"text"` // that was checked
}

// ReportState is how far a report is.
type ReportState string

// The states of reports.
const (
	None    = ReportState(api.None) // none will be made
	Waiting = ReportState(api.Waiting)
	Ready   = ReportState(api.Ready)
)

// A SourceText is what a report found words in.
type SourceText struct {
	Name  string `json:"name"`
	Text  string `json:"text"`
	Title string `json:"title"`
}

// A Return is the mark with its comments, once it is Marked.
type Return struct {
	Comments []Comment
	Invited  bool     // another attempt is
	Mark     *float64 // points, once it is marked
	Marked   bool
	MarkedAt *time.Time
	Points   float64 // that were possible
}

// A Comment of a return; Open ones ask for a correction. It is kept as JSON.
type Comment struct {
	Open   bool     `json:"open"`
	Points *float64 `json:"points,omitempty"` // that it cost
	Text   string   `json:"text"`
}

// What follows makes ours of what came over the wire, and is all that knows both.

func describedBy(s api.Site) Description {
	return Description{
		Key: s.Key, Name: s.Name, PublicKey: s.PublicKey, Now: s.Now, Revision: s.Revision,
		Student: Registered(s.Student),
	}
}

func assignmentOf(a api.Assignment) Assignment {
	return Assignment{
		Key: a.Key, Course: a.Course, Title: a.Title, Instructions: a.Instructions,
		Opens: a.Opens, Due: a.Due, Closes: a.Closes, GraceMinutes: a.GraceMinutes, Late: a.Late,
		Points: a.Points, Weight: a.Weight, Revision: a.Revision, Sheet: a.Sheet,
		Turnaround: Turnaround(a.Turnaround),
		Handouts:   each(a.Handouts, func(h api.Handout) Handout { return Handout(h) }),
	}
}

func draftOf(d api.Draft) Draft {
	return Draft{ID: d.Id, Files: each(d.Files, func(f api.DraftFile) DraftFile {
		return DraftFile{Bytes: f.Bytes, Name: f.Name, SHA256: f.Sha256, Slot: f.Slot}
	})}
}

func reportOf(r api.Report) Report {
	return Report{
		ExpectedAt: r.ExpectedAt, MadeAt: r.MadeAt, Report: r.Report, State: ReportState(r.State), Text: r.Text,
		Sources: each(r.Sources, func(s api.SourceText) SourceText { return SourceText(s) }),
	}
}

func returnOf(r api.Return) Return {
	return Return{
		Comments: each(r.Comments, func(c api.Comment) Comment { return Comment(c) }),
		Invited:  r.Invited, Mark: r.Mark, Marked: r.Marked, MarkedAt: r.MarkedAt, Points: r.Points,
	}
}

func each[From, To any](list []From, change func(From) To) []To {
	out := make([]To, len(list))
	for i, v := range list {
		out[i] = change(v)
	}
	return out
}
