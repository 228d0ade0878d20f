// Package brief holds what an assignment asks for as requirements that can be checked, checks a bundle
// against them, and says how far an assignment has come.
package brief

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"orario/core/inspect"
	"orario/core/naming"
	"orario/core/wording"
)

// A Sheet is the requirements of one assignment.
type Sheet struct {
	Slots         []Slot   `json:"slots"`
	Name          string   `json:"name,omitempty"` // pattern of package naming
	NameIsHabit   bool     `json:"-"`              // the pattern is the student's own; no brief asks for it
	PlainNames    bool     `json:"plain_names,omitempty"`
	MaxTotalBytes int64    `json:"max_total_bytes,omitempty"`
	Attempts      Attempts `json:"attempts"`
	Declaration   string   `json:"declaration,omitempty"` // the text to agree to
	Report        *Report  `json:"report,omitempty"`
}

// A Slot is a place in the bundle that the brief asks for.
type Slot struct {
	Name             string   `json:"name"`
	Required         bool     `json:"required"`
	Most             int      `json:"most,omitempty"`  // files; 0: nobody said, so one is reckoned with
	Forms            []string `json:"forms,omitempty"` // kinds of package inspect; none: any
	MaxBytes         int64    `json:"max_bytes,omitempty"`
	Pages            *Range   `json:"pages,omitempty"`
	Words            *Range   `json:"words,omitempty"`
	Seconds          *Range   `json:"seconds,omitempty"` // of sound and film
	TextLayer        bool     `json:"text_layer,omitempty"`
	NoTrackedChanges bool     `json:"no_tracked_changes,omitempty"`
}

// A Range is an amount with its bounds, either of which may be 0 for none.
type Range struct {
	Min int `json:"min,omitempty"`
	Max int `json:"max,omitempty"`
}

// Sound says why a sheet cannot be kept, if it cannot: amounts under 0, and bounds that nothing lies between.
func (s Sheet) Sound() error {
	if s.Attempts.Max < 0 || s.MaxTotalBytes < 0 {
		return errors.New("an amount that it asks for is under 0")
	}
	for _, slot := range s.Slots {
		if slot.Most < 0 || slot.MaxBytes < 0 {
			return fmt.Errorf("an amount that %q asks for is under 0", slot.Name)
		}
		for _, of := range []struct {
			what  string
			bound *Range
		}{{"pages", slot.Pages}, {"words", slot.Words}, {"seconds", slot.Seconds}} {
			if r := of.bound; r != nil && (r.Min < 0 || r.Max < 0 || r.Max > 0 && r.Min > r.Max) {
				return fmt.Errorf("%q asks for at least %d and at most %d %s", slot.Name, r.Min, r.Max, of.what)
			}
		}
	}
	return nil
}

// Attempts are how often work can be sent, and which attempt counts.
type Attempts struct {
	Max        int    `json:"max,omitempty"`    // 0: without limit
	Counts     string `json:"counts,omitempty"` // best, latest, first or mean
	Invitation bool   `json:"invitation,omitempty"`
}

// Report says that work is checked for similarity, and how many drafts may be.
type Report struct {
	Drafts int `json:"drafts"`
}

// Where a requirement comes from.
const (
	FromSite   = "site"   // published by the course site
	FromYou    = "yours"  // set or confirmed by the student
	FromCourse = "course" // proposed by the course's habit, to be confirmed
	FromText   = "read"   // read in the instructions, to be confirmed
)

// A Requirement is one line of the brief as shown. Ask is its place in the student's own brief, counted
// from 1; 0 where it is not from there.
type Requirement struct {
	Key     string `json:"key"`
	Text    string `json:"text"`
	From    string `json:"from"`
	Settled bool   `json:"settled"`
	Ask     int    `json:"ask"`
	Singly  bool   `json:"singly"` // it is confirmed by itself
}

// Own is what the student adds to a brief: the pattern for names where the site gives none, and of an
// assignment that no site publishes everything that is asked. NameSet says that the pattern was settled,
// also as "none".
type Own struct {
	Name    string `json:"name,omitempty"`
	NameSet bool   `json:"name_set,omitempty"`
	Asks    []Ask  `json:"asks,omitempty"`
}

// Merge is the sheet as it applies, and its requirements in reading order. habit is the course's own
// name pattern, which is proposed and applies only once confirmed.
func Merge(site Sheet, own Own, habit string) (Sheet, []Requirement) {
	sheet := site
	list := []Requirement{}
	add := func(key, text string) {
		list = append(list, Requirement{Key: key, Text: text, From: FromSite, Settled: true})
	}
	if len(own.Asks) > 0 {
		return mergeOwn(sheet, own, habit)
	}
	var names []string
	for _, s := range site.Slots {
		name := s.Name
		if !s.Required {
			name += " (if you like)"
		}
		names = append(names, name)
	}
	add("files", strings.Join(names, ", "))
	for _, s := range site.Slots {
		of := ""
		if len(site.Slots) > 1 {
			of = s.Name + ": "
		}
		if len(s.Forms) > 0 {
			add("forms", of+Forms(s.Forms))
		}
		if s.MaxBytes > 0 {
			add("size", of+"at most "+wording.Bytes(s.MaxBytes))
		}
		if s.Pages != nil {
			add("pages", of+s.Pages.String())
		}
		if s.Words != nil {
			add("words", of+s.Words.String())
		}
		if s.Seconds != nil {
			add("length", of+s.Seconds.String()+" s")
		}
		if s.TextLayer {
			add("text", of+"searchable, no pictures of text")
		}
		if s.NoTrackedChanges {
			add("changes", of+"no tracked changes left open")
		}
	}
	if site.MaxTotalBytes > 0 {
		add("size", "together at most "+wording.Bytes(site.MaxTotalBytes))
	}
	if site.Name != "" {
		add("name", site.Name)
	} else {
		list = append(list, ownName(&sheet, own, habit)...)
	}
	add("attempts", site.Attempts.String())
	if site.Report != nil {
		add("report", fmt.Sprintf("checked for similarity, %d drafts", site.Report.Drafts))
	}
	if site.Declaration != "" {
		add("declaration", "you confirm that this is your own work")
	}
	return sheet, list
}

