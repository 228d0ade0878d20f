package workshop

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"strings"
	"time"

	"orario/core/finding"
	"orario/core/inspect"
	"orario/core/naming"
	"orario/core/wording"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// A result is what a tool made, with what it has to say of it.
type result struct {
	files []inspect.Named
	kept  []piece // what was kept as it was made, beside the files
	said  []string
}

// A piece is a file of a workpiece, whose content is kept.
type piece struct {
	inspect.Stored
	kind string
}

// keep keeps a file that was made.
func (s Service) keep(ctx context.Context, f inspect.Named) (piece, error) {
	digest, size, err := s.Uploads.Put(ctx, bytes.NewReader(f.Data))
	return piece{inspect.Stored{Name: f.Name, Bytes: size, SHA256: digest}, inspect.Kind(f.Name, f.Data)}, err
}

// A tool makes files of files. least and most are how many it takes.
type tool struct {
	least, most int
	make        func(s Service, ctx context.Context, of []inspect.Named, w Wishes, step func(done, steps int)) (
		result, error)
}

// tools by their names. Each is an operation of its own; what offers itself at a finding is one of these, too.
var tools = map[string]tool{
	"convert":    {1, 100, Service.convert},
	"split":      {1, 1, Service.split},
	"scan":       {1, 60, Service.scan},
	"searchable": {1, 1, Service.searchable},
	"write":      {1, 1, Service.write},
	"type":       {0, 100, Service.typed},
	"pack":       {1, 100, Service.pack},
	"unpack":     {1, 1, Service.unpack},
	"clean":      {1, 1, Service.clean},
	"link":       {0, 0, Service.link},
	"gather":     {1, 60, Service.gather},
}

// mostTyped bounds a typed answer, in bytes: some eighty pages, which LibreOffice lays out in a few seconds.
const mostTyped = 250_000

// fit refuses what a tool can't follow.
func fit(name string, files int, w Wishes) error {
	t, known := tools[name]
	switch {
	case !known:
		return refusal.Say("There is no tool %q.", name)
	case files < t.least:
		return refusal.Say("Choose a file first.")
	case files > t.most && t.most == 1:
		return refusal.Say("This takes one file at a time. Choose one.")
	case files > t.most:
		return refusal.Say("This takes at most %d files at a time.", t.most)
	case len(w.Name) > naming.MaxBytes:
		return refusal.Say("The name is too long.")
	case name == "write" && w.Ink == nil, name == "type" && strings.TrimSpace(w.Text) == "":
		return refusal.Say("Nothing is written yet.")
	case len(w.Text) > mostTyped:
		return refusal.Say("This is more than %s of text. Put what is done into the bundle, and go on in another file.",
			wording.Bytes(mostTyped))
	}
	if w.Name != "" {
		for _, p := range naming.Lint(w.Name+".pdf", nil, false) {
			if p.Weight == finding.Must {
				return refusal.Complaint{Message: p.Message}
			}
		}
	}
	if w.Ink != nil {
		if err := w.Ink.Sound(); err != nil {
			return refusal.Because(err)
		}
	}
	return nil
}

// Run is the handler of [Job].
func (s Service) Run(ctx context.Context, job query.Job) (time.Duration, error) {
	row, err := s.Store.Workpiece(ctx, query.WorkpieceParams{ID: job.Subject, StudentID: job.StudentID})
	if err != nil {
		return 0, mariadb.Final{Err: err} // it was thrown away
	}
	var w Wishes
	var versions []int64
	if err := errors.Join(json.Unmarshal([]byte(row.Wishes), &w), json.Unmarshal(row.Versions, &versions)); err != nil {
		return 0, mariadb.Final{Err: err}
	}
	var of []inspect.Named
	for _, v := range versions {
		f, err := s.Bundles.Content(ctx, job.StudentID, v)
		if errors.Is(err, refusal.ErrNotFound) {
			return 0, s.settle(
				ctx,
				job,
				query.WorkpieceStateFailed,
				result{},
				"A file that it is made of is not there any more.",
			)
		}
		if err != nil {
			return 0, err
		}
		of = append(of, f)
	}
	step := func(done, steps int) { // only what is told; it comes right with the next
		_ = s.Store.SetWorkpieceStep(
			ctx,
			query.SetWorkpieceStepParams{Done: int32(done), Steps: int32(steps), ID: row.ID},
		)
	}
	made, err := tools[row.Tool].make(s, ctx, of, w, step)
	if ctx.Err() != nil {
		return 0, ctx.Err()
	}
	if err != nil {
		told := s.settle(ctx, job, query.WorkpieceStateFailed, result{}, wording.Upper(err.Error())+".")
		return 0, mariadb.Final{Err: errors.Join(err, told)}
	}
	for _, f := range made.files {
		p, err := s.keep(ctx, f)
		if err != nil {
			return 0, err
		}
		made.kept = append(made.kept, p)
	}
	err = s.settle(ctx, job, query.WorkpieceStateMade, made, "")
	var full refusal.Complaint
	if errors.As(err, &full) {
		return 0, s.settle(ctx, job, query.WorkpieceStateFailed, result{}, full.Message)
	}
	return 0, err
}

// settle keeps what came out. The job's row is held, so that a cancellation comes wholly before or after.
func (s Service) settle(
	ctx context.Context, job query.Job, state query.WorkpieceState, made result, trouble string,
) error {
	said, err := json.Marshal(append([]string{}, made.said...))
	if err != nil {
		return err
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		if n, err := q.HoldJob(ctx, query.HoldJobParams{ID: job.ID, Token: job.Token}); err != nil || n == 0 {
			return err
		}
		n, err := q.SetWorkpiece(ctx, query.SetWorkpieceParams{
			State: state, Said: said, Trouble: wording.Clip(trouble, 500), ID: job.Subject,
		})
		if err != nil || n == 0 {
			return err
		}
		for i, f := range made.kept {
			err := q.AddWorkpieceFile(ctx, query.AddWorkpieceFileParams{
				WorkpieceID: job.Subject, N: int32(i), Name: f.Name, Kind: f.kind, Digest: f.SHA256, Bytes: f.Bytes,
			})
			if err != nil {
				return err
			}
		}
		if len(made.kept) == 0 {
			return nil
		}
		return s.Bundles.Fits(ctx, q, job.StudentID)
	})
}

// GiveUp is done instead of [Service.Run] with files that stop the program whenever it is tried.
func (s Service) GiveUp(ctx context.Context, job query.Job) (time.Duration, error) {
	return 0, s.settle(ctx, job, query.WorkpieceStateFailed, result{},
		"These files cannot be worked on here. Do it on your computer, and add what comes out.")
}
