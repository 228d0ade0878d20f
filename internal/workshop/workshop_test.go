package workshop_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/brief"
	"orario/core/ink"
	"orario/internal/contents"
	"orario/internal/convert"
	"orario/internal/prepare"
	"orario/internal/refusal"
	"orario/internal/workshop"
	"orario/internal/worldtest"
)

// names of what lies in the bundle, in its order.
func names(t *testing.T, w *worldtest.World, assignment int64) (list []string) {
	t.Helper()
	state, err := w.Prepare.State(context.Background(), w.Student, assignment, 0)
	require.NoError(t, err)
	for _, i := range state.Items {
		list = append(list, i.Slot+": "+i.Name)
	}
	return list
}

func versions(t *testing.T, w *worldtest.World, assignment int64) (list []int64) {
	t.Helper()
	state, err := w.Prepare.State(context.Background(), w.Student, assignment, 0)
	require.NoError(t, err)
	for _, i := range state.Items {
		list = append(list, i.Version)
	}
	return list
}

func portfolio() (a brief.Sheet) {
	return brief.Sheet{Slots: []brief.Slot{
		{Name: "work", Required: true, Forms: []string{"pdf"}, Most: 4, Words: &brief.Range{Min: 3, Max: 5}},
		{Name: "data", Forms: []string{"csv"}},
	}}
}

func TestAPieceLiesApartUntilItIsTakenAndCanBePutBack(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	a := worldtest.Essay()
	a.Sheet = portfolio()
	id := w.Publish(a)
	w.Add(id, "one.txt", []byte("The first page."))
	w.Add(id, "two.txt", []byte("The second page."))
	w.Add(id, "three.csv", []byte("a,b\n1,2\n"))
	before := names(t, w, id)
	require.Equal(t, []string{"work: one.txt", "work: two.txt", "data: three.csv"}, before)
	of := versions(t, w, id)[:2]

	piece := w.Work(id, "convert", of, workshop.Wishes{Form: "pdf"})
	require.Equal(t, "made", piece.State, piece.Trouble)
	require.Len(t, piece.Files, 1)
	assert.Equal(t, "one.pdf", piece.Files[0].Name)
	assert.Contains(t, strings.Join(piece.Said, "; "), "2 files in one PDF")
	assert.Equal(t, before, names(t, w, id), "nothing is changed yet")
	lying, err := w.Workshop.Lying(ctx, w.Student, id, 0)
	require.NoError(t, err)
	assert.Len(t, lying, 1)

	require.NoError(t, w.Workshop.Take(ctx, w.Student, piece.ID, nil, true, ""))
	assert.Equal(t, []string{"work: one.pdf", "data: three.csv"}, names(t, w, id))
	assert.ErrorContains(t, w.Workshop.Take(ctx, w.Student, piece.ID, nil, true, ""), "taken already")
	require.NoError(t, w.Workshop.PutBack(ctx, w.Student, piece.ID))
	assert.Equal(t, before, names(t, w, id), "in their order")
	assert.Error(t, w.Workshop.PutBack(ctx, w.Student, piece.ID))

	require.NoError(t, w.Workshop.Take(ctx, w.Student, piece.ID, nil, false, "work"), "once more, beside them")
	assert.Len(t, names(t, w, id), 4)
	versionsBefore, err := w.DB.Versions(ctx, w.Student)
	require.NoError(t, err)
	require.NoError(t, w.Workshop.Throw(ctx, w.Student, piece.ID))
	versionsAfter, err := w.DB.Versions(ctx, w.Student)
	require.NoError(t, err)
	assert.Len(t, versionsAfter, len(versionsBefore), "what was taken stays")
	_, err = w.Workshop.Workpiece(ctx, w.Student, piece.ID)
	assert.ErrorIs(t, err, refusal.ErrNotFound)
}

