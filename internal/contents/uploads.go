package contents

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"database/sql"
	"encoding"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"net/http"
	"regexp"

	"golang.org/x/exp/slog"

	"github.com/tus/tusd/v2/pkg/handler"

	"orario/internal/mariadb"
)

// Uploads is a store for tus uploads. Every upload belongs to an owner, taken from the context, and nobody else finds
// it. It writes the rows of its content from the first byte on, and keeps the state of the digest, so that nothing is
// copied or read again when it ends: a finished upload has become a content.
type Uploads struct {
	Store
	Admit func(ctx context.Context, owner string, bytes int64) error // why an upload may not begin; nil: all may
}

// Handler serves the tus protocol below a path, for uploads of at most maxBytes.
func (u Uploads) Handler(basePath string, maxBytes int64) (http.Handler, error) {
	composer := handler.NewStoreComposer()
	composer.UseCore(u)
	composer.UseTerminater(u)
	composer.UseLengthDeferrer(u)
	h, err := handler.NewHandler(handler.Config{
		StoreComposer: composer, BasePath: basePath, MaxSize: maxBytes, DisableDownload: true,
		Cors: &handler.CorsConfig{Disable: true}, Logger: slog.New(slog.NewTextHandler(io.Discard, nil)),
	})
	if err != nil {
		return nil, fmt.Errorf("setting up uploads: %w", err)
	}
	return http.StripPrefix(basePath, h), nil
}

type ownerKey struct{}

// WithOwner names the owner of the uploads that are made and found with a context.
func WithOwner(ctx context.Context, owner string) context.Context {
	return context.WithValue(ctx, ownerKey{}, owner)
}

func ownerOf(ctx context.Context) string {
	owner, _ := ctx.Value(ownerKey{}).(string)
	return owner
}

// A Finished upload is a content with what its sender said about it.
type Finished struct {
	Digest   string
	Bytes    int64
	MetaData map[string]string
}

// named is how uploads are: by [rand.Text].
var named = regexp.MustCompile(`^[A-Z2-7]{26}$`)

// Finished finds a finished upload of an owner; one that is not, or not there, is [ErrNotFound].
func (u Uploads) Finished(ctx context.Context, owner, id string) (Finished, error) {
	var f Finished
	var metadata []byte
	if !named.MatchString(id) {
		return f, ErrNotFound
	}
	err := u.DB.QueryRowContext(ctx, "SELECT digest, bytes, metadata FROM upload WHERE id = ? AND owner = ? AND "+
		"digest IS NOT NULL", id, owner).
		Scan(&f.Digest, &f.Bytes, &metadata)
	if errors.Is(err, sql.ErrNoRows) {
		return f, ErrNotFound
	}
	if err != nil {
		return f, fmt.Errorf("finding an upload: %w", err)
	}
	return f, json.Unmarshal(metadata, &f.MetaData)
}

// NewUpload implements [handler.DataStore]. The upload owns the rows of a new content from the start.
func (u Uploads) NewUpload(ctx context.Context, info handler.FileInfo) (handler.Upload, error) {
	if ownerOf(ctx) == "" {
		return nil, errors.New("an upload needs an owner")
	}
	if err := u.admit(ctx, info.Size); err != nil {
		return nil, err
	}
	info.ID = rand.Text()
	metadata, err := json.Marshal(info.MetaData)
	if err != nil {
		return nil, err
	}
	up := &upload{store: u, info: info, sum: sha256.New()}
	err = mariadb.InTx(ctx, up.store.DB, func(tx *sql.Tx) error {
		result, err := tx.ExecContext(ctx, "INSERT INTO content () VALUES ()")
		if err != nil {
			return err
		}
		if up.content, err = result.LastInsertId(); err != nil {
			return err
		}
		_, err = tx.ExecContext(
			ctx,
			"INSERT INTO upload (id, owner, bytes, metadata, content_id) VALUES (?, ?, ?, ?, ?)",
			info.ID,
			ownerOf(ctx),
			lengthOf(info),
			metadata,
			up.content,
		)
		if err == nil && lengthOf(info) == 0 {
			err = up.finish(ctx, tx)
		}
		return err
	})
	if err != nil {
		return nil, fmt.Errorf("beginning an upload: %w", err)
	}
	// Now that it counts: of several that begin at once none was there for the others.
	if err := u.admit(ctx, 0); err != nil {
		return nil, errors.Join(err, up.Terminate(ctx))
	}
	return up, nil
}

// admit says whether so many bytes more find room.
func (u Uploads) admit(ctx context.Context, bytes int64) error {
	if u.Admit == nil {
		return nil
	}
	if err := u.Admit(ctx, ownerOf(ctx), bytes); err != nil {
		return handler.NewError("ERR_NO_ROOM", err.Error(), http.StatusInsufficientStorage)
	}
	return nil
}

// GetUpload implements [handler.DataStore].
func (u Uploads) GetUpload(ctx context.Context, id string) (handler.Upload, error) {
	up := &upload{store: u, info: handler.FileInfo{ID: id}, sum: sha256.New()}
	var metadata, state []byte
	if !named.MatchString(id) {
		return nil, handler.ErrNotFound
	}
	err := u.DB.QueryRowContext(ctx, "SELECT bytes, at, metadata, content_id, hash FROM upload WHERE id = ? AND "+
		"owner = ?", id, ownerOf(ctx)).
		Scan(&up.info.Size, &up.info.Offset, &metadata, &up.content, &state)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, handler.ErrNotFound
	}
	if err != nil {
		return nil, fmt.Errorf("finding an upload: %w", err)
	}
	if up.info.Size == unknown {
		up.info.Size, up.info.SizeIsDeferred = 0, true
	}
	if len(state) > 0 {
		if err := up.sum.(encoding.BinaryUnmarshaler).UnmarshalBinary(state); err != nil {
			return nil, fmt.Errorf("reading the digest so far: %w", err)
		}
	}
	return up, json.Unmarshal(metadata, &up.info.MetaData)
}

