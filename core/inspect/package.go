package inspect

import (
	"archive/zip"
	"bytes"
	"io"
	"strings"
)

// mostTypes bounds what is read of a package to learn its form, in bytes.
const mostTypes = 1 << 20

// mainParts are the content types of the main part of an Office document, by what they begin with (ECMA-376 part 1,
// §§ 11.3.10, 12.3.23, 13.3.6; those with macros are Microsoft's, [MS-OFFMACRO2]).
var mainParts = []struct{ begins, kind string }{
	{"application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml", "docx"},
	{"application/vnd.openxmlformats-officedocument.wordprocessingml.template.main+xml", "docx"},
	{"application/vnd.ms-word.document.macroenabled", "docm"},
	{"application/vnd.ms-word.template.macroenabled", "docm"},
	{"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml", "xlsx"},
	{"application/vnd.openxmlformats-officedocument.spreadsheetml.template.main+xml", "xlsx"},
	{"application/vnd.ms-excel.sheet.macroenabled", "xlsm"},
	{"application/vnd.ms-excel.template.macroenabled", "xlsm"},
	{"application/vnd.openxmlformats-officedocument.presentationml.presentation.main+xml", "pptx"},
	{"application/vnd.openxmlformats-officedocument.presentationml.slideshow.main+xml", "pptx"},
	{"application/vnd.openxmlformats-officedocument.presentationml.template.main+xml", "pptx"},
}

// locked says whether a file is an Office package behind a password, agile or standard ([MS-OFFCRYPTO] § 2.3.4): a
// compound file with a stream of that name. Which form is in it, nobody can see.
func locked(data []byte) bool {
	return bytes.HasPrefix(data, []byte("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1")) &&
		bytes.Contains(data, []byte("E\x00n\x00c\x00r\x00y\x00p\x00t\x00e\x00d\x00P\x00a\x00c\x00k\x00a\x00g\x00e\x00"))
}

// packageKind is the form of a ZIP that is an Office or OpenDocument file, whatever the order of what is in it; empty
// where it is none.
func packageKind(data []byte) string {
	if !bytes.HasPrefix(data, []byte("PK")) {
		return ""
	}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return ""
	}
	for _, f := range z.File {
		if f.Name != "mimetype" && f.Name != "[Content_Types].xml" {
			continue
		}
		r, err := f.Open()
		if err != nil {
			continue
		}
		text, _ := io.ReadAll(io.LimitReader(r, mostTypes)) // as far as it reads
		_ = r.Close()
		if f.Name == "mimetype" {
			for _, kind := range []string{"odt", "odp", "ods"} {
				if strings.TrimSpace(string(text)) == kinds[kind].mediaType {
					return kind
				}
			}
			continue
		}
		types := strings.ToLower(string(text))
		for _, main := range mainParts {
			if strings.Contains(types, `"`+main.begins) {
				return main.kind
			}
		}
	}
	return ""
}
