package agenda

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/brief"
	"orario/core/brief/prose"
	"orario/core/coursework"
	"orario/core/finding"
	"orario/core/timing"
)

func TestEveryStandingHasItsMove(t *testing.T) {
	const soonDue, laterDue = "2026-11-03T20:00", "2026-11-20T20:00"
	none := timing.Rule{Kind: timing.NoLateWork}
	for name, c := range map[string]struct {
		due    string
		work   int
		change []func(*coursework.Assignment)
		verb   string
		is     string // what its latest time is
		weight finding.Weight
	}{
		"work to begin tomorrow": {soonDue, 60, nil, "Work on", "start by", finding.Note},
		"planned for tonight":    {laterDue, 60, nil, "Work on", "start by", finding.Note},
		"done, nothing added":    {soonDue, 0, nil, "Add the files of", "send by", finding.Note},
		"ready": {
			soonDue,
			60,
			[]func(*coursework.Assignment){holding("pdf")},
			"Submit",
			"send by",
			finding.Note,
		},
		"the wrong form": {
			soonDue,
			60,
			[]func(*coursework.Assignment){holding("docx")},
			"Fix",
			"send by",
			finding.Note,
		},
		"ready, no site": {soonDue, 60, []func(*coursework.Assignment){
			holding("pdf"), func(a *coursework.Assignment) { a.Source = coursework.FromStudent }}, "Send", "send by", finding.Note},
		"within a day": {
			"2026-11-03T11:00",
			0,
			[]func(*coursework.Assignment){holding("pdf")},
			"Submit",
			"send by",
			finding.Should,
		},
		"late, closing": {"2026-11-01T20:00", 60, []func(*coursework.Assignment){late(perDay), closes(t, "2026-11-05T20:00")},
			"Work on", "closes", finding.Must},
		"late without end": {
			"2026-11-01T20:00",
			60,
			[]func(*coursework.Assignment){late(perDay)},
			"Work on",
			"due",
			finding.Must,
		},
		"closed":   {"2026-11-01T20:00", 60, []func(*coursework.Assignment){late(none)}, "", "", ""},
		"not open": {laterDue, 60, []func(*coursework.Assignment){opens(t, "2026-11-10T08:00")}, "", "", ""},
		"sent and proved": {
			soonDue,
			60,
			[]func(*coursework.Assignment){sent(monday.Add(-48*time.Hour), proved)},
			"",
			"",
			"",
		},
		"sent, no receipt": {soonDue, 60, []func(*coursework.Assignment){sent(monday.Add(-13 * time.Hour))},
			"Look for the receipt of", "due", finding.Note},
		"sent just now": {soonDue, 60, []func(*coursework.Assignment){sent(monday.Add(-11 * time.Hour))}, "", "", ""},
		"noted as sent": {soonDue, 60, []func(*coursework.Assignment){func(a *coursework.Assignment) {
			a.Parts[0].Noted = &coursework.Noted{At: monday.Add(-13 * time.Hour)}
		}}, "Look for the receipt of", "due", finding.Note},
		"came back": {soonDue, 60, []func(*coursework.Assignment){sent(monday.Add(-48*time.Hour), proved, marked(14))},
			"Correct", "due", finding.Note},
		"full marks": {
			soonDue,
			60,
			[]func(*coursework.Assignment){sent(monday.Add(-48*time.Hour), proved, marked(20))},
			"",
			"",
			"",
		},
		"came back, no attempt left": {soonDue, 60, []func(*coursework.Assignment){
			func(a *coursework.Assignment) { a.Sheet.Attempts.Max = 1 },
			sent(monday.Add(-48*time.Hour), proved, marked(14))}, "", "", ""},
		"a report to read": {soonDue, 60, []func(*coursework.Assignment){
			sent(monday.Add(-time.Hour), proved, func(s *coursework.Submission) {
				s.Report = &coursework.Report{Ready: true, Share: 0.2}
			})}, "Read the report of", "due", finding.Note},
		"archived": {soonDue, 60, []func(*coursework.Assignment){func(a *coursework.Assignment) {
			a.Course = &coursework.Course{ID: 2, Code: "OLD 1", Zone: lisbon, Archived: true}
		}}, "", "", ""},
		"cancelled by its calendar": {soonDue, 60, []func(*coursework.Assignment){
			func(a *coursework.Assignment) { a.Cancelled = true }}, "", "", ""},
		"a brief to confirm": {laterDue, 60, []func(*coursework.Assignment){func(a *coursework.Assignment) {
			a.Own.Asks = []brief.Ask{{Item: prose.Item{Kind: "pages", Value: prose.Bounds{}}, From: brief.FromText}}
		}}, "Confirm the brief of", "send by", finding.Note},
	} {
		t.Run(name, func(t *testing.T) {
			s := newScene(t)
			s.add("Ripple", c.due, c.work, c.change...)
			moves := s.lay().Moves()
			if c.verb == "" {
				assert.Empty(t, moves)
				return
			}
			require.Len(t, moves, 1)
			assert.Equal(
				t,
				[]any{c.verb, c.is, c.weight},
				[]any{moves[0].Verb, moves[0].LatestIs, moves[0].Weight},
				moves[0].Reason,
			)
		})
	}
}