// AsTerminatableUpload implements [handler.TerminaterDataStore].
func (u Uploads) AsTerminatableUpload(up handler.Upload) handler.TerminatableUpload {
	return up.(*upload)
}

type upload struct {
	store   Uploads
	info    handler.FileInfo
	content int64
	sum     hash.Hash // of what is stored
}

func (up *upload) GetInfo(context.Context) (handler.FileInfo, error) { return up.info, nil }

// WriteChunk stores what arrives in pieces of at most 1 MiB, each durable before the next is read, so that a broken
// line costs one piece at the most. It needs the memory of one piece. Two writers at one offset cannot both succeed.
// With the last piece the upload has become a content, in one transaction.
func (up *upload) WriteChunk(ctx context.Context, offset int64, src io.Reader) (written int64, err error) {
	buffer := make([]byte, chunkSize)
	for {
		room := chunkSize - (offset+written)%chunkSize // so that every row but the last is full
		n, readErr := io.ReadFull(src, buffer[:room])
		if n > 0 {
			if up.info.SizeIsDeferred { // a recording that goes up while it is made was admitted before it had a length
				if err := up.store.admit(ctx, int64(n)); err != nil {
					return written, err
				}
			}
			if err := up.piece(ctx, offset+written, buffer[:n]); err != nil {
				return written, err
			}
			written += int64(n)
		}
		if errors.Is(readErr, io.EOF) || errors.Is(readErr, io.ErrUnexpectedEOF) {
			return written, nil
		}
		if readErr != nil {
			return written, readErr
		}
	}
}

func (up *upload) piece(ctx context.Context, offset int64, data []byte) error {
	before, err := up.sum.(encoding.BinaryMarshaler).MarshalBinary()
	if err != nil {
		return err
	}
	up.sum.Write(data)
	state, err := up.sum.(encoding.BinaryMarshaler).MarshalBinary()
	if err != nil {
		return err
	}
	err = mariadb.InTx(ctx, up.store.DB, func(tx *sql.Tx) error {
		result, err := tx.ExecContext(
			ctx,
			"UPDATE upload SET at = at + ?, hash = ? WHERE id = ? AND at = ? AND digest IS NULL",
			len(data),
			state,
			up.info.ID,
			offset,
		)
		if err != nil {
			return err
		}
		if n, _ := result.RowsAffected(); n == 0 {
			return handler.ErrMismatchOffset
		}
		const store = "INSERT INTO content_chunk (content_id, n, data) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE data " +
			"= CONCAT(data, VALUES(data))"
		if _, err := tx.ExecContext(ctx, store, up.content, offset/chunkSize, data); err != nil {
			return err
		}
		if offset+int64(len(data)) == lengthOf(up.info) {
			return up.finish(ctx, tx)
		}
		return nil
	})
	if err != nil { // nothing of it is stored
		return errors.Join(err, up.sum.(encoding.BinaryUnmarshaler).UnmarshalBinary(before))
	}
	return nil
}

// finish makes the upload a content.
func (up *upload) finish(ctx context.Context, tx *sql.Tx) error {
	digest := hex.EncodeToString(up.sum.Sum(nil))
	stays, err := name(ctx, tx, up.content, digest, up.info.Size)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(
		ctx,
		"UPDATE upload SET digest = ?, content_id = ?, hash = NULL WHERE id = ?",
		digest,
		stays,
		up.info.ID,
	)
	return err
}

// GetReader implements [handler.Upload] for an upload that is finished.
func (up *upload) GetReader(ctx context.Context) (io.ReadCloser, error) {
	return io.NopCloser(&reader{ctx: ctx, db: up.store.DB, id: up.content, size: up.info.Offset}), nil
}

// FinishUpload implements [handler.Upload]; the last piece has finished it already.
func (up *upload) FinishUpload(context.Context) error { return nil }

// Terminate implements [handler.TerminatableUpload]. A content that has come of the upload stays.
func (up *upload) Terminate(ctx context.Context) error {
	return mariadb.InTx(ctx, up.store.DB, func(tx *sql.Tx) error {
		var finished bool
		err := tx.QueryRowContext(ctx, "SELECT digest IS NOT NULL FROM upload WHERE id = ? FOR UPDATE", up.info.ID).
			Scan(&finished)
		if errors.Is(err, sql.ErrNoRows) {
			return nil
		}
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, "DELETE FROM upload WHERE id = ?", up.info.ID); err != nil || finished {
			return err
		}
		return remove(ctx, tx, up.content)
	})
}

// Take makes a finished upload of r in one go, for the owner in the context, and returns its id.
func (u Uploads) Take(ctx context.Context, name string, r io.Reader, size int64) (string, error) {
	up, err := u.NewUpload(ctx, handler.FileInfo{Size: size, MetaData: handler.MetaData{"filename": name}})
	if err != nil {
		return "", err
	}
	n, err := up.WriteChunk(ctx, 0, r)
	if err == nil && n != size {
		err = fmt.Errorf("the upload has %d bytes, not %d", n, size)
	}
	if err != nil {
		return "", err
	}
	info, err := up.GetInfo(ctx)
	return info.ID, err
}
