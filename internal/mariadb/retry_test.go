package mariadb_test

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/internal/mariadb"
	"orario/internal/mariadb/mariadbtest"
)

// Two transactions that lock two rows in opposite orders: the database rolls one of them back (error 1213).
func TestADeadlockIsTriedAgain(t *testing.T) {
	db := mariadbtest.Orario(t)
	ctx := context.Background()
	_, err := db.SQL.Exec("CREATE TABLE pair (id INT PRIMARY KEY, n INT NOT NULL)")
	require.NoError(t, err)
	_, err = db.SQL.Exec("INSERT INTO pair VALUES (1, 0), (2, 0)")
	require.NoError(t, err)
	before := mariadb.TriedAgain()
	var both, done sync.WaitGroup
	both.Add(2)
	for _, order := range [][2]int{{1, 2}, {2, 1}} {
		done.Go(func() {
			first := true
			assert.NoError(t, mariadb.InTx(ctx, db.SQL, func(tx *sql.Tx) error {
				for n, id := range order {
					if _, err := tx.Exec("UPDATE pair SET n = n + 1 WHERE id = ?", id); err != nil {
						return fmt.Errorf("wrapped, as rooms do: %w", err)
					}
					if n == 0 && first {
						first = false
						both.Done()
						both.Wait()
					}
				}
				return nil
			}))
		})
	}
	done.Wait()
	var sum int
	require.NoError(t, db.SQL.QueryRow("SELECT SUM(n) FROM pair").Scan(&sum))
	assert.Equal(t, 4, sum, "both went through, each once")
	assert.Greater(t, mariadb.TriedAgain(), before)
}

func TestWhatIsTriedAgainAndHowOften(t *testing.T) {
	deadlock := &mysql.MySQLError{Number: 1213}
	for _, c := range []struct {
		err   error
		tries int
	}{
		{nil, 1}, {errors.New("other"), 1}, {&mysql.MySQLError{Number: 1062}, 1}, {sql.ErrNoRows, 1},
		{deadlock, 6}, {&mysql.MySQLError{Number: 1205}, 6}, {fmt.Errorf("wrapped: %w", deadlock), 6},
	} {
		tries := 0
		err := mariadb.Retry(t.Context(), func() error { tries++; return c.err })
		assert.Equal(t, c.err, err)
		assert.Equal(t, c.tries, tries, "%v", c.err)
	}
	tries := 0
	require.NoError(t, mariadb.Retry(t.Context(), func() error {
		if tries++; tries < 6 {
			return deadlock
		}
		return nil
	}))
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	begun := time.Now()
	err := mariadb.Retry(ctx, func() error { return deadlock })
	require.ErrorIs(t, err, context.Canceled)
	require.ErrorIs(t, err, deadlock)
	assert.Less(t, time.Since(begun), 5*time.Second)
}

// A program that starts looks for tokens that are not sealed; it must not wait for a transaction that holds a site.
func TestTokensAreSealedBesideAProgramThatWorks(t *testing.T) {
	db := mariadbtest.Orario(t)
	ctx := context.Background()
	for _, statement := range []string{
		"INSERT INTO student (id, email, password_hash, family, given, number, zone) VALUES (1, 'n@a.example', 'x', 'Q', 'N', '1', 'UTC')",
		"INSERT INTO enrolment (id, student_id, institution, number, family, given, zone) VALUES (1, 1, 'A', '1', 'Q', 'N', 'UTC')",
		"INSERT INTO site (id, student_id, enrolment_id, name, base_url, token) VALUES (1, 1, 1, 'S', 'http://s.example', 'v1:sealed'), " +
			"(2, 1, 1, 'T', 'http://t.example', 'open')",
	} {
		_, err := db.SQL.Exec(statement)
		require.NoError(t, err, statement)
	}
	seal := func(token string) (string, error) { return "v1:" + token, nil }
	busy, err := db.SQL.BeginTx(ctx, nil)
	require.NoError(t, err)
	defer busy.Rollback() //nolint:errcheck // nothing is to stay
	_, err = busy.Exec("UPDATE site SET notice = 'held' WHERE id = 1")
	require.NoError(t, err)
	ctx, cancel := context.WithTimeout(ctx, 5*time.Second)
	defer cancel()
	require.NoError(t, db.SealTokens(ctx, seal))
	require.NoError(t, db.SealTokens(ctx, seal))
	for id, want := range map[int]string{1: "v1:sealed", 2: "v1:open"} {
		var token string
		require.NoError(t, db.SQL.QueryRow("SELECT token FROM site WHERE id = ?", id).Scan(&token))
		assert.Equal(t, want, token)
	}
}