// What was put into the bundle was changed there since: it is not taken out of her hands.
func TestPuttingBackLeavesWhatIsGone(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := w.Publish(worldtest.Essay())
	item := w.Add(id, "one.txt", []byte("The first page."))
	piece := w.Work(id, "convert", versions(t, w, id), workshop.Wishes{Form: "pdf"})
	require.NoError(t, w.Workshop.Take(ctx, w.Student, piece.ID, nil, true, ""))
	require.NoError(t, w.Prepare.Remove(ctx, w.Student, item))
	assert.ErrorContains(t, w.Workshop.PutBack(ctx, w.Student, piece.ID), "changed in another place")
	assert.Empty(t, names(t, w, id))

	// Something else was put into its place meanwhile.
	item = w.Add(id, "two.txt", []byte("The second page."))
	piece = w.Work(id, "convert", versions(t, w, id), workshop.Wishes{Form: "pdf"})
	require.NoError(t, w.Workshop.Take(ctx, w.Student, piece.ID, nil, true, ""))
	require.NoError(t, w.Prepare.Fix(ctx, w.Student, item, "revert"))
	assert.ErrorContains(t, w.Workshop.PutBack(ctx, w.Student, piece.ID), "changed in another place")
	assert.Equal(t, []string{"essay: two.txt"}, names(t, w, id))
}

func TestToolsSayWhatTheyCannotDo(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := w.Publish(worldtest.Essay())
	w.Add(id, "one.txt", []byte("The first page."))
	of := versions(t, w, id)
	for _, c := range []struct {
		tool   string
		of     []int64
		wishes workshop.Wishes
		says   string
	}{
		{"forge", of, workshop.Wishes{}, "no tool"},
		{"pack", of, workshop.Wishes{Name: "../../etc/passwd"}, "/"},
		{"pack", of, workshop.Wishes{Name: strings.Repeat("a", 300)}, "too long"},
		{"convert", nil, workshop.Wishes{Form: "pdf"}, "Choose a file"},
		{"split", []int64{of[0], of[0]}, workshop.Wishes{Every: 1}, "one file at a time"},
		{"write", of, workshop.Wishes{}, "Nothing is written"},
		{"type", nil, workshop.Wishes{Text: "  "}, "Nothing is written"},
		{"write", of, workshop.Wishes{Ink: &ink.Sheet{}}, "0 pages"},
	} {
		_, err := w.Workshop.Begin(ctx, w.Student, id, 0, c.tool, c.of, c.wishes)
		assert.ErrorContains(t, err, c.says, c.tool)
	}
	_, err := w.Workshop.Begin(ctx, w.Student, id, 0, "pack", []int64{987654}, workshop.Wishes{})
	assert.ErrorIs(t, err, refusal.ErrNotFound)

	for _, c := range []struct {
		tool   string
		wishes workshop.Wishes
		says   string
	}{
		{"convert", workshop.Wishes{Form: "mp3"}, "cannot be made into .mp3"},
		{"split", workshop.Wishes{Every: 1}, "no PDF that opens"},
		{"scan", workshop.Wishes{}, "no picture"},
		{"unpack", workshop.Wishes{}, "does not open"},
		{"clean", workshop.Wishes{}, ""},
	} {
		piece := w.Work(id, c.tool, of, c.wishes)
		assert.Equal(t, "failed", piece.State, c.tool)
		assert.Contains(t, piece.Trouble, c.says, c.tool)
		assert.NotEmpty(t, piece.Trouble)
	}
	link := w.Work(id, "link", nil, workshop.Wishes{URL: "ftp://elsewhere"})
	assert.Contains(t, link.Trouble, "begins with https://")
}

func TestTheBenchIsNotFilledWithoutEnd(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := w.Publish(worldtest.Essay())
	w.Add(id, "one.txt", []byte("The first page."))
	of := versions(t, w, id)
	var err error
	for n := 0; err == nil && n < 100; n++ {
		_, err = w.Workshop.Begin(ctx, w.Student, id, 0, "pack", of, workshop.Wishes{})
	}
	assert.ErrorContains(t, err, "Take or throw away some of them first")
	w.Prepare.Room = prepare.Room{Margin: 1, Free: func(context.Context) (int64, bool) { return 0, true }}
	w.Workshop.Bundles = w.Prepare
	other := worldtest.Essay()
	other.Key = "second"
	_, err = w.Workshop.Begin(ctx, w.Student, w.Publish(other), 0, "type", nil, workshop.Wishes{Text: "a", Form: "md"})
	assert.ErrorContains(t, err, "no room for anything new")
}

