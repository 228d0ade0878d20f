package workshop

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"orario/core/brief"
	"orario/core/brief/prose"
	"orario/core/coursework"
	"orario/core/inspect"
	"orario/core/wording"
	"orario/internal/contents"
	"orario/internal/convert"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// A Writing is what is being written for a part: a typed answer (version 0), the headings of a portfolio (version -1),
// or ink on the pages of a version. It is kept at every pause, for weeks.
type Writing struct {
	Body     string    `json:"body"`
	Revision int       `json:"revision"` // 0: nothing is kept yet
	At       time.Time `json:"at"`
}

// MostWriting bounds a writing, in bytes: some fifty pages full of handwriting.
const MostWriting = 12 << 20

// Writing is what is kept of a writing.
func (s Service) Writing(ctx context.Context, student, assignment, part, version int64) (*Writing, error) {
	state, err := s.Bundles.State(ctx, student, assignment, part)
	if err != nil {
		return nil, err
	}
	row, err := s.Store.Writing(ctx, query.WritingParams{PartID: state.Part.ID, VersionID: version, StudentID: student})
	if errors.Is(err, sql.ErrNoRows) {
		return &Writing{}, nil
	}
	return &Writing{row.Body, int(row.Revision), row.UpdatedAt}, err
}

// ErrElsewhere says that a writing went on in another place since it was read.
var ErrElsewhere = refusal.Conflict{
	Message: "This was written on in another tab. Nothing of yours is lost: copy what you need, then read the other's.",
}

// Keep keeps a writing over the revision that was read, and gives its new one.
func (s Service) Keep(
	ctx context.Context, student, assignment, part, version int64, body string, revision int,
) (int, error) {
	if len(body) > MostWriting {
		return 0, refusal.Say("This is more than %s. Put what is done into the bundle, and go on in another file.",
			wording.Bytes(MostWriting))
	}
	state, err := s.Bundles.State(ctx, student, assignment, part)
	if err != nil {
		return 0, err
	}
	if version < -1 {
		return 0, refusal.ErrNotFound
	}
	if version > 0 {
		if _, err := s.Store.Version(ctx, query.VersionParams{ID: version, StudentID: student}); err != nil {
			return 0, refusal.NotFound(err)
		}
	}
	if err := s.Bundles.Admit(ctx, fmt.Sprint(student), 0); err != nil {
		return 0, err
	}
	return revision + 1, s.Store.InTx(ctx, func(q *query.Queries) error {
		locked := query.LockPartParams{ID: state.Part.ID, StudentID: student} // where there is no row to be locked yet
		if _, err := q.LockPart(ctx, locked); err != nil {
			return refusal.NotFound(err)
		}
		row, err := q.LockWriting(
			ctx,
			query.LockWritingParams{PartID: state.Part.ID, VersionID: version, StudentID: student},
		)
		switch {
		case errors.Is(err, sql.ErrNoRows) && revision == 0:
			err := q.AddWriting(ctx, query.AddWritingParams{
				StudentID: student, PartID: state.Part.ID, VersionID: version, Body: body, UpdatedAt: s.Now().UTC(),
			})
			if err != nil {
				return err
			}
			return s.Bundles.Fits(ctx, q, student)
		case errors.Is(err, sql.ErrNoRows) || err == nil && int(row.Revision) != revision:
			return ErrElsewhere
		case err != nil:
			return err
		}
		err = q.SetWriting(ctx, query.SetWritingParams{Body: body, UpdatedAt: s.Now().UTC(), ID: row.ID})
		if err != nil || len(body) <= int(row.Bytes) {
			return err
		}
		return s.Bundles.Fits(ctx, q, student)
	})
}

// A Typed answer, counted, and how it will be set.
type Typed struct {
	Words int          `json:"words"`
	Says  string       `json:"says"` // beside what the brief asks for
	Short bool         `json:"short"`
	Page  convert.Page `json:"page"`
	Set   string       `json:"set"` // the page in words
}

