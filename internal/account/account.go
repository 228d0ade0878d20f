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
)

// Store is what the accounts are kept in.
type Store interface {
	AddStudent(context.Context, query.AddStudentParams) (int64, error)
	StudentByEmail(ctx context.Context, email string) (query.Student, error)
	StudentByID(ctx context.Context, id int64) (query.Student, error)
	DemoStudent(context.Context) (query.Student, error)
	AddSigninFailure(ctx context.Context, who string) error
	CountSigninFailures(context.Context, query.CountSigninFailuresParams) (int64, error)
	ClearSigninFailures(ctx context.Context, who string) error
}

// Service signs students in.
type Service struct {
	Store Store
	Now   func() time.Time
}

// Limits on guessing: within a quarter of an hour, so many failures for one account and from one address.
const (
	guessSpan         = 15 * time.Minute
	guessesPerAccount = 8
	guessesPerAddress = 30
)

// Errors of a sign-in.
var (
	ErrWrong   = errors.New("this address and password do not belong together")
	ErrTooMany = errors.New("there were too many attempts; try again in a quarter of an hour")
)

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
	if len([]rune(password)) < 10 {
		return 0, errors.New("a password has at least 10 characters; choose a longer one")
	}
	if _, err := timing.Zone(wanted.Zone); err != nil {
		return 0, err
	}
	if !strings.Contains(wanted.Email, "@") || wanted.Family == "" || wanted.Given == "" {
		return 0, errors.New("an account needs an e-mail address, a family name and a given name")
	}
	hash, err := argon2id.CreateHash(password, cost)
	if err != nil {
		return 0, err
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

// SignIn checks a password. The address is where the attempt comes from.
func (s Service) SignIn(ctx context.Context, email, password, address string) (Student, error) {
	email = strings.ToLower(strings.TrimSpace(email))
	since := s.Now().UTC().Add(-guessSpan)
	for who, most := range map[string]int64{"account " + email: guessesPerAccount,
		"address " + address: guessesPerAddress} {
		n, err := s.Store.CountSigninFailures(ctx, query.CountSigninFailuresParams{Who: who, At: since})
		if err != nil {
			return Student{}, fmt.Errorf("counting attempts: %w", err)
		}
		if n >= most {
			return Student{}, ErrTooMany
		}
	}
	found, err := s.Store.StudentByEmail(ctx, email)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return Student{}, fmt.Errorf("finding the account: %w", err)
	}
	hash := found.PasswordHash
	if err != nil {
		hash = nobody // as much work as for an account that exists
	}
	if !passwordFits(hash, password) || err != nil {
		for _, who := range []string{"account " + email, "address " + address} {
			if err := s.Store.AddSigninFailure(ctx, who); err != nil {
				return Student{}, fmt.Errorf("noting an attempt: %w", err)
			}
		}
		return Student{}, ErrWrong
	}
	return student(found), s.Store.ClearSigninFailures(ctx, "account "+email)
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

var nobody, _ = argon2id.CreateHash("a password that nobody has", cost)

func passwordFits(encoded, password string) bool {
	fits, err := argon2id.ComparePasswordAndHash(password, encoded)
	return fits && err == nil
}
