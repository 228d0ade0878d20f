// Package campus is the practice campus: a course site of its own, with its own tables and address. It
// publishes assignments, takes work in two steps, signs receipts, makes similarity reports and lets an
// instructor mark. Orario speaks to it over HTTP only; docs/campus.md tells the protocol.
package campus

import (
	"context"
	"crypto/ed25519"
	"crypto/rand"
	"crypto/sha256"
	"database/sql"
	"embed"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"strconv"
	"strings"
	"time"

	"orario/core/receipt"
	api "orario/internal/campus/campusapi"
	"orario/internal/contents"
)

// Migrations are the campus's tables, step by step.
//
//go:embed migrations/*.sql
var Migrations embed.FS

// Name is what the site calls itself.
const Name = "Alvarim practice campus"

// KeyID names the site's only signing key.
const KeyID = "alvarim-1"

// textReader reads the text out of a file of some kind (package inspect).
type textReader interface {
	Text(ctx context.Context, kind string, data []byte) (string, error)
}

// A Campus is a course site on a database.
type Campus struct {
	db       *sql.DB
	contents contents.Store
	texts    textReader
	log      *slog.Logger
	key      ed25519.PrivateKey
}

// New opens the site, making its signing key the first time.
func New(ctx context.Context, db *sql.DB, texts textReader, log *slog.Logger) (*Campus, error) {
	c := &Campus{db: db, contents: contents.Store{DB: db}, texts: texts, log: log}
	seed := make([]byte, ed25519.SeedSize)
	if _, err := rand.Read(seed); err != nil {
		return nil, err
	}
	_, err := db.ExecContext(
		ctx,
		"INSERT IGNORE INTO setting (name, value) VALUES ('seed', ?)",
		base64.StdEncoding.EncodeToString(seed),
	)
	if err != nil {
		return nil, fmt.Errorf("making the campus's key: %w", err)
	}
	text, err := c.setting(ctx, "seed", "")
	if err != nil {
		return nil, err
	}
	if seed, err = base64.StdEncoding.DecodeString(text); err != nil {
		return nil, fmt.Errorf("reading the campus's key: %w", err)
	}
	c.key = ed25519.NewKeyFromSeed(seed)
	return c, nil
}

func (c *Campus) publicKey() string {
	return receipt.FormatKey(c.key.Public().(ed25519.PublicKey))
}

func (c *Campus) setting(ctx context.Context, name, otherwise string) (string, error) {
	var value string
	err := c.db.QueryRowContext(ctx, "SELECT value FROM setting WHERE name = ?", name).Scan(&value)
	if errors.Is(err, sql.ErrNoRows) {
		return otherwise, nil
	}
	if err != nil {
		return "", fmt.Errorf("reading the setting %s: %w", name, err)
	}
	return value, nil
}

func (c *Campus) set(ctx context.Context, name, value string) error {
	_, err := c.db.ExecContext(
		ctx,
		"INSERT INTO setting (name, value) VALUES (?, ?) ON DUPLICATE KEY UPDATE value = VALUES(value)",
		name,
		value,
	)
	return err
}

// now is the site's own clock: the real one, moved by a setting.
func (c *Campus) now(ctx context.Context) (time.Time, error) {
	text, err := c.setting(ctx, "clock_offset", "0s")
	if err != nil {
		return time.Time{}, err
	}
	offset, err := time.ParseDuration(text)
	return time.Now().Add(offset).UTC().Truncate(time.Millisecond), err
}

// MoveClock sets the site's clock relative to the real one.
func (c *Campus) MoveClock(ctx context.Context, offset time.Duration) error {
	return errors.Join(c.set(ctx, "clock_offset", offset.String()), c.changed(ctx))
}

// SetSpeed divides the turnaround of reports, so that an hour can pass in seconds; 1 is real time.
func (c *Campus) SetSpeed(ctx context.Context, speed float64) error {
	return c.set(ctx, "speed", strconv.FormatFloat(speed, 'g', -1, 64))
}

func (c *Campus) turnaround(ctx context.Context, minutes int) (time.Duration, error) {
	text, err := c.setting(ctx, "speed", "1")
	if err != nil {
		return 0, err
	}
	speed, err := strconv.ParseFloat(text, 64)
	if err != nil || speed <= 0 {
		return 0, fmt.Errorf("the speed %q is no number above 0", text)
	}
	return time.Duration(float64(minutes) * float64(time.Minute) / speed), nil
}

// A Student of the site.
type Student struct {
	ID                           int64
	Number, Family, Given, Email string
}

// Name is a student's name as the site writes it.
func (s Student) Name() string { return strings.TrimSpace(s.Given + " " + s.Family) }

