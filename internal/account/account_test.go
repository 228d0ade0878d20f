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
	"orario/internal/vault"
)

func keys(t *testing.T) vault.Vault {
	v, err := vault.New(make([]byte, 32))
	require.NoError(t, err)
	return v
}

func TestSigningInAndTheLimitsOnGuessing(t *testing.T) {
	db := mariadbtest.Orario(t)
	ctx := context.Background()
	now := time.Now()
	s := account.Service{Store: db, Now: func() time.Time { return now }, Vault: keys(t)}
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

	in, err := s.SignIn(ctx, " nerea@ALVARIM.example", "tide-table-1931", "10.0.0.1", "")
	require.NoError(t, err)
	assert.Equal(t, id, in.ID)
	_, err = s.SignIn(ctx, "nobody@alvarim.example", "tide-table-1931", "10.0.0.2", "")
	assert.ErrorIs(t, err, account.ErrWrong)

	for range 5 {
		_, err = s.SignIn(ctx, who.Email, "guess", "10.0.0.3", "")
		assert.ErrorIs(t, err, account.ErrWrong)
	}
	var wait account.Wait
	for over, seconds := range []int{1, 2, 4, 8, 16, 32, 64, 128, 256, 300, 300} {
		_, err = s.SignIn(ctx, who.Email, "tide-table-1931", "10.0.0.4", "")
		require.ErrorAs(t, err, &wait, "the right password too, from anywhere")
		assert.Equal(t, seconds, wait.Seconds(), "after %d more", over)
		now = now.Add(wait.For)
		_, err = s.SignIn(ctx, who.Email, "guess", fmt.Sprint("10.0.1.", over), "")
		assert.ErrorIs(t, err, account.ErrWrong, "when it has waited")
	}
	known := s.Known(id)
	for forged, why := range map[string]string{
		"": "none", "1 X~00": "forged", s.Known(id + 1): "another's", known + "0": "changed",
	} {
		_, err = s.SignIn(ctx, who.Email, "tide-table-1931", "10.0.0.4", forged)
		assert.ErrorAs(t, err, &wait, why)
	}
	_, err = s.SignIn(ctx, who.Email, "tide-table-1931", "10.0.0.4", known)
	assert.NoError(t, err, "nobody's guesses keep the owner out of a browser that is known")
	for range 5 {
		_, err = s.SignIn(ctx, who.Email, "guess", "10.0.0.3", known)
		assert.ErrorIs(t, err, account.ErrWrong)
	}
	_, err = s.SignIn(ctx, who.Email, "guess", "10.0.0.3", known)
	assert.ErrorAs(t, err, &wait, "whoever has the browser may not guess for ever")
	now = now.Add(5 * time.Minute)
	_, err = s.SignIn(ctx, who.Email, "tide-table-1931", "10.0.0.4", "")
	assert.NoError(t, err)

	for range 30 {
		_, _ = s.SignIn(ctx, "x@alvarim.example", "guess", "10.0.0.9", "")
		_, err = db.SQL.Exec("DELETE FROM guess WHERE who = 'account x@alvarim.example'")
		require.NoError(t, err)
	}
	_, err = s.SignIn(ctx, "y@alvarim.example", "guess", "10.0.0.9", "")
	assert.ErrorIs(t, err, account.ErrTooMany, "one address trying many accounts")
}

// Of eighty guesses at once no more are tried than may be, whatever order they come in.
func TestGuessesAtOnceAreCountedBeforeTheyAreMade(t *testing.T) {
	db := mariadbtest.Orario(t)
	now := time.Now()
	s := account.Service{Store: db, Now: func() time.Time { return now }} // however long they take
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
			_, err := s.SignIn(ctx, "a@alvarim.example", "guess", fmt.Sprintf("10.0.0.%d", n), "")
			switch {
			case errors.Is(err, account.ErrWrong):
				wrong.Add(1)
			case errors.As(err, &account.Wait{}):
				many.Add(1)
			}
		})
	}
	all.Wait()
	assert.Equal(t, []int64{5, 75}, []int64{wrong.Load(), many.Load()})
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
		_, err = s.SignIn(ctx, "a@alvarim.example", "tide-table-1931", "10.0.0.1", "")
		require.NoError(t, err)
	}
	_, err = s.SignIn(ctx, strings.Repeat("a", 5000)+"@alvarim.example", "guess", strings.Repeat("9", 5000), "")
	assert.ErrorIs(t, err, account.ErrWrong, "too long for the column")
}

