package track

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/brief"
	"orario/core/timing"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
)

// Add keeps a draft as an assignment of the student's own.
func (s Service) Add(ctx context.Context, student int64, d Draft) (int64, error) {
	row, err := s.row(ctx, student, &d, s.Store)
	if err != nil {
		return 0, err
	}
	row.SiteKey, row.Source = rand.Text(), query.AssignmentSourceOwn
	return s.Store.AddAssignment(ctx, *row)
}

// Change replaces an assignment of the student's own by its draft.
func (s Service) Change(ctx context.Context, student int64, d Draft) error {
	if _, err := s.DraftOf(ctx, student, d.ID); err != nil {
		return err
	}
	row, err := s.row(ctx, student, &d, s.Store)
	if err != nil {
		return err
	}
	old, err := s.Store.Assignment(ctx, query.AssignmentParams{ID: d.ID, StudentID: student})
	if err != nil {
		return prepare.NotFound(err)
	}
	if row.Own, err = mergeOwn(old.Own, row.Own); err != nil {
		return err
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		if _, err := q.SetAssignment(ctx, set(*row, old.ID, old.Cancelled)); err != nil {
			return err
		}
		return q.SetAssignmentEffort(ctx, query.SetAssignmentEffortParams{EffortMinutes: row.EffortMinutes, EffortLow: old.EffortLow, EffortHigh: old.EffortHigh, Enough: old.Enough, ID: old.ID, StudentID: student})
	})
}

// mergeOwn keeps what the student settled elsewhere in her own part of a brief.
func mergeOwn(before, now json.RawMessage) (json.RawMessage, error) {
	var old, new brief.Own
	if err := json.Unmarshal(before, &old); err != nil {
		return nil, err
	}
	if err := json.Unmarshal(now, &new); err != nil {
		return nil, err
	}
	old.Asks = new.Asks
	return json.Marshal(old)
}

func set(row query.AddAssignmentParams, id int64, cancelled bool) query.SetAssignmentParams {
	return query.SetAssignmentParams{CourseID: row.CourseID, Title: row.Title, Instructions: row.Instructions, Opens: row.Opens, Due: row.Due, Closes: row.Closes, GraceMinutes: row.GraceMinutes,
		Late: row.Late, Points: row.Points, Weight: row.Weight, Sheet: row.Sheet, Parts: row.Parts, Own: row.Own, Cancelled: cancelled, ID: id, StudentID: row.StudentID}
}

// usualMinutes of work where nobody says anything.
const usualMinutes = 180

// courseReader finds a course, within a transaction or without.
type courseReader interface {
	Course(context.Context, query.CourseParams) (query.Course, error)
}

// row checks a draft and writes it out for the table.
func (s Service) row(ctx context.Context, student int64, d *Draft, in courseReader) (*query.AddAssignmentParams, error) {
	complain := func(text string, args ...any) error { return prepare.Complaint{Message: fmt.Sprintf(text, args...)} }
	if d.CourseID == 0 {
		return nil, complain("Choose the course that it belongs to.")
	}
	course, err := in.Course(ctx, query.CourseParams{ID: d.CourseID, StudentID: student})
	if err != nil {
		return nil, prepare.NotFound(err)
	}
	if d.Title = strings.TrimSpace(d.Title); d.Title == "" || len([]rune(d.Title)) > 300 {
		return nil, complain("An assignment needs a title of at most 300 letters.")
	}
	if d.Weight < 0 || d.Weight > 100 || d.Minutes < 0 || d.Minutes > 100_000 {
		return nil, complain("The weight lies between 0 and 100 %%, the work between 0 and 1,600 hours.")
	}
	if len([]rune(d.Instructions)) > mostInstructions || len(d.Asks) > 200 {
		return nil, complain("The instructions are too long to keep. Shorten them.")
	}
	for i := range d.Asks {
		if err := inZone(&d.Asks[i].Ask, course.Zone); err != nil {
			return nil, complain("%v.", err)
		}
	}
	f := brief.FillAsked(d.asks())
	if len(f.Parts) == 0 {
		return nil, complain("A due time is missing. Add one: “%s” is enough.", "Fri 11 December, 23:59")
	}
	if len(f.Parts) > 5 {
		return nil, complain("An assignment has at most five parts, each with a due time. Take some out, or add a second assignment.")
	}
	for _, p := range f.Parts {
		if _, err := timing.ParseWindow(course.Zone, p.Opens, p.Due, p.Closes, f.Grace); err != nil {
			return nil, complain("%s: %v. Change one of the times.", cmp.Or(p.Name, d.Title), err)
		}
	}
	late := timing.Rule{Kind: timing.Fixed} // taken at no price as long as nobody names one
	if f.Late != nil {
		late = *f.Late
	} else if f.Parts[0].Closes == f.Parts[0].Due {
		late.Kind = timing.NoLateWork
	}
	row := &query.AddAssignmentParams{StudentID: student, CourseID: course.ID, Title: d.Title, Instructions: d.Instructions, Opens: f.Parts[0].Opens, Due: f.Parts[0].Due, Closes: f.Parts[0].Closes,
		GraceMinutes: int32(f.Grace), Points: f.Points, Weight: d.Weight, EffortMinutes: int32(cmp.Or(d.Minutes, usualMinutes))}
	parts := f.Parts
	if len(parts) == 1 {
		parts = []brief.Part{}
	}
	for _, column := range []struct {
		into *json.RawMessage
		from any
	}{{&row.Late, late}, {&row.Sheet, f.Sheet}, {&row.Parts, parts}, {&row.Own, brief.Own{Asks: d.asks()}}} {
		if *column.into, err = json.Marshal(column.from); err != nil {
			return nil, err
		}
	}
	return row, nil
}