// AddStudent enrols a student and returns a token for the interface; it is stored as a digest only.
// For a student who is enrolled already the token is made anew.
func (c *Campus) AddStudent(ctx context.Context, s Student) (token string, err error) {
	token = rand.Text()
	_, err = c.db.ExecContext(
		ctx,
		`INSERT INTO student (number, name, family, given, email, token_digest) VALUES (?, ?, ?, ?, ?, ?)
		ON DUPLICATE KEY UPDATE token_digest = VALUES(token_digest)`,
		s.Number,
		s.Name(),
		s.Family,
		s.Given,
		s.Email,
		digestOf(token),
	)
	if err != nil {
		return "", fmt.Errorf("enrolling %s: %w", s.Number, err)
	}
	return token, nil
}

func digestOf(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

func (c *Campus) studentOf(ctx context.Context, token string) (Student, error) {
	var s Student
	err := c.db.QueryRowContext(ctx, "SELECT id, number, family, given, email FROM student WHERE token_digest = "+
		"?", digestOf(token)).
		Scan(&s.ID, &s.Number, &s.Family, &s.Given, &s.Email)
	return s, err
}

// PublishCourse and PublishAssignment put into the catalogue, or change what is there; an assignment's
// revision grows with every change.
func (c *Campus) PublishCourse(ctx context.Context, course api.Course) error {
	return c.publish(ctx, "REPLACE INTO course (course_key, body) VALUES (?, ?)", course.Key, course)
}

// PublishAssignment puts an assignment in place of what the site has under its key; see [Campus.PublishCourse].
func (c *Campus) PublishAssignment(ctx context.Context, a api.Assignment) error {
	if before, err := c.assignment(ctx, a.Key); err == nil {
		a.Revision = before.Revision + 1
	}
	return c.publish(ctx, "REPLACE INTO assignment (assignment_key, body) VALUES (?, ?)", a.Key, a)
}

// PublishReading adds a text that reports compare with.
func (c *Campus) PublishReading(ctx context.Context, name, title, text string) error {
	_, err := c.db.ExecContext(ctx, "REPLACE INTO reading (name, title, body) VALUES (?, ?, ?)", name, title, text)
	return err
}

func (c *Campus) publish(ctx context.Context, query, key string, content any) error {
	text, err := json.Marshal(content)
	if err != nil {
		return err
	}
	if _, err = c.db.ExecContext(ctx, query, key, text); err != nil {
		return fmt.Errorf("publishing %s: %w", key, err)
	}
	return c.changed(ctx)
}

// changed makes the revision of the catalogue grow, so that everybody looks again.
func (c *Campus) changed(ctx context.Context) error {
	_, err := c.db.ExecContext(
		ctx,
		"INSERT INTO setting (name, value) VALUES ('revision', '1') ON DUPLICATE KEY UPDATE value = CAST(value AS "+
			"INTEGER) + 1",
	)
	return err
}

// revision is that of the catalogue and of what was given back to a student: it grows with either.
func (c *Campus) revision(ctx context.Context, s Student) (n int64, err error) {
	err = c.db.QueryRowContext(ctx, "SELECT st.revision + COALESCE((SELECT CAST(value AS INTEGER) FROM setting "+
		"WHERE name = 'revision'), 0) FROM student st WHERE st.id = ?", s.ID).
		Scan(&n)
	if err != nil {
		return 0, fmt.Errorf("reading the revision: %w", err)
	}
	return n, nil
}

// bodies reads published bodies of one table.
func bodies[T any](ctx context.Context, db *sql.DB, query string, args ...any) ([]T, error) {
	rows, err := db.QueryContext(ctx, query, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	list := []T{}
	for rows.Next() {
		var text []byte
		var body T
		if err := rows.Scan(&text); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(text, &body); err != nil {
			return nil, err
		}
		list = append(list, body)
	}
	return list, rows.Err()
}

func (c *Campus) courses(ctx context.Context) ([]api.Course, error) {
	return bodies[api.Course](ctx, c.db, "SELECT body FROM course ORDER BY course_key")
}

func (c *Campus) assignments(ctx context.Context) ([]api.Assignment, error) {
	return bodies[api.Assignment](ctx, c.db, "SELECT body FROM assignment ORDER BY assignment_key")
}

func (c *Campus) assignment(ctx context.Context, key string) (api.Assignment, error) {
	return body[api.Assignment](ctx, c.db, "SELECT body FROM assignment WHERE assignment_key = ?", key)
}

func (c *Campus) course(ctx context.Context, key string) (api.Course, error) {
	return body[api.Course](ctx, c.db, "SELECT body FROM course WHERE course_key = ?", key)
}

// body reads one published body; [sql.ErrNoRows] if there is none.
func body[T any](ctx context.Context, db *sql.DB, query, key string) (one T, err error) {
	list, err := bodies[T](ctx, db, query, key)
	if err != nil {
		return one, err
	}
	if len(list) == 0 {
		return one, sql.ErrNoRows
	}
	return list[0], nil
}
