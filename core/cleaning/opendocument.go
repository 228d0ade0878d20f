package cleaning

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"path"
	"strings"
)

// openProperties are those of part 1, § 4.3, that tell of others than the title.
var openProperties = map[string]string{
	"initial-creator": Author, "creator": Author, "printed-by": Author, "user-defined": Metadata, "template": Metadata,
	"description": Metadata, "subject": Metadata, "keyword": Metadata, "editing-duration": Metadata,
	"editing-cycles": Metadata, "print-date": Metadata,
}

// openDocument cleans one of OASIS OpenDocument 1.2.
func openDocument(data []byte, l *Log) ([]byte, error) {
	c, err := unpack(data)
	if err != nil {
		return nil, err
	}
	for _, name := range []string{"content.xml", "styles.xml"} {
		if l.Takes(HiddenText) {
			if err := c.unshown(name, l); err != nil {
				return nil, err
			}
		}
		changes := bytes.Count(c.parts[name], []byte("<text:changed-region"))
		err := c.edit(name, func(e xml.StartElement, _ []string) fate { return openText(e, changes, l) })
		if err != nil {
			return nil, err
		}
	}
	if err := c.edit("meta.xml", func(e xml.StartElement, _ []string) fate {
		kind, known := openProperties[e.Name.Local]
		if !known || !l.Takes(kind) {
			return keep
		}
		l.Took(kind, 1, fmt.Sprint(e.Name.Local, ": ", textOf(c.parts["meta.xml"], e.Name.Local)))
		return drop
	}); err != nil {
		return nil, err
	}
	gone := c.openDocumentParts(l)
	if err := c.edit("META-INF/manifest.xml", func(e xml.StartElement, _ []string) fate {
		if e.Name.Local == "file-entry" && gone(attribute(e, "full-path")) {
			return drop
		}
		return keep
	}); err != nil {
		return nil, err
	}
	if err := errors.Join(unsigned(c, l), photographs(c, l)); err != nil {
		return nil, err
	}
	return c.pack()
}

// openDocumentParts takes away the picture of the first page and programs.
func (c *container) openDocumentParts(l *Log) (gone func(name string) bool) {
	removed := map[string]bool{}
	for _, name := range c.names {
		switch {
		case strings.HasPrefix(name, "Thumbnails/") && l.Takes(Metadata):
			l.Took(Metadata, 1, path.Base(name))
		case (strings.HasPrefix(name, "Basic/") || strings.HasPrefix(name, "Scripts/")) && l.Takes(Macros):
			l.Took(Macros, 1, name)
		default:
			continue
		}
		c.remove(name)
		removed[name] = true
	}
	return func(name string) bool {
		return removed[name] || strings.HasSuffix(name, "/") && l.Takes(Macros) &&
			(strings.HasPrefix(name, "Basic/") || strings.HasPrefix(name, "Scripts/"))
	}
}

// unshown takes text away that is not shown: hidden text (part 1, § 7.7.5), what a hidden paragraph's field (§ 7.7.6)
// or a style hides, and hidden sections (§ 5.4). Of conditional texts (§ 7.7.3) what they show stays.
func (c *container) unshown(name string, l *Log) error {
	hidden, err := openStyles(c.parts["styles.xml"], c.parts["content.xml"])
	if err != nil {
		return fmt.Errorf("the styles cannot be read: %w", err)
	}
	return c.settle(name, func(fates map[int]fate) passage {
		var paragraphs []int
		hide := func(n int, detail string) {
			if _, known := fates[n]; !known {
				fates[n] = drop
				l.Took(HiddenText, 1, detail)
			}
		}
		return passage{
			begins: func(n int, e xml.StartElement, _ []string) {
				style := attribute(e, "style-name")
				shown := attribute(e, "is-hidden") == "false"
				switch e.Name.Local {
				case "p", "h":
					if paragraphs = append(paragraphs, n); hidden["paragraph/"+style] {
						hide(n, "")
					}
				case "span":
					if hidden["text/"+style] {
						hide(n, "")
					}
				case "section":
					by := attribute(e, "display")
					if by == "none" || by == "condition" && !shown {
						hide(n, "section "+attribute(e, "name"))
					}
				case "conditional-text":
					fates[n] = unwrap
					l.Took(HiddenText, 1, attribute(e, "condition"))
				case "hidden-text":
					if fates[n] = unwrap; !shown {
						fates[n] = drop
					}
					l.Took(HiddenText, 1, attribute(e, "string-value"))
				case "hidden-paragraph":
					fates[n] = drop
					if !shown && len(paragraphs) > 0 {
						hide(paragraphs[len(paragraphs)-1], attribute(e, "condition"))
					}
				}
			},
			ends: func(name string) {
				if (name == "p" || name == "h") && len(paragraphs) > 0 {
					paragraphs = paragraphs[:len(paragraphs)-1]
				}
			},
		}
	})
}

// openText is what becomes of an element of the text: changes (part 1, § 5.5), annotations (§ 14.1), notes of a slide
// and programs.
func openText(e xml.StartElement, changes int, l *Log) fate {
	kind, n, detail := "", 1, ""
	switch e.Name.Local {
	case "tracked-changes":
		kind, n = TrackedChanges, changes
	case "change-start", "change-end", "change":
		kind, n = TrackedChanges, 0
	case "annotation":
		kind = Comments
	case "annotation-end":
		kind, n = Comments, 0
	case "notes":
		kind, detail = Comments, "speaker notes"
	case "event-listeners":
		kind = Macros
	}
	if kind == "" || !l.Takes(kind) {
		return keep
	}
	l.Took(kind, n, detail)
	return drop
}
