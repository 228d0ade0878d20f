package account

import (
	"context"
	"crypto/rand"
	"fmt"
	"strings"
	"time"

	"orario/core/wording"
	"orario/internal/mariadb/query"
	"orario/internal/vault"
)

// A limit is how often may be guessed.
type limit struct {
	free  int64                          // so many failures cost nothing
	span  time.Duration                  // after which failures are forgotten
	delay func(over int64) time.Duration // before the next, after so many more; nil: none until the span is over
}

// An account is never locked, since then anybody could lock its owner out: who guesses at it from one address has to
// wait longer after each failure, and that address alone. All addresses together have so many guesses that one alone,
// however long it goes on, does not use them up; and who can read her mail always gets in by it. An address is shared
// by many people; it is held to a number of failures at any accounts.
var (
	perAsker   = limit{5, 24 * time.Hour, growing}
	perAccount = limit{400, 24 * time.Hour, growing}
	perAddress = limit{100, 15 * time.Minute, nil}
)

func growing(over int64) time.Duration { return min(time.Second<<min(over, 20), 5*time.Minute) }

// A Wait is the refusal of a guess, or of a wish for a link, that comes too soon.
type Wait struct{ For time.Duration }

func (w Wait) Error() string {
	return fmt.Sprintf("there were too many tries; wait %s, then try again", w.Span())
}

// Span is how long to wait in words, never less than it is.
func (w Wait) Span() string {
	if w.Seconds() < 120 {
		return fmt.Sprintf("%d s", w.Seconds())
	}
	return wording.Span(w.For + time.Minute/2)
}

// Seconds is how long to wait, at least 1.
func (w Wait) Seconds() int { return max(1, int((w.For+time.Second-1)/time.Second)) }

// count is a guess more, or why it may not be made now. A refused one does not count.
func (l limit) count(g query.Guess, now time.Time) (query.Guess, error) {
	if now.Sub(g.Since) >= l.span {
		g.N, g.Since = 0, now
	}
	if over := int64(g.N) - l.free; over >= 0 {
		if l.delay == nil {
			return g, Wait{g.Since.Add(l.span).Sub(now)}
		}
		if left := g.Last.Add(l.delay(over)).Sub(now); left > 0 {
			return g, Wait{left}
		}
	}
	g.N, g.Last = g.N+1, now
	return g, nil
}

// reserve counts a guess before it is made.
func (s Service) reserve(ctx context.Context, who string, l limit) error {
	now := s.Now().UTC()
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		if err := q.OpenGuess(ctx, query.OpenGuessParams{Who: who, Now: now}); err != nil {
			return fmt.Errorf("counting attempts: %w", err)
		}
		g, err := q.GuessOf(ctx, who)
		if err != nil {
			return fmt.Errorf("counting attempts: %w", err)
		}
		if g, err = l.count(g, now); err != nil {
			return err
		}
		return q.SetGuess(ctx, query.SetGuessParams{N: g.N, Since: g.Since, Last: g.Last, Who: who})
	})
}

// guesser is who a guess is counted for. What is too long for its column is told by its digest.
func guesser(kind, who string) string {
	if len(who) > 200 {
		who = vault.Digest(who)
	}
	return kind + " " + who
}

// Known is what a browser is given to be known by when it has signed somebody in.
func (s Service) Known(student int64) string {
	return s.Vault.Sign(fmt.Sprintf("%d.%s", student, rand.Text()))
}

// knows says whether a browser has signed this student in before; its guesses are then counted for themselves, so that
// nobody else's keep the owner out.
func (s Service) knows(known string, student int64) (who string, ok bool) {
	text, ok := s.Vault.Signed(known)
	return guesser("browser", text), ok && strings.HasPrefix(text, fmt.Sprintf("%d.", student))
}
