package intake

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/json"
	"fmt"
	"strings"

	"orario/core/brief"
	"orario/core/placing"
	"orario/core/timing"
	"orario/core/wording"
	"orario/internal/announce"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// Add keeps a draft as an assignment of the student's own.
func (s Service) Add(ctx context.Context, student int64, d Draft) (id int64, err error) {
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		w, err := s.written(ctx, q, student, &d)
		if err != nil {
			return err
		}
		w.SiteKey, w.Source = rand.Text(), query.AssignmentSourceOwn
		if id, err = w.add(ctx, q); err != nil {
			return err
		}
		return announce.Tell(ctx, q, s.Now(), announce.Event{Student: student, Assignment: id, Kind: announce.Edited})
	})
	return id, err
}

// Change replaces an assignment of the student's own by its draft. What she settled elsewhere stays.
func (s Service) Change(ctx context.Context, student int64, d Draft) error {
	return s.changing(ctx, student, d.ID, func(q *query.Queries, old query.Assignment) error {
		w, err := s.written(ctx, q, student, &d)
		if err != nil {
			return err
		}
		return w.replace(ctx, q, old, old.Cancelled)
	})
}

// changing runs do on an assignment of the student's own, which nobody else changes meanwhile, and tells her other
// pages.
func (s Service) changing(
	ctx context.Context,
	student, assignment int64,
	do func(*query.Queries, query.Assignment) error,
) error {
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		row, err := q.LockAssignment(ctx, query.LockAssignmentParams{ID: assignment, StudentID: student})
		if err != nil {
			return refusal.NotFound(err)
		}
		if row.Source == query.AssignmentSourceSite {
			return published
		}
		if err := do(q, row); err != nil {
			return err
		}
		return announce.Tell(ctx, q, s.Now(), announce.Event{
			Student: student, Assignment: assignment, Kind: announce.Edited,
		})
	})
}

// published is the answer to a change of what a site publishes.
var published = refusal.Say("The course site publishes this one; what it asks for cannot be changed here.")

// usualMinutes of work where nobody says anything.
const usualMinutes = 180

// A writing is a draft that was found sound, as it is stored.
type writing struct {
	query.AddAssignmentParams
	parts []newPart
	asks  []brief.Ask
}

func (w *writing) add(ctx context.Context, q *query.Queries) (int64, error) {
	id, err := q.AddAssignment(ctx, w.AddAssignmentParams)
	if err != nil {
		return 0, err
	}
	return id, putParts(ctx, q, w.StudentID, id, w.parts)
}

// replace stores it in the place of what there is; what the student settled elsewhere in her part of the brief stays.
func (w *writing) replace(ctx context.Context, q *query.Queries, old query.Assignment, cancelled bool) error {
	own, err := withAsks(old.Own, w.asks)
	if err != nil {
		return err
	}
	_, err = q.SetAssignment(ctx, query.SetAssignmentParams{
		CourseID:      w.CourseID,
		Title:         w.Title,
		Instructions:  w.Instructions,
		Late:          w.Late,
		Points:        w.Points,
		Weight:        w.Weight,
		Sheet:         w.Sheet,
		Own:           own,
		Cancelled:     cancelled,
		EffortMinutes: w.EffortMinutes,
		ID:            old.ID,
		StudentID:     old.StudentID,
	})
	if err != nil {
		return err
	}
	return putParts(ctx, q, old.StudentID, old.ID, w.parts)
}

// withAsks is a student's part of a brief with other requirements.
func withAsks(before json.RawMessage, asks []brief.Ask) (json.RawMessage, error) {
	var own brief.Own
	if err := json.Unmarshal(before, &own); err != nil {
		return nil, fmt.Errorf("reading the brief: %w", err)
	}
	own.Asks = asks
	return json.Marshal(own)
}

