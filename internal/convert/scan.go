package convert

import (
	"context"
	"errors"
	"fmt"
	"image"
	"math"
	"slices"

	"golang.org/x/image/draw"
	"golang.org/x/sync/errgroup"

	"orario/core/imaging"
	"orario/core/inspect"
)

// ScanWishes are how photographs become pages.
type ScanWishes struct {
	Paper    string  // a4 or letter: the page's size; photo: the whole photograph; empty: what the photograph shows
	Strength float64 // of the cleaning, 0 to 1
	Text     string  // languages of a text layer, such as eng+por; empty: none
	// What a person settled of the photographs, in their order; nil: nothing of that one
	Settled  []*Settled
	Progress func(done, of int) // is told of each page; may be nil
}

// Settled is what a person settled of a photograph with one page.
type Settled struct {
	Corners *[4][2]float64 `json:"corners"` // pixels of the upright photograph, clockwise; nil: found
	Turn    *int           `json:"turn"`    // degrees clockwise; nil: found
}

// A ScannedPage is what was found in a photograph.
type ScannedPage struct {
	Photo     string        `json:"photo"`
	Corners   [4][2]float64 `json:"corners"`   // pixels of the upright photograph, clockwise
	Turned    int           `json:"turned"`    // degrees clockwise beyond EXIF
	Sharpness float64       `json:"sharpness"` // see [imaging.Clarity]; 0: nothing is on the page
	Warnings  []string      `json:"warnings"`  // blurred dark cut_off no_page
}

// A Scan is a PDF of pages.
type Scan struct {
	PDF   []byte
	Pages []ScannedPage
}

// What a warning is given for.
const (
	// Of the clarity. At less, letters of eight points are no longer told apart: under a bell of two pixels'
	// deviation at 1,600 to the page the clarity of the tests' pages is 0.016, under one of 3.6 pixels 0.001.
	leastClarity    = 0.012
	leastBrightness = 0.33 // of the paper
	longestPage     = 3508 // pixels: A4 at 300 dots per inch
	shortestPage    = 2200 // what is less is made larger, since small letters are read badly
	scanQuality     = 78   // of JPEG, which text does not suffer from
)

// Scan makes a PDF of photographs of pages, one page each: the page is found, straightened, turned upright, cleaned.
func (t *Tools) Scan(ctx context.Context, photos []inspect.Named, w ScanWishes) (*Scan, error) {
	if !slices.Contains([]string{"", "a4", "letter", "photo"}, w.Paper) {
		return nil, fmt.Errorf("the paper %q is not known; choose a4, letter or photo", w.Paper)
	}
	if !(w.Strength >= 0 && w.Strength <= 1) {
		return nil, errors.New("the strength is a number from 0 to 1")
	}
	if w.Text != "" {
		if err := ReadLanguages(w.Text); err != nil {
			return nil, err
		}
	}
	s := &Scan{}
	var pages []PicturePage
	for n, photo := range photos {
		kind := inspect.Kind(photo.Name, photo.Data)
		if sorts[kind] != Picture {
			return nil, fmt.Errorf("%s is no picture but of the kind %s", photo.Name, kind)
		}
		list, err := t.decodePictures(ctx, photo, kind)
		if err != nil {
			return nil, err
		}
		for _, p := range list {
			settled := &Settled{}
			if n < len(w.Settled) && w.Settled[n] != nil {
				settled = w.Settled[n]
			}
			page, found, err := t.scanPage(ctx, photo.Name, p, w, settled)
			if err != nil {
				return nil, err
			}
			pages, s.Pages = append(pages, page), append(s.Pages, found)
		}
		if w.Progress != nil {
			w.Progress(n+1, len(photos))
		}
	}
	pdf, err := PicturePages(pages)
	if err == nil && w.Text != "" {
		pdf, err = t.withText(ctx, pdf, pages, w.Text)
	}
	s.PDF = pdf
	return s, err
}

