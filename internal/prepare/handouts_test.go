package prepare_test

import (
	"archive/zip"
	"bytes"
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/brief"
	"orario/core/naming"
	"orario/demo"
	"orario/internal/campus/campusapi"
	"orario/internal/mariadb/query"
	"orario/internal/prepare"
	"orario/internal/refusal"
	"orario/internal/worldtest"
)

// handedOut is an assignment with a template, and the same packed beside data.
func handedOut(t *testing.T, w *worldtest.World) (id int64, template []byte) {
	ctx := context.Background()
	template = demo.DOCX("Oda Farrobo", "Lab 4", "# Purpose", "[Your text]")
	var packed bytes.Buffer
	z := zip.NewWriter(&packed)
	for name, data := range map[string][]byte{"lab/sheet.docx": demo.DOCX("Oda", "Sheet"), "lab/tides.csv": []byte("h\n1\n")} {
		to, err := z.Create(name)
		require.NoError(t, err)
		_, err = to.Write(data)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	a := worldtest.Essay()
	a.Sheet.Slots = []brief.Slot{{Name: "report", Required: true, Forms: []string{"docx", "pdf"}, Most: 3}}
	for name, data := range map[string][]byte{"template.docx": template, "lab.zip": packed.Bytes()} {
		digest, size, err := w.Campus.AddHandout(ctx, data)
		require.NoError(t, err)
		a.Handouts = append(a.Handouts, campusapi.Handout{Name: name, Bytes: size, Digest: digest})
	}
	return w.Publish(a), template
}

func codes(t *testing.T, w *worldtest.World, id int64) (list []string) {
	state, err := w.Prepare.State(context.Background(), w.Student, id, 0)
	require.NoError(t, err)
	for _, f := range state.Findings {
		list = append(list, f.Code)
	}
	return list
}

func TestHandoutsAreKeptUnpackedOnce(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id, _ := handedOut(t, w)
	came, left, err := w.Prepare.KeepHandouts(ctx, w.Student, id)
	require.NoError(t, err)
	assert.Equal(t, 3, came)
	assert.Empty(t, left)
	came, _, err = w.Prepare.KeepHandouts(ctx, w.Student, id)
	require.NoError(t, err)
	assert.Zero(t, came)
	rows, err := w.DB.Versions(ctx, w.Student)
	require.NoError(t, err)
	var names []string
	for _, v := range rows {
		names = append(names, v.Name)
	}
	assert.ElementsMatch(t, []string{"template.docx", "sheet.docx", "tides.csv"}, names)
	_, _, err = w.Prepare.KeepHandouts(ctx, w.Student+1, id)
	assert.ErrorIs(t, err, refusal.ErrNotFound)
}

// One archive that does not open stays as it is, and the others come.
func TestABadArchiveKeepsNoHandoutBack(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	a := worldtest.Essay()
	for _, name := range []string{"BROKEN.ZIP", "rubric.txt"} {
		digest, size, err := w.Campus.AddHandout(ctx, []byte("no archive, "+name))
		require.NoError(t, err)
		a.Handouts = append(a.Handouts, campusapi.Handout{Name: name, Bytes: size, Digest: digest})
	}
	came, left, err := w.Prepare.KeepHandouts(ctx, w.Student, w.Publish(a))
	require.NoError(t, err)
	assert.Equal(t, 2, came)
	require.Len(t, left, 1)
	assert.Contains(t, left[0], "BROKEN.ZIP stays packed. The archive does not open")
}

// The copy is named as is asked for, and as long as nothing was changed in it the checks say so; the same of a copy
// out of the archive.
func TestTheTemplateIsBegunWithAndNoticedUnchanged(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id, template := handedOut(t, w)
	handouts, err := w.DB.Handouts(ctx, query.HandoutsParams{StudentID: w.Student})
	require.NoError(t, err)
	for _, h := range handouts {
		err := w.Prepare.BeginWith(ctx, w.Student, h.ID, 0, "")
		if h.Name == "lab.zip" {
			assert.ErrorContains(t, err, "packed")
			continue
		}
		require.NoError(t, err)
	}
	state, err := w.Prepare.State(ctx, w.Student, id, 0)
	require.NoError(t, err)
	require.Len(t, state.Items, 1)
	assert.Equal(t, "Quintal_HYD214_chart-datum.docx", state.Items[0].Name)
	assert.Contains(t, codes(t, w, id), "handout")

	own := bytes.Clone(template)
	item := state.Items[0].ID
	require.NoError(t, w.Prepare.Remove(ctx, w.Student, item))
	w.Add(id, "mine.docx", demo.DOCX("Nerea", "Lab 4", "# Purpose", "To compare tables."))
	assert.NotContains(t, codes(t, w, id), "handout")
	w.Add(id, "sheet.docx", demo.DOCX("Oda", "Sheet"))
	assert.Contains(t, codes(t, w, id), "handout", "the copy inside the archive")
	assert.Equal(t, own, template)
}

func TestANewerVersionIsNoticedAndPutIn(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id, _ := handedOut(t, w)
	item := w.Add(id, "mine.docx", demo.DOCX("Nerea", "Lab 4", "First."))
	assert.NotContains(t, codes(t, w, id), "older_version")
	newer, err := w.Prepare.Keep(ctx, w.Student, w.Upload("mine.docx", demo.DOCX("Nerea", "Lab 4", "Second.")))
	require.NoError(t, err)
	assert.Contains(t, codes(t, w, id), "older_version")
	require.NoError(t, w.Prepare.Fix(ctx, w.Student, item, "newest"))
	state, err := w.Prepare.State(ctx, w.Student, id, 0)
	require.NoError(t, err)
	assert.Equal(t, newer, state.Items[0].Version)
	assert.NotContains(t, codes(t, w, id), "older_version")
	assert.Error(t, w.Prepare.Fix(ctx, w.Student, item, "newest"), "there is none any more")
}

// Where a file lies in the slot already it is asked, and without a pattern the copy tells whose it is.
func TestACopyOfTheTemplateAsksForItsPlace(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id, _ := handedOut(t, w)
	_, err := w.DB.SQL.Exec("UPDATE assignment SET sheet = JSON_SET(JSON_REMOVE(sheet, '$.name'), '$.slots[0].most', 1) WHERE id = ?", id)
	require.NoError(t, err)
	handouts, err := w.DB.Handouts(ctx, query.HandoutsParams{StudentID: w.Student})
	require.NoError(t, err)
	var template query.Handout
	for _, h := range handouts {
		if h.Name != "lab.zip" {
			template = h
		}
	}
	names := func() (list []string) {
		state, err := w.Prepare.State(ctx, w.Student, id, 0)
		require.NoError(t, err)
		for _, i := range state.Items {
			list = append(list, i.Slot+": "+i.Name)
		}
		return list
	}
	w.Add(id, "mine.docx", demo.DOCX("Nerea", "Lab 4", "# Purpose", "To compare tables."))
	require.Equal(t, []string{"report: mine.docx"}, names())
	var asks refusal.Conflict
	require.ErrorAs(t, w.Prepare.BeginWith(ctx, w.Student, template.ID, 0, ""), &asks)
	assert.Contains(t, asks.Message, `mine.docx lies in the slot "report" already`)
	assert.Equal(t, []string{"report: mine.docx"}, names(), "nothing is done before it is answered")
	require.NoError(t, w.Prepare.BeginWith(ctx, w.Student, template.ID, 0, prepare.Instead))
	assert.Equal(t, []string{"report: quintal_HYD214_chart-datum.docx"}, names(), "as the course's habit has it")
	_, err = w.DB.SQL.Exec("UPDATE course SET name_habit = ''")
	require.NoError(t, err)
	require.NoError(t, w.Prepare.BeginWith(ctx, w.Student, template.ID, 0, prepare.Beside))
	assert.Equal(t, []string{"report: quintal_HYD214_chart-datum.docx", "report: quintal_" + template.Name}, names())
}

func TestAnOldVersionIsTakenOutOfTheLibrary(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id, _ := handedOut(t, w)
	version, err := w.Prepare.Keep(ctx, w.Student, w.Upload("old.docx", demo.DOCX("Nerea", "Lab 4", "Old.")))
	require.NoError(t, err)
	_, err = w.Prepare.AddVersion(ctx, w.Student, id, 0, prepare.Place{Version: version, Name: "again.docx"})
	require.NoError(t, err)
	state, err := w.Prepare.State(ctx, w.Student, id, 0)
	require.NoError(t, err)
	assert.Equal(t, []any{"report", "again.docx", version}, []any{state.Items[0].Slot, state.Items[0].Name, state.Items[0].Version})
	other, _ := w.AddStudent("20419", "rui@alvarim.example")
	_, err = w.Prepare.AddVersion(ctx, other, id, 0, prepare.Place{Version: version})
	assert.ErrorIs(t, err, refusal.ErrNotFound)
	_, err = w.Prepare.AddVersion(ctx, w.Student, id, 0, prepare.Place{Version: 1 << 40})
	assert.ErrorIs(t, err, refusal.ErrNotFound)
}

func TestANamePatternIsTried(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id, _ := handedOut(t, w)
	for pattern, want := range map[string]struct{ Name, Trouble string }{
		"{family:lower}_{title:dash}": {Name: "quintal_chart-datum.docx"},
		"{family":                     {Trouble: "a { without its }"},
		"{shoe}":                      {Trouble: "shoe"},
	} {
		got, err := w.Prepare.TryName(ctx, w.Student, id, pattern)
		require.NoError(t, err)
		assert.Equal(t, want.Name, joined(got), pattern)
		assert.Contains(t, got.Trouble, want.Trouble, pattern)
	}
}

func TestAHabitIsTried(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	w.Publish(worldtest.Essay())
	courses, err := w.DB.Courses(ctx, w.Student)
	require.NoError(t, err)
	got, err := w.Prepare.TryHabit(ctx, w.Student, courses[0].ID, "{family:upper}_{course}_{title:dash}")
	require.NoError(t, err)
	assert.Equal(t, "QUINTAL_HYD214_title-of-the-work.pdf", joined(got))
	assert.Equal(t, naming.Piece{Text: "QUINTAL", Field: "family"}, got.Pieces[0])
	assert.Equal(t, naming.Piece{Text: "_"}, got.Pieces[1])
	_, err = w.Prepare.TryHabit(ctx, w.Student+1, courses[0].ID, "{family}")
	assert.ErrorIs(t, err, refusal.ErrNotFound)
}

func TestWhatFindingsNameIsTakenOut(t *testing.T) {
	w := worldtest.New(t)
	id, _ := handedOut(t, w)
	item := w.Add(id, "mine.docx", demo.DOCX("Nerea", "Lab 4", "Kept.", "[+ Not accepted.]"))
	require.Contains(t, codes(t, w, id), "tracked_changes")
	press(t, w, item, "clean")
	assert.NotContains(t, codes(t, w, id), "tracked_changes")
	state, err := w.Prepare.State(context.Background(), w.Student, id, 0)
	require.NoError(t, err)
	assert.NotZero(t, state.Items[0].MadeFrom, "what was there stays")
	assert.Equal(t, "Nerea", *state.Items[0].Facts.Author, "the name that nobody minded is still in it")
}

// joined is the whole name of an example.
func joined(e *prepare.Example) (name string) {
	for _, p := range e.Pieces {
		name += p.Text
	}
	return name
}
