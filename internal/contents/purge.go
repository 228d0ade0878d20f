package contents

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"orario/internal/mariadb"
)

// How long uploads are kept: one that was left in the middle, and one that has become a content.
const (
	unfinishedFor = 7 * 24 * time.Hour
	finishedFor   = 24 * time.Hour
)

// Purge takes out uploads that were left, and contents that are older than a day and that nothing refers to. inUse are
// the columns that hold digests, as "table.column". It works in small steps, so that nobody waits for it.
func (s Store) Purge(ctx context.Context, now time.Time, inUse ...string) (uploads, contents int, err error) {
	now = now.UTC()
	result, err := s.DB.ExecContext(
		ctx,
		"DELETE FROM upload WHERE digest IS NULL AND created_at < ? OR digest IS NOT NULL AND created_at < ?",
		now.Add(-unfinishedFor),
		now.Add(-finishedFor),
	)
	if err != nil {
		return 0, 0, fmt.Errorf("purging uploads: %w", err)
	}
	gone, _ := result.RowsAffected()
	condition := "c.created_at < ? AND NOT EXISTS (SELECT 1 FROM upload u WHERE u.content_id = c.id)"
	for _, column := range inUse {
		table, _, _ := strings.Cut(column, ".")
		condition += fmt.Sprintf(" AND NOT EXISTS (SELECT 1 FROM %s WHERE %s = c.digest)", table, column)
	}
	for {
		n, err := s.purgeOne(ctx, condition, now.Add(-finishedFor))
		contents += n
		if err != nil || n == 0 {
			return int(gone), contents, err
		}
	}
}

// purgeOne takes out one content, if there is one that nothing refers to.
func (s Store) purgeOne(ctx context.Context, condition string, before time.Time) (gone int, err error) {
	find := "SELECT c.id FROM content c WHERE " + condition + " LIMIT 1 FOR UPDATE"
	err = mariadb.InTx(ctx, s.DB, func(tx *sql.Tx) error {
		gone = 0
		var id int64
		err := tx.QueryRowContext(ctx, find, before).Scan(&id)
		if errors.Is(err, sql.ErrNoRows) {
			return nil
		}
		if err != nil {
			return fmt.Errorf("finding what nothing refers to: %w", err)
		}
		gone = 1
		return remove(ctx, tx, id)
	})
	return gone, err
}
