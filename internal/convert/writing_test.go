package convert

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"math"
	"os"
	"path/filepath"
	"testing"

	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/ink"
	"orario/core/inspect"
	"orario/internal/confine"
)

// blank is a PDF of empty pages, each turned by so many degrees.
func blank(turned ...int) []byte {
	objects := []string{"<</Type/Catalog/Pages 2 0 R>>", ""}
	kids := ""
	for i, degrees := range turned {
		kids += fmt.Sprintf("%d 0 R ", i+3)
		objects = append(objects,
			fmt.Sprintf("<</Type/Page/Parent 2 0 R/MediaBox[0 0 400 600]/Rotate %d/Resources<<>>>>", degrees))
	}
	objects[1] = fmt.Sprintf("<</Type/Pages/Kids[%s]/Count %d>>", kids, len(turned))
	return pdfOf(objects...)
}

// formOf is a PDF with two filled fields, each with a look of its own.
func formOf(first, second [2]string) []byte {
	field := func(f [2]string, y, look int) string {
		return fmt.Sprintf("<</Type/Annot/Subtype/Widget/FT/Tx/T(%s)/V(%s)/Rect[60 %d 300 %d]/DA(/Helv 12 Tf 0 g)/AP<</N %d 0 R>>>>",
			f[0], f[1], y, y+20, look)
	}
	look := func(text string) string {
		stream := "BT /Helv 12 Tf 2 5 Td (" + text + ") Tj ET"
		return fmt.Sprintf("<</Type/XObject/Subtype/Form/BBox[0 0 240 20]/Resources<</Font<</Helv 4 0 R>>>>/Length %d>>\nstream\n%s\nendstream",
			len(stream), stream)
	}
	return pdfOf(
		"<</Type/Catalog/Pages 2 0 R/AcroForm<</Fields[5 0 R 6 0 R]/DA(/Helv 12 Tf 0 g)/DR<</Font<</Helv 4 0 R>>>>>>>>",
		"<</Type/Pages/Kids[3 0 R]/Count 1>>",
		"<</Type/Page/Parent 2 0 R/MediaBox[0 0 400 600]/Resources<<>>/Annots[5 0 R 6 0 R]>>",
		"<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>",
		field(first, 520, 7), field(second, 480, 8), look(first[1]), look(second[1]),
	)
}

// darkBox is where the dark of a picture lies, in points of a page that was drawn at 72 dots per inch.
func darkBox(p *image.RGBA) (box image.Rectangle) {
	for y := range p.Rect.Dy() {
		for x := range p.Rect.Dx() {
			if p.RGBAAt(x, y).R < 128 {
				box = box.Union(image.Rect(x, y, x+1, y+1))
			}
		}
	}
	return box
}

// Poppler draws the ink where it was seen when it was written, on turned pages, too.
func TestInkIsDrawnWhereItWasWritten(t *testing.T) {
	tools := tools(t)
	ctx := context.Background()
	turned := []int{0, 90, 180, 270}
	var sheet ink.Sheet
	box := [][2]float64{{50, 100}, {150, 100}, {150, 130}, {50, 130}}
	for _, degrees := range turned {
		page := ink.Page{Width: 400, Height: 600, Strokes: []ink.Stroke{{Colour: "#000000", Outline: box}}}
		if degrees%180 != 0 {
			page.Width, page.Height = 600, 400
		}
		sheet.Pages = append(sheet.Pages, page)
	}
	made, err := tools.Write(ctx, inspect.Named{Name: "sheet.pdf", Data: blank(turned...)}, sheet)
	require.NoError(t, err)
	for i := range turned {
		pages, err := tools.drawn(ctx, inspect.Named{Name: "out.pdf", Data: made}, fmt.Sprint(i+1))
		require.NoError(t, err)
		p := pages[0]
		scale := float64(p.Rect.Dx()) / sheet.Pages[i].Width
		got := darkBox(p)
		for side, want := range []float64{50, 100, 150, 130} {
			have := []int{got.Min.X, got.Min.Y, got.Max.X, got.Max.Y}[side]
			assert.InDelta(t, want, float64(have)/scale, 1.5, "page turned by %d: %v", turned[i], got)
		}
	}
	_, err = tools.Write(ctx, inspect.Named{Name: "sheet.pdf", Data: blank(0)}, sheet)
	assert.ErrorContains(t, err, "has 1 pages")
}

// The ink is as dark as the same ink drawn by itself: nothing is scaled or lost where pages have ink already.
func TestInkOnPagesWithContent(t *testing.T) {
	tools := tools(t)
	ctx := context.Background()
	var outline [][2]float64 // a ring, as a pen draws it
	for i := range 60 {
		a := float64(i) / 60 * 2 * math.Pi
		outline = append(outline, [2]float64{200 + 80*math.Cos(a), 300 + 80*math.Sin(a)})
	}
	written := ink.Page{Width: 400, Height: 600, Strokes: []ink.Stroke{{Colour: "#0e6470", Outline: outline}},
		Words: []ink.Words{{X: 40, Y: 40, Size: 20, Colour: "#000000", Text: "Baixa-mar"}}}
	once, err := tools.Write(ctx, inspect.Named{Name: "sheet.pdf", Data: blank(0)}, ink.Sheet{Pages: []ink.Page{written}})
	require.NoError(t, err)
	text, err := tools.Text(ctx, "pdf", once)
	require.NoError(t, err)
	assert.Contains(t, text, "Baixa-mar", "typed words can be searched")
	second := written
	second.Strokes, second.Words = nil, []ink.Words{{X: 40, Y: 500, Size: 20, Colour: "#000000", Text: "Preia-mar"}}
	twice, err := tools.Write(ctx, inspect.Named{Name: "sheet.pdf", Data: once}, ink.Sheet{Pages: []ink.Page{second}})
	require.NoError(t, err)
	dark := func(pdf []byte) (n int) {
		pages, err := tools.drawn(ctx, inspect.Named{Name: "out.pdf", Data: pdf}, "")
		require.NoError(t, err)
		for y := range pages[0].Rect.Dy() * 2 / 3 { // above the second words
			for x := range pages[0].Rect.Dx() {
				if pages[0].RGBAAt(x, y).R < 128 {
					n++
				}
			}
		}
		return n
	}
	assert.InEpsilon(t, dark(once), dark(twice), 0.01)
}

