package demo

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"math"
	"math/rand/v2"

	"golang.org/x/image/draw"
	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/goitalic"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/f64"
	"golang.org/x/image/math/fixed"
)

// photographs: two pages of drawings lie in the bundle as they came from the telephone.
func (p *player) photographs(ctx context.Context) error {
	for n, lines := range [][]string{
		{"Joint 1: through dovetail, five tails", "Stock 22 mm beech, slope 1 in 7", "Pins half as wide as tails",
			"Load at failure 1.9 kN, mean of three", "It broke along the grain of pin 2"},
		{"Joint 2: lapped dovetail", "Stock 22 mm beech, lap 5 mm", "Load at failure 1.6 kN, mean of three",
			"All three gave way at the glue line", "Glue: hide glue, 24 h at 20 degrees"},
	} {
		data, err := Photograph(uint64(n+1), 0.09-0.2*float64(n), lines...)
		if err != nil {
			return err
		}
		if err := p.add(ctx, p.items["wod-joints"].ID, fmt.Sprintf("IMG_%d.jpg", 4711+n), data, ""); err != nil {
			return err
		}
	}
	return nil
}

// Photograph is a page of notes and a drawing as a telephone sees it on a wooden desk: turned, shaded, a little noisy.
func Photograph(seed uint64, turn float64, lines ...string) ([]byte, error) {
	page, err := notes(lines)
	if err != nil {
		return nil, err
	}
	r := rand.New(rand.NewPCG(seed, seed))
	p := image.NewRGBA(image.Rect(0, 0, 1500, 2000))
	for y := range 2000 {
		for x := range 1500 {
			grain := 12 * math.Sin(float64(x)/31+4*math.Sin(float64(y)/230))
			p.SetRGBA(x, y, color.RGBA{uint8(112 + grain), uint8(78 + grain), uint8(50 + grain/2), 255})
		}
	}
	sin, cos := math.Sincos(turn)
	// The page's middle goes to the photograph's, a little lower.
	place := f64.Aff3{cos, -sin, 750 - 500*cos + 707*sin, sin, cos, 1020 - 500*sin - 707*cos}
	draw.BiLinear.Transform(p, place, page, page.Rect, draw.Src, nil)
	for y := range 2000 {
		for x := range 1500 {
			light := 0.95 - 0.35*float64(x)/1500 - 0.15*float64(y)/2000
			at := p.Pix[p.PixOffset(x, y):]
			for c := range 3 {
				at[c] = uint8(max(0, min(255, float64(at[c])*light+4*r.NormFloat64())))
			}
		}
	}
	var out bytes.Buffer
	err = jpeg.Encode(&out, p, &jpeg.Options{Quality: 85})
	return out.Bytes(), err
}

// notes are lines of writing above a dovetail joint, on a page of A4's shape.
func notes(lines []string) (*image.RGBA, error) {
	page := image.NewRGBA(image.Rect(0, 0, 1000, 1414))
	draw.Draw(page, page.Rect, image.NewUniform(color.RGBA{246, 244, 238, 255}), image.Point{}, draw.Src)
	parsed, err := opentype.Parse(goitalic.TTF)
	if err != nil {
		return nil, err
	}
	face, err := opentype.NewFace(parsed, &opentype.FaceOptions{Size: 33, DPI: 72})
	if err != nil {
		return nil, err
	}
	ink := image.NewUniform(color.RGBA{32, 40, 96, 255})
	d := font.Drawer{Dst: page, Src: ink, Face: face}
	for n, line := range lines {
		d.Dot = fixed.P(90, 130+56*n)
		d.DrawString(line)
	}
	top := 200 + 56*len(lines)
	for n := range 5 { // tails, each of two slanting sides and a base
		for k := range 120 {
			slant := k / 5
			for w := range 4 {
				page.Set(150+140*n+slant+w, top+k, ink.C)
				page.Set(250+140*n-slant+w, top+k, ink.C)
			}
		}
		draw.Draw(page, image.Rect(174+140*n, top+118, 230+140*n, top+122), ink, image.Point{}, draw.Src)
	}
	draw.Draw(page, image.Rect(110, top-4, 860, top), ink, image.Point{}, draw.Src)
	return page, nil
}
