package contents

import (
	"bytes"
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"

	"golang.org/x/exp/slog"

	"github.com/tus/tusd/v2/pkg/handler"
)

// Uploads is a store for tus uploads. Every upload belongs to an owner, taken from the context, and
// nobody else finds it. A finished upload has become a content.
type Uploads struct{ Store }

// Handler serves the tus protocol below a path, for uploads of at most maxBytes.
func (u Uploads) Handler(basePath string, maxBytes int64) (http.Handler, error) {
	composer := handler.NewStoreComposer()
	composer.UseCore(u)
	composer.UseTerminater(u)
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

// Finished finds a finished upload of an owner; one that is not, or not there, is [ErrNotFound].
func (u Uploads) Finished(ctx context.Context, owner, id string) (Finished, error) {
	var f Finished
	var metadata []byte
	err := u.DB.QueryRowContext(ctx, "SELECT digest, bytes, metadata FROM upload WHERE id = ? AND owner = ? AND digest IS NOT NULL", id, owner).
		Scan(&f.Digest, &f.Bytes, &metadata)
	if errors.Is(err, sql.ErrNoRows) {
		return f, ErrNotFound
	}
	if err != nil {
		return f, fmt.Errorf("finding an upload: %w", err)
	}
	return f, json.Unmarshal(metadata, &f.MetaData)
}

// NewUpload implements [handler.DataStore].
func (u Uploads) NewUpload(ctx context.Context, info handler.FileInfo) (handler.Upload, error) {
	if ownerOf(ctx) == "" {
		return nil, errors.New("an upload needs an owner")
	}
	info.ID = rand.Text()
	metadata, err := json.Marshal(info.MetaData)
	if err != nil {
		return nil, err
	}
	_, err = u.DB.ExecContext(ctx, "INSERT INTO upload (id, owner, bytes, metadata) VALUES (?, ?, ?, ?)", info.ID, ownerOf(ctx), info.Size, metadata)
	if err != nil {
		return nil, fmt.Errorf("beginning an upload: %w", err)
	}
	return &upload{u, info}, nil
}

// GetUpload implements [handler.DataStore].
func (u Uploads) GetUpload(ctx context.Context, id string) (handler.Upload, error) {
	info := handler.FileInfo{ID: id}
	var metadata []byte
	err := u.DB.QueryRowContext(ctx, "SELECT bytes, at, metadata FROM upload WHERE id = ? AND owner = ?", id, ownerOf(ctx)).
		Scan(&info.Size, &info.Offset, &metadata)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, handler.ErrNotFound
	}
	if err != nil {
		return nil, fmt.Errorf("finding an upload: %w", err)
	}
	return &upload{u, info}, json.Unmarshal(metadata, &info.MetaData)
}

// AsTerminatableUpload implements [handler.TerminaterDataStore].
func (u Uploads) AsTerminatableUpload(up handler.Upload) handler.TerminatableUpload {
	return up.(*upload)
}

type upload struct {
	store Uploads
	info  handler.FileInfo
}

func (up *upload) GetInfo(context.Context) (handler.FileInfo, error) { return up.info, nil }

// WriteChunk stores what arrives in pieces of 1 MiB, each durable before the next is read, so that a
// broken line costs one piece at the most. Two writers at one offset cannot both succeed.
func (up *upload) WriteChunk(ctx context.Context, offset int64, src io.Reader) (written int64, err error) {
	buffer := make([]byte, chunkSize)
	for {
		n, readErr := io.ReadFull(src, buffer)
		if n > 0 {
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
	tx, err := up.store.DB.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback() //nolint:errcheck // after a commit it has nothing to do
	result, err := tx.ExecContext(ctx, "UPDATE upload SET at = at + ? WHERE id = ? AND at = ?", len(data), up.info.ID, offset)
	if err != nil {
		return err
	}
	if n, _ := result.RowsAffected(); n == 0 {
		return handler.ErrMismatchOffset
	}
	if _, err := tx.ExecContext(ctx, "INSERT INTO upload_chunk (upload_id, at, data) VALUES (?, ?, ?)", up.info.ID, offset, data); err != nil {
		return err
	}
	return tx.Commit()
}

func (up *upload) GetReader(ctx context.Context) (io.ReadCloser, error) {
	return io.NopCloser(&pieces{ctx: ctx, db: up.store.DB, id: up.info.ID}), nil
}

// FinishUpload makes a content of the pieces and forgets them.
func (up *upload) FinishUpload(ctx context.Context) error {
	tx, err := up.store.DB.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback() //nolint:errcheck // after a commit it has nothing to do
	digest, _, err := putIn(ctx, tx, &pieces{ctx: ctx, db: tx, id: up.info.ID})
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, "UPDATE upload SET digest = ? WHERE id = ?", digest, up.info.ID); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, "DELETE FROM upload_chunk WHERE upload_id = ?", up.info.ID); err != nil {
		return err
	}
	return tx.Commit()
}

func (up *upload) Terminate(ctx context.Context) error {
	_, err := up.store.DB.ExecContext(ctx, "DELETE FROM upload WHERE id = ?", up.info.ID)
	return err
}

// pieces reads the pieces of an upload in their order, one at a time.
type pieces struct {
	ctx context.Context
	db  interface {
		QueryRowContext(context.Context, string, ...any) *sql.Row
	}
	id   string
	next int64
	rest []byte
}

func (p *pieces) Read(out []byte) (int, error) {
	if len(p.rest) == 0 {
		var data []byte
		err := p.db.QueryRowContext(p.ctx, "SELECT data FROM upload_chunk WHERE upload_id = ? AND at = ?", p.id, p.next).Scan(&data)
		if errors.Is(err, sql.ErrNoRows) {
			return 0, io.EOF
		}
		if err != nil {
			return 0, err
		}
		p.rest = bytes.Clone(data)
		p.next += int64(len(data))
	}
	n := copy(out, p.rest)
	p.rest = p.rest[n:]
	return n, nil
}

// Take makes a finished upload of r in one go, for the owner in the context, and returns its id.
func (u Uploads) Take(ctx context.Context, name string, r io.Reader, size int64) (string, error) {
	up, err := u.NewUpload(ctx, handler.FileInfo{Size: size, MetaData: handler.MetaData{"filename": name}})
	if err != nil {
		return "", err
	}
	if _, err := up.WriteChunk(ctx, 0, r); err != nil {
		return "", err
	}
	info, err := up.GetInfo(ctx)
	if err != nil {
		return "", err
	}
	return info.ID, up.FinishUpload(ctx)
}