// inZone turns a time that the instructions give in another zone into the course's.
func inZone(a *brief.Ask, zone string) error {
	at, ok := a.Item.Value.(string)
	if !ok || a.Item.Zone == "" || a.Item.Zone == zone || !brief.IsTime(a.Item.Kind) {
		return nil
	}
	from, err := timing.Zone(a.Item.Zone)
	if err != nil {
		return err
	}
	to, err := timing.Zone(zone)
	if err != nil {
		return err
	}
	wall, err := timing.ParseWall(at, from)
	if err != nil {
		return err
	}
	a.Item.Value, a.Item.Zone = wall.At().In(to).Format(wallForm), ""
	return nil
}

// SettleAsk confirms one requirement of an own assignment, or with ask 0 all of them.
func (s Service) SettleAsk(ctx context.Context, student, assignment int64, ask int) error {
	d, err := s.DraftOf(ctx, student, assignment)
	if err != nil {
		return err
	}
	if ask < 0 || ask > len(d.Asks) {
		return prepare.ErrNotFound
	}
	for i := range d.Asks {
		if ask == 0 || ask == i+1 {
			d.Asks[i].Settled = true
		}
	}
	old, err := s.Store.Assignment(ctx, query.AssignmentParams{ID: assignment, StudentID: student})
	if err != nil {
		return prepare.NotFound(err)
	}
	now, err := json.Marshal(brief.Own{Asks: d.asks()})
	if err != nil {
		return err
	}
	own, err := mergeOwn(old.Own, now)
	if err != nil {
		return err
	}
	return s.Store.SetAssignmentOwn(ctx, query.SetAssignmentOwnParams{Own: own, ID: assignment, StudentID: student})
}

// Remove takes an assignment of the student's own away. One that came from a calendar is put away instead, so
// that the calendar does not bring it back.
func (s Service) Remove(ctx context.Context, student, assignment int64) error {
	if _, err := s.DraftOf(ctx, student, assignment); err != nil {
		return err
	}
	a, err := s.Store.Assignment(ctx, query.AssignmentParams{ID: assignment, StudentID: student})
	if err != nil {
		return prepare.NotFound(err)
	}
	if a.Source == query.AssignmentSourceCalendar {
		return s.Store.SetAssignmentCancelled(ctx, query.SetAssignmentCancelledParams{Cancelled: true, ID: a.ID, StudentID: student})
	}
	n, err := s.Store.RemoveAssignment(ctx, query.RemoveAssignmentParams{ID: a.ID, StudentID: student})
	if mariadb.IsReferenced(err) || err == nil && n == 0 {
		return prepare.Complaint{Message: "Files are in its bundle. Take them out first; the library keeps them."}
	}
	return err
}

// NoteSent notes that an assignment, or the part that comes next, was sent outside of Orario; with an empty
// time the note is taken back.
func (s Service) NoteSent(ctx context.Context, student, assignment int64, at *time.Time, note string) error {
	state, err := prepare.Find(ctx, s.Store, student, assignment, s.Now())
	if err != nil {
		return err
	}
	if at != nil && at.After(s.Now().Add(time.Minute)) {
		return prepare.Complaint{Message: "That time is still to come. Note it once it is sent."}
	}
	noted := prepare.Noted{}
	if at != nil {
		if _, sent := state.Last(); sent || state.Sending {
			return prepare.Complaint{Message: "Orario sent this one itself; its receipt stands below."}
		}
		utc := at.UTC()
		noted = prepare.Noted{At: &utc, Parts: state.Noted.Parts, Note: clip(note, 500)}
		if part := state.Part(); part != "" && !slices.Contains(noted.Parts, part) {
			noted.Parts = append(noted.Parts, part)
		}
	}
	text, err := json.Marshal(noted)
	if err != nil {
		return err
	}
	return s.Store.SetAssignmentNoted(ctx, query.SetAssignmentNotedParams{Noted: text, ID: assignment, StudentID: student})
}
