package courses_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/coursework"
	"orario/internal/courses"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/worldtest"
)

func sheet(change ...func(*courses.Sheet)) courses.Sheet {
	s := courses.Sheet{Code: "KIT 9", Zone: "Europe/Lisbon", Contact: "ines@alvarim.example"}
	for _, c := range change {
		c(&s)
	}
	return s
}

func find(t *testing.T, w *worldtest.World, id int64) courses.Course {
	list, err := w.Courses.List(context.Background(), w.Student)
	require.NoError(t, err)
	for _, c := range list.Courses {
		if c.ID == id {
			return c
		}
	}
	t.Fatalf("course %d is not there", id)
	return courses.Course{}
}

func TestACourseOfTheStudentsOwn(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id, err := w.Courses.Add(ctx, w.Student, sheet(func(s *courses.Sheet) { s.Term = " Autumn " }))
	require.NoError(t, err)
	c := find(t, w, id)
	assert.Equal(
		t,
		[]string{"KIT 9", "KIT 9", "Autumn", "{family:lower}_{course}_{title:dash}", ""},
		[]string{c.Code, c.Title, c.Term, c.Habit, c.Site},
		"what is not said has a beginning",
	)
	usual := coursework.Usual{Forms: []string{"pdf"}, Late: "10 % a day", Weight: 5, Points: 20, Minutes: 120}
	require.NoError(
		t,
		w.Courses.Set(
			ctx,
			w.Student,
			id,
			sheet(func(s *courses.Sheet) { s.Title, s.Usual, s.Habit = "Kites", usual, "{family}" }),
		),
	)
	c = find(t, w, id)
	assert.Equal(t, []any{"Kites", usual, "{family}", ""}, []any{c.Title, c.Usual, c.Habit, c.Term})
}

func TestSheetsThatCannotBeKept(t *testing.T) {
	long := func(n int) string { return strings.Repeat("ã", n) }
	w := worldtest.New(t)
	ctx := context.Background()
	good, err := w.Courses.Add(ctx, w.Student, sheet())
	require.NoError(t, err)
	before := find(t, w, good)
	for name, c := range map[string]struct {
		spoil func(*courses.Sheet)
		says  string
	}{
		"no code":                {func(s *courses.Sheet) { s.Code = "  " }, "needs a short code"},
		"a long code":            {func(s *courses.Sheet) { s.Code = long(33) }, "needs a short code"},
		"a long title":           {func(s *courses.Sheet) { s.Title = long(201) }, "The title has at most"},
		"a long instructor":      {func(s *courses.Sheet) { s.Instructor = long(201) }, "The instructor has at most"},
		"a long contact":         {func(s *courses.Sheet) { s.Contact = long(201) + "@x" }, "The contact has at most"},
		"no address":             {func(s *courses.Sheet) { s.Contact = "Ines" }, "is no e-mail address"},
		"a long term":            {func(s *courses.Sheet) { s.Term = long(61) }, "The term has at most"},
		"a zone that is none":    {func(s *courses.Sheet) { s.Zone = "Mars/Olympus" }, "IANA"},
		"no zone":                {func(s *courses.Sheet) { s.Zone = "" }, "IANA"},
		"a pattern that is none": {func(s *courses.Sheet) { s.Habit = "{family" }, "without its }"},
		"a long pattern": {
			func(s *courses.Sheet) { s.Habit = "{family}" + long(250) },
			"pattern for names has at most",
		},
		"a weight below nothing":  {func(s *courses.Sheet) { s.Usual.Weight = -1 }, "between 0 and 100 %"},
		"points beyond anything":  {func(s *courses.Sheet) { s.Usual.Points = 1e9 }, "up to 10,000"},
		"work without end":        {func(s *courses.Sheet) { s.Usual.Minutes = 1 << 30 }, "100,000 minutes"},
		"a late rule in no words": {func(s *courses.Sheet) { s.Usual.Late = "blue" }, ""},
		"too many forms":          {func(s *courses.Sheet) { s.Usual.Forms = make([]string, 31) }, "thirty forms"},
		"somebody else's place":   {func(s *courses.Sheet) { s.EnrolmentID = 999 }, refusal.ErrNotFound.Error()},
	} {
		t.Run(name, func(t *testing.T) {
			s := sheet(func(s *courses.Sheet) { s.Code = "KIT 10" })
			c.spoil(&s)
			_, err := w.Courses.Add(ctx, w.Student, s)
			require.ErrorContains(t, err, c.says)
			assert.ErrorContains(t, w.Courses.Set(ctx, w.Student, good, s), c.says)
			assert.Equal(t, before, find(t, w, good), "nothing was changed")
		})
	}
}

