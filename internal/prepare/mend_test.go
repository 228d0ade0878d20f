package prepare_test

import (
	"bytes"
	"context"
	"image"
	"image/color"
	"image/jpeg"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/draw"
	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"

	"orario/core/brief"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/worldtest"
)

// snapshot is a page with some lines of text on a dark desk.
func snapshot(t *testing.T, line string) []byte {
	p := image.NewRGBA(image.Rect(0, 0, 1100, 1500))
	r := rand.New(rand.NewPCG(1, 2))
	for i := range p.Pix {
		p.Pix[i] = uint8(50 + r.IntN(14))
	}
	draw.Draw(p, image.Rect(120, 140, 1000, 1385), image.White, image.Point{}, draw.Src)
	parsed, err := opentype.Parse(goregular.TTF)
	require.NoError(t, err)
	face, err := opentype.NewFace(parsed, &opentype.FaceOptions{Size: 30, DPI: 72})
	require.NoError(t, err)
	d := font.Drawer{Dst: p, Src: image.NewUniform(color.RGBA{20, 20, 60, 255}), Face: face}
	for y := 230; y < 1300; y += 52 {
		d.Dot = fixed.P(190, y)
		d.DrawString(line)
	}
	var out bytes.Buffer
	require.NoError(t, jpeg.Encode(&out, p, &jpeg.Options{Quality: 95}))
	return out.Bytes()
}

// press presses a fix and does its job.
func press(t *testing.T, w *worldtest.World, item int64, fix string) {
	t.Helper()
	ctx := context.Background()
	require.NoError(t, w.Prepare.Fix(ctx, w.Student, item, fix))
	job, err := w.DB.JobsOf(ctx, w.Student)
	require.NoError(t, err)
	for _, j := range job {
		if j.Kind == fix && j.Subject == item {
			require.NoError(t, w.DB.InTx(ctx, func(q *query.Queries) error {
				return q.TakeJob(ctx, query.TakeJobParams{Token: "mine", ID: j.ID})
			}))
			j.Token = "mine"
			_, err = w.Prepare.Convert(ctx, j)
			require.NoError(t, err)
			_, err = w.DB.RemoveJob(ctx, query.RemoveJobParams{ID: j.ID, Token: "mine"})
			require.NoError(t, err)
			return
		}
	}
	require.Fail(t, "no job", "of kind %s for item %d among %+v", fix, item, job)
}

func TestPhotographsBecomeOneSearchablePDF(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	sheet := worldtest.Essay()
	sheet.Sheet = brief.Sheet{Slots: []brief.Slot{
		{Name: "work", Required: true, Forms: []string{"pdf"}, Most: 1, TextLayer: true, MaxBytes: 4_000_000},
	}}
	id := w.Publish(sheet)
	first := w.Add(id, "page one.jpg", snapshot(t, "The mole was surveyed by lamp."))
	second := w.Add(id, "page two.jpg", snapshot(t, "Nobody has moved the bench mark."))
	assert.Error(t, w.Prepare.Fix(ctx, w.Student, first, "searchable"), "it is no PDF")
	other, _ := w.AddStudent("20419", "rui@alvarim.example")
	assert.ErrorIs(t, w.Prepare.Fix(ctx, other, first, "together"), refusal.ErrNotFound)

	press(t, w, second, "together")
	state, err := w.Prepare.State(ctx, w.Student, id, 0)
	require.NoError(t, err)
	require.Len(t, state.Items, 1, "the second page has gone into the first one's place")
	made := state.Items[0]
	assert.Equal(t, first, made.ID)
	assert.Equal(t, "pdf", made.Facts.Kind)
	assert.Equal(t, 2, *made.Facts.Pages)
	assert.Equal(t, 1.0, *made.Facts.TextLayerShare)
	v, err := w.DB.Version(ctx, query.VersionParams{ID: made.Version, StudentID: w.Student})
	require.NoError(t, err)
	assert.Contains(t, v.Body, "surveyed by lamp")
	assert.Contains(t, v.Body, "bench mark")
	versions, err := w.DB.Versions(ctx, w.Student)
	require.NoError(t, err)
	assert.Len(t, versions, 3, "the photographs stay in the Library")
	assert.Error(t, w.Prepare.Fix(ctx, w.Student, first, "together"), "there is nothing left to be put together")
}

func TestOnePhotographBecomesAPageThatIsMadeSmallerAndReadAgain(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	sheet := worldtest.Essay()
	sheet.Sheet = brief.Sheet{Slots: []brief.Slot{
		{Name: "work", Required: true, Forms: []string{"pdf"}, Most: 1, MaxBytes: 60_000},
	}}
	id := w.Publish(sheet)
	item := w.Add(id, "IMG_1.jpg", snapshot(t, "The mole was surveyed by lamp."))
	now := func() (kind string, bytes int64, fixes []string) {
		state, err := w.Prepare.State(ctx, w.Student, id, 0)
		require.NoError(t, err)
		for _, f := range state.Findings {
			if f.Fix != "" && f.Fix != "rename" {
				fixes = append(fixes, f.Fix)
			}
		}
		return state.Items[0].Facts.Kind, state.Items[0].Facts.Bytes, fixes
	}
	_, _, fixes := now()
	assert.Contains(t, fixes, "scan")
	press(t, w, item, "scan")
	kind, bytes, fixes := now()
	assert.Equal(t, "pdf", kind)
	assert.Greater(t, bytes, int64(60_000))
	assert.Equal(t, []string{"smaller"}, fixes)
	press(t, w, item, "smaller")
	kind, bytes, fixes = now()
	assert.Equal(t, "pdf", kind)
	assert.LessOrEqual(t, bytes, int64(60_000))
	assert.Empty(t, fixes)
	require.NoError(t, w.Prepare.Fix(ctx, w.Student, item, "revert"))
}
