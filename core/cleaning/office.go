package cleaning

import (
	"encoding/xml"
	"errors"
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
	for _, clean := range []func(*container, *Log) error{
		words, properties, settings, comments, unsigned, programs, attached, photographs,
	} {
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
			if err := errors.Join(c.unhidden(name, l), c.conditional(name, l)); err != nil {
				return err
			}
		}
		if l.Takes(TrackedChanges) {
			if err := c.joinParagraphs(name, l); err != nil {
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
