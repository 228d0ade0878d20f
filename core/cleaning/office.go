package cleaning

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"path"
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
	"rPrChange": drop, "pPrChange": drop, "sectPrChange": drop, "tblPrChange": drop, "trPrChange": drop, "tcPrChange": drop,
	"tblPrExChange": drop, "tblGridChange": drop, "numberingChange": drop, "cellIns": drop, "cellDel": drop, "cellMerge": drop,
	"moveFromRangeStart": drop, "moveFromRangeEnd": drop, "moveToRangeStart": drop, "moveToRangeEnd": drop,
	"customXmlInsRangeStart": drop, "customXmlInsRangeEnd": drop, "customXmlDelRangeStart": drop, "customXmlDelRangeEnd": drop,
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

// properties takes who and what out of the properties (part 2, § 11; part 1, § 22).
func properties(c *container, l *Log) error {
	emptied := func(name string, kinds map[string]string) error {
		return c.edit(name, func(e xml.StartElement, parents []string) fate {
			kind, known := kinds[e.Name.Local]
			if !known || !l.Takes(kind) || len(parents) != 1 {
				return keep
			}
			if value := textOf(c.parts[name], e.Name.Local); value != "" {
				l.Took(kind, 1, e.Name.Local+": "+value)
			}
			return drop
		})
	}
	if err := emptied("docProps/core.xml", map[string]string{
		"creator": Author, "lastModifiedBy": Author, "description": Metadata, "keywords": Metadata, "category": Metadata,
		"subject": Metadata, "identifier": Metadata, "contentStatus": Metadata, "lastPrinted": Metadata, "revision": Metadata,
	}); err != nil {
		return err
	}
	if err := emptied("docProps/app.xml", map[string]string{
		"Company": Metadata, "Manager": Author, "Template": Metadata, "TotalTime": Metadata, "HyperlinkBase": Metadata,
	}); err != nil {
		return err
	}
	for _, name := range c.names {
		thumbnail := strings.HasPrefix(name, "docProps/thumbnail")
		if (name == "docProps/custom.xml" || thumbnail) && l.Takes(Metadata) {
			l.Took(Metadata, 1, path.Base(name))
			c.remove(name)
		}
	}
	return nil
}

func textOf(content []byte, element string) string {
	m := regexp.MustCompile(`(?s)<(?:\w+:)?` + element + `(?: [^>]*)?>([^<]*)<`).FindSubmatch(content)
	if m == nil {
		return ""
	}
	return strings.TrimSpace(string(m[1]))
}

var commentParts = regexp.MustCompile(`(?i)^(word|ppt|xl)/(comments[^/]*\.xml|comments/.*|threadedComments/.*|people\.xml|persons/.*|` +
	`commentAuthors\.xml|authors\.xml|notesSlides/.*|drawings/vmlDrawing\d*\.vml)$`)

// comments takes the parts with comments, notes of cells and speaker notes away. A drawing of the old form goes where
// there are notes of cells, which it draws.
func comments(c *container, l *Log) error {
	if !l.Takes(Comments) {
		return nil
	}
	cells := slices.ContainsFunc(c.names, func(n string) bool { return strings.HasPrefix(n, "xl/comments") })
	for _, name := range c.names {
		if !commentParts.MatchString(name) || strings.HasSuffix(name, ".vml") && !cells {
			continue
		}
		n := len(regexp.MustCompile(`<(?:\w+:)?(?:comment|cm|threadedComment)[ >]`).FindAll(c.parts[name], -1))
		if strings.Contains(name, "threaded") {
			n = 0 // they stand among the comments once more
		}
		if strings.Contains(name, "notesSlides/notes") && strings.HasSuffix(name, ".xml") {
			n = 1
		}
		l.Took(Comments, n, "")
		c.remove(name)
	}
	return c.each(regexp.MustCompile(`^xl/worksheets/sheet\d+\.xml$`), func(e xml.StartElement, _ []string) fate {
		if cells && e.Name.Local == "legacyDrawing" {
			return drop
		}
		return keep
	})
}

func (c *container) each(names *regexp.Regexp, decide func(e xml.StartElement, parents []string) fate) error {
	for _, name := range c.names {
		if names.MatchString(name) {
			if err := c.edit(name, decide); err != nil {
				return err
			}
		}
	}
	return nil
}

func programs(c *container, l *Log) error {
	for _, name := range c.names {
		base := strings.ToLower(path.Base(name))
		if l.Takes(Macros) && (strings.HasPrefix(base, "vba") || strings.HasPrefix(name, "xl/macrosheets/")) {
			if base == "vbaproject.bin" || strings.HasPrefix(name, "xl/macrosheets/") {
				l.Took(Macros, 1, path.Base(name))
			}
			c.remove(name)
		}
	}
	return nil
}

