package track

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/wording"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
)

// A Version is one file that the student ever brought in or made.
type Version struct {
	ID       int64     `json:"id"`
	Name     string    `json:"name"`
	Kind     string    `json:"kind"`
	Bytes    string    `json:"bytes"`
	Digest   string    `json:"digest"`
	MadeFrom string    `json:"made_from"` // name of the version it was made from
	AddedAt  time.Time `json:"added_at"`
	Sent     []SentTo  `json:"sent"`
}

// SentTo is where a version was sent.
type SentTo struct {
	AssignmentID int64  `json:"assignment_id"`
	Text         string `json:"text"`
	Number       string `json:"number"`
}

// Library lists all versions, the newest first.
func (s Service) Library(ctx context.Context, student int64) ([]Version, error) {
	rows, err := s.Store.Versions(ctx, student)
	if err != nil {
		return nil, fmt.Errorf("reading the library: %w", err)
	}
	sent, err := s.Store.SentVersions(ctx, student)
	if err != nil {
		return nil, err
	}
	names := map[int64]string{}
	for _, v := range rows {
		names[v.ID] = v.Name
	}
	out := []Version{}
	for _, row := range rows {
		v := Version{ID: row.ID, Name: row.Name, Kind: row.Kind, Bytes: wording.Bytes(row.Bytes), Digest: row.Digest, MadeFrom: names[row.MadeFrom.Int64], AddedAt: row.CreatedAt, Sent: []SentTo{}}
		for _, to := range sent {
			if to.VersionID == row.ID {
				v.Sent = append(v.Sent, SentTo{to.AssignmentID, fmt.Sprintf("%s, %s, attempt %d", to.Code, to.Title, to.Attempt), to.Number})
			}
		}
		out = append(out, v)
	}
	return out, nil
}

// A Hit is something that a search found.
type Hit struct {
	Kind string `json:"kind"` // assignment, course, handout, feedback, file or receipt
	Text string `json:"text"`
	More string `json:"more"`
	Path string `json:"path"` // of the page that shows it
}

// mostHits is what fits under the search field.
const mostHits = 12

// Search looks through assignments and their instructions, courses, handouts, feedback, receipts and the text
// of all files, without regard to case.
func (s Service) Search(ctx context.Context, student int64, text string) ([]Hit, error) {
	hits := []Hit{}
	text = strings.TrimSpace(text)
	if len([]rune(text)) < 2 {
		return hits, nil
	}
	states, err := prepare.Load(ctx, s.Store, student, s.Now())
	if err != nil {
		return nil, err
	}
	holds := func(fields ...string) bool {
		return slices.ContainsFunc(fields, func(f string) bool { return strings.Contains(strings.ToLower(f), strings.ToLower(text)) })
	}
	courses, err := s.Store.Courses(ctx, student)
	if err != nil {
		return nil, err
	}
	for _, c := range courses {
		if holds(c.Code, c.Title, c.Instructor, c.Contact) {
			hits = append(hits, Hit{"course", c.Code + " " + c.Title, c.Instructor, "/courses"})
		}
	}
	for _, state := range states {
		path := fmt.Sprintf("/desk/%d", state.Assignment.ID)
		if holds(state.Assignment.Title, state.Course.Code, state.Course.Title, state.Assignment.Instructions) {
			hits = append(hits, Hit{"assignment", state.Assignment.Title, state.Course.Code, path})
		}
		for _, h := range state.Handouts {
			if holds(h.Name) {
				hits = append(hits, Hit{"handout", h.Name, state.Assignment.Title, path + "#brief"})
			}
		}
		for _, sub := range state.Submissions {
			if back, ok := state.Returned[sub.ID]; ok && holds(string(back.Comments)) {
				hits = append(hits, Hit{"feedback", state.Assignment.Title, state.Course.Code, path + "#return"})
			}
			if holds(sub.Number) {
				hits = append(hits, Hit{"receipt", sub.Number, state.Assignment.Title, fmt.Sprintf("/ledger/%d", sub.ID)})
			}
		}
	}
	files, err := s.Store.SearchVersions(ctx, query.SearchVersionsParams{Needle: text, StudentID: student})
	if err != nil {
		return nil, fmt.Errorf("searching the files: %w", err)
	}
	for _, f := range files {
		hits = append(hits, Hit{"file", f.Name, strings.Join(strings.Fields(f.Around), " "), fmt.Sprintf("/library#v%d", f.ID)})
	}
	return hits[:min(len(hits), mostHits)], nil
}
