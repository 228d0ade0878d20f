package account

import (
	"context"
	"crypto/rand"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"orario/core/wording"
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
	if err := s.reserve(ctx, who, perAsker); err != nil {
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
		err = q.EndPassesOf(ctx, id)
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

// How long a link for a new password is good, and how long no further one is mailed after it: so whoever can read the
// account's mail always has one that is good for ten minutes at least, however often others ask.
const (
	resetFor   = 30 * time.Minute
	resetEvery = 20 * time.Minute
)

// perWish bounds how many links one address may ask for, be it for whom it may. Many people share one; when it has to
// wait, the link that was mailed last is good until it may ask again.
var perWish = limit{30, resetEvery, nil}

// ResetJob is the kind of the job that mails a link.
const ResetJob = "reset"

// AskReset has a link for a new password mailed. Whether there is such an account is told by nothing: the same is done
// for every address, and a job looks for it.
func (s Service) AskReset(ctx context.Context, email, address string) error {
	if s.Mail == nil {
		return refusal.Say("No mail can be sent from here. Ask whoever runs Orario for a new password.")
	}
	if err := s.reserve(ctx, guesser("reset from", address), perWish); err != nil {
		return err
	}
	email = strings.ToLower(strings.TrimSpace(email))
	now := s.Now().UTC()
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		id, err := q.AskReset(ctx, query.AskResetParams{Email: wording.Clip(email, 200), AskedAt: now})
		if err != nil {
			return fmt.Errorf("asking for a link: %w", err)
		}
		return q.AddJob(ctx, query.AddJobParams{Kind: ResetJob, Subject: id, RunAt: now})
	})
}

// MailReset is the handler of [ResetJob]. While no mail goes out it is tried again, for as long as a link would be
// good.
func (s Service) MailReset(ctx context.Context, job query.Job) (time.Duration, error) {
	asked, err := s.Store.ResetAsked(ctx, job.Subject)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, nil
	}
	if err != nil {
		return 0, fmt.Errorf("finding who asked: %w", err)
	}
	if s.Now().Sub(asked.AskedAt) < resetFor {
		if err := s.mailReset(ctx, asked.Email); err != nil {
			return 0, err
		}
	}
	return 0, s.Store.RemoveResetAsked(ctx, asked.ID)
}

func (s Service) mailReset(ctx context.Context, email string) error {
	found, err := s.Store.StudentByEmail(ctx, email)
	if errors.Is(err, sql.ErrNoRows) || found.Demo {
		return nil
	}
	if err != nil {
		return fmt.Errorf("finding the account: %w", err)
	}
	now := s.Now().UTC()
	fresh, err := s.Store.ResetsGoodAfter(ctx, query.ResetsGoodAfterParams{
		StudentID: found.ID, ExpiresAt: now.Add(resetFor - resetEvery),
	})
	if err != nil || fresh > 0 {
		return err
	}
	token := rand.Text()
	text := fmt.Sprintf("Hello %s,\n\nchoose a new password within half an hour here:\n\n%s/reset#%s\n\n"+
		"If you did not ask for this, leave it: your password stays as it is.\n", found.Given, s.PublicURL, token)
	if err := s.Mail.Send(ctx, found.Email, "A new password for Orario", text); err != nil {
		return err
	}
	return s.Store.AddReset(ctx, query.AddResetParams{
		Digest: vault.Digest(token), StudentID: found.ID, ExpiresAt: now.Add(resetFor),
	})
}

// Reset sets a password by the token of a link, once, and ends all sessions. It gives whose it is, by which the browser
// is known from then on, so that nobody's guesses keep it out.
func (s Service) Reset(ctx context.Context, token, password string) (student int64, err error) {
	hash, err := hashed(password)
	if err != nil {
		return 0, err
	}
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		student, err = q.LockReset(ctx, query.LockResetParams{Digest: vault.Digest(token), Now: s.Now().UTC()})
		if errors.Is(err, sql.ErrNoRows) {
			return refusal.Say("This link is not good any more. Ask for a new one.")
		}
		if err != nil {
			return err
		}
		return setPassword(ctx, q, student, 0, hash)
	})
	return student, err
}