func TestTheSameCodeTwice(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	_, err := w.Courses.Add(ctx, w.Student, sheet())
	require.NoError(t, err)
	_, err = w.Courses.Add(ctx, w.Student, sheet(func(s *courses.Sheet) { s.Code = "kit-9" }))
	assert.ErrorContains(t, err, "There is a course")
	_, err = w.Courses.Add(ctx, w.Student, sheet(func(s *courses.Sheet) { s.Term = "Spring" }))
	assert.NoError(t, err, "in another term it is another")
}

// Of a course that a site publishes, code, title, zone and instructor are the site's, whatever a page sends.
func TestWhatTheSiteSaysStays(t *testing.T) {
	w := worldtest.New(t)
	w.Sync()
	ctx := context.Background()
	list, err := w.Courses.List(ctx, w.Student)
	require.NoError(t, err)
	require.Len(t, list.Courses, 1)
	before := list.Courses[0]
	require.NoError(
		t,
		w.Courses.Set(
			ctx,
			w.Student,
			before.ID,
			courses.Sheet{Code: "X", Title: "Y", Zone: "UTC", Instructor: "Z", Term: "Autumn", Habit: "{family}"},
		),
	)
	after := find(t, w, before.ID)
	assert.Equal(t, []string{"HYD 214", "Hydrography", "Europe/Lisbon", "Prof. Oda Farrobo", "Autumn", "{family}"},
		[]string{after.Code, after.Title, after.Zone, after.Instructor, after.Term, after.Habit})
	w.Sync()
	assert.Equal(t, "Autumn", find(t, w, before.ID).Term, "and a sync leaves what is the student's")
	assert.True(t, list.Enrolments[0].FromSite)
}

func TestACourseIsPutAwayAndTakenOutAgain(t *testing.T) {
	w := worldtest.New(t)
	id := w.Publish(worldtest.Essay())
	ctx := context.Background()
	course := find(t, w, w.Published())
	assert.Equal(t, []any{1, "20 % of the course is known", ""}, []any{course.Open, course.Weights, course.Marked})
	for range 2 { // twice is as once
		require.NoError(t, w.Courses.Archive(ctx, w.Student, course.ID, true))
		assert.Empty(t, w.Titles())
	}
	require.NoError(t, w.Courses.Archive(ctx, w.Student, course.ID, false))
	assert.Len(t, w.Titles(), 1)
	other, _ := w.AddStudent("20419", "rui@alvarim.example")
	assert.ErrorIs(t, w.Courses.Archive(ctx, other, course.ID, true), refusal.ErrNotFound)
	assert.ErrorIs(t, w.Courses.Set(ctx, other, course.ID, sheet()), refusal.ErrNotFound)

	w.Add(id, "Quintal_HYD214_chart-datum.txt", []byte("An essay on chart datum."))
	sub := w.Send(id)
	require.NoError(t, w.Campus.Return(ctx, sub.Number, 15, nil, false))
	w.At(time.Now().Add(time.Minute))
	_, err := w.Review.FetchReturn(ctx, query.Job{Subject: sub.ID, StudentID: w.Student})
	require.NoError(t, err)
	assert.Equal(t, "15.0 of 20 % of the course", find(t, w, course.ID).Marked)
}
