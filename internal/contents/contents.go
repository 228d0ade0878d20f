// Package contents keeps file contents in MariaDB: each once, named by its SHA-256, in rows of 1 MiB;
// and takes them in by resumable uploads (tus 1.0.0, https://tus.io/protocols/resumable-upload).
//
// The tables are content, content_chunk, upload and upload_chunk of the database it is given.
package contents

import (
	"bytes"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"io"

	"orario/internal/mariadb"
)

// ErrNotFound says that no content has the digest.
var ErrNotFound = errors.New("no such content")

// chunkSize is the size of a row; the last one of a content is shorter.
const chunkSize = 1 << 20

// A Store keeps contents in a database.
type Store struct{ DB *sql.DB }

// Put stores all that r gives and returns its digest (lower-case hex) and size. Content that is there already is not
// stored again. The pieces are stored as they come, and the whole is named at its end, so that no transaction waits for
// r; an error leaves nothing behind, and of a process that was killed the next purge takes the pieces.
func (s Store) Put(ctx context.Context, r io.Reader) (digest string, size int64, err error) {
	result, err := s.DB.ExecContext(ctx, "INSERT INTO content () VALUES ()")
	if err != nil {
		return "", 0, fmt.Errorf("storing content: %w", err)
	}
	id, err := result.LastInsertId()
	if err != nil {
		return "", 0, fmt.Errorf("storing content: %w", err)
	}
	if digest, size, err = s.pieces(ctx, id, r); err == nil {
		err = mariadb.InTx(ctx, s.DB, func(tx *sql.Tx) error {
			_, err := name(ctx, tx, id, digest, size)
			return err
		})
	}
	if err != nil {
		left := context.WithoutCancel(ctx)
		gone := mariadb.InTx(left, s.DB, func(tx *sql.Tx) error { return remove(left, tx, id) })
		return "", 0, errors.Join(err, gone)
	}
	return digest, size, nil
}

// pieces stores all that r gives as the rows of a content, and gives its digest and size.
func (s Store) pieces(ctx context.Context, id int64, r io.Reader) (digest string, size int64, err error) {
	sum := sha256.New()
	buffer := make([]byte, chunkSize)
	for n := 0; ; n++ {
		length, err := io.ReadFull(r, buffer)
		if length > 0 {
			sum.Write(buffer[:length])
			size += int64(length)
			const add = "INSERT INTO content_chunk (content_id, n, data) VALUES (?, ?, ?)"
			if _, err := s.DB.ExecContext(ctx, add, id, n, buffer[:length]); err != nil {
				return "", 0, fmt.Errorf("storing content: %w", err)
			}
		}
		if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
			return hex.EncodeToString(sum.Sum(nil)), size, nil
		}
		if err != nil {
			return "", 0, err
		}
	}
}

// name gives a content that is whole its digest. If one has that digest already, the new one is taken back, and the
// old one counts as new, so that nobody purges it before it is used; the id is that of the content which stays.
func name(ctx context.Context, tx *sql.Tx, id int64, digest string, size int64) (stays int64, err error) {
	for range 2 { // once more where the old one was purged in between
		_, err = tx.ExecContext(ctx, "UPDATE content SET digest = ?, bytes = ? WHERE id = ?", digest, size, id)
		if err == nil {
			return id, nil
		}
		if !mariadb.IsDuplicate(err) {
			return 0, fmt.Errorf("storing content: %w", err)
		}
		var old bool
		const find = "SELECT id, created_at < CURRENT_TIMESTAMP(3) - INTERVAL 1 HOUR FROM content WHERE digest = ? " +
			"LOCK IN SHARE MODE"
		err = tx.QueryRowContext(ctx, find, digest).Scan(&stays, &old)
		if errors.Is(err, sql.ErrNoRows) {
			continue
		}
		if err == nil && old {
			_, err = tx.ExecContext(ctx, "UPDATE content SET created_at = CURRENT_TIMESTAMP(3) WHERE id = ?", stays)
		}
		if err != nil {
			return 0, fmt.Errorf("finding content: %w", err)
		}
		return stays, remove(ctx, tx, id)
	}
	return 0, fmt.Errorf("storing content: %w", err)
}

// remove takes a content out.
func remove(ctx context.Context, tx *sql.Tx, id int64) error {
	for _, statement := range []string{
		"DELETE FROM content_chunk WHERE content_id = ?", "DELETE FROM content WHERE id = ?",
	} {
		if _, err := tx.ExecContext(ctx, statement, id); err != nil {
			return fmt.Errorf("removing content: %w", err)
		}
	}
	return nil
}

// Open reads a content row by row from offset on; the reader needs no closing.
func (s Store) Open(ctx context.Context, digest string, offset int64) (io.Reader, error) {
	var id, size int64
	err := s.DB.QueryRowContext(ctx, "SELECT id, bytes FROM content WHERE digest = ?", digest).Scan(&id, &size)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, ErrNotFound
	}
	if err != nil {
		return nil, fmt.Errorf("opening content: %w", err)
	}
	return &reader{ctx: ctx, db: s.DB, id: id, at: offset, size: size}, nil
}

// Read gives a whole content.
func (s Store) Read(ctx context.Context, digest string) ([]byte, error) {
	r, err := s.Open(ctx, digest, 0)
	if err != nil {
		return nil, err
	}
	return io.ReadAll(r)
}

// Verify reads every content and compares it with its digest; it gives how many there are. One that does not agree is
// an error that names it.
func (s Store) Verify(ctx context.Context) (n int, err error) {
	rows, err := s.DB.QueryContext(ctx, "SELECT digest FROM content WHERE digest IS NOT NULL ORDER BY id")
	if err != nil {
		return 0, fmt.Errorf("reading contents: %w", err)
	}
	var digests []string
	for rows.Next() {
		var digest string
		if err := rows.Scan(&digest); err != nil {
			return 0, errors.Join(err, rows.Close())
		}
		digests = append(digests, digest)
	}
	if err := rows.Err(); err != nil {
		return 0, fmt.Errorf("reading contents: %w", err)
	}
	for _, digest := range digests {
		content, err := s.Open(ctx, digest, 0)
		if err != nil {
			return n, err
		}
		sum := sha256.New()
		if _, err := io.Copy(sum, content); err != nil {
			return n, fmt.Errorf("the content %s: %w", digest, err)
		}
		if hex.EncodeToString(sum.Sum(nil)) != digest {
			return n, fmt.Errorf("the content %s is not what it was", digest)
		}
		n++
	}
	return n, nil
}

type reader struct {
	ctx      context.Context
	db       *sql.DB
	id       int64
	at, size int64
	rest     []byte
}

func (r *reader) Read(p []byte) (int, error) {
	if r.at >= r.size {
		return 0, io.EOF
	}
	if len(r.rest) == 0 {
		var data []byte
		err := r.db.QueryRowContext(r.ctx, "SELECT data FROM content_chunk WHERE content_id = ? AND n = "+
			"?", r.id, r.at/chunkSize).
			Scan(&data)
		if err != nil {
			return 0, fmt.Errorf("reading content: %w", err)
		}
		r.rest = bytes.Clone(data[min(r.at%chunkSize, int64(len(data))):])
		if len(r.rest) == 0 {
			return 0, io.ErrUnexpectedEOF
		}
	}
	n := copy(p, r.rest)
	r.rest, r.at = r.rest[n:], r.at+int64(n)
	return n, nil
}
