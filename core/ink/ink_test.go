package ink_test

import (
	"bytes"
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"orario/core/ink"
)

func Example() {
	sheet := ink.Sheet{Pages: []ink.Page{{Width: 595, Height: 842, Strokes: []ink.Stroke{
		{Colour: "#1b2330", Outline: [][2]float64{{100, 100}, {200, 100}, {200, 104}, {100, 104}}},
	}}}}
	pdf, err := sheet.Overlay()
	fmt.Println(string(pdf[:5]), err)
	// Output: %PDF- <nil>
}

func TestAPageForEachThatWasWrittenOn(t *testing.T) {
	sheet := ink.Sheet{Pages: []ink.Page{
		{Width: 595, Height: 842},
		{
			Width:  842,
			Height: 595,
			Words:  []ink.Words{{X: 10, Y: 10, Size: 12, Colour: "#000000", Text: "Maré às 6 h\nΔh"}},
		},
	}}
	pdf, err := sheet.Overlay()
	require.NoError(t, err)
	sizes, err := api.PageDims(bytes.NewReader(pdf), nil)
	require.NoError(t, err)
	require.Len(t, sizes, 2)
	assert.InDelta(t, 842, sizes[1].Width, 0.1)
	assert.InDelta(t, 595, sizes[1].Height, 0.1)
}

func TestWhatIsNoSheetIsRefused(t *testing.T) {
	page := func(change func(*ink.Page)) ink.Sheet {
		p := ink.Page{Width: 595, Height: 842}
		change(&p)
		return ink.Sheet{Pages: []ink.Page{p}}
	}
	stroke := func(colour string, at ...[2]float64) func(*ink.Page) {
		return func(p *ink.Page) { p.Strokes = []ink.Stroke{{Colour: colour, Outline: at}} }
	}
	words := func(w ink.Words) func(*ink.Page) { return func(p *ink.Page) { p.Words = []ink.Words{w} } }
	for name, c := range map[string]struct {
		sheet ink.Sheet
		says  string
	}{
		"no page":         {ink.Sheet{}, "0 pages"},
		"no width":        {page(func(p *ink.Page) { p.Width = 0 }), "a side of"},
		"endless":         {page(func(p *ink.Page) { p.Height = math.Inf(1) }), "a side of"},
		"no number":       {page(stroke("#000000", [2]float64{math.NaN(), 1})), "not on the page"},
		"far away":        {page(stroke("#000000", [2]float64{1e9, 1})), "not on the page"},
		"no colour":       {page(stroke("red", [2]float64{1, 1})), "#rrggbb"},
		"enormous":        {page(words(ink.Words{Size: 2000, Colour: "#000000"})), "no proper place"},
		"too much":        {page(words(ink.Words{Size: 9, Colour: "#000000", Text: strings.Repeat("a", 1e6)})), "more was written"},
		"unknown letters": {page(words(ink.Words{Size: 9, Colour: "#000000", Text: "tide 潮"})), "'潮'"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := c.sheet.Overlay()
			assert.ErrorContains(t, err, c.says)
		})
	}
}

// Whatever is sound can be drawn.
func TestWhatIsSoundIsDrawn(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		at := rapid.Custom(func(t *rapid.T) [2]float64 {
			return [2]float64{rapid.Float64Range(-700, 700).Draw(t, "x"), rapid.Float64Range(-700, 700).Draw(t, "y")}
		})
		sheet := ink.Sheet{Pages: []ink.Page{{Width: 200, Height: 300, Strokes: []ink.Stroke{{
			Colour: "#0e6470", Clear: rapid.Bool().Draw(t, "clear"), Outline: rapid.SliceOfN(at, 0, 40).Draw(t, "outline"),
		}}}}}
		pdf, err := sheet.Overlay()
		if err != nil {
			t.Fatal(err)
		}
		if n, err := api.PageCount(bytes.NewReader(pdf), nil); err != nil || n != 1 {
			t.Fatalf("%d pages, %v", n, err)
		}
	})
}
