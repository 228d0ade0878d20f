package account_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/internal/account"
	"orario/internal/mariadb/mariadbtest"
)

func TestSigningInAndTheLimitsOnGuessing(t *testing.T) {
	db := mariadbtest.Orario(t)
	ctx := context.Background()
	now := time.Now()
	s := account.Service{Store: db, Now: func() time.Time { return now }}
	who := account.Student{
		Email:  "Nerea@alvarim.example",
		Family: "Quintal",
		Given:  "Nerea",
		Number: "20418",
		Zone:   "Europe/Lisbon",
	}
	_, err := s.Add(ctx, who, "short", false)
	assert.ErrorContains(t, err, "10 characters")
	id, err := s.Add(ctx, who, "tide-table-1931", false)
	require.NoError(t, err)
	var hash string
	require.NoError(t, db.SQL.QueryRow("SELECT password_hash FROM student").Scan(&hash))
	assert.True(t, strings.HasPrefix(hash, "$argon2id$v=19$m=19456,t=2,p=1$"), hash)

	in, err := s.SignIn(ctx, " nerea@ALVARIM.example", "tide-table-1931", "10.0.0.1")
	require.NoError(t, err)
	assert.Equal(t, id, in.ID)
	_, err = s.SignIn(ctx, "nobody@alvarim.example", "tide-table-1931", "10.0.0.2")
	assert.ErrorIs(t, err, account.ErrWrong)

	for range 8 {
		_, err = s.SignIn(ctx, who.Email, "guess", "10.0.0.3")
		assert.ErrorIs(t, err, account.ErrWrong)
	}
	_, err = s.SignIn(ctx, who.Email, "tide-table-1931", "10.0.0.4")
	assert.ErrorIs(t, err, account.ErrTooMany, "the right password too, from anywhere")
	now = now.Add(16 * time.Minute)
	_, err = s.SignIn(ctx, who.Email, "tide-table-1931", "10.0.0.4")
	assert.NoError(t, err, "a quarter of an hour later")

	for range 30 {
		_, _ = s.SignIn(ctx, "x@alvarim.example", "guess", "10.0.0.9")
		_, err = db.SQL.Exec("DELETE FROM guess WHERE who = 'account x@alvarim.example'")
		require.NoError(t, err)
	}
	now = time.Now()
	_, err = s.SignIn(ctx, "y@alvarim.example", "guess", "10.0.0.9")
	assert.ErrorIs(t, err, account.ErrTooMany, "one address trying many accounts")
}

// Of eighty guesses at once no more are tried than may be, whatever order they come in.
func TestGuessesAtOnceAreCountedBeforeTheyAreMade(t *testing.T) {
	db := mariadbtest.Orario(t)
	s := account.Service{Store: db, Now: time.Now}
	ctx := context.Background()
	_, err := s.Add(
		ctx,
		account.Student{Email: "a@alvarim.example", Family: "A", Given: "B", Zone: "UTC"},
		"tide-table-1931",
		false,
	)
	require.NoError(t, err)
	var wrong, many atomic.Int64
	var all sync.WaitGroup
	for n := range 80 {
		all.Go(func() {
			_, err := s.SignIn(ctx, "a@alvarim.example", "guess", fmt.Sprintf("10.0.0.%d", n))
			switch {
			case errors.Is(err, account.ErrWrong):
				wrong.Add(1)
			case errors.Is(err, account.ErrTooMany):
				many.Add(1)
			}
		})
	}
	all.Wait()
	assert.Equal(t, []int64{8, 72}, []int64{wrong.Load(), many.Load()})
}

func TestSigningInOftenIsNoGuessing(t *testing.T) {
	db := mariadbtest.Orario(t)
	s := account.Service{Store: db, Now: time.Now}
	ctx := context.Background()
	_, err := s.Add(
		ctx,
		account.Student{Email: "a@alvarim.example", Family: "A", Given: "B", Zone: "UTC"},
		"tide-table-1931",
		false,
	)
	require.NoError(t, err)
	for range 40 {
		_, err = s.SignIn(ctx, "a@alvarim.example", "tide-table-1931", "10.0.0.1")
		require.NoError(t, err)
	}
	_, err = s.SignIn(ctx, strings.Repeat("a", 5000)+"@alvarim.example", "guess", strings.Repeat("9", 5000))
	assert.ErrorIs(t, err, account.ErrWrong, "too long for the column")
}