func (t *Tools) scanPage(
	ctx context.Context, name string, p *image.RGBA, w ScanWishes, settled *Settled,
) (PicturePage, ScannedPage, error) {
	found := ScannedPage{Photo: name, Warnings: []string{}}
	corners, ok, err := w.corners(p, settled)
	if err != nil {
		return PicturePage{}, found, fmt.Errorf("the corners of %s %w", name, err)
	}
	if !ok {
		found.Warnings = append(found.Warnings, "no_page")
	}
	proportion := float64(p.Rect.Dx()) / float64(p.Rect.Dy())
	if w.Paper == "photo" || !ok {
		corners = imaging.Whole(p)
	} else {
		proportion = imaging.Proportion(corners, p.Rect.Dx(), p.Rect.Dy())
		if reachesOut(corners, p) {
			found.Warnings = append(found.Warnings, "cut_off")
		}
	}
	found.Corners = told(corners)
	paper := imaging.PaperOf(proportion)
	if ok && w.Paper != "photo" {
		proportion = paper.Width / paper.Height
	}
	width, height := flatSize(corners, proportion)
	flat := imaging.Straighten(p, corners, width, height)
	if imaging.Brightness(flat) < leastBrightness {
		found.Warnings = append(found.Warnings, "dark")
	}
	even, turn, err := t.cleaned(ctx, flat, w, settled, &found)
	if err != nil {
		return PicturePage{}, found, err
	}
	if found.Turned = turn; turn != 0 {
		even = imaging.Turn(even, turn)
	}
	if turn%180 != 0 {
		paper.Width, paper.Height = paper.Height, paper.Width
	}
	if set, named := map[string]imaging.Paper{"a4": imaging.A4, "letter": imaging.Letter}[w.Paper]; named {
		if paper.Width > paper.Height {
			set.Width, set.Height = set.Height, set.Width
		}
		even, paper = onPaper(even, set), set
	}
	data, err := asJPEG(even, scanQuality)
	return PicturePage{JPEG: data, Width: paper.Width, Height: paper.Height}, found, err
}

// cleaned is a page with even light, and by how much it has to be turned, which is read beside the cleaning. What is
// wrong with it is told in found.
func (t *Tools) cleaned(
	ctx context.Context, flat *image.RGBA, w ScanWishes, settled *Settled, found *ScannedPage,
) (even *image.RGBA, turn int, err error) {
	side, ctx := errgroup.WithContext(ctx)
	side.Go(func() (err error) {
		turn, err = t.upright(ctx, flat, settled)
		return err
	})
	even = imaging.Clean(flat, imaging.DefaultStrength)
	clarity, written := imaging.Clarity(even)
	if found.Sharpness = math.Round(clarity*1e5) / 1e5; written && clarity < leastClarity {
		found.Warnings = append(found.Warnings, "blurred")
	}
	if w.Strength != imaging.DefaultStrength {
		even = imaging.Clean(flat, w.Strength)
	}
	err = side.Wait()
	return even, turn, err
}

// corners are those that were settled, or else that are found, unless the whole photograph is wished for.
func (w ScanWishes) corners(p *image.RGBA, settled *Settled) (corners imaging.Quad, ok bool, err error) {
	switch {
	case settled.Corners != nil:
		for i, c := range settled.Corners {
			corners[i] = imaging.Point{X: c[0], Y: c[1]}
		}
		if !corners.Convex() {
			return corners, false, errors.New("make no page; draw them around it clockwise")
		}
		return corners, true, nil
	case w.Paper == "photo":
		return corners, true, nil
	}
	corners, ok = imaging.FindPage(p)
	return corners, ok, nil
}

// told are corners as they are told: to a tenth of a pixel.
func told(q imaging.Quad) (corners [4][2]float64) {
	for i, c := range q {
		corners[i] = [2]float64{math.Round(c.X*10) / 10, math.Round(c.Y*10) / 10}
	}
	return corners
}

// reachesOut says whether a corner lies outside of the photograph.
func reachesOut(q imaging.Quad, p *image.RGBA) bool {
	for _, c := range q {
		if c.X < -2 || c.Y < -2 || c.X > float64(p.Rect.Dx())+2 || c.Y > float64(p.Rect.Dy())+2 {
			return true
		}
	}
	return false
}

// flatSize is the size in pixels at which nothing of a quad is lost, within those of good scans.
func flatSize(q imaging.Quad, proportion float64) (w, h int) {
	side := func(a, b int) float64 { return math.Hypot(q[a].X-q[b].X, q[a].Y-q[b].Y) }
	width := max(side(0, 1), side(3, 2), max(side(1, 2), side(0, 3))*proportion)
	if longer := max(width, width/proportion); longer > longestPage {
		width *= longestPage / longer
	} else if longer < shortestPage {
		width *= shortestPage / longer
	}
	return max(1, int(width+0.5)), max(1, int(width/proportion+0.5))
}

// onPaper is a page in the middle of a sheet of other proportions, white around it.
func onPaper(p *image.RGBA, paper imaging.Paper) *image.RGBA {
	w, h := p.Rect.Dx(), p.Rect.Dy()
	if wide := float64(h) * paper.Width / paper.Height; wide > float64(w)*1.002 {
		w = int(wide + 0.5)
	} else if high := float64(w) * paper.Height / paper.Width; high > float64(h)*1.002 {
		h = int(high + 0.5)
	} else {
		return p
	}
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.Draw(out, out.Rect, image.White, image.Point{}, draw.Src)
	at := image.Pt((w-p.Rect.Dx())/2, (h-p.Rect.Dy())/2)
	draw.Draw(out, p.Rect.Add(at), p, image.Point{}, draw.Src)
	return out
}
