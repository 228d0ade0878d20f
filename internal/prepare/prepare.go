// Package prepare gets work ready to be sent: the bundle with its versions, and what mends what the checks find.
package prepare

import (
	"cmp"
	"context"
	"database/sql"
	"errors"
	"io"
	"time"

	"orario/core/cleaning"
	"orario/core/coursework"
	"orario/core/finding"
	"orario/core/inspect"
	"orario/core/naming"
	"orario/internal/announce"
	"orario/internal/contents"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/roster"
)

// Store is what bundles are kept in.
type Store interface {
	roster.Store
	announce.Store
	Version(context.Context, query.VersionParams) (query.Version, error)
	Item(context.Context, query.ItemParams) (query.ItemRow, error)
	Handout(context.Context, query.HandoutParams) (query.Handout, error)
	HandoutsOf(context.Context, query.HandoutsOfParams) ([]query.Handout, error)
	Versions(ctx context.Context, student int64) ([]query.VersionsRow, error)
	RemoveJobOf(context.Context, query.RemoveJobOfParams) (int64, error)
	BytesOfStudent(context.Context, query.BytesOfStudentParams) (int64, error)
	InTx(context.Context, func(*query.Queries) error) error
}

// Tools are the outside programs that bundles need.
type Tools interface {
	Look(
		ctx context.Context,
		file inspect.Stored,
		open func() (io.Reader, error),
	) (facts *inspect.Facts, text string, err error)
	ToPDF(ctx context.Context, kind string, data []byte) ([]byte, error)
	Pages(ctx context.Context, photos []inspect.Named) ([]byte, error)
	Searchable(ctx context.Context, pdf []byte) ([]byte, error)
	Clean(ctx context.Context, f inspect.Named, extension string, keep []string) ([]byte, []cleaning.Removed, error)
	Smaller(ctx context.Context, name, kind string, data []byte, most int64) ([]byte, error)
}

// Service prepares bundles.
type Service struct {
	Store   Store
	Uploads contents.Uploads
	Tools   Tools
	Room    Room
	Now     func() time.Time
}

// State is one assignment as it stands; part 0 is the one that comes next.
func (s Service) State(ctx context.Context, student, assignment, part int64) (*coursework.Standing, error) {
	return roster.One(ctx, s.Store, student, assignment, part, s.Now())
}

// underWay is the answer to a change of a bundle that is on its way.
var underWay = refusal.Say("The bundle is being sent and cannot change now. Wait until it has arrived, or cancel.")

// editable loads an assignment whose bundle may be changed now.
func (s Service) editable(ctx context.Context, student, assignment, part int64) (*coursework.Standing, error) {
	state, err := s.State(ctx, student, assignment, part)
	if err != nil {
		return nil, err
	}
	if state.Sending {
		return nil, underWay
	}
	return state, nil
}

// attempt is the attempt of a part that is being prepared; if the last one was sent, the next one is begun with its
// files. The part's row is held until the transaction ends, so that nothing is sent meanwhile.
func attempt(ctx context.Context, q *query.Queries, student, part int64) (query.Attempt, error) {
	if _, err := q.LockPart(ctx, query.LockPartParams{ID: part, StudentID: student}); err != nil {
		return query.Attempt{}, refusal.NotFound(err)
	}
	last, err := q.LastAttempt(ctx, part)
	begin := query.AddAttemptParams{StudentID: student, PartID: part, Number: 1}
	switch {
	case errors.Is(err, sql.ErrNoRows):
	case err != nil:
		return last, err
	case last.State == query.AttemptStatePreparing:
		return last, nil
	case last.State == query.AttemptStateSending:
		return last, underWay
	default:
		begin.Number, begin.BegunFrom = last.Number+1, mariadb.NullInt(last.ID)
	}
	id, err := q.AddAttempt(ctx, begin)
	if err == nil && begin.BegunFrom.Valid {
		err = q.InheritItems(ctx, query.InheritItemsParams{Attempt: id, Before: last.ID})
	}
	return query.Attempt{
		ID:        id,
		StudentID: student,
		PartID:    part,
		Number:    begin.Number,
		State:     query.AttemptStatePreparing,
	}, err
}

// Begin begins the next attempt with the files of the one that was sent.
func (s Service) Begin(ctx context.Context, student, assignment, part int64) error {
	state, err := s.editable(ctx, student, assignment, part)
	if err != nil {
		return err
	}
	if may, why := state.MayGoOn(); !may {
		return refusal.Say("Nothing more can be sent here: %s.", why)
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		if _, err := attempt(ctx, q, student, state.Part.ID); err != nil {
			return err
		}
		return s.tell(ctx, q, student, assignment, "")
	})
}

// mostItems bounds a bundle.
const mostItems = 300

// open loads an assignment whose bundle takes so many more files.
func (s Service) open(ctx context.Context, student, assignment, part int64, more int) (*coursework.Standing, error) {
	state, err := s.editable(ctx, student, assignment, part)
	if err != nil {
		return nil, err
	}
	if may, why := state.MayGoOn(); !may {
		return nil, refusal.Say("Nothing more can be sent here: %s.", why)
	}
	if len(state.Items)+more > mostItems {
		return nil, refusal.Say("%d files lie in the bundle, and it takes %d. Pack what belongs together into a ZIP "+
			"file, or take some out.", len(state.Items), mostItems)
	}
	return state, nil
}

// A Place is a version in a bundle: in which slot, under which name, and before which of its items; 0: behind them all.
type Place struct {
	Slot    string `json:"slot"`
	Name    string `json:"name"`
	Version int64  `json:"version"`
	Before  int64  `json:"before,omitempty"`
}