// A filled field of the form gives way to what was typed over it, the others become part of the page.
func TestAFormIsFilledAndFlattened(t *testing.T) {
	tools := tools(t)
	ctx := context.Background()
	form := formOf([2]string{"name", "old answer"}, [2]string{"course", "HYD 214"})
	sheet := ink.Sheet{
		Pages:  []ink.Page{{Width: 400, Height: 600, Words: []ink.Words{{X: 60, Y: 60, Size: 12, Colour: "#000000", Text: "new answer"}}}},
		Filled: []string{"name"},
	}
	made, err := tools.Write(ctx, inspect.Named{Name: "form.pdf", Data: form}, sheet)
	require.NoError(t, err)
	text, err := tools.Text(ctx, "pdf", made)
	require.NoError(t, err)
	assert.Contains(t, text, "new answer")
	assert.Contains(t, text, "HYD 214")
	assert.NotContains(t, text, "old answer")
	assert.NotContains(t, string(made), "/Widget")
	facts := inspect.File("form.pdf", made)
	assert.Empty(t, facts.Problems)
}

func TestAPDFIsSplit(t *testing.T) {
	tools := tools(t)
	ctx := context.Background()
	whole := inspect.Named{Name: "lab 3.pdf", Data: blank(0, 0, 0, 0, 0, 90, 0)}
	count := func(data []byte) int {
		n, err := api.PageCount(bytes.NewReader(data), nil)
		require.NoError(t, err)
		return n
	}
	parts, err := tools.Split(ctx, whole, 3, 0)
	require.NoError(t, err)
	require.Len(t, parts, 3)
	assert.Equal(t, "lab 3-3.pdf", parts[2].Name)
	assert.Equal(t, []int{3, 3, 1}, []int{count(parts[0].Data), count(parts[1].Data), count(parts[2].Data)})

	one, err := tools.Split(ctx, whole, 1, 0)
	require.NoError(t, err)
	two, err := tools.Split(ctx, whole, 2, 0)
	require.NoError(t, err)
	most := int64(len(two[0].Data))
	parts, err = tools.Split(ctx, whole, 0, most)
	require.NoError(t, err)
	pages := 0
	for _, p := range parts {
		assert.LessOrEqual(t, int64(len(p.Data)), most)
		pages += count(p.Data)
	}
	assert.Equal(t, 7, pages, "no page is lost or doubled")
	_, err = tools.Split(ctx, whole, 0, int64(len(one[0].Data))-1)
	assert.ErrorContains(t, err, "page 1 alone does not fit")
	for _, wrong := range [][2]int64{{0, 0}, {1, 1}, {-1, 0}} {
		_, err = tools.Split(ctx, whole, int(wrong[0]), wrong[1])
		assert.Error(t, err)
	}
}

func TestPagesAreTurnedOneByOne(t *testing.T) {
	tools := tools(t)
	m, err := tools.Make(context.Background(), []inspect.Named{{Name: "a.pdf", Data: blank(0, 0, 0)}}, "pdf",
		Wishes{Pages: "3,1", Turns: []int{90, -90}})
	require.NoError(t, err)
	dims, err := api.PageDims(bytes.NewReader(m.Data), nil)
	require.NoError(t, err)
	require.Len(t, dims, 2)
	for _, d := range dims {
		assert.Greater(t, d.Width, d.Height)
	}
	_, err = tools.Make(context.Background(), []inspect.Named{{Name: "a.pdf", Data: blank(0)}}, "pdf", Wishes{Turns: []int{45}})
	assert.ErrorContains(t, err, "turn by 90")
}

func TestSoundIsCut(t *testing.T) {
	tools := tools(t)
	ctx := context.Background()
	work := t.TempDir()
	_, err := confine.Box{Work: work, Memory: maxMemory}.Run(ctx, maxToolTime, nil, "ffmpeg", "-v", "error", "-f", "lavfi", "-i",
		"sine=frequency=440:duration=10", "tone.wav")
	require.NoError(t, err)
	tone, err := os.ReadFile(filepath.Join(work, "tone.wav"))
	require.NoError(t, err)
	f := []inspect.Named{{Name: "tone.wav", Data: tone}}
	for _, c := range []struct{ from, length, want float64 }{{2, 3, 3}, {8, 0, 2}, {8, 30, 2}, {0, 4, 4}} {
		m, err := tools.Make(ctx, f, "mp3", Wishes{From: c.from, Length: c.length})
		require.NoError(t, err)
		facts, err := tools.Facts(ctx, "cut.mp3", m.Data)
		require.NoError(t, err)
		require.NotNil(t, facts.Seconds)
		assert.InDelta(t, c.want, *facts.Seconds, 0.1, "%+v", c)
	}
	_, err = tools.Make(ctx, f, "mp3", Wishes{From: 11})
	assert.ErrorContains(t, err, "nothing of it is left")
}
