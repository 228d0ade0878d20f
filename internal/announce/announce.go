// Package announce tells a student's open pages, and the job that reminds her, what has changed.
package announce

import (
	"context"
	"fmt"
	"slices"
	"time"

	"orario/core/wording"
	"orario/internal/mariadb/query"
)

// Kinds of events. Those of the first block are news, which the Horizon lists and reminders may mail.
const (
	New       = "new"
	Changed   = "changed"
	HandedOut = "handout"
	Report    = "report"
	Return    = "return"
	Reminder  = "reminder"
	Refused   = "refused"

	Notice   = "notice"   // news told again to somebody who was not there
	Site     = "site"     // a site answers, or does not
	Bundle   = "bundle"   // files of an assignment
	Progress = "sending"  // bytes of a submission
	Receipt  = "receipt"  // a submission has arrived
	Waiting  = "waiting"  // for a report
	Edited   = "edited"   // the student changed something in another tab
	Planned  = "planned"  // the plan, the work or the settings changed
	Library  = "library"  // a file came in
	Calendar = "calendar" // a calendar was taken over
)

// RemindJob is the kind of the job that reminds one student.
const RemindJob = "remind"

// The pages that show what an event is about. A page asks for its data anew when one names it.
const (
	Horizon = "horizon"
	Desk    = "desk" // of the event's assignment
	Plan    = "plan"
	Ledger  = "ledger"
	Shelf   = "library"
	Courses = "courses"
	Feeds   = "feeds"
	Reading = "reading"
)

// Pages are those that an event of a kind concerns.
func Pages(kind string) []string {
	switch kind {
	case Progress:
		return []string{Desk}
	case Bundle:
		return []string{Desk, Horizon, Shelf}
	case Receipt:
		return []string{Desk, Horizon, Ledger, Shelf}
	case Report, Return, Refused, Waiting:
		return []string{Desk, Horizon, Reading}
	case Reminder, Notice:
		return []string{Horizon}
	case Library:
		return []string{Shelf}
	case Site:
		return []string{Horizon, Courses}
	case Calendar:
		return []string{Horizon, Plan, Courses, Feeds}
	}
	return []string{Desk, Horizon, Plan, Courses}
}

// An Event is something that happened to a student.
type Event struct {
	Student, Assignment int64
	Kind, Text          string
}

// Store keeps events and jobs.
type Store interface {
	AddEvent(context.Context, query.AddEventParams) error
	AddJob(context.Context, query.AddJobParams) error
}

// silent are the kinds that change nothing about what a student is to be reminded of.
var silent = []string{Reminder, Notice, Progress, Library, Waiting}

// mostText bounds an event's text, in code points.
const mostText = 500

// Tell stores an event, from where every open page of the student hears it. What may change the reminders wakes the job
// that says them. Within a transaction both come with it or not at all.
func Tell(ctx context.Context, s Store, now time.Time, e Event) error {
	err := s.AddEvent(ctx, query.AddEventParams{
		StudentID:    e.Student,
		Kind:         e.Kind,
		AssignmentID: e.Assignment,
		Text:         wording.Clip(e.Text, mostText),
	})
	if err != nil {
		return fmt.Errorf("telling of a change: %w", err)
	}
	if slices.Contains(silent, e.Kind) {
		return nil
	}
	return s.AddJob(
		ctx,
		query.AddJobParams{Kind: RemindJob, Subject: e.Student, StudentID: e.Student, RunAt: now.UTC()},
	)
}
