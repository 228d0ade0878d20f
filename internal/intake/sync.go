package intake

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"orario/core/receipt"
	"orario/core/timing"
	"orario/core/wording"
	"orario/internal/announce"
	"orario/internal/courier"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
)

// usualHabit is the name pattern that a new course begins with: common practice is the family name with words that
// describe the work.
const usualHabit = "{family:lower}_{course}_{title:dash}"

// Sync is the handler of [SyncJob]. It can be repeated at will: what the site publishes replaces what it published before,
// what the student did stays. Where the site says that nothing has changed, nothing more is asked. A site that cannot be
// reached costs a notice; a failure of our own is an error, and logged as one.
func (s Service) Sync(ctx context.Context, job query.Job) (time.Duration, error) {
	site, err := s.Store.Site(ctx, job.Subject)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, mariadb.Final{Err: err}
	}
	if err != nil {
		return 0, err
	}
	y := &sync{Service: s, row: site}
	err = y.run(ctx)
	var theirs siteError
	switch {
	case err == nil:
		return s.Every, nil
	case ctx.Err() != nil || !errors.As(err, &theirs):
		return 0, err
	}
	s.Log.Info("a site could not be synced", "site", site.ID, "error", theirs.error)
	notice := theirs.notice(site.Name)
	if site.Notice == notice {
		return s.Every, nil
	}
	if err := s.Store.SiteNotice(ctx, query.SiteNoticeParams{Notice: notice, ID: site.ID}); err != nil {
		return 0, err
	}
	return s.Every, announce.Tell(ctx, s.Store, announce.Event{Student: site.StudentID, Kind: announce.Site, Text: notice})
}

// A siteError is a failure that is the site's, or the line's.
type siteError struct{ error }

func (e siteError) notice(site string) string {
	var refused courier.Refused
	switch {
	case errors.As(e.error, &refused):
		return refused.Reason
	case errors.Is(e.error, courier.ErrForeign):
		return site + " answers, but not as a course site does; what you see is from the last time it did. Check its address."
	}
	return site + " cannot be reached; what you see is from the last time it could."
}

// sync is one sync of a site.
type sync struct {
	Service
	row       query.Site
	said      courier.Description
	offset    int64 // ms of the site's clock over ours
	known     map[string]query.PublishedByRow
	handed    map[string]bool // digests that are there
	leftOut   []string
	news      []announce.Event
	enrolment query.Enrolment
}

func (y *sync) run(ctx context.Context) error {
	site, err := y.Connect(y.row)
	if err != nil {
		return err
	}
	asked := y.Now()
	if y.said, err = site.Describe(ctx); err != nil {
		return siteError{err}
	}
	y.offset = y.said.Now.Sub(asked.Add(y.Now().Sub(asked) / 2)).Milliseconds()
	// Within the noise of an answer's way the clocks are the same.
	if y.offset > -500 && y.offset < 500 {
		y.offset = 0
	}
	if y.enrolment, err = y.Store.Enrolment(ctx, query.EnrolmentParams{ID: y.row.EnrolmentID, StudentID: y.row.StudentID}); err != nil {
		return err
	}
	if y.row.Revision == y.said.Revision && y.row.Notice == "" && y.enrolment.ClockOffsetMs/1000 == y.offset/1000 {
		return nil
	}
	courses, err := site.Courses(ctx)
	if err != nil {
		return siteError{err}
	}
	assignments, err := site.Assignments(ctx)
	if err != nil {
		return siteError{err}
	}
	if err := y.read(ctx); err != nil {
		return err
	}
	assignments, err = y.fetchHandouts(ctx, site, assignments)
	if err != nil {
		return err
	}
	return y.Store.InTx(ctx, func(q *query.Queries) error { return y.put(ctx, q, courses, assignments) })
}

// read finds what is there of the site's publications.
func (y *sync) read(ctx context.Context) error {
	y.known, y.handed = map[string]query.PublishedByRow{}, map[string]bool{}
	rows, err := y.Store.PublishedBy(ctx, mariadb.NullInt(y.row.ID))
	if err != nil {
		return err
	}
	for _, a := range rows {
		y.known[a.CourseKey+"/"+a.SiteKey] = a
	}
	handouts, err := y.Store.HandoutsOfSite(ctx, mariadb.NullInt(y.row.ID))
	for _, h := range handouts {
		y.handed[h.Digest] = true
	}
	return err
}

