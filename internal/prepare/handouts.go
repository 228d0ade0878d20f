package prepare

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"orario/core/archive"
	"orario/core/brief"
	"orario/core/coursework"
	"orario/core/inspect"
	"orario/core/naming"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// KeepHandouts puts the handouts of an assignment into the library, those that are archives unpacked; what lies there
// already is not put there twice. It says how many files came in, and what was left out of archives.
func (s Service) KeepHandouts(ctx context.Context, student, assignment int64) (came int, left []string, err error) {
	rows, err := s.Store.HandoutsOf(ctx, query.HandoutsOfParams{StudentID: student, ID: assignment})
	if err != nil {
		return 0, nil, fmt.Errorf("reading the handouts: %w", err)
	}
	if len(rows) == 0 {
		return 0, nil, refusal.ErrNotFound
	}
	had, err := s.Store.Versions(ctx, student)
	if err != nil {
		return 0, nil, fmt.Errorf("reading the library: %w", err)
	}
	left = []string{}
	for _, h := range rows {
		files := []inspect.Stored{{Name: h.Name, Bytes: h.Bytes, SHA256: h.Digest}}
		if packed(h.Name) {
			unpacked, skipped, err := s.unpacked(ctx, h.Digest)
			var complaint refusal.Complaint
			switch {
			case errors.As(err, &complaint): // it is kept as it is
				left = append(left, fmt.Sprintf("%s stays packed. %s", h.Name, complaint.Message))
			case err != nil:
				return came, left, err
			default:
				files, left = unpacked, append(left, skipped...)
			}
		}
		for _, file := range files {
			if slices.ContainsFunc(
				had,
				func(v query.VersionsRow) bool { return v.Digest == file.SHA256 && v.Name == file.Name },
			) {
				continue
			}
			if _, err := s.keep(ctx, student, file); err != nil {
				return came, left, err
			}
			came++
		}
	}
	return came, left, nil
}

// packed says whether a handout is to be unpacked, by its name.
func packed(name string) bool {
	_, ext := naming.Split(name)
	return strings.EqualFold(ext, "zip")
}

func (s Service) unpacked(ctx context.Context, digest string) (files []inspect.Stored, left []string, err error) {
	data, err := s.Uploads.Read(ctx, digest)
	if err != nil {
		return nil, nil, err
	}
	var ours error
	skipped, err := archive.Each(data, func(f inspect.Named) error {
		digest, size, err := s.Uploads.Put(ctx, bytes.NewReader(f.Data))
		files, ours = append(files, inspect.Stored{Name: f.Name, Bytes: size, SHA256: digest}), err
		return err
	})
	if ours != nil {
		return nil, nil, ours
	}
	if err != nil {
		return nil, nil, refusal.Because(err)
	}
	for _, skip := range skipped {
		left = append(left, fmt.Sprintf("%s was left out: %s.", skip.Name, skip.Why))
	}
	return files, left, nil
}

// Where a copy of a handout goes whose slot is filled already.
const (
	Instead = "instead"
	Beside  = "beside"
)

// BeginWith makes a handout the student's own copy: it goes into the bundle under the name that the brief asks for,
// else that of the course's habit, and the checks say as long as nothing was changed in it. Where its slot has no room
// any more it is asked (a [refusal.Conflict]) whether it goes in place of what is there or beside it.
func (s Service) BeginWith(ctx context.Context, student, handout, part int64, where string) error {
	h, err := s.Store.Handout(ctx, query.HandoutParams{ID: handout, StudentID: student})
	if err != nil {
		return refusal.NotFound(err)
	}
	if packed(h.Name) {
		return refusal.Say("%s is packed. Keep the handouts, and begin with one of the files in it.", h.Name)
	}
	state, err := s.open(ctx, student, h.AssignmentID, part, 1)
	if err != nil {
		return err
	}
	file := inspect.Stored{Name: h.Name, Bytes: h.Bytes, SHA256: h.Digest}
	version, facts, err := s.version(ctx, student, file, 0)
	if err != nil {
		return err
	}
	slot := state.Sheet.SlotFor(facts.Kind, own(state.Items))
	there := filling(state, slot)
	if there == nil {
		if only := slotOfForm(state, facts.Kind); only != "" {
			slot, there = only, filling(state, only)
		}
	}
	if there != nil && where == "" {
		const asks = "%s lies in the slot %q already. Put the copy in its place, or beside it?"
		return refusal.Conflict{Message: fmt.Sprintf(asks, there.Name, slot)}
	}
	named := copyName(state, slot, h.Name, facts)
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		id, err := s.addVersion(ctx, q, version, facts)
		if err != nil {
			return err
		}
		if there == nil || where == Beside {
			_, err = s.into(ctx, q, student, state, Place{Slot: slot, Name: named, Version: id}, facts.Kind)
			return err
		}
		if err := same(ctx, q, student, there); err != nil {
			return err
		}
		err = q.SetItem(ctx, query.SetItemParams{
			ID: there.ID, StudentID: student, Slot: slot, Name: clipName(named), VersionID: id,
		})
		if err != nil {
			return err
		}
		return s.tell(ctx, q, student, state.ID, "")
	})
}

// filling is the first file in a slot that has no room for another; nil where it has.
func filling(state *coursework.Standing, slot string) *coursework.Item {
	into, known := state.Sheet.Slot(slot)
	if !known || slot == "" || own(state.Items)[slot] < into.Room() {
		return nil
	}
	for n := range state.Items {
		if i := &state.Items[n]; i.Slot == slot && !i.Inherited {
			return i
		}
	}
	return nil
}

// slotOfForm is the one slot that takes a kind of file; empty where none does, or several.
func slotOfForm(state *coursework.Standing, kind string) (name string) {
	for _, s := range state.Sheet.Slots {
		if slices.Contains(s.Forms, kind) || len(s.Forms) == 0 {
			if name != "" {
				return ""
			}
			name = s.Name
		}
	}
	return name
}

// copyName is the name of the student's own copy of a handout: as the brief asks, else as the course's habit has it,
// else the family name before the handout's (common practice: a file tells whose it is).
func copyName(state *coursework.Standing, slot, handout string, facts *inspect.Facts) string {
	b := state.Bundle()
	b.Fields = state.Fields()
	if asked := b.NameFor(brief.Item{Slot: slot, Name: handout, Facts: facts}); asked != handout {
		return asked
	}
	fields := state.Fields()
	_, fields["ext"] = naming.Split(handout)
	fields["slot"] = slot
	if habit, err := naming.Parse(state.Course.Habit); err == nil && state.Course.Habit != "" {
		if name, _, err := naming.Make(habit, fields, state.Sheet.PlainNames); err == nil {
			return name
		}
	}
	return strings.ToLower(fields["family"]) + "_" + handout
}
