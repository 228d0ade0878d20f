// Package library shows the files that a student ever brought in or made, and finds things by words.
package library

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"orario/core/compare"
	"orario/core/coursework"
	"orario/core/inspect"
	"orario/core/placing"
	"orario/core/wording"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/roster"
)

// Store is what is shown.
type Store interface {
	roster.Store
	Version(context.Context, query.VersionParams) (query.Version, error)
	VersionUses(context.Context, query.VersionUsesParams) ([]query.VersionUsesRow, error)
	WhatKeepsVersion(context.Context, query.WhatKeepsVersionParams) (query.WhatKeepsVersionRow, error)
	Versions(ctx context.Context, student int64) ([]query.VersionsRow, error)
	SentVersions(ctx context.Context, student int64) ([]query.SentVersionsRow, error)
	SearchVersions(context.Context, query.SearchVersionsParams) ([]query.SearchVersionsRow, error)
}

// Service shows and finds.
type Service struct {
	Store Store
	Now   func() time.Time
}

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
	Around   string    `json:"around"` // the place in its text that was searched for
}

// SentTo is where a version was sent, or in whose bundle it lies.
type SentTo struct {
	AssignmentID int64  `json:"assignment_id"`
	Text         string `json:"text"`
	Number       string `json:"number"` // empty: not sent
}

// A Sheet is the page of one version.
type Sheet struct {
	Version  Version           `json:"version"`
	Facts    []string          `json:"facts"`
	Problems []inspect.Problem `json:"problems"`
	Text     string            `json:"text"` // the beginning of the text in it
	Cut      bool              `json:"cut"`  // there is more of it
	// Those before and after it: of the same name, or made from one another
	Versions []Version        `json:"versions"`
	Changes  *compare.Summary `json:"changes"` // in the words since the version before
	Before   string           `json:"before"`  // the name and time of that one
	// Nothing keeps it: it was not sent, lies in no bundle, and proves no extension
	Removable bool `json:"removable"`
	// Open work in whose bundle it may belong, the likeliest first; none where it lies in a bundle or was sent
	Belongs []Belongs `json:"belongs"`
}

// Belongs is a part of open work that a file may be for.
type Belongs struct {
	AssignmentID int64  `json:"assignment_id"`
	PartID       int64  `json:"part_id"`
	Text         string `json:"text"` // course, title and part
}

// Find lists the versions that hold words in their name or text, each word at least as a beginning, the newest first.
func (s Service) Find(ctx context.Context, student int64, text string) ([]Version, error) {
	all, err := s.All(ctx, student)
	if text = strings.TrimSpace(text); err != nil || text == "" {
		return all, err
	}
	hits, err := s.files(ctx, student, text)
	if err != nil {
		return nil, err
	}
	around := map[int64]string{}
	for _, h := range hits {
		around[h.ID] = strings.Join(strings.Fields(h.Around), " ")
	}
	found := []Version{}
	for _, v := range all {
		if place, ok := around[v.ID]; ok {
			v.Around = place
			found = append(found, v)
		}
	}
	return found, nil
}

// All lists all versions, the newest first.
func (s Service) All(ctx context.Context, student int64) ([]Version, error) {
	rows, err := s.Store.Versions(ctx, student)
	if err != nil {
		return nil, fmt.Errorf("reading the library: %w", err)
	}
	sent, err := s.Store.SentVersions(ctx, student)
	if err != nil {
		return nil, err
	}
	names, went := map[int64]string{}, map[int64][]SentTo{}
	for _, v := range rows {
		names[v.ID] = v.Name
	}
	for _, to := range sent {
		went[to.VersionID] = append(
			went[to.VersionID],
			SentTo{to.AssignmentID, fmt.Sprintf("%s, %s, attempt %d", to.Code, to.Title, to.Attempt), to.Number},
		)
	}
	out := []Version{}
	for _, row := range rows {
		out = append(out, Version{
			row.ID,
			row.Name,
			row.Kind,
			wording.Bytes(row.Bytes),
			row.Digest,
			names[row.MadeFrom.Int64],
			row.CreatedAt,
			append([]SentTo{}, went[row.ID]...),
			"",
		})
	}
	return out, nil
}

