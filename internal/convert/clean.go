package convert

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	pdftypes "github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"orario/core/cleaning"
	"orario/core/inspect"
)

// Clean takes out of a file what its readers are not meant to see, but for the kinds that are kept. extension is that
// of what comes out; another form than the file's is refused, but for one without macros of one that has them.
func (t *Tools) Clean(
	ctx context.Context, f inspect.Named, extension string, keep []string,
) ([]byte, []cleaning.Removed, error) {
	kind, err := t.usable(ctx, f, "cleaned")
	if err != nil {
		return nil, nil, err
	}
	to := strings.ToLower(extension)
	if form, known := forms[to]; known {
		to = form
	}
	l := cleaning.NewLog(keep)
	drops := kind == "docm" && to == "docx" || kind == "xlsm" && to == "xlsx"
	if to != kind && !drops {
		return nil, nil, fmt.Errorf("%s is of the kind %s, and cleaning does not make a .%s of it; convert it first",
			f.Name, kind, extension)
	}
	if drops && !l.Takes(cleaning.Macros) {
		return nil, nil, fmt.Errorf("a .%s holds no macros; name the result .%s to keep them", extension, kind)
	}
	var out []byte
	switch {
	case kind == "pdf":
		out, err = t.cleanPDF(ctx, f.Data, l)
	case slices.Contains(pictures, kind) || inspect.IsRecording(kind):
		out, err = t.cleanMedia(ctx, kind, f.Data, l)
	default:
		out, err = cleaning.Clean(kind, f.Data, to, l)
	}
	if err != nil {
		return nil, nil, fmt.Errorf("%s: %w", f.Name, err)
	}
	return out, l.Removed(), nil
}

// cleanPDF takes out with pdfcpu what a PDF tells beside its pages (ISO 32000-1), flattens its form with qpdf, and
// writes it anew, so that older revisions go.
func (t *Tools) cleanPDF(ctx context.Context, data []byte, l *cleaning.Log) ([]byte, error) {
	doc, root, err := t.laidOpen(ctx, data)
	if err != nil {
		return nil, err
	}
	if form, err := doc.DereferenceDict(root["AcroForm"]); err == nil && form != nil && l.Takes(cleaning.FormFields) &&
		lookless(doc) {
		form["NeedAppearances"] = pdftypes.Boolean(true)
		var out bytes.Buffer
		if err := api.WriteContext(doc, &out); err != nil {
			return nil, fmt.Errorf("writing the PDF anew: %w", err)
		}
		looks, err := t.rewritten(ctx, out.Bytes(), "--generate-appearances")
		if err != nil {
			return nil, err
		}
		if doc, root, err = t.laidOpen(ctx, looks); err != nil {
			return nil, err
		}
	}
	cleanInfo(doc, l)
	cleanCatalog(doc, root, l)
	for page := range doc.PageCount {
		d, _, _, err := doc.PageDict(page+1, false)
		if err != nil || d == nil {
			continue
		}
		fields, err := cleanPage(doc, d, l)
		if err != nil {
			return nil, fmt.Errorf("page %d: %w", page+1, err)
		}
		l.Took(cleaning.FormFields, fields, "")
	}
	if l.Takes(cleaning.FormFields) {
		root.Delete("AcroForm")
	}
	var out bytes.Buffer
	if err := api.WriteContext(doc, &out); err != nil {
		return nil, fmt.Errorf("writing the PDF anew: %w", err)
	}
	return t.rewritten(ctx, out.Bytes())
}

// laidOpen reads a PDF so that it can be changed and written. Objects in object streams (7.5.7) are taken out of them
// first, since pdfcpu writes those of them that it never looked at as nothing.
func (t *Tools) laidOpen(ctx context.Context, data []byte) (doc *model.Context, root pdftypes.Dict, err error) {
	if data, err = t.rewritten(ctx, data, "--object-streams=disable"); err != nil {
		return nil, nil, err
	}
	if doc, err = api.ReadContext(bytes.NewReader(data), plainPDF()); err != nil {
		return nil, nil, errors.New("the PDF does not open")
	}
	if err := doc.EnsurePageCount(); err != nil {
		return nil, nil, errors.New("the PDF's pages cannot be read")
	}
	if root, err = doc.Catalog(); err != nil {
		return nil, nil, errors.New("the PDF does not open")
	}
	return doc, root, nil
}

