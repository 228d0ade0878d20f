package track

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"orario/internal/mariadb/query"
	"orario/internal/prepare"
)

// A Change is something that happened since changes were last looked at.
type Change struct {
	ID           int64     `json:"id"`
	Kind         string    `json:"kind"`
	AssignmentID int64     `json:"assignment_id"`
	Text         string    `json:"text"`
	At           time.Time `json:"at"`
}

// changes lists what is new, each thing once, the newest first.
func (s Service) changes(ctx context.Context, student, seen int64) ([]Change, error) {
	rows, err := s.Store.ChangesSince(ctx, query.ChangesSinceParams{StudentID: student, ID: seen})
	if err != nil {
		return nil, err
	}
	out, told := []Change{}, map[string]bool{}
	for _, r := range rows {
		if !told[r.Text] {
			told[r.Text] = true
			out = append(out, Change{r.ID, r.Kind, r.AssignmentID, r.Text, r.At})
		}
	}
	return out, nil
}

// Seen notes that all changes up to one were looked at.
func (s Service) Seen(ctx context.Context, student, change int64) error {
	last, err := s.Store.LastEvent(ctx, student)
	if err != nil {
		return err
	}
	return s.Store.SetSeenEvent(ctx, query.SetSeenEventParams{Seen: min(change, last), ID: student})
}

// A View is a filter of the list with a name.
type View struct {
	ID     int64  `json:"id"`
	Name   string `json:"name"`
	Filter string `json:"filter"` // as in the page's address
}

func (s Service) views(ctx context.Context, student int64) ([]View, error) {
	rows, err := s.Store.SavedViews(ctx, student)
	out := []View{}
	for _, r := range rows {
		out = append(out, View{r.ID, r.Name, r.Filter})
	}
	return out, err
}

// SaveView keeps a filter under a name; the same name again replaces it.
func (s Service) SaveView(ctx context.Context, student int64, name, filter string) error {
	if name = strings.TrimSpace(name); name == "" || len([]rune(name)) > 60 || len(filter) > 500 {
		return prepare.Complaint{Message: "A view needs a name of at most 60 letters."}
	}
	return s.Store.PutSavedView(ctx, query.PutSavedViewParams{StudentID: student, Name: name, Filter: filter})
}

// RemoveView lets go of a saved filter.
func (s Service) RemoveView(ctx context.Context, student, id int64) error {
	n, err := s.Store.RemoveSavedView(ctx, query.RemoveSavedViewParams{ID: id, StudentID: student})
	if err == nil && n == 0 {
		err = prepare.ErrNotFound
	}
	return err
}

// What can be done to several assignments at once.
const (
	BulkEnough = "enough" // what was reached is enough
	BulkSent   = "sent"   // sent outside of Orario, now
	BulkRemove = "remove"
	BulkWork   = "work" // minutes of work in all
)

// Bulk does one thing to several assignments and says for how many it could not be done, and why.
func (s Service) Bulk(ctx context.Context, student int64, ids []int64, do string, minutes int) (string, error) {
	list, _, err := s.load(ctx, student)
	if err != nil {
		return "", err
	}
	known := map[int64]*tracked{}
	for _, t := range list {
		known[t.Assignment.ID] = t
	}
	act := map[string]func(*tracked) error{
		BulkEnough: func(t *tracked) error {
			a := t.Assignment
			return s.SetWork(ctx, student, a.ID, Work{Minutes: int(a.EffortMinutes), Low: int(a.EffortLow.Int32), High: int(a.EffortHigh.Int32), Done: t.line.DoneMinutes, Enough: true})
		},
		BulkSent: func(t *tracked) error {
			now := s.Now()
			return s.NoteSent(ctx, student, t.Assignment.ID, &now, "")
		},
		BulkRemove: func(t *tracked) error { return s.Remove(ctx, student, t.Assignment.ID) },
		BulkWork: func(t *tracked) error {
			return s.SetWork(ctx, student, t.Assignment.ID, Work{Minutes: minutes, Done: t.line.DoneMinutes, Enough: t.Assignment.Enough})
		},
	}[do]
	if act == nil {
		return "", prepare.Complaint{Message: fmt.Sprintf("There is nothing called %q to do.", do)}
	}
	done := 0
	var why []string
	for _, id := range ids {
		t, ok := known[id]
		if !ok {
			return "", prepare.ErrNotFound
		}
		if err := act(t); err != nil {
			var complaint prepare.Complaint
			if !errors.As(err, &complaint) {
				return "", err
			}
			why = append(why, t.Assignment.Title+": "+complaint.Message)
			continue
		}
		done++
	}
	text := fmt.Sprintf("Done for %s.", plural(done, "assignment", "assignments"))
	if len(why) > 0 {
		text += " Not done: " + strings.Join(why, " ")
	}
	return text, nil
}