// mostText is how much of a file's text its page shows, in code points.
const mostText = 20_000

// Sheet is the page of one version.
func (s Service) Sheet(ctx context.Context, student, id int64) (*Sheet, error) {
	row, err := s.Store.Version(ctx, query.VersionParams{ID: id, StudentID: student})
	if err != nil {
		return nil, refusal.NotFound(err)
	}
	all, err := s.All(ctx, student)
	if err != nil {
		return nil, err
	}
	out := &Sheet{
		Problems: []inspect.Problem{},
		Versions: []Version{},
		Text:     wording.Clip(row.Body, mostText),
		Cut:      len([]rune(row.Body)) > mostText,
	}
	var found inspect.Facts
	if err := json.Unmarshal(row.Facts, &found); err != nil {
		return nil, fmt.Errorf("reading the facts of %s: %w", row.Name, err)
	}
	out.Facts, out.Problems = found.Said(), append(out.Problems, found.Problems...)
	uses, err := s.Store.VersionUses(ctx, query.VersionUsesParams{VersionID: id, StudentID: student})
	if err != nil {
		return nil, err
	}
	keeps, err := s.Store.WhatKeepsVersion(
		ctx,
		query.WhatKeepsVersionParams{ID: id, Proof: mariadb.NullInt(id)},
	)
	if err != nil {
		return nil, err
	}
	out.Removable = keeps.Sent+keeps.Bundles+keeps.Extensions == 0
	var before *Version
	for i, v := range all {
		related := v.Name == row.Name || v.ID == row.MadeFrom.Int64 || v.MadeFrom == row.Name
		switch {
		case v.ID == id:
			out.Version = v
		case related:
			out.Versions = append(out.Versions, v)
			if v.ID < id && before == nil {
				before = &all[i]
			}
		}
	}
	for _, u := range uses {
		out.Version.Sent = append(
			out.Version.Sent,
			SentTo{u.AssignmentID, fmt.Sprintf("in the bundle of %s, %s", u.Code, u.Title), ""},
		)
	}
	out.Belongs = []Belongs{}
	if out.Removable {
		if out.Belongs, err = s.belongs(ctx, student, row.Name, row.Body); err != nil {
			return nil, err
		}
	}
	return out, s.sinceBefore(ctx, student, out, before, row.Body)
}

// belongs ranks the open work that a file may be for, by its name and the beginning of its text.
func (s Service) belongs(ctx context.Context, student int64, name, text string) ([]Belongs, error) {
	r, err := roster.Read(ctx, s.Store, student, s.Now())
	if err != nil {
		return nil, err
	}
	var open []placing.Work
	titles := map[int64]string{}
	for _, st := range r.Stand(s.Now()) {
		if st.State != coursework.Open && st.State != coursework.Late {
			continue
		}
		open = append(open, placing.Work{
			ID: st.ID, Part: st.Part.ID, Code: st.Course.Code, Title: st.Title, Due: st.Window.Due.At(),
		})
		titles[st.Part.ID] = st.Course.Code + ": " + st.Title
		if st.Part.Name != "" {
			titles[st.Part.ID] += ", " + st.Part.Name
		}
	}
	list := []Belongs{}
	for _, w := range placing.Rank(name, text, open) {
		list = append(list, Belongs{w.ID, w.Part, titles[w.Part]})
	}
	return list, nil
}

// sinceBefore says what changed in the words since the version before.
func (s Service) sinceBefore(ctx context.Context, student int64, out *Sheet, before *Version, text string) error {
	if before == nil || strings.TrimSpace(text) == "" {
		return nil
	}
	old, err := s.Store.Version(ctx, query.VersionParams{ID: before.ID, StudentID: student})
	if err != nil || strings.TrimSpace(old.Body) == "" {
		return refusal.NotFound(err)
	}
	summary := compare.Texts(old.Body, text).Shown()
	out.Changes, out.Before = &summary, before.Name
	return nil
}
