package brief

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/finding"
	"orario/core/inspect"
	"orario/core/naming"
	"orario/core/timing"
)

var lab = Sheet{
	Slots: []Slot{
		{Name: "report", Required: true, Most: 1, Forms: []string{"pdf"}, MaxBytes: 10_000_000, Pages: &Range{4, 6}},
		{Name: "data", Required: true, Most: 1, Forms: []string{"csv"}},
	},
	MaxTotalBytes: 12_000_000, Attempts: Attempts{Max: 2, Counts: "latest"}, Report: &Report{Drafts: 2},
	Name: "{family:lower}_{course}_{title:dash}", Declaration: "I wrote this myself.",
}

func bundle(items ...Item) Bundle {
	due, _ := timing.ParseWall("2026-11-27T23:59", time.UTC)
	opens, _ := timing.ParseWall("2026-11-20T08:00", time.UTC)
	now := time.Date(2026, 11, 24, 14, 6, 0, 0, time.UTC)
	return Bundle{
		Sheet:  lab,
		Items:  items,
		Fields: naming.Fields{"family": "Quintal", "course": "HYD214", "title": "Tide tables"},
		Handouts: map[string]string{
			"d1": "template.docx",
		},
		Window: timing.Window{Opens: &opens, Due: due, Zone: time.UTC},
		Late:   timing.Rule{Kind: timing.NoLateWork},
		Now:    now,
		SendBy: now.Add(time.Hour),
	}
}

func facts(kind, digest string) *inspect.Facts {
	return &inspect.Facts{Kind: kind, SHA256: digest, Bytes: 1000}
}

func p[T any](v T) *T { return &v }

func good() []Item {
	report := facts("pdf", "a")
	report.Pages, report.TextLayerShare = p(5), p(1.0)
	return []Item{
		{ID: 1, Slot: "report", Name: "quintal_HYD214_tide-tables.pdf", Facts: report},
		{ID: 2, Slot: "data", Name: "quintal_HYD214_tide-tables.csv", Facts: facts("csv", "b")},
	}
}

// What files have in common is found in one pass, whichever way round they lie.
func TestLikenesses(t *testing.T) {
	items := []Item{
		{ID: 1, Slot: "work", Name: "Tides.pdf", Facts: facts("pdf", "a")},
		{ID: 2, Slot: "work", Name: "b.pdf", Facts: facts("pdf", "b")},
		{ID: 3, Slot: "work", Name: "TIDES.PDF", Facts: facts("pdf", "b")},
		{ID: 4, Slot: "work", Name: "d.pdf", Facts: facts("pdf", "b")},
	}
	assert.Equal(t, []likeness{
		{"", []string{"TIDES.PDF"}}, {}, {"b.pdf", []string{"Tides.pdf"}}, {"b.pdf", nil},
	}, likenesses(items))
}

// A bundle of thousands of files, as large as one can get, is checked in time that grows with their number.
func BenchmarkCheckItems(b *testing.B) {
	for _, n := range []int{30, 3000} {
		items := make([]Item, n)
		for i := range items {
			items[i] = Item{ID: int64(i), Slot: "report", Name: fmt.Sprintf("quintal_%d.pdf", i), Facts: facts("pdf", "same")}
		}
		all := bundle(items...)
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			for b.Loop() {
				Check(all)
			}
			b.ReportMetric(float64(b.Elapsed().Microseconds())/float64(b.N*n), "µs/file")
		})
	}
}

func TestAnOrderlyBundleHasNoFindings(t *testing.T) {
	assert.Empty(t, Check(bundle(good()...)))
}

func TestWhatPhotographsAreOffered(t *testing.T) {
	b := bundle(good()...)
	b.Items[0].Facts.Kind = "jpeg"
	b.Items[1].Facts.Kind, b.Items[1].Slot = "heic", b.Items[0].Slot
	fixes := map[string]string{}
	for _, f := range Check(b) {
		if f.Fix != "rename" && f.Fix != "" {
			fixes[f.Code] = f.Fix
		}
	}
	assert.Equal(t, map[string]string{"form": "scan", "slot_full": "together"}, fixes)
	b.Sheet.Slots = slices.Clone(b.Sheet.Slots)
	b.Sheet.Slots[0].Forms = []string{"docx"}
	for _, f := range Check(b) {
		assert.Contains(t, []string{"", "rename"}, f.Fix, "no PDF is taken there")
	}
}

