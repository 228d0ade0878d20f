package agenda

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/planner"
)

func TestShifting(t *testing.T) {
	evening := Shift{AssignmentID: 1, Start: at(2, 17, 0), End: at(2, 19, 0)}
	to := func(day, hour int) Shift {
		s, when := evening, at(day, hour, 0)
		s.To = &when
		return s
	}
	for name, c := range map[string]struct {
		wish  Wish
		shift Shift
		first bool
		want  Wish
	}{
		"later, the first: work begins only then": {Wish{}, to(4, 17), true,
			Wish{[]Pin{{1, at(4, 17, 0), at(4, 19, 0)}}, []Begin{{1, at(4, 17, 0)}}}},
		"later, not the first": {Wish{}, to(4, 17), false, Wish{[]Pin{{1, at(4, 17, 0), at(4, 19, 0)}}, []Begin{}}},
		"earlier than it may begin: it begins earlier again": {Wish{NotBefore: []Begin{{1, at(2, 17, 0)}}}, to(1, 11), true,
			Wish{[]Pin{{1, at(1, 11, 0), at(1, 13, 0)}}, []Begin{}}},
		"a pinned one is moved, not doubled": {Wish{Pins: []Pin{{1, at(2, 17, 0), at(2, 19, 0)}}}, to(3, 17), false,
			Wish{[]Pin{{1, at(3, 17, 0), at(3, 19, 0)}}, []Begin{}}},
		"let go of": {Wish{[]Pin{{1, at(2, 17, 0), at(2, 19, 0)}}, []Begin{{1, at(2, 17, 0)}}}, evening, true,
			Wish{[]Pin{}, []Begin{}}},
		"others stay": {Wish{[]Pin{{2, at(2, 17, 0), at(2, 19, 0)}, {1, at(8, 17, 0), at(8, 19, 0)}}, []Begin{{2, at(2, 0, 0)}}}, evening, true,
			Wish{[]Pin{{2, at(2, 17, 0), at(2, 19, 0)}, {1, at(8, 17, 0), at(8, 19, 0)}}, []Begin{{2, at(2, 0, 0)}}}},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.want, c.wish.Shifted(c.shift, c.first)) })
	}
}

func TestWishesThatCannotBePlanned(t *testing.T) {
	known := func(id int64) bool { return id == 1 }
	pin := func(from, to time.Time) Wish { return Wish{Pins: []Pin{{1, from, to}}} }
	many := Wish{}
	for i := range mostPins + 1 {
		many.Pins = append(many.Pins, Pin{1, at(2, i, 0), at(2, i, 30)})
	}
	for name, c := range map[string]struct {
		wish Wish
		says string
	}{
		"nothing":   {Wish{}, ""},
		"a stretch": {pin(at(2, 17, 0), at(2, 19, 0)), ""},
		"side by side": {
			Wish{Pins: []Pin{{1, at(2, 17, 0), at(2, 19, 0)}, {1, at(2, 19, 0), at(2, 20, 0)}}},
			"",
		},
		"no length":       {pin(at(2, 17, 0), at(2, 17, 0)), "a minute and 24 hours"},
		"backwards":       {pin(at(2, 17, 0), at(2, 16, 0)), "a minute and 24 hours"},
		"more than a day": {pin(at(2, 17, 0), at(3, 17, 1)), "a minute and 24 hours"},
		"far away": {
			pin(monday.AddDate(3, 0, 0), monday.AddDate(3, 0, 0).Add(time.Hour)),
			"within two years",
		},
		"long past": {
			pin(monday.AddDate(-3, 0, 0), monday.AddDate(-3, 0, 0).Add(time.Hour)),
			"within two years",
		},
		"one over another": {
			Wish{Pins: []Pin{{1, at(2, 17, 0), at(2, 19, 0)}, {1, at(2, 18, 59), at(2, 20, 0)}}},
			"overlap",
		},
		"somebody else's":           {Wish{Pins: []Pin{{2, at(2, 17, 0), at(2, 19, 0)}}}, ErrUnknown.Error()},
		"to begin somebody else's":  {Wish{NotBefore: []Begin{{2, at(2, 17, 0)}}}, ErrUnknown.Error()},
		"to begin in another time":  {Wish{NotBefore: []Begin{{1, time.Time{}}}}, "within two years"},
		"more than anybody can pin": {many, "at most 500"},
	} {
		t.Run(name, func(t *testing.T) {
			err := c.wish.Sound(monday, known)
			if c.says == "" {
				require.NoError(t, err)
				return
			}
			assert.ErrorContains(t, err, c.says)
		})
	}
}

