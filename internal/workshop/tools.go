package workshop

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"orario/core/archive"
	"orario/core/finding"
	"orario/core/imaging"
	"orario/core/inspect"
	"orario/core/naming"
	"orario/core/wording"
	"orario/internal/convert"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// A result is what a tool made, with what it has to say of it.
type result struct {
	files []inspect.Named
	said  []string
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
	"type":       {0, 0, Service.typed},
	"pack":       {1, 100, Service.pack},
	"unpack":     {1, 1, Service.unpack},
	"clean":      {1, 1, Service.clean},
	"link":       {0, 0, Service.link},
	"gather":     {1, 60, Service.gather},
}

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
				nil,
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
		told := s.settle(ctx, job, query.WorkpieceStateFailed, result{}, nil, wording.Upper(err.Error())+".")
		return 0, mariadb.Final{Err: errors.Join(err, told)}
	}
	var digests []string
	for _, f := range made.files {
		digest, _, err := s.Uploads.Put(ctx, bytes.NewReader(f.Data))
		if err != nil {
			return 0, err
		}
		digests = append(digests, digest)
	}
	return 0, s.settle(ctx, job, query.WorkpieceStateMade, made, digests, "")
}

// settle keeps what came out. The job's row is held, so that a cancellation comes wholly before or after.
func (s Service) settle(
	ctx context.Context, job query.Job, state query.WorkpieceState, made result, digests []string, trouble string,
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
		for i, f := range made.files {
			err := q.AddWorkpieceFile(ctx, query.AddWorkpieceFileParams{
				WorkpieceID: job.Subject, N: int32(i), Name: f.Name, Kind: inspect.Kind(f.Name, f.Data),
				Digest: digests[i], Bytes: int64(len(f.Data)),
			})
			if err != nil {
				return err
			}
		}
		return nil
	})
}

// GiveUp is done instead of [Service.Run] with files that stop the program whenever it is tried.
func (s Service) GiveUp(ctx context.Context, job query.Job) (time.Duration, error) {
	return 0, s.settle(ctx, job, query.WorkpieceStateFailed, result{}, nil,
		"These files cannot be worked on here. Do it on your computer, and add what comes out.")
}

// named is a file with the name that is wished for, or that its first source has, and an extension.
func named(of []inspect.Named, w Wishes, extension string, data []byte) inspect.Named {
	stem := w.Name
	if stem == "" && len(of) > 0 {
		stem, _ = naming.Split(of[0].Name)
	}
	return inspect.Named{Name: cmp.Or(stem, "unnamed") + "." + extension, Data: data}
}

func (s Service) convert(ctx context.Context, of []inspect.Named, w Wishes, _ func(int, int)) (result, error) {
	m, err := s.Tools.Make(ctx, of, w.Form, convert.Wishes{
		Pages: w.Pages, Turns: w.Turns, MaxBytes: w.MaxBytes, PDFA: w.PDFA, From: w.From, Length: w.Length,
	})
	if err != nil {
		return result{}, err
	}
	return result{[]inspect.Named{named(of, w, strings.ToLower(w.Form), m.Data)}, m.Did}, nil
}

func (s Service) split(ctx context.Context, of []inspect.Named, w Wishes, _ func(int, int)) (result, error) {
	parts, err := s.Tools.Split(ctx, of[0], w.Every, w.MaxBytes)
	return result{parts, []string{fmt.Sprintf("%s of %s", wording.Count(len(parts), "file", "files"), of[0].Name)}}, err
}

// gather makes one PDF of several pieces of evidence, each behind a page with its heading and what is said of it.
func (s Service) gather(ctx context.Context, of []inspect.Named, w Wishes, _ func(int, int)) (result, error) {
	var all []inspect.Named
	for n, f := range of {
		h := Heading{}
		if n < len(w.Headings) {
			h = w.Headings[n]
		}
		if strings.TrimSpace(h.Title) == "" {
			return result{}, fmt.Errorf("%s has no heading yet", f.Name)
		}
		if inspect.IsRecording(inspect.Kind(f.Name, f.Data)) {
			return result{}, fmt.Errorf("%s is no page: put sound and film beside the PDF", f.Name)
		}
		text := fmt.Sprintf("# %d. %s\n\n%s\n", n+1, strings.Join(strings.Fields(h.Title), " "), h.Text)
		all = append(all, inspect.Named{Name: "heading.md", Data: []byte(text)}, f)
	}
	m, err := s.Tools.Make(ctx, all, "pdf", convert.Wishes{})
	if err != nil {
		return result{}, err
	}
	said := wording.Count(len(of), "piece", "pieces") + ", each behind its heading"
	return result{[]inspect.Named{named(of, w, "pdf", m.Data)}, []string{said}}, nil
}

// warnings are what a scan warns of, in words with the measure.
var warnings = map[string]string{
	"blurred": "is blurred (clarity %.3f; from 0.012 on letters are told apart). Hold still, and photograph it again",
	"dark":    "is dark. Photograph it again in better light",
	"cut_off": "is cut off at the photograph's edge. Photograph all of it, or draw its corners yourself",
	"no_page": "shows no page that could be found, so all of it was taken. Draw its corners yourself",
}

