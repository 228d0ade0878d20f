package intake

import (
	"context"
	"fmt"
	"strings"

	"orario/core/timing"
	"orario/internal/announce"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// SyncJob is the kind of the job that takes over what a site publishes.
const SyncJob = "sync"

// AddSite connects a course site and has it synced. The enrolment begins with the account's names and number; the site
// corrects them once it answers.
func (s Service) AddSite(ctx context.Context, student int64, base, token string) (int64, error) {
	sealed, err := s.Seal(token)
	if err != nil {
		return 0, err
	}
	if _, err := s.Connect(query.Site{BaseUrl: base, Token: sealed}); err != nil {
		return 0, err
	}
	who, err := s.Store.StudentByID(ctx, student)
	if err != nil {
		return 0, refusal.NotFound(err)
	}
	var id int64
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		enrolment, err := q.AddEnrolment(ctx, query.AddEnrolmentParams{
			StudentID:   student,
			Institution: base,
			Number:      who.Number,
			Family:      who.Family,
			Given:       who.Given,
			Zone:        who.Zone,
		})
		if err != nil {
			return err
		}
		if id, err = q.AddSite(
			ctx,
			query.AddSiteParams{StudentID: student, EnrolmentID: enrolment, Name: base, BaseUrl: base, Token: sealed},
		); err != nil {
			return err
		}
		return q.AddJob(ctx, query.AddJobParams{Kind: SyncJob, Subject: id, StudentID: student, RunAt: s.Now().UTC()})
	})
	if err != nil {
		return 0, fmt.Errorf("connecting %s: %w", base, err)
	}
	return id, nil
}

// SyncNow asks for a sync of all sites of a student.
func (s Service) SyncNow(ctx context.Context, student int64) error {
	sites, err := s.Store.Sites(ctx, student)
	if err != nil {
		return err
	}
	for _, site := range sites {
		if err := s.Store.AddJob(
			ctx,
			query.AddJobParams{Kind: SyncJob, Subject: site.ID, StudentID: student, RunAt: s.Now().UTC()},
		); err != nil {
			return err
		}
	}
	return nil
}

// An Enrolment is what a student can say of how an institution knows her.
type Enrolment struct {
	Institution string `json:"institution"`
	Number      string `json:"number"`
	Family      string `json:"family"`
	Given       string `json:"given"`
	Zone        string `json:"zone"`
}

func (e *Enrolment) sound() error {
	for _, field := range []struct {
		name string
		text *string
		most int
	}{{"institution", &e.Institution, 200}, {"student number", &e.Number, 32}, {"family name", &e.Family, 100},
		{"given name", &e.Given, 100}} {
		*field.text = strings.TrimSpace(*field.text)
		if n := len([]rune(*field.text)); n > field.most || n == 0 && field.name != "student number" {
			return refusal.Say("The %s has between 1 and %d letters.", field.name, field.most)
		}
	}
	if _, err := timing.Zone(e.Zone); err != nil {
		return refusal.Because(err)
	}
	return nil
}

// AddEnrolment adds an institution at which no site is connected.
func (s Service) AddEnrolment(ctx context.Context, student int64, e Enrolment) (id int64, err error) {
	if err := e.sound(); err != nil {
		return 0, err
	}
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		id, err = q.AddEnrolment(ctx, query.AddEnrolmentParams{
			StudentID:   student,
			Institution: e.Institution,
			Number:      e.Number,
			Family:      e.Family,
			Given:       e.Given,
			Zone:        e.Zone,
		})
		if err != nil {
			return err
		}
		return announce.Tell(ctx, q, s.Now(), announce.Event{Student: student, Kind: announce.Edited})
	})
	return id, err
}

// SetEnrolment changes how an institution knows a student.
func (s Service) SetEnrolment(ctx context.Context, student, id int64, e Enrolment) error {
	if err := e.sound(); err != nil {
		return err
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		n, err := q.SetEnrolment(ctx, query.SetEnrolmentParams{
			Institution: e.Institution,
			Number:      e.Number,
			Family:      e.Family,
			Given:       e.Given,
			Zone:        e.Zone,
			ID:          id,
			StudentID:   student,
		})
		if err := refusal.Unless(n, err); err != nil {
			return err
		}
		return announce.Tell(ctx, q, s.Now(), announce.Event{Student: student, Kind: announce.Edited})
	})
}