func TestFindings(t *testing.T) {
	for code, c := range map[string]struct {
		weight finding.Weight
		fix    string
		spoil  func(*Bundle)
	}{
		"slot_empty":      {finding.Must, "", func(b *Bundle) { b.Items = b.Items[:1] }},
		"slot_full":       {finding.Must, "", func(b *Bundle) { b.Items[1].Slot = "report" }},
		"form":            {finding.Must, "convert", func(b *Bundle) { b.Items[0].Facts.Kind = "docx" }},
		"name":            {finding.Must, "rename", func(b *Bundle) { b.Items[0].Name = "tide lab FINAL2.pdf" }},
		"too_large":       {finding.Must, "smaller", func(b *Bundle) { b.Items[0].Facts.Bytes = 10_000_001 }},
		"total_too_large": {finding.Must, "", func(b *Bundle) { b.Items[1].Facts.Bytes = 12_000_000 }},
		"pages":           {finding.Must, "", func(b *Bundle) { b.Items[0].Facts.Pages = p(7) }},
		"text_layer":      {finding.Must, "searchable", func(b *Bundle) { b.Items[0].Facts.TextLayerShare = p(0.0) }},
		"tracked_changes": {finding.Should, "clean", func(b *Bundle) { b.Items[0].Facts.TrackedChanges = p(2) }},
		"comments":        {finding.Should, "clean", func(b *Bundle) { b.Items[0].Facts.Comments = p(1) }},
		"position":        {finding.Note, "clean", func(b *Bundle) { b.Items[0].Facts.HasPosition = p(true) }},
		"older_version":   {finding.Should, "newest", func(b *Bundle) { b.Items[0].Newer = true }},
		"seconds": {finding.Should, "", func(b *Bundle) {
			b.Sheet.Slots = slices.Clone(b.Sheet.Slots)
			b.Sheet.Slots[0].Seconds, b.Items[0].Facts.Seconds = &Range{60, 90}, p(90.6)
		}},
		"fonts": {
			finding.Note,
			"",
			func(b *Bundle) { b.Items[0].Facts.FontsNotEmbedded = &[]string{"Helvetica"} },
		},
		"handout": {finding.Must, "", func(b *Bundle) { b.Items[0].Facts.SHA256 = "d1" }},
		"twice":   {finding.Must, "", func(b *Bundle) { b.Items[1].Facts.SHA256 = "a" }},
		"damaged": {
			finding.Must,
			"",
			func(b *Bundle) { b.Items[0].Facts.Problems = []inspect.Problem{{Code: "damaged"}} },
		},
		"name_collides": {
			finding.Must,
			"",
			func(b *Bundle) { b.Sheet.Name = ""; b.Items[1].Name = "QUINTAL_HYD214_tide-tables.pdf" },
		},
		"name_anyone":  {finding.Should, "", func(b *Bundle) { b.Sheet.Name = ""; b.Items[0].Name = "final2.pdf" }},
		"not_open":     {finding.Must, "", func(b *Bundle) { b.Now = b.Now.AddDate(0, 0, -9) }},
		"closed":       {finding.Must, "", func(b *Bundle) { b.Now = b.Now.AddDate(0, 0, 9) }},
		"past_send_by": {finding.Should, "", func(b *Bundle) { b.SendBy = b.Now.Add(-time.Minute) }},
	} {
		b := bundle(good()...)
		c.spoil(&b)
		found := Check(b)
		require.NotEmpty(t, found, code)
		var match *Finding
		for i := range found {
			if found[i].Code == code {
				match = &found[i]
			}
		}
		require.NotNil(t, match, "%s among %+v", code, found)
		assert.Equal(t, c.weight, match.Weight, code)
		assert.Equal(t, c.fix, match.Fix, code)
		assert.NotEmpty(t, match.Message, code)
		if c.fix == "rename" || c.fix == "convert" {
			assert.Equal(t, "quintal_HYD214_tide-tables.pdf", match.Becomes, code)
		}
	}
}

// What no brief asks for bars nothing: a count that nobody named, a name that is only the student's habit.
func TestWhatNobodyAskedForOnlyShouldBeFixed(t *testing.T) {
	weights := func(b Bundle) map[string]finding.Weight {
		out := map[string]finding.Weight{}
		for _, f := range Check(b) {
			out[f.Code] = f.Weight
		}
		return out
	}
	b := bundle(good()...)
	b.Sheet.Slots = []Slot{{Name: "work", Required: true}}
	b.Items[0].Slot, b.Items[1].Slot = "work", "work"
	assert.Equal(t, finding.Should, weights(b)["slot_full"])
	b.Items[0].Name = "notes of the tide.pdf"
	assert.Equal(t, finding.Must, weights(b)["name"], "the brief's own pattern")
	b.Sheet.NameIsHabit = true
	assert.Equal(t, finding.Should, weights(b)["name"])
}

