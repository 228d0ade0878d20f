package prepare

import (
	"context"
	"fmt"

	"orario/core/brief"
	"orario/core/inspect"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// AddUpload puts a finished upload into a slot of the bundle; with an empty slot the brief decides. The facts of the
// file are found out now. In a slot for one file it takes the place of the one that came from the attempt before.
func (s Service) AddUpload(ctx context.Context, student, assignment, part int64, upload, slot string) (int64, error) {
	return s.add(ctx, student, assignment, part, upload, slot, nil, nil)
}

// AddRecording is AddUpload for what a page pressed to be kept: the upload goes with it, so that pressed again, or
// several times at once, it is there once.
func (s Service) AddRecording(
	ctx context.Context, student, assignment, part int64, upload, slot string,
) (int64, error) {
	return s.add(ctx, student, assignment, part, upload, slot, nil, func(q *query.Queries) error {
		n, err := q.RemoveUpload(ctx, query.RemoveUploadParams{ID: upload, Owner: fmt.Sprint(student)})
		if err == nil && n == 0 {
			err = refusal.Say("This recording is in the bundle already.")
		}
		return err
	})
}

// AddPhotograph is AddUpload for who may add pictures only.
func (s Service) AddPhotograph(
	ctx context.Context, student, assignment, part int64, upload, slot string,
) (int64, error) {
	return s.add(ctx, student, assignment, part, upload, slot, func(f *inspect.Facts) error {
		if !brief.IsPhotograph(f.Kind) {
			return refusal.Say("This is no photograph. A telephone puts photographs into a bundle; " +
				"add other files at the computer.")
		}
		return nil
	}, nil)
}

// add adds a finished upload whose facts may be taken; also is done in the same transaction, first.
func (s Service) add(
	ctx context.Context, student, assignment, part int64, upload, slot string,
	may func(*inspect.Facts) error, also func(*query.Queries) error,
) (int64, error) {
	state, err := s.open(ctx, student, assignment, part, 1)
	if err != nil {
		return 0, err
	}
	file, err := s.arrived(ctx, student, upload)
	if err != nil {
		return 0, err
	}
	version, facts, err := s.version(ctx, student, file, 0)
	if err != nil {
		return 0, err
	}
	if may != nil {
		if err := may(facts); err != nil {
			return 0, err
		}
	}
	var item int64
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		if also != nil {
			if err := also(q); err != nil {
				return err
			}
		}
		id, err := s.addVersion(ctx, q, version, facts)
		if err != nil {
			return err
		}
		item, err = s.into(ctx, q, student, state, Place{Slot: slot, Name: file.Name, Version: id}, facts.Kind)
		return err
	})
	return item, err
}
