package cleaning

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strings"
)

// joinParagraphs joins every paragraph whose end was deleted (ECMA-376 part 1, § 17.13.5.15) with the one behind it,
// whose properties stay.
func (c *container) joinParagraphs(name string, l *Log) error {
	ended := map[int]bool{} // elements whose paragraph has lost its end
	var open []int
	err := passage{
		begins: func(n int, e xml.StartElement, parents []string) {
			switch e.Name.Local {
			case "p":
				open = append(open, n)
			case "del", "moveFrom":
				if within(parents, "p", "pPr", "rPr") {
					ended[open[len(open)-1]] = true
					l.Took(TrackedChanges, 1, by(e))
				}
			}
		},
		ends: func(name string) {
			if name == "p" && len(open) > 0 {
				open = open[:len(open)-1]
			}
		},
	}.through(c.parts[name])
	if err == nil && len(ended) > 0 {
		c.parts[name], err = join(c.parts[name], ended)
	}
	if err != nil {
		return fmt.Errorf("%s cannot be read: %w", name, err)
	}
	return nil
}

// A joining is what is held back of paragraphs that go on in the next one.
type joining struct {
	out    bytes.Buffer
	begin  []byte       // of the first of them
	text   bytes.Buffer // of all of them, without their properties
	inside int          // depth of the one that is held back now; 0: none is
	skips  int          // depth of its properties, while they are passed over; 0: it is not in them
}

// hold holds a piece back of a paragraph that has lost its end, but for the paragraph's properties.
func (j *joining) hold(raw []byte, depth int, properties, ends bool) {
	switch {
	case properties && depth == j.inside+1:
		j.skips = depth
	case ends && depth == j.inside:
		j.inside = 0
	case j.skips == 0:
		j.text.Write(raw)
	case ends && depth == j.skips:
		j.skips = 0
	}
}

// release writes what is held back where no paragraph follows that it could go on in.
func (j *joining) release() {
	if j.begin != nil {
		j.out.Write(j.begin)
		j.out.Write(j.text.Bytes())
		j.out.WriteString("</" + tagName(j.begin) + ">")
	}
	j.begin = nil
	j.text.Reset()
}

// join joins the paragraphs with the given numbers with those behind them.
func join(data []byte, ended map[int]bool) ([]byte, error) {
	d := xml.NewDecoder(bytes.NewReader(data))
	j := &joining{}
	depth, n := 0, -1
	into := 0 // depth of the paragraph that what is held back goes into, behind its properties
	for {
		from := d.InputOffset()
		token, err := d.RawToken()
		if errors.Is(err, io.EOF) {
			return j.out.Bytes(), nil
		}
		if err != nil {
			return nil, err
		}
		raw := data[from:d.InputOffset()]
		start, begins := token.(xml.StartElement)
		_, ends := token.(xml.EndElement)
		if begins {
			n++
			depth++
		}
		switch {
		case j.inside > 0:
			j.hold(raw, depth, begins && start.Name.Local == "pPr", ends)
		case into > 0 && !(begins && start.Name.Local == "pPr" && depth == into+1) && depth <= into+1 &&
			(begins || ends && depth == into || !begins && !ends && len(bytes.TrimSpace(raw)) > 0):
			// behind its properties, if it has any
			j.out.Write(j.text.Bytes())
			j.begin, into = nil, 0
			j.text.Reset()
			j.out.Write(raw)
		case begins && start.Name.Local == "p" && ended[n]:
			if j.begin == nil {
				j.begin = bytes.Clone(raw)
			}
			if j.inside = depth; bytes.HasSuffix(raw, []byte("/>")) {
				j.begin = append(bytes.TrimSuffix(j.begin, []byte("/>")), '>')
			}
		case begins && start.Name.Local == "p" && j.begin != nil:
			into = depth
			if bytes.HasSuffix(raw, []byte("/>")) {
				raw = []byte(strings.TrimSuffix(string(raw), "/>") + ">" + j.text.String() + "</" + tagName(raw) + ">")
				j.begin, into = nil, 0
				j.text.Reset()
			}
			j.out.Write(raw)
		default:
			if j.begin != nil && into == 0 && (begins || ends) {
				j.release()
			}
			j.out.Write(raw)
		}
		if ends {
			depth--
		}
	}
}

// tagName is the name of an element, with its prefix, as its first tag writes it.
func tagName(raw []byte) string {
	name := strings.TrimLeft(string(raw), "<")
	return name[:strings.IndexAny(name+">", " \t\r\n/>")]
}
