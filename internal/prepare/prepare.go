package prepare

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"time"

	"orario/core/brief"
	"orario/core/finding"
	"orario/core/inspect"
	"orario/core/naming"
	"orario/internal/contents"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
)

// Store is what bundles are kept in.
type Store interface {
	Reader
	Version(context.Context, query.VersionParams) (query.Version, error)
	Item(context.Context, query.ItemParams) (query.Item, error)
	SetItem(context.Context, query.SetItemParams) error
	RemoveItem(context.Context, query.RemoveItemParams) (int64, error)
	AddJob(context.Context, query.AddJobParams) error
	AddEvent(context.Context, query.AddEventParams) error
	RemoveJobOf(context.Context, query.RemoveJobOfParams) (int64, error)
	SetAssignmentOwn(context.Context, query.SetAssignmentOwnParams) error
	InTx(context.Context, func(*query.Queries) error) error
}

// Tools are the outside programs that bundles need.
type Tools interface {
	Facts(ctx context.Context, name string, data []byte) *inspect.Facts
	Text(ctx context.Context, kind string, data []byte) (string, error)
	ToPDF(ctx context.Context, kind string, data []byte) ([]byte, error)
}

// Service prepares bundles.
type Service struct {
	Store   Store
	Uploads contents.Uploads
	Tools   Tools
	Now     func() time.Time
}

// A Complaint is a wish that cannot be granted, with what to do instead.
type Complaint struct{ Message string }

func (c Complaint) Error() string { return c.Message }

// State loads one assignment as it stands.
func (s Service) State(ctx context.Context, student, assignment int64) (*State, error) {
	return Find(ctx, s.Store, student, assignment, s.Now())
}

// editable loads an assignment whose bundle may be changed now.
func (s Service) editable(ctx context.Context, student, assignment int64) (*State, error) {
	state, err := s.State(ctx, student, assignment)
	if err != nil {
		return nil, err
	}
	if state.Sending {
		return nil, Complaint{"The bundle is being sent and cannot change now. Wait until it has arrived, or cancel."}
	}
	return state, nil
}

// AddUpload puts a finished upload into a slot of the bundle; with an empty slot the brief decides. The
// facts of the file are found out now.
func (s Service) AddUpload(ctx context.Context, student, assignment int64, upload, slot string) (int64, error) {
	state, err := s.editable(ctx, student, assignment)
	if err != nil {
		return 0, err
	}
	if may, why := state.MayGoOn(); !may {
		return 0, Complaint{"Nothing more can be sent here: " + why + "."}
	}
	file, err := s.arrived(ctx, student, upload)
	if err != nil {
		return 0, err
	}
	version, facts, err := s.version(ctx, student, file.name, file.digest, file.data, sql.NullInt64{})
	if err != nil {
		return 0, err
	}
	if _, ok := state.Sheet.Slot(slot); !ok {
		slot = state.Sheet.SlotFor(facts.Kind, state.Filled())
	}
	var item int64
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		id, err := q.AddVersion(ctx, version)
		if err != nil {
			return fmt.Errorf("keeping %s: %w", file.name, err)
		}
		item, err = q.AddItem(ctx, query.AddItemParams{StudentID: student, AssignmentID: assignment, Attempt: int32(state.Attempt), Slot: slot, Name: clipName(file.name), VersionID: id})
		return err
	})
	return item, err
}

// itemState finds an item together with the state of its assignment.
func (s Service) itemState(ctx context.Context, student, id int64) (*State, *Item, error) {
	row, err := s.Store.Item(ctx, query.ItemParams{ID: id, StudentID: student})
	if err != nil {
		return nil, nil, NotFound(err)
	}
	state, err := s.editable(ctx, student, row.AssignmentID)
	if err != nil {
		return nil, nil, err
	}
	for i := range state.Items {
		if state.Items[i].ID == id {
			return state, &state.Items[i], nil
		}
	}
	return nil, nil, Complaint{"That file belongs to an attempt that was sent; it cannot change any more."}
}

// Change gives an item another name or slot; empty means as it is.
func (s Service) Change(ctx context.Context, student, id int64, name, slot string) error {
	state, item, err := s.itemState(ctx, student, id)
	if err != nil {
		return err
	}
	set := query.SetItemParams{ID: id, StudentID: student, Slot: item.Slot, Name: item.Name, VersionID: item.VersionID}
	if name != "" {
		for _, p := range naming.Lint(name, nil, false) {
			if p.Weight == finding.Must {
				return Complaint{p.Message}
			}
		}
		set.Name = name
	}
	if slot != "" {
		if _, ok := state.Sheet.Slot(slot); !ok {
			return Complaint{fmt.Sprintf("The brief has no slot %q.", slot)}
		}
		set.Slot = slot
	}
	return s.Store.SetItem(ctx, set)
}

// Remove takes an item out of the bundle; its version stays in the library.
func (s Service) Remove(ctx context.Context, student, id int64) error {
	if _, _, err := s.itemState(ctx, student, id); err != nil {
		return err
	}
	_, err := s.Store.RemoveItem(ctx, query.RemoveItemParams{ID: id, StudentID: student})
	return err
}

// ConvertJob is the kind of the jobs that convert an item.
const ConvertJob = "convert"