func TestAZIPIsUnpackedIntoTheBundle(t *testing.T) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, name := range []string{"handout/sheet.txt", "../../etc/passwd", "__MACOSX/._sheet.txt", "other/sheet.txt"} {
		to, err := z.Create(name)
		require.NoError(t, err)
		_, err = fmt.Fprintf(to, "what %s holds", name)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	w := worldtest.New(t)
	ctx := context.Background()
	a := worldtest.Essay()
	a.Sheet = portfolio()
	id := w.Publish(a)
	w.Add(id, "handout.zip", b.Bytes())
	piece := w.Work(id, "unpack", versions(t, w, id), workshop.Wishes{})
	require.Len(t, piece.Files, 2, piece.Trouble)
	assert.Equal(t, "sheet.txt", piece.Files[0].Name)
	assert.Equal(t, "sheet-2.txt", piece.Files[1].Name)
	assert.Equal(t, []string{"../../etc/passwd was left out: its path leads out of the archive."}, piece.Said)
	require.NoError(t, w.Workshop.Take(ctx, w.Student, piece.ID, []int{1}, true, ""))
	assert.Equal(t, []string{"work: sheet-2.txt"}, names(t, w, id), "only the chosen one, in the archive's place")
}

func TestAWritingIsKeptAndTwoTabsDoNotOverwriteEachOther(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	a := worldtest.Essay()
	a.Sheet = portfolio()
	id := w.Publish(a)
	empty, err := w.Workshop.Writing(ctx, w.Student, id, 0, 0)
	require.NoError(t, err)
	assert.Zero(t, empty.Revision)
	first, err := w.Workshop.Keep(ctx, w.Student, id, 0, 0, "# A", 0)
	require.NoError(t, err)
	_, err = w.Workshop.Keep(ctx, w.Student, id, 0, 0, "# B", 0)
	assert.ErrorContains(t, err, "another tab", "it began from nothing, too")
	second, err := w.Workshop.Keep(ctx, w.Student, id, 0, 0, "# A and more", first)
	require.NoError(t, err)
	_, err = w.Workshop.Keep(ctx, w.Student, id, 0, 0, "# A and less", first)
	assert.ErrorContains(t, err, "another tab")
	kept, err := w.Workshop.Writing(ctx, w.Student, id, 0, 0)
	require.NoError(t, err)
	assert.Equal(t, []any{"# A and more", second}, []any{kept.Body, kept.Revision})
	_, err = w.Workshop.Keep(ctx, w.Student, id, 0, 0, strings.Repeat("a", workshop.MostWriting+1), second)
	assert.ErrorContains(t, err, "more than")
	other, _ := w.AddStudent("20419", "rui@alvarim.example")
	_, err = w.Workshop.Writing(ctx, other, id, 0, 0)
	assert.ErrorIs(t, err, refusal.ErrNotFound)
}

func TestATypedAnswer(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	a := worldtest.Essay()
	a.Sheet = portfolio()
	id := w.Publish(a)
	short, err := w.Workshop.Type(ctx, w.Student, id, 0, "work", "Two words")
	require.NoError(t, err)
	assert.Equal(t, "2 words, 3 to 5 are asked for", short.Says)
	assert.True(t, short.Short)
	assert.Equal(t, "Liberation Serif, 11.5 pt, lines at 1.3", short.Set)
	for _, form := range []string{"md", "txt", "docx", "pdf"} {
		piece := w.Work(
			id,
			"type",
			nil,
			workshop.Wishes{Text: "# Answer\n\nThe tide turns.", Form: form, Name: "answer-1"},
		)
		require.Len(t, piece.Files, 1, piece.Trouble)
		assert.Equal(t, "answer-1."+form, piece.Files[0].Name)
		assert.Equal(t, form, piece.Files[0].Kind)
	}
}

