package intake

import (
	"cmp"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/timing"
	"orario/core/wording"
	"orario/internal/announce"
	"orario/internal/courier"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
)

// Sync is the handler of [SyncJob]. It can be repeated at will: what the site publishes replaces what it published
// before, what the student did stays. Where the site says that nothing has changed, nothing more is asked. A site
// that cannot be reached costs a notice; a failure of our own is an error, and logged as one.
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
	return s.Every, s.noticeOf(ctx, site, theirs.notice(site.Name))
}

// noticeOf tells a notice about a site, once.
func (s Service) noticeOf(ctx context.Context, site query.Site, notice string) error {
	if site.Notice == notice {
		return nil
	}
	if err := s.Store.SiteNotice(ctx, query.SiteNoticeParams{Notice: notice, ID: site.ID}); err != nil {
		return err
	}
	return announce.Tell(ctx, s.Store, s.Now(), announce.Event{
		Student: site.StudentID, Kind: announce.Site, Text: notice,
	})
}

// siteRests is how long a site rests that stops the program whenever it is read.
const siteRests = 6 * time.Hour

// RestSite is done instead of [SyncJob] with such a site.
func (s Service) RestSite(ctx context.Context, job query.Job) (time.Duration, error) {
	site, err := s.Store.Site(ctx, job.Subject)
	if err != nil {
		return 0, mariadb.Final{Err: err}
	}
	return siteRests, s.noticeOf(ctx, site, site.Name+" stopped Orario each time it was read, so it is left alone for "+
		"six hours. What you see is from before; look at the site itself, and tell whoever runs it.")
}

// A siteError is a failure that is the site's, or the line's.
type siteError struct{ error }

func (e siteError) notice(site string) string {
	var refused courier.Refused
	var trouble courier.Trouble
	switch {
	case errors.As(e.error, &refused):
		return refused.Reason
	case errors.Is(e.error, courier.ErrToken):
		return site + " does not accept the token any more; what you see is from the last time it did. Connect it " +
			"again."
	case errors.As(e.error, &trouble):
		return fmt.Sprintf("%s answers that it is in trouble (%d); what you see is from before. Orario keeps asking.",
			site, int(trouble))
	case errors.Is(e.error, courier.ErrForeign), errors.Is(e.error, courier.ErrUnknown):
		return site + " answers, but not as a course site does; what you see is from the last time it did. Check its " +
			"address."
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
	handed    map[string]bool              // digests that are there
	inside    map[string]map[string]string // of archives among the handouts: names by digest, by the archive's digest
	leftOut   []string
	again     *time.Time // when what did not arrive is fetched again
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
	y.offset = timing.Offset(y.said.Now, asked, y.Now()).Milliseconds()
	if y.enrolment, err = y.Store.Enrolment(
		ctx,
		query.EnrolmentParams{ID: y.row.EnrolmentID, StudentID: y.row.StudentID},
	); err != nil {
		return err
	}
	if y.row.Revision == y.said.Revision && y.enrolment.ClockOffsetMs/1000 == y.offset/1000 &&
		(!y.row.AgainAt.Valid || y.Now().Before(y.row.AgainAt.Time)) {
		return y.answers(ctx, y.row.LeftOut)
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
	notFetched := slices.Clip(y.leftOut)
	return y.Store.InTx(ctx, func(q *query.Queries) error {
		y.leftOut, y.news = notFetched, nil // it may be tried again
		return y.put(ctx, q, courses, assignments)
	})
}

// answers tells that a site answers as it did when its revision was last read, where that is not told yet.
func (y *sync) answers(ctx context.Context, leftOut string) error {
	if y.row.Notice == leftOut {
		return nil
	}
	if err := y.Store.SiteNotice(ctx, query.SiteNoticeParams{Notice: leftOut, ID: y.row.ID}); err != nil {
		return err
	}
	return announce.Tell(ctx, y.Store, y.Now(), y.saysThat(leftOut))
}

// saysThat is the event that a site answers, and what of it cannot be used.
func (y *sync) saysThat(leftOut string) announce.Event {
	return announce.Event{
		Student: y.row.StudentID, Kind: announce.Site,
		Text: cmp.Or(leftOut, wording.Clip(y.said.Name, 200)+" answers."),
	}
}

// read finds what is there of the site's publications.
func (y *sync) read(ctx context.Context) error {
	y.known, y.handed = map[string]query.PublishedByRow{}, map[string]bool{}
	y.inside = map[string]map[string]string{}
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
	text := fmt.Sprintf(
		"%s publishes %s that cannot be used; ask the instructor: ",
		y.said.Name,
		wording.Count(len(y.leftOut), "assignment", "assignments"),
	)
	text += strings.Join(y.leftOut[:min(most, len(y.leftOut))], "; ")
	if more := len(y.leftOut) - most; more > 0 {
		text += fmt.Sprintf("; and %d more", more)
	}
	return wording.Clip(text+".", 500)
}

// put stores what the site publishes, in one transaction.
func (y *sync) put(
	ctx context.Context,
	q *query.Queries,
	courses []courier.Course,
	assignments []courier.Assignment,
) error {
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
		if err := announce.Tell(ctx, q, y.Now(), event); err != nil {
			return err
		}
	}
	notice := y.notice()
	if notice != "" {
		y.lookAgain(unsoundAgain)
	}
	err = q.SiteSynced(ctx, query.SiteSyncedParams{
		Name:     wording.Clip(y.said.Name, 200),
		Revision: y.said.Revision,
		SyncedAt: sql.NullTime{Time: y.Now().UTC(), Valid: true},
		LeftOut:  notice,
		AgainAt:  mariadb.NullTime(y.again),
		ID:       y.row.ID,
	})
	if err != nil {
		return err
	}
	if y.row.Notice != notice || y.enrolment.ClockOffsetMs/1000 != y.offset/1000 {
		err = announce.Tell(ctx, q, y.Now(), y.saysThat(notice))
	}
	return errors.Join(err, y.lookForReturns(ctx, q))
}
