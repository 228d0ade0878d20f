package schedule

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/csv"
	"strings"

	"orario/core/calendar"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/vault"
)

// Linked says whether a student has a secret link to a calendar feed of her own.
func (s Service) Linked(ctx context.Context, student int64) (on bool, err error) {
	err = s.Store.Snapshot(ctx, func(q *query.Queries) error {
		who, err := q.StudentByID(ctx, student)
		on = who.FeedDigest.Valid
		return refusal.NotFound(err)
	})
	return on, err
}

// Renew makes a new secret link and gives its address, this once: only its digest is kept. The old one stops at once.
func (s Service) Renew(ctx context.Context, student int64) (address string, err error) {
	token := rand.Text()
	digest := sql.NullString{String: vault.Digest(token), Valid: true}
	err = s.Store.SetFeedDigest(ctx, query.SetFeedDigestParams{FeedDigest: digest, ID: student})
	return s.PublicURL + "/feed/" + token + ".ics", err
}

// Revoke ends the secret link.
func (s Service) Revoke(ctx context.Context, student int64) error {
	return s.Store.SetFeedDigest(ctx, query.SetFeedDigestParams{ID: student})
}

// Published is the calendar behind a secret link: send-by and due of what is open, with alarms, and the planned work.
// [refusal.ErrNotFound] where the link is no longer good.
func (s Service) Published(ctx context.Context, token string) (string, error) {
	if token == "" {
		return "", refusal.ErrNotFound
	}
	who, err := s.Store.StudentByFeed(ctx, sql.NullString{String: vault.Digest(token), Valid: true})
	if err != nil {
		return "", refusal.NotFound(err)
	}
	r, err := s.roster(ctx, who.ID)
	if err != nil {
		return "", err
	}
	return calendar.Write("Orario, "+who.Given+" "+who.Family, r.Plan().Calendar(s.PublicURL)), nil
}

// Table is every assignment as CSV (RFC 4180), with the columns that an import understands first.
func (s Service) Table(ctx context.Context, student int64) (string, error) {
	r, err := s.roster(ctx, student)
	if err != nil {
		return "", err
	}
	var out strings.Builder
	w := csv.NewWriter(&out)
	w.UseCRLF = true
	err = w.WriteAll(r.Plan().Table())
	return out.String(), err
}
