package contents

import (
	"context"
	"database/sql"
	"errors"

	"github.com/tus/tusd/v2/pkg/handler"

	"orario/internal/mariadb"
)

// unknown is the length of an upload whose sender does not know it yet: a recording that goes on.
const unknown = -1

func lengthOf(info handler.FileInfo) int64 {
	if info.SizeIsDeferred {
		return unknown
	}
	return info.Size
}

// AsLengthDeclarableUpload implements [handler.LengthDeferrerDataStore].
func (u Uploads) AsLengthDeclarableUpload(up handler.Upload) handler.LengthDeclarableUpload {
	return up.(*upload)
}

// DeclareLength implements [handler.LengthDeclarableUpload]. An upload that is there already has become a content.
func (up *upload) DeclareLength(ctx context.Context, length int64) error {
	if more := length - up.info.Offset; more > 0 {
		if err := up.store.admit(ctx, more); err != nil {
			return err
		}
	}
	return mariadb.InTx(ctx, up.store.DB, func(tx *sql.Tx) error {
		result, err := tx.ExecContext(ctx, "UPDATE upload SET bytes = ? WHERE id = ? AND bytes = ? AND at <= ?", length,
			up.info.ID, unknown, length)
		if err != nil {
			return err
		}
		if n, _ := result.RowsAffected(); n == 0 {
			return handler.ErrInvalidUploadLength
		}
		if up.info.Size, up.info.SizeIsDeferred = length, false; length == up.info.Offset {
			return up.finish(ctx, tx)
		}
		return nil
	})
}

// Close ends an upload whose length was not known with what has arrived of it.
func (u Uploads) Close(ctx context.Context, id string) error {
	found, err := u.GetUpload(ctx, id)
	if errors.Is(err, handler.ErrNotFound) {
		return ErrNotFound
	}
	if err != nil {
		return err
	}
	up := found.(*upload)
	if !up.info.SizeIsDeferred {
		return nil
	}
	err = up.DeclareLength(ctx, up.info.Offset)
	if errors.Is(err, handler.ErrInvalidUploadLength) { // somebody else was quicker, or it goes on
		if again, found := u.GetUpload(ctx, id); found == nil && !again.(*upload).info.SizeIsDeferred {
			return nil
		}
	}
	return err
}
