package placing

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/brief"
	"orario/core/brief/prose"
	"orario/core/calendar"
	"orario/core/coursework"
	"orario/core/timing"
)

var (
	lisbon, _ = time.LoadLocation("Europe/Lisbon")
	now       = time.Date(2026, 11, 2, 12, 0, 0, 0, time.UTC)
	courses   = []Course{{1, "HYD 214", "Hydrography", false}, {2, "NAV 310", "Coastal Navigation", false},
		{3, "OLD 9", "Old Charts", true}, {4, "--", "Nameless", false}, {5, "HYD 21", "Introduction", false}}
)

func TestWhichCourseAnItemIsOf(t *testing.T) {
	for name, c := range map[string]struct {
		item   calendar.Item
		was    Known
		chosen int64
		want   int64
	}{
		"named by its code":            {calendar.Item{Course: "NAV 310"}, Known{}, 0, 2},
		"as people type it":            {calendar.Item{Course: "nav-310 (autumn)"}, Known{}, 0, 2},
		"named by its title":           {calendar.Item{Course: "Coastal Navigation"}, Known{}, 0, 2},
		"its code in the title":        {calendar.Item{Title: "HYD214: Lab 3"}, Known{}, 0, 1},
		"the name before the title":    {calendar.Item{Course: "NAV 310", Title: "HYD 214 Lab"}, Known{}, 0, 2},
		"nothing is said":              {calendar.Item{Title: "Lab 3"}, Known{}, 0, 0},
		"a code without a letter":      {calendar.Item{Title: "Lab -- 3", Course: "--"}, Known{}, 0, 0},
		"an archived one":              {calendar.Item{Course: "OLD 9"}, Known{}, 0, 0},
		"chosen for all":               {calendar.Item{Course: "NAV 310"}, Known{}, 1, 1},
		"chosen, and archived":         {calendar.Item{}, Known{}, 3, 3},
		"chosen, and not there":        {calendar.Item{Course: "NAV 310"}, Known{}, 99, 0},
		"where it was put before":      {calendar.Item{Course: "NAV 310"}, Known{ID: 7, Course: 1}, 0, 1},
		"where it was put, not chosen": {calendar.Item{}, Known{ID: 7, Course: 2}, 1, 2},
		"where it was put is gone":     {calendar.Item{Course: "NAV 310"}, Known{ID: 7, Course: 99}, 0, 2},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.want, Of(c.item, c.was, c.chosen, courses)) })
	}
	assert.Equal(t, "Other", NewCode(calendar.Item{Course: "  "}))
	assert.Len(t, []rune(NewCode(calendar.Item{Course: fmt.Sprintf("%0100d", 7)})), 32)
}

func TestWhatTakingAnItemOverDoes(t *testing.T) {
	item := func(due, status string) calendar.Item { return calendar.Item{Due: due, Status: status} }
	const due, wall = "2026-11-05T20:00:00Z", "2026-11-05T20:00"
	for name, c := range map[string]struct {
		item calendar.Item
		old  Known
		does string
		was  string
	}{
		"it is new":                     {item(due, ""), Known{}, New, ""},
		"a little late":                 {item("2026-10-20T20:00:00Z", ""), Known{}, New, ""},
		"long past":                     {item("2026-10-18T20:00:00Z", ""), Known{}, Past, ""},
		"done already":                  {item(due, "completed"), Known{}, Past, ""},
		"cancelled before it was there": {item(due, "cancelled"), Known{}, Past, ""},
		"the same":                      {item(due, ""), Known{ID: 1, Due: wall}, Same, ""},
		"the same, long past": {
			item("2026-10-01T19:00:00Z", ""),
			Known{ID: 1, Due: "2026-10-01T20:00"},
			Same,
			"",
		},
		"another time": {
			item("2026-11-06T20:00:00Z", ""),
			Known{ID: 1, Due: wall},
			Changed,
			wall,
		},
		"cancelled": {item(due, "cancelled"), Known{ID: 1, Due: wall}, Cancelled, ""},
		"cancelled again": {
			item(due, "cancelled"),
			Known{ID: 1, Due: wall, Cancelled: true},
			Past,
			"",
		},
		"put away by the student": {item(due, ""), Known{ID: 1, Due: wall, Cancelled: true}, Past, ""},
		"put away, and now at another time": {
			item("2026-11-06T20:00:00Z", ""),
			Known{ID: 1, Due: wall, Cancelled: true},
			Changed,
			wall,
		},
		"done by its calendar, known before": {item(due, "completed"), Known{ID: 1, Due: wall}, Same, ""},
	} {
		t.Run(name, func(t *testing.T) {
			does, was := Compare(c.item, c.old, lisbon, now)
			assert.Equal(t, []string{c.does, c.was}, []string{does, was})
		})
	}
}

