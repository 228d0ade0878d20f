// Package imaging works on pictures of pages: it turns them upright, finds a page in a photograph, straightens it,
// evens its light and sharpens its ink. It takes decoded pictures and gives new ones; what it is given is not changed.
package imaging

import (
	"image"
	"image/color"

	"golang.org/x/image/draw"
)

// OnWhite is a picture as opaque RGBA with its corner at 0, 0; what shines through is white.
func OnWhite(p image.Image) *image.RGBA {
	b := p.Bounds()
	out := image.NewRGBA(image.Rect(0, 0, b.Dx(), b.Dy()))
	if o, ok := p.(interface{ Opaque() bool }); ok && o.Opaque() {
		draw.Draw(out, out.Rect, p, b.Min, draw.Src)
		return out
	}
	draw.Draw(out, out.Rect, image.NewUniform(color.White), image.Point{}, draw.Src)
	draw.Draw(out, out.Rect, p, b.Min, draw.Over)
	return out
}

// Upright turns and mirrors a picture as its EXIF orientation (CIPA DC-008, tag 274: 1 to 8) asks for, so that it is
// seen as it was taken. Others than 2 to 8 leave it as it is.
func Upright(p *image.RGBA, orientation int) *image.RGBA {
	w, h := p.Rect.Dx(), p.Rect.Dy()
	// Where the pixel that is seen at x, y is stored.
	var from func(x, y int) (int, int)
	switch orientation {
	case 2:
		from = func(x, y int) (int, int) { return w - 1 - x, y }
	case 3:
		from = func(x, y int) (int, int) { return w - 1 - x, h - 1 - y }
	case 4:
		from = func(x, y int) (int, int) { return x, h - 1 - y }
	case 5:
		from = func(x, y int) (int, int) { return y, x }
	case 6:
		from = func(x, y int) (int, int) { return y, h - 1 - x }
	case 7:
		from = func(x, y int) (int, int) { return w - 1 - y, h - 1 - x }
	case 8:
		from = func(x, y int) (int, int) { return w - 1 - y, x }
	default:
		return p
	}
	seen := image.Rect(0, 0, w, h)
	if orientation >= 5 {
		seen = image.Rect(0, 0, h, w)
	}
	out := image.NewRGBA(seen)
	for y := range seen.Dy() {
		row := out.Pix[y*out.Stride:]
		for x := range seen.Dx() {
			sx, sy := from(x, y)
			copy(row[4*x:4*x+4], p.Pix[sy*p.Stride+4*sx:][:4])
		}
	}
	return out
}

// turns are the orientations that turn by 0, 90, 180 and 270 degrees clockwise.
var turns = [4]int{1, 6, 3, 8}

// Turn turns a picture clockwise by a multiple of 90 degrees.
func Turn(p *image.RGBA, degrees int) *image.RGBA { return Upright(p, turns[(degrees/90%4+4)%4]) }
