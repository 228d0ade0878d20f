package cleaning

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"encoding/xml"
	"fmt"
	"image"
	gojpeg "image/jpeg"
	gopng "image/png"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/inspect"
)

func zipped(t *testing.T, parts ...[2]string) []byte {
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

// The elements are those of ECMA-376 part 1: §§ 17.13 (changes, comments), 17.3.2.41 (hidden), 17.5.2 (controls).
const body = `<w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:body>` +
	`<w:p><w:pPr><w:rPr><w:ins w:id="1" w:author="Rui"/></w:rPr></w:pPr><w:r><w:t>Stays. </w:t></w:r>` +
	`<w:ins w:id="2" w:author="Rui"><w:r><w:t>Inserted. </w:t></w:r></w:ins>` +
	`<w:del w:id="3" w:author="Rui"><w:r><w:delText>Deleted. </w:delText></w:r></w:del>` +
	`<w:moveFrom w:id="4"><w:r><w:t>Moved. </w:t></w:r></w:moveFrom><w:moveTo w:id="5"><w:r><w:t>Moved. </w:t></w:r></w:moveTo>` +
	`<w:r><w:rPr><w:b/><w:vanish/></w:rPr><w:t>Hidden.</w:t></w:r>` +
	`<w:r><w:rPr><w:vanish w:val="0"/><w:rPrChange w:id="6"><w:rPr/></w:rPrChange></w:rPr><w:t>Shown. </w:t></w:r>` +
	`<w:commentRangeStart w:id="0"/><w:r><w:t>Discussed.</w:t></w:r><w:commentRangeEnd w:id="0"/>` +
	`<w:r><w:commentReference w:id="0"/></w:r></w:p>` +
	`<w:sdt><w:sdtPr><w:dropDownList/></w:sdtPr><w:sdtContent><w:p><w:r><w:t>Chosen</w:t></w:r></w:p></w:sdtContent></w:sdt>` +
	`<w:sdt><w:sdtPr><w:docPartObj/></w:sdtPr><w:sdtContent><w:p><w:r><w:t>Contents</w:t></w:r></w:p></w:sdtContent></w:sdt>` +
	`</w:body></w:document>`

func wordFile(t *testing.T) []byte {
	return zipped(
		t,
		[2]string{
			"[Content_Types].xml",
			`<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">` +
				`<Default Extension="xml" ContentType="application/xml"/><Override PartName="/word/comments.xml" ContentType="c"/>` +
				`<Override PartName="/word/document.xml" ContentType="application/vnd.ms-word.document.macroEnabled.main+xml"/></Types>`,
		},
		[2]string{"word/document.xml", body},
		[2]string{"word/settings.xml", `<w:settings xmlns:w="w"><w:trackRevisions/><w:zoom/></w:settings>`},
		[2]string{"word/comments.xml", `<w:comments xmlns:w="w"><w:comment w:id="0"><w:p/></w:comment></w:comments>`},
		[2]string{"word/_rels/document.xml.rels", `<Relationships><Relationship Id="r1" Target="comments.xml"/>` +
			`<Relationship Id="r2" Target="settings.xml"/><Relationship Id="r3" TargetMode="External" Target="https://a.example/"/>` +
			`<Relationship Id="r4" Target="vbaProject.bin"/></Relationships>`},
		[2]string{"word/vbaProject.bin", "code"},
		[2]string{"word/embeddings/oleObject1.bin", "file"},
		[2]string{
			"docProps/core.xml",
			`<c xmlns:dc="d"><dc:title>Tides</dc:title><dc:creator>Nerea Quintal</dc:creator></c>`,
		},
		[2]string{"docProps/app.xml", `<Properties><Company>Harbour</Company><Pages>1</Pages></Properties>`},
		[2]string{"docProps/thumbnail.jpeg", "picture"},
	)
}

func partsOf(t *testing.T, data []byte) map[string]string {
	c, err := unpack(data)
	require.NoError(t, err)
	out := map[string]string{}
	for name, content := range c.parts {
		out[name] = string(content)
	}
	return out
}

func TestAWordFileIsCleaned(t *testing.T) {
	l := NewLog(nil)
	out, err := Clean("docm", wordFile(t), "docx", l)
	require.NoError(t, err)
	text, err := inspect.Text("docx", out)
	require.NoError(t, err)
	assert.Equal(t, "Stays. Inserted. Moved. Shown. Discussed.\nChosen\nContents\n", text)
	counts := map[string]int{}
	for _, r := range l.Removed() {
		counts[r.Kind] = r.Count
	}
	assert.Equal(t, map[string]int{
		TrackedChanges: 5, Comments: 1, Author: 1, HiddenText: 1, Macros: 1, Attachments: 1, FormFields: 1, Metadata: 2,
	}, counts)
	parts := partsOf(t, out)
	all := ""
	for name, content := range parts {
		all += name + content
	}
	for _, gone := range []string{"Rui", "comments", "vbaProject", "Nerea", "Harbour", "thumbnail", "trackRevisions", "macroEnabled", "oleObject"} {
		assert.NotContains(t, all, gone)
	}
	for _, stays := range []string{"Tides", "https://a.example/", "settings.xml", "docPartObj", "w:zoom", `w:val="0"`} {
		assert.Contains(t, all, stays)
	}
	again := NewLog(nil)
	twice, err := Clean("docx", out, "docx", again)
	require.NoError(t, err)
	assert.Empty(t, again.Removed(), "there is nothing left")
	assert.Equal(t, parts, partsOf(t, twice))
}

// ECMA-376 part 1: rPrChange (§ 17.13.5) holds the properties that a run had, txbxContent (§ 17.17.1) further runs.
func TestOnlyWhatIsHiddenNowGoes(t *testing.T) {
	const change = `<x:rPrChange><x:rPr><x:vanish/></x:rPr></x:rPrChange>`
	const box = `<x:pict><x:txbxContent><x:p>%s</x:p></x:txbxContent></x:pict>`
	const hidden = `<x:r><x:rPr><x:vanish x:val="true"/></x:rPr><x:t>Secret.</x:t></x:r>`
	const shown = `<x:r><x:t>Boxed. </x:t></x:r>`
	for name, c := range map[string]struct{ run, left, took string }{
		"it was hidden once":   {`<x:r><x:rPr>` + change + `</x:rPr><x:t>Seen. </x:t></x:r>`, "Seen. ", ""},
		"in a box":             {`<x:r>` + fmt.Sprintf(box, shown+hidden) + `</x:r>`, "Boxed. ", "Secret."},
		"around a box":         {`<x:r><x:rPr><x:vanish/></x:rPr>` + fmt.Sprintf(box, shown) + `</x:r>`, "", "Boxed."},
		"a run after a hidden": {hidden + shown, "Boxed. ", "Secret."},
	} {
		l := NewLog(nil)
		made, err := Clean("docx", zipped(t, [2]string{"word/document.xml",
			`<x:document xmlns:x="x"><x:body><x:p>` + c.run + shown + `</x:p></x:body></x:document>`}), "docx", l)
		require.NoError(t, err, name)
		text, err := inspect.Text("docx", made)
		require.NoError(t, err, name)
		assert.Equal(t, c.left+"Boxed. ", strings.ReplaceAll(text, "\n", ""), name)
		took := ""
		for _, r := range l.Removed() {
			if r.Kind == HiddenText {
				took = r.Detail
			}
		}
		assert.Equal(t, c.took, took, name)
	}
}

func TestWhatIsToStayStays(t *testing.T) {
	l := NewLog(Kinds)
	out, err := Clean("docm", wordFile(t), "docm", l)
	require.NoError(t, err)
	assert.Empty(t, l.Removed())
	assert.Equal(t, partsOf(t, wordFile(t))["word/document.xml"], partsOf(t, out)["word/document.xml"])
	assert.Contains(t, partsOf(t, out), "word/vbaProject.bin")
}

// OASIS OpenDocument 1.2 part 1: §§ 5.5 (changes), 14.1 (annotations), 4.3 (metadata).
func TestAnOpenDocumentIsCleaned(t *testing.T) {
	odt := zipped(
		t,
		[2]string{"mimetype", "application/vnd.oasis.opendocument.text"},
		[2]string{
			"content.xml",
			`<o:document-content xmlns:o="o" xmlns:text="t"><o:body><o:text><text:tracked-changes>` +
				`<text:changed-region><text:deletion><text:p>Gone.</text:p></text:deletion></text:changed-region></text:tracked-changes>` +
				`<text:p>Stays<text:change text:change-id="1"/><o:annotation><text:p>A note</text:p></o:annotation>.</text:p>` +
				`</o:text></o:body></o:document-content>`,
		},
		[2]string{"meta.xml", `<m><meta:initial-creator>Nerea</meta:initial-creator><dc:title>Tides</dc:title></m>`},
		[2]string{"Thumbnails/thumbnail.png", "x"},
		[2]string{
			"META-INF/manifest.xml",
			`<m><f:file-entry f:full-path="Thumbnails/thumbnail.png"/><f:file-entry f:full-path="content.xml"/></m>`,
		},
	)
	l := NewLog(nil)
	out, err := Clean("odt", odt, "odt", l)
	require.NoError(t, err)
	text, err := inspect.Text("odt", out)
	require.NoError(t, err)
	assert.Equal(t, "Stays.", strings.TrimSpace(text))
	parts := partsOf(t, out)
	assert.NotContains(t, parts["meta.xml"], "Nerea")
	assert.Contains(t, parts["meta.xml"], "Tides")
	assert.NotContains(t, parts["META-INF/manifest.xml"], "thumbnail")
	assert.Len(t, l.Removed(), 4)
}

// photo is a JPEG with EXIF (CIPA DC-008): orientation, camera, artist and a position.
func photo(t *testing.T, order binary.AppendByteOrder) []byte {
	var pixels bytes.Buffer
	require.NoError(t, gojpeg.Encode(&pixels, image.NewGray(image.Rect(0, 0, 20, 10)), nil))
	tiff := []byte("II*\x00")
	if order.String() == "BigEndian" {
		tiff = []byte("MM\x00*")
	}
	tiff = order.AppendUint32(tiff, 8)
	tiff = order.AppendUint16(tiff, 4)
	add := func(tag, form uint16, count, value uint32) {
		tiff = order.AppendUint32(order.AppendUint16(order.AppendUint16(tiff, tag), form), count)
		if form == 3 {
			tiff = order.AppendUint16(order.AppendUint16(tiff, uint16(value)), 0)
		} else {
			tiff = order.AppendUint32(tiff, value)
		}
	}
	add(0x0110, 2, 8, 62)
	add(0x0112, 3, 1, 6)
	add(0x013b, 2, 6, 70)
	add(0x8825, 4, 1, 76)
	tiff = append(order.AppendUint32(tiff, 0), "Bellow9\x00Nerea\x00"...)
	tiff = order.AppendUint16(tiff, 1)
	add(2, 5, 3, 94) // a latitude: degrees, minutes, seconds
	tiff = order.AppendUint32(tiff, 0)
	for _, n := range []uint32{38, 1, 42, 1, 0, 1} {
		tiff = order.AppendUint32(tiff, n)
	}
	exif := append([]byte("Exif\x00\x00"), tiff...)
	out := append([]byte{0xff, 0xd8, 0xff, 0xe1}, byte((len(exif)+2)>>8), byte(len(exif)+2))
	return append(append(append(out, exif...), 0xff, 0xfe, 0, 6, 'a', 'b', 'c', 'd'), pixels.Bytes()[2:]...)
}

func TestAPhotographTellsNoPlace(t *testing.T) {
	for _, order := range []binary.AppendByteOrder{binary.LittleEndian, binary.BigEndian} {
		from := photo(t, order)
		facts := inspect.File("a.jpg", from)
		require.True(t, *facts.HasPosition)
		require.Equal(t, 6, *facts.Orientation)
		l := NewLog(nil)
		out, err := Clean("jpeg", from, "jpeg", l)
		require.NoError(t, err)
		facts = inspect.File("a.jpg", out)
		assert.Empty(t, facts.Problems)
		assert.False(t, *facts.HasPosition)
		assert.Equal(t, 6, *facts.Orientation, "it is still seen upright")
		assert.Equal(
			t,
			[]string{Author, Position, Metadata},
			[]string{l.Removed()[0].Kind, l.Removed()[1].Kind, l.Removed()[2].Kind},
		)
		for _, gone := range []string{"Bellow9", "Nerea", "abcd"} {
			assert.NotContains(t, string(out), gone)
		}
		l = NewLog([]string{Metadata})
		out, err = Clean("jpeg", from, "jpeg", l)
		require.NoError(t, err)
		assert.Contains(t, string(out), "Bellow9")
		assert.NotContains(t, string(out), "Nerea")
		assert.False(t, *inspect.File("a.jpg", out).HasPosition)
		for cut := range len(from) - 2 {
			_, err := Clean("jpeg", from[:cut], "jpeg", NewLog(nil))
			_ = err // it may or may not be noticed, but nothing may panic
		}
	}
}

func TestAPNGTellsNoWords(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, gopng.Encode(&b, image.NewGray(image.Rect(0, 0, 4, 4))))
	word := append([]byte{0, 0, 0, 12}, "tEXtAuthor\x00Nerea\x00\x00\x00\x00"...)
	from := append(append(append([]byte{}, b.Bytes()[:33]...), word...), b.Bytes()[33:]...)
	l := NewLog(nil)
	out, err := Clean("png", from, "png", l)
	require.NoError(t, err)
	assert.Equal(t, b.Bytes(), out)
	assert.Equal(t, []Removed{{Author, 1, "Author"}}, l.Removed())
}

func FuzzClean(f *testing.F) {
	f.Add("jpeg", []byte("\xff\xd8\xff\xe1\x00\x10Exif\x00\x00II*\x00\x08\x00\x00\x00\xff\xda"))
	f.Add("png", []byte("\x89PNG\r\n\x1a\n"))
	f.Add("docx", []byte("PK\x03\x04"))
	f.Fuzz(func(_ *testing.T, kind string, data []byte) {
		_, _ = Clean(kind, data, kind, NewLog(nil))
		_, _ = Clean(kind, data, kind, NewLog([]string{Metadata}))
		_, _ = edit(data, func(_ int, e xml.StartElement, _ []string) fate { return fate(len(e.Attr) % 3) })
	})
}
