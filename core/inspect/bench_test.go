package inspect

import (
	"archive/zip"
	"bytes"
	"strings"
	"testing"
)

// longDocument is a Word document of some 100 pages of 500 words.
func longDocument(t testing.TB) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	text := strings.Repeat("<w:p><w:r><w:t>"+strings.Repeat("The tide turns at the mole. ", 17)+"</w:t></w:r></w:p>", 500)
	for name, content := range map[string]string{
		"[Content_Types].xml": `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Override ` +
			`PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.` +
			`wordprocessingml.document.main+xml"/></Types>`,
		"word/document.xml": `<w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:body>` +
			text + `</w:body></w:document>`,
	} {
		to, err := z.Create(name)
		if err == nil {
			_, err = to.Write([]byte(content))
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func BenchmarkInspect(b *testing.B) {
	csv := []byte(strings.Repeat("10:15,3.21,a tide\n", 5000))
	pages := make([]string, 100)
	for name, data := range map[string][]byte{
		"pdf of 100 pages": pdfWith(pages...), "csv of 5000 rows": csv, "docx of 100 pages": longDocument(b),
	} {
		b.Run(name, func(b *testing.B) {
			b.SetBytes(int64(len(data)))
			for b.Loop() {
				File("file", data)
			}
		})
	}
}
