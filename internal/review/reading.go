package review

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/compare"
	"orario/core/similarity"
	"orario/core/timing"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
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
	Passages     []Passage `json:"passages"`
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
	Rank        int               `json:"rank"`    // 1 is the heaviest of those that count; 0: does not count
}

var advice = map[similarity.Remedy]string{
	similarity.Leave:   "Nothing to do: it is quoted and attributed, or was given to you.",
	similarity.Quote:   "The source is named; put the words in quotation marks.",
	similarity.Cite:    "Name where this comes from.",
	similarity.Rewrite: "Say it in your own words, or quote it.",
	similarity.OwnWork: "Your own earlier version; ask whether that may be used again.",
}

var exclusions = map[string]string{
	"quotation": "quotations", "bibliography": "the bibliography", "handout": "handout text", "own": "your own earlier work", "source": "sources left out by choice",
}

// Read lays out the report of a submission.
func (s Service) Read(ctx context.Context, student, submission int64) (*Reading, error) {
	row, body, err := s.report(ctx, student, submission)
	if err != nil {
		return nil, err
	}
	states, err := prepare.Load(ctx, s.Store, student, s.Now())
	if err != nil {
		return nil, err
	}
	var state *prepare.State
	var sub query.Submission
	for _, candidate := range states {
		for _, made := range candidate.Submissions {
			if made.ID == submission {
				state, sub = candidate, made
			}
		}
	}
	if state == nil {
		return nil, prepare.ErrNotFound
	}
	handled := map[string]string{}
	if err := json.Unmarshal(row.Handled, &handled); err != nil {
		return nil, fmt.Errorf("reading what was done about passages: %w", err)
	}
	r := &Reading{
		SubmissionID: submission, AssignmentID: sub.AssignmentID, Title: state.Assignment.Title, Course: state.Course.Code, Attempt: int(sub.Attempt),
		MadeAt: row.MadeAt.Time, Zone: state.Course.Zone, Text: body.Text, Length: body.Report.Length, Share: body.Report.Share, MoreRounds: moreRounds(state),
	}
	titles, texts := map[string]string{}, map[string][]rune{}
	for _, source := range body.Sources {
		titles[source.Name], texts[source.Name] = source.Title, []rune(source.Text)
	}
	for n, p := range body.Report.Passages {
		r.Passages = append(r.Passages, passage(n, p, r.Length, titles[p.Source], texts[p.Source], handled[fmt.Sprint(n)], []rune(body.Text)))
	}
	rank(r.Passages)
	r.LeftOut = leftOut(body.Report.Passages)
	return r, s.sinceBefore(ctx, state, sub, r, *body.Report)
}

// aroundSource is how much of a source is shown on either side of a match, in code points.
const aroundSource = 140

func passage(n int, p similarity.Passage, length int, title string, source []rune, handled string, text []rune) Passage {
	cut := func(from, to int) string {
		from, to = max(0, min(from, len(source))), max(0, min(to, len(source)))
		return string(source[from:max(from, to)])
	}
	return Passage{
		N: n, Start: p.Start, End: p.End, Remedy: p.Remedy, Excluded: p.Excluded, Share: float64(p.End-p.Start) / float64(max(1, length)), Exact: p.Exact,
		Words:  len(strings.Fields(string(text[min(p.Start, len(text)):min(p.End, len(text))]))),
		Source: p.Source, SourceTitle: cmp.Or(title, p.Source), Before: cut(p.SourceStart-aroundSource, p.SourceStart), Match: cut(p.SourceStart, p.SourceEnd),
		After: cut(p.SourceEnd, p.SourceEnd+aroundSource), Advice: advice[p.Remedy], Handled: handled,
	}
}

// rank numbers the passages that count, the heaviest first.
func rank(passages []Passage) {
	var order []int
	for i, p := range passages {
		if p.Excluded == "" {
			order = append(order, i)
		}
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(passages[b].Share, passages[a].Share) })
	for place, i := range order {
		passages[i].Rank = place + 1
	}
}

func leftOut(passages []similarity.Passage) []string {
	list := []string{}
	small := 0
	for _, p := range passages {
		if p.Excluded == "small" {
			small++
		} else if name, ok := exclusions[p.Excluded]; ok && !slices.Contains(list, name) {
			list = append(list, name)
		}
	}
	if small == 1 {
		list = append(list, fmt.Sprintf("1 match under %d words", similarity.DefaultMinWords))
	} else if small > 1 {
		list = append(list, fmt.Sprintf("%d matches under %d words", small, similarity.DefaultMinWords))
	}
	return list
}

// moreRounds says whether another report can still be had before due.
func moreRounds(state *prepare.State) string {
	may, why := state.MayGoOn()
	if !may {
		return "Another version cannot be sent: " + why + "."
	}
	if state.Sheet.Report == nil || state.Attempt > state.Sheet.Report.Drafts {
		return "Another version can be sent; it is not checked again."
	}
	left := state.Sheet.Report.Drafts - state.Attempt + 1
	job := state.Job()
	if timing.RoundsLeft(state.Now, state.Window.Due.At(), job, state.Attempt > 1, left) == 0 {
		return "Another version can be sent, but its report would come after due."
	}
	latest := state.Window.Due.At().Add(-job.LaterReport - job.Fix)
	return fmt.Sprintf("Another report fits if you send by %s.", latest.In(state.Window.Zone).Format("Mon 2 Jan 15:04"))
}

// sinceBefore adds the comparison with the report of the attempt before.
func (s Service) sinceBefore(ctx context.Context, state *prepare.State, sub query.Submission, r *Reading, now similarity.Report) error {
	for _, earlier := range slices.Backward(state.Submissions) {
		if earlier.Attempt >= sub.Attempt {
			continue
		}
		_, before, err := s.report(ctx, sub.StudentID, earlier.ID)
		if err == prepare.ErrNotFound {
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
	row, body, err := s.report(ctx, student, submission)
	if err != nil {
		return err
	}
	if n < 0 || n >= len(body.Report.Passages) || how != "" && how != "fixed" && how != "not_mine" {
		return prepare.Complaint{Message: "The report has no such passage."}
	}
	handled := map[string]string{}
	if err := json.Unmarshal(row.Handled, &handled); err != nil {
		return err
	}
	handled[fmt.Sprint(n)] = how
	text, err := json.Marshal(handled)
	if err != nil {
		return err
	}
	return s.Store.SetReportHandled(ctx, query.SetReportHandledParams{Handled: text, SubmissionID: submission, StudentID: student})
}

// Changes says what changed in the prose of an attempt since the one before it; nil where there is
// nothing to compare.
func (s Service) Changes(ctx context.Context, student int64, before, after query.Submission) (*compare.Summary, error) {
	old, err := s.prose(ctx, student, before.ID)
	if err != nil {
		return nil, err
	}
	now, err := s.prose(ctx, student, after.ID)
	if err != nil || old == "" || now == "" {
		return nil, err
	}
	summary := compare.Texts(old, now)
	const most = 12
	summary.Changes = summary.Changes[:min(len(summary.Changes), most)]
	for i := range summary.Changes {
		c := &summary.Changes[i]
		c.Before, c.After = clip(c.Before), clip(c.After)
	}
	return &summary, nil
}

func clip(text string) string {
	if runes := []rune(text); len(runes) > 300 {
		return string(runes[:300]) + "…"
	}
	return text
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
		if v.Kind != "csv" && v.Kind != "tsv" {
			b.WriteString(v.Body)
			b.WriteByte('\n')
		}
	}
	return strings.TrimSpace(b.String()), nil
}
