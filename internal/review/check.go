package review

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"orario/core/coursework"
	"orario/core/inspect"
	"orario/core/similarity"
	"orario/internal/announce"
	"orario/internal/courier"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/roster"
)

// Texts take the text out of files.
type Texts interface {
	// TextOf is empty where there is none to be read.
	TextOf(ctx context.Context, file inspect.Stored) (string, error)
	// Keep puts a finished upload into the Library.
	Keep(ctx context.Context, student int64, upload string) (version int64, err error)
}

// doubt is what a check of one's own can not know.
const doubt = "This compares only with what you have here. The course site's collection is larger, and may find more."

// CheckOwn compares the bundle of an assignment's part with what the student has: earlier work, handouts, the
// instructions, and the sources that were added.
func (s Service) CheckOwn(ctx context.Context, student, assignment, part int64) error {
	facts, state, err := roster.Find(
		ctx, s.Store, student, assignment, part, s.Now(), roster.WithInstructions(assignment),
	)
	if err != nil {
		return err
	}
	if len(state.Items) == 0 {
		return refusal.Say("The bundle is empty. Put in what you want to have checked.")
	}
	text, err := s.bundleText(ctx, student, state.Items)
	if err != nil {
		return err
	}
	if text == "" {
		return refusal.Say("There is no text in the bundle that could be compared: %s.", reasonWithout(state.Items))
	}
	against, err := s.compared(ctx, student, facts.Instructions, state)
	if err != nil {
		return err
	}
	if len(against) == 0 {
		return refusal.Say("There is nothing to compare with yet: no earlier work of yours, no handout with text. " +
			"Add a source first.")
	}
	sources := make([]similarity.Source, len(against))
	for i, c := range against {
		sources[i] = c.Source
	}
	report := similarity.NewIndex(sources).Check(text, similarity.Options{MinWords: similarity.DefaultMinWords})
	now := s.Now().UTC()
	body := courier.Report{State: courier.Ready, MadeAt: &now, Text: text, Report: &report}
	for _, c := range against {
		named := func(p similarity.Passage) bool { return p.Source == c.Name }
		kept := courier.SourceText{Name: c.Name, Title: c.title}
		if slices.ContainsFunc(report.Passages, named) {
			kept.Text = c.Text
		}
		body.Sources = append(body.Sources, kept)
	}
	encoded, err := json.Marshal(body)
	if err != nil {
		return err
	}
	return s.keepCheck(ctx, state.ID, query.PutOwnCheckParams{
		AttemptID: attemptID(state.Part, state.Number), StudentID: student,
		MadeAt: now, Mark: state.Mark(), Body: string(encoded),
	})
}

func reasonWithout(items []coursework.Item) string {
	for _, i := range items {
		if i.Facts != nil && i.Facts.Kind == "pdf" {
			return "the pages of " + i.Name + " are pictures"
		}
	}
	return "no PDF, document, web page or text file is among the files"
}

// attemptID is that of a part's attempt by its number; 0: it was not begun.
func attemptID(part *coursework.Part, number int) int64 {
	for _, t := range part.Attempts {
		if t.Number == number {
			return t.ID
		}
	}
	return 0
}

// keepCheck stores a check in place of the attempt's last one.
func (s Service) keepCheck(ctx context.Context, assignment int64, check query.PutOwnCheckParams) error {
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		if err := q.RemoveOwnPassages(ctx, check.AttemptID); err != nil {
			return err
		}
		if err := q.PutOwnCheck(ctx, check); err != nil {
			return fmt.Errorf("keeping a check: %w", err)
		}
		return announce.Tell(ctx, q, s.Now(), announce.Event{
			Student: check.StudentID, Assignment: assignment, Kind: announce.Bundle,
		})
	})
}

// bundleText is the prose of a bundle's files, in their order.
func (s Service) bundleText(ctx context.Context, student int64, items []coursework.Item) (string, error) {
	var texts []string
	for _, i := range items {
		v, err := s.Store.Version(ctx, query.VersionParams{ID: i.Version, StudentID: student})
		if err != nil {
			return "", err
		}
		if isProse(v.Kind) && strings.TrimSpace(v.Body) != "" {
			texts = append(texts, strings.TrimSpace(v.Body))
		}
	}
	return strings.Join(texts, "\n\n"), nil
}

