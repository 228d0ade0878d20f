package convert

import (
	"slices"
)

// A Sort is what kinds of files (package inspect) have in common for those who work on them.
type Sort string

// The sorts.
const (
	PDF      Sort = "pdf"
	Picture  Sort = "picture"
	Document Sort = "document" // with running text
	Sheet    Sort = "sheet"    // of slides or cells
	Sound    Sort = "sound"
	Film     Sort = "film"
)

// sorts of the kinds that can be worked on.
var sorts = func() map[string]Sort {
	m := map[string]Sort{}
	for sort, kinds := range map[Sort][]string{
		PDF:      {"pdf"},
		Picture:  {"jpeg", "png", "gif", "webp", "bmp", "tiff", "heic"},
		Document: {"docx", "docm", "doc", "odt", "rtf", "txt", "md", "html"},
		Sheet:    {"pptx", "ppt", "odp", "xlsx", "xlsm", "xls", "ods", "csv", "tsv"},
		Sound:    {"mp3", "m4a", "wav", "ogg", "flac"},
		Film:     {"mp4", "webm", "mkv", "mov"},
	} {
		for _, kind := range kinds {
			m[kind] = sort
		}
	}
	return m
}()

// becomes are the extensions of what files of a sort can be made into, the likeliest first.
var becomes = map[Sort][]string{
	PDF:      {"pdf", "jpg", "png"},
	Picture:  {"pdf", "jpg", "png"},
	Document: {"pdf", "docx", "odt", "rtf", "txt"},
	Sheet:    {"pdf"},
	Sound:    {"mp3", "m4a", "ogg", "wav", "flac"},
	Film:     {"mp4", "webm", "mp3", "m4a", "mov", "mkv", "ogg", "wav", "flac"},
}

// A KindUse is what can be done with files of one kind.
type KindUse struct {
	Sort    Sort     `json:"sort"`
	Becomes []string `json:"becomes"`
	Pages   bool     `json:"pages"`   // its pages can be shown
	Cleaned bool     `json:"cleaned"` // what it tells of its author and more can be taken out
}

// Kinds are those that can be worked on.
func Kinds() map[string]KindUse {
	m := map[string]KindUse{}
	for kind, sort := range sorts {
		m[kind] = KindUse{sort, becomes[sort], HasPages(kind), Cleans(kind)}
	}
	return m
}

// HasPages says whether files of a kind are laid out on pages by a program of their own, which has to be run to show
// them.
func HasPages(kind string) bool {
	return slices.Contains([]string{"docx", "docm", "doc", "odt", "rtf", "pptx", "ppt", "odp"}, kind)
}

// can says whether a file of a kind can be made into a form.
func can(kind, form string) bool {
	return slices.ContainsFunc(becomes[sorts[kind]], func(extension string) bool { return forms[extension] == form })
}
