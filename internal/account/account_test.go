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
	"orario/internal/mariadb"
	"orario/internal/mariadb/mariadbtest"
	"orario/internal/mariadb/query"
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

	guess := func(address, known string) error {
		_, err := s.SignIn(ctx, who.Email, "guess", address, known)
		return err
	}
	for range 5 {
		assert.ErrorIs(t, guess("10.0.0.3", ""), account.ErrWrong)
	}
	var wait account.Wait
	for over, seconds := range []int{1, 2, 4, 8, 16, 32, 64, 128, 256, 300, 300} {
		_, err = s.SignIn(ctx, who.Email, "tide-table-1931", "10.0.0.3", "")
		require.ErrorAs(t, err, &wait, "the right password too")
		assert.Equal(t, seconds, wait.Seconds(), "after %d more", over)
		now = now.Add(wait.For - time.Millisecond)
		require.ErrorAs(t, guess("10.0.0.3", ""), &wait, "the time told is the time")
		now = now.Add(time.Millisecond)
		assert.ErrorIs(t, guess("10.0.0.3", ""), account.ErrWrong, "when it has waited")
	}
	_, err = s.SignIn(ctx, who.Email, "tide-table-1931", "10.0.0.4", "")
	require.NoError(t, err, "nobody's guesses elsewhere keep the owner out of a new browser")

	known := s.Known(id)
	for range 5 {
		assert.ErrorIs(t, guess("10.0.0.3", known), account.ErrWrong)
	}
	assert.ErrorAs(t, guess("10.0.0.3", known), &wait, "whoever has the browser may not guess for ever")
	for forged, why := range map[string]string{
		"": "none", "1 X~00": "forged", s.Known(id + 1): "another's", known + "0": "changed",
	} {
		assert.ErrorAs(t, guess("10.0.0.3", forged), &wait, why)
	}
	_, err = s.SignIn(ctx, who.Email, "tide-table-1931", "10.0.0.3", s.Known(id))
	assert.NoError(t, err, "out of another browser that is known, at the guesser's own address")
}

