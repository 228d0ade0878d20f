package coursework

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/brief"
	"orario/core/inspect"
	"orario/core/timing"
)

var noon = time.Date(2026, 11, 2, 12, 0, 0, 0, time.UTC)

func window(opens, due, closes string) timing.Window {
	w, err := timing.ParseWindow("Europe/Lisbon", opens, due, closes, 0)
	if err != nil {
		panic(err)
	}
	return w
}

// paper is an assignment of a site with one part and no attempt.
func paper(due string) *Assignment {
	w := window("", due, "")
	return &Assignment{
		ID:     1,
		Course: &Course{Code: "HYD 214", Zone: w.Zone},
		Source: FromSite,
		Key:    "rm",
		Title:  "Ripple marks",
		Points: 20,
		Late:   timing.Rule{Kind: timing.NoLateWork},
		Sheet:  brief.Sheet{Slots: []brief.Slot{{Name: "work", Required: true, Forms: []string{"pdf"}}}},
		Parts:  []*Part{{ID: 1, Window: w}},
	}
}

func file(name string) Item {
	return Item{ID: 1, Slot: "work", Name: name, Facts: &inspect.Facts{Kind: "pdf", Bytes: 1000}}
}

func (a *Assignment) attempt(n int, subs ...*Submission) *Attempt {
	attempt := &Attempt{Number: n, Submissions: subs}
	a.Parts[0].Attempts = append(a.Parts[0].Attempts, attempt)
	return attempt
}

func accepted(id int64, attempt int, change ...func(*Submission)) *Submission {
	at := noon.Add(-time.Hour)
	s := &Submission{ID: id, Attempt: attempt, State: Accepted, AcceptedAt: &at}
	for _, c := range change {
		c(s)
	}
	return s
}

func mark(n float64, invited bool) func(*Submission) {
	return func(s *Submission) { s.Return = &Return{Mark: &n, Points: 20, Invited: invited} }
}

func stand(a ...*Assignment) []*Standing {
	c := Coursework{
		Student:     Student{Family: "Quintal", Given: "Isaura Maria", Number: "a1"},
		Margin:      24 * time.Hour,
		Assignments: a,
	}
	return c.Stand(noon)
}