func TestAnItemIsFoundAgainByItsKey(t *testing.T) {
	series := calendar.Item{UID: "a@x", RecurrenceID: "2026-11-05", Title: "Sheet"}
	renamed, next := series, series
	renamed.Title, next.RecurrenceID = "Sheet 1", "2026-11-12"
	assert.Equal(t, Key(series), Key(renamed), "a title may change")
	assert.NotEqual(t, Key(series), Key(next), "each instance is one")
	row := calendar.Item{Title: "Lab 3", Course: "HYD 214", Due: "2026-11-05T20:00:00Z"}
	moved, other := row, row
	moved.Due, other.Course = "2026-11-06T20:00:00Z", "NAV 310"
	moved.Title = "LAB 3"
	assert.Equal(t, Key(row), Key(moved), "a row's time may change, and its capitals")
	assert.NotEqual(t, Key(row), Key(other))
	assert.LessOrEqual(t, len(Key(row)), 64, "it fits its column")
}

func TestWhatAnItemAsksFor(t *testing.T) {
	said := func(asks []brief.Ask) (list []string) {
		for _, a := range asks {
			list = append(list, fmt.Sprint(a.Item.Kind, " ", a.Item.Value))
		}
		return list
	}
	for name, c := range map[string]struct {
		item calendar.Item
		want []string
	}{
		"its time in the course's zone": {calendar.Item{Due: "2026-07-05T20:00:00Z"}, []string{"due 2026-07-05T21:00"}},
		"all of it": {calendar.Item{Opens: "2026-11-01T08:00:00Z", Due: "2026-11-05T20:00:00Z", Closes: "2026-11-07T20:00:00Z", Points: 20},
			[]string{"due 2026-11-05T20:00", "opens 2026-11-01T08:00", "closes 2026-11-07T20:00", "points 20"}},
		"opening after it is due": {
			calendar.Item{Opens: "2026-11-06T08:00:00Z", Due: "2026-11-05T20:00:00Z"},
			[]string{"due 2026-11-05T20:00"},
		},
		"closing before it is due": {
			calendar.Item{Due: "2026-11-05T20:00:00Z", Closes: "2026-11-04T20:00:00Z"},
			[]string{"due 2026-11-05T20:00"},
		},
		"closing as it is due": {
			calendar.Item{Due: "2026-11-05T20:00:00Z", Closes: "2026-11-05T20:00:00Z"},
			[]string{"due 2026-11-05T20:00", "closes 2026-11-05T20:00"},
		},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.want, said(Asks(c.item, lisbon))) })
	}
}

func TestWhatIsUsualComesOnlyWhereNothingIsSaid(t *testing.T) {
	u := coursework.Usual{Forms: []string{"pdf"}, Late: "late work loses 10 % a day", Points: 20}
	kinds := func(asks []brief.Ask) (list []string) {
		for _, a := range asks {
			list = append(list, fmt.Sprint(a.Item.Kind, " ", a.From, " ", a.Settled))
		}
		return list
	}
	assert.Equal(
		t,
		[]string{"forms course false", "points course false", "late course false"},
		kinds(Begin(u, nil, now)),
		"to be confirmed",
	)
	assert.Equal(
		t,
		[]string{"points yours true", "forms course false", "late course false"},
		kinds(Begin(u, []brief.Ask{brief.Yours("points", 5.0)}, now)),
	)
	assert.Empty(t, Begin(coursework.Usual{}, nil, now))
	assert.Empty(t, Begin(coursework.Usual{Late: "blue"}, nil, now), "what cannot be read is not usual")
}

