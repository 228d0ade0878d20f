package cleaning

import (
	"encoding/xml"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// word is a word processor's document with a body and other parts.
func word(t *testing.T, body string, parts ...[2]string) []byte {
	return zipped(t, append([][2]string{
		{"[Content_Types].xml", `<Types><Override PartName="/word/document.xml" ContentType=` +
			`"application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/></Types>`},
		{"word/document.xml", `<w:document xmlns:w="w"><w:body>` + body + `</w:body></w:document>`},
	}, parts...)...)
}

func cleaned(t *testing.T, kind string, data []byte, keep ...string) (map[string]string, *Log) {
	t.Helper()
	l := NewLog(keep)
	out, err := Clean(kind, data, kind, l)
	require.NoError(t, err)
	return partsOf(t, out), l
}

var tags = regexp.MustCompile(`<[^>]*>`)

func said(text string) string {
	return tags.ReplaceAllString(strings.ReplaceAll(text, "</w:p>", "|"), "")
}

func r(properties, text string) string {
	return "<w:r><w:rPr>" + properties + "</w:rPr><w:t>" + text + "</w:t></w:r>"
}

// ECMA-376 part 1, §§ 17.3.2.41 and 17.7.2: a property of a style holds for what is based on it, until that says other.
func TestTextThatAStyleHides(t *testing.T) {
	styles := [2]string{"word/styles.xml", `<w:styles>` +
		`<w:style w:styleId="Secret"><w:rPr><w:vanish/></w:rPr></w:style>` +
		`<w:style w:styleId="Deeper"><w:basedOn w:val="Secret"/><w:rPr><w:b/></w:rPr></w:style>` +
		`<w:style w:styleId="Shown"><w:basedOn w:val="Deeper"/><w:rPr><w:vanish w:val="false"/></w:rPr></w:style>` +
		`<w:style w:styleId="Round"><w:basedOn w:val="Round2"/></w:style><w:style w:styleId="Round2"><w:basedOn w:val="Round"/></w:style>` +
		`</w:styles>`}
	p := func(style, runs string) string {
		return `<w:p><w:pPr><w:pStyle w:val="` + style + `"/></w:pPr>` + runs + `</w:p>`
	}
	data := word(t, p("Normal", r("", "a")+r(`<w:rStyle w:val="Secret"/>`, "b")+r(`<w:rStyle w:val="Deeper"/>`, "c")+
		r(`<w:rStyle w:val="Shown"/>`, "d")+r(`<w:rStyle w:val="Secret"/><w:vanish w:val="0"/>`, "e")+r(`<w:rStyle w:val="Round"/>`, "f"))+
		p("Secret", r("", "g")+r(`<w:vanish w:val="off"/>`, "h")+r(`<w:rStyle w:val="Shown"/>`, "i"))+
		p("Unknown", r("", "j")), styles)
	parts, l := cleaned(t, "docx", data)
	assert.Equal(t, "adef|hi|j|", said(parts["word/document.xml"]))
	assert.Equal(t, 3, l.counts[HiddenText])
	kept, l := cleaned(t, "docx", data, HiddenText)
	assert.Equal(t, "abcdef|ghi|j|", said(kept["word/document.xml"]))
	assert.Zero(t, l.counts[HiddenText])
}

// § 17.16.18: complex fields; § 17.16.5.24: IF.
func TestFieldsThatShowOneOfTwoTexts(t *testing.T) {
	f := func(kind string) string { return `<w:r><w:fldChar w:fldCharType="` + kind + `"/></w:r>` }
	code := func(text string) string { return `<w:r><w:instrText>` + text + `</w:instrText></w:r>` }
	body := `<w:p>` + r("", "1 ") + f("begin") + code(` IF `) + f("begin") + code(` MERGEFIELD mark `) + f("separate") + r("", "17") + f("end") +
		code(` &gt; 9 "passed" "FAILED" `) + f("separate") + r("", "passed") + f("end") + r("", " 2 ") +
		f("begin") + code(` PAGE `) + f("separate") + r("", "3") + f("end") +
		`<w:fldSimple w:instr=' IF a = b "yes" "NO" '>` + r("", " yes") + `</w:fldSimple>` + f("begin") + code(` IF 1 = 1 "" "X" `) + f("end") + `</w:p>`
	parts, l := cleaned(t, "docx", word(t, body))
	text := parts["word/document.xml"]
	assert.Equal(t, "1 passed 2  PAGE 3 yes|", said(text))
	assert.Equal(t, 3, l.counts[HiddenText])
	assert.Equal(t, 3, strings.Count(text, "fldChar "), "the other field is whole")
	assert.NotContains(t, text, "FAILED")
}

// § 17.13.5.15: where the end of a paragraph was deleted, what follows goes on in it.
func TestParagraphsWhoseEndWasDeletedAreJoined(t *testing.T) {
	const ended = `<w:pPr><w:jc w:val="left"/><w:rPr><w:del w:id="1" w:author="Rui"/></w:rPr></w:pPr>`
	p := func(inside string) string { return `<w:p w:rsid="1">` + inside + `</w:p>` }
	one, two, three := r("", "One. "), r("", "Two. "), r("", "Three.")
	for name, c := range map[string]struct{ body, says string }{
		"two":                           {p(ended+one) + p(two) + p(three), "One. Two. |Three.|"},
		"three":                         {p(ended+one) + "\n" + p(ended+two) + p(`<w:pPr><w:jc w:val="right"/></w:pPr>`+three), "One. Two. Three.|"},
		"nothing left of it":            {p(ended+`<w:del w:id="2"><w:r><w:delText>Gone. </w:delText></w:r></w:del>`) + p(two), "Two. |"},
		"before a table":                {p(ended+one) + `<w:tbl><w:tr><w:tc>` + p(two) + `</w:tc></w:tr></w:tbl>`, "One. |Two. |"},
		"the last":                      {p(one) + p(ended+two), "One. |Two. |"},
		"into an empty one":             {p(ended+one) + `<w:p/>` + p(three), "One. |Three.|"},
		"into one with properties only": {p(ended+one) + `<w:p><w:pPr><w:b/></w:pPr></w:p>`, "One. |"},
		"within a cell":                 {`<w:tbl><w:tr><w:tc>` + p(ended+one) + p(two) + `</w:tc></w:tr></w:tbl>` + p(three), "One. Two. |Three.|"},
	} {
		t.Run(name, func(t *testing.T) {
			parts, l := cleaned(t, "docx", word(t, c.body))
			text := parts["word/document.xml"]
			assert.Equal(t, c.says, strings.ReplaceAll(said(text), "\n", ""))
			assert.NotContains(t, text, "w:del")
			assert.Positive(t, l.counts[TrackedChanges])
			_, err := edit([]byte(text), func(int, xml.StartElement, []string) fate { return keep })
			assert.NoError(t, err, "it is whole")
			kept, _ := cleaned(t, "docx", word(t, c.body), TrackedChanges, Author)
			assert.Contains(t, kept["word/document.xml"], c.body)
		})
	}
	joined, _ := cleaned(t, "docx", word(t, p(ended+one)+p(`<w:pPr><w:jc w:val="right"/></w:pPr>`+two)))
	assert.Contains(t, joined["word/document.xml"], `<w:p w:rsid="1"><w:pPr><w:jc w:val="right"/></w:pPr>`+one)
}

func TestSettingsTellOfNoMachines(t *testing.T) {
	parts, l := cleaned(t, "docx", word(t, "<w:p/>",
		[2]string{"word/settings.xml", `<w:settings><w:attachedTemplate r:id="r1"/><w:zoom/><w:mailMerge><w:dataSource r:id="r2"/></w:mailMerge>` +
			`<w:docVars><w:docVar w:name="owner" w:val="nerea"/></w:docVars><w:rsids><w:rsid w:val="1"/></w:rsids></w:settings>`},
		[2]string{"word/_rels/settings.xml.rels", `<Relationships><Relationship Id="r1" TargetMode="External" Target="file:///\\harbour-srv\t\x.dotx"/>` +
			`<Relationship Id="r2" TargetMode="External" Target="file:///C:/Users/nerea/m.csv"/></Relationships>`},
		[2]string{"customXml/item1.xml", `<p:properties xmlns:p="http://schemas.microsoft.com/office/2006/metadata/properties">harbour-srv</p:properties>`},
		[2]string{"customXml/item2.xml", `<b:Sources xmlns:b="http://schemas.openxmlformats.org/officeDocument/2006/bibliography">Kept</b:Sources>`},
	))
	assert.Equal(t, `<w:settings><w:zoom/></w:settings>`, parts["word/settings.xml"])
	assert.Contains(t, parts["customXml/item2.xml"], "Kept")
	for name, text := range parts {
		assert.NotContains(t, text, "harbour-srv", name)
		assert.NotContains(t, text, "nerea", name)
	}
	assert.Equal(t, 6, l.counts[Metadata])
	sheet := zipped(t,
		[2]string{"[Content_Types].xml", `<Types/>`},
		[2]string{"xl/workbook.xml", `<workbook><fileSharing userName="nerea"/><x15ac:absPath url="C:\Users\nerea\"/><sheets/></workbook>`},
		[2]string{"xl/worksheets/sheet1.xml", `<worksheet><sheetData/><pageSetup paperSize="9" r:id="rId1"/></worksheet>`},
		[2]string{"xl/worksheets/_rels/sheet1.xml.rels", `<Relationships><Relationship Id="rId1" Target="../printerSettings/printerSettings1.bin"/></Relationships>`},
		[2]string{"xl/printerSettings/printerSettings1.bin", `\\harbour-srv\printer`},
	)
	parts, _ = cleaned(t, "xlsx", sheet)
	assert.Equal(t, `<workbook><sheets/></workbook>`, parts["xl/workbook.xml"])
	assert.Contains(t, parts["xl/worksheets/sheet1.xml"], `<pageSetup paperSize="9"/>`)
	assert.NotContains(t, parts, "xl/printerSettings/printerSettings1.bin")
	assert.NotContains(t, parts["xl/worksheets/_rels/sheet1.xml.rels"], "printer")
}

// OpenDocument 1.2 part 1, §§ 5.4, 7.7.3 to 7.7.6, 20.400.
func TestOpenDocumentTextThatIsNotShown(t *testing.T) {
	file := func(body string) []byte {
		return zipped(t, [2]string{"mimetype", "application/vnd.oasis.opendocument.text"},
			[2]string{"styles.xml", `<styles><style:style style:name="Secret" style:family="text"><style:text-properties text:display="none"/></style:style></styles>`},
			[2]string{"content.xml", `<content><style:style style:name="T1" style:family="text" style:parent-style-name="Secret"/>` +
				`<style:style style:name="T2" style:family="text" style:parent-style-name="Secret"><style:text-properties text:display="true"/></style:style>` +
				`<style:style style:name="P1" style:family="paragraph"><style:text-properties text:display="none"/></style:style><body>` + body + `</body></content>`})
	}
	for name, c := range map[string]struct{ body, says string }{
		"a style":           {`<text:p>a<text:span text:style-name="Secret">b</text:span><text:span text:style-name="T1">c</text:span><text:span text:style-name="T2">d</text:span></text:p>`, "ad"},
		"a paragraph":       {`<text:p>a</text:p><text:p text:style-name="P1">b</text:p><text:h text:style-name="P1">c</text:h>`, "a"},
		"sections":          {`<text:section text:display="none"><text:p>b</text:p></text:section><text:section text:display="condition" text:condition="x" text:is-hidden="false"><text:p>a</text:p></text:section><text:section text:display="condition"><text:p>c</text:p></text:section>`, "a"},
		"conditional text":  {`<text:p><text:conditional-text text:condition="x" text:string-value-if-true="a" text:string-value-if-false="b">a</text:conditional-text></text:p>`, "a"},
		"hidden text":       {`<text:p>a<text:hidden-text text:string-value="b" text:is-hidden="true">b</text:hidden-text><text:hidden-text text:string-value="c" text:is-hidden="false">c</text:hidden-text></text:p>`, "ac"},
		"hidden paragraphs": {`<text:p>b<text:hidden-paragraph text:condition="x" text:is-hidden="true"/></text:p><text:p>a<text:hidden-paragraph text:is-hidden="false"/></text:p>`, "a"},
		"nothing is hidden": {`<text:p>a<text:span text:style-name="T9">b</text:span></text:p>`, "ab"},
	} {
		t.Run(name, func(t *testing.T) {
			parts, l := cleaned(t, "odt", file(c.body))
			assert.Equal(t, c.says, said(parts["content.xml"]))
			assert.NotContains(t, parts["content.xml"], "string-value")
			if name != "nothing is hidden" {
				assert.Positive(t, l.counts[HiddenText])
			}
			kept, _ := cleaned(t, "odt", file(c.body), HiddenText)
			assert.Contains(t, kept["content.xml"], c.body)
		})
	}
}

func TestWhatStaysTellsOfNoAuthor(t *testing.T) {
	const change = `<w:p><w:ins w:id="2" w:author="Rui Fão" w:date="2026-11-01T10:00:00Z"><w:r><w:t>In.</w:t></w:r></w:ins></w:p>`
	comments := [2]string{"word/comments.xml", `<w:comments><w:comment w:id="0" w:author="Rui Fão" w:initials="RF"><w:p/></w:comment></w:comments>`}
	people := [2]string{"word/people.xml", `<w15:people><w15:person w15:author="Rui Fão"><w15:presenceInfo w15:providerId="AD" w15:userId="rui@a.example"/></w15:person></w15:people>`}
	parts, l := cleaned(t, "docx", word(t, change, comments, people), TrackedChanges, Comments)
	assert.Contains(t, parts["word/document.xml"], `<w:ins w:id="2" w:author="Author"`)
	assert.Contains(t, parts["word/comments.xml"], `w:id="0" w:author="Author"`)
	for name, text := range parts {
		assert.NotContains(t, text, "Rui", name)
		assert.NotContains(t, text, "rui@", name)
	}
	assert.Positive(t, l.counts[Author])
	parts, _ = cleaned(t, "docx", word(t, change), TrackedChanges, Author)
	assert.Contains(t, parts["word/document.xml"], "Rui")
	parts, _ = cleaned(t, "odt", zipped(t, [2]string{"mimetype", "application/vnd.oasis.opendocument.text"},
		[2]string{"content.xml", `<c><text:p>a<office:annotation><dc:creator>Rui Fão</dc:creator><text:p>n</text:p></office:annotation>by <text:creator>Rui Fão</text:creator></text:p></c>`}), Comments)
	assert.Contains(t, parts["content.xml"], "<text:creator>Rui Fão</text:creator>", "a field whose words are seen")
	assert.Contains(t, parts["content.xml"], "<dc:creator>Author</dc:creator>")
}
