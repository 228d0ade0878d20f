package mariadb

import (
	"bufio"
	"bytes"
	"compress/gzip"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"

	"github.com/go-sql-driver/mysql"
)

// ended is how a dump that is whole ends.
const ended = "-- Dump completed"

// Backup writes everything in a database, the contents of files too, as it is at one instant, into one file of gzipped
// SQL, while the database is used. The file must not be there yet; one that could not be finished is removed. It needs
// the program mariadb-dump. Tell is called with the bytes that have been written.
func Backup(ctx context.Context, source, name, file string, tell func(bytes int64)) (err error) {
	client, done, err := client(ctx, source, "mariadb-dump", "--single-transaction", "--quick", "--hex-blob",
		"--skip-triggers", "--skip-lock-tables", "--skip-comments", "--dump-date=0", name)
	if err != nil {
		return err
	}
	defer done()
	if _, err := os.Stat(file); !errors.Is(err, fs.ErrNotExist) {
		return fmt.Errorf("%s is there already; name a file that is not", file)
	}
	out, err := os.CreateTemp(filepath.Dir(file), ".backup-*") // with mode 0600
	if err != nil {
		return fmt.Errorf("beginning the backup: %w", err)
	}
	defer os.Remove(out.Name())
	defer out.Close()
	packed := gzip.NewWriter(&counting{out, 0, tell})
	client.Stdout = packed
	said := &bytes.Buffer{}
	client.Stderr = said
	if err := client.Run(); err != nil {
		return fmt.Errorf("mariadb-dump: %w: %s", err, strings.TrimSpace(said.String()))
	}
	if _, err := fmt.Fprintln(packed, ended); err != nil {
		return fmt.Errorf("writing the backup: %w", err)
	}
	if err := errors.Join(packed.Close(), out.Sync(), out.Close()); err != nil {
		return fmt.Errorf("writing the backup: %w", err)
	}
	return os.Rename(out.Name(), file)
}

type counting struct {
	to   io.Writer
	n    int64
	tell func(int64)
}

func (c *counting) Write(p []byte) (int, error) {
	n, err := c.to.Write(p)
	c.n += int64(n)
	c.tell(c.n)
	return n, err
}

// Restore brings a backup into a database that is empty or not there. A file that is not whole is refused before
// anything is changed. It needs the program mariadb.
func Restore(ctx context.Context, source, name, file string) error {
	if err := whole(file); err != nil {
		return err
	}
	if err := emptyDatabase(ctx, source, name); err != nil {
		return err
	}
	in, err := os.Open(file)
	if err != nil {
		return err
	}
	defer in.Close()
	text, err := gzip.NewReader(in)
	if err != nil {
		return err
	}
	client, done, err := client(ctx, source, "mariadb", name)
	if err != nil {
		return err
	}
	defer done()
	said := &bytes.Buffer{}
	client.Stdin, client.Stderr = text, said
	if err := client.Run(); err != nil {
		return fmt.Errorf("bringing the backup in: %w: %s", err, strings.TrimSpace(said.String()))
	}
	return nil
}

// whole reads a backup to its end.
func whole(file string) error {
	in, err := os.Open(file)
	if err != nil {
		return fmt.Errorf("reading the backup: %w", err)
	}
	defer in.Close()
	text, err := gzip.NewReader(bufio.NewReaderSize(in, 1<<20))
	if err != nil {
		return fmt.Errorf("%s is no backup: %w", file, err)
	}
	var last [64]byte // the end of what was read
	kept, block := 0, make([]byte, 1<<20)
	for {
		n, err := text.Read(block)
		if n >= len(last) {
			kept = copy(last[:], block[n-len(last):n])
		} else {
			joined := append(append([]byte{}, last[:kept]...), block[:n]...)
			kept = copy(last[:], joined[max(0, len(joined)-len(last)):])
		}
		if err == io.EOF {
			break
		}
		if err != nil {
			return fmt.Errorf("%s is not whole: %w", file, err)
		}
	}
	if !strings.HasSuffix(strings.TrimSpace(string(last[:kept])), ended) {
		return fmt.Errorf("%s is not whole: it ends in the middle", file)
	}
	return nil
}

