package demo_test

import (
	"cmp"
	"context"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/coursework"
	"orario/core/finding"
	"orario/core/inspect"
	"orario/demo"
	"orario/internal/worldtest"
)

// On whatever day and at whatever time of it it is loaded; at 18:00 the urgent one's send-by gives way to the next, and
// before a free day work presses more. ORARIO_DEMO_AT takes others, as "Fri.18:05 Sun.00:05".
func TestTheDemoShowsEveryState(t *testing.T) {
	for _, at := range strings.Fields(cmp.Or(os.Getenv("ORARIO_DEMO_AT"), "Tue.17:40 Fri.18:05")) {
		t.Run(at, func(t *testing.T) { t.Parallel(); showsEveryState(t, at) })
	}
}

func showsEveryState(t *testing.T, at string) {
	w := worldtest.New(t)
	ctx := context.Background()
	zone, err := time.LoadLocation(demo.Nerea.Zone)
	require.NoError(t, err)
	weekday, hour, _ := strings.Cut(at, ".")
	today := time.Now().In(zone)
	for today.Format("Mon") != weekday {
		today = today.AddDate(0, 0, 1)
	}
	loaded, err := time.ParseInLocation("2006-01-02 15:04", today.Format(time.DateOnly)+" "+hour, zone)
	require.NoError(t, err)
	clock := &demo.Clock{Ahead: time.Until(loaded)}
	w.Clock(clock.Now)
	_, err = w.DB.SQL.Exec(
		"UPDATE student SET email = 'someone@alvarim.example'",
	) // the world's own, under Nerea's address
	require.NoError(t, err)
	world := demo.World{
		Clock:     clock,
		DB:        w.DB,
		Tools:     w.Tools,
		Campus:    w.Campus,
		CampusURL: w.URL,
		Accounts:  w.Accounts,
		Intake:    w.Intake,
		Agenda:    w.Agenda,
		Courses:   w.Courses,
		Prepare:   w.Prepare,
		Submit:    w.Submit,
		Review:    w.Review,
	}
	require.NoError(t, demo.Load(ctx, world))
	assert.ErrorContains(t, demo.Load(ctx, world), "loaded already")
	nerea, err := w.Accounts.Demo(ctx)
	require.NoError(t, err)
	_, err = w.Accounts.SignIn(ctx, demo.Nerea.Email, demo.Nerea.Password, "127.0.0.1", "")
	require.NoError(t, err)

	h, err := w.Agenda.Horizon(ctx, nerea.ID)
	require.NoError(t, err)
	assert.Len(t, h.Courses, 6)
	states := map[coursework.State]int{}
	zones := map[string]bool{}
	for i, l := range h.Lines {
		states[l.State]++
		zones[l.Zone] = true
		require.Len(t, l.Strip, 6)
		assert.Equal(t, l.Title == "Joint drawings", l.Pressing, "only %q presses", "Joint drawings")
		if i > 0 && l.SlackMinutes != nil {
			require.NotNil(t, h.Lines[i-1].SlackMinutes)
			assert.GreaterOrEqual(t, *l.SlackMinutes, *h.Lines[i-1].SlackMinutes, "by slack")
		}
		for _, b := range l.Blocks {
			assert.False(t, b.End.After(l.Due), "%s is planned to be done in time", l.Title)
		}
	}
	for _, state := range []coursework.State{"open", "not_open", "waiting", "back", "done"} {
		assert.NotZero(t, states[state], "something is %s", state)
	}
	assert.Len(t, zones, 3)
	assert.NotEmpty(t, h.Crowds, "an evening on which much is due")
	require.NotEmpty(t, h.Moves)
	verbs := map[string]bool{}
	for _, m := range h.Moves {
		assert.NotEmpty(t, m.Reason)
		assert.NotEmpty(t, m.Button)
		verbs[m.Verb] = true
	}
	for _, verb := range []string{"Work on", "Correct", "Confirm the brief of"} {
		assert.True(t, verbs[verb], "%s is among %v", verb, verbs)
	}
	assert.NotEmpty(t, h.Changes)
	assert.Len(t, h.Views, 1)
	assert.Equal(t, "Joint drawings", h.Moves[0].Title, "the urgent one first")
	assert.Equal(t, finding.Should, h.Moves[0].Weight)
	// In the hour before the joint drawings' send-by, 18:00, what is left of them does not fit any more.
	assert.Regexp(
		t,
		`^\d+ open, \d+ waiting, 2 came back\. .* of work in .* of free time(: it fits|; too much by \d+ min)\.$`,
		h.Summary,
	)

	entries, err := w.Submit.Ledger(ctx, nerea.ID)
	require.NoError(t, err)
	assert.Len(t, entries, 5)
	for _, e := range entries {
		assert.True(t, e.Proof.Agrees, "%s: %+v", e.Title, e.Proof)
	}
	sent, err := time.Parse(time.RFC3339, entries[len(entries)-1].Receipt.ReceivedAt)
	require.NoError(t, err)
	assert.True(t, sent.Before(clock.Present().AddDate(0, 0, -8)), "sent in the past")
}

func TestItsDocumentsAreRealOnes(t *testing.T) {
	sheet := inspect.File("a.pdf", demo.Worksheet("Sheet (6)", "One.", "Two."))
	assert.Empty(t, sheet.Problems)
	assert.Equal(t, 1, *sheet.Pages)
	facts := inspect.File(
		"a.docx",
		demo.DOCX("nerea & co", "A <title>", "# Heading", "Two words.", "[+ Not accepted.]"),
	)
	assert.Empty(t, facts.Problems)
	assert.Equal(t, "docx", facts.Kind)
	assert.Equal(t, "nerea & co", *facts.Author)
	assert.Equal(t, 1, *facts.TrackedChanges)
	assert.Equal(t, 7, *facts.Words)
}
