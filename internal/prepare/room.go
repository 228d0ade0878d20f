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

// Space says how much of the room a student's files take. A content that several versions share counts once.
func (s Service) Space(ctx context.Context, student int64) (Space, error) {
	used, err := s.Store.BytesOfFiles(ctx, student)
	if err != nil || s.Room.Quota <= 0 {
		return Space{Text: wording.Bytes(used) + " are used"}, err
	}
	return Space{
		Text: fmt.Sprintf("%s of %s are used", wording.Bytes(used), wording.Bytes(s.Room.Quota)),
		Near: used*100 >= s.Room.Quota*nearly,
	}, nil
}

// Admit says whether an upload of so many bytes finds room; why not is a complaint. What is being sent or has been is
// never kept from it by this: only what would be new is refused.
func (s Service) Admit(ctx context.Context, owner string, bytes int64) error {
	if s.Room.Free != nil && s.Room.Margin > 0 {
		if free, known := s.Room.Free(ctx); known && free-bytes < s.Room.Margin {
			return refusal.Say("There is no room for new files on the server now. What lies in your bundles can be " +
				"sent all the same; tell whoever runs Orario, and add the file later.")
		}
	}
	if s.Room.Quota <= 0 {
		return nil
	}
	student, err := strconv.ParseInt(owner, 10, 64)
	if err != nil {
		return fmt.Errorf("an upload of %q: %w", owner, err)
	}
	used, err := s.Store.BytesOfFiles(ctx, student)
	if err != nil {
		return err
	}
	coming, err := s.Store.BytesOfUploads(ctx, owner)
	if err != nil {
		return err
	}
	if used+coming+bytes > s.Room.Quota {
		return refusal.Say("This file has %s, and of your %s only %s are left. Remove files in the Library that you "+
			"no longer need.", wording.Bytes(bytes), wording.Bytes(s.Room.Quota),
			wording.Bytes(max(0, s.Room.Quota-used-coming)))
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
