package agenda

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/coursework"
	"orario/core/planner"
	"orario/core/timing"
)

// at is an instant on the scene's clock: a day of November 2026 with a time in Lisbon.
func at(day, hour, minute int) time.Time {
	return time.Date(2026, 11, day, hour, minute, 0, 0, time.UTC)
}

func stretches(e *Entry) (list []string) {
	for _, b := range e.Blocks {
		list = append(list, b.Start.Format("2 15:04–")+b.End.Format("15:04"))
	}
	return list
}

func TestWorkIsLaidIntoTheHoursThereAre(t *testing.T) {
	for name, c := range map[string]struct {
		change func(*scene)
		want   []string
		miss   string
	}{
		"as early as can be": {func(*scene) {}, []string{"2 17:00–21:00", "3 17:00–18:00"}, ""},
		"at most so much a day": {func(s *scene) { s.settings.MostADay = 120 },
			[]string{"2 17:00–19:00", "3 17:00–19:00", "4 17:00–18:00"}, ""},
		"around busy times": {func(s *scene) { s.busy = []Busy{{"choir", at(2, 18, 0), at(2, 20, 0)}} },
			[]string{"2 17:00–18:00", "2 20:00–21:00", "3 17:00–20:00"}, ""},
		"not before": {func(s *scene) { s.wish.NotBefore = []Begin{{1, at(4, 0, 0)}} },
			[]string{"4 17:00–21:00", "5 17:00–18:00"}, ""},
		"around a pin": {func(s *scene) { s.wish.Pins = []Pin{{1, at(3, 9, 0), at(3, 11, 0)}} },
			[]string{"2 17:00–20:00", "3 09:00–11:00"}, ""},
		"a pin that has begun holds what is left of it": {func(s *scene) {
			s.wish.Pins = []Pin{{1, at(2, 11, 0), at(2, 13, 0)}}
		}, []string{"2 12:00–13:00", "2 17:00–21:00"}, ""},
		"a pin of the past holds nothing": {func(s *scene) { s.wish.Pins = []Pin{{1, at(1, 9, 0), at(1, 11, 0)}} },
			[]string{"2 17:00–21:00", "3 17:00–18:00"}, ""},
		"what is done is not planned": {
			func(s *scene) { s.work.Assignments[0].Done = 240 },
			[]string{"2 17:00–18:00"},
			"",
		},
		"more done than reckoned": {func(s *scene) { s.work.Assignments[0].Done = 900 }, nil, ""},
		"from its opening": {func(s *scene) { opens(t, "2026-11-05T18:00")(s.work.Assignments[0]) },
			[]string{"5 18:00–21:00", "6 17:00–19:00"}, ""},
		"too late, it is planned all the same": {func(s *scene) { s.wish.NotBefore = []Begin{{1, at(6, 18, 0)}} },
			[]string{"6 18:00–21:00", "7 11:00–13:00"}, "17 h after due"},
		"no hours at all": {func(s *scene) { s.settings.Week = planner.Week{} }, nil, ""},
		"archived":        {func(s *scene) { s.work.Courses[0].Archived = true }, nil, ""},
	} {
		t.Run(name, func(t *testing.T) {
			s := newScene(t)
			s.add("Ripple", "2026-11-06T20:00", 300)
			c.change(s)
			e := s.lay().Entries[0]
			assert.Equal(t, c.want, stretches(e))
			assert.Equal(t, c.miss, e.Miss)
		})
	}
}

// Whole blocks are a wish: where only shorter stretches are in time, they are used.
func TestBeingInTimeIsWorthMoreThanWholeBlocks(t *testing.T) {
	s := newScene(t)
	s.settings.Block = 60
	for day := range s.settings.Week {
		s.settings.Week[day] = []planner.Hours{{From: 17 * 60, To: 17*60 + 45}}
	}
	s.add("Ripple", "2026-11-03T20:00", 90)
	e := s.lay().Entries[0]
	assert.Equal(t, []string{"2 17:00–17:45", "3 17:00–17:45"}, stretches(e))
	assert.Empty(t, e.Miss)
}

func TestHoursShorterThanABlockAreUsedWhereThereAreNoOthers(t *testing.T) {
	s := newScene(t)
	s.settings.Block, s.settings.Week = 60, planner.Week{}
	s.settings.Week[time.Tuesday] = []planner.Hours{{From: 17 * 60, To: 17*60 + 45}}
	s.add("Ripple", "2026-11-03T20:00", 500) // also where it does not fit
	e := s.lay().Entries[0]
	assert.Equal(t, []string{"3 17:00–17:45", "10 17:00–17:45", "17 17:00–17:45"}, stretches(e))
}

