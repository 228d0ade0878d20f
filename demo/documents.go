// Package demo is the invented scenario: a student, her courses, and what she has done so far. It lives
// through the past weeks by using Orario itself, so that nothing in the demo is made up by hand.
package demo

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"fmt"
	"math"
	"strings"
)

// DOCX writes a word processor's document (ECMA-376): the first paragraph is the title, "# " begins a
// heading, and a paragraph of the form "[+ text]" is an insertion that nobody has accepted yet.
func DOCX(author string, paragraphs ...string) []byte {
	var body strings.Builder
	for i, p := range paragraphs {
		size, bold := 24, ""
		switch {
		case i == 0:
			size, bold = 36, "<w:b/>"
		case strings.HasPrefix(p, "# "):
			p, size, bold = strings.TrimPrefix(p, "# "), 28, "<w:b/>"
		}
		before, after := "", ""
		if inner, ok := strings.CutPrefix(p, "[+ "); ok {
			p = strings.TrimSuffix(inner, "]")
			before, after = fmt.Sprintf(
				`<w:ins w:id="%d" w:author="%s" w:date="2026-11-20T10:00:00Z">`,
				i,
				escaped(author),
			), "</w:ins>"
		}
		fmt.Fprintf(
			&body,
			`<w:p><w:pPr><w:spacing w:after="160" w:line="300" w:lineRule="auto"/></w:pPr>%s<w:r><w:rPr>%s<w:sz w:val="%d"/></w:rPr><w:t xml:space="preserve">%s</w:t></w:r>%s</w:p>`,
			before,
			bold,
			size,
			escaped(p),
			after,
		)
	}
	return archive([][2]string{
		{
			"[Content_Types].xml",
			`<?xml version="1.0" encoding="UTF-8"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Override PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/><Override PartName="/docProps/core.xml" ContentType="application/vnd.openxmlformats-package.core-properties+xml"/></Types>`,
		},
		{
			"_rels/.rels",
			`<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="word/document.xml"/><Relationship Id="r2" Type="http://schemas.openxmlformats.org/package/2006/relationships/metadata/core-properties" Target="docProps/core.xml"/></Relationships>`,
		},
		{
			"docProps/core.xml",
			`<?xml version="1.0" encoding="UTF-8"?><cp:coreProperties xmlns:cp="http://schemas.openxmlformats.org/package/2006/metadata/core-properties" xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:creator>` + escaped(
				author,
			) + `</dc:creator></cp:coreProperties>`,
		},
		{
			"word/document.xml",
			`<?xml version="1.0" encoding="UTF-8"?><w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:body>` + body.String() + `<w:sectPr><w:pgSz w:w="11906" w:h="16838"/><w:pgMar w:top="1418" w:right="1418" w:bottom="1418" w:left="1418"/></w:sectPr></w:body></w:document>`,
		},
	})
}

func escaped(text string) string {
	var b bytes.Buffer
	_ = xml.EscapeText(&b, []byte(text)) // writing to memory does not fail
	return b.String()
}

func archive(parts [][2]string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, part := range parts {
		w, err := z.Create(part[0])
		if err == nil {
			_, err = w.Write([]byte(part[1]))
		}
		if err != nil {
			panic(err) // writing to memory does not fail
		}
	}
	if err := z.Close(); err != nil {
		panic(err)
	}
	return b.Bytes()
}

// tideReadings are heights of an invented gauge, from two tidal constituents (M2 of 12.42 h and S2 of
// 12 h), every hour for four days.
func tideReadings() []byte {
	var b strings.Builder
	b.WriteString("hour,height_m,predicted_m,difference_m\n")
	for h := range 96 {
		t := float64(h)
		predicted := 2.1 + 1.2*math.Cos(2*math.Pi*t/12.42) + 0.4*math.Cos(2*math.Pi*t/12)
		height := predicted + 0.05*math.Sin(t*1.7)
		fmt.Fprintf(&b, "%d,%.2f,%.2f,%.2f\n", h, height, predicted, height-predicted)
	}
	return []byte(b.String())
}
