package convert

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	pdftypes "github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"orario/core/imaging"
	"orario/core/inspect"
	"orario/core/wording"
	"orario/internal/confine"
)

// maxToolTime bounds a run of qpdf, ghostscript, ffmpeg or another of the tools beside LibreOffice.
const maxToolTime = 120 * time.Second

// makePDF makes one PDF of files, one behind the other.
func (t *Tools) makePDF(ctx context.Context, m *Made, files []inspect.Named, kinds []string, w Wishes) error {
	var pdfs [][]byte
	for i, f := range files {
		pdf, err := t.asPDF(ctx, m, f, kinds[i], w)
		if err != nil {
			return err
		}
		pdfs = append(pdfs, pdf)
	}
	pdf, err := pdfs[0], error(nil)
	if len(pdfs) > 1 || w.Pages != "" || w.Turn != 0 || len(w.Turns) > 0 {
		if pdf, err = t.arrange(ctx, pdfs, w); err != nil {
			return err
		}
		if len(pdfs) > 1 {
			m.did("%d files in one PDF", len(pdfs))
		}
		if w.Pages != "" {
			m.did("pages %s", w.Pages)
		}
		if w.Turn != 0 {
			m.did("turned by %d degrees", w.Turn)
		}
	}
	if w.PDFA {
		if pdf, err = t.ghostscript(ctx, pdf, archival...); err != nil {
			return err
		}
		m.did("as PDF/A-2b")
	}
	if w.MaxBytes > 0 && int64(len(pdf)) > w.MaxBytes {
		if pdf, err = t.smaller(ctx, m, pdf, w); err != nil {
			return err
		}
	}
	m.Data = pdf
	return nil
}

// asPDF makes a PDF of one file; one that is a PDF stays as it is.
func (t *Tools) asPDF(ctx context.Context, m *Made, f inspect.Named, kind string, w Wishes) (pdf []byte, err error) {
	switch sorts[kind] {
	case PDF:
		return f.Data, nil
	case Picture:
		pages, err := t.picturesOf(ctx, f, kind)
		if err != nil {
			return nil, err
		}
		m.did("%s on %s", f.Name, wording.Count(len(pages), "page", "pages"))
		return PicturePages(pages)
	case Document, Sheet:
		if pdf, err = t.laidOut(ctx, f, kind, w); err != nil {
			return nil, fmt.Errorf("%s: %w", f.Name, err)
		}
		m.did("%s laid out as PDF", f.Name)
		return pdf, nil
	}
	return nil, unfit(f, kind, "pdf")
}

// A PicturePage is a picture that fills a page. Width and height are in points; 0: of the picture's shape, as long as
// A4 is.
type PicturePage struct {
	JPEG          []byte
	Width, Height float64
}

// PicturePages makes a PDF of pictures, each filling its page. The pictures are not encoded anew.
func PicturePages(pages []PicturePage) ([]byte, error) {
	var singles []io.ReadSeeker
	for _, p := range pages {
		if p.Width == 0 {
			c, _, err := image.DecodeConfig(bytes.NewReader(p.JPEG))
			if err != nil {
				return nil, fmt.Errorf("a picture for a page: %w", err)
			}
			scale := imaging.A4.Height / float64(max(c.Width, c.Height))
			p.Width, p.Height = float64(c.Width)*scale, float64(c.Height)*scale
		}
		layout := pdfcpu.DefaultImportConfig()
		layout.PageDim, layout.UserDim = &pdftypes.Dim{Width: p.Width, Height: p.Height}, true
		layout.Pos, layout.Scale, layout.ScaleAbs = pdftypes.Center, 1, false
		var out bytes.Buffer
		if err := api.ImportImages(nil, &out, []io.Reader{bytes.NewReader(p.JPEG)}, layout, plainPDF()); err != nil {
			return nil, fmt.Errorf("a page for a picture: %w", err)
		}
		singles = append(singles, bytes.NewReader(out.Bytes()))
	}
	if len(singles) == 1 {
		return io.ReadAll(singles[0])
	}
	var out bytes.Buffer
	if err := api.MergeRaw(singles, &out, false, plainPDF()); err != nil {
		return nil, fmt.Errorf("putting pages together: %w", err)
	}
	return out.Bytes(), nil
}