// letters takes what is mailed.
type letters []string

func (l *letters) Send(_ context.Context, to, _, text string) error {
	*l = append(*l, to+"\n"+text)
	return nil
}

func TestSessionsAndPasswords(t *testing.T) {
	db := mariadbtest.Orario(t)
	ctx := context.Background()
	now := time.Now()
	var post letters
	s := account.Service{
		Store: db, Now: func() time.Time { return now }, Vault: keys(t), Mail: &post, PublicURL: "https://o.example",
	}
	id, err := s.Add(
		ctx,
		account.Student{Email: "a@alvarim.example", Family: "A", Given: "Bia", Zone: "UTC"},
		"tide-table-1931",
		false,
	)
	require.NoError(t, err)
	enter := func(agent string) (token string, session int64) {
		token, err := s.Enter(ctx, id, agent)
		require.NoError(t, err)
		session, student, err := s.Session(ctx, token)
		require.NoError(t, err)
		assert.Equal(t, id, student)
		return token, session
	}
	alive := func(token string) bool {
		session, _, err := s.Session(ctx, token)
		require.NoError(t, err)
		return session != 0
	}
	laptop, here := enter("laptop")
	phone, there := enter("phone")
	var kept string
	require.NoError(t, db.SQL.QueryRow("SELECT GROUP_CONCAT(digest) FROM session").Scan(&kept))
	assert.NotContains(t, kept, laptop, "whoever reads the table can enter nowhere")
	list, err := s.Sessions(ctx, id, here)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.ElementsMatch(t, []string{"laptop true", "phone false"},
		[]string{fmt.Sprint(list[0].Agent, " ", list[0].Here), fmt.Sprint(list[1].Agent, " ", list[1].Here)})
	require.Error(t, s.End(ctx, id+1, there), "another student ends nothing of hers")
	require.NoError(t, s.End(ctx, id, there))
	assert.False(t, alive(phone))
	require.Error(t, s.End(ctx, id, there), "twice")

	phone, _ = enter("phone")
	require.ErrorContains(t, s.ChangePassword(ctx, id, here, "wrong", "a-new-password"), "not your password")
	require.ErrorContains(t, s.ChangePassword(ctx, id, here, "tide-table-1931", "short"), "10 characters")
	assert.True(t, alive(phone))
	require.NoError(t, s.ChangePassword(ctx, id, here, "tide-table-1931", "a-new-password"))
	assert.True(t, alive(laptop), "the one that asked")
	assert.False(t, alive(phone))
	_, err = s.SignIn(ctx, "a@alvarim.example", "a-new-password", "10.0.0.1", "")
	require.NoError(t, err)

	require.NoError(t, s.AskReset(ctx, "nobody@alvarim.example", "10.0.0.1"), "it is not told who has an account")
	assert.Empty(t, post)
	require.NoError(t, s.AskReset(ctx, " A@alvarim.example", "10.0.0.1"))
	require.Len(t, post, 1)
	_, after, _ := strings.Cut(post[0], "https://o.example/reset#")
	token, _, _ := strings.Cut(after, "\n")
	require.ErrorContains(t, s.Reset(ctx, "guess", "another-password"), "not good any more")
	require.ErrorContains(t, s.Reset(ctx, token, "short"), "10 characters", "the link stays good")
	require.NoError(t, s.Reset(ctx, token, "another-password"))
	assert.False(t, alive(laptop))
	require.ErrorContains(t, s.Reset(ctx, token, "a-third-password"), "not good any more", "once")
	require.NoError(t, s.AskReset(ctx, "a@alvarim.example", "10.0.0.2"))
	require.NoError(t, s.AskReset(ctx, "a@alvarim.example", "10.0.0.3"))
	require.ErrorIs(t, s.AskReset(ctx, "a@alvarim.example", "10.0.0.4"), account.ErrTooMany)
	_, after, _ = strings.Cut(post[2], "/reset#")
	token, _, _ = strings.Cut(after, "\n")
	laptop, _ = enter("laptop")
	now = now.Add(31 * time.Minute)
	require.ErrorContains(t, s.Reset(ctx, token, "a-third-password"), "not good any more", "half an hour later")
	now = now.Add(account.SessionLife)
	assert.False(t, alive(laptop), "two weeks later")
	s.Mail = nil
	require.ErrorContains(t, s.AskReset(ctx, "a@alvarim.example", "10.0.0.9"), "No mail can be sent")
}
