package convert

import (
	"archive/zip"
	"bytes"
	"context"
	"embed"
	"errors"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"text/template"

	"orario/core/inspect"
	"orario/core/wording"
	"orario/internal/confine"
)

// A Page is how Markdown is set. Zero values stand for the usual ones: a serif of 11.5 points, lines at 1.3 of their
// height, no heading.
type Page struct {
	Font    string  `json:"font,omitempty"`
	Size    float64 `json:"size,omitempty"`    // of its text, in points
	Spacing float64 `json:"spacing,omitempty"` // of its lines: 1.5, 2
	Title   string  `json:"title,omitempty"`   // of its heading, and what stands under it
	Course  string  `json:"course,omitempty"`
	Author  string  `json:"author,omitempty"`
}

// What is usual of a page, and the bounds of what can be wished for.
const (
	usualFont    = "Liberation Serif" // as wide as Times New Roman
	usualSize    = 11.5
	usualSpacing = 1.3

	leastSize, mostSize       = 6, 40 // points
	leastSpacing, mostSpacing = 0.8, 4
)

// Sound is a page with the usual where nothing, or nothing that can be set, is wished for.
func (p Page) Sound() Page {
	if strings.TrimSpace(p.Font) == "" {
		p.Font = usualFont
	}
	if !(p.Size >= leastSize && p.Size <= mostSize) {
		p.Size = usualSize
	}
	if !(p.Spacing >= leastSpacing && p.Spacing <= mostSpacing) {
		p.Spacing = usualSpacing
	}
	return p
}

// Half is so many times the size of the text, in half points.
func (p Page) Half(times float64) int { return int(math.Round(2 * p.Size * times)) }

// Line is the distance of its lines, in 240ths of their height (ECMA-376, 17.3.1.33).
func (p Page) Line() int { return int(math.Round(240 * p.Spacing)) }

// Running is what stands at the head of every page but the first.
func (p Page) Running() string {
	var said []string
	for _, s := range []string{p.Author, p.Course} {
		if s != "" {
			said = append(said, s)
		}
	}
	return strings.Join(said, " · ")
}

//go:embed page
var pageParts embed.FS

// parts of the document that says how a page is set, by the file that they are made of.
var parts = []struct{ name, of string }{
	{"[Content_Types].xml", "content_types.xml"}, {"_rels/.rels", "rels.xml"},
	{"word/document.xml", "document.xml"}, {"word/_rels/document.xml.rels", "document_rels.xml"},
	{"word/styles.xml", "styles.xml"}, {"word/footnotes.xml", "footnotes.xml"},
	{"word/header1.xml", "header.xml"}, {"word/footer1.xml", "footer.xml"},
}

var pageTemplates = template.Must(template.ParseFS(pageParts, "page/*.xml"))

// reference is a document without text whose styles say how a page is set.
func (p Page) reference() ([]byte, error) {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, part := range parts {
		w, err := z.Create(part.name)
		if err == nil {
			err = pageTemplates.ExecuteTemplate(w, part.of, p)
		}
		if err != nil {
			return nil, fmt.Errorf("the styles of a page: %w", err)
		}
	}
	err := z.Close()
	return out.Bytes(), err
}

// mostMarkdown bounds Markdown, in bytes: far above what anybody writes.
const mostMarkdown = 2 << 20

// typesetTime bounds the setting of a text.
var typesetTime = maxPDFTime

// Markdown as it is read: GitHub's, with footnotes and formulas between dollars.
const markdown = "gfm+footnotes+tex_math_dollars"

// typesetting reads Markdown, leaves out the pictures that may not be read, and only then sets what there is: pandoc
// fetches pictures before it filters.
const typesetting = `pandoc --from=` + markdown +
	` --to=json --lua-filter=pictures.lua "$@" in.md >in.json && ` +
	`pandoc --from=json --to=docx --reference-doc=reference.docx --output=out.docx in.json`

// typeset makes a DOCX of Markdown: formulas that can be edited, footnotes, tables with rules, the pictures that are
// given beside it, and no others.
func (t *Tools) typeset(ctx context.Context, text string, p Page, beside []inspect.Named) ([]byte, error) {
	if len(text) > mostMarkdown {
		return nil, fmt.Errorf("it has more than %s of Markdown; split it", wording.Bytes(mostMarkdown))
	}
	reference, err := p.Sound().reference()
	if err != nil {
		return nil, err
	}
	filter, err := pageParts.ReadFile("page/pictures.lua")
	if err != nil {
		return nil, err
	}
	return t.inFolder(ctx, func(work string) ([]byte, error) {
		files := append(slices.Clone(beside), // a picture cannot take the place of any of ours
			inspect.Named{Name: "in.md", Data: []byte(text)},
			inspect.Named{Name: "reference.docx", Data: reference},
			inspect.Named{Name: "pictures.lua", Data: filter})
		root, err := os.OpenRoot(work)
		if err != nil {
			return nil, err
		}
		defer root.Close()
		for _, f := range files {
			if err = root.MkdirAll(filepath.Dir(f.Name), 0o700); err == nil {
				err = root.WriteFile(f.Name, f.Data, 0o600)
			}
			if err != nil {
				return nil, fmt.Errorf("laying out Markdown: %w", err)
			}
		}
		args := []string{"-c", typesetting, "sh"}
		for key, value := range map[string]string{"title": p.Title, "subtitle": p.Course, "author": p.Author} {
			if value != "" {
				args = append(args, "--metadata="+key+"="+value)
			}
		}
		box := confine.Box{Work: work, Memory: maxPDFMemory}
		_, err = box.Run(ctx, typesetTime, nil, "sh", args...)
		var costly confine.Costly
		if errors.As(err, &costly) {
			return nil, errors.New("it took too long to lay it out; look for brackets, quotations or lists " +
				"that never end, or split it")
		}
		if err != nil {
			return nil, fmt.Errorf("laying out Markdown: %w", err)
		}
		return os.ReadFile(filepath.Join(work, "out.docx"))
	})
}
