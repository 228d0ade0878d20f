package inspect

import (
	"errors"
	"fmt"
	"io"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// unread are the elements whose text no reader sees.
var unread = map[atom.Atom]bool{
	atom.Script: true, atom.Style: true, atom.Template: true, atom.Noscript: true, atom.Head: true, atom.Iframe: true,
	atom.Object: true, atom.Title: true, atom.Svg: true, atom.Math: true, atom.Datalist: true,
}

// ends are the elements that end a line; the others run on within it.
var ends = map[atom.Atom]bool{
	atom.P: true, atom.Div: true, atom.Br: true, atom.Li: true, atom.Tr: true, atom.Table: true, atom.Section: true,
	atom.H1: true, atom.H2: true, atom.H3: true, atom.H4: true, atom.H5: true, atom.H6: true, atom.Article: true,
	atom.Blockquote: true, atom.Pre: true, atom.Dt: true, atom.Dd: true, atom.Figcaption: true, atom.Hr: true,
	atom.Ul: true, atom.Ol: true, atom.Header: true, atom.Footer: true, atom.Caption: true, atom.Option: true,
}

// htmlText is the text that a reader of a page sees, one line per block. Time and memory are O(len(text)): the page is
// read token by token, however deep its elements lie in each other.
func htmlText(text string) (string, error) {
	z := html.NewTokenizer(strings.NewReader(text))
	var b strings.Builder
	var hidden atom.Atom // the element that is not read, while in it
	depth := 0
	for {
		switch z.Next() {
		case html.ErrorToken:
			if err := z.Err(); !errors.Is(err, io.EOF) {
				return "", fmt.Errorf("reading the page: %w", err)
			}
			return strings.TrimSpace(b.String()), nil
		case html.TextToken:
			if hidden == 0 {
				b.Write(z.Text())
			}
		case html.StartTagToken, html.SelfClosingTagToken:
			name, _ := z.TagName()
			tag := atom.Lookup(name)
			switch {
			case hidden != 0 && tag == hidden:
				depth++
			case hidden == 0 && unread[tag]:
				hidden, depth = tag, 1
			case hidden == atom.Head && tag == atom.Body: // a head that nobody closed
				hidden = 0
			case hidden == 0 && ends[tag]:
				b.WriteByte('\n')
			case hidden == 0 && (tag == atom.Td || tag == atom.Th):
				b.WriteByte('\t')
			}
		case html.EndTagToken:
			name, _ := z.TagName()
			tag := atom.Lookup(name)
			if hidden != 0 && tag == hidden {
				if depth--; depth == 0 {
					hidden = 0
				}
			} else if hidden == 0 && ends[tag] {
				b.WriteByte('\n')
			}
		}
	}
}