func TestTheLateRuleOfABrief(t *testing.T) {
	part := func(closes string) []brief.Part { return []brief.Part{{Due: "2026-11-05T20:00", Closes: closes}} }
	free := timing.Rule{Kind: timing.Fixed, Of: "possible"}
	said := timing.Rule{Kind: timing.PerDay, Of: "earned", Percent: 5}
	for name, c := range map[string]struct {
		f    brief.Filled
		want timing.Rule
	}{
		"nothing is said":    {brief.Filled{Parts: part("")}, free},
		"it closes later":    {brief.Filled{Parts: part("2026-11-07T20:00")}, free},
		"it closes when due": {brief.Filled{Parts: part("2026-11-05T20:00")}, timing.Rule{Kind: timing.NoLateWork}},
		"it is said":         {brief.Filled{Parts: part("2026-11-05T20:00"), Late: &said}, said},
		"no part at all":     {brief.Filled{}, free},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.want, Late(c.f)) })
	}
}

func TestATimeOfAnotherZone(t *testing.T) {
	ask := func(kind, value, zone string) brief.Ask {
		return brief.Ask{Item: prose.Item{Kind: kind, Value: value, Zone: zone}}
	}
	for name, c := range map[string]struct {
		a    brief.Ask
		want string
		err  bool
	}{
		"an hour apart":         {ask("due", "2026-11-05T20:00", "Europe/Madrid"), "2026-11-05T19:00", false},
		"over midnight":         {ask("due", "2026-11-05T23:59", "America/Halifax"), "2026-11-06T03:59", false},
		"the course's own":      {ask("due", "2026-11-05T20:00", "Europe/Lisbon"), "2026-11-05T20:00", false},
		"none":                  {ask("due", "2026-11-05T20:00", ""), "2026-11-05T20:00", false},
		"no time":               {ask("name", "{family}", "Europe/Madrid"), "{family}", false},
		"a zone that is none":   {ask("due", "2026-11-05T20:00", "Mars/Olympus"), "2026-11-05T20:00", true},
		"a time that cannot be": {ask("due", "soon", "Europe/Madrid"), "soon", true},
	} {
		t.Run(name, func(t *testing.T) {
			err := InZone(&c.a, "Europe/Lisbon")
			assert.Equal(t, c.err, err != nil, "%v", err)
			assert.Equal(t, c.want, c.a.Item.Value)
		})
	}
	a := ask("due", "2026-11-05T20:00", "Europe/Madrid")
	require.Error(t, InZone(&a, "Nowhere"))
}

func TestHeadlines(t *testing.T) {
	for text, want := range map[string]string{
		"Tide report\n\nWrite it.":        "Tide report",
		"\n\n## Tide report ##\nWrite it": "Tide report",
		"Write a report on tides.":        "",
		"Hi":                              "",
		"Dear all,\n\nthe beach profile (28 points) is due on Friday.": "Beach profile",
		"Hi everyone!\n\nWe meet on Friday.":                           "",
		"To: all\nRe: Essay 3\n\nIt is due.":                           "Essay 3",
		"Hi-fi amplifiers\n\nBuild one.":                               "Hi-fi amplifiers",
		"Hidden curves\n\nDraw them.":                                  "Hidden curves",
		"":                                                             "",
		"BIO240 Plant Physiology, autumn\nAssignment 3: Growth curves\n\nFit two models.": "Assignment 3: Growth curves",
		"BIO240 Plant Physiology\n\nFit two models.":                                      "BIO240 Plant Physiology",
		"HYD 214 Lab 4: Gauges\n\nReport on it.":                                          "HYD 214 Lab 4: Gauges",
		"GEO 118 Maps\nDue on Friday.\nLab 2":                                             "GEO 118 Maps",
		fmt.Sprintf("%0100d\nTitle", 1):                                                   "",
	} {
		assert.Equal(t, want, Headline(text), "%q", text)
	}
	assert.True(t, Names("Lab 3 of HYD-214\nWrite", "HYD 214"))
	assert.False(t, Names("Lab 3", "HYD 214"))
	assert.False(t, Names("Lab 3", "--"), "a code without a letter names nothing")
	assert.False(t, Names(fmt.Sprintf("%0400d HYD 214", 1), "HYD 214"), "only the first lines")
}

func ExampleOf() {
	list := []Course{{ID: 1, Code: "HYD 214"}, {ID: 2, Code: "NAV 310"}}
	fmt.Println(
		Of(calendar.Item{Title: "nav310 – passage plan"}, Known{}, 0, list),
		Untitled("NAV 310: passage plan", "NAV 310"),
	)
	// Output: 2 Passage plan
}
