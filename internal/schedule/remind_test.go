package schedule_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	core "orario/core/agenda"
	"orario/core/coursework"
	"orario/internal/courses"
	"orario/internal/mariadb/query"
	"orario/internal/schedule"
	"orario/internal/worldtest"
)

// told runs the job of reminders at an instant and gives what it said then.
func told(t testing.TB, w *worldtest.World, now time.Time) (out []string) {
	ctx := context.Background()
	before, err := w.DB.LastEvent(ctx, w.Student)
	require.NoError(t, err)
	w.At(now)
	_, err = w.Agenda.Remind(ctx, query.Job{Subject: w.Student, StudentID: w.Student})
	require.NoError(t, err)
	events, err := w.DB.EventsAfter(ctx, query.EventsAfterParams{StudentID: w.Student, ID: before})
	require.NoError(t, err)
	for _, e := range events {
		assert.Equal(t, "reminder", e.Kind)
		out = append(out, e.Text)
	}
	return out
}

// Three hours of work, two hours an evening, due Wednesday 23:00: the latest start is Tuesday 19:00.
func TestRemindersFollowTheSlackAndComeOnce(t *testing.T) {
	w := worldtest.Planned(t)
	id := w.Own("A HYD 13 Jan 23:00 ~3h", 10)
	assert.Empty(t, told(t, w, worldtest.At(11, 18)), "more than a day of slack")
	assert.Equal(
		t,
		[]string{"HYD 214 A: 3 h of work left, 9 h of slack until send-by Wed 13 Jan 22:59."},
		told(t, w, worldtest.At(12, 10)),
	)
	assert.Empty(t, told(t, w, worldtest.At(12, 10)), "never twice")
	assert.Equal(t, []string{"HYD 214 A: send by Wed 13 Jan 22:59, 1 h of slack."}, told(t, w, worldtest.At(12, 18)))
	assert.Equal(
		t,
		[]string{
			"HYD 214 A: 3 h of work are left, and by Wed 13 Jan 22:59 there is no time to spare any more. Start " +
				"now, or ask for more time.",
		},
		told(t, w, worldtest.At(12, 19)),
	)
	// Done in time, no more of it is said; due soon, it is.
	ctx := context.Background()
	require.NoError(t, w.Agenda.LogWork(ctx, w.Student, id, 180))
	assert.Empty(t, told(t, w, worldtest.At(13, 12)))
	assert.Equal(t, []string{"HYD 214 A: due Wed 13 Jan 23:00."}, told(t, w, worldtest.At(13, 22)))
	// Noted as sent, and after half a day nothing shows it.
	sent := worldtest.At(13, 22)
	require.NoError(t, w.Submit.Note(ctx, w.Student, id, 0, &sent, ""))
	assert.Empty(t, told(t, w, worldtest.At(13, 23)))
	got := told(t, w, worldtest.At(14, 11))
	require.Len(t, got, 1)
	assert.Contains(t, got[0], "nothing shows it")
}

// What is put away is quiet: an archived course, and what was taken out of a calendar.
func TestNothingIsSaidOfWhatIsPutAway(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	course, err := w.Courses.Add(ctx, w.Student, courses.Sheet{Code: "BAK 1", Zone: "Europe/Lisbon"})
	require.NoError(t, err)
	w.Own("Bread BAK 13 Jan 23:00 ~3h", 10)
	w.Take("x.ics", worldtest.Calendar(worldtest.Todo("a", "20270113T230000", "Buoys", "CATEGORIES:HYD 214\r\n")))
	list, err := w.DB.Assignments(ctx, query.AssignmentsParams{StudentID: w.Student})
	require.NoError(t, err)
	require.NoError(t, w.Courses.Archive(ctx, w.Student, course, true))
	require.NoError(t, w.Intake.Remove(ctx, w.Student, list[1].ID))
	assert.Empty(t, told(t, w, worldtest.At(13, 22)))
	require.NoError(t, w.Courses.Archive(ctx, w.Student, course, false))
	assert.Len(t, told(t, w, worldtest.At(13, 22)), 1)
}

func TestQuietHoursAreKept(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	settings, err := w.Agenda.Settings(ctx, w.Student)
	require.NoError(t, err)
	settings.QuietFrom, settings.QuietTo = 22*60, 8*60
	require.NoError(t, w.Agenda.SetSettings(ctx, w.Student, settings))
	d, err := w.Intake.ReadText(
		ctx,
		w.Student,
		0,
		"HYD 214 Tides\n\nOpens on 13 January 2027 at 3:00. Due on 20 January 2027, 18:00.",
	)
	require.NoError(t, err)
	_, err = w.Intake.Add(ctx, w.Student, *d)
	require.NoError(t, err)
	assert.Empty(t, told(t, w, worldtest.At(12, 21)))
	// Half an hour before the quiet it is said what falls into it.
	assert.Equal(
		t,
		[]string{"HYD 214 Tides: opens Wed 13 Jan 03:00, due Wed 20 Jan 18:00."},
		told(t, w, worldtest.At(12, 21).Add(35*time.Minute)),
	)
	assert.Empty(t, told(t, w, worldtest.At(13, 3)), "quiet")
	assert.Empty(t, told(t, w, worldtest.At(13, 9)), "said already")
}

// post keeps what is mailed.
type post struct {
	sent []string
	fail error
}