// annotations are those of all pages (12.5.2), as far as they can be read.
func annotations(doc *model.Context) (all []pdftypes.Dict) {
	for page := range doc.PageCount {
		d, _, _, err := doc.PageDict(page+1, false)
		if err != nil || d == nil {
			continue
		}
		list, err := doc.DereferenceArray(d["Annots"])
		if err != nil {
			continue
		}
		for _, entry := range list {
			if a, err := doc.DereferenceDict(entry); err == nil && a != nil {
				all = append(all, a)
			}
		}
	}
	return all
}

// lookless says whether a field has a value and no look of its own, so that a reader has to draw it.
func lookless(doc *model.Context) bool {
	return slices.ContainsFunc(annotations(doc), func(field pdftypes.Dict) bool {
		return field["AP"] == nil && field["V"] != nil
	})
}

// rewritten is a PDF as qpdf writes it anew.
func (t *Tools) rewritten(ctx context.Context, data []byte, arguments ...string) ([]byte, error) {
	return t.inFolder(ctx, func(work string) ([]byte, error) {
		if err := os.WriteFile(filepath.Join(work, "in.pdf"), data, 0o600); err != nil {
			return nil, err
		}
		arguments = append([]string{"--warning-exit-0"}, append(arguments, "in.pdf", "out.pdf")...)
		if err := qpdf(ctx, work, arguments...); err != nil {
			return nil, err
		}
		return os.ReadFile(filepath.Join(work, "out.pdf"))
	})
}

// cleanInfo cleans the information dictionary (14.3.3); the title stays.
func cleanInfo(doc *model.Context, l *cleaning.Log) {
	if doc.Info == nil {
		return
	}
	info, err := doc.DereferenceDict(*doc.Info)
	if err != nil || info == nil {
		return
	}
	for key := range info {
		kind := cleaning.Metadata
		switch key {
		case "Title", "Trapped":
			continue
		case "Author":
			kind = cleaning.Author
		}
		if !l.Takes(kind) {
			continue
		}
		text, err := doc.DereferenceStringOrHexLiteral(info[key], model.V10, nil)
		switch key {
		case "CreationDate", "ModDate", "Producer": // writing it anew sets them anew
		default:
			if err == nil && strings.TrimSpace(text) != "" {
				l.Took(kind, 1, key+": "+text)
			}
		}
		info.Delete(key)
	}
}

// cleanCatalog takes XMP (14.3.2), programs (12.6.4.16), files (7.11.4) and a form's programs out.
func cleanCatalog(doc *model.Context, root pdftypes.Dict, l *cleaning.Log) {
	if root["Metadata"] != nil && l.Takes(cleaning.Metadata) && l.Takes(cleaning.Author) {
		l.Took(cleaning.Metadata, 1, "XMP")
		root.Delete("Metadata")
	}
	if l.Takes(cleaning.Metadata) && root["PieceInfo"] != nil {
		l.Took(cleaning.Metadata, 1, "of programs")
		root.Delete("PieceInfo")
	}
	if l.Takes(cleaning.Macros) {
		for _, key := range []string{"OpenAction", "AA"} {
			if d, err := doc.DereferenceDict(root[key]); err == nil && d != nil && (key == "AA" || isScript(d)) {
				l.Took(cleaning.Macros, 1, "JavaScript")
				root.Delete(key)
			}
		}
	}
	names, err := doc.DereferenceDict(root["Names"])
	if err != nil || names == nil {
		return
	}
	if names["JavaScript"] != nil && l.Takes(cleaning.Macros) {
		l.Took(cleaning.Macros, 1, "JavaScript")
		names.Delete("JavaScript")
		delete(doc.Names, "JavaScript")
	}
	if names["EmbeddedFiles"] != nil && l.Takes(cleaning.Attachments) {
		l.Took(cleaning.Attachments, max(1, leaves(doc, names["EmbeddedFiles"], 0)), "")
		names.Delete("EmbeddedFiles")
		delete(doc.Names, "EmbeddedFiles")
	}
}