func TestATypedAnswerIsSetAsIsAskedForWithItsHeadingAndPictures(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	a := worldtest.Essay()
	a.Instructions = "An essay on chart datum. Use Arial, 12 pt, double spaced."
	id := w.Publish(a)
	w.Add(id, "the staff.jpg", worldtest.Photograph(t, 300, 200))
	picture := versions(t, w, id)
	said, err := w.Workshop.Type(ctx, w.Student, id, 0, "essay", "")
	require.NoError(t, err)
	assert.Equal(t, "Arial, 12 pt, lines at 2, as is asked for", said.Set)
	assert.Equal(t, "Chart datum", said.Page.Title)

	text := "At $h = 2$ m.\n\n![The staff](the%20staff.jpg) ![none](other.jpg)\n"
	made := func(w *worldtest.World, heading bool) string {
		piece := w.Work(id, "type", picture, workshop.Wishes{
			Text: text, Form: "docx", Heading: heading, Slot: "essay", Page: convert.Page{Font: "Comic Sans MS"},
		})
		require.Equal(t, "made", piece.State, piece.Trouble)
		f, err := w.Workshop.File(ctx, w.Student, piece.ID, 0)
		require.NoError(t, err)
		data, err := w.Workshop.Uploads.Read(ctx, f.Digest)
		require.NoError(t, err)
		z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
		require.NoError(t, err)
		var all strings.Builder
		for _, f := range z.File {
			r, err := f.Open()
			require.NoError(t, err)
			_, err = io.Copy(&all, r)
			require.NoError(t, err)
		}
		return all.String()
	}
	with, without := made(w, true), made(w, false)
	for _, has := range []string{"Chart datum", "Nerea Quintal, 20418", `w:ascii="Arial"`, "<m:oMath>", "<pic:pic"} {
		assert.True(t, strings.Contains(with, has), has)
	}
	for _, has := range []string{"Quintal", "Comic"} {
		assert.False(t, strings.Contains(without, has), "a text without a heading, as for one that is read blind")
	}
}

func TestALinkIsNotedWithItsDateAndDigest(t *testing.T) {
	there := httptest.NewServer(
		http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, "tides") }),
	)
	defer there.Close()
	w := worldtest.New(t)
	ctx := context.Background()
	w.At(time.Date(2026, 11, 26, 19, 0, 0, 0, time.UTC))
	id := w.Publish(worldtest.Essay())
	piece := w.Work(id, "link", nil, workshop.Wishes{URL: there.URL, Name: "gauge"})
	require.Equal(t, "made", piece.State, piece.Trouble)
	f, err := w.Workshop.File(ctx, w.Student, piece.ID, 0)
	require.NoError(t, err)
	text, err := w.Workshop.Uploads.Read(ctx, f.Digest)
	require.NoError(t, err)
	// printf tides | sha256sum
	assert.Equal(t, there.URL+"\nLooked at 2026-11-26T19:00:00Z: 5 bytes, SHA-256 "+
		"0e714fd92f7538e3531b61c0eeb7f9c70e44475be7557df873b13df3af34225f.\n", string(text))
	assert.Equal(t, "gauge.txt", f.Name)
	there.Close()
	gone := w.Work(id, "link", nil, workshop.Wishes{URL: there.URL})
	assert.Equal(t, "made", gone.State, "it is kept all the same")
	assert.Contains(t, gone.Said[0], "did not answer")
}

