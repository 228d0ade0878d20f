package agenda

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/csv"
	"fmt"
	"strings"
	"time"

	"orario/core/agenda"
	"orario/core/calendar"
	"orario/core/wording"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// Link is the secret end of a student's own calendar feed; empty: there is none.
func (s Service) Link(ctx context.Context, student int64) (token string, err error) {
	err = s.Store.Snapshot(ctx, func(q *query.Queries) error {
		who, err := q.StudentByID(ctx, student)
		token = who.FeedToken.String
		return refusal.NotFound(err)
	})
	return token, err
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
func (s Service) Published(ctx context.Context, token, base string) (string, error) {
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
	var entries []calendar.Entry
	for _, e := range r.Plan().Entries {
		if !e.Hidden() && (e.Ahead() || e.SentAt != nil) {
			entries = append(entries, published(e, base, r.Now)...)
		}
	}
	return calendar.Write("Orario, "+who.Given+" "+who.Family, entries), nil
}

// published is what goes out of one assignment.
func published(e *agenda.Entry, base string, now time.Time) (entries []calendar.Entry) {
	name, due := e.Course.Code+" "+e.Titled(), e.Window.Due.At()
	entry := func(what, title string, at time.Time, alarm time.Duration) calendar.Entry {
		return calendar.Entry{
			UID:     fmt.Sprintf("%s-%d@orario", what, e.ID),
			Title:   title,
			Course:  e.Course.Code,
			Link:    fmt.Sprintf("%s/desk/%d", base, e.ID),
			Start:   at,
			Alarm:   alarm,
			Changed: now,
		}
	}
	if e.Ahead() {
		by := entry("send-by", "Send "+name, e.SendBy, 2*time.Hour)
		by.Text = "Send by this time and nothing depends on luck. Due " + e.Local(due) + "."
		entries = append(entries, by, entry("due", name+" is due", due, time.Hour))
	} else {
		entries = append(entries, entry("due", name+" was due; sent", due, 0))
	}
	for n, b := range e.Blocks {
		work := entry(fmt.Sprintf("work-%d", n), name, b.Start, 0)
		work.End, work.Busy = b.End, true
		entries = append(entries, work)
	}
	return entries
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
	rows := [][]string{
		{
			"title",
			"course",
			"due",
			"opens",
			"closes",
			"points",
			"zone",
			"weight",
			"send by",
			"state",
			"outcome",
			"planned minutes",
			"done minutes",
		},
	}
	wall := func(e *agenda.Entry, at *time.Time) string {
		if at == nil {
			return ""
		}
		return at.In(e.Window.Zone).Format(wording.WallForm)
	}
	for _, e := range r.Plan().Entries {
		due := e.Window.Due.At()
		rows = append(rows, []string{
			inert(e.Title),
			inert(e.Course.Code),
			wall(e, &due),
			wall(e, instant(e.Window.Opens)),
			wall(e, instant(e.Window.Closes)),
			fmt.Sprint(e.Points),
			e.Course.Zone.String(),
			fmt.Sprint(e.Weight),
			wall(e, &e.SendBy),
			string(e.State),
			inert(e.Outcome()),
			fmt.Sprint(e.Minutes),
			fmt.Sprint(e.Done),
		})
	}
	err = w.WriteAll(rows)
	return out.String(), err
}

// inert keeps a spreadsheet from taking a text for a formula.
func inert(text string) string {
	if text != "" && strings.ContainsRune("=+-@\t", rune(text[0])) {
		return "'" + text
	}
	return text
}
