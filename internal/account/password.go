package account

import (
	"context"
	"crypto/rand"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/vault"
)

// Confirm says whether a password is the student's own, before something that can't be undone. Guesses count.
func (s Service) Confirm(ctx context.Context, id int64, password string) error {
	found, err := s.Store.StudentByID(ctx, id)
	if err != nil {
		return refusal.NotFound(err)
	}
	who := guesser("confirm", fmt.Sprint(id))
	if err := s.reserve(ctx, who, perAccount); err != nil {
		return err
	}
	fits, err := passwordFits(ctx, found.PasswordHash, password)
	if err != nil {
		return err
	}
	if !fits {
		return refusal.Say("This is not your password.")
	}
	return s.Store.ForgetGuesses(ctx, who)
}

// ChangePassword sets a new password and ends all other sessions; here is the one that asks.
func (s Service) ChangePassword(ctx context.Context, id, here int64, old, fresh string) error {
	if err := s.Confirm(ctx, id, old); err != nil {
		return err
	}
	return s.SetPassword(ctx, id, here, fresh)
}

// SetPassword sets a password and ends all sessions but one (0: all). Links for a new one are no longer good.
func (s Service) SetPassword(ctx context.Context, id, but int64, password string) error {
	hash, err := hashed(password)
	if err != nil {
		return err
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error { return setPassword(ctx, q, id, but, hash) })
}

func setPassword(ctx context.Context, q *query.Queries, id, but int64, hash string) error {
	err := refusal.Unless(q.SetPassword(ctx, query.SetPasswordParams{PasswordHash: hash, ID: id}))
	if err == nil {
		err = q.RemoveSessionsBut(ctx, query.RemoveSessionsButParams{StudentID: id, But: but})
	}
	if err == nil {
		err = q.RemoveResets(ctx, id)
	}
	return err
}

// Remove removes an account with everything in it, once its password is confirmed.
func (s Service) Remove(ctx context.Context, id int64, password string) error {
	if err := s.Confirm(ctx, id, password); err != nil {
		return err
	}
	return s.Store.RemoveStudent(ctx, id)
}

// resetFor is how long a link for a new password is good.
const resetFor = 30 * time.Minute

// perReset bounds how many letters are asked for.
var perReset = limit{3, time.Hour, nil}

// AskReset mails a link for a new password. Whether there is such an account is not told.
func (s Service) AskReset(ctx context.Context, email, address string) error {
	if s.Mail == nil {
		return refusal.Say("No mail can be sent from here. Ask whoever runs Orario for a new password.")
	}
	email = strings.ToLower(strings.TrimSpace(email))
	for _, who := range []string{guesser("reset", email), guesser("reset from", address)} {
		if err := s.reserve(ctx, who, perReset); err != nil {
			return err
		}
	}
	found, err := s.Store.StudentByEmail(ctx, email)
	if errors.Is(err, sql.ErrNoRows) || found.Demo {
		return nil
	}
	if err != nil {
		return fmt.Errorf("finding the account: %w", err)
	}
	token := rand.Text()
	err = s.Store.AddReset(ctx, query.AddResetParams{
		Digest:    vault.Digest(token),
		StudentID: found.ID,
		ExpiresAt: s.Now().UTC().Add(resetFor),
	})
	if err != nil {
		return err
	}
	text := fmt.Sprintf("Hello %s,\n\nchoose a new password within half an hour here:\n\n%s/reset#%s\n\n"+
		"If you did not ask for this, leave it: your password stays as it is.\n", found.Given, s.PublicURL, token)
	return s.Mail.Send(ctx, found.Email, "A new password for Orario", text)
}

// Reset sets a password by the token of a link, once, and ends all sessions.
func (s Service) Reset(ctx context.Context, token, password string) error {
	hash, err := hashed(password)
	if err != nil {
		return err
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		id, err := q.LockReset(ctx, query.LockResetParams{Digest: vault.Digest(token), Now: s.Now().UTC()})
		if errors.Is(err, sql.ErrNoRows) {
			return refusal.Say("This link is not good any more. Ask for a new one.")
		}
		if err != nil {
			return err
		}
		return setPassword(ctx, q, id, 0, hash)
	})
}
