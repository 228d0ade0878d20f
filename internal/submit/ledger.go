package submit

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"orario/core/receipt"
	"orario/core/wording"
)

// An Entry of the ledger: a receipt with its proof.
type Entry struct {
	ID           int64           `json:"id"`
	SubmissionID int64           `json:"submission_id"`
	AssignmentID int64           `json:"assignment_id"`
	Course       string          `json:"course"`
	Title        string          `json:"title"`
	Zone         string          `json:"zone"`
	RecordedAt   time.Time       `json:"recorded_at"`
	Receipt      receipt.Receipt `json:"receipt"`
	Proof        receipt.Proof   `json:"proof"`
	Bytes        string          `json:"bytes"`
}

// Ledger lists all receipts of a student, the newest first.
func (s Service) Ledger(ctx context.Context, student int64) ([]Entry, error) {
	rows, err := s.Store.Ledger(ctx, student)
	if err != nil {
		return nil, fmt.Errorf("reading the ledger: %w", err)
	}
	list := []Entry{}
	for _, row := range rows {
		e := Entry{
			ID:           row.ID,
			SubmissionID: row.SubmissionID,
			AssignmentID: row.AssignmentID,
			Course:       row.Code,
			Title:        row.Title,
			Zone:         row.Zone,
			RecordedAt:   row.RecordedAt,
		}
		if err := json.Unmarshal(row.Received, &e.Receipt); err != nil {
			return nil, fmt.Errorf("reading a receipt: %w", err)
		}
		if err := json.Unmarshal(row.Proof, &e.Proof); err != nil {
			return nil, fmt.Errorf("reading a proof: %w", err)
		}
		total := int64(0)
		for _, f := range e.Receipt.Files {
			total += f.Bytes
		}
		e.Bytes = wording.Bytes(total)
		list = append(list, e)
	}
	return list, nil
}