func attached(c *container, l *Log) error {
	for _, name := range c.names {
		if l.Takes(Attachments) && strings.Contains(name, "/embeddings/") && !strings.HasSuffix(name, ".rels") {
			l.Took(Attachments, 1, path.Base(name))
			c.remove(name)
		}
	}
	return nil
}

// photographs takes what a camera wrote out of a document's pictures.
func photographs(c *container, l *Log) error {
	for _, name := range c.names {
		ext := strings.ToLower(path.Ext(name))
		if !strings.Contains(name, "/media/") && !strings.HasPrefix(name, "Pictures/") || c.parts[name] == nil {
			continue
		}
		var made []byte
		var err error
		switch ext {
		case ".jpg", ".jpeg":
			made, err = jpeg(c.parts[name], l)
		case ".png":
			made, err = png(c.parts[name], l)
		default:
			continue
		}
		if err == nil { // a picture that does not open tells nothing that could be found either
			c.parts[name] = made
		}
	}
	return nil
}

// unlink takes away what points to parts that are gone: relationships, and entries of the list of types.
func (c *container) unlink() error {
	for _, name := range c.names {
		if !strings.HasSuffix(name, ".rels") || c.parts[name] == nil {
			continue
		}
		of := path.Join(path.Dir(path.Dir(name)), strings.TrimSuffix(path.Base(name), ".rels"))
		if _, there := c.parts[of]; !there && of != "." && of != "" {
			c.remove(name)
			continue
		}
		folder := path.Dir(path.Dir(name))
		err := c.edit(name, func(e xml.StartElement, _ []string) fate {
			target := attribute(e, "Target")
			if e.Name.Local != "Relationship" || attribute(e, "TargetMode") == "External" || target == "" {
				return keep
			}
			if !strings.HasPrefix(target, "/") {
				target = path.Join("/", folder, target)
			}
			if _, there := c.parts[strings.TrimPrefix(path.Clean(target), "/")]; there || strings.Contains(target, "#") {
				return keep
			}
			return drop
		})
		if err != nil {
			return err
		}
	}
	return c.edit("[Content_Types].xml", func(e xml.StartElement, _ []string) fate {
		if e.Name.Local != "Override" {
			return keep
		}
		if _, there := c.parts[strings.TrimPrefix(attribute(e, "PartName"), "/")]; there {
			return keep
		}
		return drop
	})
}

// retype makes a document without macros of one that could hold them.
func (c *container) retype() {
	types := c.parts["[Content_Types].xml"]
	for from, to := range map[string]string{
		"application/vnd.ms-word.document.macroEnabled.main+xml": "application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml",
		"application/vnd.ms-excel.sheet.macroEnabled.main+xml":   "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml",
	} {
		types = bytes.ReplaceAll(types, []byte(from), []byte(to))
	}
	c.parts["[Content_Types].xml"] = types
}

// openDocument cleans one of OASIS OpenDocument 1.2.
func openDocument(data []byte, l *Log) ([]byte, error) {
	c, err := unpack(data)
	if err != nil {
		return nil, err
	}
	noted := false
	for _, name := range []string{"content.xml", "styles.xml"} {
		err := c.edit(name, func(e xml.StartElement, parents []string) fate {
			switch e.Name.Local {
			case "tracked-changes":
				if l.Takes(TrackedChanges) {
					l.Took(TrackedChanges, bytes.Count(c.parts[name], []byte("<text:changed-region")), "")
					return drop
				}
			case "change-start", "change-end", "change":
				if l.Takes(TrackedChanges) {
					return drop
				}
			case "annotation":
				if l.Takes(Comments) {
					l.Took(Comments, 1, "")
					return drop
				}
			case "annotation-end":
				if l.Takes(Comments) {
					return drop
				}
			case "notes":
				if l.Takes(Comments) && !noted {
					l.Took(Comments, 1, "speaker notes")
					return drop
				}
			case "hidden-text", "hidden-paragraph":
				if l.Takes(HiddenText) {
					l.Took(HiddenText, 1, attribute(e, "string-value"))
					return drop
				}
			case "event-listeners":
				if l.Takes(Macros) {
					l.Took(Macros, 1, "")
					return drop
				}
			}
			return keep
		})
		if err != nil {
			return nil, err
		}
	}
	if err := c.edit("meta.xml", func(e xml.StartElement, parents []string) fate {
		kind, known := map[string]string{
			"initial-creator": Author, "creator": Author, "printed-by": Author, "user-defined": Metadata, "template": Metadata,
			"description": Metadata, "subject": Metadata, "keyword": Metadata, "generator": "", "editing-duration": Metadata,
			"editing-cycles": Metadata, "print-date": Metadata,
		}[e.Name.Local]
		if !known || kind == "" || !l.Takes(kind) {
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