func TestTheNameFindingSaysWhatIsMissing(t *testing.T) {
	b := bundle(good()...)
	b.Items[0].Name = "HYD214_tide-tables.pdf"
	assert.Contains(t, Check(b)[0].Message, "lacks your family name. It should be quintal_HYD214_tide-tables.pdf")
}

func TestAHabitAppliesOnlyOnceConfirmed(t *testing.T) {
	site := lab
	site.Name = ""
	sheet, list := Merge(site, Own{}, "{family}_{title}")
	assert.Empty(t, sheet.Name)
	assert.Contains(t, list, Requirement{"name", "{family}_{title}", FromCourse, false, 0, false})
	sheet, list = Merge(site, Own{Name: "{family}_{title}", NameSet: true}, "{family}_{title}")
	assert.Equal(t, "{family}_{title}", sheet.Name)
	assert.Contains(t, list, Requirement{"name", "{family}_{title}", FromYou, true, 0, false})
	_, list = Merge(lab, Own{Name: "mine", NameSet: true}, "")
	assert.Contains(t, list, Requirement{"name", lab.Name, FromSite, true, 0, false}, "the site's own pattern stands")
}

func TestSlotFor(t *testing.T) {
	assert.Equal(t, "report", lab.SlotFor("docx", nil), "it can become a PDF")
	assert.Equal(t, "data", lab.SlotFor("csv", nil))
	assert.Equal(t, "data", lab.SlotFor("png", map[string]int{"report": 1}))
}

func TestAnExtensionThatThePatternWritesOutIsNotDoubled(t *testing.T) {
	for name, c := range map[string]struct{ pattern, file, kind, want string }{
		"the same":          {"{family}_HYD214.pdf", "Quintal_HYD214.pdf", "pdf", ""},
		"in capitals":       {"{family}_HYD214.PDF", "Quintal_HYD214.pdf", "pdf", ""},
		"another kind":      {"{family}_HYD214.pdf", "notes.docx", "docx", "Quintal_HYD214.docx"},
		"a wrong name":      {"{family}_HYD214.pdf", "notes.pdf", "pdf", "Quintal_HYD214.pdf"},
		"a version's dot":   {"{family}_v1.2", "notes.pdf", "pdf", "Quintal_v1.2.pdf"},
		"with its field":    {"{family}.{ext}", "notes.pdf", "pdf", "Quintal.pdf"},
		"an unusual ending": {"{family}.ipynb", "notes.ipynb", "unknown", "Quintal.ipynb"},
	} {
		t.Run(name, func(t *testing.T) {
			b := Bundle{Sheet: Sheet{Name: c.pattern}, Fields: naming.Fields{"family": "Quintal"}}
			item := Item{Name: c.file, Facts: &inspect.Facts{Kind: c.kind}}
			var said sayings
			b.checkName(&said, item, c.kind, false, likeness{})
			got := ""
			for _, f := range said {
				if f.Code == "name" {
					got = f.Becomes
				}
			}
			assert.Equal(t, c.want, got)
		})
	}
}

// A form that no content tells is told by the extension; one that content tells is not.
func TestAnyExtensionIsAForm(t *testing.T) {
	for _, c := range []struct {
		forms      []string
		kind, name string
		takes      bool
	}{
		{[]string{"r"}, "txt", "growth.R", true},
		{[]string{"r"}, "txt", "growth.py", false},
		{[]string{"r"}, "txt", "r", false},
		{[]string{"pdf", "mat"}, "unknown", "data.mat", true},
		{[]string{"pdf"}, "txt", "report.pdf", false},
		{[]string{"jpg"}, "txt", "photo.jpg", false},
		{nil, "unknown", "x", true},
	} {
		assert.Equal(t, c.takes, Slot{Forms: c.forms}.Takes(c.kind, c.name), "%v %s %s", c.forms, c.kind, c.name)
	}
}

// All files together are held against the total, to the byte.
func TestTheTotalOfABundle(t *testing.T) {
	for bytes, tooLarge := range map[int64]bool{11_999_999: false, 12_000_000: false, 12_000_001: true} {
		half := bytes / 2
		pages := 5
		b := bundle(
			Item{ID: 1, Slot: "report", Name: "a.pdf", Facts: &inspect.Facts{Kind: "pdf", Bytes: half, Pages: &pages}},
			Item{ID: 2, Slot: "data", Name: "a.csv", Facts: &inspect.Facts{Kind: "csv", Bytes: bytes - half}},
		)
		found := slices.ContainsFunc(Check(b), func(f Finding) bool { return f.Code == "total_too_large" })
		assert.Equal(t, tooLarge, found, "%d", bytes)
	}
}