func TestOneTelephoneBringsPhotographsForSomeMinutes(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	a := worldtest.Essay()
	a.Sheet = portfolio()
	id := w.Publish(a)
	pass, err := w.Workshop.GivePass(ctx, w.Student, id, 0, "work", "https://orario.example")
	require.NoError(t, err)
	token, found := strings.CutPrefix(pass.URL, "https://orario.example/phone/")
	require.True(t, found)
	assert.NotEmpty(t, pass.Code)
	_, err = w.Workshop.Admit(ctx, token+"A", "mine")
	assert.ErrorIs(t, err, refusal.ErrNotFound)
	b, err := w.Workshop.Admit(ctx, token, "mine")
	require.NoError(t, err)
	assert.Equal(t, []any{id, "work", w.Student}, []any{b.Assignment, b.Slot, b.Student})
	_, err = w.Workshop.Admit(ctx, token, "another's")
	assert.ErrorIs(t, err, refusal.ErrNotFound, "who comes second stays out")
	require.ErrorContains(t, w.Workshop.Bring(ctx, b, w.Upload("IMG_1.jpg", []byte("%PDF-1.7 not a picture"))), "no photograph")
	require.NoError(t, w.Workshop.Bring(ctx, b, w.Upload("IMG_1.jpg", []byte("\xff\xd8\xff not really"))))
	b, err = w.Workshop.Admit(ctx, token, "mine")
	require.NoError(t, err)
	assert.Equal(t, 1, b.Came)
	assert.Equal(t, []string{"work: IMG_1.jpg"}, names(t, w, id))

	other, _ := w.AddStudent("20419", "rui@alvarim.example")
	assert.ErrorIs(t, w.Workshop.EndPass(ctx, other, pass.ID), refusal.ErrNotFound)
	w.At(time.Now().Add(workshop.PassLife + time.Second))
	_, err = w.Workshop.Admit(ctx, token, "mine")
	assert.ErrorIs(t, err, refusal.ErrNotFound, "its time is over")
	w.Clock(time.Now)
	require.NoError(t, w.Workshop.EndPass(ctx, w.Student, pass.ID))
	_, err = w.Workshop.Admit(ctx, token, "mine")
	assert.ErrorIs(t, err, refusal.ErrNotFound, "it was ended")

	pass, err = w.Workshop.GivePass(ctx, w.Student, id, 0, "work", "https://orario.example")
	require.NoError(t, err)
	token = strings.TrimPrefix(pass.URL, "https://orario.example/phone/")
	_, err = w.Workshop.Admit(ctx, token, "mine")
	require.NoError(t, err)
	signed, err := w.Accounts.Enter(ctx, w.Student, "laptop")
	require.NoError(t, err)
	session, _, err := w.Accounts.Session(ctx, signed)
	require.NoError(t, err)
	require.NoError(t, w.Accounts.End(ctx, w.Student, session))
	_, err = w.Workshop.Admit(ctx, token, "mine")
	assert.ErrorIs(t, err, refusal.ErrNotFound, "a pass ends with the session")
}

// A recording goes up while it is recorded; the page is closed, and what has arrived is kept.
func TestARecordingThatBrokeOffIsNotLost(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := w.Publish(worldtest.Essay())
	store := w.Workshop.Uploads
	handler, err := store.Handler("/", 1<<20)
	require.NoError(t, err)
	owner := fmt.Sprint(w.Student)
	tus := func(method, path, body string, headers ...string) *http.Response {
		r := httptest.NewRequest(method, path, strings.NewReader(body))
		r = r.WithContext(contents.WithOwner(r.Context(), owner))
		r.Header.Set("Tus-Resumable", "1.0.0")
		for i := 0; i < len(headers); i += 2 {
			r.Header.Set(headers[i], headers[i+1])
		}
		answer := httptest.NewRecorder()
		handler.ServeHTTP(answer, r)
		return answer.Result()
	}
	metadata := "filename dGFsay50eHQ=,part " + "MA==" // talk.txt, 0
	begun := tus("POST", "/", "", "Upload-Defer-Length", "1", "Upload-Metadata", metadata)
	require.Equal(t, http.StatusCreated, begun.StatusCode)
	upload := begun.Header.Get("Location")[strings.LastIndexByte(begun.Header.Get("Location"), '/')+1:]
	send := func(offset, body string, headers ...string) int {
		headers = append(headers, "Upload-Offset", offset, "Content-Type", "application/offset+octet-stream")
		return tus("PATCH", "/"+upload, body, headers...).StatusCode
	}
	assert.Equal(t, http.StatusNoContent, send("0", "the first second "))
	assert.Equal(t, http.StatusNoContent, send("17", "the second"))
	list, err := w.Workshop.Recordings(ctx, w.Student)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, []any{"talk.txt", "27 bytes", upload}, []any{list[0].Name, list[0].Bytes, list[0].Upload})

	other, _ := w.AddStudent("20419", "rui@alvarim.example")
	_, err = w.Workshop.KeepRecording(ctx, other, id, 0, upload, "")
	assert.ErrorIs(t, err, refusal.ErrNotFound)
	var kept, refused atomic.Int64
	var all sync.WaitGroup
	for range 6 { // pressed six times at once
		all.Go(func() {
			if _, err := w.Workshop.KeepRecording(ctx, w.Student, id, 0, upload, ""); err == nil {
				kept.Add(1)
			} else if errors.As(err, &refusal.Complaint{}) || errors.Is(err, refusal.ErrNotFound) {
				refused.Add(1)
			}
		})
	}
	all.Wait()
	assert.Equal(t, []int64{1, 5}, []int64{kept.Load(), refused.Load()})
	assert.Equal(t, []string{"essay: talk.txt"}, names(t, w, id))
	list, err = w.Workshop.Recordings(ctx, w.Student)
	require.NoError(t, err)
	assert.Empty(t, list)
	content, err := w.Prepare.Content(ctx, w.Student, versions(t, w, id)[0])
	require.NoError(t, err)
	assert.Equal(t, "the first second the second", string(content.Data))
	send("27", "more") // it has ended
	_, err = store.Finished(ctx, owner, upload)
	assert.ErrorIs(t, err, contents.ErrNotFound, "it went into the bundle")

	// One that comes to its end says its length with the last piece.
	begun = tus("POST", "/", "", "Upload-Defer-Length", "1", "Upload-Metadata", metadata)
	upload = begun.Header.Get("Location")[strings.LastIndexByte(begun.Header.Get("Location"), '/')+1:]
	assert.Equal(t, http.StatusNoContent, send("0", "all", "Upload-Length", "3"))
	_, err = store.Finished(ctx, owner, upload)
	assert.NoError(t, err)
}

