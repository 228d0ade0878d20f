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
	"strconv"
	"strings"
	"time"

	"golang.org/x/image/draw"

	"orario/core/imaging"
	"orario/internal/confine"
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

func (t *Tools) upright(ctx context.Context, p *image.RGBA, settled *Settled) (turn int, err error) {
	if settled.Turn == nil {
		return t.reading(ctx, p)
	}
	if *settled.Turn%90 != 0 {
		return 0, errors.New("turn by 90, 180 or 270 degrees")
	}
	return (*settled.Turn%360 + 360) % 360, nil
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
	// Of [imaging.Standing], to ask tesseract no more: on twelve pages of English upright it was 0.10 to 0.67 where it
	// told anything, on their heads -0.18 to -0.63.
	clearStanding = 0.15
)

// reading finds by how many degrees clockwise a page has to be turned so that its text stands upright: whether the
// lines run across the page or down is told by the page's ink, and so is which end is up, or else by tesseract.
func (t *Tools) reading(ctx context.Context, p *image.RGBA) (int, error) {
	longer := max(p.Rect.Dx(), p.Rect.Dy())
	w, h := p.Rect.Dx()*readingSide/longer, p.Rect.Dy()*readingSide/longer
	scaled := image.NewRGBA(image.Rect(0, 0, max(1, w), max(1, h)))
	draw.BiLinear.Scale(scaled, scaled.Rect, p, p.Rect, draw.Src, nil)
	scaled = imaging.Clean(scaled, imaging.DefaultStrength)
	first := 0
	lines := imaging.Lines(scaled)
	if lines < 1/clearLines { // they run down
		first = 90
		scaled = imaging.Turn(scaled, first)
	}
	told := lines > clearLines || first != 0
	if stands := imaging.Standing(scaled); told && math.Abs(stands) >= clearStanding {
		if stands < 0 {
			first += 180
		}
		return first % 360, nil
	}
	turn, sure, err := t.direction(ctx, scaled, quickly)
	if err == nil && (turn != 0 || sure < sureQuickly) {
		turn, sure, err = t.direction(ctx, scaled, thoroughly)
	}
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
	box := confine.Box{Work: work, Memory: maxMemory, Env: map[string]string{"OMP_THREAD_LIMIT": "1"}}
	return box.Run(ctx, maxReading, nil, "tesseract", arguments...)
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
