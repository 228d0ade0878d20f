package convert

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"

	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	pdftypes "github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"orario/core/cleaning"
	"orario/core/ink"
	"orario/core/inspect"
)

// Write makes a PDF of a PDF or picture that was written on: what was written becomes part of its pages, and so do the
// fields of its form, so that every reader shows the same. The sheet has a page for each page of the file.
func (t *Tools) Write(ctx context.Context, f inspect.Named, sheet ink.Sheet) ([]byte, error) {
	kind, err := t.usable(ctx, f, "written on")
	if err != nil {
		return nil, err
	}
	m := &Made{}
	pdf, err := t.asPDF(ctx, m, f, kind, Wishes{})
	if err != nil {
		return nil, err
	}
	doc, _, err := t.laidOpen(ctx, pdf)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", f.Name, err)
	}
	if doc.PageCount != len(sheet.Pages) {
		return nil, fmt.Errorf("%s has %d pages, and %d were written on; open it anew", f.Name, doc.PageCount,
			len(sheet.Pages))
	}
	if pdf, err = t.settled(ctx, doc, sheet.Filled); err != nil {
		return nil, err
	}
	if sheet.Empty() {
		return pdf, nil
	}
	over, err := sheet.Overlay()
	if err != nil {
		return nil, err
	}
	return t.inFolder(ctx, func(work string) ([]byte, error) {
		err := errors.Join(os.WriteFile(filepath.Join(work, "pages.pdf"), pdf, 0o600),
			os.WriteFile(filepath.Join(work, "ink.pdf"), over, 0o600))
		if err != nil {
			return nil, err
		}
		err = qpdf(ctx, work, "--warning-exit-0", "pages.pdf", "--overlay", "ink.pdf", "--", "out.pdf")
		if err != nil {
			return nil, err
		}
		return os.ReadFile(filepath.Join(work, "out.pdf"))
	})
}

// settled is a PDF whose form has become part of its pages, but for the fields that were filled anew.
func (t *Tools) settled(ctx context.Context, doc *model.Context, filled []string) ([]byte, error) {
	for _, field := range annotations(doc) {
		if !slices.Contains(filled, fieldName(doc, field)) {
			continue
		}
		field.Delete("AP")
		for above := field; above != nil; above, _ = doc.DereferenceDict(above["Parent"]) {
			above.Delete("V")
		}
	}
	var out bytes.Buffer
	if err := api.WriteContext(doc, &out); err != nil {
		return nil, fmt.Errorf("writing the PDF anew: %w", err)
	}
	keep := slices.DeleteFunc(slices.Clone(cleaning.Kinds), func(k string) bool { return k == cleaning.FormFields })
	return t.cleanPDF(ctx, out.Bytes(), cleaning.NewLog(keep))
}

// fieldName is a field's fully qualified name (ISO 32000-1, 12.7.3.2).
func fieldName(doc *model.Context, field pdftypes.Dict) (name string) {
	for depth := 0; field != nil && depth < 20; depth++ {
		if part, err := doc.DereferenceStringOrHexLiteral(field["T"], model.V10, nil); err == nil && part != "" {
			if name != "" {
				part += "." + name
			}
			name = part
		}
		above, err := doc.DereferenceDict(field["Parent"])
		if err != nil {
			break
		}
		field = above
	}
	return name
}