// emptyDatabase makes a database, or finds that it has no tables.
func emptyDatabase(ctx context.Context, source, name string) error {
	db, err := sql.Open("mysql", source)
	if err != nil {
		return err
	}
	defer db.Close()
	if !databaseName.MatchString(name) {
		return fmt.Errorf("%q is no name for a database", name)
	}
	if _, err := db.ExecContext(ctx, "CREATE DATABASE IF NOT EXISTS "+name); err != nil {
		return fmt.Errorf("reaching MariaDB: %w", err)
	}
	var tables int
	err = db.QueryRowContext(ctx, "SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = ?", name).
		Scan(&tables)
	if err == nil && tables > 0 {
		err = fmt.Errorf("the database %s is not empty; name another with ORARIO_DATABASE", name)
	}
	return err
}

// DropDemo drops a database in which there is nothing but the demo, or a half of it. One with another account in it is
// refused.
func DropDemo(ctx context.Context, source, name string) error {
	db, err := sql.Open("mysql", source)
	if err != nil {
		return err
	}
	defer db.Close()
	if !databaseName.MatchString(name) {
		return fmt.Errorf("%q is no name for a database", name)
	}
	var tells int
	err = db.QueryRowContext(ctx, "SELECT COUNT(*) FROM information_schema.columns WHERE table_schema = ? AND "+
		"table_name = 'student' AND column_name = 'demo'", name).Scan(&tells)
	if err != nil {
		return fmt.Errorf("reaching MariaDB: %w", err)
	}
	if tells > 0 {
		var others int
		err := db.QueryRowContext(ctx, "SELECT COUNT(*) FROM "+name+".student WHERE NOT demo").Scan(&others)
		if err != nil {
			return fmt.Errorf("looking into %s: %w", name, err)
		}
		if others > 0 {
			return fmt.Errorf("the database %s holds other accounts than the demo's; name another for the demo", name)
		}
	}
	if _, err := db.ExecContext(ctx, "DROP DATABASE IF EXISTS "+name); err != nil {
		return fmt.Errorf("dropping %s: %w", name, err)
	}
	return nil
}

// client is a program of MariaDB's that reaches the server of a data source name. The password goes through a file that
// has no name any more: a process that is killed leaves none. Done closes it.
func client(
	ctx context.Context,
	source, program string,
	args ...string,
) (cmd *exec.Cmd, done func(), err error) {
	config, err := mysql.ParseDSN(source)
	if err != nil {
		return nil, nil, fmt.Errorf("reading the data source name: %w", err)
	}
	quoted := func(s string) string {
		return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`, "\n", `\n`).Replace(s) + `"`
	}
	text := "[client]\nuser=" + quoted(config.User) + "\npassword=" + quoted(config.Passwd) + "\n"
	if config.Net == "unix" {
		text += "socket=" + quoted(config.Addr) + "\n"
	} else {
		host, port, err := net.SplitHostPort(config.Addr)
		if err != nil {
			return nil, nil, fmt.Errorf("the address of MariaDB: %w", err)
		}
		text += "protocol=tcp\nhost=" + quoted(host) + "\nport=" + port + "\n"
	}
	text += "default-character-set=utf8mb4\nmax_allowed_packet=1G\n"
	settings, err := os.CreateTemp("", "orario-client-*")
	if err != nil {
		return nil, nil, err
	}
	err = os.Remove(settings.Name())
	if err == nil {
		_, err = settings.WriteString(text)
	}
	if err != nil {
		return nil, nil, errors.Join(err, settings.Close())
	}
	// The first of the extra files is number 3 of the program's; by this name it is opened from its beginning.
	cmd = exec.CommandContext(ctx, program, append([]string{"--defaults-file=/proc/self/fd/3"}, args...)...)
	cmd.ExtraFiles = []*os.File{settings}
	return cmd, func() { settings.Close() }, nil
}
