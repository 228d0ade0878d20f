// Package inspect finds out what a file is and what it holds, by its content.
//
// It does no I/O: it is given a file's bytes. What only a layout or a renderer can tell (the text of a
// PDF's pages) is given to it by the caller; see [Facts.AddPageTexts].
package inspect

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"path"
	"slices"
	"strings"
	"unicode"
)

// Facts are what is known about a file. A fact that could not be found out is nil; a problem says why.
type Facts struct {
	File             string    `json:"file"`
	Bytes            int64     `json:"bytes"`
	SHA256           string    `json:"sha256"`
	Kind             string    `json:"kind"`
	MediaType        string    `json:"media_type"`
	ExtensionAgrees  *bool     `json:"extension_agrees,omitempty"`
	Problems         []Problem `json:"problems"`
	Pages            *int      `json:"pages,omitempty"`
	Words            *int      `json:"words,omitempty"`
	Encrypted        *bool     `json:"encrypted,omitempty"`
	PasswordNeeded   *bool     `json:"password_needed,omitempty"`
	Restricted       *bool     `json:"restricted,omitempty"`
	Version          *string   `json:"version,omitempty"`
	PageSizes        []Size    `json:"page_sizes,omitempty"`
	TextLayerShare   *float64  `json:"text_layer_share,omitempty"` // 0 to 1
	FontsNotEmbedded *[]string `json:"fonts_not_embedded,omitempty"`
	FormFields       *int      `json:"form_fields,omitempty"`
	Annotations      *int      `json:"annotations,omitempty"`
	TrackedChanges   *int      `json:"tracked_changes,omitempty"`
	Comments         *int      `json:"comments,omitempty"`
	Author           *string   `json:"author,omitempty"`
	Personal         *[]Trait  `json:"personal,omitempty"`
	Macros           *bool     `json:"macros,omitempty"`
	Placeholders     *[]string `json:"placeholders,omitempty"`
	OutsideLinks     *[]string `json:"outside_links,omitempty"`
	Width            *int      `json:"width,omitempty"` // pixels as stored
	Height           *int      `json:"height,omitempty"`
	Orientation      *int      `json:"orientation,omitempty"` // EXIF, 1 to 8
	HasPosition      *bool     `json:"has_position,omitempty"`
	Sharpness        *float64  `json:"sharpness,omitempty"` // variance of the Laplacian
	Exposure         *float64  `json:"exposure,omitempty"`  // mean grey, 0 to 1
	Seconds          *float64  `json:"seconds,omitempty"`
	Codec            *[]string `json:"codec,omitempty"`
	Container        *string   `json:"container,omitempty"`
	Entries          *int      `json:"entries,omitempty"`
	Nested           *int      `json:"nested,omitempty"`
	Escaping         *int      `json:"escaping,omitempty"`
	UnpackedBytes    *int64    `json:"unpacked_bytes,omitempty"`
	Encoding         *string   `json:"encoding,omitempty"`
	BOM              *bool     `json:"bom,omitempty"`
	Rows             *int      `json:"rows,omitempty"`
	Columns          *int      `json:"columns,omitempty"`

	cropped bool // a PDF's page
}

// A Problem is a reason for which a fact is absent or not to be trusted.
type Problem struct {
	Code    string `json:"code"` // damaged encrypted truncated too_large unsafe_archive bomb ragged unsupported
	Fact    string `json:"fact"`
	Message string `json:"message"`
}

// A Size is a page size in points, as shown, and how many pages have it.
type Size struct {
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
	Pages  int     `json:"pages"`
}

// A Trait is something in a file that tells who made it, or where.
type Trait struct {
	What  string `json:"what"`
	Value string `json:"value"`
}

func (f *Facts) problem(code, fact, message string, args ...any) {
	f.Problems = append(f.Problems, Problem{code, fact, fmt.Sprintf(message, args...)})
}

// MaxBytes is the size above which a file's content is not looked at.
const MaxBytes = 256 << 20

// Unseen is the code of the problem that a file could not be looked at for a reason that is not its own.
const Unseen = "unseen"

// Unseen says that it could not be looked at yet.
func (f *Facts) Unseen() bool {
	return slices.ContainsFunc(f.Problems, func(p Problem) bool { return p.Code == Unseen })
}

// Basic are the facts that need no look at the content beyond its first bytes, with the reason for which
// no more is known.
func Basic(s Stored, data []byte, code, message string) *Facts {
	f := s.facts(data)
	f.problem(code, "", "%s", message)
	return f
}

// Digest is the SHA-256 of a file's content (FIPS 180-4), in lower-case hex.
func Digest(data []byte) string {
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:])
}

