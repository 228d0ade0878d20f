package schedule

import (
	"context"
	"encoding/json"

	"orario/core/agenda"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/roster"
)

// Settings are what a student wants Orario to go by.
func (s Service) Settings(ctx context.Context, student int64) (settings agenda.Settings, err error) {
	err = s.Store.Snapshot(ctx, func(q *query.Queries) error {
		who, err := q.StudentByID(ctx, student)
		if err != nil {
			return refusal.NotFound(err)
		}
		settings, err = roster.Settings(who)
		return err
	})
	return settings, err
}

// SetSettings keeps settings; unsound ones change nothing.
func (s Service) SetSettings(ctx context.Context, student int64, settings agenda.Settings) error {
	if err := settings.Sound(); err != nil {
		return refusal.Because(err)
	}
	text, err := json.Marshal(settings)
	if err != nil {
		return err
	}
	return s.Store.InTx(ctx, func(q *query.Queries) error {
		if err := q.SetSettings(ctx, query.SetSettingsParams{Settings: text, ID: student}); err != nil {
			return err
		}
		return s.planned(ctx, q, student, 0)
	})
}