// isProse says whether what a kind of file holds is running text.
func isProse(kind string) bool { return kind != "csv" && kind != "tsv" }

// ReadOwn lays out the last check of one's own of a part's work; nil where it was never checked.
func (s Service) ReadOwn(ctx context.Context, student, assignment, part int64) (*Reading, error) {
	facts, state, err := roster.Find(ctx, s.Store, student, assignment, part, s.Now())
	if err != nil {
		return nil, err
	}
	row, body, err := s.ownCheck(s.Store.OwnCheckOfPart(ctx, query.OwnCheckOfPartParams{
		PartID: state.Part.ID, StudentID: student,
	}))
	if errors.Is(err, refusal.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	rows, err := s.Store.OwnPassages(ctx, row.AttemptID)
	if err != nil {
		return nil, err
	}
	handled := map[int]string{}
	for _, h := range rows {
		handled[int(h.N)] = string(h.Handled)
	}
	r := layOut(state, body, handled)
	r.Own, r.PartID, r.MadeAt, r.Attempt = true, state.Part.ID, row.MadeAt, state.Number
	for _, t := range state.Part.Attempts {
		if t.ID == row.AttemptID {
			r.Attempt = t.Number
		}
	}
	r.Doubt, r.Compared = doubt, comparedWith(body.Sources)
	r.Stale = row.Mark != state.Mark()
	r.MoreRounds = moreRounds(state, facts.Margin)
	return r, nil
}

func (s Service) ownCheck(row query.OwnCheck, err error) (query.OwnCheck, courier.Report, error) {
	var body courier.Report
	if errors.Is(err, sql.ErrNoRows) {
		return row, body, refusal.ErrNotFound
	}
	if err != nil {
		return row, body, err
	}
	if err := json.Unmarshal([]byte(row.Body), &body); err != nil {
		return row, body, fmt.Errorf("reading a check: %w", err)
	}
	return row, body, nil
}

// HandleOwn notes what the student did about a passage of the own check; see [Service.Handle].
func (s Service) HandleOwn(ctx context.Context, student, assignment, part int64, n int, how string) error {
	_, state, err := roster.Find(ctx, s.Store, student, assignment, part, s.Now())
	if err != nil {
		return err
	}
	row, body, err := s.ownCheck(s.Store.OwnCheckOfPart(ctx, query.OwnCheckOfPartParams{
		PartID: state.Part.ID, StudentID: student,
	}))
	if err != nil {
		return err
	}
	if err := handles(*body.Report, n, how); err != nil {
		return err
	}
	if how == "" {
		return s.Store.RemoveOwnPassage(ctx, query.RemoveOwnPassageParams{AttemptID: row.AttemptID, N: int32(n)})
	}
	return s.Store.PutOwnPassage(ctx, query.PutOwnPassageParams{
		AttemptID: row.AttemptID, N: int32(n), Handled: query.OwnPassageHandled(how),
	})
}

// foreseen tells in a site's report what the student's own check of that attempt had found and what it had not.
func (s Service) foreseen(ctx context.Context, student, attempt int64, r *Reading, body courier.Report) error {
	_, own, err := s.ownCheck(s.Store.OwnCheckOfAttempt(ctx, query.OwnCheckOfAttemptParams{
		AttemptID: attempt, StudentID: student,
	}))
	if errors.Is(err, refusal.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	known := similarity.Foreseen(*body.Report, body.Text, *own.Report, own.Text)
	had := 0
	for i := range r.Passages {
		p := &r.Passages[i]
		p.Foreseen = &known[p.N]
		if p.Rank > 0 && known[p.N] {
			had++
		}
	}
	if r.Counting > 0 {
		r.Foreseen = fmt.Sprintf("Your own check had found %d of the %d that count.", had, r.Counting)
	}
	return nil
}