func TestLateWorkIsPlannedUntilItCloses(t *testing.T) {
	for name, c := range map[string]struct {
		change []func(*coursework.Assignment)
		want   []string
	}{
		"nothing is taken late": {nil, nil},
		"taken until it closes": {[]func(*coursework.Assignment){late(perDay), closes(t, "2026-11-05T20:00")},
			[]string{"2 17:00–21:00", "3 17:00–21:00"}},
		"taken without end": {[]func(*coursework.Assignment){late(perDay)}, []string{"2 17:00–21:00", "3 17:00–21:00"}},
		"closed by now":     {[]func(*coursework.Assignment){late(perDay), closes(t, "2026-11-02T11:00")}, nil},
	} {
		t.Run(name, func(t *testing.T) {
			s := newScene(t)
			s.add("Ripple", "2026-11-01T20:00", 480, c.change...)
			p := s.lay()
			assert.Equal(t, c.want, stretches(p.Entries[0]))
			assert.Equal(t, len(c.want) > 0, p.Left > 0)
		})
	}
	t.Run("a week from now where it never closes", func(t *testing.T) {
		s := newScene(t)
		s.add("Ripple", "2026-11-01T20:00", 480, late(perDay))
		task, ok := s.lay().task(s.lay().Entries[0])
		assert.True(t, ok)
		assert.Equal(t, monday.Add(7*24*time.Hour), task.Deadline)
	})
	t.Run("what closes sooner goes before what is due later", func(t *testing.T) {
		s := newScene(t)
		s.add("due later", "2026-11-06T20:00", 120)
		s.add("closes soon", "2026-11-01T20:00", 120, late(perDay), closes(t, "2026-11-03T20:00"))
		p := s.lay()
		assert.True(t, p.Of(2).Blocks[0].Start.Before(p.Of(1).Blocks[0].Start))
	})
}

func TestSlack(t *testing.T) {
	s := newScene(t)
	s.add("roomy", "2026-11-10T20:00", 60)
	s.add("tight", "2026-11-02T21:00", 200)
	s.add("done", "2026-11-03T20:00", 0)
	p := s.lay()
	var order []string
	for _, e := range p.Entries {
		order = append(order, e.Title)
	}
	assert.Equal(t, []string{"tight", "done", "roomy"}, order)
	// From 17:00 to 20:59 there are 239 minutes for 200.
	assert.Equal(t, at(2, 17, 39), *p.Of(2).LatestStart)
	assert.Equal(t, "5 h 39 min", p.Of(2).Slack)
	assert.Nil(t, p.Of(3).LatestStart)
	assert.Equal(t, "31 h 59 min", p.Of(3).Slack)

	s.add("impossible", "2026-11-02T19:00", 600)
	p = s.lay()
	assert.Equal(t, "none", p.Of(4).Slack)
	assert.Equal(t, "impossible", p.Entries[0].Title, "what cannot be in time comes before what can")
}

// With what such work took before, by the rule of planner.Factor: (2 + Σ took/planned) / (2 + n).
func TestEstimatesLearn(t *testing.T) {
	took := func(s *scene, title string, planned, done int) {
		s.add(
			title,
			"2026-10-20T20:00",
			planned,
			sent(monday.Add(-14*24*time.Hour), proved),
			func(a *coursework.Assignment) { a.Done = done },
		)
	}
	for name, c := range map[string]struct {
		past    func(*scene)
		minutes int
		says    string
	}{
		"nothing is known": {func(*scene) {}, 120, ""},
		"twice as long, once": {func(s *scene) { took(s, "Sheet 1", 100, 200) }, 160,
			"2 h 40 min in all: your 2 h, and 33 % longer by what such work took before."},
		"twice as long, twice": {func(s *scene) { took(s, "Sheet 1", 100, 200); took(s, "Sheet 2", 60, 120) }, 180,
			"3 h in all: your 2 h, and 50 % longer by what such work took before."},
		"half as long": {func(s *scene) { took(s, "Sheet 1", 100, 50) }, 100,
			"1 h 40 min in all: your 2 h, and 17 % less by what such work took before."},
		"as reckoned":              {func(s *scene) { took(s, "Sheet 1", 100, 100) }, 120, ""},
		"another kind of work":     {func(s *scene) { took(s, "Lab 1, Tides", 100, 300) }, 120, ""},
		"no time was written down": {func(s *scene) { took(s, "Sheet 1", 100, 0) }, 120, ""},
		"never more than threefold": {
			func(s *scene) { took(s, "Sheet 1", 1, 100000) },
			360,
			"6 h in all: your 2 h, and 200 % longer by what such work took before.",
		},
		"of another course": {func(s *scene) {
			took(s, "Sheet 1", 100, 300)
			s.work.Assignments[1].Course = &coursework.Course{ID: 9, Code: "NAV 9", Zone: lisbon}
		}, 120, ""},
	} {
		t.Run(name, func(t *testing.T) {
			s := newScene(t)
			s.add("Sheet 7", "2026-11-10T20:00", 120)
			c.past(s)
			e := s.lay().Of(1)
			assert.Equal(t, c.minutes, e.Minutes)
			assert.Equal(t, c.says, e.Estimate)
		})
	}
	t.Run("of three figures the PERT figure", func(t *testing.T) {
		s := newScene(t)
		s.add("Sheet 7", "2026-11-10T20:00", 0, func(a *coursework.Assignment) {
			a.Effort = coursework.Effort{Low: 60, Likely: 120, High: 300}
		})
		// mean (60 + 4·120 + 300)/6 = 140, deviation (300 − 60)/6 = 40; 140 + 1.645·40 = 205.8.
		assert.Equal(t, 206, s.lay().Of(1).Minutes)
	})
}

