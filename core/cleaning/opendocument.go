package cleaning

import (
	"bytes"
	"encoding/xml"
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
	if err := photographs(c, l); err != nil {
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

// openText is what becomes of an element of the text: changes (part 1, § 5.5), annotations (§ 14.1), notes of a slide,
// hidden text (§ 7.7.5) and programs.
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
	case "hidden-text", "hidden-paragraph":
		kind, detail = HiddenText, attribute(e, "string-value")
	case "event-listeners":
		kind = Macros
	}
	if kind == "" || !l.Takes(kind) {
		return keep
	}
	l.Took(kind, n, detail)
	return drop
}
