// Package account knows the students and lets them in.
package account

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"

	"orario/core/timing"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/vault"
)

// Store is what the accounts are kept in.
type Store interface {
	AddStudent(context.Context, query.AddStudentParams) (int64, error)
	StudentByEmail(ctx context.Context, email string) (query.Student, error)
	StudentByID(ctx context.Context, id int64) (query.Student, error)
	DemoStudent(context.Context) (query.Student, error)
	TakeBackGuess(ctx context.Context, who string) error
	ForgetGuesses(ctx context.Context, who string) error
	AddSession(context.Context, query.AddSessionParams) (int64, error)
	SessionByDigest(context.Context, query.SessionByDigestParams) (query.SessionByDigestRow, error)
	SessionLives(context.Context, query.SessionLivesParams) (int64, error)
	Sessions(context.Context, query.SessionsParams) ([]query.SessionsRow, error)
	AddReset(context.Context, query.AddResetParams) error
	ResetAsked(ctx context.Context, id int64) (query.ResetAsked, error)
	RemoveResetAsked(ctx context.Context, id int64) error
	ResetsGoodAfter(context.Context, query.ResetsGoodAfterParams) (int64, error)
	RemoveStudent(ctx context.Context, id int64) error
	InTx(context.Context, func(*query.Queries) error) error
}

// Service signs students in.
type Service struct {
	Store     Store
	Now       func() time.Time
	Vault     vault.Vault // signs what browsers are known by
	Mail      Mail        // nil: there is none
	PublicURL string      // under which students reach the pages
}

// Mail sends letters.
type Mail interface {
	Send(ctx context.Context, to, subject, text string) error
}

// ErrWrong says that a sign-in failed, and not why.
var ErrWrong = errors.New("this address and password do not belong together")

// A Student as others see one.
type Student struct {
	ID                           int64
	Email, Family, Given, Number string
	Zone                         string
}

func student(s query.Student) Student {
	return Student{s.ID, s.Email, s.Family, s.Given, s.Number, s.Zone}
}

// Add makes an account. The password has at least 10 characters; the zone is an IANA name.
func (s Service) Add(ctx context.Context, wanted Student, password string, demo bool) (int64, error) {
	hash, err := hashed(password)
	if err != nil {
		return 0, err
	}
	if _, err := timing.Zone(wanted.Zone); err != nil {
		return 0, err
	}
	if !strings.Contains(wanted.Email, "@") || wanted.Family == "" || wanted.Given == "" {
		return 0, errors.New("an account needs an e-mail address, a family name and a given name")
	}
	id, err := s.Store.AddStudent(ctx, query.AddStudentParams{
		Email:        strings.ToLower(wanted.Email),
		PasswordHash: hash,
		Family:       wanted.Family,
		Given:        wanted.Given,
		Number:       wanted.Number,
		Zone:         wanted.Zone,
		Demo:         demo,
	})
	if err != nil {
		return 0, fmt.Errorf("adding the account %s: %w", wanted.Email, err)
	}
	return id, nil
}

// SignIn checks a password. The address is where the attempt comes from, and known what [Service.Known] gave the
// browser when it signed in before, or empty. An attempt is counted before it is made, so that of any number at once no
// more are tried than may be.
func (s Service) SignIn(ctx context.Context, email, password, address, known string) (Student, error) {
	email = strings.ToLower(strings.TrimSpace(email))
	found, err := s.Store.StudentByEmail(ctx, email)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return Student{}, fmt.Errorf("finding the account: %w", err)
	}
	exists := err == nil
	tried := []counted{
		{guesser("address", address), perAddress},
		{guesser("asker", address+" "+email), perAsker},
		{guesser("account", email), perAccount},
	}
	if browser, ok := s.knows(known, found.ID); ok && exists {
		tried = []counted{tried[0], {browser, perAsker}}
	}
	for _, c := range tried {
		if err := s.reserve(ctx, c.who, c.limit); err != nil {
			return Student{}, err
		}
	}
	hash := found.PasswordHash
	if !exists {
		hash = nobody // as much work as for an account that exists
	}
	fits, busy := passwordFits(ctx, hash, password)
	if busy != nil {
		return Student{}, busy
	}
	if !fits || !exists {
		return Student{}, ErrWrong
	}
	if err := s.Store.TakeBackGuess(ctx, tried[0].who); err != nil {
		return Student{}, fmt.Errorf("counting attempts: %w", err)
	}
	for _, c := range tried[1:] {
		if err := s.Store.ForgetGuesses(ctx, c.who); err != nil {
			return Student{}, fmt.Errorf("counting attempts: %w", err)
		}
	}
	return student(found), nil
}

// counted is whom a guess is counted for, and by which limit.
type counted struct {
	who   string
	limit limit
}

// Demo is the demo's student, if there is one.
func (s Service) Demo(ctx context.Context) (Student, error) {
	found, err := s.Store.DemoStudent(ctx)
	return student(found), err
}

// ByID finds a student.
func (s Service) ByID(ctx context.Context, id int64) (Student, error) {
	found, err := s.Store.StudentByID(ctx, id)
	return student(found), err
}

// cost of a password: 19 MiB and two passes (OWASP's password storage cheat sheet). A hash keeps its own, so that older
// ones stay valid when the cost changes.
var cost = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// hashed is a password as it is stored.
func hashed(password string) (string, error) {
	switch n := len([]rune(password)); {
	case n < leastPassword:
		return "", refusal.Say("A password has at least %d characters. Choose a longer one.", leastPassword)
	case n > mostPassword:
		return "", refusal.Say("A password has at most %d characters. Choose a shorter one.", mostPassword)
	}
	return argon2id.CreateHash(password, cost)
}

// Bounds of a password, in code points.
const (
	leastPassword = 10
	mostPassword  = 1000
)

var nobody, _ = argon2id.CreateHash("a password that nobody has", cost)

// hashing bounds how many passwords are tried at once: each takes the memory of its cost.
var hashing = make(chan struct{}, 4)

func passwordFits(ctx context.Context, encoded, password string) (fits bool, err error) {
	select {
	case hashing <- struct{}{}:
		defer func() { <-hashing }()
	case <-ctx.Done():
		return false, ctx.Err()
	}
	fits, err = argon2id.ComparePasswordAndHash(password, encoded)
	return fits && err == nil, nil
}
