package prepare

import (
	"context"
	"slices"

	"orario/core/coursework"
	"orario/core/inspect"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// Content is the content of a version of a student's.
func (s Service) Content(ctx context.Context, student, version int64) (inspect.Named, error) {
	v, err := s.Store.Version(ctx, query.VersionParams{ID: version, StudentID: student})
	if err != nil {
		return inspect.Named{}, refusal.NotFound(err)
	}
	data, err := s.Uploads.Read(ctx, v.Digest)
	return inspect.Named{Name: v.Name, Data: data}, err
}

// Taken is what taking made files changed in a bundle.
type Taken struct {
	Items    []Held  `json:"items"`    // that hold them now, in their order
	Replaced []Place `json:"replaced"` // that lay there before; the first item has the place of the first of them
}

// Held is an item with the version that it was given.
type Held struct {
	ID      int64 `json:"id"`
	Version int64 `json:"version"`
}

// Take puts files that a tool made of versions into a bundle: into the place of those of them that lie in it, if
// instead is set, or else beside them into a slot. The first keeps its place in the order. What they were made of stays
// in the library. also is done in the same transaction.
func (s Service) Take(
	ctx context.Context, student int64, part Part, made []inspect.Stored, of []int64, instead bool, slot string,
	also func(*query.Queries, Taken) error,
) error {
	state, err := s.open(ctx, student, part.Assignment, part.ID, len(made))
	if err != nil {
		return err
	}
	var versions []query.AddVersionParams
	var facts []*inspect.Facts
	for _, file := range made {
		v, f, err := s.version(ctx, student, file, first(of))
		if err != nil {
			return err
		}
		versions, facts = append(versions, v), append(facts, f)
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		if _, err := attempt(ctx, q, student, state.Part.ID); err != nil {
			return err
		}
		var taken Taken
		var gone []*coursework.Item
		for n := range state.Items {
			if i := &state.Items[n]; instead && slices.Contains(of, i.Version) {
				if err := same(ctx, q, student, i); err != nil {
					return err
				}
				gone = append(gone, i)
				var next int64 // that stays
				for _, o := range state.Items[n+1:] {
					if !slices.Contains(of, o.Version) {
						next = o.ID
						break
					}
				}
				taken.Replaced = append(taken.Replaced, Place{i.Slot, i.Name, i.Version, next})
			}
		}
		for n, v := range versions {
			id, err := s.addVersion(ctx, q, v, facts[n])
			if err != nil {
				return err
			}
			item, err := s.takeOne(ctx, q, student, state, Place{slot, v.Name, id, 0}, facts[n].Kind, n, gone)
			if err != nil {
				return err
			}
			taken.Items = append(taken.Items, Held{item, id})
		}
		for _, i := range gone[min(1, len(gone)):] {
			if _, err := q.RemoveItem(ctx, query.RemoveItemParams{ID: i.ID, StudentID: student}); err != nil {
				return err
			}
		}
		if err := also(q, taken); err != nil {
			return err
		}
		return s.tell(ctx, q, student, state.ID, "")
	})
}

// A Part is a part of an assignment.
type Part struct{ Assignment, ID int64 }

func first(list []int64) int64 {
	if len(list) == 0 {
		return 0
	}
	return list[0]
}

// takeOne puts the n-th made file into a bundle: the first into the place of the first item that goes.
func (s Service) takeOne(
	ctx context.Context, q *query.Queries, student int64, state *coursework.Standing, p Place, kind string, n int,
	gone []*coursework.Item,
) (int64, error) {
	if len(gone) == 0 {
		return s.into(ctx, q, student, state, p, kind)
	}
	p.Slot = gone[0].Slot
	if n > 0 {
		return s.into(ctx, q, student, state, p, kind)
	}
	return gone[0].ID, q.SetItem(ctx, query.SetItemParams{
		ID: gone[0].ID, StudentID: student, Slot: p.Slot, Name: clipName(p.Name), VersionID: p.Version,
	})
}

