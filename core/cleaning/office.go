package cleaning

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strings"
)

// office cleans a document of ECMA-376.
func office(kind, to string, data []byte, l *Log) ([]byte, error) {
	c, err := unpack(data)
	if err != nil {
		return nil, err
	}
	for _, clean := range []func(*container, *Log) error{words, properties, comments, programs, attached, photographs} {
		if err := clean(c, l); err != nil {
			return nil, err
		}
	}
	if err := c.unlink(); err != nil {
		return nil, err
	}
	if kind != to && l.Takes(Macros) {
		c.retype()
	}
	return c.pack()
}

// written are the parts that hold a text document's words.
var written = regexp.MustCompile(`^word/(document|header\d*|footer\d*|footnotes|endnotes)\.xml$`)

// accepted are the marks of changes: what becomes of them when they are accepted (part 1, § 17.13.5).
var accepted = map[string]fate{
	"ins": unwrap, "moveTo": unwrap, "del": drop, "moveFrom": drop,
	"rPrChange": drop, "pPrChange": drop, "sectPrChange": drop, "tblPrChange": drop, "trPrChange": drop,
	"tcPrChange": drop, "tblPrExChange": drop, "tblGridChange": drop, "numberingChange": drop,
	"cellIns": drop, "cellDel": drop, "cellMerge": drop,
	"moveFromRangeStart": drop, "moveFromRangeEnd": drop, "moveToRangeStart": drop, "moveToRangeEnd": drop,
	"customXmlInsRangeStart": drop, "customXmlInsRangeEnd": drop, "customXmlDelRangeStart": drop,
	"customXmlDelRangeEnd": drop,
}

// commentMarks are where a comment hangs on the text (§ 17.13.4).
var commentMarks = []string{"commentRangeStart", "commentRangeEnd", "commentReference", "annotationRef"}

// words cleans the text of a word processor's document.
func words(c *container, l *Log) error {
	for _, name := range c.names {
		if !written.MatchString(name) {
			continue
		}
		if l.Takes(HiddenText) {
			if err := c.unhidden(name, l); err != nil {
				return err
			}
		}
		err := c.edit(name, func(e xml.StartElement, parents []string) fate {
			local := e.Name.Local
			if what, change := accepted[local]; change && l.Takes(TrackedChanges) {
				if local == "ins" || local == "del" || local == "moveTo" || strings.HasSuffix(local, "Change") {
					l.Took(TrackedChanges, 1, by(e))
				}
				if slices.Contains(parents, "rPr") { // the mark of a paragraph or a run that was inserted
					return drop
				}
				return what
			}
			if slices.Contains(commentMarks, local) && l.Takes(Comments) {
				return drop
			}
			switch local {
			case "ffData":
				if l.Takes(FormFields) {
					l.Took(FormFields, 1, "")
					return drop
				}
			case "OLEObject":
				if l.Takes(Attachments) {
					return drop
				}
			}
			return keep
		})
		if err != nil {
			return err
		}
		if l.Takes(FormFields) {
			if err := c.controls(name, l); err != nil {
				return err
			}
		}
	}
	if l.Takes(TrackedChanges) {
		return c.edit("word/settings.xml", func(e xml.StartElement, _ []string) fate {
			if e.Name.Local == "trackRevisions" {
				return drop
			}
			return keep
		})
	}
	return nil
}

func by(e xml.StartElement) string {
	if author := attribute(e, "author"); author != "" {
		return "by " + author
	}
	return ""
}

// A held is what the properties of an element say, such as those of a run or a content control.
type held struct {
	is     bool   // what is looked for
	nested int    // elements of the same name within it
	words  string // that it shows
}

// holding tells of every element of a name, in the order in which they begin, whether its own properties (the element
// of its name with Pr) hold one that says is true of.
func holding(content []byte, name string, says func(xml.StartElement) bool) (list []held, err error) {
	d := xml.NewDecoder(bytes.NewReader(content))
	var around []string
	var open []int
	for {
		token, err := d.RawToken()
		if errors.Is(err, io.EOF) {
			return list, nil
		}
		if err != nil {
			return nil, err
		}
		n := len(around)
		switch t := token.(type) {
		case xml.StartElement:
			if t.Name.Local == name {
				for _, o := range open {
					list[o].nested++
				}
				open, list = append(open, len(list)), append(list, held{})
			} else if n > 1 && around[n-1] == name+"Pr" && around[n-2] == name && says(t) {
				list[open[len(open)-1]].is = true
			}
			around = append(around, t.Name.Local)
		case xml.EndElement:
			if n == 0 {
				return nil, errUnbegun
			}
			if around[n-1] == name {
				open = open[:len(open)-1]
			}
			around = around[:n-1]
		case xml.CharData:
			if n > 0 && around[n-1] == "t" {
				for _, o := range open {
					list[o].words += string(t)
				}
			}
		}
	}
}

// isFormControl are the properties of a content control that make it a field of a form (§ 17.5.2).
func isFormControl(e xml.StartElement) bool {
	return slices.Contains([]string{"text", "comboBox", "dropDownList", "date", "checkbox"}, e.Name.Local)
}

// controls takes content controls that are fields of a form away; what they hold stays.
func (c *container) controls(name string, l *Log) error {
	fields, err := holding(c.parts[name], "sdt", isFormControl)
	if err != nil {
		return fmt.Errorf("%s cannot be read: %w", name, err)
	}
	at := 0
	var open []bool // of the controls around: whether they are fields
	return c.edit(name, func(e xml.StartElement, parents []string) fate {
		depth := 0
		for _, p := range parents {
			if p == "sdt" {
				depth++
			}
		}
		open = open[:depth]
		within := depth > 0 && open[depth-1]
		switch e.Name.Local {
		case "sdt":
			open = append(open, fields[at].is)
			if at++; open[depth] {
				l.Took(FormFields, 1, "")
				return unwrap
			}
		case "sdtPr", "sdtEndPr":
			if within {
				return drop
			}
		case "sdtContent":
			if within {
				return unwrap
			}
		}
		return keep
	})
}

// isHidden is the property of a run that is not shown (§ 17.3.2.41) by a value of ST_OnOff.
func isHidden(e xml.StartElement) bool {
	return e.Name.Local == "vanish" && slices.Contains([]string{"", "1", "true", "on"}, attribute(e, "val"))
}

// unhidden takes runs away that are not shown.
func (c *container) unhidden(name string, l *Log) error {
	runs, err := holding(c.parts[name], "r", isHidden)
	if err != nil {
		return fmt.Errorf("%s cannot be read: %w", name, err)
	}
	at := 0
	return c.edit(name, func(e xml.StartElement, _ []string) fate {
		if e.Name.Local != "r" {
			return keep
		}
		run := runs[at]
		if at++; !run.is {
			return keep
		}
		at += run.nested // which are not come to any more
		l.Took(HiddenText, 1, run.words)
		return drop
	})
}
