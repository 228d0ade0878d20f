package account

import (
	"context"
	"crypto/rand"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"orario/core/wording"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/vault"
)

// SessionLife is how long a sign-in lasts: two of a term's weeks without typing a password.
const SessionLife = 14 * 24 * time.Hour

// A Session is one sign-in.
type Session struct {
	ID      int64     `json:"id"`
	Agent   string    `json:"agent"` // what the browser says it is
	BegunAt time.Time `json:"begun_at"`
	Here    bool      `json:"here"` // it is the one that asks
}

// Enter begins a session and gives its token, which is kept nowhere else.
func (s Service) Enter(ctx context.Context, student int64, agent string) (token string, err error) {
	token = rand.Text()
	now := s.Now().UTC()
	_, err = s.Store.AddSession(ctx, query.AddSessionParams{
		Digest:    vault.Digest(token),
		StudentID: student,
		Agent:     wording.Clip(agent, 300),
		BegunAt:   now,
		ExpiresAt: now.Add(SessionLife),
	})
	if err != nil {
		return "", fmt.Errorf("beginning a session: %w", err)
	}
	return token, nil
}

// Session finds who a token belongs to; zeros where it is no longer good.
func (s Service) Session(ctx context.Context, token string) (id, student int64, err error) {
	row, err := s.Store.SessionByDigest(
		ctx,
		query.SessionByDigestParams{Digest: vault.Digest(token), Now: s.Now().UTC()},
	)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, 0, nil
	}
	return row.ID, row.StudentID, err
}

// Lives says whether a session has not been ended.
func (s Service) Lives(ctx context.Context, session int64) (bool, error) {
	n, err := s.Store.SessionLives(ctx, query.SessionLivesParams{ID: session, Now: s.Now().UTC()})
	return n > 0, err
}

// Sessions lists where a student is signed in, the newest first; here is the session that asks.
func (s Service) Sessions(ctx context.Context, student, here int64) ([]Session, error) {
	rows, err := s.Store.Sessions(ctx, query.SessionsParams{StudentID: student, Now: s.Now().UTC()})
	list := []Session{}
	for _, r := range rows {
		list = append(list, Session{r.ID, r.Agent, r.BegunAt, r.ID == here})
	}
	return list, err
}

// End ends a session of a student.
func (s Service) End(ctx context.Context, student, session int64) error {
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		of := query.RemoveSessionParams{ID: session, StudentID: student}
		if err := refusal.Unless(q.RemoveSession(ctx, of)); err != nil {
			return err
		}
		return q.EndPassesOf(ctx, student)
	})
}
