package mariadb

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"math/rand/v2"
	"sync/atomic"
	"time"

	"github.com/go-sql-driver/mysql"
)

// Errors of MariaDB after which nothing of a transaction is there any more, or nothing was done yet, and the same may
// well go through at another time.
const (
	lockWaitTimeout = 1205
	deadlock        = 1213
)

// mostTries bounds how often a transaction is tried, and firstPause the wait before the second try, which is at most
// that and doubles each time: half a second in all before the last one.
const (
	mostTries  = 6
	firstPause = 15 * time.Millisecond
)

var triedAgain atomic.Int64

// TriedAgain is how many transactions this process has tried again after a deadlock or a wait for a lock.
func TriedAgain() int64 { return triedAgain.Load() }

// Retry does a piece of work, and does it again, up to five times and after a pause that grows, while the database says
// that it was rolled back for another's sake (errors 1213 and 1205). The last error is returned as it came.
func Retry(ctx context.Context, work func() error) error {
	for try, pause := 1, firstPause; ; try, pause = try+1, 2*pause {
		err := work()
		if try == mostTries || !again(err) {
			return err
		}
		triedAgain.Add(1)
		select {
		case <-ctx.Done():
			return errors.Join(ctx.Err(), err)
		case <-time.After(rand.N(pause)):
		}
	}
}

func again(err error) bool {
	var e *mysql.MySQLError
	return errors.As(err, &e) && (e.Number == deadlock || e.Number == lockWaitTimeout)
}

// InTx runs do in a transaction of a database, which is rolled back if it returns an error, and tried again as [Retry]
// says. All transactions that write go through here.
func InTx(ctx context.Context, db *sql.DB, do func(*sql.Tx) error) error {
	return Retry(ctx, func() error {
		tx, err := db.BeginTx(ctx, nil)
		if err != nil {
			return fmt.Errorf("beginning a transaction: %w", err)
		}
		defer tx.Rollback() //nolint:errcheck // after a commit it has nothing to do
		if err := do(tx); err != nil {
			return err
		}
		return tx.Commit()
	})
}