// Fix mends what a finding of an item offers: "rename" at once, "convert" by a job, "revert" undoes a
// conversion.
func (s Service) Fix(ctx context.Context, student, id int64, fix string) error {
	state, item, err := s.itemState(ctx, student, id)
	if err != nil {
		return err
	}
	switch fix {
	case "rename":
		for _, f := range state.Findings {
			if f.Item == id && f.Fix == "rename" {
				return s.Store.SetItem(ctx, query.SetItemParams{ID: id, StudentID: student, Slot: item.Slot, Name: f.Becomes, VersionID: item.VersionID})
			}
		}
		return Complaint{"The name is as it should be."}
	case "convert":
		if _, ok := conversion(state, id); !ok {
			return Complaint{"This file need not or cannot be converted."}
		}
		return s.Store.AddJob(ctx, query.AddJobParams{Kind: ConvertJob, Subject: id, StudentID: student, RunAt: s.Now().UTC()})
	case "revert":
		if !item.MadeFrom.Valid {
			return Complaint{"This file is as you added it."}
		}
		original, err := s.Store.Version(ctx, query.VersionParams{ID: item.MadeFrom.Int64, StudentID: student})
		if err != nil {
			return NotFound(err)
		}
		return s.Store.SetItem(ctx, query.SetItemParams{ID: id, StudentID: student, Slot: item.Slot, Name: original.Name, VersionID: original.ID})
	}
	return Complaint{fmt.Sprintf("There is no fix %q.", fix)}
}

// CancelFix takes back a conversion that is waiting or running.
func (s Service) CancelFix(ctx context.Context, student, id int64) error {
	_, err := s.Store.RemoveJobOf(ctx, query.RemoveJobOfParams{Kind: ConvertJob, Subject: id, StudentID: student})
	return err
}

func conversion(state *State, item int64) (brief.Finding, bool) {
	for _, f := range state.Findings {
		if f.Item == item && f.Fix == "convert" {
			return f, true
		}
	}
	return brief.Finding{}, false
}

// Convert is the handler of [ConvertJob]: it makes a PDF of the item's file as a new version and puts
// that into the bundle under the name that the brief asks for. The original stays in the library.
func (s Service) Convert(ctx context.Context, job query.Job) (time.Duration, error) {
	state, item, err := s.itemState(ctx, job.StudentID, job.Subject)
	if err != nil {
		return 0, mariadb.Final{Err: err} // it was taken out in the meantime
	}
	finding, ok := conversion(state, item.ID)
	if !ok {
		return 0, nil // done already
	}
	data, err := s.Uploads.Read(ctx, item.Digest)
	if err != nil {
		return 0, err
	}
	pdf, err := s.Tools.ToPDF(ctx, item.Facts.Kind, data)
	if err != nil {
		if ctx.Err() != nil {
			return 0, ctx.Err()
		}
		s.tell(ctx, job.StudentID, state, fmt.Sprintf("%s could not be converted: %v.", item.VersionName, err))
		return 0, mariadb.Final{Err: err}
	}
	digest, _, err := s.Uploads.Put(ctx, bytes.NewReader(pdf))
	if err != nil {
		return 0, err
	}
	version, _, err := s.version(ctx, job.StudentID, finding.Becomes, digest, pdf, sql.NullInt64{Int64: item.VersionID, Valid: true})
	if err != nil {
		return 0, err
	}
	cancelled := false
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		// The job's row is held, so that a cancellation comes wholly before or after.
		if n, err := q.HoldJob(ctx, job.ID); err != nil || n == 0 {
			cancelled = n == 0
			return err
		}
		id, err := q.AddVersion(ctx, version)
		if err != nil {
			return err
		}
		return q.SetItem(ctx, query.SetItemParams{ID: item.ID, StudentID: job.StudentID, Slot: item.Slot, Name: finding.Becomes, VersionID: id})
	})
	if err == nil && !cancelled {
		s.tell(ctx, job.StudentID, state, fmt.Sprintf("%s is now %s.", item.VersionName, finding.Becomes))
	}
	return 0, err
}

func (s Service) tell(ctx context.Context, student int64, state *State, text string) {
	// An event that is not stored costs a late refresh, no more.
	_ = s.Store.AddEvent(ctx, query.AddEventParams{StudentID: student, Kind: "bundle", AssignmentID: state.Assignment.ID, Text: text})
}

// SettleName sets or confirms the pattern that names follow where the site gives none; empty means as
// the student likes.
func (s Service) SettleName(ctx context.Context, student, assignment int64, pattern string) error {
	state, err := s.editable(ctx, student, assignment)
	if err != nil {
		return err
	}
	if pattern != "" {
		p, err := naming.Parse(pattern)
		if err != nil {
			return Complaint{fmt.Sprintf("%v.", err)}
		}
		for _, field := range p.Needs() {
			if field == "section" {
				return Complaint{"Your section is not known here; write it into the pattern as text."}
			}
		}
	}
	own := state.Own
	own.Name, own.NameSet = pattern, true
	text, err := json.Marshal(own)
	if err != nil {
		return err
	}
	return s.Store.SetAssignmentOwn(ctx, query.SetAssignmentOwnParams{Own: text, ID: assignment, StudentID: student})
}
