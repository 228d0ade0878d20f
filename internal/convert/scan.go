package convert

import (
	"context"
	"errors"
	"fmt"
	"image"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"golang.org/x/image/draw"

	"orario/core/imaging"
	"orario/core/inspect"
)

// ScanWishes are how photographs become pages.
type ScanWishes struct {
	Paper    string  // a4 or letter: the page's size; photo: the whole photograph; empty: what the photograph shows
	Strength float64 // of the cleaning, 0 to 1
	Text     string  // languages of a text layer, such as eng+por; empty: none
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

// ReadLanguages says which languages of a list such as "eng+por" can't be read here.
func ReadLanguages(list string) error {
	for name := range strings.SplitSeq(list, "+") {
		if _, err := os.Stat(filepath.Join(tessdata, name+".traineddata")); err != nil ||
			!languageName.MatchString(name) {
			var have []string
			found, _ := filepath.Glob(filepath.Join(tessdata, "*.traineddata"))
			for _, path := range found {
				if n := strings.TrimSuffix(filepath.Base(path), ".traineddata"); n != "osd" {
					have = append(have, n)
				}
			}
			return fmt.Errorf("text in %q cannot be read here; choose of %s, or install tesseract-ocr-%s", name,
				strings.Join(have, ", "), name)
		}
	}
	return nil
}

const tessdata = "/usr/share/tesseract-ocr/5/tessdata"

var languageName = regexp.MustCompile(`^[a-z_]{3,20}$`)

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
	for _, photo := range photos {
		kind := inspect.Kind(photo.Name, photo.Data)
		if !slices.Contains(pictures, kind) {
			return nil, fmt.Errorf("%s is no picture but of the kind %s", photo.Name, kind)
		}
		list, err := t.decodePictures(ctx, photo, kind)
		if err != nil {
			return nil, err
		}
		for _, p := range list {
			page, found, err := t.scanPage(ctx, photo.Name, p, w)
			if err != nil {
				return nil, err
			}
			pages, s.Pages = append(pages, page), append(s.Pages, found)
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
	ctx context.Context, name string, p *image.RGBA, w ScanWishes,
) (PicturePage, ScannedPage, error) {
	found := ScannedPage{Photo: name, Warnings: []string{}}
	corners, ok := imaging.Quad{}, true
	if w.Paper != "photo" {
		corners, ok = imaging.FindPage(p)
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
	for i, c := range corners {
		found.Corners[i] = [2]float64{math.Round(c.X*10) / 10, math.Round(c.Y*10) / 10}
	}
	paper := imaging.PaperOf(proportion)
	if ok && w.Paper != "photo" {
		proportion = paper.Width / paper.Height
	}
	width, height := flatSize(corners, proportion)
	flat := imaging.Straighten(p, corners, width, height)
	if imaging.Brightness(flat) < leastBrightness {
		found.Warnings = append(found.Warnings, "dark")
	}
	even := imaging.Clean(flat, imaging.DefaultStrength)
	clarity, written := imaging.Clarity(even)
	if found.Sharpness = math.Round(clarity*1e5) / 1e5; written && clarity < leastClarity {
		found.Warnings = append(found.Warnings, "blurred")
	}
	turn, err := t.reading(ctx, even)
	if err != nil {
		return PicturePage{}, found, err
	}
	if w.Strength != imaging.DefaultStrength {
		even = imaging.Clean(flat, w.Strength)
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

var (
	rotate     = regexp.MustCompile(`Rotate: (\d+)`)
	confidence = regexp.MustCompile(`Orientation confidence: ([\d.]+)`)
)

// readingSide is the size at which the direction is looked for.
const readingSide = 1700

// quickly and thoroughly are the letters that tesseract looks at, each of which takes it some 25 ms.
const (
	quickly    = 20
	thoroughly = 50
)

// What is enough to turn a page. Most photographs are upright, so it takes more to turn one than to leave it.
const (
	sureQuickly = 4.0 // of tesseract's confidence, to leave it at a glance
	sureUpside  = 3.0 // to turn a page whose lines run across it
	clearLines  = 1.5 // of [imaging.Lines]
)

// reading finds by how many degrees clockwise a page has to be turned so that its text stands upright: whether the
// lines run across the page or down is told by the page's ink, which end is up by tesseract.
func (t *Tools) reading(ctx context.Context, p *image.RGBA) (int, error) {
	longer := max(p.Rect.Dx(), p.Rect.Dy())
	w, h := p.Rect.Dx()*readingSide/longer, p.Rect.Dy()*readingSide/longer
	scaled := image.NewRGBA(image.Rect(0, 0, max(1, w), max(1, h)))
	draw.BiLinear.Scale(scaled, scaled.Rect, p, p.Rect, draw.Src, nil)
	first := 0
	lines := imaging.Lines(scaled)
	if lines < 1/clearLines { // they run down
		first = 90
		scaled = imaging.Turn(scaled, first)
	}
	turn, sure, err := t.direction(ctx, scaled, quickly)
	if err == nil && (turn != 0 || sure < sureQuickly) {
		turn, sure, err = t.direction(ctx, scaled, thoroughly)
	}
	told := lines > clearLines || first != 0
	switch {
	case err != nil:
		return 0, err
	case first != 0 && turn == 180: // either end is as likely
	case told && turn%180 != 0, sure < sureUpside: // the lines say otherwise, or it is a guess
		turn = 0
	}
	return (first + turn) % 360, nil
}

// direction is what tesseract says of a page after so many letters, and how sure it is; 0 where it can't tell.
func (t *Tools) direction(ctx context.Context, p *image.RGBA, letters int) (turn int, sure float64, err error) {
	data, err := asJPEG(p, usualQuality)
	if err != nil {
		return 0, 0, err
	}
	out, err := t.inFolder(ctx, func(work string) ([]byte, error) {
		if err := os.WriteFile(filepath.Join(work, "in.jpg"), data, 0o600); err != nil {
			return nil, err
		}
		return tesseract(ctx, work, "in.jpg", "-", "--psm", "0", "-l", "osd",
			"-c", fmt.Sprintf("min_characters_to_try=%d", letters))
	})
	var exit *exec.ExitError
	if errors.As(err, &exit) {
		return 0, 0, nil // too little text to tell
	}
	if err != nil {
		return 0, 0, err
	}
	turned, said := rotate.FindSubmatch(out), confidence.FindSubmatch(out)
	if turned == nil || said == nil {
		return 0, 0, nil
	}
	if sure, err = strconv.ParseFloat(string(said[1]), 64); err != nil {
		return 0, 0, nil
	}
	turn, err = strconv.Atoi(string(turned[1]))
	return turn, sure, err
}

// maxReading bounds the reading of one page.
const maxReading = 60 * time.Second

func tesseract(ctx context.Context, work string, arguments ...string) ([]byte, error) {
	box := sandbox{work: work, memory: maxMemory, env: map[string]string{"OMP_THREAD_LIMIT": "1"}}
	return box.run(ctx, maxReading, nil, "tesseract", arguments...)
}

// withText lays what can be read on pages invisibly over them, so that it can be searched and copied.
func (t *Tools) withText(ctx context.Context, pdf []byte, pages []PicturePage, languages string) ([]byte, error) {
	return t.inFolder(ctx, func(work string) ([]byte, error) {
		if err := os.WriteFile(filepath.Join(work, "pages.pdf"), pdf, 0o600); err != nil {
			return nil, err
		}
		all := []string{"--warning-exit-0", "--empty", "--pages"}
		for i, p := range pages {
			name := fmt.Sprintf("page%d", i)
			if err := os.WriteFile(filepath.Join(work, name+".jpg"), p.JPEG, 0o600); err != nil {
				return nil, err
			}
			_, err := tesseract(ctx, work, name+".jpg", name,
				"-l", languages, "--dpi", "300", "-c", "textonly_pdf=1", "pdf")
			if err != nil {
				return nil, fmt.Errorf("reading the text of page %d: %w", i+1, err)
			}
			all = append(all, name+".pdf", "1")
		}
		if err := qpdf(ctx, work, append(all, "--", "text.pdf")...); err != nil {
			return nil, err
		}
		err := qpdf(ctx, work, "--warning-exit-0", "pages.pdf", "--overlay", "text.pdf", "--", "out.pdf")
		if err != nil {
			return nil, err
		}
		return os.ReadFile(filepath.Join(work, "out.pdf"))
	})
}
