package review

import (
	"context"
	"database/sql"
	"fmt"
	"strings"

	"orario/core/coursework"
	"orario/core/inspect"
	"orario/core/similarity"
	"orario/core/wording"
	"orario/internal/announce"
	"orario/internal/courier"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/roster"
)

// A compared text is what a check compares with, with its title for people.
type compared struct {
	similarity.Source
	title string
}

// compared gathers what a student's work is compared with.
func (s Service) compared(
	ctx context.Context,
	student int64,
	instructions string,
	state *coursework.Standing,
) (list []compared, err error) {
	add := func(kind similarity.Kind, name, title, text string) {
		if strings.TrimSpace(text) != "" {
			list = append(list, compared{similarity.Source{Name: name, Text: text, Kind: kind}, title})
		}
	}
	add(similarity.Handout, "instructions", "The instructions", instructions)
	for _, h := range state.Handouts {
		text, err := s.Texts.TextOf(ctx, inspect.Stored{Name: h.Name, Bytes: h.Bytes, SHA256: h.Digest})
		if err != nil {
			return nil, fmt.Errorf("reading the handout %s: %w", h.Name, err)
		}
		add(similarity.Handout, fmt.Sprint("handout/", h.ID), h.Name, text)
	}
	earlier, err := s.Store.EarlierWork(ctx, query.EarlierWorkParams{StudentID: student, ID: state.ID})
	if err != nil {
		return nil, err
	}
	for _, v := range earlier {
		add(similarity.Own, fmt.Sprint("own/", v.ID), fmt.Sprintf("Your %s, %s", v.Title, v.Code), v.Body)
	}
	added, err := s.Store.SourcesOf(ctx, sourcesOf(student, state))
	if err != nil {
		return nil, err
	}
	for _, v := range added {
		add(similarity.Other, fmt.Sprint("source/", v.VersionID), v.Name, v.Body)
	}
	return list, nil
}

// comparedWith says what a check compared with: "2 earlier papers of yours, 1 handout and 1 source".
func comparedWith(sources []courier.SourceText) string {
	counts := map[string]int{}
	for _, source := range sources {
		kind, _, _ := strings.Cut(source.Name, "/")
		counts[kind]++
	}
	var parts []string
	for _, kind := range []struct{ name, one, many string }{
		{"own", "earlier file of yours", "earlier files of yours"},
		{"handout", "handout", "handouts"},
		{"source", "added source", "added sources"},
	} {
		if n := counts[kind.name]; n > 0 {
			parts = append(parts, wording.Count(n, kind.one, kind.many))
		}
	}
	if counts["instructions"] > 0 {
		parts = append(parts, "the instructions")
	}
	return strings.Join(parts, ", ")
}

// An Added source is a file that work is compared with before it is sent.
type Added struct {
	ID        int64  `json:"id"`
	VersionID int64  `json:"version_id"`
	Name      string `json:"name"`
	Course    bool   `json:"course"` // for all work of the course
	Trouble   string `json:"trouble"`
}

func sourcesOf(student int64, state *coursework.Standing) query.SourcesOfParams {
	return query.SourcesOfParams{
		StudentID: student, CourseID: state.Course.ID, AssignmentID: sql.NullInt64{Int64: state.ID, Valid: true},
	}
}

// Sources lists the sources of an assignment and of its course.
func (s Service) Sources(ctx context.Context, student, assignment int64) ([]Added, error) {
	_, state, err := roster.Find(ctx, s.Store, student, assignment, 0, s.Now())
	if err != nil {
		return nil, err
	}
	rows, err := s.Store.SourcesOf(ctx, sourcesOf(student, state))
	list := []Added{}
	for _, row := range rows {
		a := Added{ID: row.ID, VersionID: row.VersionID, Name: row.Name, Course: !row.AssignmentID.Valid}
		if strings.TrimSpace(row.Body) == "" {
			a.Trouble = "No text can be read in it, so nothing is compared with it."
		}
		list = append(list, a)
	}
	return list, err
}

// mostSources bounds what one assignment is compared with.
const mostSources = 200

// AddSource keeps a finished upload in the Library and compares with it from now on: the work of an assignment, or of
// its whole course.
func (s Service) AddSource(ctx context.Context, student, assignment int64, upload string, course bool) error {
	_, state, err := roster.Find(ctx, s.Store, student, assignment, 0, s.Now())
	if err != nil {
		return err
	}
	had, err := s.Store.SourcesOf(ctx, sourcesOf(student, state))
	if err != nil {
		return err
	}
	if len(had) >= mostSources {
		return refusal.Say("%d sources are compared with already, as many as it takes. Take some out.", len(had))
	}
	version, err := s.Texts.Keep(ctx, student, upload)
	if err != nil {
		return err
	}
	err = s.Store.AddSource(ctx, query.AddSourceParams{
		StudentID: student, CourseID: state.Course.ID, VersionID: version,
		AssignmentID: sql.NullInt64{Int64: state.ID, Valid: !course},
	})
	if err != nil {
		return fmt.Errorf("adding a source: %w", err)
	}
	return announce.Tell(ctx, s.Store, s.Now(), announce.Event{
		Student: student, Assignment: assignment, Kind: announce.Bundle,
	})
}

// RemoveSource takes a source out; the file stays in the Library.
func (s Service) RemoveSource(ctx context.Context, student, source int64) error {
	return refusal.Unless(s.Store.RemoveSource(ctx, query.RemoveSourceParams{ID: source, StudentID: student}))
}
