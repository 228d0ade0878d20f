package brief

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"orario/core/finding"
	"orario/core/inspect"
	"orario/core/naming"
	"orario/core/timing"
	"orario/core/wording"
)

// A Finding is something about a bundle that must, should or could be looked at. Item is the id of the item it is
// about, 0 for the bundle as a whole. Fix names what one press can do: rename; convert a document to PDF; scan a
// photograph to a page; together, all photographs of a slot to one PDF; searchable, a text layer; smaller; clean,
// without changes, comments and positions; newest, the version that came in last.
type Finding struct {
	Code    string         `json:"code"`
	Weight  finding.Weight `json:"weight"`
	Item    int64          `json:"item"`
	Slot    string         `json:"slot"`
	Message string         `json:"message"`
	Fix     string         `json:"fix"`
	Becomes string         `json:"becomes"` // the name after the fix
}

// An Item is a file in a slot of the bundle.
type Item struct {
	ID    int64
	Slot  string
	Name  string // under which it will be sent
	Facts *inspect.Facts
	Newer bool // a version of it that came in later lies in the library
}

// A Bundle is all that is needed to check what will be sent.
type Bundle struct {
	Sheet    Sheet
	Items    []Item
	Fields   naming.Fields     // of the student, course and assignment; slot and ext are added here
	Handouts map[string]string // digests of what the instructor gave out, with their names
	Window   timing.Window
	Late     timing.Rule
	Now      time.Time
	SendBy   time.Time
}

// Check finds everything that stands between a bundle and its being sent. Findings are in the order of
// the bundle, must fix first within each file.
func Check(b Bundle) []Finding {
	found := []Finding{}
	add := func(f Finding) { found = append(found, f) }
	filled := map[string]int{}
	for _, item := range b.Items {
		filled[item.Slot]++
	}
	for _, slot := range b.Sheet.Slots {
		if slot.Required && filled[slot.Name] == 0 {
			add(Finding{
				Code:    "slot_empty",
				Weight:  finding.Must,
				Slot:    slot.Name,
				Message: fmt.Sprintf("Nothing is in the slot %q yet. Add a file.", slot.Name),
			})
		}
		if f := b.tooMany(slot, filled[slot.Name]); f != nil {
			add(*f)
		}
	}
	var total int64
	alike := likenesses(b.Items)
	for i, item := range b.Items {
		total += item.Facts.Bytes
		slot, _ := b.Sheet.Slot(item.Slot)
		of := b.checkItem(item, slot, alike[i])
		slices.SortStableFunc(of, func(x, y Finding) int { return x.Weight.Rank() - y.Weight.Rank() })
		for _, f := range of {
			f.Item, f.Slot = item.ID, item.Slot
			add(f)
		}
	}
	if most := b.Sheet.MaxTotalBytes; most > 0 && total > most {
		add(Finding{
			Code:   "total_too_large",
			Weight: finding.Must,
			Message: fmt.Sprintf(
				"The files have %s together; %s are taken. Make one smaller.",
				wording.Bytes(total),
				wording.Bytes(most),
			),
		})
	}
	return append(found, b.checkTime()...)
}

// MustFix counts the findings that keep work from being sent.
func MustFix(findings []Finding) (n int) {
	for _, f := range findings {
		if f.Weight == finding.Must {
			n++
		}
	}
	return n
}

// tooMany is what is wrong with n files in a slot: more than it takes, or several where nobody said.
func (b Bundle) tooMany(slot Slot, n int) *Finding {
	if n < 2 {
		return nil
	}
	f := &Finding{Code: "slot_full", Slot: slot.Name}
	if len(b.Photographs(slot.Name)) > 1 && (len(slot.Forms) == 0 || slices.Contains(slot.Forms, "pdf")) {
		f.Fix = "together"
	}
	switch {
	case slot.Most > 0 && n > slot.Most:
		f.Weight = finding.Must
		f.Message = fmt.Sprintf("%d files are in the slot %q, which takes %d. Take one out.", n, slot.Name, slot.Most)
	case slot.Most == 0 && n > 1:
		f.Weight = finding.Should
		f.Message = fmt.Sprintf("%d files are in the slot %q; the brief does not say how many it takes. "+
			"Check that all belong there.", n, slot.Name)
	default:
		return nil
	}
	return f
}

