package cleaning

import (
	"encoding/xml"
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
	"tcPrChange":    drop,
	"tblPrExChange": drop, "tblGridChange": drop, "numberingChange": drop, "cellIns": drop, "cellDel": drop,
	"cellMerge":          drop,
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
		c.parts[name] = unhidden(c.parts[name], l)
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

// formControl are the properties of a content control that make it a field of a form (§ 17.5.2).
var formControl = []string{"text", "comboBox", "dropDownList", "date", "checkbox"}

// controls takes content controls that are fields of a form away; what they hold stays.
func (c *container) controls(name string, l *Log) error {
	var fields []bool // of each control, in the order in which they begin
	var open []int
	if _, err := edit(c.parts[name], func(e xml.StartElement, parents []string) fate {
		depth := 0
		for _, p := range parents {
			if p == "sdt" {
				depth++
			}
		}
		open = open[:min(len(open), depth)]
		if e.Name.Local == "sdt" {
			open, fields = append(open, len(fields)), append(fields, false)
		} else if len(parents) > 0 && parents[len(parents)-1] == "sdtPr" && len(open) > 0 &&
			slices.Contains(formControl, e.Name.Local) {
			fields[open[len(open)-1]] = true
		}
		return keep
	}); err != nil {
		return err
	}
	at := -1
	var isField []bool
	return c.edit(name, func(e xml.StartElement, parents []string) fate {
		depth := 0
		for _, p := range parents {
			if p == "sdt" {
				depth++
			}
		}
		isField = isField[:min(len(isField), depth)]
		switch e.Name.Local {
		case "sdt":
			at++
			isField = append(isField, fields[at])
			if fields[at] {
				l.Took(FormFields, 1, "")
				return unwrap
			}
		case "sdtPr", "sdtEndPr":
			if depth > 0 && isField[depth-1] {
				return drop
			}
		case "sdtContent":
			if depth > 0 && isField[depth-1] {
				return unwrap
			}
		}
		return keep
	})
}

// hiddenRun is a run that is not shown (§ 17.3.2.41).
var hiddenRun = regexp.MustCompile(`(?s)<w:r(?: [^>]*)?>\s*<w:rPr>(?:[^<]|<[^/]|</[^w]|</w:[^r]|</w:r[^P])*?` +
	`<w:vanish(?:\s+w:val="(?:1|true|on)")?\s*/>.*?</w:r>`)

var shownWords = regexp.MustCompile(`<w:t(?: [^>]*)?>([^<]*)</w:t>`)

func unhidden(content []byte, l *Log) []byte {
	if !l.Takes(HiddenText) {
		return content
	}
	return hiddenRun.ReplaceAllFunc(content, func(run []byte) []byte {
		var said []string
		for _, m := range shownWords.FindAllSubmatch(run, -1) {
			said = append(said, string(m[1]))
		}
		l.Took(HiddenText, 1, strings.Join(said, " "))
		return nil
	})
}
