package main

import (
	"context"
	"database/sql"
	"fmt"
	"io"
	"log/slog"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"orario/core/brief"
	"orario/core/inspect"
	"orario/core/timing"
	"orario/internal/account"
	"orario/internal/campus"
	api "orario/internal/campus/campusapi"
	"orario/internal/contents"
	"orario/internal/convert"
	"orario/internal/courier"
	"orario/internal/intake"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
	"orario/internal/submit"
	"orario/internal/vault"
)

// A world is the students with their assignments and files, and the way to press Submit for them.
type world struct {
	db, campus *mariadb.DB
	tools      *convert.Tools
	prepare    prepare.Service
	submit     submit.Service
	site       *campus.Campus
	mu         sync.Mutex // held while work is added
	work       []order
}

// An order is one assignment of one student, ready to be sent.
type order struct{ student, assignment int64 }

// settle makes accounts, publishes assignments and fills the bundles, while everything is still well.
func (t *trial) settle(ctx context.Context, site string) (*world, error) {
	w := &world{}
	var err error
	if w.db, err = mariadb.Open(ctx, t.source, "orario", mariadb.Migrations()); err != nil {
		return nil, err
	}
	if w.campus, err = mariadb.Open(ctx, t.source, "orario_campus", campus.Migrations); err != nil {
		return nil, err
	}
	if w.tools, err = convert.New(filepath.Join(t.dir, "own-work")); err != nil {
		return nil, err
	}
	keys, err := vault.Open("", filepath.Join(t.dir, "key"))
	if err != nil {
		return nil, err
	}
	store := contents.Store{DB: w.db.SQL}
	w.prepare = prepare.Service{Store: w.db, Uploads: contents.Uploads{Store: store}, Tools: plain{}, Now: time.Now}
	w.submit = submit.Service{Store: w.db, Contents: store, Now: time.Now}
	there, err := campus.New(ctx, w.campus.SQL, w.tools, slog.New(slog.DiscardHandler))
	if err != nil {
		return nil, err
	}
	w.site = there
	each := (t.submissions + t.accounts - 1) / t.accounts
	if err := publish(ctx, there, each); err != nil {
		return nil, err
	}
	in := intake.Service{
		Store: w.db, Contents: store, Files: w.prepare, Log: slog.New(slog.DiscardHandler), Now: time.Now,
		Every: time.Minute, Seal: keys.Seal,
		Connect: func(s query.Site) (intake.Site, error) {
			token, err := keys.Unseal(s.Token)
			if err != nil {
				return nil, err
			}
			return courier.Connect(s.BaseUrl, token)
		},
	}
	accounts := account.Service{Store: w.db, Now: time.Now, Vault: keys}
	enrolling, ctx := errgroup.WithContext(ctx)
	enrolling.SetLimit(4)
	for n := range t.accounts {
		enrolling.Go(func() error { return w.enrol(ctx, there, accounts, in, site, n, t.large) })
	}
	if err := enrolling.Wait(); err != nil {
		return nil, err
	}
	if len(w.work) > t.submissions {
		w.work = w.work[:t.submissions]
	}
	return w, nil
}