// Type counts the words of a typed answer against what the slot asks for, and says how it will be set.
func (s Service) Type(ctx context.Context, student, assignment, part int64, slot, text string) (*Typed, error) {
	state, err := s.Bundles.State(ctx, student, assignment, part)
	if err != nil {
		return nil, err
	}
	asked, err := s.style(ctx, student, state, slot)
	if err != nil {
		return nil, err
	}
	t := &Typed{Page: page(state, asked, true)}
	t.Set = fmt.Sprintf("%s, %g pt, lines at %g", t.Page.Font, t.Page.Size, t.Page.Spacing)
	if asked.Font != "" || asked.Size > 0 || asked.Spacing > 0 {
		t.Set += ", as is asked for"
	}
	if words := inspect.File("answer.md", []byte(text)).Words; words != nil { // as the checks count them
		t.Words = *words
	}
	t.Says = wording.Count(t.Words, "word", "words")
	if into, ok := state.Sheet.Slot(slot); ok && into.Words != nil {
		asked := *into.Words
		t.Says += ", " + asked.String() + " are asked for"
		t.Short = !asked.Holds(t.Words)
	}
	return t, nil
}

// style is how a text for a slot is to be set, as far as it is asked for.
func (s Service) style(
	ctx context.Context, student int64, state *coursework.Standing, slot string,
) (prose.Style, error) {
	text, err := s.Store.Instructions(ctx, query.InstructionsParams{ID: state.ID, StudentID: student})
	if err != nil {
		return prose.Style{}, refusal.NotFound(err)
	}
	return brief.StyleOf(state.Asks(text), slot), nil
}

// page is how a typed answer is set: as is asked for, and else as is usual.
func page(state *coursework.Standing, asked prose.Style, heading bool) convert.Page {
	p := convert.Page{Font: asked.Font, Size: asked.Size, Spacing: asked.Spacing}
	if heading {
		fields := state.Fields()
		p.Title = state.Title
		p.Course = strings.TrimSpace(state.Course.Code + " " + state.Course.Title)
		p.Author = strings.TrimSpace(fields["given"] + " " + fields["family"])
		if fields["number"] != "" {
			p.Author += ", " + fields["number"]
		}
	}
	return p.Sound()
}

// A Recording broke off, or goes on in another tab.
type Recording struct {
	Upload string    `json:"upload"`
	Name   string    `json:"name"`
	Bytes  string    `json:"bytes"`
	Part   int64     `json:"part"`
	Slot   string    `json:"slot"`
	Begun  time.Time `json:"begun"`
}

// Recordings are those that arrived in part.
func (s Service) Recordings(ctx context.Context, student int64) ([]Recording, error) {
	rows, err := s.Store.Unfinished(ctx, fmt.Sprint(student))
	if err != nil {
		return nil, fmt.Errorf("looking for recordings: %w", err)
	}
	list := []Recording{}
	for _, row := range rows {
		var said map[string]string
		if err := json.Unmarshal(row.Metadata, &said); err != nil {
			return nil, fmt.Errorf("looking for recordings: %w", err)
		}
		r := Recording{
			Upload: row.ID,
			Name:   said["filename"],
			Bytes:  wording.Bytes(row.At),
			Slot:   said["slot"],
			Begun:  row.CreatedAt,
		}
		_, _ = fmt.Sscan(said["part"], &r.Part) // 0: it was not said
		list = append(list, r)
	}
	return list, nil
}

// KeepRecording puts what has arrived of a recording into a bundle.
func (s Service) KeepRecording(
	ctx context.Context,
	student, assignment, part int64,
	upload, slot string,
) (int64, error) {
	owned := contents.WithOwner(ctx, fmt.Sprint(student))
	if err := s.Uploads.Close(owned, strings.TrimSpace(upload)); err != nil {
		if errors.Is(err, contents.ErrNotFound) {
			return 0, refusal.ErrNotFound
		}
		return 0, err
	}
	return s.Bundles.AddRecording(ctx, student, assignment, part, upload, slot)
}
