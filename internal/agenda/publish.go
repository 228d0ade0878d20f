package agenda

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/csv"
	"strings"

	"orario/core/calendar"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// Link is the secret address of a student's own calendar feed; empty: there is none.
func (s Service) Link(ctx context.Context, student int64) (address string, err error) {
	err = s.Store.Snapshot(ctx, func(q *query.Queries) error {
		who, err := q.StudentByID(ctx, student)
		if who.FeedToken.Valid {
			address = s.PublicURL + "/feed/" + who.FeedToken.String + ".ics"
		}
		return refusal.NotFound(err)
	})
	return address, err
}

// Renew makes a new secret link, or with on false revokes the one there is. The old one stops at once.
func (s Service) Renew(ctx context.Context, student int64, on bool) error {
	token := sql.NullString{}
	if on {
		token = sql.NullString{String: rand.Text(), Valid: true}
	}
	return s.Store.SetFeedToken(ctx, query.SetFeedTokenParams{FeedToken: token, ID: student})
}

// Published is the calendar behind a secret link: send-by and due of what is open, with alarms, and the planned work.
// [refusal.ErrNotFound] where the link is no longer good.
func (s Service) Published(ctx context.Context, token string) (string, error) {
	if token == "" {
		return "", refusal.ErrNotFound
	}
	who, err := s.Store.StudentByFeed(ctx, sql.NullString{String: token, Valid: true})
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
