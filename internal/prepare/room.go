package prepare

import (
	"context"
	"fmt"
	"strconv"

	"orario/core/wording"
	"orario/internal/announce"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// Room is how much there is for students' files. The zero value has no bounds.
type Room struct {
	Quota  int64                                               // bytes for the files of one student
	Margin int64                                               // bytes that stay free where the database lies
	Free   func(ctx context.Context) (bytes int64, known bool) // there now
}

// A Space is how much of the room a student takes.
type Space struct {
	Text string `json:"text"`
	Near bool   `json:"near"` // it is worth making room
}

// nearly is from how many percent of the quota on it is told.
const nearly = 90

// bytesOf counts everything that is kept for a student: files of the Library, uploads that have finished or not, what
// lies on the bench, and what is being written. A content that several share counts once.
func bytesOf(ctx context.Context, q interface {
	BytesOfStudent(context.Context, query.BytesOfStudentParams) (int64, error)
}, student int64) (int64, error) {
	return q.BytesOfStudent(ctx, query.BytesOfStudentParams{Student: student, Owner: fmt.Sprint(student)})
}

// Space says how much of the room a student's files take.
func (s Service) Space(ctx context.Context, student int64) (Space, error) {
	used, err := bytesOf(ctx, s.Store, student)
	if err != nil || s.Room.Quota <= 0 {
		return Space{Text: wording.Bytes(used) + " are used"}, err
	}
	return Space{
		Text: fmt.Sprintf("%s of %s are used", wording.Bytes(used), wording.Bytes(s.Room.Quota)),
		Near: used*100 >= s.Room.Quota*nearly,
	}, nil
}

// Admit says whether so many bytes more find room, before they come; why not is a complaint. What is being sent or has
// been is never kept from it by this: only what would be new is refused.
func (s Service) Admit(ctx context.Context, owner string, bytes int64) error {
	if s.Room.Free != nil && s.Room.Margin > 0 {
		if free, known := s.Room.Free(ctx); known && free-bytes < s.Room.Margin {
			return refusal.Say("There is no room for anything new on the server now. What lies in your bundles " +
				"can be sent all the same; tell whoever runs Orario, and add it later.")
		}
	}
	if s.Room.Quota <= 0 {
		return nil
	}
	student, err := strconv.ParseInt(owner, 10, 64)
	if err != nil {
		return fmt.Errorf("an upload of %q: %w", owner, err)
	}
	used, err := bytesOf(ctx, s.Store, student)
	if err != nil {
		return err
	}
	if bytes == 0 && used > s.Room.Quota {
		return refusal.Say("Your room of %s is full. Remove files in the Library that you no longer need.",
			wording.Bytes(s.Room.Quota))
	}
	if used+bytes > s.Room.Quota {
		return refusal.Say("This has %s, and of your %s only %s are left. Remove files in the Library that you "+
			"no longer need.", wording.Bytes(bytes), wording.Bytes(s.Room.Quota),
			wording.Bytes(max(0, s.Room.Quota-used)))
	}
	return nil
}

// Fits says, within the transaction that has just added something, whether all that is kept for a student is within the
// quota; why not is a complaint, with which the transaction ends. Her row is held, so that of two at once both count.
func (s Service) Fits(ctx context.Context, q *query.Queries, student int64) error {
	if s.Room.Quota <= 0 {
		return nil
	}
	if _, err := q.LockStudent(ctx, student); err != nil {
		return refusal.NotFound(err)
	}
	used, err := bytesOf(ctx, q, student)
	if err != nil {
		return err
	}
	if used > s.Room.Quota {
		return refusal.Say("With this, %s would be kept for you, and your room is %s. Remove files in the Library "+
			"that you no longer need.", wording.Bytes(used), wording.Bytes(s.Room.Quota))
	}
	return nil
}

// RemoveVersion removes a file from the library for good. One that was sent, lies in a bundle or proves an extension
// stays.
func (s Service) RemoveVersion(ctx context.Context, student, id int64) error {
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		v, err := q.LockVersion(ctx, query.LockVersionParams{ID: id, StudentID: student})
		if err != nil {
			return refusal.NotFound(err)
		}
		keeps, err := q.WhatKeepsVersion(ctx, query.WhatKeepsVersionParams{ID: id, Proof: mariadb.NullInt(id)})
		if err != nil {
			return err
		}
		switch {
		case keeps.Sent > 0:
			return refusal.Say("%s was sent, so it stays: its receipt names it.", v.Name)
		case keeps.Bundles > 0:
			return refusal.Say("%s lies in a bundle. Take it out there first.", v.Name)
		case keeps.Extensions > 0:
			return refusal.Say("%s proves an extension, so it stays.", v.Name)
		}
		if err := q.ForgetOrigin(ctx, mariadb.NullInt(id)); err != nil {
			return err
		}
		if err := q.RemoveVersion(ctx, id); err != nil {
			return err
		}
		return announce.Tell(ctx, q, s.Now(), announce.Event{Student: student, Kind: announce.Library})
	})
}
