package cleaning

import (
	"bytes"
	"encoding/xml"
	"path"
	"regexp"
	"slices"
	"strings"
)

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
		"creator": Author, "lastModifiedBy": Author, "description": Metadata, "keywords": Metadata,
		"category": Metadata,
		"subject":  Metadata, "identifier": Metadata, "contentStatus": Metadata, "lastPrinted": Metadata,
		"revision": Metadata,
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

// settings takes away what a document's settings tell of whoever made it and of the machines there: the template and
// the source of a mail merge with their addresses, variables, and the marks of editing sessions (part 1, § 17.15.1); of
// a workbook its own path, who has it open, and its printers.
func settings(c *container, l *Log) error {
	if !l.Takes(Metadata) {
		return nil
	}
	personal := map[string]bool{
		"attachedTemplate": true, "mailMerge": true, "docVars": true, "rsids": true, "docId": true,
		"saveThroughXslt": true, "absPath": true, "fileSharing": true,
	}
	for _, name := range []string{"word/settings.xml", "xl/workbook.xml"} {
		err := c.edit(name, func(e xml.StartElement, _ []string) fate {
			if !personal[e.Name.Local] {
				return keep
			}
			if e.Name.Local != "rsids" && e.Name.Local != "docId" {
				l.Took(Metadata, 1, e.Name.Local+" "+attribute(e, "url"))
			}
			return drop
		})
		if err != nil {
			return err
		}
	}
	if err := c.edit("word/_rels/settings.xml.rels", func(e xml.StartElement, _ []string) fate {
		if e.Name.Local == "Relationship" && attribute(e, "TargetMode") == "External" {
			l.Took(Metadata, 1, attribute(e, "Target"))
			return drop
		}
		return keep
	}); err != nil {
		return err
	}
	for _, name := range c.names {
		switch {
		case strings.HasPrefix(name, "xl/worksheets/sheet"), strings.HasPrefix(name, "xl/chartsheets/sheet"):
			c.parts[name] = printer.ReplaceAll(c.parts[name], []byte("$1"))
		case strings.Contains(name, "/printerSettings/") && !strings.HasSuffix(name, ".rels"),
			strings.HasPrefix(name, "xl/revisions/"), strings.HasPrefix(name, "ppt/changesInfos/"),
			name == "ppt/revisionInfo.xml",
			strings.HasPrefix(name, "customXml/") && serverProperties.Match(c.parts[name]):
			l.Took(Metadata, 1, name)
			c.remove(name)
		}
	}
	return nil
}

// printer is the relation of a sheet's page to the settings of a printer.
var printer = regexp.MustCompile(`(<(?:\w+:)?pageSetup\b[^>]*?)\s+r:id="[^"]*"`)

// serverProperties are what servers of documents keep of one beside it.
var serverProperties = regexp.MustCompile(
	`http://schemas\.microsoft\.com/(?:office/2006/metadata|sharepoint)|` +
		`http://schemas\.openxmlformats\.org/officeDocument/2006/customXmlDataProps\b.*sharepoint`)

// Who wrote a change or a comment that stays: in attributes of a text's parts (part 1, §§ 17.13.4 and 17.13.5), in
// lists of people, and in an OpenDocument's own elements (part 1, § 4.3.2.7).
var (
	authors    = regexp.MustCompile(`(\s(?:\w+:)?(?:author|initials|userId|providerId|displayName|name)=")([^"]*)(")`)
	authorOf   = regexp.MustCompile(`(<(?:author|dc:creator|meta:creator-initials|loext:sender-initials)>)([^<]*)(</)`)
	ofAuthors  = regexp.MustCompile(`(?i)(people\.xml|persons/[^/]*\.xml|commentAuthors\.xml|authors\.xml)$`)
	namesInIt  = regexp.MustCompile(`(\s(?:\w+:)?(?:author|initials)=")([^"]*)(")`)
	writtenBy  = regexp.MustCompile(`^(word/[^/]*\.xml|xl/comments[^/]*\.xml|content\.xml|styles\.xml)$`)
	somebody   = []byte("${1}Author${3}")
	nameOfNone = "Author"
)

// unsigned takes the names of their authors from the changes and comments that stay.
func unsigned(c *container, l *Log) error {
	if !l.Takes(Author) {
		return nil
	}
	for _, name := range c.names {
		var patterns []*regexp.Regexp
		switch {
		case ofAuthors.MatchString(name):
			patterns = []*regexp.Regexp{authors, authorOf}
		case writtenBy.MatchString(name):
			patterns = []*regexp.Regexp{namesInIt, authorOf}
		}
		if _, there := c.parts[name]; !there {
			continue
		}
		for _, pattern := range patterns {
			for _, m := range pattern.FindAllSubmatch(c.parts[name], -1) {
				if who := string(m[2]); who != "" && who != nameOfNone {
					l.Took(Author, 1, who)
				}
			}
			c.parts[name] = pattern.ReplaceAll(c.parts[name], somebody)
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

var commentParts = regexp.MustCompile(
	`(?i)^(word|ppt|xl)/(comments[^/]*\.xml|comments/.*|threadedComments/.*|people\.xml|persons/.*|` +
		`commentAuthors\.xml|authors\.xml|notesSlides/.*|drawings/vmlDrawing\d*\.vml)$`,
)

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
			if _, there := c.parts[strings.TrimPrefix(path.Clean(target), "/")]; there ||
				strings.Contains(target, "#") {
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
	const open = "application/vnd.openxmlformats-officedocument."
	for from, to := range map[string]string{
		"application/vnd.ms-word.document.macroEnabled.main+xml": open + "wordprocessingml.document.main+xml",
		"application/vnd.ms-excel.sheet.macroEnabled.main+xml":   open + "spreadsheetml.sheet.main+xml",
	} {
		types = bytes.ReplaceAll(types, []byte(from), []byte(to))
	}
	c.parts["[Content_Types].xml"] = types
}
