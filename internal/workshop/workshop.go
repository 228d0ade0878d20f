// Package workshop makes files out of files: each tool takes versions and wishes, and makes a workpiece, which lies
// apart to be looked at until the student takes it into a bundle or throws it away. What it was made of is never
// changed.
package workshop

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"orario/core/cleaning"
	"orario/core/coursework"
	"orario/core/ink"
	"orario/core/inspect"
	"orario/core/wording"
	"orario/internal/announce"
	"orario/internal/contents"
	"orario/internal/convert"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
	"orario/internal/refusal"
	"orario/internal/roster"
)

// Store is what workpieces are kept in.
type Store interface {
	roster.Store
	announce.Store
	Workpiece(context.Context, query.WorkpieceParams) (query.WorkpieceRow, error)
	WorkpieceFiles(ctx context.Context, workpiece int64) ([]query.WorkpieceFile, error)
	WorkpiecesOf(context.Context, query.WorkpiecesOfParams) ([]int64, error)
	RemoveWorkpiece(context.Context, query.RemoveWorkpieceParams) (int64, error)
	RemoveJobOf(context.Context, query.RemoveJobOfParams) (int64, error)
	SetWorkpieceStep(context.Context, query.SetWorkpieceStepParams) error
	Version(context.Context, query.VersionParams) (query.Version, error)
	Writing(context.Context, query.WritingParams) (query.Writing, error)
	Pass(context.Context, query.PassParams) (query.PassRow, error)
	AddPass(context.Context, query.AddPassParams) (int64, error)
	TakePass(context.Context, query.TakePassParams) (int64, error)
	CountPass(ctx context.Context, id int64) error
	EndPass(context.Context, query.EndPassParams) (int64, error)
	Unfinished(ctx context.Context, owner string) ([]query.UnfinishedRow, error)
	Instructions(context.Context, query.InstructionsParams) (string, error)
	LaidOut(ctx context.Context, digest string) (query.LaidOutRow, error)
	AddLaidOut(context.Context, query.AddLaidOutParams) error
	InTx(context.Context, func(*query.Queries) error) error
}

// Tools make files.
type Tools interface {
	Make(ctx context.Context, files []inspect.Named, extension string, w convert.Wishes) (*convert.Made, error)
	Split(ctx context.Context, f inspect.Named, every int, maxBytes int64) ([]inspect.Named, error)
	Scan(ctx context.Context, photos []inspect.Named, w convert.ScanWishes) (*convert.Scan, error)
	Searchable(ctx context.Context, pdf []byte) ([]byte, error)
	Write(ctx context.Context, f inspect.Named, sheet ink.Sheet) ([]byte, error)
	Clean(ctx context.Context, f inspect.Named, extension string, keep []string) ([]byte, []cleaning.Removed, error)
	Show(ctx context.Context, f inspect.Named) (*convert.Photograph, error)
	PDFPages(ctx context.Context, data []byte) ([]string, error)
	ToPDF(ctx context.Context, kind string, data []byte) ([]byte, error)
}

// Bundles are what files come from and go into.
type Bundles interface {
	State(ctx context.Context, student, assignment, part int64) (*coursework.Standing, error)
	Content(ctx context.Context, student, version int64) (inspect.Named, error)
	Take(ctx context.Context, student int64, part prepare.Part, made []inspect.Stored, of []int64, instead bool,
		slot string, also func(*query.Queries, prepare.Taken) error) error
	PutBack(
		ctx context.Context,
		student int64,
		part prepare.Part,
		taken prepare.Taken,
		also func(*query.Queries) error,
	) error
	Admit(ctx context.Context, owner string, bytes int64) error
	Fits(ctx context.Context, q *query.Queries, student int64) error
	AddRecording(ctx context.Context, student, assignment, part int64, upload, slot string) (int64, error)
	AddPhotograph(ctx context.Context, student, assignment, part int64, upload, slot string) (int64, error)
}

// Service is the Workshop.
type Service struct {
	Store   Store
	Bundles Bundles
	Uploads contents.Uploads
	Tools   Tools
	Fetch   func(ctx context.Context, url string) ([]byte, error) // what a link leads to, guarded
	Now     func() time.Time
}

