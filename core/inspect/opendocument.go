package inspect

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"strconv"
	"strings"
)

// ods finds the used range of the first table (OASIS OpenDocument 1.2 part 1, § 9.1): rows up to the last cell that
// holds something, columns likewise. A repeated cell or row counts as often as it is.
func (f *Facts) ods(data []byte) {
	z, err := openZip(data)
	if err != nil {
		f.problem("damaged", "rows", "The workbook does not open: %v.", err)
		return
	}
	if f.openEncrypted(z) {
		return
	}
	content, err := part(z, "content.xml")
	if err != nil || content == nil {
		f.problem("damaged", "rows", "The tables of the workbook cannot be read.")
		return
	}
	t := &openTable{}
	if err := walk(content, t.enter, t.leave, func(string) {}); err != nil {
		f.problem("damaged", "rows", "The first table of the workbook breaks off.")
		return
	}
	f.Rows, f.Columns = &t.rows, &t.columns
	f.ofOpen(z)
}

// An openTable is the first table of a workbook.
type openTable struct {
	tables, rows, columns int
	row, times            int // of the row that is read, and how often it is repeated
	column                int
	holds                 bool // the row has a cell that holds something
}

func (t *openTable) enter(e xml.StartElement) bool {
	often := func(name string) int {
		n, err := strconv.Atoi(attribute(e, name))
		if err != nil || n < 1 {
			return 1
		}
		return min(n, 1<<24)
	}
	switch e.Name.Local {
	case "table":
		t.tables++
		return t.tables > 1
	case "table-row":
		t.times, t.column, t.holds = often("number-rows-repeated"), 0, false
	case "table-cell", "covered-table-cell":
		t.column += often("number-columns-repeated")
		if attribute(e, "value-type") != "" || attribute(e, "formula") != "" {
			t.holds, t.columns = true, max(t.columns, t.column)
		}
	}
	return false
}

func (t *openTable) leave(e xml.EndElement) {
	if e.Name.Local != "table-row" || t.tables != 1 {
		return
	}
	if t.row += t.times; t.holds {
		t.rows = t.row
	}
}

// odp counts the slides and the words on them.
func (f *Facts) odp(data []byte) {
	z, err := openZip(data)
	if err != nil {
		f.problem("damaged", "words", "The presentation does not open: %v.", err)
		return
	}
	if f.openEncrypted(z) {
		return
	}
	text, slides, err := odpText(z)
	if err != nil {
		f.problem("damaged", "words", "The presentation cannot be read: %v.", err)
		return
	}
	f.Pages, f.Words = &slides, ref(countWords(text))
	f.ofOpen(z)
}

func odpText(z *zip.Reader) (text string, slides int, err error) {
	content, err := part(z, "content.xml")
	if err != nil {
		return "", 0, err
	}
	var b strings.Builder
	in := 0
	err = walk(content, func(e xml.StartElement) bool {
		switch e.Name.Local {
		case "page":
			slides++
		case "p", "h":
			in++
		case "s", "tab", "line-break":
			b.WriteByte(' ')
		case "notes", "annotation":
			return true
		}
		return false
	}, func(e xml.EndElement) {
		if e.Name.Local == "p" || e.Name.Local == "h" {
			in--
			b.WriteByte('\n')
		}
	}, func(s string) {
		if in > 0 {
			b.WriteString(s)
		}
	})
	return b.String(), slides, err
}

// ofOpen adds who made an OpenDocument file, and whether it holds programs.
func (f *Facts) ofOpen(z *zip.Reader) {
	meta, _ := part(z, "meta.xml")
	f.people(first(meta, "initial-creator"), []Trait{{"last editor", first(meta, "creator")}})
	macros := false
	for _, entry := range z.File {
		macros = macros || strings.HasPrefix(entry.Name, "Basic/") && strings.HasSuffix(entry.Name, ".xml") ||
			strings.HasPrefix(entry.Name, "Scripts/")
	}
	f.Macros = &macros
}

// openEncrypted tells of an OpenDocument file whose parts are encrypted (part 3, § 3.8.2).
func (f *Facts) openEncrypted(z *zip.Reader) bool {
	manifest, _ := part(z, "META-INF/manifest.xml")
	if !bytes.Contains(manifest, []byte("encryption-data")) {
		return false
	}
	f.locked()
	return true
}

func (f *Facts) locked() {
	f.Encrypted, f.PasswordNeeded = ref(true), ref(true)
	f.problem("encrypted", "words", "It opens only with a password. Save it without one.")
}
