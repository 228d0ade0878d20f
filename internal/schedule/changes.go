package schedule

import (
	"context"
	"strings"
	"time"

	"orario/internal/mariadb/query"
	"orario/internal/refusal"
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
func changes(ctx context.Context, q *query.Queries, student, seen int64) ([]Change, error) {
	rows, err := q.ChangesSince(ctx, query.ChangesSinceParams{StudentID: student, ID: seen})
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

func views(ctx context.Context, q *query.Queries, student int64) ([]View, error) {
	rows, err := q.SavedViews(ctx, student)
	out := []View{}
	for _, r := range rows {
		out = append(out, View{r.ID, r.Name, r.Filter})
	}
	return out, err
}

// SaveView keeps a filter under a name; the same name again replaces it.
func (s Service) SaveView(ctx context.Context, student int64, name, filter string) error {
	if name = strings.TrimSpace(name); name == "" || len([]rune(name)) > 60 || len(filter) > 500 {
		return refusal.Say("A view needs a name of at most 60 letters.")
	}
	return s.Store.PutSavedView(ctx, query.PutSavedViewParams{StudentID: student, Name: name, Filter: filter})
}

// RemoveView lets go of a saved filter.
func (s Service) RemoveView(ctx context.Context, student, id int64) error {
	return refusal.Unless(s.Store.RemoveSavedView(ctx, query.RemoveSavedViewParams{ID: id, StudentID: student}))
}
