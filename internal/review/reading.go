package review

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/compare"
	"orario/core/coursework"
	"orario/core/similarity"
	"orario/core/timing"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/roster"
)

// A Reading is a report laid out for the reading room.
type Reading struct {
	SubmissionID int64     `json:"submission_id"`
	AssignmentID int64     `json:"assignment_id"`
	Title        string    `json:"title"`
	Course       string    `json:"course"`
	Attempt      int       `json:"attempt"`
	MadeAt       time.Time `json:"made_at"`
	Zone         string    `json:"zone"`
	Text         string    `json:"text"`
	Length       int       `json:"length"`      // code points
	Share        float64   `json:"share"`       // needs a decision, 0 to 1
	ShareWas     *float64  `json:"share_was"`   // in the report before
	Gone         int       `json:"gone"`        // passages gone since
	LeftOut      []string  `json:"left_out"`    // what does not count, in words
	MoreRounds   string    `json:"more_rounds"` // what is still possible, as a sentence
	MayGoOn      bool      `json:"may_go_on"`   // another version can be sent
	Passages     []Passage `json:"passages"`
	// What asks for which remedy, every character once
	Remedies []similarity.RemedyShare `json:"remedies"`
	Counting int                      `json:"counting"` // passages that need a decision
	Summary  string                   `json:"summary"`  // Counting and Share in words

	// Of the student's own check before sending
	Own      bool   `json:"own"`
	PartID   int64  `json:"part_id"`
	Doubt    string `json:"doubt"`    // what such a check can not know
	Compared string `json:"compared"` // with what, in words
	Stale    bool   `json:"stale"`    // the bundle has changed since
	// Of a site's report: what the own check had found of it, in words
	Foreseen string `json:"foreseen"`
}

// A Passage is one of a report, with the words of its source around it.
type Passage struct {
	N           int               `json:"n"`
	Start       int               `json:"start"`
	End         int               `json:"end"`
	Remedy      similarity.Remedy `json:"remedy"`
	Excluded    string            `json:"excluded"`
	Share       float64           `json:"share"`
	Exact       float64           `json:"exact"`
	Words       int               `json:"words"`
	Source      string            `json:"source"`
	SourceTitle string            `json:"source_title"`
	Before      string            `json:"before"`
	Match       string            `json:"match"`
	After       string            `json:"after"`
	Advice      string            `json:"advice"`
	Handled     string            `json:"handled"` // fixed, not_mine or empty
	Also        []string          `json:"also"`    // titles of other sources that have the same words
	Rank        int               `json:"rank"`    // 1 is the heaviest of those that count; 0: does not count
	// In a site's report: the student's own check had found it; nil where there was none
	Foreseen *bool `json:"foreseen"`
}

// Read lays out the report of a submission.
func (s Service) Read(ctx context.Context, student, submission int64) (*Reading, error) {
	row, body, err := s.report(ctx, student, submission)
	if err != nil {
		return nil, err
	}
	facts, err := roster.Read(ctx, s.Store, student, s.Now())
	if err != nil {
		return nil, err
	}
	state, sub := submitted(facts, submission)
	if state == nil {
		return nil, refusal.ErrNotFound
	}
	handled, err := s.handled(ctx, submission)
	if err != nil {
		return nil, err
	}
	r := layOut(state, body, handled)
	r.SubmissionID, r.Attempt, r.MadeAt = submission, sub.Attempt, row.MadeAt.Time
	r.MoreRounds = moreRounds(state, facts.Margin)
	if err := s.foreseen(ctx, student, attemptID(state.Part, sub.Attempt), r, body); err != nil {
		return nil, err
	}
	return r, s.sinceBefore(ctx, student, state, sub, r, *body.Report)
}

// submitted finds a submission and where its assignment stands, seen from its part.
func submitted(r *roster.Roster, submission int64) (*coursework.Standing, *coursework.Submission) {
	for _, a := range r.Assignments {
		for _, p := range a.Parts {
			for _, sub := range p.Submissions() {
				if sub.ID == submission {
					state, err := r.Standing(a.ID, p.ID)
					if err != nil {
						return nil, nil
					}
					return state, sub
				}
			}
		}
	}
	return nil, nil
}