func TestWorkThatBeginsLaterIsNoMoveYet(t *testing.T) {
	s := newScene(t)
	s.add("Ripple", "2026-11-20T20:00", 60)
	s.wish.NotBefore = []Begin{{1, monday.Add(4 * 24 * time.Hour)}}
	assert.Empty(t, s.lay().Moves())
	s.now = monday.Add(3 * 24 * time.Hour)
	assert.Len(t, s.lay().Moves(), 1)
}

func TestPressureIsStakeByDays(t *testing.T) {
	in := func(d time.Duration) time.Time { return monday.Add(d) }
	for _, c := range []struct {
		stake float64
		in    time.Duration
		want  float64
	}{
		{10, 0, 10},
		{10, 24 * time.Hour, 5},
		{10, 72 * time.Hour, 2.5},
		{30, 12 * time.Hour, 20},
		{10, -72 * time.Hour, 10}, // what is past counts as now
		{0, 0, 0},
	} {
		t.Run(fmt.Sprint(c.stake, c.in), func(t *testing.T) {
			assert.InDelta(t, c.want, Move{stake: c.stake, now: monday, Latest: in(c.in)}.pressure(), 1e-9)
		})
	}
}

func TestMovesAreRanked(t *testing.T) {
	ready := func(percent float64) []func(*coursework.Assignment) {
		return []func(*coursework.Assignment){holding("pdf"), worth(percent)}
	}
	t.Run("by pressure, not by time", func(t *testing.T) {
		s := newScene(t)
		s.add("small and near", "2026-11-03T12:01", 0, ready(4)...) // 4 / 2
		s.add("great and far", "2026-11-06T12:01", 0, ready(20)...) // 20 / 5
		s.add("nothing at stake", "2026-11-02T20:00", 0, ready(0)...)
		assert.Equal(t, []string{"great and far", "small and near", "nothing at stake"}, titles(s.lay()))
	})
	t.Run("equals by latest time, then in the plan's order", func(t *testing.T) {
		s := newScene(t)
		s.add("b", "2026-11-05T20:00", 0, ready(0)...)
		s.add("a", "2026-11-04T20:00", 0, ready(0)...)
		s.add("c", "2026-11-05T20:00", 0, ready(0)...)
		assert.Equal(t, []string{"a", "b", "c"}, titles(s.lay()))
	})
	t.Run("no more than the page can use", func(t *testing.T) {
		s := newScene(t)
		for i := range 30 {
			s.add(fmt.Sprint("Sheet ", i), "2026-11-04T20:00", 0, ready(1)...)
		}
		assert.Len(t, s.lay().Moves(), mostMoves)
	})
	t.Run("a return weighs what could still be gained", func(t *testing.T) {
		s := newScene(t)
		s.add("almost all", "2026-11-04T12:00", 0, sent(monday.Add(-48*time.Hour), proved, marked(19)))
		s.add("half", "2026-11-04T12:00", 0, sent(monday.Add(-48*time.Hour), proved, marked(10)))
		moves := s.lay().Moves()
		require.Len(t, moves, 2)
		assert.Equal(t, "half", moves[0].Title)
		assert.InDelta(t, 5, moves[0].stake, 1e-9)   // 10 of 20 points of 10 %
		assert.InDelta(t, 0.5, moves[1].stake, 1e-9) // 1 of 20 points
	})
}

