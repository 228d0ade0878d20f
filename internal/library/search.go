package library

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"orario/core/coursework"
	"orario/internal/mariadb/query"
	"orario/internal/roster"
)

// A Hit is something that a search found.
type Hit struct {
	Kind string `json:"kind"` // assignment, course, handout, feedback, file or receipt
	Text string `json:"text"`
	More string `json:"more"`
	Path string `json:"path"` // of the page that shows it
}

// mostHits is what fits under the search field.
const mostHits = 12

// Search looks through assignments and their instructions, courses, handouts, feedback, receipts and the text of all
// files, without regard to case.
func (s Service) Search(ctx context.Context, student int64, text string) ([]Hit, error) {
	hits := []Hit{}
	text = strings.TrimSpace(text)
	if len([]rune(text)) < 2 || len([]rune(text)) > 200 {
		return hits, nil
	}
	var named []int64 // assignments whose instructions hold it
	r, err := roster.Read(
		ctx,
		s.Store,
		student,
		s.Now(),
		func(ctx context.Context, q *query.Queries, _ *roster.Roster) (err error) {
			named, err = q.SearchInstructions(ctx, query.SearchInstructionsParams{Needle: text, StudentID: student})
			return err
		},
	)
	if err != nil {
		return nil, err
	}
	holds := func(fields ...string) bool {
		return slices.ContainsFunc(
			fields,
			func(f string) bool { return strings.Contains(strings.ToLower(f), strings.ToLower(text)) },
		)
	}
	for _, c := range r.Courses {
		if holds(c.Code, c.Title, c.Instructor, c.Contact) {
			hits = append(hits, Hit{"course", c.Code + " " + c.Title, c.Instructor, "/courses"})
		}
	}
	for _, a := range r.Assignments {
		hits = append(hits, within(a, slices.Contains(named, a.ID), holds)...)
	}
	files, err := s.files(ctx, student, text)
	if err != nil {
		return nil, err
	}
	for _, f := range files {
		hits = append(
			hits,
			Hit{"file", f.Name, strings.Join(strings.Fields(f.Around), " "), fmt.Sprintf("/library/%d", f.ID)},
		)
	}
	return hits[:min(len(hits), mostHits)], nil
}

// mostWords is how many words of a search are looked for in files.
const mostWords = 12

// files are those that hold a text in their name, or all its words in their name or text, by the database's index of
// words.
func (s Service) files(ctx context.Context, student int64, text string) ([]query.SearchVersionsRow, error) {
	words := strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	var all strings.Builder
	for _, w := range words[:min(len(words), mostWords)] {
		if len([]rune(w)) >= leastWord {
			all.WriteString("+" + w + "* ")
		}
	}
	found, err := s.Store.SearchVersions(
		ctx, query.SearchVersionsParams{Needle: text, Words: all.String(), StudentID: student})
	if err != nil {
		return nil, fmt.Errorf("searching the files: %w", err)
	}
	return found, nil
}

// leastWord is how long a word must be to stand in the index (innodb_ft_min_token_size).
const leastWord = 3

// within is what an assignment holds.
func within(a *coursework.Assignment, named bool, holds func(...string) bool) (hits []Hit) {
	path := fmt.Sprintf("/desk/%d", a.ID)
	if named || holds(a.Title, a.Course.Code, a.Course.Title) {
		hits = append(hits, Hit{"assignment", a.Title, a.Course.Code, path})
	}
	for _, h := range a.Handouts {
		if holds(h.Name) {
			hits = append(hits, Hit{"handout", h.Name, a.Title, path + "#brief"})
		}
	}
	for _, p := range a.Parts {
		for _, sub := range p.Submissions() {
			if sub.Return != nil &&
				slices.ContainsFunc(sub.Return.Comments, func(c coursework.Comment) bool { return holds(c.Text) }) {
				hits = append(hits, Hit{"feedback", a.Title, a.Course.Code, path + "#return"})
			}
			if holds(sub.Number) {
				hits = append(hits, Hit{"receipt", sub.Number, a.Title, fmt.Sprintf("/ledger/%d", sub.ID)})
			}
		}
	}
	return hits
}
