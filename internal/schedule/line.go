package schedule

import (
	"time"

	"orario/core/agenda"
	"orario/core/brief"
	"orario/core/coursework"
	"orario/core/timing"
)

// A Line is one assignment on the Horizon: a line in its course's lane and in the list.
type Line struct {
	ID             int64              `json:"id"`
	Source         coursework.Source  `json:"source"`
	CourseID       int64              `json:"course_id"`
	Course         string             `json:"course"`
	Zone           string             `json:"zone"`
	Title          string             `json:"title"`
	PartID         int64              `json:"part_id"`
	Part           string             `json:"part"`  // the one that comes next, where there are several
	Parts          []Part             `json:"parts"` // all, where there are several
	State          coursework.State   `json:"state"`
	Opens          *time.Time         `json:"opens"`
	Due            time.Time          `json:"due"`
	DueWas         *time.Time         `json:"due_was"` // before the site changed it
	Closes         *time.Time         `json:"closes"`
	HardStop       bool               `json:"hard_stop"` // nothing is taken after due
	SendBy         time.Time          `json:"send_by"`
	Price          string             `json:"price"` // of lateness
	Points         float64            `json:"points"`
	Weight         float64            `json:"weight"`
	EffortMinutes  int                `json:"effort_minutes"`
	DoneMinutes    int                `json:"done_minutes"`
	PlanMinutes    int                `json:"plan_minutes"` // of work in all that the plan reckons with
	Estimate       string             `json:"estimate"`     // why that differs from the student's figure
	NotBefore      *time.Time         `json:"not_before"`   // of planned work, where the student says so
	Miss           string             `json:"miss"`         // by what the planned work misses its time
	Extension      string             `json:"extension"`    // asked, granted or empty
	Blocks         []agenda.Block     `json:"blocks"`
	LatestStart    *time.Time         `json:"latest_start"`
	SlackMinutes   *int               `json:"slack_minutes"`
	Slack          string             `json:"slack"`
	SentAt         *time.Time         `json:"sent_at"`
	ReportExpected *time.Time         `json:"report_expected"`
	Outcome        string             `json:"outcome"` // "17 of 20", "report: 11 %"
	Attempt        int                `json:"attempt"`
	Attempts       int                `json:"attempts"` // 0: without limit
	MustFix        int                `json:"must_fix"`
	Crowd          int                `json:"crowd"`    // due times within half an hour
	Pressing       bool               `json:"pressing"` // open, and its send-by is less than a day away or past
	Strip          []coursework.Place `json:"strip"`
	StripAttempt   int                `json:"strip_attempt"` // the attempt that the strip is of
}

// A Part is one of several parts of an assignment.
type Part struct {
	ID     int64      `json:"id"`
	Name   string     `json:"name"`
	Opens  *time.Time `json:"opens"`
	Due    time.Time  `json:"due"`
	Closes *time.Time `json:"closes"`
	Sent   bool       `json:"sent"` // by Orario, or as the student says
}

// LineOf draws an entry of the plan.
func LineOf(e *agenda.Entry) Line {
	l := Line{
		ID:            e.ID,
		Source:        e.Source,
		CourseID:      e.Course.ID,
		Course:        e.Course.Code,
		Zone:          e.Course.Zone.String(),
		Title:         e.Title,
		PartID:        e.Part.ID,
		Part:          e.Part.Name,
		Parts:         []Part{},
		State:         e.State,
		Opens:         instant(e.Window.Opens),
		Due:           e.Window.Due.At(),
		DueWas:        e.Part.DueWas,
		Closes:        instant(e.Window.Closes),
		HardStop:      e.Late.Kind == timing.NoLateWork,
		SendBy:        e.SendBy,
		Price:         coursework.Price(e.Late),
		Points:        e.Points,
		Weight:        e.Weight,
		EffortMinutes: e.Standing.Effort.Likely,
		DoneMinutes:   e.Done,
		PlanMinutes:   e.Minutes,
		Estimate:      e.Estimate,
		NotBefore:     e.Starts,
		Miss:          e.Miss,
		Blocks:        e.Blocks,
		LatestStart:   e.LatestStart,
		SlackMinutes:  e.SlackMinutes,
		Slack:         e.Slack,
		SentAt:        e.SentAt,
		Outcome:       e.Outcome(),
		Attempt:       e.Number,
		Attempts:      e.Sheet.Attempts.Max,
		MustFix:       brief.MustFix(e.Findings),
		Crowd:         e.CrowdOf,
		Pressing:      e.Pressing(),
	}
	if len(e.Parts) > 1 {
		for _, p := range e.Parts {
			w := p.Extended()
			l.Parts = append(l.Parts, Part{p.ID, p.Name, instant(w.Opens), w.Due.At(), instant(w.Closes), p.Sent()})
		}
	}
	if x := e.Part.Extension; x != nil && x.Granted != nil {
		l.Extension = "granted"
	} else if x != nil {
		l.Extension = "asked"
	}
	if last, sent := e.Part.Last(); sent && last.Report != nil && !last.Report.Ready {
		l.ReportExpected = last.Report.ExpectedAt
	}
	l.Strip, l.StripAttempt = e.Strip()
	return l
}

func instant(w *timing.Wall) *time.Time {
	if w == nil {
		return nil
	}
	at := w.At()
	return &at
}
