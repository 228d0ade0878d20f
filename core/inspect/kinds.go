package inspect

import (
	"bytes"
	"slices"
	"strings"

	"github.com/gabriel-vasile/mimetype"
)

type kind struct {
	mediaType  string
	extensions []string
}

// Picture is the media type under which a browser shows a kind as a picture; empty for what is none, or can hold a
// program.
func Picture(kind string) string {
	switch kind {
	case "png", "jpeg", "gif", "webp":
		return kinds[kind].mediaType
	}
	return ""
}

// Shown is the media type under which a browser shows a kind within a page, as a picture, sound or film.
func Shown(kind string) string {
	if IsRecording(kind) {
		return kinds[kind].mediaType
	}
	return Picture(kind)
}

// IsKind says whether an extension, in small letters, is that of a form that is told apart by content.
func IsKind(ext string) bool {
	for name, k := range kinds {
		if ext == name || slices.Contains(k.extensions, ext) {
			return true
		}
	}
	return false
}

// kinds are the forms that are told apart, with the extensions in use for each.
var kinds = map[string]kind{
	"pdf":     {"application/pdf", []string{"pdf"}},
	"docx":    {"application/vnd.openxmlformats-officedocument.wordprocessingml.document", []string{"docx"}},
	"docm":    {"application/vnd.ms-word.document.macroenabled.12", []string{"docm"}},
	"doc":     {"application/msword", []string{"doc", "dot"}},
	"odt":     {"application/vnd.oasis.opendocument.text", []string{"odt"}},
	"rtf":     {"application/rtf", []string{"rtf"}},
	"pptx":    {"application/vnd.openxmlformats-officedocument.presentationml.presentation", []string{"pptx"}},
	"ppt":     {"application/vnd.ms-powerpoint", []string{"ppt", "pps"}},
	"odp":     {"application/vnd.oasis.opendocument.presentation", []string{"odp"}},
	"xlsx":    {"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", []string{"xlsx"}},
	"xlsm":    {"application/vnd.ms-excel.sheet.macroenabled.12", []string{"xlsm"}},
	"xls":     {"application/vnd.ms-excel", []string{"xls"}},
	"ods":     {"application/vnd.oasis.opendocument.spreadsheet", []string{"ods"}},
	"txt":     {"text/plain", []string{"txt", "text", "log", "asc"}},
	"md":      {"text/markdown", []string{"md", "markdown"}},
	"html":    {"text/html", []string{"html", "htm", "xhtml"}},
	"csv":     {"text/csv", []string{"csv"}},
	"tsv":     {"text/tab-separated-values", []string{"tsv", "tab"}},
	"jpeg":    {"image/jpeg", []string{"jpg", "jpeg", "jpe", "jfif"}},
	"png":     {"image/png", []string{"png"}},
	"gif":     {"image/gif", []string{"gif"}},
	"webp":    {"image/webp", []string{"webp"}},
	"tiff":    {"image/tiff", []string{"tif", "tiff"}},
	"bmp":     {"image/bmp", []string{"bmp", "dib"}},
	"heic":    {"image/heic", []string{"heic", "heif"}},
	"svg":     {"image/svg+xml", []string{"svg"}},
	"zip":     {"application/zip", []string{"zip"}},
	"mp3":     {"audio/mpeg", []string{"mp3"}},
	"m4a":     {"audio/mp4", []string{"m4a"}},
	"wav":     {"audio/wav", []string{"wav"}},
	"ogg":     {"audio/ogg", []string{"ogg", "oga", "opus"}},
	"flac":    {"audio/flac", []string{"flac"}},
	"mp4":     {"video/mp4", []string{"mp4", "m4v"}},
	"mov":     {"video/quicktime", []string{"mov", "qt"}},
	"webm":    {"video/webm", []string{"webm"}},
	"mkv":     {"video/x-matroska", []string{"mkv"}},
	"empty":   {"application/x-empty", nil},
	"unknown": {"application/octet-stream", nil},
}

// byDetected maps the extensions that the detector gives to kinds, where they differ.
var byDetected = map[string]string{
	"jpg":   "jpeg",
	"tif":   "tiff",
	"oga":   "ogg",
	"heif":  "heic",
	"qt":    "mov",
	"xhtml": "html",
}

// Kind tells what a file is, by its content; see [Facts.Kind].
func Kind(name string, data []byte) string {
	kind, _ := kindOf(name, data)
	return kind
}

// kindOf tells a form by content. Only among plain texts, which no content tells apart for certain,
// does the extension decide.
func kindOf(name string, data []byte) (string, string) {
	if len(data) == 0 {
		return "empty", kinds["empty"].mediaType
	}
	found := "unknown"
	for m := mimetype.Detect(data); m != nil && found == "unknown"; m = m.Parent() {
		ext := strings.TrimPrefix(m.Extension(), ".")
		if other, ok := byDetected[ext]; ok {
			ext = other
		}
		if _, ok := kinds[ext]; ok {
			found = ext
		}
	}
	if kind := packageKind(data); kind != "" {
		found = kind
	} else if locked(data) {
		if found = "docx"; slices.Contains([]string{"xlsx", "xlsm", "pptx", "docm"}, extension(name)) {
			found = extension(name)
		}
	} else if found == "docx" && bytes.Contains(data, []byte("word/vbaProject.bin")) {
		found = "docm"
	}
	if found == "txt" || found == "csv" || found == "tsv" {
		found = textKind(found, extension(name), data)
	}
	return found, kinds[found].mediaType
}
