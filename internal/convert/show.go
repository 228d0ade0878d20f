package convert

import (
	"context"
	"fmt"
	"image"

	"golang.org/x/image/draw"

	"orario/core/imaging"
	"orario/core/inspect"
)

// shownSide is the longer side of a picture as it is shown.
const shownSide = 1600

// A Photograph is a picture as it is shown, upright, with the page in it.
type Photograph struct {
	JPEG          []byte
	Width, Height int           // of the whole upright photograph, which the corners are given in
	Corners       [4][2]float64 // of the page, clockwise from the upper left; of all of it where none was found
	Found         bool
}

// Show makes an upright JPEG of a picture, small enough for a screen, and finds the page in it.
func (t *Tools) Show(ctx context.Context, f inspect.Named) (*Photograph, error) {
	kind := inspect.Kind(f.Name, f.Data)
	if sorts[kind] != Picture {
		return nil, fmt.Errorf("%s is no picture but of the kind %s", f.Name, kind)
	}
	select {
	case t.shows <- struct{}{}:
		defer func() { <-t.shows }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	list, err := t.decodePictures(ctx, f, kind)
	if err != nil {
		return nil, err
	}
	p := list[0]
	out := &Photograph{Width: p.Rect.Dx(), Height: p.Rect.Dy()}
	corners, found := imaging.FindPage(p)
	if out.Found = found; !found {
		corners = imaging.Whole(p)
	}
	out.Corners = told(corners)
	if longer := max(out.Width, out.Height); longer > shownSide {
		small := image.NewRGBA(
			image.Rect(0, 0, max(1, out.Width*shownSide/longer), max(1, out.Height*shownSide/longer)),
		)
		draw.ApproxBiLinear.Scale(small, small.Rect, p, p.Rect, draw.Src, nil)
		p = small
	}
	out.JPEG, err = asJPEG(p, usualQuality)
	return out, err
}
