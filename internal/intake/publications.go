package intake

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"orario/core/coursework"
	"orario/core/placing"
	"orario/core/receipt"
	"orario/core/timing"
	"orario/core/wording"
	"orario/internal/announce"
	"orario/internal/courier"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
)

// putEnrolment takes over how the institution knows the student, and its clock.
func (y *sync) putEnrolment(ctx context.Context, q *query.Queries) error {
	e, as := y.enrolment, y.said.Student
	set := query.SetEnrolmentParams{
		Institution: e.Institution,
		Number:      e.Number,
		Family:      e.Family,
		Given:       e.Given,
		Zone:        e.Zone,
		ID:          e.ID,
		StudentID:   e.StudentID,
	}
	if set.Institution == y.row.BaseUrl {
		set.Institution = wording.Clip(y.said.Name, 200)
	}
	if as.Number != "" && as.Family != "" {
		set.Number, set.Family, set.Given = wording.Clip(as.Number, 32), wording.Clip(
			as.Family,
			100,
		), wording.Clip(as.Given, 100)
	}
	if _, err := q.SetEnrolment(ctx, set); err != nil {
		return err
	}
	return q.SetEnrolmentClock(ctx, query.SetEnrolmentClockParams{ClockOffsetMs: y.offset, ID: e.ID})
}

// putKey keeps the key that the site signs with under its id. A site that shows another key under an id that is known
// is not believed: receipts go on being checked with the first.
func (y *sync) putKey(ctx context.Context, q *query.Queries) error {
	if _, err := receipt.ParseKey(y.said.PublicKey); err != nil || len(y.said.Key) > 64 {
		return siteError{courier.ErrForeign}
	}
	if _, err := q.NameSiteKey(
		ctx,
		query.NameSiteKeyParams{KeyID: y.said.Key, SiteID: y.row.ID, PublicKey: y.said.PublicKey},
	); err != nil &&
		!mariadb.IsDuplicate(err) {
		return err
	}
	n, err := q.AddSiteKey(ctx, query.AddSiteKeyParams{
		SiteID:    y.row.ID,
		KeyID:     y.said.Key,
		PublicKey: y.said.PublicKey,
		FirstSeen: y.Now().UTC(),
	})
	if err != nil || n > 0 {
		return err
	}
	keys, err := q.SiteKeys(ctx, y.row.ID)
	if err != nil {
		return err
	}
	for _, k := range keys {
		if k.KeyID == y.said.Key && k.PublicKey != y.said.PublicKey {
			return siteError{courier.Refused{Code: "key", Reason: fmt.Sprintf("%s shows another key under the name %q "+
				"than before. Its receipts prove nothing until that is explained; ask the institution.",
				y.said.Name, k.KeyID)}}
		}
	}
	return nil
}

func (y *sync) putCourses(
	ctx context.Context,
	q *query.Queries,
	courses []courier.Course,
) (map[string]query.Course, error) {
	for _, c := range courses {
		if _, err := timing.Zone(c.Zone); err != nil || c.Code == "" || len(c.Key) > 64 {
			continue // its assignments are named
		}
		err := q.PutCourse(ctx, query.PutCourseParams{
			StudentID:   y.row.StudentID,
			SiteID:      mariadb.NullInt(y.row.ID),
			EnrolmentID: mariadb.NullInt(y.row.EnrolmentID),
			SiteKey:     c.Key,
			Code:        wording.Clip(c.Code, 32),
			Title:       wording.Clip(c.Title, 200),
			Zone:        c.Zone,
			Instructor:  wording.Clip(c.Instructor, 200),
			NameHabit:   placing.Habit,
		})
		if err != nil {
			return nil, err
		}
	}
	rows, err := q.Courses(ctx, y.row.StudentID)
	taken := map[string]query.Course{}
	for _, c := range rows {
		if c.SiteID.Int64 == y.row.ID {
			taken[c.SiteKey] = c
		}
	}
	return taken, err
}

