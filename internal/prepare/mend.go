package prepare

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"orario/core/brief"
	"orario/core/cleaning"
	"orario/core/coursework"
	"orario/core/inspect"
	"orario/core/naming"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// ConvertJob is the kind of the jobs that make a PDF of an item; the other fixes have jobs of kinds of their own.
const ConvertJob = "convert"

// Jobs are the kinds of jobs that make a new version of an item: a finding's fix is the kind of its job. Doing is what
// the student is told meanwhile.
var Jobs = []struct{ Fix, Doing string }{
	{ConvertJob, "Converting to PDF…"},
	{"scan", "Making a page of the photograph…"},
	{"together", "Making pages of the photographs…"},
	{"searchable", "Reading its pages…"},
	{"smaller", "Making it smaller…"},
	{"clean", "Taking out what readers are not meant to see…"},
}

func isJob(fix string) bool {
	return slices.ContainsFunc(Jobs, func(j struct{ Fix, Doing string }) bool { return j.Fix == fix })
}

// Fix mends what a finding of an item offers: "rename" and "newest" at once, what makes a new version by a job,
// "revert" undoes that.
func (s Service) Fix(ctx context.Context, student, id int64, fix string) error {
	state, item, err := s.itemState(ctx, student, id)
	if err != nil {
		return err
	}
	if isJob(fix) {
		if _, ok := offered(state, item, fix); !ok {
			return refusal.Say("This file need not or cannot be converted so.")
		}
		return s.Store.AddJob(ctx, query.AddJobParams{Kind: fix, Subject: id, StudentID: student, RunAt: s.Now().UTC()})
	}
	set := query.SetItemParams{ID: id, StudentID: student, Slot: item.Slot, VersionID: item.Version}
	switch fix {
	case "rename":
		f, ok := offered(state, item, "rename")
		if !ok {
			return refusal.Say("The name is as it should be.")
		}
		set.Name = f.Becomes
		return s.set(ctx, student, state, item, set)
	case "newest":
		newer, err := s.Store.Version(ctx, query.VersionParams{ID: item.Newer, StudentID: student})
		if err != nil {
			return refusal.NotFound(err)
		}
		set.Name, set.VersionID = item.Name, newer.ID
		if newer.Kind != item.Facts.Kind {
			set.Name = newer.Name
		}
		return s.set(ctx, student, state, item, set)
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

// CancelFix takes back a job of an item that is waiting or running.
func (s Service) CancelFix(ctx context.Context, student, id int64) error {
	for _, j := range Jobs {
		p := query.RemoveJobOfParams{Kind: j.Fix, Subject: id, StudentID: student}
		if _, err := s.Store.RemoveJobOf(ctx, p); err != nil {
			return err
		}
	}
	return nil
}

// offered is the finding of an item, or of the slot that it is in, that offers a fix.
func offered(state *coursework.Standing, item *coursework.Item, fix string) (brief.Finding, bool) {
	for _, f := range state.Findings {
		if f.Fix == fix && (f.Item == item.ID || f.Item == 0 && f.Slot == item.Slot) {
			return f, true
		}
	}
	return brief.Finding{}, false
}

// Convert is the handler of the jobs of [Jobs]: it makes a new version of the item's file and puts that into the
// bundle, a PDF under the name that the brief asks for. What it was made from stays in the library.
func (s Service) Convert(ctx context.Context, job query.Job) (time.Duration, error) {
	state, item, err := s.itemState(ctx, job.StudentID, job.Subject)
	if err != nil {
		return 0, mariadb.Final{Err: err} // it was taken out in the meantime
	}
	f, ok := offered(state, item, job.Kind)
	if !ok {
		return 0, nil // done already
	}
	of := []*coursework.Item{item}
	if job.Kind == "together" {
		of = photographs(state, item.Slot)
	}
	made, err := s.make(ctx, job.Kind, state, of)
	if err != nil {
		if ctx.Err() != nil {
			return 0, ctx.Err()
		}
		text := fmt.Sprintf("%s could not be converted: %v.", item.Original, err)
		return 0, mariadb.Final{Err: errors.Join(err, s.tell(ctx, s.Store, job.StudentID, state.ID, text))}
	}
	digest, _, err := s.Uploads.Put(ctx, bytes.NewReader(made))
	if err != nil {
		return 0, err
	}
	name := cmp.Or(f.Becomes, item.Name)
	if job.Kind == "together" {
		stem, _ := naming.Split(of[0].Name)
		name = stem + ".pdf"
	}
	stored := inspect.Stored{Name: name, Bytes: int64(len(made)), SHA256: digest}
	version, facts, err := s.version(ctx, job.StudentID, stored, of[0].Version)
	if err != nil {
		return 0, err
	}
	return 0, s.Store.InTx(ctx, func(q *query.Queries) error {
		return s.replace(ctx, q, job, state, of, version, facts)
	})
}

// replace puts a new version into the place of the items that it was made of: into the first one's, the others go.
func (s Service) replace(
	ctx context.Context, q *query.Queries, job query.Job, state *coursework.Standing, of []*coursework.Item,
	version query.AddVersionParams, facts *inspect.Facts,
) error {
	// The job's row is held, so that a cancellation comes wholly before or after.
	if n, err := q.HoldJob(ctx, query.HoldJobParams{ID: job.ID, Token: job.Token}); err != nil || n == 0 {
		return err
	}
	if _, err := attempt(ctx, q, job.StudentID, state.Part.ID); err != nil {
		return err
	}
	for _, i := range of {
		if err := same(ctx, q, job.StudentID, i); err != nil {
			return err // the job is tried again, with the items as they are now
		}
	}
	id, err := s.addVersion(ctx, q, version, facts)
	if err != nil {
		return err
	}
	for _, rest := range of[1:] {
		if _, err := q.RemoveItem(ctx, query.RemoveItemParams{ID: rest.ID, StudentID: job.StudentID}); err != nil {
			return err
		}
	}
	err = q.SetItem(ctx, query.SetItemParams{
		ID: of[0].ID, StudentID: job.StudentID, Slot: of[0].Slot, Name: version.Name, VersionID: id,
	})
	if err != nil {
		return err
	}
	return s.tell(ctx, q, job.StudentID, state.ID, fmt.Sprintf("%s is now %s.", of[0].Original, version.Name))
}

// photographs are the pictures in a slot, in their order.
func photographs(state *coursework.Standing, slot string) (list []*coursework.Item) {
	for n := range state.Items {
		if i := &state.Items[n]; i.Slot == slot && i.Facts != nil && brief.IsPhotograph(i.Facts.Kind) {
			list = append(list, i)
		}
	}
	return list
}

// make makes what a fix promises of the files of items.
func (s Service) make(
	ctx context.Context,
	fix string,
	state *coursework.Standing,
	of []*coursework.Item,
) ([]byte, error) {
	var files []inspect.Named
	for _, i := range of {
		data, err := s.Uploads.Read(ctx, i.Digest)
		if err != nil {
			return nil, err
		}
		files = append(files, inspect.Named{Name: i.Original, Data: data})
	}
	slot, _ := state.Sheet.Slot(of[0].Slot)
	switch fix {
	case "scan", "together":
		return s.Tools.Pages(ctx, files)
	case "searchable":
		return s.Tools.Searchable(ctx, files[0].Data)
	case "clean":
		_, extension := naming.Split(files[0].Name)
		data, _, err := s.Tools.Clean(ctx, files[0], extension, asked)
		return data, err
	case "smaller":
		return s.Tools.Smaller(ctx, files[0].Name, of[0].Facts.Kind, files[0].Data, slot.MaxBytes)
	}
	return s.Tools.ToPDF(ctx, of[0].Facts.Kind, files[0].Data)
}

// asked are the kinds that the fix "clean" leaves in: all but those that findings name.
var asked = slices.DeleteFunc(slices.Clone(cleaning.Kinds), func(kind string) bool {
	return kind == cleaning.TrackedChanges || kind == cleaning.Comments || kind == cleaning.Position
})

// GiveUpConvert is done instead of [ConvertJob] with a file that stops the program whenever it is converted.
func (s Service) GiveUpConvert(ctx context.Context, job query.Job) (time.Duration, error) {
	state, item, err := s.itemState(ctx, job.StudentID, job.Subject)
	if err != nil {
		return 0, mariadb.Final{Err: err}
	}
	text := item.Original + " cannot be converted here. Export a PDF from your word processor, and add that."
	return 0, s.tell(ctx, s.Store, job.StudentID, state.ID, text)
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
		return s.tell(ctx, q, student, assignment, "")
	})
}