func (p *post) Send(_ context.Context, to, subject, text string) error {
	if p.fail == nil {
		p.sent = append(p.sent, to+": "+subject+"\n"+text)
	}
	return p.fail
}

func TestRemindersAreMailedIfAskedFor(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	w.Own("A HYD 13 Jan 23:00 ~3h", 10)
	w.Own("B HYD 13 Jan 23:00 ~1h", 10)
	box := &post{fail: assert.AnError}
	w.Agenda.Mail = box
	assert.NotEmpty(t, told(t, w, worldtest.At(12, 10)))
	assert.Empty(t, box.sent, "not asked for")
	settings, err := w.Agenda.Settings(ctx, w.Student)
	require.NoError(t, err)
	settings.Mail = true
	require.NoError(t, w.Agenda.SetSettings(ctx, w.Student, settings))
	job := query.Job{Subject: w.Student, StudentID: w.Student}
	_, err = w.Agenda.Remind(ctx, job)
	assert.ErrorIs(t, err, assert.AnError, "a mail that fails is tried again")
	box.fail = nil
	for range 2 {
		_, err = w.Agenda.Remind(ctx, job)
		require.NoError(t, err)
	}
	require.Len(t, box.sent, 1, "one mail for all, once")
	assert.Contains(t, box.sent[0], "nerea@alvarim.example: 2 reminders")
	assert.Contains(t, box.sent[0], "/desk/")
}

// What changed is told once to where she is; in quiet hours it waits for the morning.
func TestChangesAreMailedToo(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	essay := worldtest.Essay()
	w.Publish(essay)
	settings := core.Usual
	settings.Mail = true
	require.NoError(t, w.Agenda.SetSettings(ctx, w.Student, settings))
	box := &post{}
	w.Agenda.Mail = box
	noon := time.Now().UTC().Truncate(24 * time.Hour).Add(12 * time.Hour)
	essay.Due = time.Now().UTC().AddDate(0, 0, 6).Format("2006-01-02T15:04")
	w.Publish(essay)
	_, err := w.DB.SQL.Exec("UPDATE event SET at = ?", noon)
	require.NoError(t, err)
	remind := func(now time.Time) {
		w.At(now)
		_, err := w.Agenda.Remind(ctx, query.Job{Subject: w.Student, StudentID: w.Student})
		require.NoError(t, err)
	}
	remind(noon.Add(11 * time.Hour))
	assert.Empty(t, box.sent, "quiet")
	remind(noon.Add(21 * time.Hour))
	remind(noon.Add(22 * time.Hour))
	require.Len(t, box.sent, 1)
	assert.Contains(t, box.sent[0], "no longer")
	h, err := w.Agenda.Horizon(ctx, w.Student)
	require.NoError(t, err)
	assert.Len(t, h.Changes, 2, "the list has it once")
}

func TestSettingsMustBeSound(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	good, err := w.Agenda.Settings(ctx, w.Student)
	require.NoError(t, err)
	for name, spoil := range map[string]func(*core.Settings){
		"no time in a day": func(s *core.Settings) { s.MostADay = 0 }, "a long margin": func(s *core.Settings) { s.Margin = 15 * 24 * 60 },
		"hours that overlap": func(s *core.Settings) { s.Week[1] = append(s.Week[1], s.Week[1]...) }, "a strange time": func(s *core.Settings) { s.QuietFrom = 24 * 60 },
	} {
		bad := good
		bad.Week = good.Week
		spoil(&bad)
		assert.Error(t, w.Agenda.SetSettings(ctx, w.Student, bad), name)
	}
	kept, err := w.Agenda.Settings(ctx, w.Student)
	require.NoError(t, err)
	assert.Equal(t, good, kept)
}

// Parts have windows of their own: the first that is not noted as sent counts.
func TestPartsComeOneAfterTheOther(t *testing.T) {
	w := worldtest.Planned(t)
	ctx := context.Background()
	d, err := w.Intake.Typed(ctx, w.Student, "Portfolio HYD ~3h")
	require.NoError(t, err)
	for _, p := range [][2]string{{"sketch", "2027-01-13T17:00"}, {"text", "2027-01-20T17:00"}} {
		ask, err := w.Intake.Correct(ctx, w.Student, d.CourseID, "due", p[1])
		require.NoError(t, err)
		ask.Thing = p[0]
		d.Asks = append(d.Asks, *ask)
	}
	id, err := w.Intake.Add(ctx, w.Student, *d)
	require.NoError(t, err)
	assert.Equal(t, "sketch", w.Line(id).Part)
	now := worldtest.Monday
	require.NoError(t, w.Submit.Note(ctx, w.Student, id, 0, &now, ""))
	l := w.Line(id)
	assert.Equal(t, "text", l.Part)
	assert.Equal(t, worldtest.At(20, 17), l.Due)
	assert.Equal(t, coursework.Open, l.State)
	require.NoError(t, w.Submit.Note(ctx, w.Student, id, 0, &now, ""))
	assert.Equal(t, coursework.Waiting, w.Line(id).State)
	said, err := w.Agenda.Bulk(ctx, w.Student, []int64{id}, schedule.BulkEnough, 0)
	require.NoError(t, err)
	assert.Equal(t, "Done for 1 assignment.", said)
	assert.Equal(t, coursework.Done, w.Line(id).State)
}