// Photographs are the pictures in a slot, which can become pages of one PDF.
func (b Bundle) Photographs(slot string) (list []Item) {
	for _, i := range b.Items {
		if i.Slot == slot && IsPhotograph(i.Facts.Kind) {
			list = append(list, i)
		}
	}
	return list
}

// A likeness is what a file has in common with the others of its bundle.
type likeness struct {
	content string   // the name of an earlier one with the same content; empty: none
	names   []string // the name of another one that is the same where capitals do not count
}

// likenesses finds what the files of a bundle have in common, in one pass over them.
func likenesses(items []Item) []likeness {
	out := make([]likeness, len(items))
	content, names := map[string]int{}, map[string]int{}
	for i, item := range items {
		if first, ok := content[item.Facts.SHA256]; ok {
			out[i].content = items[first].Name
		} else {
			content[item.Facts.SHA256] = i
		}
		folded := naming.Fold(item.Name)
		if first, ok := names[folded]; ok {
			out[i].names = []string{items[first].Name}
			out[first].names = []string{item.Name}
		} else {
			names[folded] = i
		}
	}
	return out
}

func (b Bundle) checkItem(item Item, slot Slot, alike likeness) []Finding {
	var said sayings
	b.checkForm(&said, item, slot, alike)
	b.checkContent(&said, item.Facts, slot)
	said.checkExtras(item.Facts, slot)
	if handout, ok := b.Handouts[item.Facts.SHA256]; ok {
		said.say("handout", finding.Must, "This is the handout %q itself, unedited. Choose your own file.", handout)
	}
	if item.Newer {
		said.say("older_version", finding.Should, "A newer version of it lies in the Library. Put that in if "+
			"it is the one that you mean.").Fix = "newest"
	}
	if alike.content != "" {
		said.say("twice", finding.Must, "It is the same file as %q. Take one out.", alike.content)
	}
	return said
}

// sayings are the findings about one file.
type sayings []Finding

func (s *sayings) say(code string, weight finding.Weight, message string, args ...any) *Finding {
	*s = append(*s, Finding{Code: code, Weight: weight, Message: fmt.Sprintf(message, args...)})
	return &(*s)[len(*s)-1]
}

// checkForm holds a file's kind and then its name against what the slot takes; a conversion renames as well.
func (b Bundle) checkForm(said *sayings, item Item, slot Slot, alike likeness) {
	ext := item.Facts.Kind
	converts := false
	if !slot.Takes(ext, item.Name) {
		asked := Forms(slot.Forms)
		f := said.say("form", finding.Must, "The brief asks for %s; this is %s.", asked, called(ext))
		if fix := convertible(ext, slot.Forms); fix != "" {
			f.Fix, ext, converts = fix, "pdf", true
			f.Becomes = b.wanted(item, ext)
		} else {
			f.Message += " Save it in an accepted form and add it again."
		}
	}
	b.checkName(said, item, ext, converts, alike)
}

// checkContent holds what a file has in it against what the slot asks for.
func (b Bundle) checkContent(said *sayings, facts *inspect.Facts, slot Slot) {
	for _, p := range facts.Problems {
		if p.Code == "damaged" || p.Code == "truncated" || p.Code == "encrypted" {
			said.say(p.Code, finding.Must, "%s The marker could not open it. Export it again.", p.Message)
		}
	}
	if facts.Unseen() {
		said.say("unseen", finding.Should, "It could not be looked at yet, so what is in it is not checked. "+
			"That is done again by itself.")
	}
	if facts.Kind == "empty" {
		said.say("empty_file", finding.Must, "The file is empty. Choose another.")
	}
	if slot.MaxBytes > 0 && facts.Bytes > slot.MaxBytes {
		f := said.say("too_large", finding.Must, "It has %s; at most %s are taken. Make it smaller.",
			wording.Bytes(facts.Bytes), wording.Bytes(slot.MaxBytes))
		if facts.Kind == "pdf" || facts.Kind == "jpeg" {
			f.Fix = "smaller"
		}
	}
	if slot.Pages != nil && facts.Pages != nil && !slot.Pages.Holds(*facts.Pages) {
		said.say("pages", finding.Must, "It has %d pages; the brief asks for %s.", *facts.Pages, slot.Pages)
	}
	if slot.Words != nil && facts.Words != nil && !slot.Words.Holds(*facts.Words) {
		said.say("words", finding.Should, "It has %d words; the brief asks for %s.", *facts.Words, slot.Words)
	}
	if slot.Seconds != nil && facts.Seconds != nil && !slot.Seconds.Holds(int(math.Round(*facts.Seconds))) {
		said.say("seconds", finding.Should, "It lasts %.0f s; the brief asks for %s s. Cut it, or record it again.",
			*facts.Seconds, slot.Seconds)
	}
	if facts.TextLayerShare != nil && *facts.TextLayerShare < 1 && (slot.TextLayer || b.Sheet.Report != nil) {
		weight := finding.Should
		if slot.TextLayer || *facts.TextLayerShare == 0 && b.Sheet.Report != nil {
			weight = finding.Must
		}
		f := said.say(
			"text_layer",
			weight,
			"%.0f %% of its pages hold text that can be read; a report reads text, not "+
				"pictures. Export it from the program you wrote it in, or have its pages read.",
			100**facts.TextLayerShare,
		)
		f.Fix = "searchable"
	}
}

