package agenda

import (
	"fmt"
	"time"

	"orario/core/coursework"
	"orario/core/wording"
)

// EnoughTime is until when more time would be enough: when the work is done by the plan, but not before it is due, with
// a day to spare, at the end of that day in the course's zone.
func (e *Entry) EnoughTime() time.Time {
	end := e.Window.Due.At()
	if n := len(e.Blocks); n > 0 {
		end = later(end, e.Blocks[n-1].End)
	}
	day := end.In(e.Window.Zone).AddDate(0, 0, 2)
	return time.Date(day.Year(), day.Month(), day.Day(), 23, 59, 0, 0, e.Window.Zone)
}

// AskForTime drafts the mail that asks the instructor for more time until a wall time, in the name of the student as
// she is registered.
func (e *Entry) AskForTime(who coursework.Enrolment, until string) (subject, text string) {
	greeting := "Good day"
	if e.Course.Instructor != "" {
		greeting = "Dear " + e.Course.Instructor
	}
	minutes := func(n int) string { return wording.Work(time.Duration(n) * time.Minute) }
	work := fmt.Sprintf("I reckon with %s of work, ", wording.Work(e.left()))
	if e.Done > 0 {
		work = fmt.Sprintf("I have put %s into it and reckon with %s more, ", minutes(e.Done), wording.Work(e.left()))
	}
	text = fmt.Sprintf("%s,\n\n%s in %s (%s) is due %s. ",
		greeting, e.Titled(), e.Course.Title, e.Course.Code, e.Local(e.Window.Due.At()))
	text += work + "which do not fit beside what else is due before then.\n\n"
	text += "May I send it until " + wording.Wall(until) +
		"? If less is possible, please tell me until when.\n\n"
	text += fmt.Sprintf("Thank you,\n%s %s\n", who.Given, who.Family)
	if who.Number != "" {
		text += "student number " + who.Number + "\n"
	}
	return fmt.Sprintf("%s, %s: more time", e.Course.Code, e.Titled()), text
}
