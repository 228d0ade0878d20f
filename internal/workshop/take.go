package workshop

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"orario/core/inspect"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
	"orario/internal/refusal"
)

// File is one file of a workpiece, to be looked at.
func (s Service) File(ctx context.Context, student, id int64, n int) (query.WorkpieceFile, error) {
	if _, err := s.Store.Workpiece(ctx, query.WorkpieceParams{ID: id, StudentID: student}); err != nil {
		return query.WorkpieceFile{}, refusal.NotFound(err)
	}
	files, err := s.Store.WorkpieceFiles(ctx, id)
	if err != nil {
		return query.WorkpieceFile{}, err
	}
	for _, f := range files {
		if int(f.N) == n {
			return f, nil
		}
	}
	return query.WorkpieceFile{}, refusal.ErrNotFound
}

// Take puts files of a workpiece into the bundle: those with the numbers, or all if none are named.
func (s Service) Take(ctx context.Context, student, id int64, numbers []int, instead bool, slot string) error {
	row, err := s.Store.Workpiece(ctx, query.WorkpieceParams{ID: id, StudentID: student})
	if err != nil {
		return refusal.NotFound(err)
	}
	if row.State != query.WorkpieceStateMade {
		return refusal.Say("There is nothing to be taken of this: it is not made, or was taken already.")
	}
	files, err := s.Store.WorkpieceFiles(ctx, id)
	if err != nil {
		return err
	}
	var made []inspect.Stored
	for _, f := range files {
		if len(numbers) == 0 || slices.Contains(numbers, int(f.N)) {
			made = append(made, inspect.Stored{Name: f.Name, Bytes: f.Bytes, SHA256: f.Digest})
		}
	}
	if len(made) == 0 {
		return refusal.Say("Choose at least one of its files.")
	}
	var versions []int64
	if err := json.Unmarshal(row.Versions, &versions); err != nil {
		return fmt.Errorf("reading a workpiece: %w", err)
	}
	part := prepare.Part{Assignment: row.AssignmentID, ID: row.PartID}
	return s.Bundles.Take(ctx, student, part, made, versions, instead, slot,
		func(q *query.Queries, taken prepare.Taken) error {
			held := query.LockWorkpieceParams{ID: id, StudentID: student, State: query.WorkpieceStateMade}
			if _, err := q.LockWorkpiece(ctx, held); err != nil {
				return refusal.NotFound(err)
			}
			took, err := json.Marshal(taken)
			if err != nil {
				return err
			}
			return q.SetWorkpieceTaken(
				ctx,
				query.SetWorkpieceTakenParams{State: query.WorkpieceStateTaken, Took: took, ID: id},
			)
		})
}

// PutBack undoes a taking: the bundle is as it was, and the workpiece lies there again.
func (s Service) PutBack(ctx context.Context, student, id int64) error {
	row, err := s.Store.Workpiece(ctx, query.WorkpieceParams{ID: id, StudentID: student})
	if err != nil {
		return refusal.NotFound(err)
	}
	if row.State != query.WorkpieceStateTaken {
		return refusal.Say("This does not lie in the bundle.")
	}
	var taken prepare.Taken
	if err := json.Unmarshal(row.Took, &taken); err != nil {
		return fmt.Errorf("reading a workpiece: %w", err)
	}
	part := prepare.Part{Assignment: row.AssignmentID, ID: row.PartID}
	return s.Bundles.PutBack(ctx, student, part, taken, func(q *query.Queries) error {
		held := query.LockWorkpieceParams{ID: id, StudentID: student, State: query.WorkpieceStateTaken}
		if _, err := q.LockWorkpiece(ctx, held); err != nil {
			return refusal.NotFound(err)
		}
		return q.SetWorkpieceTaken(ctx, query.SetWorkpieceTakenParams{
			State: query.WorkpieceStateMade, Took: json.RawMessage("{}"), ID: id,
		})
	})
}

// Throw throws a workpiece away; one that is being made is cancelled.
func (s Service) Throw(ctx context.Context, student, id int64) error {
	job := query.RemoveJobOfParams{Kind: Job, Subject: id, StudentID: student}
	if _, err := s.Store.RemoveJobOf(ctx, job); err != nil {
		return err
	}
	return refusal.Unless(s.Store.RemoveWorkpiece(ctx, query.RemoveWorkpieceParams{ID: id, StudentID: student}))
}