// cleanable is the fix for what a kind of file carries beside its content, where there is one here.
func cleanable(kind string) string {
	if slices.Contains([]string{"docx", "odt", "pptx", "xlsx", "pdf", "jpeg", "png", "tiff", "heic"}, kind) {
		return "clean"
	}
	return ""
}

// checkExtras tells what a file carries that its reader should not find.
func (s *sayings) checkExtras(facts *inspect.Facts, slot Slot) {
	if facts.TrackedChanges != nil && *facts.TrackedChanges > 0 {
		weight := finding.Should
		if slot.NoTrackedChanges {
			weight = finding.Must
		}
		s.say("tracked_changes", weight, "%d tracked changes are still open. Have them accepted here, or reject "+
			"them in your word processor.", *facts.TrackedChanges).Fix = cleanable(facts.Kind)
	}
	if facts.Comments != nil && *facts.Comments > 0 {
		s.say("comments", finding.Should, "%d comments are still in it. Have them taken out if they are not meant "+
			"for the marker.", *facts.Comments).Fix = cleanable(facts.Kind)
	}
	if facts.Placeholders != nil && len(*facts.Placeholders) > 0 {
		s.say("placeholder", finding.Should, "A gap of the template is still there: %q.", (*facts.Placeholders)[0])
	}
	if facts.FontsNotEmbedded != nil && len(*facts.FontsNotEmbedded) > 0 {
		fonts := strings.Join(*facts.FontsNotEmbedded, ", ")
		s.say("fonts", finding.Note, "Not embedded: %s. It may look different elsewhere.", fonts)
	}
	if facts.HasPosition != nil && *facts.HasPosition {
		s.say("position", finding.Note, "The picture tells where it was taken.").Fix = cleanable(facts.Kind)
	}
}

var kindNames = map[string]string{
	"docx":    "a Word document",
	"docm":    "a Word document with macros",
	"doc":     "an old Word document",
	"odt":     "an OpenDocument text",
	"unknown": "of a form Orario does not know",
	"empty":   "empty",
	"txt":     "plain text",
	"csv":     "a CSV table",
	"zip":     "a ZIP archive",
}

func called(kind string) string { return cmp.Or(kindNames[kind], strings.ToUpper(kind)) }

func (b Bundle) checkTime() []Finding {
	state, next := b.Window.At(b.Now, b.Late)
	switch state {
	case timing.NotOpen:
		return []Finding{{Code: "not_open", Weight: finding.Must, Message: "It cannot be sent before it opens."}}
	case timing.Closed:
		return []Finding{
			{
				Code:    "closed",
				Weight:  finding.Must,
				Message: "The site takes nothing any more. Ask the instructor for an extension.",
			},
		}
	case timing.Late:
		return []Finding{
			{
				Code:    "late",
				Weight:  finding.Should,
				Message: "It is late: sending now costs something, waiting may cost more.",
			},
		}
	}
	if b.Now.After(b.SendBy) {
		return []Finding{
			{
				Code:   "past_send_by",
				Weight: finding.Should,
				Message: fmt.Sprintf(
					"Send-by has passed; %s are left until it counts as late.",
					wording.Span(next.Sub(b.Now)),
				),
			},
		}
	}
	return nil
}