// Wishes are what a tool is asked for; each tool looks at its own.
type Wishes struct {
	Form     string             `json:"form,omitempty"`      // convert, type: the extension of what comes out
	Pages    string             `json:"pages,omitempty"`     // convert: "2-4,7"
	Turns    []int              `json:"turns,omitempty"`     // convert: degrees clockwise, of each page as it comes out
	MaxBytes int64              `json:"max_bytes,omitempty"` // convert, split, pack
	PDFA     bool               `json:"pdfa,omitempty"`      // convert: PDF/A-2b
	From     float64            `json:"from,omitempty"`      // convert sound or film: seconds
	Length   float64            `json:"length,omitempty"`    // convert sound or film: seconds; 0: to the end
	Every    int                `json:"every,omitempty"`     // split: pages of each
	Paper    string             `json:"paper,omitempty"`     // scan: a4 letter photo, or as it is
	Strength *float64           `json:"strength,omitempty"`  // scan: of the cleaning, 0 to 1
	Text     string             `json:"text,omitempty"`      // scan: languages of a text layer; type: Markdown
	Settled  []*convert.Settled `json:"settled,omitempty"`   // scan: by photograph
	Ink      *ink.Sheet         `json:"ink,omitempty"`       // write
	Keep     []string           `json:"keep,omitempty"`      // clean: kinds that stay
	Headings []Heading          `json:"headings,omitempty"`  // gather: by file
	URL      string             `json:"url,omitempty"`       // link
	Name     string             `json:"name,omitempty"`      // of what comes out; else that of its first file
	Slot     string             `json:"slot,omitempty"`      // type: what the text is for
	Heading  bool               `json:"heading,omitempty"`   // type: with title, course and name at its head
	Page     convert.Page       `json:"page,omitzero"`       // type: how it is set; the assignment says
}

// A Heading stands before a piece of evidence, with what is said of it, in Markdown.
type Heading struct {
	Title string `json:"title"`
	Text  string `json:"text"`
}

// Job is the kind of the jobs that make workpieces.
const Job = "workpiece"

// A Workpiece is what a tool makes or has made.
type Workpiece struct {
	ID      int64    `json:"id"`
	Tool    string   `json:"tool"`
	State   string   `json:"state"` // waiting made failed taken
	Done    int      `json:"done"`  // steps, of so many; 0 of 0: not told
	Steps   int      `json:"steps"`
	Said    []string `json:"said"`    // what was done and what to mind
	Trouble string   `json:"trouble"` // why it failed, and what to do
	Of      []Source `json:"of"`
	Files   []File   `json:"files"`
}

// A Source is a version that a workpiece is made of.
type Source struct {
	Version int64  `json:"version"`
	Name    string `json:"name"`
}

// A File of a workpiece.
type File struct {
	N     int    `json:"n"`
	Name  string `json:"name"`
	Kind  string `json:"kind"`
	Bytes int64  `json:"bytes"`
}

