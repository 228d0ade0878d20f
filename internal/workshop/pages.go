package workshop

import (
	"bytes"
	"context"
	"database/sql"
	"errors"
	"fmt"

	"golang.org/x/sync/singleflight"

	"orario/core/wording"
	"orario/internal/convert"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// mostLaidOut bounds a document whose pages are shown, in bytes.
const mostLaidOut = 64 << 20

// Pages are the pages of a document with this content, as a PDF. They are made when they are first asked for, which
// takes seconds, and kept for as long as the content is.
func (s Service) Pages(ctx context.Context, digest, kind string, size int64) (query.LaidOutRow, error) {
	if !convert.HasPages(kind) {
		return query.LaidOutRow{}, refusal.ErrNotFound
	}
	row, err := s.Store.LaidOut(ctx, digest)
	if !errors.Is(err, sql.ErrNoRows) {
		return row, err
	}
	if size > mostLaidOut {
		return row, refusal.Say("It has more than %s, too much to be shown here; download it.",
			wording.Bytes(mostLaidOut))
	}
	made := laying.DoChan(digest, func() (any, error) {
		return s.layOut(context.WithoutCancel(ctx), digest, kind) // who looks again finds it
	})
	select {
	case r := <-made:
		row, _ = r.Val.(query.LaidOutRow)
		return row, r.Err
	case <-ctx.Done():
		return row, ctx.Err()
	}
}

// laying are the contents whose pages are being made.
var laying singleflight.Group

func (s Service) layOut(ctx context.Context, digest, kind string) (row query.LaidOutRow, err error) {
	data, err := s.Uploads.Read(ctx, digest)
	if err != nil {
		return row, err
	}
	pdf, err := s.Tools.ToPDF(ctx, kind, data)
	if err != nil {
		return row, refusal.Because(fmt.Errorf("its pages cannot be shown: %w", err))
	}
	if row.Made, row.Bytes, err = s.Uploads.Put(ctx, bytes.NewReader(pdf)); err != nil {
		return row, err
	}
	return row, s.Store.AddLaidOut(ctx, query.AddLaidOutParams{Digest: digest, Made: row.Made, Bytes: row.Bytes})
}
