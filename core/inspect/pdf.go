package inspect

import (
	"bytes"
	"regexp"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
)

func init() { model.ConfigPath = "disable" } // pdfcpu must not write a settings folder

var pdfVersion = regexp.MustCompile(`%PDF-(\d\.\d)`)

func (f *Facts) pdf(data []byte) {
	if m := pdfVersion.FindSubmatch(data[:min(len(data), 1024)]); m != nil {
		f.Version = ref(string(m[1]))
	}
	conf := model.NewDefaultConfiguration()
	conf.ValidationMode = model.ValidationRelaxed
	ctx, err := api.ReadContext(bytes.NewReader(data), conf)
	if err != nil {
		if strings.Contains(err.Error(), "password") {
			f.Encrypted, f.PasswordNeeded = ref(true), ref(true)
			f.problem("encrypted", "pages", "The PDF opens only with a password.")
			return
		}
		f.problem("damaged", "pages", "The PDF does not open: %v.", err)
		return
	}
	f.Encrypted, f.PasswordNeeded, f.Restricted = ref(ctx.E != nil), ref(false), ref(false)
	if ctx.E != nil {
		// Printing, changing, copying: bits 3, 4, 5 of the permissions (ISO 32000-1, table 22).
		*f.Restricted = ctx.E.P&(1<<2) == 0 || ctx.E.P&(1<<3) == 0 || ctx.E.P&(1<<4) == 0
	}
	if version := ctx.VersionString(); version != "" {
		f.Version = &version
	}
	tree := pageTree{ctx: ctx, seen: map[types.IndirectRef]bool{}}
	root, err := ctx.Catalog()
	if err != nil {
		f.problem("damaged", "pages", "The PDF's pages cannot be counted: %v.", err)
		return
	}
	annotations := 0
	tree.walk(root["Pages"], pageAttributes{}, 0, func(page types.Dict, of pageAttributes) {
		f.addPage(page, of)
		annotations += countAnnotations(ctx, page)
	})
	if tree.broken > 0 {
		f.problem("damaged", "page_sizes", "%d places of its page tree cannot be read.", tree.broken)
	}
	if tree.pages > mostPages {
		f.problem("too_large", "pages", "The PDF has over %d pages, so not all were looked at.", mostPages)
	}
	if tree.pages == 0 && tree.broken == 0 {
		f.problem("damaged", "pages", "The PDF has no page.")
	}
	f.Pages, f.Annotations = &tree.pages, &annotations
	f.Author = ref(pdfAuthor(ctx))
	f.FontsNotEmbedded = ref(fontsNotEmbedded(ctx))
	f.FormFields = ref(formFields(ctx))
}

// Cropped says whether a PDF has a page of which only a part is shown (ISO 32000-1, 14.11.2).
func (f *Facts) Cropped() bool { return f.cropped }

func (f *Facts) addPage(page types.Dict, of pageAttributes) {
	box := of.crop
	if box == nil {
		box = of.media
	}
	if box == nil {
		return
	}
	if of.crop != nil && of.media != nil {
		f.cropped = f.cropped || of.media.Width()-of.crop.Width() > 1 || of.media.Height()-of.crop.Height() > 1
	}
	unit := 1.0
	switch u := page["UserUnit"].(type) {
	case types.Float:
		unit = u.Value()
	case types.Integer:
		unit = float64(u.Value())
	}
	size := Size{Width: box.Width() * unit, Height: box.Height() * unit, Pages: 1}
	if of.rotate%180 != 0 {
		size.Width, size.Height = size.Height, size.Width
	}
	f.AddPageSize(size.Width, size.Height)
}

// AddPageSize counts a page of a size, in points as it is shown.
func (f *Facts) AddPageSize(width, height float64) {
	for i := range f.PageSizes {
		if f.PageSizes[i].Width == width && f.PageSizes[i].Height == height {
			f.PageSizes[i].Pages++
			return
		}
	}
	f.PageSizes = append(f.PageSizes, Size{Width: width, Height: height, Pages: 1})
}

// mostPages bounds how many pages are looked at.
const mostPages = 20_000

// pageAttributes are what pages inherit (ISO 32000-1, 7.7.3.4).
type pageAttributes struct {
	media, crop *types.Rectangle
	rotate      int
}

// A pageTree is walked by its nodes and not by the numbers that are written in it, which may be anything.
type pageTree struct {
	ctx    *model.Context
	seen   map[types.IndirectRef]bool
	pages  int
	broken int // nodes that are none, or that come round again
}

// deepest bounds how deep page trees are: those of real producers are a few levels deep.
const deepest = 200