func TestWhereThereIsTooMuchTheCheapestIsAskedFor(t *testing.T) {
	s := newScene(t)
	s.add("dear", "2026-11-03T21:00", 5*60, worth(40))
	s.add("cheap", "2026-11-03T21:00", 5*60, worth(2), late(perDay))
	p := s.lay()
	require.NotNil(t, p.Overload)
	// Monday and Tuesday have four evening hours each, for ten hours of work.
	assert.Equal(
		t,
		"Between Mon 2 Nov 12:00 and Tue 3 Nov 20:59 there are 10 h of work and 7 h 59 min to do it in: too much "+
			"by 2 h 1 min.",
		p.Proof(),
	)
	list := p.Proposals()
	require.NotEmpty(t, list)
	assert.Equal(
		t,
		[]ProposalTask{{2, "HYD 214", "cheap", "0.2 % of a course's mark for a day late"}},
		list[len(list)-1].Tasks,
	)
	assert.Contains(t, p.Work(), "too much by 2 h 1 min")
	asks := map[string]string{}
	for _, m := range p.Moves() {
		asks[m.Title] = m.Verb
	}
	assert.Equal(t, map[string]string{"cheap": "Ask for more time for", "dear": "Work on"}, asks)

	s.work.Assignments[1].Parts[0].Extension = &coursework.Extension{Asked: &monday}
	for _, m := range s.lay().Moves() {
		assert.NotEqual(t, "Ask for more time for", m.Verb, "it has been asked for already")
	}
}

// Of work that is worth next to nothing more time is asked for all the same.
func TestMoreTimeIsWorthAtLeastSomething(t *testing.T) {
	for weight, stake := range map[float64]float64{0: 1, 0.9: 1, 1: 1, 1.1: 1.1} {
		s := newScene(t)
		s.add("dear", "2026-11-03T21:00", 5*60, worth(40))
		s.add("cheap", "2026-11-03T21:00", 5*60, worth(weight), late(perDay))
		for _, m := range s.lay().Moves() {
			if m.Title == "cheap" {
				assert.Equal(t, "Ask for more time for", m.Verb)
				assert.InDelta(t, stake, m.stake, 1e-9, "%g %%", weight)
			}
		}
	}
}

func TestLateCosts(t *testing.T) {
	for name, c := range map[string]struct {
		change []func(*coursework.Assignment)
		want   float64
		said   string
	}{
		"nothing is taken late": {nil, 10, "all of its 10 % of a course's mark: nothing is taken a day late"},
		"ten percent a day": {
			[]func(*coursework.Assignment){late(perDay)},
			1,
			"1 % of a course's mark for a day late",
		},
		"closes within the day": {[]func(*coursework.Assignment){late(perDay), closes(t, "2026-11-04T10:00")}, 10,
			"all of its 10 % of a course's mark: nothing is taken a day late"},
		"no weight known": {[]func(*coursework.Assignment){worth(0)}, 0, "its weight in the course is not known"},
		"no points known": {[]func(*coursework.Assignment){late(perDay),
			func(a *coursework.Assignment) { a.Points = 0 }}, 0, "0 % of a course's mark for a day late"},
	} {
		t.Run(name, func(t *testing.T) {
			s := newScene(t)
			s.add("Ripple", "2026-11-03T20:00", 60, c.change...)
			e := s.lay().Entries[0]
			assert.InDelta(t, c.want, e.lateCost(), 1e-9)
			assert.Equal(t, c.said, e.sayLateCost())
		})
	}
}