// fetchHandouts fetches what is new. An assignment whose handout does not arrive whole is left out, the others go on.
func (y *sync) fetchHandouts(ctx context.Context, site Site, assignments []courier.Assignment) (whole []courier.Assignment, err error) {
	fetched := map[string]bool{}
	for _, a := range assignments {
		err := func() error {
			for _, h := range a.Handouts {
				if y.handed[h.Digest] || fetched[h.Digest] {
					continue
				}
				content, err := site.Handout(ctx, h.Digest)
				if err != nil {
					return fmt.Errorf("the handout %s cannot be fetched", h.Name)
				}
				digest, _, err := y.Contents.Put(ctx, content)
				if err != nil {
					return fmt.Errorf("keeping a handout: %w", err)
				}
				if digest != h.Digest {
					return fmt.Errorf("the handout %s did not arrive whole", h.Name)
				}
				fetched[digest] = true
			}
			return nil
		}()
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if err != nil {
			y.leaveOut(a.Title, err)
			continue
		}
		whole = append(whole, a)
	}
	return whole, nil
}

// leaveOut names what cannot be taken over, with the reason.
func (y *sync) leaveOut(title string, why error) {
	y.Log.Warn("an assignment was left out", "site", y.row.ID, "assignment", title, "error", why)
	y.leftOut = append(y.leftOut, fmt.Sprintf("%s: %v", title, why))
}

// notice says what was left out, or is empty.
func (y *sync) notice() string {
	if len(y.leftOut) == 0 {
		return ""
	}
	const most = 3
	text := fmt.Sprintf("%s publishes %s that cannot be used; ask the instructor: ", y.said.Name, wording.Count(len(y.leftOut), "assignment", "assignments"))
	text += strings.Join(y.leftOut[:min(most, len(y.leftOut))], "; ")
	if more := len(y.leftOut) - most; more > 0 {
		text += fmt.Sprintf("; and %d more", more)
	}
	return wording.Clip(text+".", 500)
}

// put stores what the site publishes, in one transaction.
func (y *sync) put(ctx context.Context, q *query.Queries, courses []courier.Course, assignments []courier.Assignment) error {
	if err := y.putEnrolment(ctx, q); err != nil {
		return err
	}
	if err := y.putKey(ctx, q); err != nil {
		return err
	}
	taken, err := y.putCourses(ctx, q, courses)
	if err != nil {
		return err
	}
	for _, a := range assignments {
		course, ok := taken[a.Course]
		if !ok {
			y.leaveOut(a.Title, fmt.Errorf("it is published in a course %q that is not", a.Course))
			continue
		}
		if err := sound(course, a); err != nil {
			y.leaveOut(a.Title, err)
			continue
		}
		if err := y.putAssignment(ctx, q, course, a); err != nil {
			return err
		}
	}
	for _, event := range y.news {
		if err := announce.Tell(ctx, q, event); err != nil {
			return err
		}
	}
	notice := y.notice()
	err = q.SiteSynced(ctx, query.SiteSyncedParams{Name: wording.Clip(y.said.Name, 200), Revision: y.said.Revision, SyncedAt: sql.NullTime{Time: y.Now().UTC(), Valid: true}, Notice: notice, ID: y.row.ID})
	if err != nil {
		return err
	}
	if y.row.Notice != notice || y.enrolment.ClockOffsetMs/1000 != y.offset/1000 {
		text := notice
		if text == "" {
			text = y.said.Name + " answers."
		}
		err = announce.Tell(ctx, q, announce.Event{Student: y.row.StudentID, Kind: announce.Site, Text: text})
	}
	return errors.Join(err, y.lookForReturns(ctx, q))
}

// putEnrolment takes over how the institution knows the student, and its clock.
func (y *sync) putEnrolment(ctx context.Context, q *query.Queries) error {
	e, as := y.enrolment, y.said.Student
	set := query.SetEnrolmentParams{Institution: e.Institution, Number: e.Number, Family: e.Family, Given: e.Given, Zone: e.Zone, ID: e.ID, StudentID: e.StudentID}
	if set.Institution == y.row.BaseUrl {
		set.Institution = wording.Clip(y.said.Name, 200)
	}
	if as.Number != "" && as.Family != "" {
		set.Number, set.Family, set.Given = wording.Clip(as.Number, 32), wording.Clip(as.Family, 100), wording.Clip(as.Given, 100)
	}
	if _, err := q.SetEnrolment(ctx, set); err != nil {
		return err
	}
	return q.SetEnrolmentClock(ctx, query.SetEnrolmentClockParams{ClockOffsetMs: y.offset, ID: e.ID})
}