func TestTheOrderIsTheStudents(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	a := worldtest.Essay()
	a.Sheet = portfolio()
	a.Sheet.Name = "{family}_{slot}_{attempt}"
	id := w.Publish(a)
	one, two := w.Add(id, "one.pdf", []byte("%PDF-1.4")), w.Add(id, "two.pdf", []byte("%PDF-1.4 "))
	part := prepare.Part{Assignment: id}
	require.NoError(t, w.Prepare.Reorder(ctx, w.Student, part, []int64{two, one}))
	three := w.Add(id, "three.pdf", []byte("%PDF-1.4  "))
	assert.Equal(
		t,
		[]string{"work: two.pdf", "work: one.pdf", "work: three.pdf"},
		names(t, w, id),
		"new ones come last",
	)
	for _, wrong := range [][]int64{{two, one}, {two, one, three, three}, {two, one, 1 << 40}, nil} {
		assert.Error(t, w.Prepare.Reorder(ctx, w.Student, part, wrong))
	}
	// What was taken out comes back where it was; before what is gone, it is the last.
	of := versions(t, w, id)
	require.NoError(t, w.Prepare.Remove(ctx, w.Student, one))
	back := prepare.Place{Slot: "work", Version: of[1], Before: three}
	one, err := w.Prepare.AddVersion(ctx, w.Student, id, 0, back)
	require.NoError(t, err)
	assert.Equal(t, of, versions(t, w, id))
	require.NoError(t, w.Prepare.Remove(ctx, w.Student, one))
	back.Before = one
	_, err = w.Prepare.AddVersion(ctx, w.Student, id, 0, back)
	require.NoError(t, err)
	assert.Equal(t, []int64{of[0], of[2], of[1]}, versions(t, w, id))
	n, err := w.Prepare.RenameAll(ctx, w.Student, part)
	require.NoError(t, err)
	assert.Equal(t, 3, n)
	again, err := w.Prepare.RenameAll(ctx, w.Student, part)
	require.NoError(t, err)
	assert.Zero(t, again, names(t, w, id))
}