func isScript(d pdftypes.Dict) bool {
	s := d.NameEntry("S")
	return s != nil && *s == "JavaScript"
}

// leaves counts the entries of a name tree (7.9.6).
func leaves(doc *model.Context, node pdftypes.Object, depth int) (n int) {
	d, err := doc.DereferenceDict(node)
	if err != nil || d == nil || depth > 20 {
		return 0
	}
	if list, err := doc.DereferenceArray(d["Names"]); err == nil {
		n += len(list) / 2
	}
	if kids, err := doc.DereferenceArray(d["Kids"]); err == nil {
		for _, kid := range kids {
			n += leaves(doc, kid, depth+1)
		}
	}
	return n
}

// cleanPage takes the notes that hang on a page out, which are not drawn on it, and attached files; it counts the
// fields of the form. What is drawn (12.5.6: text on the page, lines, ink, stamps, highlights) stays, and so do
// links.
func cleanPage(doc *model.Context, page pdftypes.Dict, l *cleaning.Log) (fields int, err error) {
	list, err := doc.DereferenceArray(page["Annots"])
	if err == nil {
		var stays pdftypes.Array
		var drawn []pdftypes.Dict
		for _, entry := range list {
			d, err := doc.DereferenceDict(entry)
			if err != nil || d == nil || d.Subtype() == nil {
				continue
			}
			switch *d.Subtype() {
			case "Widget":
				if l.Takes(cleaning.FormFields) {
					fields++
					drawn = append(drawn, d)
					continue
				}
			case "Text", "Popup":
				if l.Takes(cleaning.Comments) {
					if *d.Subtype() == "Text" {
						text, _ := doc.DereferenceStringOrHexLiteral(d["Contents"], model.V10, nil)
						l.Took(cleaning.Comments, 1, text)
					}
					continue
				}
			case "FileAttachment":
				if l.Takes(cleaning.Attachments) {
					l.Took(cleaning.Attachments, 1, "")
					continue
				}
			default:
				cleanNote(doc, d, l)
			}
			if l.Takes(cleaning.Macros) {
				if a, err := doc.DereferenceDict(d["A"]); err == nil && a != nil && isScript(a) {
					l.Took(cleaning.Macros, 1, "JavaScript")
					d.Delete("A")
				}
				d.Delete("AA")
			}
			stays = append(stays, entry)
		}
		if err := drawOn(doc, page, drawn); err != nil {
			return 0, err
		}
		if len(stays) == 0 {
			page.Delete("Annots")
		} else {
			page["Annots"] = stays
		}
	}
	if l.Takes(cleaning.Macros) {
		page.Delete("AA")
	}
	if l.Takes(cleaning.Metadata) {
		page.Delete("Metadata")
		page.Delete("PieceInfo")
	}
	return fields, nil
}

// cleanNote takes the words that hang on something drawn, and who drew it.
func cleanNote(doc *model.Context, d pdftypes.Dict, l *cleaning.Log) {
	if *d.Subtype() == "Link" {
		return
	}
	if l.Takes(cleaning.Author) && d["T"] != nil {
		if who, err := doc.DereferenceStringOrHexLiteral(d["T"], model.V10, nil); err == nil && who != "" {
			l.Took(cleaning.Author, 1, who)
		}
		d.Delete("T")
	}
	if *d.Subtype() != "FreeText" && l.Takes(cleaning.Comments) && d["Contents"] != nil {
		if text, err := doc.DereferenceStringOrHexLiteral(d["Contents"], model.V10, nil); err == nil && text != "" {
			l.Took(cleaning.Comments, 1, text)
		}
		d.Delete("Contents")
		d.Delete("Popup")
	}
}
