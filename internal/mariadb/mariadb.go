// Package mariadb keeps everything that Orario knows: the schema, the queries (generated into package
// query) and the jobs.
package mariadb

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"regexp"
	"syscall"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/pressly/goose/v3"

	"orario/internal/mariadb/query"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Migrations are those of Orario's own schema.
func Migrations() fs.FS { return migrations }

// A DB is Orario's database: the generated queries, and transactions over them.
type DB struct {
	*query.Queries
	SQL *sql.DB
}

var databaseName = regexp.MustCompile(`^\w+$`)

// Open connects to the named database of a server, makes it if it is not there, and brings its schema up
// to date. Any number of processes may do that at the same time. The data source name is in the form of
// Go's MySQL driver and names no database.
func Open(ctx context.Context, source, name string, migrations fs.FS) (*DB, error) {
	if !databaseName.MatchString(name) {
		return nil, fmt.Errorf("%q is no name for a database", name)
	}
	config, err := mysql.ParseDSN(source)
	if err != nil {
		return nil, fmt.Errorf("reading the data source name: %w", err)
	}
	config.ParseTime, config.Loc = true, time.UTC
	config.InterpolateParams, config.ClientFoundRows = true, true
	config.MaxAllowedPacket = 0 // ask the server
	config.Params = map[string]string{"time_zone": "'+00:00'"}
	config.Collation = "utf8mb4_unicode_520_ci"
	server, err := sql.Open("mysql", config.FormatDSN())
	if err != nil {
		return nil, err
	}
	defer server.Close()
	if _, err := server.ExecContext(ctx, "CREATE DATABASE IF NOT EXISTS "+name); err != nil {
		return nil, fmt.Errorf("reaching MariaDB: %w", err)
	}
	config.DBName = name
	db, err := sql.Open("mysql", config.FormatDSN())
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(40)
	db.SetMaxIdleConns(20)
	db.SetConnMaxLifetime(5 * time.Minute)
	if err := migrate(ctx, db, name, migrations); err != nil {
		db.Close()
		return nil, err
	}
	return &DB{query.New(db), db}, nil
}

// migrate holds a lock of the server, so that one process migrates and the others wait for it.
func migrate(ctx context.Context, db *sql.DB, name string, migrations fs.FS) error {
	lock, err := db.Conn(ctx)
	if err != nil {
		return fmt.Errorf("reaching MariaDB: %w", err)
	}
	defer lock.Close()
	var held sql.NullInt64
	if err := lock.QueryRowContext(ctx, "SELECT GET_LOCK(?, 60)", "migrate-"+name).
		Scan(&held); err != nil ||
		held.Int64 != 1 {
		return fmt.Errorf("waiting for another process's migration: %w", err)
	}
	defer lock.ExecContext(
		context.WithoutCancel(ctx),
		"DO RELEASE_LOCK(?)",
		"migrate-"+name,
	) //nolint:errcheck // it goes with the connection
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectMySQL, db, files)
	if err != nil {
		return err
	}
	if err := begin(ctx, db, name); err != nil {
		return err
	}
	if err := notNewer(ctx, provider, name); err != nil {
		return err
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("migrating %s: %w", name, err)
	}
	if _, err := fs.Stat(files, watchedFrom); err != nil {
		return nil // another schema than Orario's
	}
	return watch(ctx, db)
}

// begin writes the first row of the table of versions where a start broke off between making it and that.
func begin(ctx context.Context, db *sql.DB, name string) error {
	var there bool
	const look = "SELECT COUNT(*) > 0 FROM information_schema.tables WHERE table_schema = ? AND " +
		"table_name = 'goose_db_version'"
	err := db.QueryRowContext(ctx, look, name).Scan(&there)
	if err == nil && there {
		_, err = db.ExecContext(ctx, "INSERT INTO goose_db_version (version_id, is_applied) "+
			"SELECT 0, TRUE FROM DUAL WHERE NOT EXISTS (SELECT 1 FROM goose_db_version)")
	}
	if err != nil {
		return fmt.Errorf("looking for the schema of %s: %w", name, err)
	}
	return nil
}

// notNewer refuses a schema that a later program has made: this one would not know what it does to it.
func notNewer(ctx context.Context, provider *goose.Provider, name string) error {
	is, err := provider.GetDBVersion(ctx)
	if err != nil {
		return fmt.Errorf("asking for the schema of %s: %w", name, err)
	}
	sources := provider.ListSources()
	if knows := sources[len(sources)-1].Version; is > knows {
		return fmt.Errorf("the database %s has schema %d, made by a newer program; this one knows %d. "+
			"Start the newer one, or restore a backup from before into another database", name, is, knows)
	}
	return nil
}

// Close ends all connections.
func (d *DB) Close() error { return d.SQL.Close() }

// InTx runs do in a transaction, which is rolled back if it returns an error, and tried again as [Retry] says; do must
// therefore leave nothing behind but what it wrote through the queries.
func (d *DB) InTx(ctx context.Context, do func(*query.Queries) error) error {
	return InTx(ctx, d.SQL, func(tx *sql.Tx) error { return do(d.WithTx(tx)) })
}

// SealTokens seals the tokens of sites that are kept as they came, as they were before tokens were sealed. It looks
// without holding anything, so that programs that start do not wait for one that works, and writes only over the token
// that it sealed.
func (d *DB) SealTokens(ctx context.Context, seal func(string) (string, error)) error {
	sites, err := d.UnsealedTokens(ctx)
	if err != nil {
		return fmt.Errorf("sealing tokens: %w", err)
	}
	for _, site := range sites {
		token, err := seal(site.Token)
		if err != nil {
			return err
		}
		set := query.SealSiteTokenParams{Token: token, ID: site.ID, Was: site.Token}
		if err := Retry(ctx, func() error { return d.SealSiteToken(ctx, set) }); err != nil {
			return fmt.Errorf("sealing tokens: %w", err)
		}
	}
	return nil
}

// Snapshot runs read in a read-only transaction that sees the database as it is at its first query
// (REPEATABLE READ), whatever others commit meanwhile.
func (d *DB) Snapshot(ctx context.Context, read func(*query.Queries) error) error {
	tx, err := d.SQL.BeginTx(ctx, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	if err != nil {
		return fmt.Errorf("beginning to read: %w", err)
	}
	defer tx.Rollback() //nolint:errcheck // nothing was written
	return read(d.WithTx(tx))
}

// Free is how many bytes are free on the disk on which the database lies; not known where it runs on another machine.
func (d *DB) Free(ctx context.Context) (bytes int64, known bool) {
	var host, dir string
	if err := d.SQL.QueryRowContext(ctx, "SELECT @@hostname, @@datadir").Scan(&host, &dir); err != nil {
		return 0, false
	}
	if here, err := os.Hostname(); err != nil || here != host {
		return 0, false
	}
	var disk syscall.Statfs_t
	if err := syscall.Statfs(dir, &disk); err != nil {
		return 0, false
	}
	return int64(disk.Bavail) * disk.Bsize, true
}

// NullTime is a time as the database keeps it; nil: none.
func NullTime(t *time.Time) sql.NullTime {
	if t == nil {
		return sql.NullTime{}
	}
	return sql.NullTime{Time: t.UTC(), Valid: true}
}

// NullInt is a number as the database keeps it; 0: none.
func NullInt(n int64) sql.NullInt64 { return sql.NullInt64{Int64: n, Valid: n != 0} }

// IsDuplicate says whether an error is that of a second row where there may be one (error 1062).
func IsDuplicate(err error) bool {
	var e *mysql.MySQLError
	return errors.As(err, &e) && e.Number == 1062
}
