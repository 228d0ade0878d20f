package campus

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"

	api "orario/internal/campus/campusapi"
)

// Return stores the mark of a submission with the instructor's comments, and whether the student is
// invited to send again.
func (c *Campus) Return(ctx context.Context, number string, mark float64, comments []api.Comment, invited bool) error {
	now, err := c.now(ctx)
	if err != nil {
		return err
	}
	text, err := json.Marshal(append([]api.Comment{}, comments...)) // a list, also when there is none
	if err != nil {
		return err
	}
	_, err = c.db.ExecContext(ctx, `UPDATE submission s JOIN student st ON st.id = s.student_id
		SET s.mark = ?, s.comments = ?, s.invited = ?, s.marked_at = ?, st.revision = st.revision + 1 WHERE
			s.number = ?`, mark, text, invited, now, number)
	if err != nil {
		return fmt.Errorf("storing a mark: %w", err)
	}
	return nil
}

// AddHandout stores a file that an assignment gives out, and returns its digest and size.
func (c *Campus) AddHandout(ctx context.Context, data []byte) (digest string, size int64, err error) {
	return c.contents.Put(ctx, bytes.NewReader(data))
}