func TestWhereAnAssignmentStands(t *testing.T) {
	const ahead, past = "2026-11-05T20:00", "2026-11-01T20:00"
	perDay := timing.Rule{Kind: timing.PerDay, Percent: 10, Of: "earned"}
	for name, c := range map[string]struct {
		due    string
		change func(*Assignment)
		want   State
		number int
	}{
		"open": {ahead, func(*Assignment) {}, Open, 1},
		"not open yet": {
			ahead,
			func(a *Assignment) { a.Parts[0].Window = window("2026-11-03T08:00", ahead, "") },
			NotOpen,
			1,
		},
		"closed": {past, func(*Assignment) {}, Closed, 1},
		"late":   {past, func(a *Assignment) { a.Late = perDay }, Late, 1},
		"late, and closed": {
			past,
			func(a *Assignment) { a.Late = perDay; a.Parts[0].Window = window("", past, "2026-11-02T08:00") },
			Closed,
			1,
		},
		"within grace": {
			"2026-11-02T11:50",
			func(a *Assignment) { a.Parts[0].Window.Grace = 15 * time.Minute },
			Open,
			1,
		},
		"its very last second": {"2026-11-02T12:00", func(*Assignment) {}, Open, 1},
		"being sent": {
			ahead,
			func(a *Assignment) { a.attempt(1, &Submission{ID: 1, Attempt: 1, State: Carried}) },
			Sending,
			1,
		},
		"refused": {
			ahead,
			func(a *Assignment) { a.attempt(1, &Submission{ID: 1, Attempt: 1, State: Refused}) },
			Open,
			1,
		},
		"cancelled, and sent again": {ahead, func(a *Assignment) {
			a.attempt(1, &Submission{ID: 1, Attempt: 1, State: Cancelled}, &Submission{ID: 2, Attempt: 1, State: Carried})
		}, Sending, 1},
		"sent":          {ahead, func(a *Assignment) { a.attempt(1, accepted(1, 1)) }, Waiting, 2},
		"sent and past": {past, func(a *Assignment) { a.attempt(1, accepted(1, 1)) }, Waiting, 2},
		"came back":     {ahead, func(a *Assignment) { a.attempt(1, accepted(1, 1, mark(15, false))) }, Back, 2},
		"full marks":    {ahead, func(a *Assignment) { a.attempt(1, accepted(1, 1, mark(20, false))) }, Done, 2},
		"enough": {
			ahead,
			func(a *Assignment) { a.Enough = true; a.attempt(1, accepted(1, 1, mark(15, false))) },
			Done,
			2,
		},
		"no attempt left": {ahead, func(a *Assignment) {
			a.Sheet.Attempts.Max = 1
			a.attempt(1, accepted(1, 1, mark(15, false)))
		}, Done, 2},
		"came back too late": {past, func(a *Assignment) { a.attempt(1, accepted(1, 1, mark(15, false))) }, Done, 2},
		"not invited": {ahead, func(a *Assignment) {
			a.Sheet.Attempts.Invitation = true
			a.attempt(1, accepted(1, 1, mark(15, false)))
		}, Done, 2},
		"invited": {ahead, func(a *Assignment) {
			a.Sheet.Attempts.Invitation = true
			a.attempt(1, accepted(1, 1, mark(15, true)))
		}, Back, 2},
		"the second attempt begun": {ahead, func(a *Assignment) {
			a.attempt(1, accepted(1, 1, mark(15, false)))
			a.attempt(2).Items = []Item{file("b.pdf")}
		}, Back, 2},
		"sent twice": {ahead, func(a *Assignment) {
			a.attempt(1, accepted(1, 1, mark(15, false)))
			a.attempt(2, accepted(2, 2))
		}, Waiting, 3},
		"noted as sent": {ahead, func(a *Assignment) { a.Parts[0].Noted = &Noted{At: noon} }, Waiting, 1},
		"noted as sent, and enough": {
			ahead,
			func(a *Assignment) { a.Parts[0].Noted = &Noted{At: noon}; a.Enough = true },
			Done,
			1,
		},
	} {
		t.Run(name, func(t *testing.T) {
			a := paper(c.due)
			c.change(a)
			s := stand(a)[0]
			assert.Equal(t, []any{c.want, c.number}, []any{s.State, s.Number})
			places, _ := s.Strip()
			assert.Len(t, places, 6)
		})
	}
}

func TestMoreTimeThatWasGranted(t *testing.T) {
	granted := noon.Add(-time.Hour)
	for name, c := range map[string]struct {
		window  timing.Window
		e       *Extension
		due, to string
	}{
		"none": {window("", "2026-11-05T20:00", ""), nil, "2026-11-05T20:00", ""},
		"only asked for": {
			window("", "2026-11-05T20:00", ""),
			&Extension{Asked: &granted, Due: "2026-11-09T20:00"},
			"2026-11-05T20:00",
			"",
		},
		"granted": {
			window("", "2026-11-05T20:00", ""),
			&Extension{Granted: &granted, Due: "2026-11-09T20:00"},
			"2026-11-09T20:00",
			"",
		},
		"closes moves on": {
			window("", "2026-11-05T20:00", "2026-11-06T20:00"),
			&Extension{Granted: &granted, Due: "2026-11-09T20:00"},
			"2026-11-09T20:00",
			"",
		},
		"closes stays": {window("", "2026-11-05T20:00", "2026-11-12T20:00"), &Extension{Granted: &granted, Due: "2026-11-09T20:00"},
			"2026-11-09T20:00", "2026-11-12T20:00"},
		"a new close": {window("", "2026-11-05T20:00", ""), &Extension{Granted: &granted, Due: "2026-11-09T20:00", Closes: "2026-11-10T08:00"},
			"2026-11-09T20:00", "2026-11-10T08:00"},
		"overtaken by the site": {
			window("", "2026-11-20T20:00", ""),
			&Extension{Granted: &granted, Due: "2026-11-09T20:00"},
			"2026-11-20T20:00",
			"",
		},
		"that cannot be read": {
			window("", "2026-11-05T20:00", ""),
			&Extension{Granted: &granted, Due: "soon"},
			"2026-11-05T20:00",
			"",
		},
	} {
		t.Run(name, func(t *testing.T) {
			a := paper("2026-11-05T20:00")
			a.Parts[0].Window, a.Parts[0].Extension = c.window, c.e
			w := stand(a)[0].Window
			assert.Equal(t, c.due, w.Due.At().In(w.Zone).Format("2006-01-02T15:04"))
			if c.to != "" {
				require.NotNil(t, w.Closes)
				assert.Equal(t, c.to, w.Closes.At().In(w.Zone).Format("2006-01-02T15:04"))
			}
		})
	}
}

