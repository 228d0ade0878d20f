package demo_test

import (
	"context"
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

func TestTheDemoShowsEveryState(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	clock := &demo.Clock{}
	w.Clock(clock.Now)
	_, err := w.DB.SQL.Exec(
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
	at, err := time.Parse(time.RFC3339, entries[len(entries)-1].Receipt.ReceivedAt)
	require.NoError(t, err)
	assert.True(t, at.Before(time.Now().AddDate(0, 0, -8)), "sent in the past")
}

func TestItsDocumentsAreRealOnes(t *testing.T) {
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