func plainPDF() *model.Configuration {
	c := model.NewDefaultConfiguration()
	c.ValidationMode = model.ValidationRelaxed
	return c
}

// arrange puts the pages of PDFs one behind the other, as they are wished for.
func (t *Tools) arrange(ctx context.Context, pdfs [][]byte, w Wishes) ([]byte, error) {
	return t.inFolder(ctx, func(work string) ([]byte, error) {
		arguments := []string{"--warning-exit-0", "--empty", "--pages"}
		for i, pdf := range pdfs {
			name := fmt.Sprintf("in%d.pdf", i)
			if err := os.WriteFile(filepath.Join(work, name), pdf, 0o600); err != nil {
				return nil, err
			}
			arguments = append(arguments, name, "1-z")
		}
		if err := qpdf(ctx, work, append(arguments, "--", "all.pdf")...); err != nil {
			return nil, err
		}
		if w.Pages == "" && w.Turn == 0 && len(w.Turns) == 0 {
			return os.ReadFile(filepath.Join(work, "all.pdf"))
		}
		all, err := os.ReadFile(filepath.Join(work, "all.pdf"))
		if err != nil {
			return nil, err
		}
		count, err := api.PageCount(bytes.NewReader(all), plainPDF())
		if err != nil {
			return nil, fmt.Errorf("counting pages: %w", err)
		}
		pages := "1-z"
		if w.Pages != "" {
			if pages, err = PageList(w.Pages, count); err != nil {
				return nil, err
			}
		}
		arguments = []string{"--warning-exit-0", "all.pdf", "--pages", ".", pages, "--"}
		if w.Turn != 0 {
			arguments = append(arguments, fmt.Sprintf("--rotate=+%d:1-z", w.Turn))
		}
		turned, err := turns(w.Turns)
		if err != nil {
			return nil, err
		}
		arguments = append(arguments, turned...)
		if err := qpdf(ctx, work, append(arguments, "out.pdf")...); err != nil {
			return nil, err
		}
		return os.ReadFile(filepath.Join(work, "out.pdf"))
	})
}

// turns are qpdf's arguments for turning pages, one by one.
func turns(degrees []int) (arguments []string, err error) {
	by := map[int][]string{}
	for n, d := range degrees {
		if d%90 != 0 {
			return nil, errors.New("turn by 90, 180 or 270 degrees")
		}
		if d = (d%360 + 360) % 360; d != 0 {
			by[d] = append(by[d], strconv.Itoa(n+1))
		}
	}
	for _, d := range []int{90, 180, 270} {
		if len(by[d]) > 0 {
			arguments = append(arguments, fmt.Sprintf("--rotate=+%d:%s", d, strings.Join(by[d], ",")))
		}
	}
	return arguments, nil
}

// PageList reads a list of pages such as "2-4,7" of so many pages; the order stays, "5-3" goes backwards.
func PageList(text string, count int) (string, error) {
	var list []string
	for part := range strings.SplitSeq(strings.ReplaceAll(text, " ", ""), ",") {
		from, to, isRange := strings.Cut(part, "-")
		if !isRange {
			to = from
		}
		for _, n := range []string{from, to} {
			page, err := strconv.Atoi(n)
			if err != nil {
				return "", fmt.Errorf("the pages %q cannot be read; write them as 2-4,7", text)
			}
			if page < 1 || page > count {
				return "", fmt.Errorf("there is no page %d; there %s", page, thereAre(count))
			}
		}
		list = append(list, part)
	}
	return strings.Join(list, ","), nil
}

func thereAre(n int) string {
	if n == 1 {
		return "is 1 page"
	}
	return fmt.Sprintf("are %d pages", n)
}

func qpdf(ctx context.Context, work string, arguments ...string) error {
	_, err := confine.Box{Work: work, Memory: maxPDFMemory}.Run(ctx, maxToolTime, nil, "qpdf", arguments...)
	var exit *exec.ExitError
	if errors.As(err, &exit) {
		return fmt.Errorf("the PDF cannot be worked on: %s", lastLine(err.Error()))
	}
	return err
}