// AddVersion puts a version of the library into a bundle, under a name or, if that is empty, its own.
func (s Service) AddVersion(ctx context.Context, student, assignment, part int64, p Place) (int64, error) {
	state, err := s.open(ctx, student, assignment, part, 1)
	if err != nil {
		return 0, err
	}
	var item int64
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		v, err := q.Version(ctx, query.VersionParams{ID: p.Version, StudentID: student})
		if err != nil {
			return refusal.NotFound(err)
		}
		p.Name = cmp.Or(p.Name, v.Name)
		item, err = s.into(ctx, q, student, state, p, v.Kind)
		return err
	})
	return item, err
}

// into puts a version of some kind into a bundle.
func (s Service) into(
	ctx context.Context, q *query.Queries, student int64, state *coursework.Standing, p Place, kind string,
) (int64, error) {
	try, err := attempt(ctx, q, student, state.Part.ID)
	if err != nil {
		return 0, err
	}
	slot, known := state.Sheet.Slot(p.Slot)
	if !known {
		slot, known = state.Sheet.Slot(state.Sheet.SlotFor(kind, own(state.Items)))
	}
	if known && slot.Room() == 1 {
		gone := query.RemoveInheritedParams{AttemptID: try.ID, Slot: slot.Name}
		if _, err := q.RemoveInherited(ctx, gone); err != nil {
			return 0, err
		}
	}
	id, err := q.AddItem(ctx, query.AddItemParams{
		Student: student, Attempt: try.ID, Slot: slot.Name, Name: clipName(p.Name), Version: p.Version,
	})
	if err != nil {
		return 0, err
	}
	if err := placeBefore(ctx, q, try.ID, id, p.Before); err != nil {
		return 0, err
	}
	return id, s.tell(ctx, q, student, state.ID, "")
}

// own counts the files of a bundle that are not just those of the attempt before, by slot.
func own(items []coursework.Item) map[string]int {
	filled := map[string]int{}
	for _, i := range items {
		if !i.Inherited {
			filled[i.Slot]++
		}
	}
	return filled
}

// tell tells the student's other pages that a bundle changed.
func (s Service) tell(ctx context.Context, q announce.Store, student, assignment int64, text string) error {
	return announce.Tell(
		ctx,
		q,
		s.Now(),
		announce.Event{Student: student, Assignment: assignment, Kind: announce.Bundle, Text: text},
	)
}

// itemState finds an item together with the state of its assignment.
func (s Service) itemState(ctx context.Context, student, id int64) (*coursework.Standing, *coursework.Item, error) {
	row, err := s.Store.Item(ctx, query.ItemParams{ID: id, StudentID: student})
	if err != nil {
		return nil, nil, refusal.NotFound(err)
	}
	state, err := s.editable(ctx, student, row.AssignmentID, row.PartID)
	if err != nil {
		return nil, nil, err
	}
	for i := range state.Items {
		if state.Items[i].ID == id {
			return state, &state.Items[i], nil
		}
	}
	return nil, nil, refusal.Say("That file belongs to an attempt that was sent; it cannot change any more.")
}

// set changes an item while its bundle is not under way, if nobody has changed it since it was looked at.
func (s Service) set(
	ctx context.Context,
	student int64,
	state *coursework.Standing,
	was *coursework.Item,
	item query.SetItemParams,
) error {
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		if _, err := attempt(ctx, q, student, state.Part.ID); err != nil {
			return err
		}
		if err := same(ctx, q, student, was); err != nil {
			return err
		}
		if err := q.SetItem(ctx, item); err != nil {
			return err
		}
		return s.tell(ctx, q, student, state.ID, "")
	})
}

// changed is the answer to a change of what has changed meanwhile.
var changed = refusal.Complaint{Message: "The file has just changed in another place. Look at it again."}

// same refuses where an item is no longer as it was when it was looked at. Its part's row is held.
func same(ctx context.Context, q *query.Queries, student int64, was *coursework.Item) error {
	row, err := q.Item(ctx, query.ItemParams{ID: was.ID, StudentID: student})
	if err != nil {
		return refusal.NotFound(err)
	}
	if row.VersionID != was.Version || row.Name != was.Name || row.Slot != was.Slot {
		return changed
	}
	return nil
}

// Change gives an item another name or slot; empty means as it is.
func (s Service) Change(ctx context.Context, student, id int64, name, slot string) error {
	state, item, err := s.itemState(ctx, student, id)
	if err != nil {
		return err
	}
	set := query.SetItemParams{ID: id, StudentID: student, Slot: item.Slot, Name: item.Name, VersionID: item.Version}
	if name != "" {
		for _, p := range naming.Lint(name, nil, false) {
			if p.Weight == finding.Must {
				return refusal.Complaint{Message: p.Message}
			}
		}
		set.Name = name
	}
	if slot != "" {
		if _, ok := state.Sheet.Slot(slot); !ok {
			return refusal.Say("The brief has no slot %q.", slot)
		}
		set.Slot = slot
	}
	return s.set(ctx, student, state, item, set)
}

// Remove takes an item out of the bundle; its version stays in the library.
func (s Service) Remove(ctx context.Context, student, id int64) error {
	state, _, err := s.itemState(ctx, student, id)
	if err != nil {
		return err
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		if _, err := attempt(ctx, q, student, state.Part.ID); err != nil {
			return err
		}
		if err := refusal.Unless(q.RemoveItem(ctx, query.RemoveItemParams{ID: id, StudentID: student})); err != nil {
			return err
		}
		return s.tell(ctx, q, student, state.ID, "")
	})
}