func TestPartsComeOneAfterAnother(t *testing.T) {
	a := paper("2026-11-05T20:00")
	a.Parts[0].Name = "Plan"
	a.Parts = append(a.Parts, &Part{ID: 2, Name: "Report", Window: window("", "2026-11-12T20:00", ""),
		Slots: []brief.Slot{{Name: "report", Required: true}}})
	s := stand(a)[0]
	assert.Equal(t, []any{"Ripple marks, Plan", "work", 1}, []any{s.Titled(), s.Sheet.Slots[0].Name, s.Number})
	a.attempt(1, accepted(1, 1))
	s = stand(a)[0]
	assert.Equal(
		t,
		[]any{"Ripple marks, Report", "report", 1, Open},
		[]any{s.Titled(), s.Sheet.Slots[0].Name, s.Number, s.State},
	)
	c := Coursework{Assignments: []*Assignment{a}}
	assert.Equal(t, Waiting, c.Stand(noon, 1)[0].State, "the part that was asked for")
	a.Parts[1].Noted = &Noted{At: noon}
	assert.Equal(t, "Ripple marks, Report", stand(a)[0].Titled(), "when all are sent, the last")
}

func TestTheInstitutionsNamesAndClockHold(t *testing.T) {
	a := paper("2026-11-02T12:10")
	a.Sheet.Name = "{family}_{number}_{initials}.{ext}"
	a.attempt(1).Items = []Item{file("work.pdf")}
	becomes := func() string {
		for _, f := range stand(a)[0].Findings {
			if f.Code == "name" {
				return f.Becomes
			}
		}
		return ""
	}
	assert.Equal(t, "Quintal_a1_IMQ.pdf", becomes())
	a.Course.Enrolment = &Enrolment{Number: "FC-77", Family: "Quintal Reis", Given: "Isaura", Clock: 20 * time.Minute}
	assert.Equal(t, "Quintal Reis_FC-77_IQR.pdf", becomes())
	assert.Equal(t, Closed, stand(a)[0].State, "its clock is past due, ours is not")
	a.Source = FromStudent
	assert.Equal(t, Open, stand(a)[0].State, "what no site takes goes by the student's clock")
}