// Lisbon's clocks went back on 25 October 2026 and go forward on 28 March 2027, at 1:00 UTC (EU directive 2000/84).
func TestDaysWhereTheClocksChange(t *testing.T) {
	for name, c := range map[string]struct {
		day   time.Time
		hours time.Duration
		night string // free between midnight and 4:00
	}{
		"back":     {time.Date(2026, 10, 25, 0, 0, 0, 0, lisbon), 25 * time.Hour, "5 h"},
		"forward":  {time.Date(2027, 3, 28, 0, 0, 0, 0, lisbon), 23 * time.Hour, "3 h"},
		"ordinary": {time.Date(2026, 11, 8, 0, 0, 0, 0, lisbon), 24 * time.Hour, "4 h"},
	} {
		t.Run(name, func(t *testing.T) {
			s := newScene(t)
			s.now = c.day.Add(-36 * time.Hour)
			s.settings.Week, s.settings.MostADay = planner.Week{}, 24*60
			s.settings.Week[time.Sunday] = []planner.Hours{{From: 0, To: 4 * 60}}
			s.add("Ripple", c.day.Add(30*time.Hour).Format("2006-01-02T15:04"), 60)
			days := s.lay().Days(s.now, 4)
			for i, d := range days[:3] {
				if d.Date == c.day.Format(time.DateOnly) {
					assert.Equal(t, c.hours, days[i+1].Start.Sub(d.Start))
					assert.Equal(t, c.night, d.Free)
					return
				}
			}
			t.Fatal("the day is not shown")
		})
	}
}

func TestADayHoldsItsOwn(t *testing.T) {
	s := newScene(t)
	s.busy = []Busy{{"choir", at(2, 23, 0), at(3, 1, 0)}}
	s.add("Ripple", "2026-11-03T20:00", 300, opens(t, "2026-11-02T13:00"), late(perDay), closes(t, "2026-11-04T20:00"))
	days := s.lay().Days(monday, 3)
	marks := func(d Day) (list []string) {
		for _, m := range d.Dues {
			list = append(list, m.What+m.At.Format(" 15:04"))
		}
		return list
	}
	assert.Equal(t, [][]string{{"opens 13:00"}, {"send by 19:59", "due 20:00"}, {"closes 20:00"}},
		[][]string{marks(days[0]), marks(days[1]), marks(days[2])})
	assert.Equal(t, []string{"4 h", "1 h", ""}, []string{days[0].Work, days[1].Work, days[2].Work})
	assert.Equal(
		t,
		[]int{1, 1, 0},
		[]int{len(days[0].Busy), len(days[1].Busy), len(days[2].Busy)},
		"over midnight it is on both",
	)
	assert.Equal(t, []bool{false, true}, []bool{days[0].Slabs[0].Last, days[1].Slabs[0].Last})
}

func TestCrowds(t *testing.T) {
	s := newScene(t)
	for _, due := range []string{"2026-11-05T20:00", "2026-11-05T20:10", "2026-11-05T20:30", "2026-11-06T20:00", "2026-11-06T20:30",
		"2026-11-01T20:00", "2026-11-01T20:01", "2026-11-01T20:02"} {
		s.add("Sheet", due, 0)
	}
	assert.Equal(
		t,
		[]Crowd{{at(5, 19, 0), at(5, 21, 0), "3 due close together"}},
		s.lay().Crowds(),
		"two are none, nor is what has passed",
	)
}

func TestATrialSaysWhatItChanges(t *testing.T) {
	s := newScene(t)
	s.add("first", "2026-11-03T20:00", 240)
	s.add("second", "2026-11-05T20:00", 240)
	before := s.lay()
	assert.Equal(t, []string{"Nothing else would change."}, s.lay().Against(before))

	shift := Shift{AssignmentID: 1, Start: at(2, 17, 0), End: at(2, 21, 0)}
	require.True(t, before.Begins(shift))
	to := at(3, 17, 0)
	shift.To = &to
	s.wish = s.wish.Shifted(shift, true)
	assert.Equal(t, []string{
		"HYD 214 first would be finished 1 h after due.",
		"HYD 214 second would be finished Mon 2 Nov 21:00, not Tue 3 Nov 21:00.",
	}, s.lay().Against(before))
}

func TestSummary(t *testing.T) {
	s := newScene(t)
	s.add("open", "2026-11-10T20:00", 60)
	s.add("late", "2026-11-01T20:00", 60, late(timing.Rule{Kind: timing.PerDay, Percent: 5, Of: "earned"}))
	s.add("waiting", "2026-11-10T20:00", 60, sent(monday))
	s.add("back", "2026-11-10T20:00", 60, sent(monday, proved, marked(3)))
	assert.Equal(
		t,
		"2 open, 1 waiting, 1 came back. 2 h of work in 36 h 57 min of free time: it fits.",
		s.lay().Summary(),
	)
	assert.Equal(t, "0 open, 0 waiting, 0 came back. No work is planned.", newScene(t).lay().Summary())
}
