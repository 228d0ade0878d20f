package convert

import (
	"bytes"
	"context"
	"image"
	"image/color"
	"image/jpeg"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/draw"

	"orario/core/imaging"
	"orario/core/inspect"
)

// aPhotograph lays a page of text on a dark desk, turned by so many degrees.
func aPhotograph(t *testing.T, x *Tools, turn int) []byte {
	words := strings.Fields(
		"The tide gauge at the north mole was read every hour for four days and the heights of high water " +
			"agree with the printed table within four centimetres except in two nights with wind from the south west",
	)
	var text strings.Builder
	for n := range 500 {
		text.WriteString(words[n*7%len(words)] + " ")
	}
	m, err := x.Make(context.Background(), []inspect.Named{file("a.md", []byte(text.String()))}, "pdf", Wishes{})
	require.NoError(t, err)
	m, err = x.Make(context.Background(), []inspect.Named{file("a.pdf", m.Data)}, "png", Wishes{})
	require.NoError(t, err)
	page, _, err := image.Decode(bytes.NewReader(m.Data))
	require.NoError(t, err)
	turned := imaging.Turn(imaging.OnWhite(page), turn)
	b := turned.Rect
	desk := image.NewRGBA(image.Rect(0, 0, b.Dx()+400, b.Dy()+500))
	draw.Draw(desk, desk.Rect, image.NewUniform(color.RGBA{70, 50, 40, 255}), image.Point{}, draw.Src)
	draw.Draw(desk, b.Add(image.Pt(180, 260)), turned, image.Point{}, draw.Src)
	var out bytes.Buffer
	require.NoError(t, jpeg.Encode(&out, desk, nil))
	return out.Bytes()
}

func TestAPhotographedPageBecomesASearchablePDF(t *testing.T) {
	x := tools(t)
	ctx := context.Background()
	upright, down := aPhotograph(t, x, 0), aPhotograph(t, x, 90)
	s, err := x.Scan(
		ctx,
		[]inspect.Named{file("1.jpg", upright), file("2.jpg", down)},
		ScanWishes{Strength: imaging.DefaultStrength, Text: "eng"},
	)
	require.NoError(t, err)
	require.Len(t, s.Pages, 2)
	assert.Equal(t, 0, s.Pages[0].Turned)
	assert.Equal(t, 270, s.Pages[1].Turned)
	assert.InDelta(t, 180, s.Pages[0].Corners[0][0], 4)
	assert.InDelta(t, 260, s.Pages[0].Corners[0][1], 4)
	for _, p := range s.Pages {
		assert.Empty(t, p.Warnings)
	}
	facts := inspect.File("a.pdf", s.PDF)
	require.Len(t, facts.PageSizes, 1, "both are A4, upright: %v", facts.PageSizes)
	assert.InDelta(t, imaging.A4.Width, facts.PageSizes[0].Width, 0.1)
	assert.InDelta(t, imaging.A4.Height, facts.PageSizes[0].Height, 0.1)
	text, err := x.Text(ctx, "pdf", s.PDF)
	require.NoError(t, err)
	assert.Greater(t, strings.Count(text, "centimetres"), 24, "of 26, on two pages")
}

func TestWhatAScanWarnsOf(t *testing.T) {
	x := tools(t)
	ctx := context.Background()
	picture, _, err := image.Decode(bytes.NewReader(aPhotograph(t, x, 0)))
	require.NoError(t, err)
	made := func(change func(*image.RGBA) image.Image) []byte {
		var out bytes.Buffer
		require.NoError(t, jpeg.Encode(&out, change(imaging.OnWhite(picture)), nil))
		return out.Bytes()
	}
	for warning, photo := range map[string][]byte{
		"dark": made(func(p *image.RGBA) image.Image {
			for i := range p.Pix {
				p.Pix[i] /= 5
			}
			return p
		}),
		"blurred": made(func(p *image.RGBA) image.Image {
			small := image.NewRGBA(image.Rect(0, 0, p.Rect.Dx()/12, p.Rect.Dy()/12))
			draw.BiLinear.Scale(small, small.Rect, p, p.Rect, draw.Src, nil)
			draw.BiLinear.Scale(p, p.Rect, small, small.Rect, draw.Src, nil)
			return p
		}),
		"no_page": made(func(p *image.RGBA) image.Image {
			draw.Draw(p, p.Rect, image.NewUniform(color.Gray{120}), image.Point{}, draw.Src)
			return p
		}),
	} {
		s, err := x.Scan(ctx, []inspect.Named{file("p.jpg", photo)}, ScanWishes{Strength: 0.5})
		require.NoError(t, err, warning)
		assert.Equal(t, []string{warning}, s.Pages[0].Warnings, "clarity %g", s.Pages[0].Sharpness)
	}
	for says, w := range map[string]ScanWishes{
		"is not known":       {Paper: "a5"},
		"from 0 to 1":        {Strength: 2},
		"cannot be read":     {Text: "xyz"},
		"choose of eng, ita": {Text: "../x"},
	} {
		_, err := x.Scan(ctx, []inspect.Named{file("p.jpg", made(func(p *image.RGBA) image.Image { return p }))}, w)
		assert.ErrorContains(t, err, says)
	}
	_, err = x.Scan(ctx, []inspect.Named{file("p.jpg", made(func(p *image.RGBA) image.Image { return p })[:2000])}, ScanWishes{})
	assert.ErrorContains(t, err, "does not open")
}
