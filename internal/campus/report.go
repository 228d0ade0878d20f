package campus

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"orario/core/inspect"
	"orario/core/similarity"
	api "orario/internal/campus/campusapi"
)

// report gives the report of a submission, making it the first time it is asked for after it is due.
func (c *Campus) report(ctx context.Context, s Student, number string) (api.Report, error) {
	var id int64
	var at *time.Time
	var made *string
	err := c.db.QueryRowContext(ctx, "SELECT id, report_at, report FROM submission WHERE number = ? AND student_id "+
		"= ?", number, s.ID).
		Scan(&id, &at, &made)
	if errors.Is(err, sql.ErrNoRows) {
		return api.Report{}, refuse("unknown", "There is no submission %q.", number)
	}
	if err != nil {
		return api.Report{}, err
	}
	out := api.Report{State: api.None, Sources: []api.SourceText{}}
	if at == nil {
		return out, nil
	}
	now, err := c.now(ctx)
	if err != nil {
		return out, err
	}
	out.ExpectedAt = at
	if now.Before(*at) {
		out.State = api.Waiting
		return out, nil
	}
	if made != nil {
		return out, json.Unmarshal([]byte(*made), &out)
	}
	if out, err = c.makeReport(ctx, s, id); err != nil {
		return out, fmt.Errorf("making the report of %s: %w", number, err)
	}
	out.ExpectedAt, out.MadeAt = at, at
	text, err := json.Marshal(out)
	if err != nil {
		return out, err
	}
	_, err = c.db.ExecContext(ctx, "UPDATE submission SET report = ? WHERE id = ?", text, id)
	return out, err
}

// submitted is a submission with what its report needs.
type submitted struct {
	id         int64
	student    int64
	number     string
	assignment string
	attempt    int
	files      []api.DraftFile
}

func (c *Campus) makeReport(ctx context.Context, s Student, id int64) (api.Report, error) {
	out := api.Report{State: api.Ready, Sources: []api.SourceText{}}
	all, err := c.submissionsUntil(ctx, id)
	if err != nil {
		return out, err
	}
	this := all[len(all)-1]
	if out.Text, err = c.proseOf(ctx, this); err != nil {
		return out, err
	}
	sources, titles, err := c.sources(ctx, s, this, all[:len(all)-1])
	if err != nil {
		return out, err
	}
	report := similarity.NewIndex(sources).Check(out.Text, similarity.Options{MinWords: similarity.DefaultMinWords})
	out.Report = &report
	named := map[string]bool{}
	for _, p := range report.Passages {
		named[p.Source] = true
	}
	for _, source := range sources {
		if named[source.Name] {
			out.Sources = append(
				out.Sources,
				api.SourceText{Name: source.Name, Title: titles[source.Name], Text: source.Text},
			)
		}
	}
	return out, nil
}

// sources are the readings, the assignment's own words and handouts, and what was submitted before:
// by the same student as own work, by others as theirs, without a name.
func (c *Campus) sources(
	ctx context.Context,
	s Student,
	this submitted,
	before []submitted,
) ([]similarity.Source, map[string]string, error) {
	titles := map[string]string{}
	var sources []similarity.Source
	add := func(name, title, text string, kind similarity.Kind) {
		titles[name] = title
		sources = append(sources, similarity.Source{Name: name, Text: text, Kind: kind})
	}
	rows, err := c.db.QueryContext(ctx, "SELECT name, title, body FROM reading ORDER BY name")
	if err != nil {
		return nil, nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var name, title, body string
		if err := rows.Scan(&name, &title, &body); err != nil {
			return nil, nil, err
		}
		add(name, title, body, similarity.Other)
	}
	if err := rows.Err(); err != nil {
		return nil, nil, err
	}
	a, err := c.assignment(ctx, this.assignment)
	if err != nil {
		return nil, nil, err
	}
	add("instructions", "The instructions of "+a.Title, a.Instructions, similarity.Handout)
	for _, other := range before {
		text, err := c.proseOf(ctx, other)
		if err != nil {
			return nil, nil, err
		}
		if other.student == s.ID {
			add(other.number, fmt.Sprintf("Your own attempt %d, %s", other.attempt, other.number), text, similarity.Own)
		} else {
			add("submission-"+other.number, "Another student's work", text, similarity.Other)
		}
	}
	return sources, titles, nil
}

func (c *Campus) submissionsUntil(ctx context.Context, id int64) ([]submitted, error) {
	rows, err := c.db.QueryContext(
		ctx,
		"SELECT id, student_id, number, assignment_key, attempt, files FROM submission WHERE id <= ? AND number IS "+
			"NOT NULL ORDER BY id",
		id,
	)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var list []submitted
	for rows.Next() {
		var s submitted
		var files []byte
		if err := rows.Scan(&s.id, &s.student, &s.number, &s.assignment, &s.attempt, &files); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(files, &s.files); err != nil {
			return nil, err
		}
		list = append(list, s)
	}
	return list, rows.Err()
}

// proseOf is the text of the files of a submission that hold prose.
func (c *Campus) proseOf(ctx context.Context, s submitted) (string, error) {
	var b strings.Builder
	for _, f := range s.files {
		data, err := c.contents.Read(ctx, f.Sha256)
		if err != nil {
			return "", err
		}
		kind := inspect.Kind(f.Name, data)
		switch kind {
		case "pdf", "docx", "odt", "txt", "md":
		default:
			continue
		}
		text, err := c.texts.Text(ctx, kind, data)
		if err != nil {
			c.log.Warn("a submitted file cannot be read", "submission", s.number, "file", f.Name, "error", err)
			continue
		}
		b.WriteString(text)
		b.WriteByte('\n')
	}
	return b.String(), nil
}
