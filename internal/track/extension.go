package track

import (
	"context"
	"encoding/json"
	"fmt"
	"net/url"
	"time"

	"orario/core/brief"
	"orario/core/wording"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
)

// An ExtensionView is where an extension stands, with the mail that asks for it.
type ExtensionView struct {
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

// ExtensionOf drafts the mail that asks for more time, until a wall time or, with an empty one, until a sensible one.
func (s Service) ExtensionOf(ctx context.Context, student, assignment int64, until string) (*ExtensionView, error) {
	t, p, err := s.find(ctx, student, assignment)
	if err != nil {
		return nil, err
	}
	if until == "" {
		until = t.enough().In(t.Window.Zone).Format(wallForm)
	}
	if _, err := time.Parse(wallForm, until); err != nil {
		return nil, prepare.Complaint{Message: "That is no time. Write it like 2026-12-11T23:59."}
	}
	e := t.Extension
	if e.Part != t.Part() {
		e = prepare.Extension{} // of a part that is done
	}
	v := &ExtensionView{Due: e.Due, Closes: e.Closes, Note: e.Note, Proof: e.Proof, Until: until, To: t.Course.Contact}
	if e.Asked != nil {
		v.State, v.AskedAt = "asked", e.Asked.Format(time.RFC3339)
	}
	if e.Granted != nil {
		v.State = "granted"
	}
	v.Subject = fmt.Sprintf("%s, %s: more time", t.Course.Code, t.titled())
	v.Mail = t.mail(p.who, until)
	v.Link = "mailto:" + url.PathEscape(v.To) + "?subject=" + url.PathEscape(v.Subject) + "&body=" + url.PathEscape(v.Mail)
	return v, nil
}

func (t *tracked) mail(who query.Student, until string) string {
	greeting := "Good day"
	if t.Course.Instructor != "" {
		greeting = "Dear " + t.Course.Instructor
	}
	left := t.left()
	text := fmt.Sprintf("%s,\n\n%s in %s (%s) is due %s. ", greeting, t.titled(), t.Course.Title, t.Course.Code, t.local(t.line.Due))
	if t.line.DoneMinutes > 0 {
		text += fmt.Sprintf("I have put %s into it and reckon with %s more, ", wording.Work(time.Duration(t.line.DoneMinutes)*time.Minute), wording.Work(left))
	} else {
		text += fmt.Sprintf("I reckon with %s of work, ", wording.Work(left))
	}
	text += "which do not fit beside what else is due before then.\n\n"
	text += fmt.Sprintf("May I send it until %s? If less is possible, please tell me until when.\n\nThank you,\n%s %s\nstudent number %s\n", wallSaid(until), who.Given, who.Family, who.Number)
	return text
}

// enough is when the work would be done by the plan, with a day to spare, at the end of that day.
func (t *tracked) enough() time.Time {
	end := t.line.Due
	if n := len(t.line.Blocks); n > 0 {
		end = later(end, t.line.Blocks[n-1].End)
	}
	day := end.In(t.Window.Zone).AddDate(0, 0, 2)
	return time.Date(day.Year(), day.Month(), day.Day(), 23, 59, 0, 0, t.Window.Zone)
}

// A Grant is an answer to the wish for more time: due and closes are wall times, an empty closes moves along.
// Proof is an upload, or empty.
type Grant struct {
	State  string `json:"state"` // empty: there is no extension; asked; granted
	Due    string `json:"due"`
	Closes string `json:"closes"`
	Note   string `json:"note"`
	Upload string `json:"upload"`
}

// SetExtension notes that more time was asked for, or granted; a granted one applies at once.
func (s Service) SetExtension(ctx context.Context, student, assignment int64, g Grant) error {
	t, _, err := s.find(ctx, student, assignment)
	if err != nil {
		return err
	}
	now := s.Now().UTC()
	e := prepare.Extension{Asked: t.Extension.Asked, Part: t.Part(), Note: clip(g.Note, 500)}
	switch g.State {
	case "":
		e = prepare.Extension{}
	case "asked":
		e.Asked = &now
	case "granted":
		e.Granted, e.Due, e.Closes, e.Proof = &now, g.Due, g.Closes, t.Extension.Proof
		part := t.published()
		if _, err := prepare.Extended(t.Course.Zone, part, e, int(t.Assignment.GraceMinutes)); err != nil {
			return prepare.Complaint{Message: upper(err.Error()) + ". Give the new due time as the instructor wrote it."}
		}
		if g.Due <= part.Due {
			return prepare.Complaint{Message: "An extension is later than the due time that there is. Give the new due time."}
		}
		if g.Upload != "" {
			if e.Proof, err = s.Files.Keep(ctx, student, g.Upload); err != nil {
				return err
			}
		}
	default:
		return prepare.Complaint{Message: fmt.Sprintf("An extension is asked or granted, not %q.", g.State)}
	}
	text, err := json.Marshal(e)
	if err != nil {
		return err
	}
	return s.Store.SetAssignmentExtension(ctx, query.SetAssignmentExtensionParams{Extension: text, ID: assignment, StudentID: student})
}

// published is the part that comes next with its window before any extension.
func (t *tracked) published() brief.Part {
	a := t.Assignment
	part := brief.Part{Opens: a.Opens, Due: a.Due, Closes: a.Closes}
	var parts []brief.Part
	if err := json.Unmarshal(a.Parts, &parts); err == nil {
		for _, p := range parts {
			if p.Name == t.Part() {
				part = p
			}
		}
	}
	return part
}

func (s Service) find(ctx context.Context, student, assignment int64) (*tracked, *plan, error) {
	list, p, err := s.load(ctx, student)
	if err != nil {
		return nil, nil, err
	}
	for _, t := range list {
		if t.Assignment.ID == assignment {
			return t, p, nil
		}
	}
	return nil, nil, prepare.ErrNotFound
}
