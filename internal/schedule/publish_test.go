package schedule_test

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/calendar"
	"orario/internal/refusal"
	"orario/internal/worldtest"
)

// What goes out is read by our own reader: send-by and due with alarms, and the planned work as busy time.
func TestTheStudentsOwnCalendar(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	w.Own("A HYD 13 Jan 23:00 ~3h", 10)
	w.Agenda.PublicURL = "https://orario.example"
	address, err := w.Agenda.Renew(ctx, w.Student)
	require.NoError(t, err)
	on, err := w.Agenda.Linked(ctx, w.Student)
	require.NoError(t, err)
	assert.True(t, on)
	token := strings.TrimSuffix(strings.TrimPrefix(address, "https://orario.example/feed/"), ".ics")
	assert.Greater(t, len(token), 20)
	text, err := w.Agenda.Published(ctx, token)
	require.NoError(t, err)
	items, _, err := calendar.Read(text, calendar.Around(worldtest.Monday), time.UTC)
	require.NoError(t, err)
	require.Len(t, items, 4)
	busy := 0
	for _, i := range items {
		if !i.Free {
			busy++
		}
	}
	assert.Equal(t, 2, busy, "two stretches of work")
	assert.Equal(t, 2, strings.Count(text, "BEGIN:VALARM"))
	require.NoError(t, w.Agenda.Revoke(ctx, w.Student))
	none, err := w.Agenda.Linked(ctx, w.Student)
	require.NoError(t, err)
	assert.False(t, none)
	for _, old := range []string{token, ""} {
		_, err = w.Agenda.Published(ctx, old)
		assert.True(t, errors.Is(err, refusal.ErrNotFound), "%q", old)
	}
}