func TestWhatIsInTheWayOfSending(t *testing.T) {
	ready := func() *Assignment {
		a := paper("2026-11-05T20:00")
		a.attempt(1).Items = []Item{file("Quintal_ripple.pdf")}
		return a
	}
	for name, c := range map[string]struct {
		change   func(*Assignment)
		declared bool
		want     string
	}{
		"nothing": {func(*Assignment) {}, false, ""},
		"no site": {func(a *Assignment) { a.Source = FromStudent }, false, "No connected site"},
		"on its way": {
			func(a *Assignment) { a.Parts[0].Attempts[0].Submissions = []*Submission{{State: Carried}} },
			false,
			"being sent already",
		},
		"the wrong form": {
			func(a *Assignment) { a.Parts[0].Attempts[0].Items[0].Facts.Kind = "docx" },
			false,
			"One thing must be fixed first",
		},
		"two things": {func(a *Assignment) {
			a.Parts[0].Attempts[0].Items[0].Facts.Kind = "docx"
			a.Sheet.MaxTotalBytes = 10
		}, false, "2 things must be fixed first."},
		"not open yet": {
			func(a *Assignment) { a.Parts[0].Window = window("2026-11-03T08:00", "2026-11-05T20:00", "") },
			false,
			"before it opens",
		},
		"an empty slot": {func(a *Assignment) { a.Parts[0].Attempts[0].Items = nil }, false, "Nothing is in the slot"},
		"not declared":  {func(a *Assignment) { a.Sheet.Declaration = "My own." }, false, "Confirm the declaration"},
		"declared":      {func(a *Assignment) { a.Sheet.Declaration = "My own." }, true, ""},
		"closed": {
			func(a *Assignment) { a.Parts[0].Window = window("", "2026-11-01T20:00", "") },
			false,
			"it is closed",
		},
		"the only attempt used": {sent(1, 1), false, "the only attempt is used"},
		"the second of two":     {sent(2, 1), true, ""},
		"both used":             {sent(2, 2), false, "both attempts are used"},
		"the last of three":     {sent(3, 2), true, ""},
		"three used":            {sent(3, 3), false, "all 3 attempts are used"},
		"as many as one likes":  {sent(0, 9), true, ""},
		"not invited": {func(a *Assignment) {
			a.Sheet.Attempts.Invitation = true
			a.Parts[0].Attempts[0].Submissions = []*Submission{accepted(1, 1)}
		}, false, "needs an invitation"},
	} {
		t.Run(name, func(t *testing.T) {
			a := ready()
			c.change(a)
			got := stand(a)[0].MaySend(c.declared)
			if c.want == "" {
				assert.Empty(t, got)
				return
			}
			assert.Contains(t, got, c.want)
		})
	}
}

func TestWhatACorrectionCouldGain(t *testing.T) {
	for name, c := range map[string]struct {
		change          func(*Assignment)
		points, percent float64
	}{
		"nothing was sent":     {func(*Assignment) {}, 0, 0},
		"nothing came back":    {func(a *Assignment) { a.attempt(1, accepted(1, 1)) }, 0, 0},
		"five points of 20":    {func(a *Assignment) { a.attempt(1, accepted(1, 1, mark(15, false))) }, 5, 2.5},
		"full marks":           {func(a *Assignment) { a.attempt(1, accepted(1, 1, mark(20, false))) }, 0, 0},
		"more than full marks": {func(a *Assignment) { a.attempt(1, accepted(1, 1, mark(22, false))) }, 0, 0},
		"it is enough": {
			func(a *Assignment) { a.Enough = true; a.attempt(1, accepted(1, 1, mark(15, false))) },
			0,
			0,
		},
		"no attempt left": {func(a *Assignment) {
			a.Sheet.Attempts.Max = 1
			a.attempt(1, accepted(1, 1, mark(15, false)))
		}, 0, 0},
		"points of nothing": {func(a *Assignment) {
			a.attempt(1, accepted(1, 1, mark(0, false), func(s *Submission) { s.Return.Points = 0 }))
		}, 0, 0},
	} {
		t.Run(name, func(t *testing.T) {
			a := paper("2026-11-05T20:00")
			a.Weight = 10
			c.change(a)
			points, percent := stand(a)[0].Gain()
			assert.Equal(t, []float64{c.points, c.percent}, []float64{points, percent})
		})
	}
}

func TestAttemptsLeft(t *testing.T) {
	for used, want := range []int{3, 2, 1, 0} {
		a := paper("2026-11-05T20:00")
		a.Sheet.Attempts.Max = 3
		for n := range used {
			a.attempt(n+1, accepted(int64(n+1), n+1))
		}
		got, limited := stand(a)[0].AttemptsLeft()
		assert.Equal(t, []any{want, true}, []any{got, limited}, "%d used", used)
	}
}

