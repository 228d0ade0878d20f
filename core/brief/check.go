package brief

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/finding"
	"orario/core/inspect"
	"orario/core/naming"
	"orario/core/timing"
	"orario/core/wording"
)

// A Finding is something about a bundle that must, should or could be looked at. Item is the id of the
// item it is about, 0 for the bundle as a whole. Fix names what one press can do: rename or convert.
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
			add(Finding{Code: "slot_empty", Weight: finding.Must, Slot: slot.Name, Message: fmt.Sprintf("Nothing is in the slot %q yet. Add a file.", slot.Name)})
		}
		switch n := filled[slot.Name]; {
		case slot.Most > 0 && n > slot.Most:
			add(Finding{Code: "slot_full", Weight: finding.Must, Slot: slot.Name, Message: fmt.Sprintf("%d files are in the slot %q, which takes %d. Take one out.", n, slot.Name, slot.Most)})
		case slot.Most == 0 && n > 1:
			add(Finding{Code: "slot_full", Weight: finding.Should, Slot: slot.Name, Message: fmt.Sprintf("%d files are in the slot %q; the brief does not say how many it takes. Check that all belong there.", n, slot.Name)})
		}
	}
	var total int64
	for i, item := range b.Items {
		total += item.Facts.Bytes
		slot, _ := b.Sheet.Slot(item.Slot)
		of := b.checkItem(item, slot, i)
		slices.SortStableFunc(of, func(x, y Finding) int { return x.Weight.Rank() - y.Weight.Rank() })
		for _, f := range of {
			f.Item, f.Slot = item.ID, item.Slot
			add(f)
		}
	}
	if most := b.Sheet.MaxTotalBytes; most > 0 && total > most {
		add(Finding{Code: "total_too_large", Weight: finding.Must, Message: fmt.Sprintf("The files have %s together; %s are taken. Make one smaller.", wording.Bytes(total), wording.Bytes(most))})
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

func (b Bundle) checkItem(item Item, slot Slot, position int) (found []Finding) {
	facts := item.Facts
	say := func(code string, weight finding.Weight, message string, args ...any) *Finding {
		found = append(found, Finding{Code: code, Weight: weight, Message: fmt.Sprintf(message, args...)})
		return &found[len(found)-1]
	}
	ext := facts.Kind
	if len(slot.Forms) > 0 && !slices.Contains(slot.Forms, facts.Kind) {
		f := say("form", finding.Must, "The brief asks for %s; this is %s.", strings.ToUpper(strings.Join(slot.Forms, " or ")), called(facts.Kind))
		if form := Convertible(facts.Kind, slot.Forms); form != "" {
			f.Fix, ext = "convert", form
			f.Becomes = b.wanted(item, ext)
		} else {
			f.Message += " Save it in an accepted form and add it again."
		}
	}
	b.checkName(item, ext, &found, say)
	for _, p := range facts.Problems {
		if p.Code == "damaged" || p.Code == "truncated" || p.Code == "encrypted" {
			say(p.Code, finding.Must, "%s The marker could not open it. Export it again.", p.Message)
		}
	}
	if facts.Kind == "empty" {
		say("empty_file", finding.Must, "The file is empty. Choose another.")
	}
	if slot.MaxBytes > 0 && facts.Bytes > slot.MaxBytes {
		say("too_large", finding.Must, "It has %s; at most %s are taken. Make it smaller.", wording.Bytes(facts.Bytes), wording.Bytes(slot.MaxBytes))
	}
	if slot.Pages != nil && facts.Pages != nil && !slot.Pages.holds(*facts.Pages) {
		say("pages", finding.Must, "It has %d pages; the brief asks for %s.", *facts.Pages, slot.Pages)
	}
	if slot.Words != nil && facts.Words != nil && !slot.Words.holds(*facts.Words) {
		say("words", finding.Should, "It has %d words; the brief asks for %s.", *facts.Words, slot.Words)
	}
	if facts.TextLayerShare != nil && *facts.TextLayerShare < 1 && (slot.TextLayer || b.Sheet.Report != nil) {
		weight := finding.Should
		if slot.TextLayer || *facts.TextLayerShare == 0 && b.Sheet.Report != nil {
			weight = finding.Must
		}
		say("text_layer", weight, "%.0f %% of its pages hold text that can be read; a report reads text, not pictures. Export it from the program you wrote it in.", 100**facts.TextLayerShare)
	}
	if facts.TrackedChanges != nil && *facts.TrackedChanges > 0 {
		weight := finding.Should
		if slot.NoTrackedChanges {
			weight = finding.Must
		}
		say("tracked_changes", weight, "%d tracked changes are still open. Accept or reject them in your word processor.", *facts.TrackedChanges)
	}
	if facts.Comments != nil && *facts.Comments > 0 {
		say("comments", finding.Should, "%d comments are still in it. Delete them if they are not meant for the marker.", *facts.Comments)
	}
	if facts.Placeholders != nil && len(*facts.Placeholders) > 0 {
		say("placeholder", finding.Should, "A gap of the template is still there: %q.", (*facts.Placeholders)[0])
	}
	if facts.FontsNotEmbedded != nil && len(*facts.FontsNotEmbedded) > 0 {
		say("fonts", finding.Note, "Not embedded: %s. It may look different elsewhere.", strings.Join(*facts.FontsNotEmbedded, ", "))
	}
	if facts.HasPosition != nil && *facts.HasPosition {
		say("position", finding.Note, "The picture tells where it was taken.")
	}
	if handout, ok := b.Handouts[facts.SHA256]; ok {
		say("handout", finding.Must, "This is the handout %q itself, unedited. Choose your own file.", handout)
	}
	for _, other := range b.Items[:position] {
		if other.Facts.SHA256 == facts.SHA256 {
			say("twice", finding.Must, "It is the same file as %q. Take one out.", other.Name)
		}
	}
	return found
}

// wanted is the name that the brief's pattern asks for, or with no pattern the present one with the
// extension that fits.
func (b Bundle) wanted(item Item, ext string) string {
	stem, had := naming.Split(item.Name)
	if ext = conventional(ext, had); b.Sheet.Name == "" {
		return stem + "." + ext
	}
	pattern, err := naming.Parse(b.Sheet.Name)
	if err != nil {
		return stem + "." + ext
	}
	name, _, err := naming.Make(pattern, b.fields(item, ext), b.Sheet.PlainNames)
	if err != nil {
		return stem + "." + ext
	}
	return name
}

func (b Bundle) fields(item Item, ext string) naming.Fields {
	fields := naming.Fields{}
	for k, v := range b.Fields {
		fields[k] = v
	}
	fields["slot"], fields["ext"] = item.Slot, ext
	return fields
}

// conventional is the extension that a file of a kind carries: its own if that is one in use.
func conventional(kind, had string) string {
	had = strings.ToLower(had)
	if kind == "jpeg" {
		if had == "jpeg" {
			return "jpeg"
		}
		return "jpg"
	}
	if kind == "unknown" || kind == "empty" {
		return had
	}
	return kind
}

func (b Bundle) checkName(item Item, ext string, found *[]Finding, say func(string, finding.Weight, string, ...any) *Finding) {
	want := b.wanted(item, ext)
	converts := len(*found) > 0 && (*found)[0].Fix == "convert" // which renames as well
	fix := func(f *Finding) {
		if !converts && want != item.Name {
			f.Fix, f.Becomes = "rename", want
		}
	}
	if b.Sheet.Name != "" {
		pattern, err := naming.Parse(b.Sheet.Name)
		if err != nil {
			say("pattern", finding.Must, "The brief's name pattern cannot be read: %v. Correct it in the brief.", err)
			return
		}
		if want != item.Name && !converts {
			if agrees, parts, err := naming.Read(pattern, b.fields(item, conventional(ext, "")), b.Sheet.PlainNames, item.Name); err == nil && !agrees {
				weight := finding.Must
				if b.Sheet.NameIsHabit {
					weight = finding.Should
				}
				fix(say("name", weight, "The name %s. It should be %s.", lacks(parts), want))
			}
		}
	} else if facts := item.Facts; facts.ExtensionAgrees != nil && !*facts.ExtensionAgrees && !converts {
		fix(say("extension", finding.Should, "The name says something else than the content, which is %s.", called(facts.Kind)))
	}
	var beside []string
	for _, other := range b.Items {
		if other.ID != item.ID {
			beside = append(beside, other.Name)
		}
	}
	for _, p := range naming.Lint(item.Name, beside, b.Sheet.PlainNames) {
		if p.Code != "anyone" || b.Sheet.Name == "" {
			say("name_"+p.Code, p.Weight, "%s", p.Message)
		}
	}
}

var fieldNames = map[string]string{"family": "your family name", "given": "your given name", "initials": "your initials", "number": "your student number",
	"course": "the course", "section": "the section", "assignment": "the assignment", "title": "the title", "slot": "what it is", "attempt": "the attempt", "date": "the date"}

// lacks says what is wrong with a name: "lacks your family name and the course".
func lacks(parts []naming.Reading) string {
	var missing []string
	for _, p := range parts {
		if name, ok := fieldNames[p.Field]; ok && !p.OK {
			missing = append(missing, name)
		}
	}
	switch len(missing) {
	case 0:
		return "is not as the brief asks"
	case 1:
		return "lacks " + missing[0]
	}
	return "lacks " + strings.Join(missing[:len(missing)-1], ", ") + " and " + missing[len(missing)-1]
}

var kindNames = map[string]string{"docx": "a Word document", "docm": "a Word document with macros", "doc": "an old Word document", "odt": "an OpenDocument text",
	"unknown": "of a form Orario does not know", "empty": "empty", "txt": "plain text", "csv": "a CSV table", "zip": "a ZIP archive"}

func called(kind string) string { return cmp.Or(kindNames[kind], strings.ToUpper(kind)) }

func (b Bundle) checkTime() []Finding {
	state, next := b.Window.At(b.Now, b.Late)
	switch state {
	case timing.NotOpen:
		return []Finding{{Code: "not_open", Weight: finding.Must, Message: "It cannot be sent before it opens."}}
	case timing.Closed:
		return []Finding{{Code: "closed", Weight: finding.Must, Message: "The site takes nothing any more. Ask the instructor for an extension."}}
	case timing.Late:
		return []Finding{{Code: "late", Weight: finding.Should, Message: "It is late: sending now costs something, waiting may cost more."}}
	}
	if b.Now.After(b.SendBy) {
		return []Finding{{Code: "past_send_by", Weight: finding.Should, Message: fmt.Sprintf("Send-by has passed; %s are left until it counts as late.", wording.Span(next.Sub(b.Now)))}}
	}
	return nil
}
