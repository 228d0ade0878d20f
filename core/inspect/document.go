package inspect

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"regexp"
	"strings"
)

// mostXML bounds what one part of a document may unpack to, so that a small file cannot fill memory.
const mostXML = 64 << 20

func openZip(data []byte) (*zip.Reader, error) {
	return zip.NewReader(bytes.NewReader(data), int64(len(data)))
}

// part reads one file of a document's archive; a part that is absent gives nil.
func part(z *zip.Reader, name string) ([]byte, error) {
	for _, file := range z.File {
		if file.Name != name {
			continue
		}
		r, err := file.Open()
		if err != nil {
			return nil, fmt.Errorf("reading %s: %w", name, err)
		}
		defer r.Close()
		data, err := io.ReadAll(io.LimitReader(r, mostXML+1))
		if err == nil && len(data) > mostXML {
			err = errors.New("it unpacks to over 64 MB")
		}
		if err != nil {
			return nil, fmt.Errorf("reading %s: %w", name, err)
		}
		return data, nil
	}
	return nil, nil
}

// A prose is what a word processor's document says, and what is still open in it.
type prose struct {
	text         strings.Builder
	tracked      int
	comments     int
	placeholders []string
}

// walk reads XML element by element; enter returns true to pass over an element with all it holds.
func walk(data []byte, enter func(xml.StartElement) bool, leave func(xml.EndElement), text func(string)) error {
	d := xml.NewDecoder(bytes.NewReader(data))
	for {
		token, err := d.Token()
		if err == io.EOF {
			return nil
		}
		if err != nil {
			return err
		}
		switch t := token.(type) {
		case xml.StartElement:
			if enter(t) {
				if err := d.Skip(); err != nil {
					return err
				}
			}
		case xml.EndElement:
			leave(t)
		case xml.CharData:
			text(string(t))
		}
	}
}

// readDOCX reads word/document.xml (ECMA-376 part 1, §17).
func readDOCX(data []byte) (*prose, error) {
	p := &prose{}
	inText, gap := 0, false
	err := walk(data, func(e xml.StartElement) bool {
		switch e.Name.Local {
		case "t":
			inText++
		case "tab", "br", "cr":
			p.text.WriteByte(' ')
		case "ins":
			p.tracked++
		case "del", "moveFrom":
			p.tracked++
			return true
		case "Fallback": // the same text box once more, for old readers
			return true
		case "showingPlcHdr":
			gap = true
		case "instrText", "delText":
			return true
		}
		return false
	}, func(e xml.EndElement) {
		switch e.Name.Local {
		case "t":
			inText--
		case "p":
			p.text.WriteByte('\n')
		case "tc":
			p.text.WriteByte(' ')
		}
	}, func(s string) {
		if inText > 0 {
			p.text.WriteString(s)
			if gap {
				p.placeholders, gap = append(p.placeholders, s), false
			}
		}
	})
	return p, err
}

// readODT reads content.xml (OASIS OpenDocument 1.2, part 1).
func readODT(data []byte) (*prose, error) {
	p := &prose{}
	inBody := false
	err := walk(data, func(e xml.StartElement) bool {
		switch e.Name.Local {
		case "body":
			inBody = true
		case "tracked-changes":
			p.tracked += bytes.Count(data, []byte("<text:changed-region"))
			return true
		case "annotation":
			p.comments++
			return true
		case "s", "tab", "line-break":
			p.text.WriteByte(' ')
		}
		return false
	}, func(e xml.EndElement) {
		switch e.Name.Local {
		case "p", "h":
			p.text.WriteByte('\n')
		}
	}, func(s string) {
		if inBody {
			p.text.WriteString(s)
		}
	})
	return p, err
}

// gaps are what templates leave for the author to fill: common practice.
var gaps = regexp.MustCompile(
	`(?i)\[(your|insert|enter|type|add|title|author|name|date|student)[^\]\n]{0,40}\]|<(your|insert` +
		`|enter)[^>\n]{0,40}>|lorem ipsum|click (or tap )?here to enter text|\bXX+\b|\bTBD\b`,
)

