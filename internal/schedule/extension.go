package schedule

import (
	"context"
	"net/url"
	"time"

	"orario/core/coursework"
	"orario/core/wording"
	"orario/internal/announce"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// An Extension is where more time for the part that comes next stands, with the mail that asks for it.
type Extension struct {
	State   string `json:"state"` // empty, asked or granted
	AskedAt string `json:"asked_at"`
	Due     string `json:"due"` // wall times in the course's zone
	Closes  string `json:"closes"`
	Note    string `json:"note"`
	Proof   int64  `json:"proof"` // version in the library; 0: none
	Until   string `json:"until"` // the time that the mail asks for, a wall time
	To      string `json:"to"`
	Subject string `json:"subject"`
	Mail    string `json:"mail"`
	Link    string `json:"link"` // opens the mail in a mail program
}

// Extension drafts the mail that asks for more time, until a wall time or, with an empty one, until a sensible one.
func (s Service) Extension(ctx context.Context, student, assignment int64, until string) (*Extension, error) {
	r, err := s.roster(ctx, student)
	if err != nil {
		return nil, err
	}
	e := r.Plan().Of(assignment)
	if e == nil {
		return nil, refusal.ErrNotFound
	}
	if until == "" {
		until = e.EnoughTime().Format(wording.WallForm)
	}
	if _, err := time.Parse(wording.WallForm, until); err != nil {
		return nil, refusal.Say("That is no time. Write it like 2026-12-11T23:59.")
	}
	v := &Extension{Until: until, To: e.Course.Contact}
	v.Subject, v.Mail = e.AskForTime(e.Course.Registered(r.Student), until)
	if x := e.Part.Extension; x != nil {
		v.Due, v.Closes, v.Note, v.Proof, v.State = x.Due, x.Closes, x.Note, x.Proof, "asked"
		if x.Asked != nil {
			v.AskedAt = x.Asked.Format(time.RFC3339)
		}
		if x.Granted != nil {
			v.State = "granted"
		}
	}
	v.Link = "mailto:" + url.PathEscape(v.To) + "?subject=" + url.PathEscape(v.Subject) +
		"&body=" + url.PathEscape(v.Mail)
	return v, nil
}

// A Grant is an answer to the wish for more time: due and closes are wall times, an empty closes moves along. Proof
// is an upload, or empty.
type Grant struct {
	State  string `json:"state"` // empty: there is no extension; asked; granted
	Due    string `json:"due"`
	Closes string `json:"closes"`
	Note   string `json:"note"`
	Upload string `json:"upload"`
}

// mostNote bounds a note, in code points.
const mostNote = 500

// SetExtension notes that more time was asked for, or granted, for the part that comes next; a granted one applies
// at once.
func (s Service) SetExtension(ctx context.Context, student, assignment int64, g Grant) error {
	if len([]rune(g.Note)) > mostNote {
		return refusal.Say("A note has at most %d letters. Shorten it.", mostNote)
	}
	r, err := s.roster(ctx, student)
	if err != nil {
		return err
	}
	state, err := r.Standing(assignment, 0)
	if err != nil {
		return err
	}
	now := r.Now
	set := query.PutExtensionParams{PartID: state.Part.ID, Note: g.Note}
	if x := state.Part.Extension; x != nil {
		set.AskedAt, set.VersionID = mariadb.NullTime(x.Asked), mariadb.NullInt(x.Proof)
	}
	switch g.State {
	case "":
	case "asked":
		set.AskedAt, set.VersionID = mariadb.NullTime(&now), mariadb.NullInt(0)
	case "granted":
		if err := s.grant(ctx, student, state.Part, g, &set); err != nil {
			return err
		}
		set.GrantedAt = mariadb.NullTime(&now)
	default:
		return refusal.Say("An extension is asked or granted, not %q.", g.State)
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		if g.State == "" {
			err = q.RemoveExtension(ctx, state.Part.ID)
		} else {
			err = q.PutExtension(ctx, set)
		}
		if err != nil {
			return err
		}
		return announce.Tell(ctx, q, s.Now(), announce.Event{
			Student: student, Assignment: assignment, Kind: announce.Edited,
		})
	})
}

// farthest is how much more time there can be.
const farthest = 2 * 366 * 24 * time.Hour

func (s Service) grant(
	ctx context.Context,
	student int64,
	part *coursework.Part,
	g Grant,
	set *query.PutExtensionParams,
) error {
	w, err := part.With(g.Due, g.Closes)
	if err != nil {
		return refusal.Say("%s. Give the new due time as the instructor wrote it.", wording.Upper(err.Error()))
	}
	switch more := w.Due.At().Sub(part.Window.Due.At()); {
	case more <= 0:
		return refusal.Say("An extension is later than the due time that there is. Give the new due time.")
	case more > farthest:
		return refusal.Say("That is more than two years later. Correct the new due time.")
	}
	set.Due, set.Closes = g.Due, g.Closes
	if g.Upload == "" {
		return nil
	}
	version, err := s.Files.Keep(ctx, student, g.Upload)
	set.VersionID = mariadb.NullInt(version)
	return err
}