// One address may fail at many accounts only so often, and all addresses together at one.
func TestGuessesFromOneAddressAndAtOneAccount(t *testing.T) {
	db := mariadbtest.Orario(t)
	ctx := context.Background()
	now := time.Now()
	s := account.Service{Store: db, Now: func() time.Time { return now }, Vault: keys(t)}
	var wait account.Wait
	count := func(who string, n int) {
		_, err := db.SQL.Exec("REPLACE INTO guess (who, n, since, last) VALUES (?, ?, ?, ?)", who, n, now.UTC(), now.UTC())
		require.NoError(t, err)
	}
	for n, refused := range map[int]bool{99: false, 100: true} {
		count("address 10.0.0.9", n)
		_, err := s.SignIn(ctx, fmt.Sprint("y", n, "@alvarim.example"), "guess", "10.0.0.9", "")
		assert.Equal(t, refused, errors.As(err, &wait), "%d", n)
	}
	assert.Equal(t, 15*60, wait.Seconds(), "until the first of them is forgotten")
	for n, refused := range map[int]bool{399: false, 400: true} {
		count("account z@alvarim.example", n)
		_, err := s.SignIn(ctx, "z@alvarim.example", "guess", fmt.Sprint("10.0.1.", n-300), "")
		assert.Equal(t, refused, errors.As(err, &wait), "%d", n)
	}
	// From one address alone no more guesses are possible in a day than all have together.
	alone, day := 5, 24*time.Hour
	for over := int64(0); day > 0; over++ {
		alone++
		day -= min(time.Second<<min(over, 20), 5*time.Minute)
	}
	assert.Less(t, alone, 400)
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
	for range 80 {
		all.Go(func() {
			_, err := s.SignIn(ctx, "a@alvarim.example", "guess", "10.0.0.1", "")
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

	link := func() string {
		_, after, _ := strings.Cut(post[len(post)-1], "https://o.example/reset#")
		token, _, _ := strings.Cut(after, "\n")
		return token
	}
	ask := func(email, address string) {
		require.NoError(t, s.AskReset(ctx, email, address))
		jobs(t, db, s)
	}
	ask("nobody@alvarim.example", "10.0.0.1")
	assert.Empty(t, post)
	ask(" A@alvarim.example", "10.0.0.1")
	require.Len(t, post, 1)
	token := link()
	reset := func(token, password string) error {
		student, err := s.Reset(ctx, token, password)
		if err == nil {
			assert.Equal(t, id, student)
		}
		return err
	}
	require.ErrorContains(t, reset("guess", "another-password"), "not good any more")
	require.ErrorContains(t, reset(token, "short"), "10 characters", "the link stays good")
	require.NoError(t, reset(token, "another-password"))
	assert.False(t, alive(laptop))
	require.ErrorContains(t, reset(token, "a-third-password"), "not good any more", "once")

	// Somebody asks without pause: whoever reads the mail has a link that is good all the same, and few letters.
	refused := 0
	for minute := range 100 {
		for range 1 + 39*(minute%25/24) {
			err := s.AskReset(ctx, "a@alvarim.example", "10.0.0.2")
			var wait account.Wait
			if errors.As(err, &wait) {
				refused++
				assert.LessOrEqual(t, wait.For, 20*time.Minute)
			} else {
				require.NoError(t, err)
			}
		}
		jobs(t, db, s)
		soon := query.ResetsGoodAfterParams{StudentID: id, ExpiresAt: now.UTC().Add(9 * time.Minute)}
		good, err := db.ResetsGoodAfter(ctx, soon)
		require.NoError(t, err)
		assert.Positive(t, good, "minute %d", minute)
		now = now.Add(time.Minute)
	}
	assert.Positive(t, refused)
	assert.LessOrEqual(t, len(post), 1+6)
	ask("a@alvarim.example", "10.0.0.77")
	token = link()
	laptop, _ = enter("laptop")
	now = now.Add(31 * time.Minute)
	require.ErrorContains(t, reset(token, "a-third-password"), "not good any more", "half an hour later")
	now = now.Add(account.SessionLife)
	assert.False(t, alive(laptop), "two weeks later")
	s.Mail = nil
	require.ErrorContains(t, s.AskReset(ctx, "a@alvarim.example", "10.0.0.9"), "No mail can be sent")
}

// jobs does what was asked for by mail.
func jobs(t *testing.T, db *mariadb.DB, s account.Service) {
	list, err := db.JobsOf(context.Background(), 0)
	require.NoError(t, err)
	for _, j := range list {
		if _, err := s.MailReset(context.Background(), j); err == nil {
			_, err = db.SQL.Exec("DELETE FROM job WHERE id = ?", j.ID)
			require.NoError(t, err)
		}
	}
}

// away takes no mail.
type away struct{}

func (away) Send(context.Context, string, string, string) error {
	return errors.New("connection refused")
}

func TestWhileMailIsAwayNothingTellsWhoHasAnAccount(t *testing.T) {
	db := mariadbtest.Orario(t)
	ctx := context.Background()
	now := time.Now()
	var post letters
	s := account.Service{Store: db, Now: func() time.Time { return now }, Vault: keys(t), Mail: away{}}
	_, err := s.Add(ctx, account.Student{Email: "a@alvarim.example", Family: "A", Given: "Bia", Zone: "UTC"}, "tide-table-1931", false)
	require.NoError(t, err)
	for _, email := range []string{"a@alvarim.example", "nobody@alvarim.example", "", strings.Repeat("x", 5000)} {
		require.NoError(t, s.AskReset(ctx, email, "10.0.0.1"), email)
	}
	list, err := db.JobsOf(ctx, 0)
	require.NoError(t, err)
	assert.Len(t, list, 4, "for each the same is done")
	jobs(t, db, s)
	list, err = db.JobsOf(ctx, 0)
	require.NoError(t, err)
	require.Len(t, list, 1, "what could not be mailed is tried again")
	s.Mail = &post
	jobs(t, db, s)
	assert.Len(t, post, 1)

	require.NoError(t, s.AskReset(ctx, "a@alvarim.example", "10.0.0.1"))
	now = now.Add(31 * time.Minute)
	jobs(t, db, s)
	assert.Len(t, post, 1, "not when its link would be good no more")
}