func TestSettingsThatCannotBeMeant(t *testing.T) {
	require.NoError(t, Usual.Sound())
	for name, c := range map[string]struct {
		spoil func(*Settings)
		says  string
	}{
		"hours backwards": {
			func(s *Settings) { s.Week[1] = []planner.Hours{{From: 600, To: 540}} },
			"17:00 to 21:00",
		},
		"hours of no length": {
			func(s *Settings) { s.Week[1] = []planner.Hours{{From: 600, To: 600}} },
			"17:00 to 21:00",
		},
		"past midnight": {
			func(s *Settings) { s.Week[1] = []planner.Hours{{From: 600, To: 1441}} },
			"17:00 to 21:00",
		},
		"one over another": {
			func(s *Settings) { s.Week[1] = []planner.Hours{{From: 540, To: 660}, {From: 600, To: 700}} },
			"follow each other",
		},
		"no work a day":       {func(s *Settings) { s.MostADay = 0 }, "quarter of an hour"},
		"more than a day":     {func(s *Settings) { s.MostADay = 1441 }, "quarter of an hour"},
		"a negative stretch":  {func(s *Settings) { s.Block = -1 }, "shortest stretch"},
		"an endless stretch":  {func(s *Settings) { s.Block = 481 }, "shortest stretch"},
		"a negative margin":   {func(s *Settings) { s.Margin = -1 }, "margin"},
		"a month's margin":    {func(s *Settings) { s.Margin = 31 * 24 * 60 }, "margin"},
		"quiet from midnight": {func(s *Settings) { s.QuietFrom = 1440 }, "quiet hours"},
		"quiet to before":     {func(s *Settings) { s.QuietTo = -1 }, "quiet hours"},
	} {
		t.Run(name, func(t *testing.T) {
			s := Usual
			c.spoil(&s)
			assert.ErrorContains(t, s.Sound(), c.says)
		})
	}
}

// Work is planned within two years of today, to the instant, before and after.
func TestHowFarWorkIsPlanned(t *testing.T) {
	now := time.Date(2026, 11, 26, 10, 0, 0, 0, time.UTC)
	known := func(int64) bool { return true }
	for _, c := range []struct {
		at    time.Time
		sound bool
	}{
		{now.Add(mostFar), true}, {now.Add(mostFar + 1), false}, {now.Add(-mostFar), true}, {now.Add(-mostFar - 1), false},
	} {
		pin := Wish{Pins: []Pin{{AssignmentID: 1, Start: c.at, End: c.at.Add(time.Hour)}}}
		assert.Equal(t, c.sound, pin.Sound(now, known) == nil, "%s", c.at)
		later := Wish{NotBefore: []Begin{{AssignmentID: 1, At: c.at}}}
		assert.Equal(t, c.sound, later.Sound(now, known) == nil, "%s", c.at)
	}
	for length, sound := range map[time.Duration]bool{0: false, time.Minute: true, 24 * time.Hour: true, 24*time.Hour + 1: false} {
		w := Wish{Pins: []Pin{{AssignmentID: 1, Start: now, End: now.Add(length)}}}
		assert.Equal(t, sound, w.Sound(now, known) == nil, "%s", length)
	}
	for n, sound := range map[int]bool{mostPins: true, mostPins + 1: false} {
		var w Wish
		for i := range n {
			at := now.Add(time.Duration(i) * time.Hour)
			w.Pins = append(w.Pins, Pin{AssignmentID: 1, Start: at, End: at.Add(time.Minute)})
		}
		assert.Equal(t, sound, w.Sound(now, known) == nil, "%d", n)
	}
}
