package intake

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"orario/core/brief"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// A newPart is a part as it is to be: wall times in the course's zone.
type newPart struct {
	name, opens, due, closes string
	grace                    int // minutes
	slots                    []brief.Slot
}

// putParts makes an assignment's parts what they are to be. A part is found again by its name, else by its place, so
// that what was done about it stays with it; one that is not wanted any more goes, unless work hangs on it. Every
// part has a first attempt.
func putParts(ctx context.Context, q *query.Queries, student, assignment int64, parts []newPart) error {
	old, err := q.PartsOf(ctx, assignment)
	if err != nil {
		return err
	}
	ids, gone := match(old, parts)
	for _, p := range gone {
		holds, err := q.PartHoldsWork(ctx, p.ID)
		if err != nil {
			return err
		}
		if holds {
			return refusal.Say(
				"Work hangs on the part %q: files, or a note that it was sent. Take that back first, or keep the part.",
				p.Name,
			)
		}
		if _, err := q.RemovePart(ctx, p.ID); err != nil {
			return err
		}
	}
	if err := q.MovePart(ctx, assignment); err != nil { // places are unique; they are given anew
		return err
	}
	for n, p := range parts {
		slots, err := json.Marshal(append([]brief.Slot{}, p.slots...))
		if err != nil {
			return err
		}
		row := query.AddPartParams{
			AssignmentID: assignment,
			N:            int32(n + 1),
			Name:         p.name,
			Opens:        p.opens,
			Due:          p.due,
			Closes:       p.closes,
			GraceMinutes: int32(p.grace),
			Slots:        slots,
		}
		if ids[n] != 0 {
			err = setPart(ctx, q, ids[n], row)
		} else {
			err = addPart(ctx, q, student, row)
		}
		if err != nil {
			return fmt.Errorf("keeping the part %q: %w", p.name, err)
		}
	}
	return nil
}

func setPart(ctx context.Context, q *query.Queries, id int64, p query.AddPartParams) error {
	return q.SetPart(ctx, query.SetPartParams{
		N:            p.N,
		Name:         p.Name,
		Opens:        p.Opens,
		Due:          p.Due,
		Closes:       p.Closes,
		GraceMinutes: p.GraceMinutes,
		Slots:        p.Slots,
		ID:           id,
	})
}

func addPart(ctx context.Context, q *query.Queries, student int64, p query.AddPartParams) error {
	id, err := q.AddPart(ctx, p)
	if err != nil {
		return err
	}
	_, err = q.AddAttempt(ctx, query.AddAttemptParams{StudentID: student, PartID: id, Number: 1})
	return err
}

// match finds for each part that is to be the one that it was, 0 for a new one; gone are those that are left.
func match(old []query.Part, parts []newPart) (ids []int64, gone []query.Part) {
	ids, gone = make([]int64, len(parts)), slices.Clone(old)
	for n, p := range parts {
		if i := slices.IndexFunc(gone, func(o query.Part) bool { return o.Name == p.name }); i >= 0 {
			ids[n] = gone[i].ID
			gone = slices.Delete(gone, i, i+1)
		}
	}
	for n := range parts {
		if ids[n] == 0 && len(gone) > 0 {
			ids[n] = gone[0].ID
			gone = gone[1:]
		}
	}
	return ids, gone
}
