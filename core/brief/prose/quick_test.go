package prose

import (
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// Lines as students type them, in any order; what is left over is the title, without debris.
func TestOneLineUnderstandsWhatTheReaderDoes(t *testing.T) {
	now := time.Date(2026, 11, 26, 10, 0, 0, 0, time.UTC) // a Thursday
	courses := []Known{
		{"HYD 214", "Hydrography"},
		{"PRB 201", "Probability"},
		{"ITA 202", "Italian prose"},
		{"ITA 204", "Italian verse"},
	}
	for line, want := range map[string]struct {
		title  string
		course int
		due    string
		forms  []string
		weight float64
		also   []string
		asked  int
	}{
		"essay on tides for Hydrography next friday noon 2000 words pdf or docx": {
			"Essay on tides", 0, "", []string{"pdf", "docx"}, 0, []string{"words"}, 1, // which Friday is meant is asked
		},
		"quiz 3 prb tomorrow 14:00 2 attempts": {"Quiz 3", 1, "2026-11-27T14:00", nil, 0, []string{"attempts"}, 0},
		"presentation in 2 weeks, 10 min video mp4, 15%": {
			"Presentation", -1, "2026-12-10T23:59", []string{"mp4"}, 15, []string{"seconds"}, 0,
		},
		"30 Nov at midnight, by mail":      {"", -1, "2026-11-30T23:59", nil, 0, []string{"route"}, 0},
		"12 dec":                           {"", -1, "2026-12-12T23:59", nil, 0, nil, 0},
		"3 files jpg":                      {"", -1, "", []string{"jpeg"}, 0, []string{"files"}, 0},
		"verse translation 4 may 18:00":    {"Translation", 3, "2027-05-04T18:00", nil, 0, nil, 0},
		"italian letter dec 3 on paper":    {"Italian letter", -1, "2026-12-03T23:59", nil, 0, []string{"route"}, 0}, // two courses are Italian
		"HYD214 lab 5 Fri 23:59 20p pdf":   {"Lab 5", 0, "2026-11-27T23:59", []string{"pdf"}, 0, nil, 0},
		"march of the tides, essay, 100 %": {"March of the tides, essay", -1, "", nil, 100, nil, 0},
	} {
		t.Run(line, func(t *testing.T) {
			l := Quick(line, now, courses)
			assert.Equal(t, want.title, l.Title)
			assert.Equal(t, want.course, l.Course)
			assert.Equal(t, want.due, l.Due)
			assert.Equal(t, want.forms, l.Forms)
			assert.InDelta(t, want.weight, l.Weight, 0)
			assert.Len(t, l.Asked, want.asked)
			var also []string
			for _, i := range l.Also {
				also = append(also, i.Kind)
			}
			assert.Equal(t, want.also, also)
		})
	}
}

// Whatever instructions can ask for can stand in the line, in the short ways that people write it; what was not understood
// is told, and never part of the title.
func TestALineLosesNothing(t *testing.T) {
	now := time.Date(2026, 12, 1, 10, 0, 0, 0, time.UTC) // a Tuesday
	courses := []Known{{"HYD 214", "Hydrography"}, {"ITA 202", "Italian Composition"}, {"WOD 130", "Wood Science"}, {"PRB 201", "Probability"}}
	for line, want := range map[string]struct {
		title string
		due   string
		hours float64
		also  string // kinds, in any order
		left  string
	}{
		"quiz PRB Fri 14:00 2 attempts":                        {"Quiz", "2026-12-04T14:00", 0, "attempts", ""},
		"essay ITA 12 dec 1200 words 25% max 5MB":              {"Essay", "2026-12-12T23:59", 0, "max_bytes words", ""},
		"Racconto lungo ITA 15 Dec late -10%/day":              {"Racconto lungo", "2026-12-15T23:59", 0, "late", ""},
		"sketch WOD Mon 17:00 by hand":                         {"Sketch", "2026-12-07T17:00", 0, "route", ""},
		"sheet 7 PRB Thu 4h":                                   {"Sheet 7", "2026-12-03T23:59", 4, "", ""},
		"sheet 7 PRB Thu 14h":                                  {"Sheet 7", "2026-12-03T14:00", 0, "", ""},
		"sheet 7 PRB Thu at 4h":                                {"Sheet 7", "2026-12-03T04:00", 0, "", ""},
		"lab 6 HYD Fri 23:59 est 90 min":                       {"Lab 6", "2026-12-04T23:59", 1.5, "", ""},
		"slides for HYD (team of 3) Tue 10:00 pptx":            {"Slides", "2026-12-01T10:00", 0, "", "(team of 3)"},
		"report HYD fri 18:00 4-6 pages no late work":          {"Report", "2026-12-04T18:00", 0, "late pages", ""},
		"poster WOD 2 files png 10 Dec closes 12 Dec":          {"Poster", "2026-12-10T23:59", 0, "closes files", ""},
		"portfolio WOD dec 20 best of 3 2 h work grace 15 min": {"Portfolio", "2026-12-20T23:59", 2, "attempts grace", ""},
		"talk ITA friday 9am 5 min video mp4 opens 2 dec":      {"Talk", "2026-12-04T09:00", 0, "opens seconds", "video"},
		"est 2h reading log ITA sunday":                        {"Reading log", "2026-12-06T23:59", 2, "", ""},
		"lab HYD fri noon with the grumbling engine 20 points": {"Lab", "2026-12-04T12:00", 0, "", "with the grumbling engine"},
		"(optional) extra sheet PRB fri":                       {"Extra sheet", "2026-12-04T23:59", 0, "", "(optional)"},
		"late 2 points per hour quiz PRB fri":                  {"Quiz", "2026-12-04T23:59", 0, "late", ""},
	} {
		t.Run(line, func(t *testing.T) {
			l := Quick(line, now, courses)
			assert.Equal(t, want.title, l.Title)
			assert.Equal(t, want.due, l.Due)
			assert.InDelta(t, want.hours, l.Hours, 0.001)
			var kinds, left []string
			for _, i := range l.Also {
				kinds = append(kinds, i.Kind)
			}
			slices.Sort(kinds)
			assert.Equal(t, want.also, strings.Join(kinds, " "))
			for _, s := range l.Left {
				left = append(left, string([]rune(line)[s.Start:s.End]))
			}
			assert.Equal(t, want.left, strings.Join(left, "|"))
		})
	}
}

func TestACourseThatIsNotKnown(t *testing.T) {
	courses := []Known{{Code: "HYD 214", Title: "Hydrography"}}
	for line, want := range map[string]Line{
		"lab 3 CHE 101 12 dec":   {Title: "Lab 3", Course: -1, New: "CHE 101", Due: "2026-12-12T23:59"},
		"BIO2040 sheet 12 dec":   {Title: "Sheet", Course: -1, New: "BIO2040", Due: "2026-12-12T23:59"},
		"HYD-214 sheet 12 dec":   {Title: "Sheet", Course: 0, Due: "2026-12-12T23:59"},
		"sheet 214 HYD 12 dec":   {Title: "Sheet 214", Course: 0, Due: "2026-12-12T23:59"},
		"PDF 2000 words, 12 dec": {Title: "", Course: -1, Due: "2026-12-12T23:59", Forms: []string{"pdf"}},
	} {
		t.Run(line, func(t *testing.T) {
			got := Quick(line, time.Date(2026, 11, 26, 10, 0, 0, 0, time.UTC), courses)
			got.Also = nil
			assert.Equal(t, want, got)
		})
	}
}
