package track

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"orario/core/brief"
	"orario/core/compare"
	"orario/core/receipt"
	"orario/core/wording"
	"orario/internal/mariadb/query"
)

// An Attempt was sent or is under way.
type Attempt struct {
	Number       int              `json:"number"`
	SubmissionID int64            `json:"submission_id"`
	State        string           `json:"state"`
	Said         string           `json:"said"` // how it stands, in a sentence
	StartedAt    time.Time        `json:"started_at"`
	AcceptedAt   *time.Time       `json:"accepted_at"`
	SentBytes    int64            `json:"sent_bytes"`
	TotalBytes   int64            `json:"total_bytes"`
	MayCancel    bool             `json:"may_cancel"`
	Comment      string           `json:"comment"`
	Files        []FileView       `json:"files"`
	Receipt      *receipt.Receipt `json:"receipt"`
	Proof        *receipt.Proof   `json:"proof"`
	Report       *ReportView      `json:"report"`
	Returned     *ReturnView      `json:"returned"`
	Changes      *compare.Summary `json:"changes"` // since the attempt before
	Strip        []brief.Place    `json:"strip"`
}

// A FileView is a file that was sent.
type FileView struct {
	Name      string `json:"name"`
	Slot      string `json:"slot"`
	Bytes     string `json:"bytes"`
	VersionID int64  `json:"version_id"`
}

// A ReportView is a report as the Desk shows it.
type ReportView struct {
	Ready      bool       `json:"ready"`
	ExpectedAt *time.Time `json:"expected_at"`
	Share      float64    `json:"share"`
	Said       string     `json:"said"`
}

// A ReturnView is what came back of an attempt.
type ReturnView struct {
	Mark     *float64  `json:"mark"`
	Points   float64   `json:"points"`
	Comments []Comment `json:"comments"`
	Invited  bool      `json:"invited"`
	Worth    string    `json:"worth"` // what a correction could still gain
}

// A Comment of the instructor.
type Comment struct {
	Text   string   `json:"text"`
	Open   bool     `json:"open"`
	Points *float64 `json:"points,omitempty"`
}

func (s Service) attempts(ctx context.Context, student int64, t *tracked) ([]Attempt, error) {
	out := []Attempt{}
	if len(t.Submissions) == 0 {
		return out, nil
	}
	files, err := s.Store.SubmissionFiles(ctx, student)
	if err != nil {
		return nil, err
	}
	ledger, err := s.Store.Ledger(ctx, student)
	if err != nil {
		return nil, err
	}
	var before *query.Submission
	for i, sub := range t.Submissions {
		if sub.State == query.SubmissionStateCancelled {
			continue
		}
		a := Attempt{
			Number: int(sub.Attempt), SubmissionID: sub.ID, State: string(sub.State), StartedAt: sub.StartedAt, SentBytes: sub.SentBytes, TotalBytes: sub.TotalBytes,
			Comment: sub.Comment, Files: []FileView{}, Strip: brief.Strip(t.progress(sub)),
		}
		for _, f := range files {
			if f.SubmissionID == sub.ID {
				a.Files = append(a.Files, FileView{f.Name, f.Slot, wording.Bytes(f.Bytes), f.VersionID})
			}
		}
		for _, row := range ledger {
			if row.SubmissionID == sub.ID {
				a.Receipt, a.Proof = &receipt.Receipt{}, &receipt.Proof{}
				if err := json.Unmarshal(row.Receipt, a.Receipt); err != nil {
					return nil, err
				}
				if err := json.Unmarshal(row.Proof, a.Proof); err != nil {
					return nil, err
				}
			}
		}
		t.say(&a, sub)
		if sub.State == query.SubmissionStateAccepted {
			at := sub.AcceptedAt.Time
			a.AcceptedAt = &at
			if before != nil {
				if a.Changes, err = s.Changes.Changes(ctx, student, *before, sub); err != nil {
					return nil, err
				}
			}
			before = &t.Submissions[i]
		}
		out = append(out, a)
	}
	slices.Reverse(out)
	return out, nil
}

// say adds how the attempt stands and what came back of it.
func (t *tracked) say(a *Attempt, sub query.Submission) {
	switch sub.State {
	case query.SubmissionStateSending:
		a.Said = fmt.Sprintf("On its way: %s of %s.", wording.Bytes(sub.SentBytes), wording.Bytes(sub.TotalBytes))
		if sub.Reason != "" {
			a.Said = "The site cannot be reached; Orario keeps trying. You need not stay here. (" + sub.Reason + ")"
		}
		a.MayCancel = !sub.DraftID.Valid
	case query.SubmissionStateRefused:
		a.Said = "The site refused it: " + sub.Reason
	case query.SubmissionStateAccepted:
		a.Said = fmt.Sprintf("Accepted as %s, %s.", sub.Number, beforeOrAfter(t.line.Due.Sub(sub.AcceptedAt.Time)))
	}
	if r, ok := t.reports[sub.ID]; ok {
		a.Report = &ReportView{Ready: r.State == query.ReportStateReady}
		if r.ExpectedAt.Valid {
			a.Report.ExpectedAt = &r.ExpectedAt.Time
		}
		if a.Report.Ready {
			a.Report.Share = r.Share.Float64
			a.Report.Said = fmt.Sprintf("%.0f %% of the text needs a decision.", 100*r.Share.Float64)
		} else {
			a.Report.Said = "The report is being made, expected " + t.local(r.ExpectedAt.Time) + "."
		}
	}
	if m, ok := t.Returned[sub.ID]; ok {
		v := &ReturnView{Points: m.Points, Invited: m.Invited, Comments: []Comment{}}
		_ = json.Unmarshal(m.Comments, &v.Comments) // as stored by package review
		if m.Mark.Valid {
			v.Mark = &m.Mark.Float64
			if lost := m.Points - m.Mark.Float64; lost > 0 && t.line.State == Back {
				v.Worth = fmt.Sprintf("A correction could gain up to %g points, %.1f %% of the course.", lost, lost/max(1, m.Points)*t.Assignment.Weight)
			}
		}
		a.Returned = v
	}
}

func beforeOrAfter(left time.Duration) string {
	if left >= 0 {
		return wording.Span(left) + " before due"
	}
	return wording.Span(-left) + " after due"
}