// sound says why an assignment cannot be used, if it cannot.
func sound(course query.Course, a courier.Assignment) error {
	if err := timing.SoundWindow(course.Zone, a.Opens, a.Due, a.Closes, a.GraceMinutes); err != nil {
		return err
	}
	if err := a.Late.Validate(); err != nil {
		return err
	}
	if err := a.Sheet.Sound(); err != nil {
		return err
	}
	switch {
	case a.Title == "" || len(a.Key) > 64:
		return errors.New("it has no title, or too long a key")
	case a.Points < 0 || a.Points > 1e6 || a.Weight < 0 || a.Weight > 100:
		return errors.New("its points or its weight cannot be meant")
	case a.Turnaround.FirstMinutes < 0 || a.Turnaround.LaterMinutes < 0 ||
		a.Turnaround.FirstMinutes > timing.MostMinutes || a.Turnaround.LaterMinutes > timing.MostMinutes:
		return errors.New("the time that its reports take cannot be meant")
	}
	return nil
}

// putAssignment stores an assignment and notes what is new about it.
func (y *sync) putAssignment(ctx context.Context, q *query.Queries, course query.Course, a courier.Assignment) error {
	for i := range a.Sheet.Slots {
		a.Sheet.Slots[i].Most = a.Sheet.Slots[i].Room() // a site's slot takes one file where it names no number
	}
	late, err := json.Marshal(a.Late)
	if err != nil {
		return err
	}
	sheet, err := json.Marshal(a.Sheet)
	if err != nil {
		return err
	}
	err = q.PutAssignment(ctx, query.PutAssignmentParams{
		StudentID:          y.row.StudentID,
		CourseID:           course.ID,
		SiteKey:            a.Key,
		Title:              wording.Clip(a.Title, 300),
		Instructions:       a.Instructions,
		Late:               late,
		Points:             a.Points,
		Weight:             a.Weight,
		Sheet:              sheet,
		FirstReportMinutes: int32(a.Turnaround.FirstMinutes),
		LaterReportMinutes: int32(a.Turnaround.LaterMinutes),
	})
	if err != nil {
		return fmt.Errorf("keeping %s: %w", a.Title, err)
	}
	id, err := q.AssignmentByKey(ctx, query.AssignmentByKeyParams{CourseID: course.ID, SiteKey: a.Key})
	if err != nil {
		return err
	}
	if err := putParts(
		ctx,
		q,
		y.row.StudentID,
		id,
		[]newPart{{opens: a.Opens, due: a.Due, closes: a.Closes, grace: a.GraceMinutes}},
	); err != nil {
		return err
	}
	for _, h := range a.Handouts {
		if err := q.PutHandout(
			ctx,
			query.PutHandoutParams{
				AssignmentID: id, Name: wording.Clip(h.Name, 255), Bytes: h.Bytes, Digest: h.Digest,
				Inside: y.holds(h.Digest),
			},
		); err != nil {
			return err
		}
	}
	y.note(course, id, a)
	return nil
}

// note tells what is new about an assignment.
func (y *sync) note(course query.Course, id int64, a courier.Assignment) {
	tell := func(kind, text string, args ...any) {
		y.news = append(y.news, announce.Event{
			Student:    y.row.StudentID,
			Assignment: id,
			Kind:       kind,
			Text:       course.Code + ": " + fmt.Sprintf(text, args...),
		})
	}
	old, known := y.known[a.Course+"/"+a.Key]
	if !known {
		tell(announce.New, "%s is new.", a.Title)
		return
	}
	for _, h := range a.Handouts {
		if !y.handed[h.Digest] {
			tell(announce.HandedOut, "the handout %s is new with %s.", h.Name, a.Title)
		}
	}
	if was := old.Due.String; was != a.Due {
		tell(announce.Changed, "%s is due %s, no longer %s.", a.Title, wording.Wall(a.Due), wording.Wall(was))
	} else if old.Instructions != a.Instructions {
		tell(announce.Changed, "the instructions of %s changed.", a.Title)
	}
}

// lookForReturns has everything that was sent to the site looked after: its revision grew, so something may have
// come back.
func (y *sync) lookForReturns(ctx context.Context, q *query.Queries) error {
	sent, err := q.AcceptedBy(ctx, query.AcceptedByParams{
		SiteID:    mariadb.NullInt(y.row.ID),
		StartedAt: y.Now().UTC().Add(-coursework.FollowedFor),
	})
	if err != nil {
		return err
	}
	for _, id := range sent {
		if err := q.HastenJobs(
			ctx,
			query.HastenJobsParams{RunAt: y.Now().UTC(), Subject: id, StudentID: y.row.StudentID},
		); err != nil {
			return err
		}
	}
	return nil
}
