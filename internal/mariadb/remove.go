package mariadb

import (
	"context"
	"database/sql"
	"fmt"
)

// ofStudent are the statements that remove all rows of a student, in an order that the references between them allow.
// What belongs to an assignment, a feed or the student alone goes with it.
var ofStudent = []string{
	"DELETE p FROM passage p JOIN submission s ON s.id = p.submission_id WHERE s.student_id = ?",
	"DELETE FROM returned WHERE student_id = ?",
	"DELETE FROM report WHERE student_id = ?",
	"DELETE FROM ledger WHERE student_id = ?",
	"DELETE f FROM submission_file f JOIN submission s ON s.id = f.submission_id WHERE s.student_id = ?",
	"DELETE FROM submission WHERE student_id = ?",
	"DELETE FROM item WHERE student_id = ?",
	"DELETE FROM workpiece WHERE student_id = ?",
	"DELETE FROM writing WHERE student_id = ?",
	"DELETE FROM pass WHERE student_id = ?",
	"UPDATE attempt SET begun_from = NULL WHERE student_id = ?",
	"DELETE FROM source WHERE student_id = ?",
	"DELETE FROM own_check WHERE student_id = ?",
	"DELETE FROM assignment WHERE student_id = ?",
	"DELETE FROM feed WHERE student_id = ?",
	"DELETE FROM course WHERE student_id = ?",
	"DELETE k FROM site_key k JOIN site s ON s.id = k.site_id WHERE s.student_id = ?",
	"DELETE FROM site WHERE student_id = ?",
	"DELETE FROM enrolment WHERE student_id = ?",
	"UPDATE version SET made_from = NULL WHERE student_id = ?",
	"DELETE FROM version WHERE student_id = ?",
	"DELETE FROM saved_view WHERE student_id = ?",
	"DELETE FROM reminder WHERE student_id = ?",
	"DELETE FROM event WHERE student_id = ?",
	"DELETE FROM job WHERE student_id = ?",
	"UPDATE upload SET created_at = '2000-01-01' WHERE owner = ?", // the next purge takes it, with its content
	"DELETE FROM student WHERE id = ?",
	"DELETE FROM touched WHERE student_id = ?",
}

// RemoveStudent removes an account with everything in it. The contents of its files go with the next purge.
func (d *DB) RemoveStudent(ctx context.Context, id int64) error {
	return InTx(ctx, d.SQL, func(tx *sql.Tx) error {
		for _, statement := range ofStudent {
			if _, err := tx.ExecContext(ctx, statement, id); err != nil {
				return fmt.Errorf("removing an account: %w", err)
			}
		}
		return nil
	})
}
