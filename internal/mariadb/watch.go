package mariadb

import (
	"context"
	"database/sql"
	"fmt"
	"strings"
)

// watched are the tables that a student's roster is read from, each with what finds her by one of their rows, and the
// tables whose rows take some of those with them when they are removed, for which no trigger runs.
var watched = map[string]string{
	"student":    "row.id",
	"enrolment":  "row.student_id",
	"site":       "row.student_id",
	"course":     "row.student_id",
	"assignment": "row.student_id",
	"attempt":    "row.student_id",
	"item":       "row.student_id",
	"version":    "row.student_id",
	"submission": "row.student_id",
	"ledger":     "row.student_id",
	"report":     "row.student_id",
	"returned":   "row.student_id",
	"work":       "row.student_id",
	"pin":        "row.student_id",
	"feed":       "row.student_id",
	"busy":       "row.student_id",
	"handout":    "(SELECT a.student_id FROM assignment a WHERE a.id = row.assignment_id)",
	"part":       "(SELECT a.student_id FROM assignment a WHERE a.id = row.assignment_id)",
	"extension":  ofPart,
	"noted":      ofPart,
}

// watchedFrom is the migration that makes the table in which it is noted.
const watchedFrom = "00013_touched.sql"

const ofPart = "(SELECT a.student_id FROM part p JOIN assignment a ON a.id = p.assignment_id WHERE p.id = row.part_id)"

// watch sees to it that the database notes in the table touched, in the same transaction, for whom a row of the
// watched tables was added, changed or removed. Every writer is seen that way, whatever program it is. Rows are added
// there and none is changed, so that no writer waits for another. Triggers are made at each start where they lack,
// since a backup leaves them out: with them it could be brought back by the account alone that it was made by.
func watch(ctx context.Context, db *sql.DB) error {
	rows, err := db.QueryContext(
		ctx,
		"SELECT trigger_name FROM information_schema.triggers WHERE trigger_schema = DATABASE()",
	)
	if err != nil {
		return fmt.Errorf("looking for triggers: %w", err)
	}
	defer rows.Close()
	there := map[string]bool{}
	for rows.Next() {
		var name string
		if err := rows.Scan(&name); err != nil {
			return fmt.Errorf("looking for triggers: %w", err)
		}
		there[name] = true
	}
	if err := rows.Err(); err != nil {
		return fmt.Errorf("looking for triggers: %w", err)
	}
	for table, whose := range watched {
		for event, row := range map[string]string{"INSERT": "NEW", "UPDATE": "NEW", "DELETE": "OLD"} {
			name := "touch_" + table + "_" + strings.ToLower(event)
			if there[name] {
				continue
			}
			// Selected into a variable nothing is locked; within the INSERT the rows that it goes by would be.
			statement := fmt.Sprintf("CREATE OR REPLACE TRIGGER %s AFTER %s ON %s FOR EACH ROW BEGIN "+
				"DECLARE whose BIGINT; SELECT %s INTO whose; "+
				"IF whose IS NOT NULL THEN INSERT INTO touched (student_id) VALUES (whose); END IF; END",
				name, event, table, strings.ReplaceAll(whose, "row.", row+"."))
			if _, err := db.ExecContext(ctx, statement); err != nil {
				return fmt.Errorf("making the trigger %s (the account needs the privilege TRIGGER): %w", name, err)
			}
		}
	}
	return nil
}
