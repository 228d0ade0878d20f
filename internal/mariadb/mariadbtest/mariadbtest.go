// Package mariadbtest gives tests a database of their own on the server that `make test` starts.
package mariadbtest

import (
	"context"
	"database/sql"
	"fmt"
	"io/fs"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"orario/internal/mariadb"
)

// Source is the test server's data source name.
func Source(t testing.TB) string {
	t.Helper()
	source := os.Getenv("ORARIO_TEST_DB")
	require.NotEmpty(
		t,
		source,
		`set ORARIO_TEST_DB to what "scripts/mariadb.sh start var/test-db" prints, or run "make test"`,
	)
	return source
}

// Open gives a new database with the migrations applied, dropped when the test ends.
func Open(t testing.TB, migrations fs.FS) *mariadb.DB {
	t.Helper()
	name := fmt.Sprintf("orario_test_%d_%s", os.Getpid(), strings.ToLower(rand(t)))
	db, err := mariadb.Open(context.Background(), Source(t), name, migrations)
	require.NoError(t, err)
	t.Cleanup(func() {
		_, err := db.SQL.Exec("DROP DATABASE " + name)
		require.NoError(t, err)
		db.Close()
	})
	return db
}

// Orario gives a new database with Orario's schema.
func Orario(t testing.TB) *mariadb.DB {
	t.Helper()
	return Open(t, mariadb.Migrations())
}

func rand(t testing.TB) (name string) {
	t.Helper()
	db, err := sql.Open("mysql", Source(t))
	require.NoError(t, err)
	defer db.Close()
	require.NoError(t, db.QueryRow("SELECT REPLACE(UUID(), '-', '')").Scan(&name))
	return name[:12]
}