// Begin has a tool begin a workpiece for a part, of versions in their order.
func (s Service) Begin(
	ctx context.Context, student, assignment, part int64, tool string, versions []int64, w Wishes,
) (*Workpiece, error) {
	state, err := s.Bundles.State(ctx, student, assignment, part)
	if err != nil {
		return nil, err
	}
	if err := fit(tool, len(versions), w); err != nil {
		return nil, err
	}
	var sum int64
	for _, v := range versions {
		found, err := s.Store.Version(ctx, query.VersionParams{ID: v, StudentID: student})
		if err != nil {
			return nil, refusal.NotFound(err)
		}
		sum += found.Bytes
	}
	if sum > mostWorked {
		return nil, refusal.Say("These files have %s together, and at most %s are worked on at a time. Choose fewer, "+
			"or make them smaller first.", wording.Bytes(sum), wording.Bytes(mostWorked))
	}
	of, err := json.Marshal(append([]int64{}, versions...))
	if err != nil {
		return nil, err
	}
	w.Page = convert.Page{}
	if tool == "type" {
		asked, err := s.style(ctx, student, state, w.Slot)
		if err != nil {
			return nil, err
		}
		w.Page = page(state, asked, w.Heading)
	}
	wishes, err := json.Marshal(w)
	if err != nil {
		return nil, err
	}
	if err := s.Bundles.Admit(ctx, fmt.Sprint(student), 0); err != nil {
		return nil, err
	}
	lying, err := s.Store.WorkpiecesOf(ctx, query.WorkpiecesOfParams{PartID: state.Part.ID, StudentID: student})
	if err != nil {
		return nil, fmt.Errorf("reading workpieces: %w", err)
	}
	if len(lying) >= mostLying {
		return nil, refusal.Say("%d things lie on the bench. Take or throw away some of them first.", len(lying))
	}
	var id int64
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		id, err = q.AddWorkpiece(ctx, query.AddWorkpieceParams{
			StudentID: student, PartID: state.Part.ID, Tool: tool, Versions: of, Wishes: string(wishes),
			CreatedAt: s.Now().UTC(),
		})
		if err != nil {
			return fmt.Errorf("beginning a workpiece: %w", err)
		}
		return q.AddJob(ctx, query.AddJobParams{Kind: Job, Subject: id, StudentID: student, RunAt: s.Now().UTC()})
	})
	if err != nil {
		return nil, err
	}
	return s.Workpiece(ctx, student, id)
}

// mostWorked bounds the files that a tool works on, in bytes of all together: they are held in memory while it does.
const mostWorked = 200_000_000

// mostLying is how many workpieces of a part may lie there that were not taken.
const mostLying = 40

// Workpiece is one as it stands.
func (s Service) Workpiece(ctx context.Context, student, id int64) (*Workpiece, error) {
	row, err := s.Store.Workpiece(ctx, query.WorkpieceParams{ID: id, StudentID: student})
	if err != nil {
		return nil, refusal.NotFound(err)
	}
	files, err := s.Store.WorkpieceFiles(ctx, id)
	if err != nil {
		return nil, fmt.Errorf("reading a workpiece: %w", err)
	}
	w := &Workpiece{
		ID: id, Tool: row.Tool, State: string(row.State), Done: int(row.Done), Steps: int(row.Steps),
		Said: []string{}, Trouble: row.Trouble, Of: []Source{}, Files: []File{},
	}
	var versions []int64
	if err := errors.Join(json.Unmarshal(row.Said, &w.Said), json.Unmarshal(row.Versions, &versions)); err != nil {
		return nil, fmt.Errorf("reading a workpiece: %w", err)
	}
	for _, v := range versions {
		if found, err := s.Store.Version(ctx, query.VersionParams{ID: v, StudentID: student}); err == nil {
			w.Of = append(w.Of, Source{v, found.Name})
		}
	}
	for _, f := range files {
		w.Files = append(w.Files, File{int(f.N), f.Name, f.Kind, f.Bytes})
	}
	return w, nil
}

// Lying are the workpieces of a part that were neither taken nor thrown away.
func (s Service) Lying(ctx context.Context, student, assignment, part int64) ([]Workpiece, error) {
	state, err := s.Bundles.State(ctx, student, assignment, part)
	if err != nil {
		return nil, err
	}
	ids, err := s.Store.WorkpiecesOf(ctx, query.WorkpiecesOfParams{PartID: state.Part.ID, StudentID: student})
	if err != nil {
		return nil, fmt.Errorf("reading workpieces: %w", err)
	}
	list := []Workpiece{}
	for _, id := range ids {
		w, err := s.Workpiece(ctx, student, id)
		if err != nil {
			return nil, err
		}
		list = append(list, *w)
	}
	return list, nil
}

// Photograph is a picture of the student's as it is shown, with the page in it.
func (s Service) Photograph(ctx context.Context, student, version int64) (*convert.Photograph, error) {
	f, err := s.Bundles.Content(ctx, student, version)
	if err != nil {
		return nil, err
	}
	p, err := s.Tools.Show(ctx, f)
	if err != nil {
		return nil, refusal.Because(err)
	}
	return p, nil
}
