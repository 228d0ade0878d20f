package convert

import (
	"cmp"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"html"
	"slices"
	"strings"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	goldhtml "github.com/yuin/goldmark/renderer/html"
	nethtml "golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"orario/core/inspect"
	"orario/core/wording"
)

// office's filters for what it writes.
var filters = map[string]string{
	"docx": "MS Word 2007 XML", "odt": "writer8", "rtf": "Rich Text Format", "pdf": "",
}

// makeDocument makes a document that can be written on of another.
func (t *Tools) makeDocument(ctx context.Context, m *Made, f inspect.Named, kind, form string) error {
	if kind == form {
		return fmt.Errorf("%s is of that form already", f.Name)
	}
	if form == "txt" {
		text, err := t.Text(ctx, kind, f.Data)
		if err != nil && slices.Contains([]string{"rtf", "doc"}, kind) {
			var odt []byte
			job := officeJob{name: "in." + kind, data: f.Data, to: "odt", how: "writer8"}
			if odt, err = t.byOffice(ctx, job); err == nil {
				text, err = t.Text(ctx, "odt", odt)
			}
		}
		m.Data = []byte(text)
		m.did("the text of %s", f.Name)
		return err
	}
	job, err := officeJobOf(kind, f.Data)
	if err != nil {
		return fmt.Errorf("%s: %w", f.Name, err)
	}
	job.to, job.how = form, filters[form]
	if m.Data, err = t.byOffice(ctx, job); err != nil {
		return fmt.Errorf("%s: %w", f.Name, err)
	}
	m.did("%s as .%s", f.Name, form)
	return nil
}

// officeJobOf is what LibreOffice is given of a file: what is text only is laid out as a page in UTF-8 first, since
// LibreOffice guesses at its encoding and its separators.
func officeJobOf(kind string, data []byte) (officeJob, error) {
	if !slices.Contains([]string{"md", "txt", "csv", "tsv", "html"}, kind) {
		return officeJob{name: "in." + kind, data: data}, nil
	}
	page, err := inspect.Decoded(data)
	if err != nil {
		return officeJob{}, err
	}
	switch kind {
	case "md":
		page, err = markdownPage(page)
	case "txt":
		page = linesPage(page)
	case "csv", "tsv":
		page, err = tablePage(page, inspect.Delimiter(page))
	}
	return officeJob{name: "in.html", data: []byte("\xef\xbb\xbf" + unlinked(page)), read: "HTML (StarWriter)"}, err
}

func markdownPage(text string) (string, error) {
	body, err := Markdown(text)
	return "<!doctype html><html><body>" + body + "</body></html>", err
}

// Bounds of Markdown, far above what anybody writes.
const (
	mostMarkdown = 2 << 20 // bytes
	deepest      = 20      // quotations within quotations
	mostUnclosed = 100     // links that begin and never end
)

// layable refuses Markdown that could not be laid out in good time.
func layable(text string) error {
	if len(text) > mostMarkdown {
		return fmt.Errorf("it has more than %s of Markdown; split it", wording.Bytes(mostMarkdown))
	}
	if open := strings.Count(text, "]("); open-strings.Count(text, ")") > mostUnclosed {
		return errors.New("too many links in it begin with [words]( and have no ) at their end; close them")
	}
	for line := range strings.Lines(text) {
		marks := 0
		for _, c := range line {
			if c == '>' {
				marks++
			} else if c != ' ' && c != '\t' {
				break
			}
		}
		if marks > deepest {
			return fmt.Errorf("quotations stand within each other more than %d deep; take some of the > away", deepest)
		}
	}
	return nil
}

// Markdown lays Markdown (CommonMark with GFM's extensions) out as HTML, without raw HTML in it, scripts or anything
// that would be fetched.
// What takes the time of the square of its length is refused.
func Markdown(text string) (string, error) {
	if err := layable(text); err != nil {
		return "", err
	}
	var b strings.Builder
	md := goldmark.New(goldmark.WithExtensions(extension.GFM), goldmark.WithRendererOptions(goldhtml.WithXHTML()))
	err := md.Convert([]byte(text), &b)
	return unlinked(b.String()), err
}

// linesPage keeps the lines of a text and the columns in it.
func linesPage(text string) string {
	var b strings.Builder
	b.WriteString("<!doctype html><html><body>")
	for line := range strings.SplitSeq(strings.ReplaceAll(text, "\r\n", "\n"), "\n") {
		line = html.EscapeString(strings.ReplaceAll(line, "\t", "    "))
		line = strings.ReplaceAll(line, "  ", "&nbsp; ")
		b.WriteString(`<p style="margin:0;font-family:'Liberation Mono',monospace;font-size:10pt">` +
			cmp.Or(line, "&nbsp;") + "</p>\n")
	}
	b.WriteString("</body></html>")
	return b.String()
}

// unlinked is a page without what it would fetch: pictures, frames, styles and scripts from elsewhere. What it carries
// in itself (data:) stays.
func unlinked(page string) string {
	z := nethtml.NewTokenizer(strings.NewReader(page))
	var b strings.Builder
	for {
		kind := z.Next()
		if kind == nethtml.ErrorToken {
			return b.String()
		}
		raw := string(z.Raw())
		if kind != nethtml.StartTagToken && kind != nethtml.SelfClosingTagToken {
			b.WriteString(raw)
			continue
		}
		token := z.Token()
		switch token.DataAtom {
		case atom.Link, atom.Script, atom.Iframe, atom.Frame, atom.Object, atom.Embed, atom.Base, atom.Meta:
			continue
		}
		token.Attr = slices.DeleteFunc(token.Attr, func(a nethtml.Attribute) bool {
			fetches := slices.Contains([]string{"src", "srcset", "background", "data", "poster", "style"}, a.Key)
			return fetches && !strings.HasPrefix(strings.TrimSpace(a.Val), "data:image/") &&
				(a.Key != "style" || strings.Contains(strings.ToLower(a.Val), "url("))
		})
		b.WriteString(token.String())
	}
}

func tablePage(text string, comma rune) (string, error) {
	r := csv.NewReader(strings.NewReader(text))
	r.Comma, r.FieldsPerRecord = comma, -1
	records, err := r.ReadAll()
	if err != nil {
		return "", fmt.Errorf("the table cannot be read: %w", err)
	}
	if len(records) == 0 {
		return "", errors.New("the table is empty")
	}
	var b strings.Builder
	b.WriteString(`<!doctype html><html><body><table border="1" cellspacing="0" cellpadding="3">`)
	for _, record := range records {
		b.WriteString("<tr>")
		for _, field := range record {
			b.WriteString("<td>" + html.EscapeString(field) + "</td>")
		}
		b.WriteString("</tr>\n")
	}
	b.WriteString("</table></body></html>")
	return b.String(), nil
}
