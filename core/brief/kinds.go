package brief

import (
	"fmt"
	"strings"

	"orario/core/brief/prose"
	"orario/core/wording"
)

// A Kind of requirement: how it is called, how it is written, and what becomes of it in a sheet. All that is to be
// known of a kind stands here, but for the way it is read (package prose).
type Kind struct {
	Name    string `json:"kind"`
	Label   string `json:"label"`   // where one chooses what to ask for
	Example string `json:"example"` // as it can be written

	said  string   // the label of a brief; empty: the name
	leads []string // words that it lacks when it is written short
	tail  string   // what a bare number of it lacks
	value valued
}

// valued is what is done with the values of a kind, which all are of one type.
type valued struct {
	say  func(prose.Item) string
	take func(*Filled, prose.Item)
}

// of are values of one type: how they are said, and what becomes of them. Nothing becomes of those without take.
func of[T any](say func(T) string, take func(f *Filled, i prose.Item, v T)) valued {
	return valued{
		say: func(i prose.Item) string {
			if v, is := i.Value.(T); is {
				return say(v)
			}
			return ""
		},
		take: func(f *Filled, i prose.Item) {
			if v, is := i.Value.(T); is && take != nil {
				take(f, i, v)
			}
		},
	}
}

// Kinds are all kinds of requirements, in the order in which one chooses among them.
var Kinds = []Kind{
	{
		Name: "due", Label: "due", Example: "Fri 11 December, 23:59", leads: []string{"Due ", "Due on "},
		value: times(func(f *Filled, i prose.Item, at string) {
			f.Parts = append(f.Parts, Part{Name: i.Thing, Due: at})
		}),
	},
	{Name: "opens", Label: "opens", Example: "Mon 7 December, 9:00", leads: []string{"Due ", "Due on "},
		value: times(nil)},
	{Name: "closes", Label: "closes", Example: "Mon 14 December, 12:00", leads: []string{"Due ", "Due on "},
		value: times(nil)},
	{
		Name: "late", Label: "lateness", said: "lateness", Example: "10% per day, at most 50%",
		leads: []string{"Late work: ", "Late submissions lose ", "Penalty: "},
		value: of(sayLate, func(f *Filled, _ prose.Item, v prose.Late) { f.Late = lateRule(v) }),
	},
	{
		Name: "grace", Label: "grace", Example: "15 minutes", tail: " minutes",
		leads: []string{"Grace period of ", "There is a grace period of "},
		value: of(func(v int) string { return fmt.Sprintf("%d minutes without a price", v) },
			func(f *Filled, _ prose.Item, v int) { f.Grace = v }),
	},
	{
		Name: "points", Label: "points", Example: "20 points", leads: []string{"Worth ", "Total points: "},
		tail: " points",
		value: of(func(v float64) string { return fmt.Sprintf("%g points", v) },
			func(f *Filled, _ prose.Item, v float64) { f.Points = v }),
	},
	{
		Name: "attempts", Label: "attempts", Example: "three attempts, the best counts",
		leads: []string{"Attempts: ", "You have "}, tail: " attempts",
		value: of(sayAttempts, func(f *Filled, _ prose.Item, v prose.Attempts) {
			f.Sheet.Attempts.Max, f.Sheet.Attempts.Counts = v.Max, v.Counts
		}),
	},
	{
		Name: "forms", Label: "forms", Example: "PDF or DOCX", leads: []string{"Submit it as ", "Submit a file as "},
		value: of(Forms, func(f *Filled, i prose.Item, v []string) {
			if forms := files(v); len(forms) > 0 {
				f.each(i.Thing, func(s *Slot) { s.Forms = union(s.Forms, forms) })
			}
		}),
	},
	{
		Name: "slots", Label: "files, by name", said: "files", Example: "a report and a data table",
		leads: []string{"Submit two files: ", "Submit "},
		value: of(func(v []string) string { return strings.Join(v, ", ") }, nil), // [Fill] makes them first
	},
	{
		Name: "files", Label: "number of files", Example: "3 files", leads: []string{"Submit ", "At most "},
		tail: " files",
		value: bounds("files", func(f *Filled, _ prose.Item, r *Range) {
			if r.Max > 0 && len(f.Sheet.Slots) == 1 {
				f.Sheet.Slots[0].Most = r.Max
			}
		}),
	},
	{
		Name: "name", Label: "name of the file", Example: "{family}_{course}_{title:dash}",
		value: of(func(v string) string { return v }, func(f *Filled, _ prose.Item, v string) { f.Sheet.Name = v }),
	},
	{
		Name: "max_bytes", Label: "size of a file", said: "size", Example: "10 MB",
		leads: []string{"At most ", "Maximum file size "}, tail: " MB",
		value: of(sayBytes, func(f *Filled, i prose.Item, v int64) {
			f.each(i.Thing, func(s *Slot) { s.MaxBytes = v })
		}),
	},
	{
		Name: "max_total_bytes", Label: "size in all", said: "size in all", Example: "25 MB",
		leads: []string{"All files together at most "}, tail: " MB",
		value: of(sayBytes, func(f *Filled, _ prose.Item, v int64) { f.Sheet.MaxTotalBytes = v }),
	},
	{
		Name: "pages", Label: "pages", Example: "4 to 6 pages", leads: []string{"At most ", "Length: "}, tail: " pages",
		value: bounds("pages", func(f *Filled, i prose.Item, r *Range) {
			f.each(i.Thing, func(s *Slot) { s.Pages = r })
		}),
	},
	{
		Name: "words", Label: "words", Example: "800 to 1,000 words", leads: []string{"At most ", "Length: "},
		tail: " words",
		value: bounds("words", func(f *Filled, i prose.Item, r *Range) {
			f.each(i.Thing, func(s *Slot) { s.Words = r })
		}),
	},
	{
		Name: "seconds", Label: "length", said: "length", Example: "3 minutes", tail: " seconds",
		leads: []string{"A recording of ", "The recording lasts at most "},
		value: bounds("seconds", func(f *Filled, i prose.Item, r *Range) {
			f.each(i.Thing, func(s *Slot) { s.Seconds = r })
		}),
	},
	{
		Name: "text_layer", Label: "text", said: "text", Example: "searchable", leads: []string{"The text must be "},
		value: of(func(bool) string { return "searchable, no pictures of text" },
			func(f *Filled, i prose.Item, _ bool) { f.each(i.Thing, func(s *Slot) { s.TextLayer = true }) }),
	},
	{
		Name: "declaration", Label: "declaration", Example: "a declaration of own work",
		leads: []string{"Sign the ", "You must "},
		value: of(func(bool) string { return "you confirm that this is your own work" },
			func(f *Filled, _ prose.Item, _ bool) { f.Sheet.Declaration = "This is my own work." }),
	},
	{
		Name: "report", Label: "similarity report", Example: "checked for similarity, two drafts",
		leads: []string{"Similarity check: ", "Your work will be "},
		value: of(sayReport, func(f *Filled, _ prose.Item, v prose.Report) {
			if !v.Checked {
				return
			}
			f.Sheet.Report = &Report{}
			if v.Drafts != nil {
				f.Sheet.Report.Drafts = *v.Drafts
			}
		}),
	},
	{
		Name: "route", Label: "way", Example: "by e-mail", leads: []string{"Submit ", "Send it "},
		value: of(func(v string) string {
			return map[string]string{"site": "over the course site", "folder": "into a shared folder",
				"mail": "by mail", "by_hand": "by hand"}[v]
		}, nil),
	},
	{
		Name: "style", Label: "style", Example: "12 pt, double spaced", leads: []string{"Formatted with ", "Use "},
		value: of(sayStyle, nil),
	},
}