// Ten megabytes at the site's 100 kB/s are sent twice within 200 s; in a crowded hour, at a quarter of the rate, within
// 800 s. The times are rounded up to minutes.
func TestSendByReckonsWithTheTransfer(t *testing.T) {
	transfer := func(a *Assignment, others ...*Assignment) int64 {
		for _, c := range stand(append(others, a)...)[len(others)].Because {
			if c.Part == "transfer" {
				return c.Minutes
			}
		}
		return -1
	}
	a := paper("2026-11-05T20:00")
	a.Course.Site = &Site{Rate: 100_000}
	a.attempt(1).Items = []Item{file("a.pdf")}
	a.Parts[0].Attempts[0].Items[0].Facts.Bytes = 10_000_000
	assert.EqualValues(t, 4, transfer(a))
	b, c := paper("2026-11-05T20:10"), paper("2026-11-05T19:45")
	assert.EqualValues(t, 4, transfer(a, b), "two are no crowd")
	assert.EqualValues(t, 14, transfer(a, b, c), "a quarter of the rate in a crowd")
	b.Cancelled = true
	assert.EqualValues(t, 4, transfer(a, b, c), "what was put away crowds nobody")
	a.Parts[0].Window = window("", "2026-11-05T23:55", "")
	assert.EqualValues(t, 14, transfer(a), "before midnight every hour is crowded")
	a.Course.Site.Rate, a.Parts[0].Attempts[0].Items = 0, nil
	a.Parts[0].Window = window("", "2026-11-05T20:00", "")
	assert.EqualValues(t, 1, transfer(a), "5 MB at 250 kB/s where nothing is known")
}

func TestAnAttemptThatOnlyRepeatsIsSaidToBe(t *testing.T) {
	a := paper("2026-11-05T20:00")
	a.attempt(1, accepted(1, 1))
	again := file("Quintal_ripple.pdf")
	again.Inherited = true
	a.attempt(2).Items = []Item{again}
	codes := func() (list []string) {
		for _, f := range stand(a)[0].Findings {
			list = append(list, f.Code)
		}
		return list
	}
	assert.Contains(t, codes(), "unchanged")
	_, number := stand(a)[0].Strip()
	assert.Equal(t, 1, number, "the strip is still that of what was sent")
	a.Parts[0].Attempts[1].Items[0].Inherited = false
	assert.NotContains(t, codes(), "unchanged")
	_, number = stand(a)[0].Strip()
	assert.Equal(t, 2, number)
}

func TestPrices(t *testing.T) {
	for want, r := range map[string]timing.Rule{
		"nothing is taken late": {Kind: timing.NoLateWork},
		"−10 %":                 {Kind: timing.Fixed, Percent: 10, Of: "earned"},
		"−5 % a day":            {Kind: timing.PerDay, Percent: 5, Of: "possible"},
		"−2 points a day":       {Kind: timing.PerDay, Percent: 2, Of: "points"},
		"−1.5 % per 6 h":        {Kind: timing.PerHours, Percent: 1.5, Of: "earned", Hours: 6},
		"costs more with time":  {Kind: timing.Steps},
		"taken late":            {Kind: timing.PerDay},
	} {
		assert.Equal(t, want, Price(r))
	}
}

func ExampleCoursework_Stand() {
	a := paper("2026-11-05T20:00")
	a.Parts[0].Attempts = []*Attempt{{Number: 1, Items: []Item{file("notes.pdf")}}}
	c := Coursework{Margin: 24 * time.Hour, Assignments: []*Assignment{a}}
	s := c.Stand(time.Date(2026, 11, 2, 12, 0, 0, 0, time.UTC))[0]
	fmt.Println(s.State, "- send by", s.Local(s.SendBy))
	places, attempt := s.Strip()
	fmt.Println("attempt", attempt)
	for _, p := range places {
		fmt.Println(p.Place, p.State)
	}
	// Output:
	// open - send by Wed 4 Nov 20:00
	// attempt 1
	// brief punched
	// bundle punched
	// checks punched
	// sent blank
	// proof blank
	// return blank
}