// File finds the facts of a file. It never fails: what cannot be read is a problem among the facts.
func File(name string, data []byte) *Facts {
	return Whole(Stored{Name: name, Bytes: int64(len(data)), SHA256: Digest(data)}, data)
}

// A Named file is one with its content.
type Named struct {
	Name string
	Data []byte
}

// A Stored file is one whose size and digest are known before it is read.
type Stored struct {
	Name   string
	Bytes  int64
	SHA256 string
}

// HeadBytes is how much of a file's beginning tells its kind.
const HeadBytes = 8 << 10

// Head is the facts of a file as far as its first [HeadBytes] tell them. whole says that there is more to be found:
// then the file is to be read and given to [Whole]. Of sound, film and what is too large no more is found out here.
func Head(s Stored, head []byte) (f *Facts, whole bool) {
	f = s.facts(head)
	switch {
	case s.Bytes > MaxBytes:
		f.problem("too_large", "", "The file is over %d MB, so its content was not looked at.", MaxBytes>>20)
		return f, false
	case looksInto(f.Kind):
		return f, true
	}
	f.look(nil)
	return f, false
}

// Whole finds the facts of a stored file from all of its bytes.
func Whole(s Stored, data []byte) *Facts {
	f := s.facts(data)
	if len(data) > MaxBytes {
		f.problem("too_large", "", "The file is over %d MB, so its content was not looked at.", MaxBytes>>20)
		return f
	}
	f.look(data)
	return f
}

func (s Stored) facts(data []byte) *Facts {
	f := &Facts{File: s.Name, Bytes: s.Bytes, SHA256: s.SHA256, Problems: []Problem{}}
	f.Kind, f.MediaType = kindOf(s.Name, data)
	if ext := extension(s.Name); ext != "" {
		agrees := slices.Contains(kinds[f.Kind].extensions, ext)
		f.ExtensionAgrees = &agrees
	}
	return f
}

// looksInto says whether a kind's content is looked at.
func looksInto(kind string) bool {
	switch kind {
	case "pdf",
		"docx",
		"docm",
		"odt",
		"ods",
		"odp",
		"rtf",
		"pptx",
		"xlsx",
		"xlsm",
		"png",
		"jpeg",
		"gif",
		"webp",
		"bmp",
		"tiff",
		"zip",
		"txt",
		"md",
		"html",
		"csv",
		"tsv":
		return true
	}
	return false
}

func (f *Facts) look(data []byte) {
	defer func() {
		if r := recover(); r != nil {
			f.problem("damaged", "", "The file breaks off or contradicts itself, so not all of it could be read.")
		}
	}()
	if locked(data) {
		f.locked()
		return
	}
	switch f.Kind {
	case "pdf":
		f.pdf(data)
	case "docx", "docm":
		f.docx(data)
	case "odt":
		f.odt(data)
	case "ods":
		f.ods(data)
	case "odp":
		f.odp(data)
	case "rtf":
		f.rtf(data)
	case "pptx":
		f.pptx(data)
	case "xlsx", "xlsm":
		f.xlsx(data)
	case "png", "jpeg", "gif", "webp", "bmp", "tiff":
		f.picture(data)
	case "zip":
		f.zip(data)
	case "txt", "md", "html", "csv", "tsv":
		f.text(data)
	case "heic":
		f.heic(data)
	case "empty":
		f.problem("damaged", "", "The file is empty.")
	case "unknown":
	case "mp3", "m4a", "wav", "ogg", "flac", "mp4", "mov", "webm", "mkv": // what is in it is added by who can open it
	default:
		f.problem("unsupported", "", "What is in a file of kind %s is not looked at yet.", f.Kind)
	}
}

func extension(name string) string {
	return strings.ToLower(strings.TrimPrefix(path.Ext(name), "."))
}

// countWords counts the runs between white space that hold a letter or digit.
func countWords(text string) int {
	n := 0
	for _, field := range strings.FieldsFunc(text, unicode.IsSpace) {
		if strings.ContainsFunc(field, func(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }) {
			n++
		}
	}
	return n
}

// AddPageTexts adds what follows from the text of a PDF's pages: the words, and the share of pages
// that hold any text.
func (f *Facts) AddPageTexts(pages []string) {
	words, with := 0, 0
	for _, text := range pages {
		words += countWords(text)
		if strings.ContainsFunc(text, func(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }) {
			with++
		}
	}
	f.Words = &words
	if len(pages) > 0 {
		share := float64(with) / float64(len(pages))
		f.TextLayerShare = &share
	}
}
