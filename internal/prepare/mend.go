package prepare

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"orario/core/brief"
	"orario/core/coursework"
	"orario/core/inspect"
	"orario/core/naming"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// ConvertJob is the kind of the jobs that convert an item.
const ConvertJob = "convert"

// Fix mends what a finding of an item offers: "rename" at once, "convert" by a job, "revert" undoes a conversion.
func (s Service) Fix(ctx context.Context, student, id int64, fix string) error {
	state, item, err := s.itemState(ctx, student, id)
	if err != nil {
		return err
	}
	set := query.SetItemParams{ID: id, StudentID: student, Slot: item.Slot, VersionID: item.Version}
	switch fix {
	case "rename":
		f, ok := offered(state, id, "rename")
		if !ok {
			return refusal.Say("The name is as it should be.")
		}
		set.Name = f.Becomes
		return s.set(ctx, student, state, item, set)
	case "convert":
		if _, ok := offered(state, id, "convert"); !ok {
			return refusal.Say("This file need not or cannot be converted.")
		}
		return s.Store.AddJob(
			ctx,
			query.AddJobParams{Kind: ConvertJob, Subject: id, StudentID: student, RunAt: s.Now().UTC()},
		)
	case "revert":
		if item.MadeFrom == 0 {
			return refusal.Say("This file is as you added it.")
		}
		original, err := s.Store.Version(ctx, query.VersionParams{ID: item.MadeFrom, StudentID: student})
		if err != nil {
			return refusal.NotFound(err)
		}
		set.Name, set.VersionID = original.Name, original.ID
		return s.set(ctx, student, state, item, set)
	}
	return refusal.Say("There is no fix %q.", fix)
}

// CancelFix takes back a conversion that is waiting or running.
func (s Service) CancelFix(ctx context.Context, student, id int64) error {
	_, err := s.Store.RemoveJobOf(ctx, query.RemoveJobOfParams{Kind: ConvertJob, Subject: id, StudentID: student})
	return err
}

// offered is the finding of an item that offers a fix.
func offered(state *coursework.Standing, item int64, fix string) (brief.Finding, bool) {
	for _, f := range state.Findings {
		if f.Item == item && f.Fix == fix {
			return f, true
		}
	}
	return brief.Finding{}, false
}

// Convert is the handler of [ConvertJob]: it makes a PDF of the item's file as a new version and puts that into the
// bundle under the name that the brief asks for. The original stays in the library.
func (s Service) Convert(ctx context.Context, job query.Job) (time.Duration, error) {
	state, item, err := s.itemState(ctx, job.StudentID, job.Subject)
	if err != nil {
		return 0, mariadb.Final{Err: err} // it was taken out in the meantime
	}
	f, ok := offered(state, item.ID, "convert")
	if !ok {
		return 0, nil // done already
	}
	data, err := s.Uploads.Read(ctx, item.Digest)
	if err != nil {
		return 0, err
	}
	pdf, err := s.Tools.ToPDF(ctx, item.Facts.Kind, data)
	if err != nil {
		if ctx.Err() != nil {
			return 0, ctx.Err()
		}
		text := fmt.Sprintf("%s could not be converted: %v.", item.Original, err)
		return 0, mariadb.Final{Err: errors.Join(err, tell(ctx, s.Store, job.StudentID, state.ID, text))}
	}
	digest, _, err := s.Uploads.Put(ctx, bytes.NewReader(pdf))
	if err != nil {
		return 0, err
	}
	made := inspect.Stored{Name: f.Becomes, Bytes: int64(len(pdf)), SHA256: digest}
	version, facts, err := s.version(ctx, job.StudentID, made, item.Version)
	if err != nil {
		return 0, err
	}
	return 0, s.Store.InTx(ctx, func(q *query.Queries) error {
		// The job's row is held, so that a cancellation comes wholly before or after.
		if n, err := q.HoldJob(ctx, query.HoldJobParams{ID: job.ID, Token: job.Token}); err != nil || n == 0 {
			return err
		}
		if _, err := attempt(ctx, q, job.StudentID, state.Part.ID); err != nil {
			return err
		}
		if err := same(ctx, q, job.StudentID, item); err != nil {
			return err // the job is tried again, with the item as it is now
		}
		id, err := s.addVersion(ctx, q, version, facts)
		if err != nil {
			return err
		}
		if err := q.SetItem(
			ctx,
			query.SetItemParams{ID: item.ID, StudentID: job.StudentID, Slot: item.Slot, Name: f.Becomes, VersionID: id},
		); err != nil {
			return err
		}
		return tell(ctx, q, job.StudentID, state.ID, fmt.Sprintf("%s is now %s.", item.Original, f.Becomes))
	})
}

// GiveUpConvert is done instead of [ConvertJob] with a file that stops the program whenever it is converted.
func (s Service) GiveUpConvert(ctx context.Context, job query.Job) (time.Duration, error) {
	state, item, err := s.itemState(ctx, job.StudentID, job.Subject)
	if err != nil {
		return 0, mariadb.Final{Err: err}
	}
	text := item.Original + " cannot be converted here. Export a PDF from your word processor, and add that."
	return 0, tell(ctx, s.Store, job.StudentID, state.ID, text)
}

// SettleName sets or confirms the pattern that names follow where the site gives none; empty means as the student
// likes.
func (s Service) SettleName(ctx context.Context, student, assignment int64, pattern string) error {
	if _, err := s.editable(ctx, student, assignment, 0); err != nil {
		return err
	}
	if pattern != "" {
		p, err := naming.Parse(pattern)
		if err != nil {
			return refusal.Because(err)
		}
		for _, field := range p.Needs() {
			if field == "section" {
				return refusal.Say("Your section is not known here; write it into the pattern as text.")
			}
		}
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		row, err := q.LockAssignment(ctx, query.LockAssignmentParams{ID: assignment, StudentID: student})
		if err != nil {
			return refusal.NotFound(err)
		}
		var own brief.Own
		if err := json.Unmarshal(row.Own, &own); err != nil {
			return err
		}
		own.Name, own.NameSet = pattern, true
		text, err := json.Marshal(own)
		if err != nil {
			return err
		}
		if err := q.SetAssignmentOwn(
			ctx,
			query.SetAssignmentOwnParams{Own: text, ID: assignment, StudentID: student},
		); err != nil {
			return err
		}
		return tell(ctx, q, student, assignment, "")
	})
}