func (s Service) scan(ctx context.Context, of []inspect.Named, w Wishes, step func(int, int)) (result, error) {
	strength := imaging.DefaultStrength
	if w.Strength != nil {
		strength = *w.Strength
	}
	step(0, len(of))
	made, err := s.Tools.Scan(ctx, of, convert.ScanWishes{
		Paper: w.Paper, Strength: strength, Text: w.Text, Settled: w.Settled, Progress: step,
	})
	if err != nil {
		return result{}, err
	}
	r := result{files: []inspect.Named{named(of, w, "pdf", made.PDF)}}
	r.said = append(r.said, wording.Count(len(made.Pages), "page", "pages"))
	for n, p := range made.Pages {
		if p.Turned != 0 {
			r.said = append(r.said, fmt.Sprintf("Page %d was turned by %d degrees.", n+1, p.Turned))
		}
		for _, code := range p.Warnings {
			text := warnings[code]
			if strings.Contains(text, "%") {
				text = fmt.Sprintf(text, p.Sharpness)
			}
			r.said = append(r.said, fmt.Sprintf("Page %d %s.", n+1, text))
		}
	}
	if w.Text != "" {
		return r, s.tellRead(ctx, &r, made.PDF)
	}
	return r, nil
}

// tellRead says how much text can be read in each page.
func (s Service) tellRead(ctx context.Context, r *result, pdf []byte) error {
	pages, err := s.Tools.PDFPages(ctx, pdf)
	if err != nil {
		return err
	}
	for n, text := range pages {
		if words := len(strings.Fields(text)); words == 0 {
			r.said = append(r.said, fmt.Sprintf("No text was read in page %d.", n+1))
		} else {
			r.said = append(r.said, fmt.Sprintf("%s read in page %d.", wording.Count(words, "word", "words"), n+1))
		}
	}
	return nil
}

func (s Service) searchable(ctx context.Context, of []inspect.Named, w Wishes, _ func(int, int)) (result, error) {
	pdf, err := s.Tools.Searchable(ctx, of[0].Data)
	if err != nil {
		return result{}, err
	}
	r := result{files: []inspect.Named{named(of, w, "pdf", pdf)}}
	return r, s.tellRead(ctx, &r, pdf)
}

func (s Service) write(ctx context.Context, of []inspect.Named, w Wishes, _ func(int, int)) (result, error) {
	pdf, err := s.Tools.Write(ctx, of[0], *w.Ink)
	return result{[]inspect.Named{named(of, w, "pdf", pdf)}, []string{"What was written is part of the pages."}}, err
}

// typed makes a file of a typed answer.
func (s Service) typed(ctx context.Context, _ []inspect.Named, w Wishes, _ func(int, int)) (result, error) {
	source := inspect.Named{Name: cmp.Or(w.Name, "answer") + ".md", Data: []byte(w.Text)}
	if w.Form == "md" || w.Form == "txt" {
		source.Name = cmp.Or(w.Name, "answer") + "." + w.Form
		return result{files: []inspect.Named{source}}, nil
	}
	m, err := s.Tools.Make(ctx, []inspect.Named{source}, w.Form, convert.Wishes{})
	if err != nil {
		return result{}, err
	}
	return result{[]inspect.Named{named([]inspect.Named{source}, w, w.Form, m.Data)}, nil}, nil
}

func (s Service) pack(ctx context.Context, of []inspect.Named, w Wishes, _ func(int, int)) (result, error) {
	m, err := s.Tools.Make(ctx, of, "zip", convert.Wishes{MaxBytes: w.MaxBytes})
	if err != nil {
		return result{}, err
	}
	return result{[]inspect.Named{named(of, w, "zip", m.Data)}, m.Did}, nil
}

func (s Service) unpack(_ context.Context, of []inspect.Named, _ Wishes, _ func(int, int)) (result, error) {
	files, skipped, err := archive.Unpack(of[0].Data)
	if err != nil {
		return result{}, err
	}
	if len(files) == 0 {
		return result{}, errors.New("there is no file in it that can be unpacked")
	}
	r := result{files: files}
	for _, left := range skipped {
		r.said = append(r.said, fmt.Sprintf("%s was left out: %s.", left.Name, left.Why))
	}
	return r, nil
}

func (s Service) clean(ctx context.Context, of []inspect.Named, w Wishes, _ func(int, int)) (result, error) {
	_, extension := naming.Split(of[0].Name)
	extension = cmp.Or(w.Form, extension)
	data, removed, err := s.Tools.Clean(ctx, of[0], extension, w.Keep)
	if err != nil {
		return result{}, err
	}
	if len(removed) == 0 {
		return result{}, errors.New("there is nothing in it to be taken out")
	}
	r := result{files: []inspect.Named{named(of, w, strings.ToLower(extension), data)}}
	for _, what := range removed {
		r.said = append(r.said, what.Sentence())
	}
	return r, nil
}
