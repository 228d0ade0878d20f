package convert

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"orario/core/imaging"
	"orario/core/inspect"
	"orario/internal/confine"
)

// read are the languages that text in pictures is read in: those of the packages that the setup installs.
const read = "eng+por+ita"

// Pages makes one PDF of photographs of pages, in their order: found, straightened, turned upright and cleaned, with
// the text that can be read in them laid under the picture, as the Workshop's scan does unless told otherwise.
func (t *Tools) Pages(ctx context.Context, photos []inspect.Named) ([]byte, error) {
	s, err := t.Scan(ctx, photos, ScanWishes{Strength: imaging.DefaultStrength, Text: read})
	if err != nil {
		return nil, err
	}
	return s.PDF, nil
}

// Searchable lays the text that can be read in a PDF's pages invisibly over them; what they show stays as it is.
func (t *Tools) Searchable(ctx context.Context, pdf []byte) ([]byte, error) {
	facts := inspect.File("in.pdf", pdf)
	if facts.Pages == nil {
		return nil, fmt.Errorf("the PDF cannot be opened")
	}
	pages := make([]PicturePage, *facts.Pages)
	_, err := t.inFolder(ctx, func(work string) ([]byte, error) {
		if err := os.WriteFile(filepath.Join(work, "in"), pdf, 0o600); err != nil {
			return nil, err
		}
		_, err := confine.Box{Work: work, Memory: maxPDFMemory}.Run(ctx, maxToolTime, nil,
			"pdftoppm", "-jpeg", "-r", "200", "-cropbox", "in", "page")
		if err != nil {
			return nil, fmt.Errorf("drawing the pages: %w", err)
		}
		// Their numbers are padded, so the names are in the pages' order.
		drawn, err := filepath.Glob(filepath.Join(work, "page-*.jpg"))
		if err != nil || len(drawn) != len(pages) {
			return nil, fmt.Errorf("drawing the pages: %d of %d came out", len(drawn), len(pages))
		}
		for i, path := range drawn {
			if pages[i].JPEG, err = os.ReadFile(path); err != nil {
				return nil, err
			}
		}
		return nil, nil
	})
	if err != nil {
		return nil, err
	}
	return t.withText(ctx, pdf, pages, read)
}

// Smaller makes a PDF or picture of so many bytes at the most; [Over] where it can't be.
func (t *Tools) Smaller(ctx context.Context, name, kind string, data []byte, most int64) ([]byte, error) {
	m, err := t.Make(ctx, []inspect.Named{{Name: name, Data: data}}, kind, Wishes{MaxBytes: most})
	if err != nil {
		return nil, err
	}
	return m.Data, nil
}