// putKey keeps the key that the site signs with under its id. A site that shows another key under an id that is known is not
// believed: receipts go on being checked with the first.
func (y *sync) putKey(ctx context.Context, q *query.Queries) error {
	if _, err := receipt.ParseKey(y.said.PublicKey); err != nil || len(y.said.Key) > 64 {
		return siteError{courier.ErrForeign}
	}
	if _, err := q.NameSiteKey(ctx, query.NameSiteKeyParams{KeyID: y.said.Key, SiteID: y.row.ID, PublicKey: y.said.PublicKey}); err != nil && !mariadb.IsDuplicate(err) {
		return err
	}
	n, err := q.AddSiteKey(ctx, query.AddSiteKeyParams{SiteID: y.row.ID, KeyID: y.said.Key, PublicKey: y.said.PublicKey, FirstSeen: y.Now().UTC()})
	if err != nil || n > 0 {
		return err
	}
	keys, err := q.SiteKeys(ctx, y.row.ID)
	if err != nil {
		return err
	}
	for _, k := range keys {
		if k.KeyID == y.said.Key && k.PublicKey != y.said.PublicKey {
			return siteError{courier.Refused{Code: "key", Reason: fmt.Sprintf("%s shows another key under the name %q than before. Its receipts prove nothing until that is explained; ask the institution.", y.said.Name, k.KeyID)}}
		}
	}
	return nil
}

func (y *sync) putCourses(ctx context.Context, q *query.Queries, courses []courier.Course) (map[string]query.Course, error) {
	for _, c := range courses {
		if _, err := timing.Zone(c.Zone); err != nil || c.Code == "" || len(c.Key) > 64 {
			continue // its assignments are named
		}
		err := q.PutCourse(ctx, query.PutCourseParams{StudentID: y.row.StudentID, SiteID: mariadb.NullInt(y.row.ID), EnrolmentID: mariadb.NullInt(y.row.EnrolmentID), SiteKey: c.Key,
			Code: wording.Clip(c.Code, 32), Title: wording.Clip(c.Title, 200), Zone: c.Zone, Instructor: wording.Clip(c.Instructor, 200), NameHabit: usualHabit})
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
	if _, err := timing.ParseWindow(course.Zone, a.Opens, a.Due, a.Closes, a.GraceMinutes); err != nil {
		return err
	}
	if err := a.Late.Validate(); err != nil {
		return err
	}
	switch {
	case a.Title == "" || len(a.Key) > 64:
		return errors.New("it has no title, or too long a key")
	case a.Points < 0 || a.Points > 1e6 || a.Weight < 0 || a.Weight > 100:
		return errors.New("its points or its weight cannot be meant")
	case a.Turnaround.FirstMinutes < 0 || a.Turnaround.LaterMinutes < 0 || a.Turnaround.FirstMinutes > timing.MostMinutes || a.Turnaround.LaterMinutes > timing.MostMinutes:
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
		StudentID: y.row.StudentID, CourseID: course.ID, SiteKey: a.Key, Title: wording.Clip(a.Title, 300), Instructions: a.Instructions, Late: late, Points: a.Points, Weight: a.Weight, Sheet: sheet,
		FirstReportMinutes: int32(a.Turnaround.FirstMinutes), LaterReportMinutes: int32(a.Turnaround.LaterMinutes),
	})
	if err != nil {
		return fmt.Errorf("keeping %s: %w", a.Title, err)
	}
	id, err := q.AssignmentByKey(ctx, query.AssignmentByKeyParams{CourseID: course.ID, SiteKey: a.Key})
	if err != nil {
		return err
	}
	if err := putParts(ctx, q, y.row.StudentID, id, []newPart{{opens: a.Opens, due: a.Due, closes: a.Closes, grace: a.GraceMinutes}}); err != nil {
		return err
	}
	for _, h := range a.Handouts {
		if err := q.PutHandout(ctx, query.PutHandoutParams{AssignmentID: id, Name: wording.Clip(h.Name, 255), Bytes: h.Bytes, Digest: h.Digest}); err != nil {
			return err
		}
	}
	y.note(course, id, a)
	return nil
}

// note tells what is new about an assignment.
func (y *sync) note(course query.Course, id int64, a courier.Assignment) {
	tell := func(kind, text string, args ...any) {
		y.news = append(y.news, announce.Event{Student: y.row.StudentID, Assignment: id, Kind: kind, Text: course.Code + ": " + fmt.Sprintf(text, args...)})
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

// lookForReturns has everything that was sent to the site looked after: its revision grew, so something may have come back.
func (y *sync) lookForReturns(ctx context.Context, q *query.Queries) error {
	sent, err := q.AcceptedBy(ctx, query.AcceptedByParams{SiteID: mariadb.NullInt(y.row.ID), StartedAt: y.Now().UTC().Add(-returnsFor)})
	if err != nil {
		return err
	}
	for _, id := range sent {
		if err := q.HastenJobs(ctx, query.HastenJobsParams{RunAt: y.Now().UTC(), Subject: id, StudentID: y.row.StudentID}); err != nil {
			return err
		}
	}
	return nil
}

// returnsFor is how long after its sending something may come back.
const returnsFor = 60 * 24 * time.Hour