func TestWhatIsScannedIsToldWithItsMeasure(t *testing.T) {
	w := worldtest.New(t)
	id := w.Publish(worldtest.Essay())
	w.Add(id, "page.jpg", worldtest.Photograph(t, 900, 1200))
	half := 0.5
	corners := [4][2]float64{{90, 90}, {810, 90}, {810, 1110}, {90, 1110}}
	turn := 0
	piece := w.Work(id, "scan", versions(t, w, id), workshop.Wishes{
		Paper: "a4", Strength: &half, Settled: []*convert.Settled{{Corners: &corners, Turn: &turn}},
	})
	require.Equal(t, "made", piece.State, piece.Trouble)
	assert.Equal(t, []any{1, 1}, []any{piece.Done, piece.Steps})
	assert.Equal(t, "page.pdf", piece.Files[0].Name)
	bad := [4][2]float64{{90, 90}, {90, 90}, {90, 90}, {90, 90}}
	piece = w.Work(id, "scan", versions(t, w, id), workshop.Wishes{Settled: []*convert.Settled{{Corners: &bad}}})
	assert.Contains(t, piece.Trouble, "make no page")
	shown, err := w.Workshop.Photograph(context.Background(), w.Student, versions(t, w, id)[0])
	require.NoError(t, err)
	assert.Equal(t, []int{900, 1200}, []int{shown.Width, shown.Height})
	text, err := json.Marshal(piece)
	require.NoError(t, err)
	assert.NotContains(t, string(text), "null", "pages count on lists")
}

// Each piece of evidence stands behind its heading and what is said of it; what is kept of the headings stays for weeks.
func TestEvidenceIsGatheredUnderItsHeadings(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	a := worldtest.Essay()
	a.Sheet = portfolio()
	id := w.Publish(a)
	w.Add(id, "sketch.txt", []byte("North is up."))
	w.Add(id, "list.txt", []byte("Gull, tern."))
	of := versions(t, w, id)
	_, err := w.Workshop.Keep(ctx, w.Student, id, 0, -1, "{}", 0)
	require.NoError(t, err)
	_, err = w.Workshop.Keep(ctx, w.Student, id, 0, -2, "{}", 0)
	assert.ErrorIs(t, err, refusal.ErrNotFound)
	bare := w.Work(id, "gather", of, workshop.Wishes{Headings: []workshop.Heading{{Title: "The site"}}})
	assert.Equal(t, "list.txt has no heading yet.", bare.Trouble)
	piece := w.Work(id, "gather", of, workshop.Wishes{Name: "portfolio", Headings: []workshop.Heading{
		{Title: "The site", Text: "Drawn on the first day."}, {Title: "What lives there"},
	}})
	require.Equal(t, "made", piece.State, piece.Trouble)
	f, err := w.Workshop.File(ctx, w.Student, piece.ID, 0)
	require.NoError(t, err)
	pdf, err := w.Workshop.Uploads.Read(ctx, f.Digest)
	require.NoError(t, err)
	pages, err := w.Tools.PDFPages(ctx, pdf)
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(pages), 4)
	for n, words := range []string{"Drawn on the first day", "North is up", "2. What lives there", "Gull, tern"} {
		assert.Contains(t, pages[n], words)
	}
}

// What is too much to be worked on is told before anything is begun.
func TestTooMuchIsToldBefore(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	id := w.Publish(worldtest.Essay())
	w.Add(id, "one.txt", []byte("The first page."))
	of := versions(t, w, id)
	for bytes, refused := range map[int64]bool{100_000_000: false, 100_000_001: true} {
		_, err := w.DB.SQL.Exec("UPDATE version SET bytes = ?", bytes)
		require.NoError(t, err)
		_, err = w.Workshop.Begin(ctx, w.Student, id, 0, "pack", []int64{of[0], of[0]}, workshop.Wishes{})
		if refused {
			assert.ErrorContains(t, err, "at most 200 MB are worked on at a time")
		} else {
			assert.NoError(t, err)
		}
	}
	for length, refused := range map[int]bool{250_000: false, 250_001: true} {
		_, err := w.Workshop.Begin(ctx, w.Student, id, 0, "type", nil, workshop.Wishes{Form: "md", Text: strings.Repeat("a", length)})
		if refused {
			assert.ErrorContains(t, err, "more than 250 kB of text")
		} else {
			assert.NoError(t, err)
		}
	}
}
