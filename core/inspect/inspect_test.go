package inspect

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"hash/crc32"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// pdfWith builds a PDF of the given page dictionaries (ISO 32000-1, annex H.2: the minimal file), with
// one standard font that is not embedded.
func pdfWith(pages ...string) []byte {
	var b bytes.Buffer
	var offsets []int
	object := func(body string) {
		offsets = append(offsets, b.Len())
		fmt.Fprintf(&b, "%d 0 obj\n%s\nendobj\n", len(offsets), body)
	}
	b.WriteString("%PDF-1.4\n")
	var kids []string
	for i := range pages {
		kids = append(kids, fmt.Sprintf("%d 0 R", i+4))
	}
	object("<</Type/Catalog/Pages 2 0 R/AcroForm<</Fields[<</FT/Tx/T(a)>><</FT/Tx/T(b)>>]>>>>")
	object(fmt.Sprintf("<</Type/Pages/Count %d/Kids[%s]/MediaBox[0 0 595 842]>>", len(pages), strings.Join(kids, " ")))
	object("<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>")
	for _, extra := range pages {
		object("<</Type/Page/Parent 2 0 R/Resources<</Font<</F1 3 0 R>>>>" + extra + ">>")
	}
	xref := b.Len()
	fmt.Fprintf(&b, "xref\n0 %d\n0000000000 65535 f \n", len(offsets)+1)
	for _, at := range offsets {
		fmt.Fprintf(&b, "%010d 00000 n \n", at)
	}
	fmt.Fprintf(&b, "trailer\n<</Size %d/Root 1 0 R>>\nstartxref\n%d\n%%%%EOF\n", len(offsets)+1, xref)
	return b.Bytes()
}

func TestPDF(t *testing.T) {
	f := File(
		"sheet.pdf",
		pdfWith(
			"",
			"/Rotate 90",
			"/CropBox[0 0 300 400]/UserUnit 2",
			"/Annots[<</Type/Annot/Subtype/Text/Rect[0 0 9 9]>><</Type/Annot/Subtype/Link/Rect[0 0 9 9]>>]",
		),
	)
	require.Empty(t, f.Problems)
	assert.Equal(t, "pdf", f.Kind)
	assert.Equal(t, 4, *f.Pages)
	assert.Equal(t, []Size{{595, 842, 2}, {842, 595, 1}, {600, 800, 1}}, f.PageSizes)
	assert.Equal(t, []string{"Helvetica"}, *f.FontsNotEmbedded)
	assert.Equal(t, 1, *f.Annotations)
	assert.Equal(t, 2, *f.FormFields)
	assert.Equal(t, "1.4", *f.Version)
	assert.False(t, *f.Encrypted)
	assert.Nil(t, f.Words, "not known without the pages' text")
	f.AddPageTexts([]string{"Tide tables 2026\n– –", "", "\f", "x"})
	assert.Equal(t, 4, *f.Words)
	assert.Equal(t, 0.5, *f.TextLayerShare)
}

func TestDamagedFilesAreToldNotFatal(t *testing.T) {
	whole := pdfWith("")
	for name, data := range map[string][]byte{
		"cut.pdf": whole[:len(whole)/2], "noise.pdf": []byte("%PDF-1.7\n" + strings.Repeat("<</A[", 2000)),
		"cut.docx": archiveOf(t, map[string]string{"[Content_Types].xml": "<Types/>", "word/document.xml": "<w:document><w:body>"}),
		"cut.png":  pictureOf(t)[:60],
	} {
		f := File(name, data)
		require.NotEmpty(t, f.Problems, name)
		assert.Contains(t, []string{"damaged", "truncated"}, f.Problems[0].Code, name)
	}
}

