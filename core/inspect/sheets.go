package inspect

import (
	"encoding/xml"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// slideName is where the slides of a presentation lie (ECMA-376 part 1, § 13.3.8).
var slideName = regexp.MustCompile(`^ppt/slides/slide(\d+)\.xml$`)

// pptxText is what stands on the slides, in the order of their names, and how many there are.
func pptxText(data []byte) (text string, slides int, err error) {
	z, err := openZip(data)
	if err != nil {
		return "", 0, fmt.Errorf("opening the presentation: %w", err)
	}
	type slide struct {
		n    int
		name string
	}
	var list []slide
	for _, f := range z.File {
		if m := slideName.FindStringSubmatch(f.Name); m != nil {
			n, _ := strconv.Atoi(m[1])
			list = append(list, slide{n, f.Name})
		}
	}
	slices.SortFunc(list, func(a, b slide) int { return a.n - b.n })
	var b strings.Builder
	for _, s := range list {
		content, err := part(z, s.name)
		if err != nil {
			return "", 0, err
		}
		in := false
		err = walk(content, func(e xml.StartElement) bool {
			in = in || e.Name.Local == "t"
			return e.Name.Local == "Fallback"
		}, func(e xml.EndElement) {
			switch e.Name.Local {
			case "t":
				in = false
			case "p":
				b.WriteByte('\n')
			case "tc":
				b.WriteByte('\t')
			}
		}, func(s string) {
			if in {
				b.WriteString(s)
			}
		})
		if err != nil {
			return "", 0, err
		}
		if b.Len() > mostXML {
			return "", 0, fmt.Errorf("the slides hold more than %d MB of text", mostXML>>20)
		}
	}
	return b.String(), len(list), nil
}

func (f *Facts) pptx(data []byte) {
	text, slides, err := pptxText(data)
	if err != nil {
		f.problem("damaged", "words", "The presentation does not open: %v.", err)
		return
	}
	f.Pages, f.Words = &slides, ref(countWords(text))
	f.ofOffice(data)
}

// ofOffice adds who made an Office document, and whether it holds macros.
func (f *Facts) ofOffice(data []byte) {
	z, err := openZip(data)
	if err != nil {
		return
	}
	core, _ := part(z, "docProps/core.xml")
	app, _ := part(z, "docProps/app.xml")
	f.people(first(core, "creator"), []Trait{
		{"last editor", first(core, "lastModifiedBy")},
		{"company", first(app, "Company")},
		{"manager", first(app, "Manager")},
	})
	macros := false
	for _, entry := range z.File {
		macros = macros || strings.HasSuffix(entry.Name, "vbaProject.bin")
	}
	f.Macros = &macros
}

var cellName = regexp.MustCompile(`^([A-Z]{1,3})(\d{1,7})$`)

// xlsx finds the used range of the first sheet (ECMA-376 part 1, § 18.3.1): rows up to the last cell that holds
// something, columns likewise.
func (f *Facts) xlsx(data []byte) {
	z, err := openZip(data)
	if err != nil {
		f.problem("damaged", "rows", "The workbook does not open: %v.", err)
		return
	}
	sheet, err := part(z, "xl/worksheets/sheet1.xml")
	if err != nil || sheet == nil {
		f.problem("damaged", "rows", "The first sheet of the workbook cannot be read.")
		return
	}
	rows, columns, cell, holds := 0, 0, "", false
	err = walk(sheet, func(e xml.StartElement) bool {
		switch e.Name.Local {
		case "c":
			cell, holds = attribute(e, "r"), false
		case "v", "is", "f":
			holds = true
		}
		return false
	}, func(e xml.EndElement) {
		if m := cellName.FindStringSubmatch(cell); e.Name.Local == "c" && holds && m != nil {
			n, _ := strconv.Atoi(m[2])
			column := 0
			for _, letter := range m[1] {
				column = column*26 + int(letter-'A') + 1
			}
			rows, columns = max(rows, n), max(columns, column)
		}
	}, func(string) {})
	if err != nil {
		f.problem("damaged", "rows", "The first sheet of the workbook breaks off.")
		return
	}
	f.Rows, f.Columns = &rows, &columns
	f.ofOffice(data)
}