func TestHowACourseStands(t *testing.T) {
	course := &Course{ID: 1, Code: "HYD 214"}
	work := func(weight float64, change ...func(*Assignment)) *Assignment {
		a := paper("2026-11-05T20:00")
		a.Course, a.Weight, course.Zone = course, weight, a.Parts[0].Window.Zone
		for _, c := range change {
			c(a)
		}
		return a
	}
	came := func(n float64) func(*Assignment) {
		return func(a *Assignment) { a.attempt(1, accepted(1, 1, mark(n, false))) }
	}
	elsewhere := work(50)
	elsewhere.Course = &Course{ID: 2, Code: "NAV 310", Zone: course.Zone}
	for name, c := range map[string]struct {
		work          []*Assignment
		want          CourseSum
		known, marked string
	}{
		"nothing":  {nil, CourseSum{}, "0 % of the course is known", ""},
		"one open": {[]*Assignment{work(20)}, CourseSum{Open: 1, Known: 20}, "20 % of the course is known", ""},
		"one came back": {[]*Assignment{work(20), work(10, came(15))}, CourseSum{Open: 1, Known: 30, Marked: 10, Earned: 7.5},
			"30 % of the course is known", "7.5 of 10 % of the course"},
		"cancelled": {
			[]*Assignment{work(20, func(a *Assignment) { a.Cancelled = true })},
			CourseSum{},
			"0 % of the course is known",
			"",
		},
		"of another course": {[]*Assignment{elsewhere}, CourseSum{}, "0 % of the course is known", ""},
		"a mark out of nothing": {[]*Assignment{work(10, came(0), func(a *Assignment) {
			a.Parts[0].Attempts[0].Submissions[0].Return.Points = 0
		})}, CourseSum{Known: 10, Marked: 10}, "10 % of the course is known", "0.0 of 10 % of the course"},
		"weights not known": {[]*Assignment{work(0, came(15))}, CourseSum{}, "0 % of the course is known", ""},
	} {
		t.Run(name, func(t *testing.T) {
			sum := Sum(stand(c.work...), course)
			assert.Equal(t, c.want, sum)
			assert.Equal(t, []string{c.known, c.marked}, []string{sum.SayKnown(), sum.SayMarked()})
		})
	}
}

// sent has a number of attempts sent, of those that are allowed; the next lies ready.
func sent(allowed, n int) func(*Assignment) {
	return func(a *Assignment) {
		a.Sheet.Attempts.Max = allowed
		items := a.Parts[0].Attempts[0].Items
		a.Parts[0].Attempts = nil
		for try := 1; try <= n; try++ {
			subs := []*Submission{accepted(int64(try), try)}
			a.Parts[0].Attempts = append(a.Parts[0].Attempts, &Attempt{Number: try, Submissions: subs})
		}
		a.Parts[0].Attempts = append(a.Parts[0].Attempts, &Attempt{Number: n + 1, Items: items})
	}
}

// Whatever of a bundle would be sent otherwise changes its mark: a file, its version, its slot, its name, the order.
func TestTheMarkOfABundle(t *testing.T) {
	s := Standing{Part: &Part{}}
	s.Items = []Item{{ID: 1, Version: 10, Slot: "report", Name: "a.pdf"}, {ID: 2, Version: 20, Slot: "data", Name: "b.csv"}}
	marks := map[string]string{s.Mark(): "as it is"}
	for what, change := range map[string]func([]Item){
		"another version": func(i []Item) { i[0].Version = 11 },
		"another slot":    func(i []Item) { i[0].Slot = "data" },
		"another name":    func(i []Item) { i[0].Name = "A.pdf" },
		"another item":    func(i []Item) { i[0].ID = 3 },
		"another order":   func(i []Item) { i[0], i[1] = i[1], i[0] },
		"slots exchanged": func(i []Item) { i[0].Slot, i[1].Slot = i[1].Slot, i[0].Slot },
	} {
		other := Standing{Part: &Part{}}
		other.Items = slices.Clone(s.Items)
		change(other.Items)
		assert.Empty(t, marks[other.Mark()], what)
		marks[other.Mark()] = what
	}
}
