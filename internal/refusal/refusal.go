// Package refusal is what use cases answer when something is not there, or cannot be done as it is wished.
package refusal

import (
	"database/sql"
	"errors"
	"fmt"

	"orario/core/wording"
)

// ErrNotFound says that the student has no such thing.
var ErrNotFound = errors.New("there is no such thing among yours")

// A Complaint is a wish that cannot be granted, with what to do instead, in whole sentences.
type Complaint struct{ Message string }

func (c Complaint) Error() string { return c.Message }

// Say makes a complaint.
func Say(text string, args ...any) error { return Complaint{fmt.Sprintf(text, args...)} }

// A Conflict is a complaint that something has changed since it was read.
type Conflict struct{ Message string }

func (c Conflict) Error() string { return c.Message }

// Because makes a complaint of an error of the core, whose text becomes a sentence.
func Because(err error) error { return Complaint{wording.Upper(err.Error()) + "."} }

// NotFound turns the database's word for what is not there into [ErrNotFound].
func NotFound(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// Unless is [ErrNotFound] where a change that should have met one row met none.
func Unless(rows int64, err error) error {
	if err == nil && rows == 0 {
		return ErrNotFound
	}
	return err
}
