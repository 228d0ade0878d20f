package convert

import (
	"fmt"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	pdftypes "github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
)

// drawOn draws the looks of fields on their page, each from its box into its rectangle (12.5.5, algorithm 8).
func drawOn(doc *model.Context, page pdftypes.Dict, fields []pdftypes.Dict) error {
	var marks strings.Builder
	for n, d := range fields {
		look := lookOf(doc, d)
		rect, err := doc.RectForArray(arrayOf(doc, d["Rect"]))
		if look == nil || err != nil {
			continue // nothing is to be seen of it
		}
		stream, _, err := doc.DereferenceStreamDict(*look)
		if err != nil || stream == nil {
			continue
		}
		box, err := doc.RectForArray(arrayOf(doc, stream.Dict["BBox"]))
		if err != nil || box.Width() == 0 || box.Height() == 0 {
			continue
		}
		name := fmt.Sprintf("OrarioField%d", n)
		if err := addObject(doc, page, name, *look); err != nil {
			return err
		}
		sx, sy := rect.Width()/box.Width(), rect.Height()/box.Height()
		fmt.Fprintf(&marks, "q %.5f 0 0 %.5f %.5f %.5f cm /%s Do Q\n",
			sx, sy, rect.LL.X-box.LL.X*sx, rect.LL.Y-box.LL.Y*sy, name)
	}
	if marks.Len() == 0 {
		return nil
	}
	before, err := doc.NewStreamDictForBuf([]byte("q\n"))
	if err != nil {
		return err
	}
	behind, err := doc.NewStreamDictForBuf([]byte("\nQ\n" + marks.String()))
	if err != nil {
		return err
	}
	var contents pdftypes.Array
	for _, s := range []*pdftypes.StreamDict{before, behind} {
		if err := s.Encode(); err != nil {
			return err
		}
		ref, err := doc.IndRefForNewObject(*s)
		if err != nil {
			return err
		}
		contents = append(contents, *ref)
	}
	had := pdftypes.Array{page["Contents"]}
	if list, err := doc.DereferenceArray(page["Contents"]); err == nil && list != nil {
		had = list
	} else if page["Contents"] == nil {
		had = nil
	}
	page["Contents"] = append(append(pdftypes.Array{contents[0]}, had...), contents[1])
	return nil
}

func arrayOf(doc *model.Context, o pdftypes.Object) pdftypes.Array {
	list, err := doc.DereferenceArray(o)
	if err != nil || len(list) != 4 {
		return pdftypes.Array{}
	}
	return list
}

// lookOf is how an annotation looks now, by its state if it has several.
func lookOf(doc *model.Context, d pdftypes.Dict) *pdftypes.IndirectRef {
	looks, err := doc.DereferenceDict(d["AP"])
	if err != nil || looks == nil {
		return nil
	}
	if ref, ok := looks["N"].(pdftypes.IndirectRef); ok {
		if s, _, err := doc.DereferenceStreamDict(ref); err == nil && s != nil {
			return &ref
		}
	}
	states, err := doc.DereferenceDict(looks["N"])
	state := d.NameEntry("AS")
	if err != nil || states == nil || state == nil {
		return nil
	}
	if ref, ok := states[*state].(pdftypes.IndirectRef); ok {
		return &ref
	}
	return nil
}

// addObject puts a form object among a page's resources, which may be those of the pages above it.
func addObject(doc *model.Context, page pdftypes.Dict, name string, ref pdftypes.IndirectRef) error {
	resources, err := doc.DereferenceDict(page["Resources"])
	for above := page; err == nil && resources == nil && above != nil; {
		if above, err = doc.DereferenceDict(above["Parent"]); err == nil && above != nil {
			resources, err = doc.DereferenceDict(above["Resources"])
		}
	}
	if err != nil {
		return err
	}
	own := pdftypes.NewDict()
	for k, v := range resources {
		own[k] = v
	}
	objects, err := doc.DereferenceDict(own["XObject"])
	if err != nil {
		return err
	}
	mine := pdftypes.NewDict()
	for k, v := range objects {
		mine[k] = v
	}
	mine[name] = ref
	own["XObject"], page["Resources"] = mine, own
	return nil
}