// PutBack undoes [Service.Take], unless what it put there was changed since.
func (s Service) PutBack(
	ctx context.Context, student int64, part Part, taken Taken, also func(*query.Queries) error,
) error {
	state, err := s.editable(ctx, student, part.Assignment, part.ID)
	if err != nil {
		return err
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		try, err := attempt(ctx, q, student, state.Part.ID)
		if err != nil {
			return err
		}
		for n, held := range taken.Items {
			id := held.ID
			switch {
			case !slices.ContainsFunc(state.Items, func(i coursework.Item) bool {
				return i.ID == id && i.Version == held.Version
			}):
				return changed
			case n == 0 && len(taken.Replaced) > 0:
				was := taken.Replaced[0]
				err = q.SetItem(ctx, query.SetItemParams{
					ID: id, StudentID: student, Slot: was.Slot, Name: was.Name, VersionID: was.Version,
				})
			default:
				_, err = q.RemoveItem(ctx, query.RemoveItemParams{ID: id, StudentID: student})
			}
			if err != nil {
				return err
			}
		}
		for _, was := range taken.Replaced[min(1, len(taken.Replaced)):] {
			id, err := q.AddItem(ctx, query.AddItemParams{
				Student: student, Attempt: try.ID, Slot: was.Slot, Name: was.Name, Version: was.Version,
			})
			if err != nil {
				return err
			}
			if err := placeBefore(ctx, q, try.ID, id, was.Before); err != nil {
				return err
			}
		}
		if err := also(q); err != nil {
			return err
		}
		return s.tell(ctx, q, student, state.ID, "")
	})
}

// Reorder puts the files of a bundle into an order; all of them are named.
func (s Service) Reorder(ctx context.Context, student int64, part Part, items []int64) error {
	state, err := s.editable(ctx, student, part.Assignment, part.ID)
	if err != nil {
		return err
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		try, err := attempt(ctx, q, student, state.Part.ID)
		if err != nil {
			return err
		}
		rows, err := q.ItemsOf(ctx, try.ID)
		if err != nil {
			return err
		}
		var have []int64
		for _, row := range rows {
			have = append(have, row.ID)
		}
		if !slices.Equal(slices.Sorted(slices.Values(have)), slices.Sorted(slices.Values(items))) {
			return refusal.Say("The files of the bundle have just changed in another place. Look at them again.")
		}
		if err := placeAll(ctx, q, try.ID, items); err != nil {
			return err
		}
		return s.tell(ctx, q, student, state.ID, "")
	})
}

// placeAll gives the items of an attempt their places, in the order of the list.
func placeAll(ctx context.Context, q *query.Queries, attempt int64, items []int64) error {
	for n, id := range items {
		if err := q.PlaceItem(ctx, query.PlaceItemParams{Place: int32(n + 1), ID: id, AttemptID: attempt}); err != nil {
			return err
		}
	}
	return nil
}

// placeBefore moves the last item of an attempt before another; it stays the last where that is not there.
func placeBefore(ctx context.Context, q *query.Queries, attempt, item, before int64) error {
	if before == 0 {
		return nil
	}
	rows, err := q.ItemsOf(ctx, attempt)
	if err != nil {
		return err
	}
	var order []int64
	for _, row := range rows {
		if row.ID == before {
			order = append(order, item)
		}
		if row.ID != item {
			order = append(order, row.ID)
		}
	}
	if len(order) < len(rows) {
		return nil
	}
	return placeAll(ctx, q, attempt, order)
}

// RenameAll gives every file of a bundle the name that the checks ask for, and says how many that were.
func (s Service) RenameAll(ctx context.Context, student int64, part Part) (n int, err error) {
	state, err := s.editable(ctx, student, part.Assignment, part.ID)
	if err != nil {
		return 0, err
	}
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		n = 0
		if _, err := attempt(ctx, q, student, state.Part.ID); err != nil {
			return err
		}
		for i := range state.Items {
			item := &state.Items[i]
			f, ok := offered(state, item, "rename")
			if !ok || f.Item != item.ID {
				continue
			}
			if err := same(ctx, q, student, item); err != nil {
				return err
			}
			err := q.SetItem(ctx, query.SetItemParams{
				ID: item.ID, StudentID: student, Slot: item.Slot, Name: f.Becomes, VersionID: item.Version,
			})
			if err != nil {
				return err
			}
			n++
		}
		return s.tell(ctx, q, student, state.ID, "")
	})
	return n, err
}
