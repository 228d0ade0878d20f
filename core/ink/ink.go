// Package ink draws what was written by hand on pages: strokes of a pen, marks and typed words. It makes a PDF (ISO
// 32000-1) with one page for each page that was written on, transparent but for the ink, to be laid over the page.
//
// Lengths are in points (1/72 inch) from the upper left corner of the page as it is seen, so a page that is shown
// turned is written on as it is shown.
package ink

import (
	"bytes"
	"errors"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"

	"codeberg.org/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/goregular"
)

// A Sheet is what was written on the pages of one document, in their order.
type Sheet struct {
	Pages []Page `json:"pages"`
	// Filled are the names of the form's fields that Words of pages stand in, so that what they held goes
	Filled []string `json:"filled"`
}

// A Page is what was written on one page. Width and Height are those of the page as it is seen.
type Page struct {
	Width   float64  `json:"width"`
	Height  float64  `json:"height"`
	Strokes []Stroke `json:"strokes"`
	Words   []Words  `json:"words"`
}

// A Stroke is one line of a pen, as the outline that it fills, by the non-zero winding rule.
type Stroke struct {
	Colour  string       `json:"colour"` // #rrggbb
	Clear   bool         `json:"clear"`  // a marker's: what is below shines through
	Outline [][2]float64 `json:"outline"`
}

// Words are typed on a page. X and Y are the upper left corner of the first line.
type Words struct {
	X      float64 `json:"x"`
	Y      float64 `json:"y"`
	Size   float64 `json:"size"` // of the letters, 4 to 200 points
	Colour string  `json:"colour"`
	Text   string  `json:"text"` // lines end with \n
}

// Bounds of a sheet.
const (
	mostPages  = 500
	mostPoints = 3_000_000 // of all strokes
	mostLetter = 100_000
	longest    = 14_400 // of a page's side: 200 inches, as ISO 32000-1 annex C has it
	shine      = 0.35   // of a marker
	leading    = 1.25   // from line to line, of the letters' size
)

var colour = regexp.MustCompile(`^#[0-9a-f]{6}$`)

// Sound says what is wrong with a sheet, if anything is.
func (s Sheet) Sound() error {
	points, letters := 0, 0
	if len(s.Pages) == 0 || len(s.Pages) > mostPages {
		return fmt.Errorf("%d pages; there must be 1 to %d", len(s.Pages), mostPages)
	}
	for n, p := range s.Pages {
		if !(p.Width >= 1 && p.Width <= longest && p.Height >= 1 && p.Height <= longest) {
			return fmt.Errorf("page %d: a side of 1 to %d points was expected", n+1, longest)
		}
		for _, stroke := range p.Strokes {
			if !colour.MatchString(stroke.Colour) {
				return fmt.Errorf("page %d: the colour %q is not of the form #rrggbb", n+1, stroke.Colour)
			}
			for _, at := range stroke.Outline {
				if !near(at[0]) || !near(at[1]) {
					return fmt.Errorf("page %d: a stroke is not on the page", n+1)
				}
			}
			points += len(stroke.Outline)
		}
		for _, w := range p.Words {
			if !colour.MatchString(w.Colour) || !(w.Size >= 4 && w.Size <= 200) || !near(w.X) || !near(w.Y) {
				return fmt.Errorf("page %d: typed words have no proper place, colour or size", n+1)
			}
			letters += len(w.Text)
		}
	}
	if points > mostPoints || letters > mostLetter {
		return errors.New("more was written than fits one document; write on fewer pages at a time")
	}
	return nil
}

func near(x float64) bool { return math.Abs(x) <= 2*longest } // false for what is not a number

// Empty says whether nothing was written.
func (s Sheet) Empty() bool {
	for _, p := range s.Pages {
		if len(p.Strokes)+len(p.Words) > 0 {
			return false
		}
	}
	return true
}

// Overlay makes the PDF. The font that typed words are set in travels with it; it has the Latin, Greek and Cyrillic
// letters, and others are an error that names the first of them.
func (s Sheet) Overlay() ([]byte, error) {
	if err := s.Sound(); err != nil {
		return nil, err
	}
	doc := fpdf.NewCustom(&fpdf.InitType{UnitStr: "pt", Size: fpdf.SizeType{Wd: 595, Ht: 842}})
	doc.SetMargins(0, 0, 0)
	doc.SetAutoPageBreak(false, 0)
	doc.AddUTF8FontFromBytes("go", "", goregular.TTF)
	for n, p := range s.Pages {
		doc.AddPageFormat("P", fpdf.SizeType{Wd: p.Width, Ht: p.Height})
		for _, stroke := range p.Strokes {
			fill(doc, stroke)
		}
		for _, w := range p.Words {
			if letter, lacks := lacking(w.Text); lacks {
				return nil, fmt.Errorf("page %d: the letter %q is not in the font; write it with the pen", n+1, letter)
			}
			doc.SetFont("go", "", w.Size)
			doc.SetTextColor(rgb(w.Colour))
			for i, line := range strings.Split(w.Text, "\n") {
				doc.Text(w.X, w.Y+w.Size*(1+leading*float64(i)), line)
			}
		}
	}
	var out bytes.Buffer
	if err := doc.Output(&out); err != nil {
		return nil, fmt.Errorf("drawing what was written: %w", err)
	}
	return out.Bytes(), nil
}

func fill(doc *fpdf.Fpdf, s Stroke) {
	if len(s.Outline) < 3 {
		return
	}
	opacity, blend := 1.0, "Normal"
	if s.Clear {
		opacity, blend = shine, "Multiply"
	}
	doc.SetAlpha(opacity, blend)
	doc.SetFillColor(rgb(s.Colour))
	doc.MoveTo(s.Outline[0][0], s.Outline[0][1])
	for _, at := range s.Outline[1:] {
		doc.LineTo(at[0], at[1])
	}
	doc.ClosePath()
	doc.DrawPath("f")
	doc.SetAlpha(1, "Normal")
}

func rgb(c string) (r, g, b int) {
	n, _ := strconv.ParseUint(c[1:], 16, 32) // it is sound
	return int(n >> 16), int(n >> 8 & 255), int(n & 255)
}