// written checks a draft and writes it out for the tables.
func (s Service) written(ctx context.Context, q *query.Queries, student int64, d *Draft) (*writing, error) {
	if d.CourseID == 0 {
		return nil, refusal.Say("Choose the course that it belongs to.")
	}
	course, err := q.Course(ctx, query.CourseParams{ID: d.CourseID, StudentID: student})
	if err != nil {
		return nil, refusal.NotFound(err)
	}
	if err := d.sound(course.Zone); err != nil {
		return nil, err
	}
	f := brief.FillAsked(d.asks())
	if err := soundParts(course.Zone, d.Title, f); err != nil {
		return nil, err
	}
	w := &writing{asks: d.asks()}
	w.AddAssignmentParams = query.AddAssignmentParams{
		StudentID:     student,
		CourseID:      course.ID,
		Title:         d.Title,
		Instructions:  d.Instructions,
		Points:        f.Points,
		Weight:        d.Weight,
		EffortMinutes: int32(cmp.Or(d.Minutes, usualMinutes)),
	}
	for _, p := range f.Parts {
		w.parts = append(w.parts, newPart{
			name:   wording.Clip(p.Name, 100),
			opens:  p.Opens,
			due:    p.Due,
			closes: p.Closes,
			grace:  f.Grace,
			slots:  p.Slots,
		})
	}
	late := placing.Late(f)
	if err := late.Validate(); err != nil {
		return nil, refusal.Because(fmt.Errorf("%w; change what late work loses", err))
	}
	for _, column := range []struct {
		into *json.RawMessage
		from any
	}{{&w.Late, late}, {&w.Sheet, f.Sheet}, {&w.Own, brief.Own{Asks: w.asks}}} {
		if *column.into, err = json.Marshal(column.from); err != nil {
			return nil, err
		}
	}
	return w, nil
}

// sound completes a draft for a course in a zone, and says what is wrong with it, if anything is.
func (d *Draft) sound(zone string) error {
	if d.Title = strings.TrimSpace(d.Title); d.Title == "" || len([]rune(d.Title)) > 300 {
		return refusal.Say("An assignment needs a title of at most 300 letters.")
	}
	if d.Weight < 0 || d.Weight > 100 || d.Minutes < 0 || d.Minutes > 100_000 {
		return refusal.Say("The weight lies between 0 and 100 %%, the work between 0 and 1,600 hours.")
	}
	if len([]rune(d.Instructions)) > mostInstructions || len(d.Asks) > 200 {
		return refusal.Say("The instructions are too long to keep. Shorten them.")
	}
	for i := range d.Asks {
		if len([]rune(d.Asks[i].Thing)) > 100 {
			return refusal.Say("The name of a part or a slot has at most 100 letters.")
		}
		if err := placing.InZone(&d.Asks[i].Ask, zone); err != nil {
			return refusal.Because(err)
		}
	}
	return nil
}

// mostParts bounds an assignment's parts.
const mostParts = 5

func soundParts(zone, title string, f brief.Filled) error {
	if len(f.Parts) == 0 {
		return refusal.Say("A due time is missing. Add one: “%s” is enough.", "Fri 11 December, 23:59")
	}
	if len(f.Parts) > mostParts {
		return refusal.Say(
			"An assignment has at most five parts, each with a due time. Take some out, or add a second assignment.",
		)
	}
	for _, p := range f.Parts {
		if err := timing.SoundWindow(zone, p.Opens, p.Due, p.Closes, f.Grace); err != nil {
			return refusal.Say("%s: %v. Change one of the times.", cmp.Or(p.Name, title), err)
		}
	}
	return nil
}

// SettleAsk confirms one requirement of an own assignment, or with ask 0 all of them but those that
// are confirmed singly; see [brief.Singly].
func (s Service) SettleAsk(ctx context.Context, student, assignment int64, ask int) error {
	return s.changing(ctx, student, assignment, func(q *query.Queries, row query.Assignment) error {
		var own brief.Own
		if err := json.Unmarshal(row.Own, &own); err != nil {
			return err
		}
		if ask < 0 || ask > len(own.Asks) {
			return refusal.ErrNotFound
		}
		for i := range own.Asks {
			if ask == i+1 || ask == 0 && !brief.Singly(own.Asks[i], own.Asks) {
				own.Asks[i].Settled = true
			}
		}
		text, err := json.Marshal(own)
		if err != nil {
			return err
		}
		return q.SetAssignmentOwn(ctx, query.SetAssignmentOwnParams{Own: text, ID: assignment, StudentID: student})
	})
}

// Remove takes an assignment of the student's own away. One that came from a calendar is put away instead, so that the
// calendar does not bring it back.
func (s Service) Remove(ctx context.Context, student, assignment int64) error {
	return s.changing(ctx, student, assignment, func(q *query.Queries, row query.Assignment) error {
		if row.Source == query.AssignmentSourceCalendar {
			return q.SetAssignmentCancelled(
				ctx,
				query.SetAssignmentCancelledParams{Cancelled: true, ID: row.ID, StudentID: student},
			)
		}
		holds, err := q.AssignmentHoldsWork(ctx, row.ID)
		if err != nil {
			return err
		}
		if holds {
			return refusal.Say("Files are in its bundle. Take them out first; the library keeps them.")
		}
		return refusal.Unless(q.RemoveAssignment(ctx, query.RemoveAssignmentParams{ID: row.ID, StudentID: student}))
	})
}