func (t *pageTree) walk(node types.Object, of pageAttributes, depth int, visit func(types.Dict, pageAttributes)) {
	if t.pages > mostPages {
		return
	}
	if ref, ok := node.(types.IndirectRef); ok {
		if t.seen[ref] {
			t.broken++
			return
		}
		t.seen[ref] = true
	}
	d, err := t.ctx.DereferenceDict(node)
	if err != nil || d == nil || depth > deepest {
		t.broken++
		return
	}
	of = t.inherited(d, of)
	kids, inner := d.Find("Kids")
	if !inner {
		t.pages++
		visit(d, of)
		return
	}
	list, err := t.ctx.DereferenceArray(kids)
	if err != nil {
		t.broken++
		return
	}
	for _, kid := range list {
		t.walk(kid, of, depth+1, visit)
	}
}

func (t *pageTree) inherited(d types.Dict, of pageAttributes) pageAttributes {
	for key, into := range map[string]**types.Rectangle{"MediaBox": &of.media, "CropBox": &of.crop} {
		if list, err := t.ctx.DereferenceArray(d[key]); err == nil && len(list) == 4 {
			if box, err := t.ctx.RectForArray(list); err == nil {
				*into = box
			}
		}
	}
	if turn, err := t.ctx.DereferenceInteger(d["Rotate"]); err == nil && turn != nil {
		of.rotate = turn.Value()
	}
	return of
}

func pdfAuthor(ctx *model.Context) string {
	if ctx.Info == nil {
		return ""
	}
	info, err := ctx.DereferenceDict(*ctx.Info)
	if err != nil || info == nil || info["Author"] == nil {
		return ""
	}
	author, err := ctx.DereferenceStringOrHexLiteral(info["Author"], model.V10, nil)
	if err != nil {
		return ""
	}
	return strings.TrimSpace(author)
}

func countAnnotations(ctx *model.Context, page types.Dict) int {
	list, err := ctx.DereferenceArray(page["Annots"])
	if err != nil {
		return 0
	}
	n := 0
	for _, entry := range list {
		if d, err := ctx.DereferenceDict(entry); err == nil && d != nil {
			if subtype := d.Subtype(); subtype != nil &&
				!slices.Contains([]string{"Link", "Widget", "Popup"}, *subtype) {
				n++
			}
		}
	}
	return n
}

var subsetPrefix = regexp.MustCompile(`^[A-Z]{6}\+`)

func fontsNotEmbedded(ctx *model.Context) []string {
	names := []string{}
	for n, entry := range ctx.Table {
		if entry.Free || entry.Generation == nil {
			continue
		}
		// What stands in an object stream (ISO 32000-1, 7.5.7) is read when it is asked for.
		d, err := ctx.DereferenceDict(*types.NewIndirectRef(n, *entry.Generation))
		if err != nil || d == nil || d.Type() == nil || *d.Type() != "Font" || d.Subtype() == nil ||
			*d.Subtype() == "Type3" ||
			*d.Subtype() == "Type0" {
			continue
		}
		name, err := ctx.DereferenceName(d["BaseFont"], model.V10, nil)
		if err != nil {
			continue
		}
		embedded := false
		if descriptor, err := ctx.DereferenceDict(d["FontDescriptor"]); err == nil && descriptor != nil {
			for _, key := range []string{"FontFile", "FontFile2", "FontFile3"} {
				embedded = embedded || descriptor[key] != nil
			}
		}
		if plain := subsetPrefix.ReplaceAllString(string(name), ""); !embedded && !slices.Contains(names, plain) {
			names = append(names, plain)
		}
	}
	slices.Sort(names)
	return names
}

// formFields counts the terminal fields of the form (ISO 32000-1, 12.7.3.1).
func formFields(ctx *model.Context) int {
	catalog, err := ctx.Catalog()
	if err != nil {
		return 0
	}
	form, err := ctx.DereferenceDict(catalog["AcroForm"])
	if err != nil || form == nil {
		return 0
	}
	var count func(o types.Object, depth int) int
	count = func(o types.Object, depth int) int {
		fields, err := ctx.DereferenceArray(o)
		if err != nil || depth > 20 {
			return 0
		}
		n := 0
		for _, entry := range fields {
			d, err := ctx.DereferenceDict(entry)
			if err != nil || d == nil {
				continue
			}
			if d["Kids"] != nil && d["FT"] == nil {
				n += count(d["Kids"], depth+1)
			} else {
				n++
			}
		}
		return n
	}
	return count(form["Fields"], 0)
}

func ref[T any](v T) *T { return &v }