// handled is what the student did about passages, by their numbers.
func (s Service) handled(ctx context.Context, submission int64) (map[int]string, error) {
	rows, err := s.Store.Passages(ctx, submission)
	out := map[int]string{}
	for _, row := range rows {
		out[int(row.N)] = string(row.Handled)
	}
	return out, err
}

// moreRounds says whether another report can still be had before due.
func moreRounds(state *coursework.Standing, margin time.Duration) string {
	may, why := state.MayGoOn()
	if !may {
		return "Another version cannot be sent: " + why + "."
	}
	if state.Sheet.Report == nil || state.Number > state.Sheet.Report.Drafts {
		return "Another version can be sent; it is not checked again."
	}
	left := state.Sheet.Report.Drafts - state.Number + 1
	job, due := state.Job(margin), state.Window.Due.At()
	if timing.RoundsLeft(state.Now, due, job, state.Number > 1, left) == 0 {
		return "Another version can be sent, but its report would come after due."
	}
	return fmt.Sprintf("Another report fits if you send by %s.", state.Local(due.Add(-job.LaterReport-job.Fix)))
}

// sinceBefore adds the comparison with the report of the attempt before.
func (s Service) sinceBefore(
	ctx context.Context, student int64, state *coursework.Standing, sub *coursework.Submission, r *Reading,
	now similarity.Report,
) error {
	for _, earlier := range slices.Backward(state.Part.Submissions()) {
		if earlier.Attempt >= sub.Attempt {
			continue
		}
		_, before, err := s.report(ctx, student, earlier.ID)
		if errors.Is(err, refusal.ErrNotFound) {
			continue
		}
		if err != nil {
			return err
		}
		r.ShareWas = &before.Report.Share
		r.Gone = len(similarity.Gone(*before.Report, now))
		return nil
	}
	return nil
}

// Handle notes what the student did about a passage: "fixed", "not_mine", or empty to take it back.
func (s Service) Handle(ctx context.Context, student, submission int64, n int, how string) error {
	_, body, err := s.report(ctx, student, submission)
	if err != nil {
		return err
	}
	if err := handles(*body.Report, n, how); err != nil {
		return err
	}
	if how == "" {
		return s.Store.RemovePassage(ctx, query.RemovePassageParams{SubmissionID: submission, N: int32(n)})
	}
	return s.Store.PutPassage(
		ctx,
		query.PutPassageParams{SubmissionID: submission, N: int32(n), Handled: query.PassageHandled(how)},
	)
}

// handles refuses a note about a passage that is none.
func handles(report similarity.Report, n int, how string) error {
	if n < 0 || n >= len(report.Passages) {
		return refusal.Say("The report has no such passage.")
	}
	switch how {
	case "", string(query.PassageHandledFixed), string(query.PassageHandledNotMine):
		return nil
	}
	return refusal.Say("A passage is fixed or not yours, not %q.", how)
}

// Changes says what changed in the prose of a submission since the one before it; nil where there is
// nothing to compare.
func (s Service) Changes(ctx context.Context, student int64, before, after int64) (*compare.Summary, error) {
	old, err := s.prose(ctx, student, before)
	if err != nil {
		return nil, err
	}
	now, err := s.prose(ctx, student, after)
	if err != nil || old == "" || now == "" {
		return nil, err
	}
	summary := compare.Texts(old, now).Shown()
	return &summary, nil
}

func (s Service) prose(ctx context.Context, student, submission int64) (string, error) {
	files, err := s.Store.FilesOfSubmission(ctx, submission)
	if err != nil {
		return "", err
	}
	var b strings.Builder
	for _, f := range files {
		v, err := s.Store.Version(ctx, query.VersionParams{ID: f.VersionID, StudentID: student})
		if err != nil {
			return "", err
		}
		if isProse(v.Kind) {
			b.WriteString(v.Body)
			b.WriteByte('\n')
		}
	}
	return strings.TrimSpace(b.String()), nil
}
