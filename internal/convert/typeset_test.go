package convert

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/inspect"
)

// unzipped are all parts of an Office or OpenDocument file, one behind the other, each behind its name.
func unzipped(t *testing.T, data []byte) string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	var all strings.Builder
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		text, err := io.ReadAll(r)
		require.NoError(t, err)
		all.WriteString("\n[" + f.Name + "]\n" + string(text))
	}
	return strings.ReplaceAll(all.String(), " />", "/>")
}

// holds says whether a long text has something in it, without printing the text.
func holds(t *testing.T, text, has string) {
	t.Helper()
	assert.True(t, strings.Contains(text, has), "%q is in it", has)
}

func holdsNot(t *testing.T, text, has string) {
	t.Helper()
	assert.False(t, strings.Contains(text, has), "%q is not in it", has)
}

const typed = `# Method

The height is $h = \frac{a}{b}$, as is told below.[^1]

$$\sum_{k=1}^{n} k$$

| Station | Height |
|---------|-------:|
| North   |   1.42 |

![The staff](figures/the%20staff.png)

Costs $5 and $6.

[^1]: Read at noon.
`

func TestMarkdownIsSetWithFormulasFootnotesTablesAndPictures(t *testing.T) {
	x := tools(t)
	w := Wishes{
		Page: Page{Title: "Tides & gauges", Course: "HYD 214", Author: "Nerea Quintal, 20418"},
		Beside: func(_ inspect.Named, path string) ([]byte, error) {
			if path == "figures/the staff.png" {
				return half(t), nil
			}
			return nil, errors.New("there is none")
		},
	}
	word := unzipped(t, makes(t, x, "docx", w, file("a.md", []byte(typed))).Data)
	for _, has := range []string{
		"<m:f>", "<m:nary>", // formulas that can be edited (ECMA-376, 22.1)
		"Read at noon", "<w:tbl>", "Tides &amp; gauges", "word/media/",
	} {
		holds(t, word, has)
	}
	holdsNot(t, word, "\\frac")
	open := unzipped(t, makes(t, x, "odt", w, file("a.md", []byte(typed))).Data)
	holds(t, open, "<mfrac>") // MathML
	holds(t, open, "[Pictures/")

	pdf := makes(t, x, "pdf", w, file("a.md", []byte(typed+"\n\n"+strings.Repeat("A long text.\n\n", 90)))).Data
	pages, err := x.PDFPages(context.Background(), pdf)
	require.NoError(t, err)
	require.Greater(t, len(pages), 1)
	assert.Contains(t, pages[0], "Tides & gauges")
	assert.Contains(t, pages[0], "Costs $5 and $6.")
	assert.NotContains(t, pages[0], "frac", "formulas are drawn")
	assert.Contains(t, pages[1], "Nerea Quintal, 20418 · HYD 214", "the running head")
	assert.Equal(t, "2", strings.TrimSpace(lastLine(pages[1])), "the page's number")
	assert.NotContains(t, pages[0], "·", "no running head on the first page")
}

func TestAPageIsSetAsIsAskedFor(t *testing.T) {
	x := tools(t)
	for name, c := range map[string]struct {
		page Page
		has  []string
	}{
		"as usual":    {Page{}, []string{`w:ascii="Liberation Serif"`, `<w:sz w:val="23"/>`, `w:line="312"`}},
		"as is asked": {Page{Font: "Arial", Size: 12, Spacing: 2}, []string{`w:ascii="Arial"`, `<w:sz w:val="24"/>`, `w:line="480"`}},
		"out of all bounds": {Page{Font: `"/><evil>`, Size: 900, Spacing: -1},
			[]string{`&quot;/&gt;&lt;evil&gt;`, `<w:sz w:val="23"/>`, `w:line="312"`}},
	} {
		t.Run(name, func(t *testing.T) {
			made, err := x.typeset(context.Background(), "Tides", c.page, nil)
			require.NoError(t, err)
			for _, has := range c.has {
				holds(t, unzipped(t, made), has)
			}
		})
	}
}

// Whatever a text refers to, only pictures below its own folder are asked for, and only those that were given are in it.
func TestATextReachesNoOtherFiles(t *testing.T) {
	x := tools(t)
	var asked []string
	w := Wishes{Beside: func(_ inspect.Named, path string) ([]byte, error) {
		asked = append(asked, path)
		if path == "text.png" {
			return []byte("root:x:0:0, which is no picture"), nil
		}
		return half(t), nil
	}}
	md := "Tides\n\n![a](/etc/passwd) ![b](../b.png) ![c](%2e%2e/c.png) ![d](file:///etc/hostname) ![e](https://a.example/e.png) " +
		"![f](sub/../../f.png) ![g](//a.example/g.png) ![h](text.png) ![i](C:\\\\i.png) ![j](ok.png) ![k][r]\n\n" +
		"[r]: <deep/k.png>\n\n<img src=\"/etc/passwd\">\n\n![l](/proc/self/environ) ![m](/box/in.md)\n"
	document := unzipped(t, makes(t, x, "docx", w, file("a.md", []byte(md))).Data)
	assert.Equal(t, []string{"text.png", "ok.png", "deep/k.png"}, asked)
	assert.Equal(t, 2, strings.Count(document, "<pic:pic"))
	for _, leak := range []string{"root:", "a.example", "HOME=", "pictures.lua"} {
		holdsNot(t, document, leak)
	}

	asked = nil
	html := `<p>Tides</p><img src="/etc/passwd"><img src="../b.png"><img src=" ok.png "><img src="https://a.example/c.png">` +
		`<script>var printed = 1</script><noscript>switch it on</noscript><template>later</template><p>End</p>` +
		`<script src="x.js"/>var printed = 2</script>` +
		`<img src="data:image/png;base64,iVBORw0KGgo="><style>p { color: red }</style>`
	page := unlinked(html, w.picturesBeside(file("a.html", nil), "html", html))
	assert.Equal(t, []string{"ok.png"}, asked)
	assert.Contains(t, page, `src="data:image/png;base64,`)
	assert.Contains(t, page, "<style>p { color: red }</style>")
	for _, leak := range []string{"printed", "switch it on", "later", "passwd", "../", "a.example"} {
		assert.NotContains(t, page, leak)
	}
	assert.Equal(t, 2, strings.Count(page, "<img src=\"data:"))
}