// mergeOwn is the requirements of an assignment that the student put down herself.
func mergeOwn(sheet Sheet, own Own, habit string) (Sheet, []Requirement) {
	list := []Requirement{}
	for n, a := range own.Asks {
		label, text := a.Said()
		list = append(list, Requirement{label, text, a.From, a.Settled, n + 1, Singly(a, own.Asks)})
	}
	if sheet.Name == "" {
		list = append(list, ownName(&sheet, own, habit)...)
	}
	return sheet, list
}

// ownName is the pattern for names where the brief gives none.
func ownName(sheet *Sheet, own Own, habit string) []Requirement {
	switch {
	case own.NameSet:
		sheet.Name, sheet.NameIsHabit = own.Name, true
		return []Requirement{{Key: "name", Text: orText(own.Name, "as you like"), From: FromYou, Settled: true}}
	case habit != "":
		return []Requirement{{Key: "name", Text: habit, From: FromCourse}}
	}
	return nil
}

func orText(text, otherwise string) string {
	if text == "" {
		return otherwise
	}
	return text
}

func (r Range) String() string {
	switch {
	case r.Min == r.Max:
		return fmt.Sprint(r.Min)
	case r.Min == 0:
		return fmt.Sprintf("at most %d", r.Max)
	case r.Max == 0:
		return fmt.Sprintf("at least %d", r.Min)
	}
	return fmt.Sprintf("%d to %d", r.Min, r.Max)
}

// Holds says whether a number is within the range.
func (r Range) Holds(n int) bool { return n >= r.Min && (r.Max == 0 || n <= r.Max) }

func (a Attempts) String() string {
	text := "without limit"
	if a.Max > 0 {
		text = fmt.Sprintf("%d", a.Max)
	}
	if a.Counts != "" && a.Max != 1 {
		text += ", the " + a.Counts + " counts"
	}
	if a.Invitation {
		text += ", again only on invitation"
	}
	return text
}

// Slot finds a slot by its name.
func (s Sheet) Slot(name string) (Slot, bool) {
	i := slices.IndexFunc(s.Slots, func(slot Slot) bool { return slot.Name == name })
	if i < 0 {
		return Slot{}, false
	}
	return s.Slots[i], true
}

// Room is how many files a slot takes.
func (s Slot) Room() int { return max(1, s.Most) }

// Takes says whether a slot takes a file of a kind. A form that is no kind of its own (package inspect), such as the
// "r" of a script, is told by the name's extension.
func (s Slot) Takes(kind, name string) bool {
	_, ext := naming.Split(name)
	ext = strings.ToLower(ext)
	return len(s.Forms) == 0 || slices.Contains(s.Forms, kind) ||
		slices.Contains(s.Forms, ext) && !inspect.IsKind(ext)
}

// SlotFor is the slot that a new file of some kind goes into: the first with room that accepts its
// kind, else the first with room that could take it once converted, else the first of all.
func (s Sheet) SlotFor(kind string, filled map[string]int) string {
	for _, accepts := range []func(Slot) bool{
		func(slot Slot) bool { return len(slot.Forms) == 0 || slices.Contains(slot.Forms, kind) },
		func(slot Slot) bool { return convertible(kind, slot.Forms) != "" },
		func(Slot) bool { return true },
	} {
		for _, slot := range s.Slots {
			if filled[slot.Name] < slot.Room() && accepts(slot) {
				return slot.Name
			}
		}
	}
	if len(s.Slots) == 0 {
		return ""
	}
	return s.Slots[0].Name
}

// documents are the kinds that an office program turns into PDF.
var documents = []string{"docx", "docm", "doc", "odt", "rtf", "pptx", "ppt", "odp", "xlsx", "xls", "ods", "txt"}

// convertible is the accepted form that a kind can be converted into, or "".
// convertible is the fix that makes a PDF of a kind of file where one is taken; empty: there is none.
func convertible(kind string, forms []string) (fix string) {
	switch {
	case !slices.Contains(forms, "pdf"):
		return ""
	case slices.Contains(documents, kind):
		return "convert"
	case IsPhotograph(kind):
		return "scan"
	}
	return ""
}

// IsPhotograph says whether a kind of file is a picture that can become a page.
func IsPhotograph(kind string) bool {
	return slices.Contains([]string{"jpeg", "png", "heic", "webp", "tiff"}, kind)
}
