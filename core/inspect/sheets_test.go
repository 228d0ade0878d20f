package inspect

import (
	"archive/zip"
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func packed(t *testing.T, parts map[string]string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, name := range []string{"[Content_Types].xml"} {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write([]byte(`<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>`))
		require.NoError(t, err)
	}
	for name, text := range parts {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write([]byte(text))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

// Parts as ECMA-376 part 1 names and builds them: §§ 13.3.8, 21.1.2.3.11 (slides) and 18.3.1 (sheets).
func TestSlidesAndSheets(t *testing.T) {
	slides := packed(t, map[string]string{
		"ppt/slides/slide10.xml": `<p><a:t xmlns:a="x">last words</a:t></p>`,
		"ppt/slides/slide2.xml":  `<p><a:t xmlns:a="x">in between</a:t></p>`,
		"ppt/slides/slide1.xml":  `<p><a:t xmlns:a="x">first</a:t></p>`,
		"ppt/notes/note1.xml":    `<p><a:t xmlns:a="x">not shown</a:t></p>`,
		"docProps/core.xml":      `<c><creator>nerea</creator></c>`,
	})
	f := &Facts{Kind: "pptx", Problems: []Problem{}}
	f.look(slides)
	assert.Empty(t, f.Problems)
	assert.Equal(t, [2]int{3, 5}, [2]int{*f.Pages, *f.Words})
	assert.Equal(t, "nerea", *f.Author)
	text, err := Text("pptx", slides)
	require.NoError(t, err)
	assert.Equal(t, "first\nin between\nlast words\n", text)

	book := packed(t, map[string]string{
		"xl/worksheets/sheet1.xml": `<worksheet><dimension ref="A1:ZZ9"/><sheetData><row r="2"><c r="A2"><v>1</v></c>` +
			`<c r="AB2" t="inlineStr"><is><t>x</t></is></c></row><row r="7"><c r="B7"/></row></sheetData></worksheet>`,
		"xl/vbaProject.bin": "x",
	})
	f = &Facts{Kind: "xlsm", Problems: []Problem{}}
	f.look(book)
	assert.Equal(t, [2]int{2, 28}, [2]int{*f.Rows, *f.Columns}, "cells that hold something, not what the sheet claims")
	assert.True(t, *f.Macros)
	for _, broken := range [][]byte{nil, book[:40], packed(t, map[string]string{"xl/worksheets/sheet1.xml": "<a><b>"})} {
		f = &Facts{Kind: "xlsx", Problems: []Problem{}}
		f.look(broken)
		require.NotEmpty(t, f.Problems)
		assert.Equal(t, "damaged", f.Problems[0].Code)
	}
}
