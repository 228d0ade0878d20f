// Package cleaning takes out of files what their readers are not meant to see: who made them and where, what was
// changed on the way, comments, programs. The words that a reader sees stay the same.
//
// It does no I/O. Office documents, pictures and texts are cleaned here; PDFs by what runs qpdf (package convert).
package cleaning

import (
	"fmt"
	"slices"
	"strings"
)

// Kinds of what can be taken out.
const (
	TrackedChanges = "tracked_changes" // accepted
	Comments       = "comments"        // with their replies; notes of cells; speaker notes
	Author         = "author"
	Position       = "position"
	HiddenText     = "hidden_text"
	Macros         = "macros"
	Attachments    = "attachments"
	FormFields     = "form_fields" // their content stays
	Metadata       = "metadata"    // company, thumbnail, template, camera, custom properties
)

// Kinds are all of them.
var Kinds = []string{
	TrackedChanges, Comments, Author, Position, HiddenText, Macros, Attachments, FormFields, Metadata,
}

// A Removed kind tells how much of it was taken out, and what.
type Removed struct {
	Kind   string `json:"kind"`
	Count  int    `json:"count"`
	Detail string `json:"detail"`
}

// inWords are the kinds.
var inWords = map[string]string{
	TrackedChanges: "tracked changes, accepted", Comments: "comments", Author: "names of authors",
	Position: "where it was taken", HiddenText: "hidden text", Macros: "macros", Attachments: "attached files",
	FormFields: "form fields, their content is text now", Metadata: "other data about the file",
}

// Sentence says what was taken out.
func (r Removed) Sentence() string {
	text := fmt.Sprintf("Taken out: %s (%d)", inWords[r.Kind], r.Count)
	if r.Detail != "" {
		text += ": " + r.Detail
	}
	return text
}

// A Log gathers what was taken out of one file, and knows what is to be kept.
type Log struct {
	keep    []string
	counts  map[string]int
	details map[string][]string
}

// NewLog is one for a file of which some kinds are kept.
func NewLog(keep []string) *Log {
	return &Log{keep: keep, counts: map[string]int{}, details: map[string][]string{}}
}

// Takes says whether a kind is taken out.
func (l *Log) Takes(kind string) bool { return !slices.Contains(l.keep, kind) }

// Took notes that something was taken out.
func (l *Log) Took(kind string, n int, detail string) {
	if n == 0 {
		return
	}
	l.counts[kind] += n
	if detail = strings.Join(strings.Fields(detail), " "); detail != "" && !slices.Contains(l.details[kind], detail) {
		l.details[kind] = append(l.details[kind], detail)
	}
}

// Removed lists what was taken out, in the order of [Kinds].
func (l *Log) Removed() []Removed {
	list := []Removed{}
	for _, kind := range Kinds {
		if n := l.counts[kind]; n > 0 {
			detail := l.details[kind]
			if len(detail) > 5 {
				detail = append(slices.Clone(detail[:5]), fmt.Sprintf("and %d more", len(detail)-5))
			}
			list = append(list, Removed{kind, n, strings.Join(detail, "; ")})
		}
	}
	return list
}

// A cleaner cleans a file of one kind.
type cleaner func(kind, to string, data []byte, l *Log) ([]byte, error)

// itself is a cleaner of a kind that stays itself.
func itself(clean func(data []byte, l *Log) ([]byte, error)) cleaner {
	return func(_, _ string, data []byte, l *Log) ([]byte, error) { return clean(data, l) }
}

// cleaners by the kinds that hold more than what is seen of them.
var cleaners = map[string]cleaner{
	"docx": office, "docm": office, "pptx": office, "xlsx": office, "xlsm": office,
	"odt": itself(openDocument), "odp": itself(openDocument), "ods": itself(openDocument),
	"jpeg": itself(jpeg), "png": itself(png),
}

// Cleans says whether there may be something to take out of files of a kind.
func Cleans(kind string) bool { return cleaners[kind] != nil }

// Clean cleans a file of some kind (package inspect); what is not known here is an error that says so.
func Clean(kind string, data []byte, to string, l *Log) ([]byte, error) {
	if clean := cleaners[kind]; clean != nil {
		return clean(kind, to, data, l)
	}
	switch kind {
	case "txt", "md", "csv", "tsv":
		return data, nil // nothing but what is seen is in them
	}
	return nil, fmt.Errorf("a file of the kind %s cannot be cleaned; convert it first", kind)
}
