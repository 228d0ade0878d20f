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

	nethtml "golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"orario/core/inspect"
)

// office's filters for what it writes.
var filters = map[string]string{
	"docx": "MS Word 2007 XML", "odt": "writer8", "rtf": "Rich Text Format", "pdf": "",
}

// makeDocument makes a document that can be written on of another.
func (t *Tools) makeDocument(ctx context.Context, m *Made, f inspect.Named, kind, form string, w Wishes) error {
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
	job, err := t.officeJobOf(ctx, f, kind, w)
	if err != nil {
		return fmt.Errorf("%s: %w", f.Name, err)
	}
	if kind == "md" && form == "docx" { // it is made already
		m.Data = job.data
		m.did("%s as .docx", f.Name)
		return nil
	}
	job.to, job.how = form, filters[form]
	if m.Data, err = t.byOffice(ctx, job); err != nil {
		return fmt.Errorf("%s: %w", f.Name, err)
	}
	m.did("%s as .%s", f.Name, form)
	return nil
}

// officeJobOf is what LibreOffice is given of a file: Markdown is set as a document, and what is text only is laid out
// as a page in UTF-8 first, since LibreOffice guesses at its encoding and its separators.
func (t *Tools) officeJobOf(ctx context.Context, f inspect.Named, kind string, w Wishes) (officeJob, error) {
	if !slices.Contains([]string{"md", "txt", "csv", "tsv", "html"}, kind) {
		return officeJob{name: "in." + kind, data: f.Data}, nil
	}
	page, err := inspect.Decoded(f.Data)
	if err != nil {
		return officeJob{}, err
	}
	switch kind {
	case "md":
		document, err := t.typeset(ctx, page, w.Page, w.picturesBeside(f, kind, page))
		return officeJob{name: "in.docx", data: document}, err
	case "html":
		page = unlinked(page, w.picturesBeside(f, kind, page))
	case "txt":
		page = linesPage(page)
	case "csv", "tsv":
		page, err = tablePage(page, inspect.Delimiter(page))
	}
	return officeJob{name: "in.html", data: []byte("\xef\xbb\xbf" + page), read: "HTML (StarWriter)"}, err
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

// unseen are elements whose text no reader sees.
var unseen = []atom.Atom{
	atom.Script, atom.Noscript, atom.Template, atom.Iframe, atom.Object, atom.Noembed, atom.Noframes,
}

// fetched are elements that only fetch something, or say how.
var fetched = []atom.Atom{atom.Link, atom.Frame, atom.Embed, atom.Base, atom.Meta}

// unlinked is a page without what it would fetch: pictures, frames, styles and scripts from elsewhere, and without
// what only browsers see. The pictures that are given beside it stay, and so do those that it carries in itself
// (data:).
func unlinked(page string, beside []inspect.Named) string {
	z := nethtml.NewTokenizer(strings.NewReader(page))
	var b strings.Builder
	var within atom.Atom // of the unseen, 0: of none
	for {
		kind := z.Next()
		if kind == nethtml.ErrorToken {
			return b.String()
		}
		raw := string(z.Raw())
		if kind != nethtml.StartTagToken && kind != nethtml.SelfClosingTagToken {
			ends := kind == nethtml.EndTagToken && within != 0 && z.Token().DataAtom == within
			if within == 0 {
				b.WriteString(raw)
			}
			if ends {
				within = 0
			}
			continue
		}
		token := z.Token()
		switch {
		case within != 0 || slices.Contains(fetched, token.DataAtom):
		case slices.Contains(unseen, token.DataAtom): // also where it is written as if it ended in itself
			within = token.DataAtom
		default:
			b.WriteString(unfetching(token, beside).String())
		}
	}
}

// unfetching is a tag without the attributes that something would be fetched for.
func unfetching(token nethtml.Token, beside []inspect.Named) nethtml.Token {
	for n, a := range token.Attr {
		if local, ok := below(a.Val); ok && a.Key == "src" && token.DataAtom == atom.Img {
			for _, f := range beside {
				if f.Name == local {
					token.Attr[n].Val = carried(f.Data)
				}
			}
		}
	}
	token.Attr = slices.DeleteFunc(token.Attr, func(a nethtml.Attribute) bool {
		fetches := slices.Contains([]string{"src", "srcset", "background", "data", "poster", "style"}, a.Key)
		return fetches && !strings.HasPrefix(strings.TrimSpace(a.Val), "data:image/") &&
			(a.Key != "style" || strings.Contains(strings.ToLower(a.Val), "url("))
	})
	return token
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