// Text is the prose of a document that can be read without an outside program: docx, docm, odt, HTML and
// plain texts. The kind is one of [Facts.Kind].
func Text(kind string, data []byte) (string, error) {
	var p *prose
	var err error
	switch kind {
	case "docx", "docm":
		p, err = readPart(data, "word/document.xml", readDOCX)
	case "odt":
		p, err = readPart(data, "content.xml", readODT)
	case "pptx":
		text, _, err := pptxText(data)
		return text, err
	case "odp":
		z, err := openZip(data)
		if err != nil {
			return "", fmt.Errorf("opening the presentation: %w", err)
		}
		text, _, err := odpText(z)
		return text, err
	case "rtf":
		r, err := readRTF(data)
		if err != nil {
			return "", err
		}
		return r.text.String(), nil
	case "txt", "md", "csv", "tsv":
		text, _, _, err := decode(data)
		return text, err
	case "html":
		text, _, _, err := decode(data)
		if err != nil {
			return "", err
		}
		return htmlText(text)
	default:
		return "", fmt.Errorf("no text can be read out of a file of kind %s", kind)
	}
	if err != nil {
		return "", err
	}
	return p.text.String(), nil
}

func readPart(data []byte, name string, read func([]byte) (*prose, error)) (*prose, error) {
	z, err := openZip(data)
	if err != nil {
		return nil, fmt.Errorf("opening the document: %w", err)
	}
	content, err := part(z, name)
	if err != nil {
		return nil, err
	}
	if content == nil {
		return nil, fmt.Errorf("the document lacks %s", name)
	}
	return read(content)
}

func (f *Facts) docx(data []byte) {
	p, err := readPart(data, "word/document.xml", readDOCX)
	if err != nil {
		f.problem("damaged", "words", "The document does not open: %v.", err)
		return
	}
	z, _ := openZip(data)
	if comments, err := part(z, "word/comments.xml"); err == nil {
		p.comments = len(elements(comments, "comment"))
	}
	f.prose(p)
	f.Macros = ref(f.Kind == "docm")
	core, _ := part(z, "docProps/core.xml")
	app, _ := part(z, "docProps/app.xml")
	f.people(first(core, "creator"), []Trait{
		{
			"last editor",
			first(core, "lastModifiedBy"),
		},
		{"company", first(app, "Company")},
		{"manager", first(app, "Manager")},
	})
	rels, _ := part(z, "word/_rels/document.xml.rels")
	links := []string{}
	walkQuietly(rels, func(e xml.StartElement) {
		if e.Name.Local == "Relationship" && attribute(e, "TargetMode") == "External" {
			if target := attribute(e, "Target"); !webAddress.MatchString(target) {
				links = append(links, target)
			}
		}
	})
	f.OutsideLinks = &links
}

var webAddress = regexp.MustCompile(`(?i)^(https?|mailto|doi|tel):`)

func (f *Facts) odt(data []byte) {
	if z, err := openZip(data); err == nil && f.openEncrypted(z) {
		return
	}
	p, err := readPart(data, "content.xml", readODT)
	if err != nil {
		f.problem("damaged", "words", "The document does not open: %v.", err)
		return
	}
	f.prose(p)
	z, _ := openZip(data)
	f.ofOpen(z)
}

func (f *Facts) prose(p *prose) {
	text := p.text.String()
	f.Words, f.TrackedChanges, f.Comments = ref(countWords(text)), &p.tracked, &p.comments
	found := append([]string{}, p.placeholders...)
	found = append(found, gaps.FindAllString(text, -1)...)
	f.Placeholders = &found
}

func (f *Facts) people(author string, traits []Trait) {
	f.Author = &author
	personal := []Trait{}
	for _, t := range traits {
		if t.Value != "" {
			personal = append(personal, t)
		}
	}
	f.Personal = &personal
}

func walkQuietly(data []byte, enter func(xml.StartElement)) {
	_ = walk(data, func(e xml.StartElement) bool { enter(e); return false }, func(xml.EndElement) {}, func(string) {})
}

func elements(data []byte, name string) (found []xml.StartElement) {
	walkQuietly(data, func(e xml.StartElement) {
		if e.Name.Local == name {
			found = append(found, e.Copy())
		}
	})
	return found
}

// first is the text of the first element of that name.
func first(data []byte, name string) string {
	inside, text := false, ""
	_ = walk(data, func(e xml.StartElement) bool {
		inside = inside || e.Name.Local == name && text == ""
		return false
	}, func(e xml.EndElement) { inside = inside && e.Name.Local != name },
		func(s string) {
			if inside {
				text += s
			}
		})
	return strings.TrimSpace(text)
}

func attribute(e xml.StartElement, name string) string {
	for _, a := range e.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}
