package brief

import (
	"regexp"
	"strings"

	"orario/core/finding"
	"orario/core/naming"
)

// wanted is the name that the brief's pattern asks for, or with no pattern the present one with the
// extension that fits.
func (b Bundle) wanted(item Item, ext string) string {
	stem, had := naming.Split(item.Name)
	if ext = conventional(ext, had); b.Sheet.Name == "" {
		return stem + "." + ext
	}
	pattern, err := b.pattern(ext)
	if err != nil {
		return stem + "." + ext
	}
	name, _, err := naming.Make(pattern, b.fields(item, ext), b.Sheet.PlainNames)
	if err != nil {
		return stem + "." + ext
	}
	return name
}

// NameFor is the name that the brief asks for a file.
func (b Bundle) NameFor(item Item) string { return b.wanted(item, item.Facts.Kind) }

// endings are the extensions that are written out in patterns, as in "Familyname_HYD214.pdf".
var endings = regexp.MustCompile(`(?i)\.(pdf|docx?|odt|rtf|txt|md|html?|pptx?|xlsx?|csv|` +
	`jpe?g|png|heic|zip|mp[34]|m4a|wav|mov)$`)

// pattern is the brief's pattern for a file with an extension. What is written out as the extension stands for that
// of the file: which kinds are taken is another requirement.
func (b Bundle) pattern(ext string) (naming.Pattern, error) {
	text := endings.ReplaceAllString(b.Sheet.Name, "")
	if text == "" {
		text = b.Sheet.Name
	}
	return naming.Parse(strings.TrimSuffix(text, "."+ext))
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

func (b Bundle) checkName(said *sayings, item Item, ext string, converts bool, alike likeness) {
	want := b.wanted(item, ext)
	fix := func(f *Finding) {
		if !converts && want != item.Name {
			f.Fix, f.Becomes = "rename", want
		}
	}
	if b.Sheet.Name != "" {
		pattern, err := b.pattern(ext)
		if err != nil {
			said.say(
				"pattern",
				finding.Must,
				"The brief's name pattern cannot be read: %v. Correct it in the brief.",
				err,
			)
			return
		}
		if want != item.Name && !converts {
			fields := b.fields(item, conventional(ext, ""))
			agrees, parts, err := naming.Read(pattern, fields, b.Sheet.PlainNames, item.Name)
			if err == nil && !agrees {
				weight := finding.Must
				if b.Sheet.NameIsHabit {
					weight = finding.Should
				}
				fix(said.say("name", weight, "The name %s. It should be %s.", lacks(parts), want))
			}
		}
	} else if facts := item.Facts; facts.ExtensionAgrees != nil && !*facts.ExtensionAgrees && !converts {
		fix(said.say("extension", finding.Should, "The name says something else than the content, which is %s.",
			called(facts.Kind)))
	}
	for _, p := range naming.Lint(item.Name, alike.names, b.Sheet.PlainNames) {
		if p.Code != "anyone" || b.Sheet.Name == "" {
			said.say("name_"+p.Code, p.Weight, "%s", p.Message)
		}
	}
}

var fieldNames = map[string]string{
	"family":     "your family name",
	"given":      "your given name",
	"initials":   "your initials",
	"number":     "your student number",
	"course":     "the course",
	"section":    "the section",
	"assignment": "the assignment",
	"title":      "the title",
	"slot":       "what it is",
	"attempt":    "the attempt",
	"date":       "the date",
}

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
