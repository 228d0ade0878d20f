package desk

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"orario/core/agenda"
	"orario/core/compare"
	"orario/core/coursework"
	"orario/core/receipt"
	"orario/core/wording"
)

// An Attempt was sent or is under way.
type Attempt struct {
	Number       int                        `json:"number"`
	SubmissionID int64                      `json:"submission_id"`
	State        coursework.SubmissionState `json:"state"`
	Said         string                     `json:"said"` // how it stands, in a sentence
	StartedAt    time.Time                  `json:"started_at"`
	AcceptedAt   *time.Time                 `json:"accepted_at"`
	SentBytes    int64                      `json:"sent_bytes"`
	TotalBytes   int64                      `json:"total_bytes"`
	MayCancel    bool                       `json:"may_cancel"`
	Comment      string                     `json:"comment"`
	Files        []File                     `json:"files"`
	Receipt      *receipt.Receipt           `json:"receipt"`
	Proof        *receipt.Proof             `json:"proof"`
	Report       *Report                    `json:"report"`
	Returned     *Return                    `json:"returned"`
	Changes      *compare.Summary           `json:"changes"` // since the attempt before
	Strip        []coursework.Place         `json:"strip"`
}

// A File that was sent.
type File struct {
	Name      string `json:"name"`
	Slot      string `json:"slot"`
	Bytes     string `json:"bytes"`
	VersionID int64  `json:"version_id"`
}

// A Report as the Desk shows it.
type Report struct {
	Ready      bool       `json:"ready"`
	ExpectedAt *time.Time `json:"expected_at"`
	Share      float64    `json:"share"`
	Said       string     `json:"said"`
}

// A Return is what came back of an attempt.
type Return struct {
	Mark     *float64             `json:"mark"`
	Points   float64              `json:"points"`
	Comments []coursework.Comment `json:"comments"`
	Invited  bool                 `json:"invited"`
	Worth    string               `json:"worth"` // what a correction could still gain
}

// attempts are those of a part, the newest first.
func (s Service) attempts(ctx context.Context, student int64, e *agenda.Entry, more details) ([]Attempt, error) {
	out := []Attempt{}
	before := int64(0)
	for _, sub := range e.Part.Submissions() {
		a := Attempt{
			Number:       sub.Attempt,
			SubmissionID: sub.ID,
			State:        sub.State,
			StartedAt:    sub.StartedAt,
			SentBytes:    sub.SentBytes,
			TotalBytes:   sub.TotalBytes,
			Comment:      sub.Comment,
			AcceptedAt:   sub.AcceptedAt,
			Files:        []File{},
			Strip:        e.StripOf(sub),
			Said:         said(e, sub),
			MayCancel:    sub.State == coursework.Carried && !sub.Begun,
			Report:       report(e, sub),
			Returned:     returned(e, sub),
		}
		for _, f := range more.files[sub.ID] {
			a.Files = append(a.Files, File{f.Name, f.Slot, wording.Bytes(f.Bytes), f.VersionID})
		}
		if row, ok := more.ledger[sub.ID]; ok {
			a.Receipt, a.Proof = &receipt.Receipt{}, &receipt.Proof{}
			if err := json.Unmarshal(row.Received, a.Receipt); err != nil {
				return nil, fmt.Errorf("reading a receipt: %w", err)
			}
			if err := json.Unmarshal(row.Proof, a.Proof); err != nil {
				return nil, fmt.Errorf("reading a proof: %w", err)
			}
		}
		if sub.State == coursework.Accepted {
			var err error
			if before != 0 {
				if a.Changes, err = s.Changes.Changes(ctx, student, before, sub.ID); err != nil {
					return nil, err
				}
			}
			before = sub.ID
		}
		out = append(out, a)
	}
	slices.Reverse(out)
	return out, nil
}

// said is how an attempt stands.
func said(e *agenda.Entry, sub *coursework.Submission) string {
	switch {
	case sub.State == coursework.Carried && sub.Reason != "":
		return "The site cannot be reached; Orario keeps trying. You need not stay here. (" + sub.Reason + ")"
	case sub.State == coursework.Carried:
		return fmt.Sprintf("On its way: %s of %s.", wording.Bytes(sub.SentBytes), wording.Bytes(sub.TotalBytes))
	case sub.State == coursework.Refused:
		return "The site refused it: " + sub.Reason
	case sub.State == coursework.Accepted:
		return fmt.Sprintf("Accepted as %s, %s.", sub.Number, beforeOrAfter(e.Window.Due.At().Sub(*sub.AcceptedAt)))
	}
	return ""
}

func beforeOrAfter(left time.Duration) string {
	if left >= 0 {
		return wording.Span(left) + " before due"
	}
	return wording.Span(-left) + " after due"
}

func report(e *agenda.Entry, sub *coursework.Submission) *Report {
	r := sub.Report
	switch {
	case r == nil:
		return nil
	case r.Ready:
		return &Report{true, r.ExpectedAt, r.Share, fmt.Sprintf("%.0f %% of the text needs a decision.", 100*r.Share)}
	case r.ExpectedAt == nil:
		return &Report{Said: "The report is being made."}
	}
	return &Report{ExpectedAt: r.ExpectedAt, Said: "The report is being made, expected " + e.Local(*r.ExpectedAt) + "."}
}

func returned(e *agenda.Entry, sub *coursework.Submission) *Return {
	m := sub.Return
	if m == nil {
		return nil
	}
	v := &Return{Mark: m.Mark, Points: m.Points, Invited: m.Invited, Comments: m.Comments}
	last, _ := e.Part.Last()
	if points, percent := e.Gain(); points > 0 && sub == last {
		v.Worth = fmt.Sprintf("A correction could gain up to %g points, %.1f %% of the course.", points, percent)
	}
	return v
}