func archiveOf(t *testing.T, files map[string]string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, first := range []bool{true, false} { // a document's content types stand first
		for name, content := range files {
			if strings.HasPrefix(name, "[") == first {
				w, err := z.Create(name)
				require.NoError(t, err)
				_, err = w.Write([]byte(content))
				require.NoError(t, err)
			}
		}
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

const docxHead = `<?xml version="1.0"?><w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main" xmlns:mc="http://schemas.openxmlformats.org/markup-compatibility/2006"><w:body>`

func TestDOCX(t *testing.T) {
	data := archiveOf(t, map[string]string{
		"[Content_Types].xml": `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>`,
		"word/document.xml": docxHead + `<w:p><w:r><w:t>Two words</w:t></w:r></w:p>
			<w:p><w:ins><w:r><w:t>inserted one</w:t></w:r></w:ins><w:del><w:r><w:delText>gone for good</w:delText></w:r></w:del></w:p>
			<w:moveFrom><w:r><w:t>moved</w:t></w:r></w:moveFrom><w:moveTo><w:p><w:r><w:t>moved</w:t></w:r></w:p></w:moveTo>
			<mc:AlternateContent><mc:Choice><w:p><w:r><w:t>box</w:t></w:r></w:p></mc:Choice><mc:Fallback><w:p><w:r><w:t>box</w:t></w:r></w:p></mc:Fallback></mc:AlternateContent>
			<w:tbl><w:tr><w:tc><w:p><w:r><w:t>a</w:t></w:r></w:p></w:tc><w:tc><w:p><w:r><w:t>[Your name]</w:t></w:r></w:p></w:tc></w:tr></w:tbl></w:body></w:document>`,
		"word/comments.xml":            `<w:comments xmlns:w="w"><w:comment/><w:comment/></w:comments>`,
		"docProps/core.xml":            `<c xmlns:dc="d" xmlns:cp="p"><dc:creator>nerea</dc:creator><cp:lastModifiedBy>rui</cp:lastModifiedBy></c>`,
		"docProps/app.xml":             `<Properties><Company>Harbour Ltd</Company></Properties>`,
		"word/_rels/document.xml.rels": `<Relationships><Relationship TargetMode="External" Target="file:///home/n/data.xlsx"/><Relationship TargetMode="External" Target="https://example.org"/></Relationships>`,
	})
	f := File("report.DOCX", data)
	require.Empty(t, f.Problems)
	assert.Equal(t, "docx", f.Kind)
	assert.True(t, *f.ExtensionAgrees)
	assert.Equal(t, 9, *f.Words) // two words, inserted one, moved, box, a, Your name
	assert.Equal(t, 3, *f.TrackedChanges)
	assert.Equal(t, 2, *f.Comments)
	assert.Equal(t, "nerea", *f.Author)
	assert.Equal(t, []Trait{{"last editor", "rui"}, {"company", "Harbour Ltd"}}, *f.Personal)
	assert.Equal(t, []string{"[Your name]"}, *f.Placeholders)
	assert.Equal(t, []string{"file:///home/n/data.xlsx"}, *f.OutsideLinks)
	assert.False(t, *f.Macros)
	assert.False(t, *File("report.pdf", data).ExtensionAgrees, "the form is told by content")
}

func pictureOf(t *testing.T) []byte {
	p := image.NewGray(image.Rect(0, 0, 40, 30))
	for i := range p.Pix {
		if i/40%2 == 0 {
			p.Pix[i] = 255 // lines one pixel apart
		}
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, p))
	return b.Bytes()
}

func TestPictures(t *testing.T) {
	f := File("lines.png", pictureOf(t))
	assert.Equal(t, "png", f.Kind)
	assert.Equal(t, []int{40, 30, 1}, []int{*f.Width, *f.Height, *f.Orientation})
	assert.InDelta(t, 0.5, *f.Exposure, 0.01)
	// Worked by hand: on lines of 0 and 255 the Laplacian is ±510 in equal numbers, its variance 510².
	assert.InDelta(t, 510*510, *f.Sharpness, 1)

	var b bytes.Buffer
	flat := image.NewRGBA(image.Rect(0, 0, 20, 20))
	for i := range flat.Pix {
		flat.Pix[i] = 128
	}
	flat.Set(0, 0, color.White)
	require.NoError(t, jpeg.Encode(&b, flat, nil))
	// An EXIF block as CIPA DC-008 lays it out: orientation 6, and a GPS directory that is nowhere.
	exif := "\xff\xe1\x00\x2eExif\x00\x00MM\x00*\x00\x00\x00\x08\x00\x02" +
		"\x01\x12\x00\x03\x00\x00\x00\x01\x00\x06\x00\x00" + "\x88\x25\x00\x04\x00\x00\x00\x01\x00\x00\x00\x00" + "\x00\x00\x00\x00"
	data := append([]byte(b.String()[:2]+exif), b.Bytes()[2:]...)
	f = File("photo.jpg", data)
	assert.Equal(t, "jpeg", f.Kind)
	assert.Equal(t, 6, *f.Orientation)
	assert.False(t, *f.HasPosition)
	assert.Less(t, *f.Sharpness, 1000.0)
}

func TestWhereAPictureWasTaken(t *testing.T) {
	flat := image.NewRGBA(image.Rect(0, 0, 20, 20))
	var jpg, pic bytes.Buffer
	require.NoError(t, jpeg.Encode(&jpg, flat, nil))
	require.NoError(t, png.Encode(&pic, flat))
	// TIFF headers in both byte orders (TIFF 6.0): orientation 3, and a GPS IFD with a latitude (CIPA DC-008 §4.6.6).
	gps := "MM\x00*\x00\x00\x00\x08\x00\x02\x01\x12\x00\x03\x00\x00\x00\x01\x00\x03\x00\x00" +
		"\x88\x25\x00\x04\x00\x00\x00\x01\x00\x00\x00\x26\x00\x00\x00\x00"
	big := gps + "\x00\x01\x00\x02\x00\x05\x00\x00\x00\x03\x00\x00\x00\x38\x00\x00\x00\x00" +
		"\x00\x00\x00\x26\x00\x00\x00\x01\x00\x00\x00\x2a\x00\x00\x00\x01\x00\x00\x00\x00\x00\x00\x00\x01"
	version := gps + "\x00\x01\x00\x00\x00\x01\x00\x00\x00\x04\x02\x03\x00\x00\x00\x00\x00\x00"
	// Of the Exif directory the interoperability directory, whose tags 1 and 2 are no latitude (§4.6.7).
	interop := "MM\x00*\x00\x00\x00\x08\x00\x01\x87\x69\x00\x04\x00\x00\x00\x01\x00\x00\x00\x1a\x00\x00\x00\x00" +
		"\x00\x01\xa0\x05\x00\x04\x00\x00\x00\x01\x00\x00\x00\x2c\x00\x00\x00\x00" +
		"\x00\x02\x00\x01\x00\x02\x00\x00\x00\x04R98\x00\x00\x02\x00\x07\x00\x00\x00\x040100\x00\x00\x00\x00"
	turned := "II*\x00\x08\x00\x00\x00\x01\x00\x12\x01\x03\x00\x01\x00\x00\x00\x03\x00\x00\x00\x00\x00\x00\x00"
	inJPEG := func(segment string) []byte {
		head := string([]byte{0xff, 0xe1, byte((len(segment) + 2) >> 8), byte(len(segment) + 2)})
		return []byte(jpg.String()[:2] + head + segment + jpg.String()[2:])
	}
	inPNG := func(block string) []byte { // after the header's chunk (PNG, third edition, §11.3.4.5)
		length, sum := make([]byte, 4), make([]byte, 4)
		binary.BigEndian.PutUint32(length, uint32(len(block)))
		binary.BigEndian.PutUint32(sum, crc32.ChecksumIEEE([]byte("eXIf"+block)))
		return []byte(pic.String()[:33] + string(length) + "eXIf" + block + string(sum) + pic.String()[33:])
	}
	for name, c := range map[string]struct {
		file        string
		data        []byte
		orientation int
		position    bool
	}{
		"JPEG, a position":              {"a.jpg", inJPEG("Exif\x00\x00" + big), 3, true},
		"JPEG, only the version of GPS": {"a.jpg", inJPEG("Exif\x00\x00" + version), 3, false},
		"JPEG, interoperability":        {"a.jpg", inJPEG("Exif\x00\x00" + interop), 1, false},
		"JPEG, only turned":             {"a.jpg", inJPEG("Exif\x00\x00" + turned), 3, false},
		"JPEG, nothing":                 {"a.jpg", jpg.Bytes(), 1, false},
		"JPEG, a broken block":          {"a.jpg", inJPEG("Exif\x00\x00MM\x00*\xff\xff\xff\xff"), 1, false},
		"JPEG, an endless block":        {"a.jpg", inJPEG("Exif\x00\x00MM\x00*\x00\x00\x00\x08\xff\xff"), 1, false},
		"JPEG, a position in XMP":       {"a.jpg", inJPEG("http://ns.adobe.com/xap/1.0/\x00<x exif:GPSLatitude='38,42N'/>"), 1, true},
		"PNG, a position":               {"a.png", inPNG(big), 3, true},
		"PNG, nothing":                  {"a.png", pic.Bytes(), 1, false},
	} {
		t.Run(name, func(t *testing.T) {
			f := File(c.file, c.data)
			require.NotNil(t, f.HasPosition, "%+v", f.Problems)
			assert.Equal(t, []any{c.orientation, c.position}, []any{*f.Orientation, *f.HasPosition})
		})
	}
}

func TestTextsAndTables(t *testing.T) {
	f := File("a.txt", []byte("Maré alta\n– 12 h"))
	assert.Equal(t, []any{"txt", "utf-8", 4, false}, []any{f.Kind, *f.Encoding, *f.Words, *f.BOM})
	assert.Equal(t, "windows-1252", *File("b.txt", []byte("mar\xe9 \x93alta\x94")).Encoding)
	assert.Equal(t, "iso-8859-1", *File("c.txt", []byte("mar\xe9 alta, cheia de luz e de vento")).Encoding)
	f = File("d.csv", []byte("\xef\xbb\xbftime;height\n06:10;3,2\n12:25;0,8\n"))
	assert.Equal(t, []any{"csv", 3, 2, true}, []any{f.Kind, *f.Rows, *f.Columns, *f.BOM})
	// RFC 4180 §2, rules 5 to 7: quoted fields hold breaks and doubled quotes.
	f = File("e.csv", []byte("\"aaa\",\"b\r\nbb\",\"c\"\"cc\"\r\nzzz,yyy,xxx\r\n"))
	assert.Equal(t, []int{2, 3}, []int{*f.Rows, *f.Columns})
	f = File("f.csv", []byte("a,b\n1,2,3\n"))
	assert.Equal(t, "ragged", f.Problems[0].Code)
	assert.Equal(t, "empty", File("g.pdf", nil).Kind)
}

func TestArchives(t *testing.T) {
	f := File("h.zip", archiveOf(t, map[string]string{"a/b.txt": "x", "../up.txt": "y", "in.zip": "PK"}))
	assert.Equal(t, []int{3, 1, 1}, []int{*f.Entries, *f.Nested, *f.Escaping})
	assert.Equal(t, "unsafe_archive", f.Problems[0].Code)
	f = File("i.zip", archiveOf(t, map[string]string{"zeros": strings.Repeat("\x00", 4<<20)}))
	assert.Equal(t, "bomb", f.Problems[0].Code)
}

func TestFactsNotFoundOutAreLeftOut(t *testing.T) {
	text, err := json.Marshal(File("a.txt", []byte("word")))
	require.NoError(t, err)
	assert.Contains(t, string(text), `"words":1`)
	assert.Contains(t, string(text), `"problems":[]`)
	assert.NotContains(t, string(text), "pages")
}

func FuzzFile(f *testing.F) {
	f.Add("a.pdf", pdfWith(""))
	f.Add("a.csv", []byte("a,b\n\"c"))
	f.Add("a.docx", []byte("PK\x03\x04"))
	f.Fuzz(func(t *testing.T, name string, data []byte) {
		if facts := File(name, data); facts.Kind == "" || facts.Problems == nil {
			t.Fatal("no kind or no list of problems")
		}
	})
}

// Photographs of two makers, which ship with the reader of EXIF. Sizes: what libheif's heif-convert 1.15 writes of the one;
// it does not open the other, whose size is in its EXIF, too (PixelXDimension, PixelYDimension).
func TestHEIC(t *testing.T) {
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/bep/imagemeta").Output()
	require.NoError(t, err)
	for _, c := range []struct {
		name          string
		width, height int
		position      bool
	}{{"sony.heif", 4128, 6192, false}, {"iphone.heic", 5712, 4284, true}} {
		data, err := os.ReadFile(filepath.Join(strings.TrimSpace(string(dir)), "testdata", "images", c.name))
		require.NoError(t, err)
		f := File(c.name, data)
		assert.Equal(t, "heic", f.Kind, c.name)
		require.NotNil(t, f.Width, c.name)
		assert.Equal(t, []int{c.width, c.height, 1}, []int{*f.Width, *f.Height, *f.Orientation}, c.name)
		assert.Equal(t, c.position, *f.HasPosition, c.name)
		assert.Empty(t, f.Problems, c.name)
		cut := File(c.name, data[:100])
		assert.Equal(t, "damaged", cut.Problems[0].Code, c.name)
	}
}

// zipOf is a ZIP with these parts, in their order.
func zipOf(t *testing.T, parts ...[2]string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, p := range parts {
		w, err := z.Create(p[0])
		require.NoError(t, err)
		_, err = w.Write([]byte(p[1]))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

// The order of a package's parts is free (ECMA-376 part 2, § 10.2), and the main part tells what it is.
func TestAPackageIsKnownWhateverItsOrder(t *testing.T) {
	types := func(main string) [2]string {
		return [2]string{"[Content_Types].xml", `<Types><Override PartName="/x/main.xml" ContentType="` + main + `"/></Types>`}
	}
	const office = "application/vnd.openxmlformats-officedocument."
	for kind, parts := range map[string][][2]string{
		"docx": {{"docProps/app.xml", "<x/>"}, {"x/main.xml", "<w/>"}, types(office + "wordprocessingml.document.main+xml")},
		"docm": {{"x/main.xml", "<w/>"}, types("application/vnd.ms-word.document.macroEnabled.main+xml")},
		"xlsm": {types("application/vnd.ms-excel.sheet.macroEnabled.main+xml"), {"xl/workbook.xml", "<w/>"}},
		"xlsx": {{"customXml/item1.xml", "<x/>"}, types(office + "spreadsheetml.sheet.main+xml")},
		"pptx": {{"a.txt", "x"}, types(office + "presentationml.presentation.main+xml")},
		"odt":  {{"content.xml", "<x/>"}, {"mimetype", "application/vnd.oasis.opendocument.text\n"}},
		"zip":  {{"notes/document.xml", "<w/>"}, {"mimetype", "application/epub+zip"}, {"[Content_Types].xml", "<Types/>"}},
	} {
		assert.Equal(t, kind, Kind("a.bin", zipOf(t, parts...)))
	}
}

// RTF 1.9.1: destinations, \u with what stands for it, hidden text, and whose file it is.
func TestRTF(t *testing.T) {
	for name, c := range map[string]struct {
		rtf, text string
	}{
		"plain":           {`{\rtf1\ansi One two\par three}`, "One two\nthree"},
		"letters":         {`{\rtf1\ansi\ansicpg1252 Caf\'e9 \u8364?\u233\'e9 \uc2\u8211--\uc0\u233 x}`, "Café €é –éx"},
		"beyond":          {`{\rtf1 \u-10179?\u-8704?}`, "😀"},
		"another page":    {`{\rtf1\ansicpg1251 \'e0}`, "а"},
		"what is no text": {`{\rtf1{\fonttbl{\f0 Times;}}{\header Head}{\*\generator X;}{\pict 00ff}{\footnote Note}a{\*\shpinst{\shptxt box}}}`, "abox"},
		"hidden":          {`{\rtf1 a{\v b}\v c\v0 d{\deleted e}}`, "ad"},
		"fields":          {`{\rtf1 {\field{\*\fldinst PAGE}{\fldrslt 3}}}`, "3"},
		"a table":         {`{\rtf1\trowd a\cell b\cell\row}`, "a\tb\t\n"},
		"binary":          {`{\rtf1 a{\pict\bin4 }}}}}b}`, "ab"},
	} {
		text, err := Text("rtf", []byte(c.rtf))
		require.NoError(t, err, name)
		assert.Equal(t, c.text, text, name)
	}
	f := File("a.rtf", []byte(`{\rtf1{\info{\author Nerea Quintal}{\operator Rui}{\company Harbour}}Three whole words}`))
	assert.Equal(t, 3, *f.Words)
	assert.Equal(t, "Nerea Quintal", *f.Author)
	assert.Equal(t, []Trait{{"last editor", "Rui"}, {"company", "Harbour"}}, *f.Personal)
	for _, broken := range []string{`{\rtf1 a`, `{\rtf1 ` + strings.Repeat("{", 20_000), `{\rtf1 \'`, `{\rtf1\bin99999999999 `} {
		f := File("a.rtf", []byte(broken))
		assert.Equal(t, "truncated", f.Problems[0].Code, broken[:8])
	}
}

// OASIS OpenDocument 1.2 part 1, §§ 9.1.3 to 9.1.5; part 3, § 3.8.2.
func TestOpenDocumentTablesSlidesAndPasswords(t *testing.T) {
	file := func(kind, content, manifest string) *Facts {
		return File("a."+kind, zipOf(t, [2]string{"mimetype", kinds[kind].mediaType}, [2]string{"content.xml", content},
			[2]string{"META-INF/manifest.xml", manifest}, [2]string{"meta.xml", `<m xmlns:dc="d">` +
				`<meta:initial-creator>Nerea</meta:initial-creator><dc:creator>Rui</dc:creator></m>`}))
	}
	const cell, gap = `<c:table-cell o:value-type="float"/>`, `<c:table-cell c:number-columns-repeated="%d"/>`
	f := file("ods", `<b><c:table><c:table-row>`+cell+fmt.Sprintf(gap, 2)+cell+fmt.Sprintf(gap, 16000)+`</c:table-row>`+
		`<c:table-row c:number-rows-repeated="3">`+fmt.Sprintf(gap, 9)+`</c:table-row><c:table-row c:number-rows-repeated="2">`+cell+`</c:table-row>`+
		`<c:table-row c:number-rows-repeated="1048000">`+fmt.Sprintf(gap, 9)+`</c:table-row></c:table><c:table><c:table-row>`+
		strings.Repeat(cell, 50)+`</c:table-row></c:table></b>`, "<m/>")
	assert.Equal(t, []int{6, 4}, []int{*f.Rows, *f.Columns})
	assert.Equal(t, "Nerea", *f.Author)
	assert.False(t, *f.Macros)
	f = file("odp", `<b><d:page><t:p>One two</t:p><p:notes><t:p>said</t:p></p:notes></d:page><d:page><t:p>three</t:p></d:page></b>`, "<m/>")
	assert.Equal(t, []int{2, 3}, []int{*f.Pages, *f.Words})
	for _, kind := range []string{"odt", "ods", "odp"} {
		f = file(kind, "\x01\x02", `<m><file-entry full-path="content.xml"><encryption-data/></file-entry></m>`)
		require.Len(t, f.Problems, 1, kind)
		assert.Equal(t, "encrypted", f.Problems[0].Code)
		assert.True(t, *f.Encrypted && *f.PasswordNeeded)
	}
}

// [MS-OFFCRYPTO] § 2.3.4: both ways of encrypting a package store it as a stream of that name in a compound file.
func TestOfficeFilesBehindAPassword(t *testing.T) {
	name := ""
	for _, c := range "EncryptedPackage" {
		name += string(c) + "\x00"
	}
	data := []byte("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + strings.Repeat("\x00", 1024) + name + strings.Repeat("\x00", 512))
	for _, kind := range []string{"docx", "xlsx", "pptx"} {
		f := File("a."+kind, data)
		assert.Equal(t, kind, f.Kind)
		assert.Equal(t, "encrypted", f.Problems[0].Code)
		assert.True(t, *f.Encrypted && *f.PasswordNeeded)
	}
}

// Whose pictures are, as exiftool writes it into each of the three places.
func TestPicturesTellOfTheirAuthors(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, image.NewGray(image.Rect(0, 0, 8, 8)), nil))
	for _, c := range []struct{ tag, author string }{
		{"-EXIF:Artist=Nerea Exif", "Nerea Exif"}, {"-IPTC:By-line=Nerea Iptc", "Nerea Iptc"}, {"-XMP-dc:Creator=Nerea Xmp", "Nerea Xmp"}, {"-EXIF:Make=None", ""},
	} {
		path := filepath.Join(t.TempDir(), "a.jpg")
		require.NoError(t, os.WriteFile(path, b.Bytes(), 0o600))
		require.NoError(t, exec.Command("exiftool", "-q", "-overwrite_original", c.tag, "-EXIF:SerialNumber=SN1", path).Run())
		data, err := os.ReadFile(path)
		require.NoError(t, err)
		f := File("a.jpg", data)
		assert.Equal(t, c.author, *f.Author)
		assert.Equal(t, []Trait{{"serial number", "SN1"}}, *f.Personal)
	}
	bmp := append([]byte("BM\x64\x00\x00\x00\x00\x00\x00\x00\x36\x00\x00\x00\x28\x00\x00\x00\x21\x00\x00\x00\xea\xff\xff\xff\x01\x00\x04\x00"), make([]byte, 64)...)
	f := File("a.bmp", bmp)
	assert.Equal(t, []int{33, 22}, []int{*f.Width, *f.Height}, "from its top, with a palette")
	assert.Equal(t, "damaged", File("a.docx", nil).Problems[0].Code, "an empty file")
}
