package submit

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"orario/core/coursework"
	"orario/core/receipt"
	"orario/core/wording"
	"orario/internal/announce"
	"orario/internal/courier"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// A receipt that proves nothing is asked for again: a site may correct it, its key may become known, or its clock be
// seen to be ahead. That is soon where it came just now, and then ever more rarely.
const (
	proveSoon   = 2 * time.Minute
	proveSeldom = 6 * time.Hour
)

// proveAgain is how long to wait until a receipt is asked for again.
func (s Service) proveAgain(d *delivery) time.Duration {
	return min(max(s.Now().Sub(d.sub.StartedAt), proveSoon), proveSeldom)
}

// prove compares a receipt with what was sent: with the student as the institution knows her, and with the key that
// the receipt names, if the site has shown it. Clocks are moved, the site's and ours: where the receipt's time does
// not fit, it is held against the time that the site said to have before the last step of sending, and has now.
func (s Service) prove(ctx context.Context, d *delivery, r receipt.Receipt) (receipt.Proof, error) {
	ahead := time.Duration(d.way.Enrolment.ClockOffsetMs) * time.Millisecond
	proof, err := s.compared(ctx, d, r, ahead, ahead)
	if err != nil || proof.Agrees {
		return proof, err
	}
	said, err := d.site.Describe(ctx)
	if err != nil {
		return proof, nil //nolint:nilerr // it was only to be seen whether its clock excuses it
	}
	fresh := said.Now.Sub(s.Now())
	return s.compared(ctx, d, r, min(0, ahead, fresh), max(ahead, fresh))
}

// compared compares a receipt with what was sent, the site's clock being ahead of ours by something between two spans.
// The work arrives within a minute after the site was last asked what time it has: that much is allowed anyhow.
func (s Service) compared(
	ctx context.Context, d *delivery, r receipt.Receipt, least, most time.Duration,
) (receipt.Proof, error) {
	sent := receipt.Sent{
		Course:     d.way.Course.SiteKey,
		Assignment: d.way.Assignment.SiteKey,
		Student:    d.way.Enrolment.Number,
		Attempt:    int(d.sub.Attempt),
		NotBefore:  d.sub.StartedAt.Add(min(0, least)),
		NotAfter:   s.Now().Add(most + time.Second),
		Key:        make([]byte, 32), // a key that signs nothing
	}
	if first := d.sub.SiteFirst; first.Valid && first.Time.Before(sent.NotBefore) {
		sent.NotBefore = first.Time
	}
	if last := d.sub.SiteLast; last.Valid && last.Time.After(sent.NotAfter) {
		sent.NotAfter = last.Time
	}
	for _, f := range d.files {
		sent.Files = append(sent.Files, receipt.File{Name: f.Name, Bytes: f.Bytes, SHA256: f.Digest})
	}
	keys, err := s.Store.SiteKeys(ctx, d.way.Site.ID)
	if err != nil {
		return receipt.Proof{}, err
	}
	for _, k := range keys {
		if k.KeyID == r.Key || k.KeyID == "" {
			if sent.Key, err = receipt.ParseKey(k.PublicKey); err != nil {
				return receipt.Proof{}, fmt.Errorf("the site's key %q: %w", k.KeyID, err)
			}
		}
	}
	return receipt.Compare(r, sent), nil
}

// Prove is the handler of [ProveJob].
func (s Service) Prove(ctx context.Context, job query.Job) (time.Duration, error) {
	d, err := s.open(ctx, job)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, mariadb.Final{Err: err}
	}
	if err != nil || d.sub.State != query.SubmissionStateAccepted ||
		s.Now().Sub(d.sub.StartedAt) > coursework.FollowedFor {
		return 0, err
	}
	r, err := d.site.Receipt(ctx, d.sub.IdempotencyKey)
	if errors.Is(err, courier.ErrUnknown) {
		return s.proveAgain(d), nil
	}
	if err != nil {
		return 0, err
	}
	proof, err := s.prove(ctx, d, r.Receipt)
	if err != nil || !proof.Agrees {
		return s.proveAgain(d), err
	}
	text, err := json.Marshal(proof)
	if err != nil {
		return 0, err
	}
	return 0, s.Store.InTx(ctx, func(q *query.Queries) error {
		err := q.SetLedger(ctx, query.SetLedgerParams{
			Received: r.Raw, KeyID: wording.Clip(r.Key, 64), Agrees: true, Proof: text, SubmissionID: d.sub.ID,
		})
		if err != nil {
			return err
		}
		return announce.Tell(
			ctx,
			q,
			s.Now(),
			d.event(announce.Receipt, "The receipt of "+d.way.Assignment.Title+" is proved now."),
		)
	})
}

// LookAgain is the handler of [RefusedJob]: what turns out to be at the site is accepted, unless the attempt was sent
// anew meanwhile, which is told.
func (s Service) LookAgain(ctx context.Context, job query.Job) (time.Duration, error) {
	d, err := s.open(ctx, job)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, mariadb.Final{Err: err}
	}
	if err != nil || d.sub.State != query.SubmissionStateRefused ||
		s.Now().Sub(d.sub.StartedAt) > coursework.FollowedFor {
		return 0, err
	}
	r, err := d.site.Receipt(ctx, d.sub.IdempotencyKey)
	if errors.Is(err, courier.ErrUnknown) {
		return s.proveAgain(d), nil
	}
	if err != nil {
		return 0, err
	}
	err = s.accept(ctx, d, r)
	if mariadb.IsDuplicate(err) {
		const told = "%s has %s all the same, as %s, although it had refused it; another is under way or has arrived " +
			"since. Ask the instructor which one counts."
		text := fmt.Sprintf(told, d.way.Site.Name, d.way.Assignment.Title, r.Number)
		return 0, announce.Tell(ctx, s.Store, s.Now(), d.event(announce.Receipt, text))
	}
	return 0, err
}

// Receipt is the receipt of a submission, byte by byte as the site sent it.
func (s Service) Receipt(ctx context.Context, student, submission int64) ([]byte, error) {
	row, err := s.Store.LedgerOf(ctx, query.LedgerOfParams{SubmissionID: submission, StudentID: student})
	return row.Received, refusal.NotFound(err)
}
