package campus

import (
	"context"
	"database/sql"
	"slices"
	"strings"
	"time"

	"orario/core/inspect"
	"orario/core/timing"
	"orario/core/wording"
	api "orario/internal/campus/campusapi"
)

// accept applies the assignment's rules to what is in a draft.
func (c *Campus) accept(ctx context.Context, m material, final api.FinalSubmit) error {
	if err := mayBeSent(m.assignment, m.window, m.now); err != nil {
		return err
	}
	if text := m.assignment.Sheet.Declaration; text != "" && !final.Declaration {
		return refuse("declaration", "The declaration has to be confirmed: %q", text)
	}
	if len(m.files) == 0 {
		return refuse("empty", "The draft holds no file.")
	}
	for _, slot := range m.assignment.Sheet.Slots {
		if slot.Required && !slices.ContainsFunc(m.files, func(f api.DraftFile) bool { return f.Slot == slot.Name }) {
			return refuse("slot", "The file %q is not there.", slot.Name)
		}
	}
	for _, f := range m.files {
		if err := c.acceptFile(ctx, m.assignment, f); err != nil {
			return err
		}
	}
	return nil
}

func (c *Campus) acceptFile(ctx context.Context, a api.Assignment, f api.DraftFile) error {
	slot, ok := a.Sheet.Slot(f.Slot)
	if !ok {
		return refuse("slot", "There is no place %q for %s.", f.Slot, f.Name)
	}
	if slot.MaxBytes > 0 && f.Bytes > slot.MaxBytes {
		return refuse(
			"size",
			"%s has %s; at most %s are taken.",
			f.Name,
			wording.Bytes(f.Bytes),
			wording.Bytes(slot.MaxBytes),
		)
	}
	if len(slot.Forms) == 0 {
		return nil
	}
	data, err := c.contents.Read(ctx, f.Sha256)
	if err != nil {
		return err
	}
	if kind := inspect.Kind(f.Name, data); !slices.Contains(slot.Forms, kind) {
		return refuse("form", "%s is %s; %s is taken.", f.Name, kind, strings.Join(slot.Forms, " or "))
	}
	return nil
}

// nextAttempt is the number of the attempt, if there may be another.
func nextAttempt(ctx context.Context, tx *sql.Tx, s Student, a api.Assignment) (int, error) {
	var sent int
	var invited bool
	err := tx.QueryRowContext(ctx, "SELECT COUNT(*), COALESCE(MAX(invited), FALSE) FROM submission WHERE "+
		"student_id = ? AND assignment_key = ?", s.ID, a.Key).
		Scan(&sent, &invited)
	if err != nil {
		return 0, err
	}
	if most := a.Sheet.Attempts.Max; most > 0 && sent >= most {
		return 0, refuse("attempts", "No attempt is left: %s taken.", wording.Count(most, "is", "are"))
	}
	if a.Sheet.Attempts.Invitation && sent > 0 && !invited {
		return 0, refuse("invitation", "Another attempt needs the instructor's invitation.")
	}
	return sent + 1, nil
}

// mayBeSent refuses by the window.
func mayBeSent(a api.Assignment, window timing.Window, now time.Time) error {
	switch state, _ := window.At(now, a.Late); state {
	case timing.NotOpen:
		return refuse("not_open", "This assignment opens at %s.", a.Opens)
	case timing.Closed:
		return refuse("closed", "This assignment is closed; nothing is taken any more.")
	}
	return nil
}

// material is a draft with all that decides about it.
type material struct {
	student    Student
	assignment api.Assignment
	window     timing.Window
	now        time.Time
	files      []api.DraftFile
	turnaround [2]time.Duration // of the first report, and of later ones
}