// archival are ghostscript's settings for PDF/A-2b.
var archival = []string{
	"-dPDFA=2", "-dPDFACompatibilityPolicy=1", "-sColorConversionStrategy=RGB", "-sProcessColorModel=DeviceRGB",
	"-dPDFSETTINGS=/prepress", "-dAutoRotatePages=/None",
}

// ghostscript writes a PDF anew.
func (t *Tools) ghostscript(ctx context.Context, pdf []byte, settings ...string) ([]byte, error) {
	return t.inFolder(ctx, func(work string) ([]byte, error) {
		if err := os.WriteFile(filepath.Join(work, "in.pdf"), pdf, 0o600); err != nil {
			return nil, err
		}
		arguments := append([]string{
			"-q", "-dSAFER", "-dBATCH", "-dNOPAUSE", "-sDEVICE=pdfwrite", "-dCompatibilityLevel=1.7",
			"-sOutputFile=out.pdf",
		}, settings...)
		if slices.Contains(settings, "-dPDFA=2") {
			if err := os.WriteFile(filepath.Join(work, "profile.ps"), []byte(profilePS), 0o600); err != nil {
				return nil, err
			}
			arguments = append(arguments, "--permit-file-read="+colourProfile, "profile.ps")
		}
		box := confine.Box{Work: work, Memory: maxMemory}
		_, err := box.Run(ctx, maxToolTime, nil, "gs", append(arguments, "in.pdf")...)
		if err != nil {
			return nil, fmt.Errorf("writing the PDF anew: %w", err)
		}
		return os.ReadFile(filepath.Join(work, "out.pdf"))
	})
}

// colourProfile is the sRGB profile that comes with ghostscript.
const colourProfile = "/usr/share/color/icc/ghostscript/srgb.icc"

// profilePS names the colours that a PDF/A is meant for (ISO 19005-2, 6.2.3).
const profilePS = `%!
[/_objdef {icc_PDFA} /type /stream /OBJ pdfmark
[{icc_PDFA} << /N 3 >> /PUT pdfmark
[{icc_PDFA} (` + colourProfile + `) (r) file /PUT pdfmark
[/_objdef {OutputIntent_PDFA} /type /dict /OBJ pdfmark
[{OutputIntent_PDFA} << /Type /OutputIntent /S /GTS_PDFA1 /DestOutputProfile {icc_PDFA}
  /OutputConditionIdentifier (sRGB) >> /PUT pdfmark
[{Catalog} << /OutputIntents [ {OutputIntent_PDFA} ] >> /PUT pdfmark
`

// smaller writes a PDF anew with pictures of ever fewer dots until it fits.
func (t *Tools) smaller(ctx context.Context, m *Made, pdf []byte, w Wishes) ([]byte, error) {
	least := int64(len(pdf))
	for _, dpi := range []int{300, 200, 150, 110, 80, 55, 36, 24, 16} {
		settings := []string{"-dPDFSETTINGS=/ebook", "-dAutoRotatePages=/None", "-dDetectDuplicateImages=true"}
		for _, kind := range []string{"Color", "Gray", "Mono"} {
			settings = append(settings, fmt.Sprintf("-d%sImageResolution=%d", kind, dpi),
				fmt.Sprintf("-dDownsample%sImages=true", kind), fmt.Sprintf("-d%sImageDownsampleThreshold=1.0", kind))
		}
		if w.PDFA {
			settings = append(settings, archival[:4]...)
		}
		made, err := t.ghostscript(ctx, pdf, settings...)
		if err != nil {
			return nil, err
		}
		if least = min(least, int64(len(made))); int64(len(made)) <= w.MaxBytes {
			m.did("made smaller, from %s to %s, pictures at %d dots per inch", wording.Bytes(int64(len(pdf))),
				wording.Bytes(int64(len(made))), dpi)
			return made, nil
		}
	}
	return nil, Over{least, w.MaxBytes}
}

// inFolder does something in a folder of its own, which is gone afterwards.
func (t *Tools) inFolder(ctx context.Context, do func(work string) ([]byte, error)) ([]byte, error) {
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	work, err := os.MkdirTemp(t.dir, "pdf-")
	if err != nil {
		return nil, fmt.Errorf("making a folder to work in: %w", err)
	}
	defer os.RemoveAll(work)
	return do(work)
}