// kindOf is the kind of a name; of one that is not known only the name is.
func kindOf(name string) Kind {
	for _, k := range Kinds {
		if k.Name == name {
			return k
		}
	}
	return Kind{Name: name, value: of(func(any) string { return "" }, nil)}
}

// times are wall times; opens and closes wait for the parts that they bound.
func times(take func(*Filled, prose.Item, string)) valued {
	v := of(wall, take)
	v.say = func(i prose.Item) string {
		at, _ := i.Value.(string)
		text := wall(at)
		if text != at && i.Zone != "" {
			text += " " + place(i.Zone)
		}
		return text
	}
	return v
}

// bounds are amounts of something.
func bounds(what string, take func(*Filled, prose.Item, *Range)) valued {
	return of(func(v prose.Bounds) string {
		if whole(v.Max) == 1 {
			return "1 " + strings.TrimSuffix(what, "s")
		}
		return Range{whole(v.Min), whole(v.Max)}.String() + " " + what
	}, func(f *Filled, i prose.Item, v prose.Bounds) { take(f, i, &Range{whole(v.Min), whole(v.Max)}) })
}

func sayBytes(v int64) string { return "at most " + wording.Bytes(v) }

func sayAttempts(v prose.Attempts) string {
	text := Attempts{Max: v.Max, Counts: v.Counts}.String()
	if v.Until != "" {
		text += ", until " + wall(v.Until)
	}
	return text
}

func sayReport(v prose.Report) string {
	text := "checked for similarity"
	switch {
	case !v.Checked:
		return "not " + text
	case v.Drafts != nil:
		text += fmt.Sprintf(", %d drafts", *v.Drafts)
	}
	return text
}
