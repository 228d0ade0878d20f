package brief

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/brief/prose"
	"orario/core/timing"
)

var monday = time.Date(2026, 4, 27, 9, 0, 0, 0, time.UTC)

func TestASheetOutOfProse(t *testing.T) {
	r := prose.Read(
		"Send a report and the data table to the course site by Friday 8 May, 18:00 Azores time. The report as PDF of 4 to 6 pages, the table as CSV. "+
			"10% off per day, at most 30%. Worth 20 points. Two attempts, the best counts. Sign that it is your "+
			"own work. Essays are checked for similarity.",
		monday,
	)
	f := Fill(r.Found)
	require.Len(t, f.Sheet.Slots, 2)
	assert.Equal(t, Slot{Name: "report", Required: true, Forms: []string{"pdf"}, Pages: &Range{4, 6}}, f.Sheet.Slots[0])
	assert.Equal(t, Slot{Name: "data table", Required: true, Forms: []string{"csv"}}, f.Sheet.Slots[1])
	require.Len(t, f.Parts, 1)
	assert.Equal(t, "2026-05-08T18:00", f.Parts[0].Due)
	assert.Equal(t, timing.PerDay, f.Late.Kind)
	assert.Equal(t, 30.0, *f.Late.Cap)
	assert.Equal(t, 20.0, f.Points)
	assert.Equal(t, Attempts{Max: 2, Counts: "best"}, f.Sheet.Attempts)
	assert.NotNil(t, f.Sheet.Report)
	assert.NotEmpty(t, f.Sheet.Declaration)
	for _, i := range r.Found {
		label, text := Say(i)
		assert.NotEmpty(t, label)
		assert.NotEmpty(t, text, i.Kind)
	}
}

// What two requirements accept is accepted; that nothing is checked asks for no report.
func TestRequirementsThatAddUp(t *testing.T) {
	f := Fill([]prose.Item{
		{Kind: "forms", Value: []string{"pdf"}},
		{Kind: "forms", Value: []string{"docx", "pdf"}},
		{Kind: "report", Value: prose.Report{}},
	})
	assert.Equal(t, []string{"pdf", "docx"}, f.Sheet.Slots[0].Forms)
	_, forms := Say(prose.Item{Kind: "forms", Value: f.Sheet.Slots[0].Forms})
	assert.Equal(t, "PDF or DOCX", forms)
	assert.Nil(t, f.Sheet.Report)
	_, text := Say(prose.Item{Kind: "report", Value: prose.Report{}})
	assert.Equal(t, "not checked for similarity", text)
}

func TestOneLine(t *testing.T) {
	codes := []prose.Known{{Code: "WOD 130"}, {Code: "HYD 214"}}
	for line, want := range map[string]prose.Line{
		"lab 5 HYD Fri 23:59 20p pdf": {
			Title:  "Lab 5",
			Course: 1,
			Due:    "2026-05-01T23:59",
			Points: 20,
			Forms:  []string{"pdf"},
		},
		"HYD214 Tide tables due 8 May": {
			Title:  "Tide tables",
			Course: 1,
			Due:    "2026-05-08T23:59",
		},
		"Joint drawing, WOD 130, by 12/5/2026 14:00 ~3h": {Title: "Joint drawing", Course: -1},
		"Mole sketch HYD 5 p.m. 8 May 7 points": {
			Title:  "Mole sketch",
			Course: 1,
			Due:    "2026-05-08T17:00",
			Points: 7,
		},
		"Wood key wod tomorrow 6pm 12 points ~2.5h docx or pdf": {
			Title:  "Wood key",
			Course: 0,
			Due:    "2026-04-28T18:00",
			Points: 12,
			Hours:  2.5,
			Forms:  []string{"docx", "pdf"},
		},
		"read something": {Title: "Read something", Course: -1},
	} {
		got := prose.Quick(line, monday, codes)
		if want.Title == "Joint drawing" { // which of the two is the month is asked
			assert.Len(t, got.Asked, 1)
			continue
		}
		got.Asked = nil
		assert.Equal(t, want, got, line)
	}
}