func publish(ctx context.Context, there *campus.Campus, each int) error {
	course := api.Course{
		Key:        "HYD214",
		Code:       "HYD 214",
		Title:      "Hydrography",
		Zone:       "Europe/Lisbon",
		Instructor: "Prof. O",
	}
	if err := there.PublishCourse(ctx, course); err != nil {
		return err
	}
	day := func(n int) string { return time.Now().AddDate(0, 0, n).Format("2006-01-02T15:04") }
	for n := range each {
		err := there.PublishAssignment(ctx, api.Assignment{
			Key: fmt.Sprint("a", n), Course: "HYD214", Title: fmt.Sprint("Sheet ", n), Instructions: "One text.",
			Handouts: []api.Handout{}, Opens: day(-3), Due: day(5), Closes: day(7), Points: 10, Weight: 1,
			Late:  timing.Rule{Kind: timing.PerDay, Percent: 10, Of: "possible"},
			Sheet: brief.Sheet{Slots: []brief.Slot{{Name: "sheet", Required: true, Forms: []string{"txt"}, Most: 3}}},
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// enrol makes one student with all her bundles; one in so many holds a second file, of several pieces.
func (w *world) enrol(
	ctx context.Context, there *campus.Campus, accounts account.Service, in intake.Service, site string, n, large int,
) error {
	number, email := fmt.Sprint(30000+n), fmt.Sprintf("s%d@alvarim.example", n)
	token, err := there.AddStudent(ctx, campus.Student{Number: number, Family: "Quintal", Given: "N", Email: email})
	if err != nil {
		return err
	}
	id, err := accounts.Add(ctx, account.Student{
		Email: email, Family: "Quintal", Given: "N", Number: number, Zone: "Europe/Lisbon",
	}, "a-quiet-password", false)
	if err != nil {
		return err
	}
	at, err := in.AddSite(ctx, id, site, token)
	if err != nil {
		return err
	}
	if _, err := in.Sync(ctx, query.Job{Kind: intake.SyncJob, Subject: at, StudentID: id}); err != nil {
		return err
	}
	rows, err := w.db.Assignments(ctx, query.AssignmentsParams{StudentID: id})
	if err != nil {
		return err
	}
	for _, a := range rows {
		files := 1
		if int(a.ID)%max(1, large) == 0 {
			files = 2
		}
		for f := range files {
			text := fmt.Sprintf("Sheet %d of %s, file %d.\n", a.ID, number, f) + strings.Repeat("tide ", f*300_000)
			name := fmt.Sprintf("Quintal_%d_%d.txt", a.ID, f)
			upload, err := w.prepare.Uploads.Take(contents.WithOwner(ctx, fmt.Sprint(id)), name,
				strings.NewReader(text), int64(len(text)))
			if err != nil {
				return err
			}
			if _, err := w.prepare.AddUpload(ctx, id, a.ID, 0, upload, "sheet"); err != nil {
				return err
			}
		}
		w.mu.Lock()
		w.work = append(w.work, order{id, a.ID})
		w.mu.Unlock()
	}
	return nil
}

// sendAll presses Submit for everything, again where the database was away in between.
func (w *world) sendAll(ctx context.Context) (ids []int64, err error) {
	for _, o := range w.work {
		for try := 0; ; try++ {
			id, err := w.submit.Start(ctx, o.student, submit.Order{Assignment: o.assignment, Declared: true})
			if err == nil {
				ids = append(ids, id)
				break
			}
			if strings.Contains(err.Error(), "being sent already") || strings.Contains(err.Error(), "Nothing more") {
				id, err := w.last(ctx, o) // the answer to the press before was lost
				if err == nil {
					ids = append(ids, id)
					break
				}
			}
			if try > 6000 || ctx.Err() != nil {
				return ids, err
			}
			time.Sleep(50 * time.Millisecond)
		}
	}
	return ids, nil
}

func (w *world) last(ctx context.Context, o order) (id int64, err error) {
	err = w.db.SQL.QueryRowContext(ctx, "SELECT s.id FROM submission s JOIN attempt t ON t.id = s.attempt_id JOIN "+
		"part p "+
		"ON p.id = t.part_id WHERE p.assignment_id = ? ORDER BY s.id DESC LIMIT 1", o.assignment).
		Scan(&id)
	return id, err
}

// wait waits until all are settled, for so long at most.
func (w *world) wait(ctx context.Context, most time.Duration) {
	for end := time.Now().Add(most); time.Now().Before(end) && ctx.Err() == nil; time.Sleep(200 * time.Millisecond) {
		var open int
		err := w.db.SQL.QueryRowContext(ctx, "SELECT COUNT(*) FROM submission s LEFT JOIN ledger l ON "+
			"l.submission_id = "+
			"s.id WHERE s.state = 'sending' OR s.state = 'accepted' AND NOT COALESCE(l.agrees, FALSE)").
			Scan(&open)
		if err == nil && open == 0 {
			return
		}
	}
}

// A result counts what became of the submissions. Asked are those told to be unproved, whose receipt is asked for
// again.
type result struct {
	Proved, Asked, Sending, Refused, Unproved, Lost, Doubled, Altered int
}

func (r result) String() string {
	return fmt.Sprintf("sent and proved once %d, not proved yet and asked for again %d, still sending %d, "+
		"told refused %d, unproved %d, lost %d, doubled %d, altered %d",
		r.Proved, r.Asked, r.Sending, r.Refused, r.Unproved, r.Lost, r.Doubled, r.Altered)
}

// right: all are proved. One at each time that the site's clock was moved may have been received in that very moment,
// so that its receipt is from a time that the site never said to have; it is told so, and asked for until it is
// proved.
func (r result) right(all, moved int) bool {
	return r == result{Proved: all - r.Asked, Asked: r.Asked} && r.Asked <= moved
}

// count compares what Orario says with what the campus has.
func (w *world) count(ctx context.Context, ids []int64) (r result, err error) {
	for _, id := range ids {
		var state, key string
		var agrees sql.NullBool
		var asked bool
		err := w.db.SQL.QueryRowContext(ctx, "SELECT s.state, s.idempotency_key, l.agrees, EXISTS (SELECT 1 FROM job "+
			"j WHERE j.kind = ? AND j.subject = s.id) FROM submission s LEFT JOIN ledger l ON l.submission_id = s.id "+
			"WHERE s.id = ?", submit.ProveJob, id).Scan(&state, &key, &agrees, &asked)
		if err != nil {
			return r, err
		}
		var there, wrong int
		err = w.campus.SQL.QueryRowContext(ctx, "SELECT COUNT(*) FROM submission WHERE idempotency_key = ? AND "+
			"number IS "+
			"NOT NULL", key).
			Scan(&there)
		if err != nil {
			return r, err
		}
		err = w.db.SQL.QueryRowContext(ctx, "SELECT COUNT(*) FROM submission_file f WHERE f.submission_id = ? AND NOT "+
			"EXISTS (SELECT 1 FROM orario_campus.content c WHERE c.digest = f.digest)", id).Scan(&wrong)
		if err != nil {
			return r, err
		}
		switch {
		case state == "sending":
			r.Sending++
		case state == "refused":
			r.Refused++
		case there == 0:
			r.Lost++
		case there > 1:
			r.Doubled++
		case wrong > 0:
			r.Altered++
		case !agrees.Bool && asked:
			r.Asked++
		case !agrees.Bool:
			r.Unproved++
		default:
			r.Proved++
		}
	}
	var all int
	err = w.campus.SQL.QueryRowContext(ctx, "SELECT COUNT(*) FROM submission WHERE number IS NOT NULL").Scan(&all)
	r.Doubled += max(0, all-len(ids))
	return r, err
}

func (w *world) close() {
	w.tools.Close()
	w.db.Close()
	w.campus.Close()
}

// plain knows what is plain text without looking: what is tried here is the way.
type plain struct{ prepare.Tools }

// Look implements [prepare.Tools].
func (plain) Look(
	_ context.Context, file inspect.Stored, _ func() (io.Reader, error),
) (facts *inspect.Facts, text string, err error) {
	return &inspect.Facts{File: file.Name, Bytes: file.Bytes, SHA256: file.SHA256, Kind: "txt"}, "", nil
}
