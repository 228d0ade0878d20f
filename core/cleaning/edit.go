package cleaning

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
)

// What becomes of an element.
type fate int

const (
	keep   fate = iota
	drop        // with all that it holds
	unwrap      // what it holds stays
)

var errUnbegun = errors.New("an element ends that did not begin")

// edit copies XML byte for byte but for the elements that decide does away with; the names have their prefixes' local
// part only. n numbers all elements in the order in which they begin, from 0 on. Parents are the names of the elements
// around, outermost first.
func edit(data []byte, decide func(n int, e xml.StartElement, parents []string) fate) ([]byte, error) {
	d := xml.NewDecoder(bytes.NewReader(data))
	var out bytes.Buffer
	type open struct {
		name string
		fate fate
	}
	var stack []open
	var names []string
	dropping, n := 0, -1
	for {
		from := d.InputOffset()
		token, err := d.RawToken()
		if errors.Is(err, io.EOF) {
			if len(stack) > 0 {
				return nil, errors.New("it breaks off")
			}
			return out.Bytes(), nil
		}
		if err != nil {
			return nil, err
		}
		raw := data[from:d.InputOffset()]
		what := keep
		switch t := token.(type) {
		case xml.StartElement:
			if n++; dropping == 0 {
				what = decide(n, t, names)
			}
			stack, names = append(stack, open{t.Name.Local, what}), append(names, t.Name.Local)
			if what == drop {
				dropping++
			}
		case xml.EndElement:
			if len(stack) == 0 {
				return nil, errUnbegun
			}
			what = stack[len(stack)-1].fate
			stack, names = stack[:len(stack)-1], names[:len(names)-1]
			if what == drop {
				dropping--
				continue
			}
		}
		if dropping == 0 && what == keep {
			out.Write(raw)
		}
	}
}

// A container is a ZIP with the parts of a document, in their order.
type container struct {
	names []string
	parts map[string][]byte
}

// mostUnpacked bounds what a document may unpack to.
const mostUnpacked = 512 << 20

func unpack(data []byte) (*container, error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, fmt.Errorf("the document does not open: %w", err)
	}
	c := &container{parts: map[string][]byte{}}
	left := int64(mostUnpacked)
	for _, f := range z.File {
		if strings.HasSuffix(f.Name, "/") {
			continue
		}
		r, err := f.Open()
		if err != nil {
			return nil, fmt.Errorf("the document does not open: %w", err)
		}
		content, err := io.ReadAll(io.LimitReader(r, left+1))
		_ = r.Close()
		if err != nil {
			return nil, fmt.Errorf("the document does not open: %w", err)
		}
		if left -= int64(len(content)); left < 0 {
			return nil, errors.New("the document unpacks to over 512 MB")
		}
		if _, twice := c.parts[f.Name]; !twice {
			c.names = append(c.names, f.Name)
		}
		c.parts[f.Name] = content
	}
	return c, nil
}

// pack writes the parts that are left; an OpenDocument's kind comes first and is not compressed (ODF 1.2 part 3, §
// 3.3).
func (c *container) pack() ([]byte, error) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, name := range c.names {
		content, there := c.parts[name]
		if !there {
			continue
		}
		method := zip.Deflate
		if name == "mimetype" {
			method = zip.Store
		}
		w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: method})
		if err == nil {
			_, err = w.Write(content)
		}
		if err != nil {
			return nil, err
		}
	}
	err := z.Close()
	return b.Bytes(), err
}

func (c *container) remove(name string) { delete(c.parts, name) }

// edit edits a part, if it is there.
func (c *container) edit(name string, decide func(e xml.StartElement, parents []string) fate) error {
	content, there := c.parts[name]
	if !there {
		return nil
	}
	made, err := edit(content, func(_ int, e xml.StartElement, parents []string) fate { return decide(e, parents) })
	if err != nil {
		return fmt.Errorf("%s cannot be read: %w", name, err)
	}
	c.parts[name] = made
	return nil
}

// A passage of XML is what is come by on a walk through it.
type passage struct {
	begins func(n int, e xml.StartElement, parents []string) // elements are numbered as by [edit]
	ends   func(name string)
	text   func(text string, parents []string)
}

func (p passage) through(data []byte) error {
	d := xml.NewDecoder(bytes.NewReader(data))
	var names []string
	n := -1
	for {
		token, err := d.RawToken()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		switch t := token.(type) {
		case xml.StartElement:
			n++
			p.begins(n, t, names)
			names = append(names, t.Name.Local)
		case xml.EndElement:
			if len(names) == 0 {
				return errUnbegun
			}
			names = names[:len(names)-1]
			if p.ends != nil {
				p.ends(t.Name.Local)
			}
		case xml.CharData:
			if p.text != nil {
				p.text(string(t), names)
			}
		}
	}
}

// within says whether elements end with those names, outermost first.
func within(parents []string, names ...string) bool {
	return len(parents) >= len(names) && slices.Equal(parents[len(parents)-len(names):], names)
}

// settle walks through a part, which says by their numbers what becomes of elements, and then does that.
func (c *container) settle(name string, look func(fates map[int]fate) passage) error {
	content, there := c.parts[name]
	if !there {
		return nil
	}
	fates := map[int]fate{}
	err := look(fates).through(content)
	if err == nil && len(fates) > 0 {
		c.parts[name], err = edit(content, func(n int, _ xml.StartElement, _ []string) fate { return fates[n] })
	}
	if err != nil {
		return fmt.Errorf("%s cannot be read: %w", name, err)
	}
	return nil
}

func attribute(e xml.StartElement, name string) string {
	for _, a := range e.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}
