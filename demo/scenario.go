package demo

import (
	"time"

	"orario/core/brief"
	"orario/core/timing"
	api "orario/internal/campus/campusapi"
)

// Nerea is the demo's student.
var Nerea = struct{ Given, Family, Number, Email, Zone, Password string }{
	"Nerea", "Quintal", "20418", "nerea@alvarim.example", "Europe/Lisbon", "tide-table-1931",
}

var catalogue = []api.Course{
	{Key: "HYD214", Code: "HYD 214", Title: "Hydrography", Zone: "Europe/Lisbon", Instructor: "Prof. Oda Farrobo"},
	{Key: "WOD130", Code: "WOD 130", Title: "Wood Science", Zone: "Europe/Lisbon", Instructor: "Dr. Inês Calafate"},
	{
		Key:        "ITA202",
		Code:       "ITA 202",
		Title:      "Italian Composition",
		Zone:       "Europe/Lisbon",
		Instructor: "Dr. Bruno Salvado",
	},
	{Key: "PRB201", Code: "PRB 201", Title: "Probability", Zone: "Atlantic/Azores", Instructor: "Prof. Mara Toledo"},
	{Key: "FEL118", Code: "FEL 118", Title: "Field Ecology", Zone: "Europe/Lisbon", Instructor: "Dr. Teo Varela"},
	{
		Key:        "NAV310",
		Code:       "NAV 310",
		Title:      "Coastal Navigation",
		Zone:       "America/Halifax",
		Instructor: "Capt. Ruth Ansley",
	},
}

const ownWork = "This is my own work; what I took from others is marked and named."

const wall = "2006-01-02T15:04"

func perDay(percent float64) timing.Rule {
	return timing.Rule{Kind: timing.PerDay, Percent: percent, Of: "possible"}
}

var (
	noLate   = timing.Rule{Kind: timing.NoLateWork}
	anHour   = api.Turnaround{FirstMinutes: 60, LaterMinutes: 24 * 60}
	slow     = api.Turnaround{FirstMinutes: 24 * 60, LaterMinutes: 48 * 60}
	onePDF   = []brief.Slot{{Name: "report", Required: true, Forms: []string{"pdf"}, MaxBytes: 10_000_000}}
	handwork = []brief.Slot{{Name: "drawings", Required: true, Forms: []string{"pdf"}, MaxBytes: 20_000_000}}
)

// assignments lays the term around the day that the demo is loaded, which is the student's; times are as each course's
// clock shows them.
func assignments(now time.Time) []api.Assignment {
	zone, err := time.LoadLocation(Nerea.Zone)
	if err != nil {
		panic(err) // it stands above
	}
	today := now.In(zone)
	at := func(days int, clock string) string {
		return today.AddDate(0, 0, days).Format(time.DateOnly) + "T" + clock
	}
	soon := 1
	if today.Format(wall) >= at(0, "18:00") {
		soon = 2 // its send-by, a day before, still lies ahead
	}
	list := []api.Assignment{
		{
			Key:          "hyd-lab-3",
			Course:       "HYD214",
			Title:        "Lab 3, Current meters",
			Opens:        at(-24, "08:00"),
			Due:          at(-8, "23:59"),
			Closes:       at(-4, "23:59"),
			Late:         perDay(10),
			Points:       20,
			Weight:       15,
			Instructions: "Submit one PDF with your report on the current meters.\nOne attempt.",
			Sheet:        brief.Sheet{Slots: onePDF, Attempts: brief.Attempts{Max: 1}},
		},
		{
			Key:          "hyd-lab-4",
			Course:       "HYD214",
			Title:        "Tide tables",
			Opens:        at(-6, "08:00"),
			Due:          at(3, "23:59"),
			Closes:       at(7, "23:59"),
			Late:         perDay(10),
			Points:       20,
			Weight:       15,
			Instructions: "Compare the printed tide tables with four days of readings.\nSubmit one PDF of at most six pages and your readings as CSV, each under 10 MB. The report is checked for similarity; two drafts are free. 10 % per day after the deadline, nothing four days later.",
			Sheet: brief.Sheet{
				Slots: []brief.Slot{
					{
						Name:             "report",
						Required:         true,
						Forms:            []string{"pdf"},
						MaxBytes:         10_000_000,
						Pages:            &brief.Range{Min: 1, Max: 6},
						NoTrackedChanges: true,
					},
					{Name: "data", Required: true, Forms: []string{"csv"}, MaxBytes: 10_000_000},
				},
				Attempts: brief.Attempts{
					Max:    2,
					Counts: "latest",
				},
				Report:      &brief.Report{Drafts: 2},
				Declaration: ownWork,
			},
		},
		{
			Key:          "hyd-essay",
			Course:       "HYD214",
			Title:        "Chart datum",
			Opens:        at(-2, "08:00"),
			Due:          at(9, "18:00"),
			Closes:       at(12, "18:00"),
			Late:         perDay(10),
			Points:       20,
			Weight:       20,
			Instructions: "An essay of at least 120 words on what a chart datum is for.\nOne PDF, under 10 MB, named with your family name, the course and the title. It is checked for similarity, and two drafts may be checked. Two attempts; the latest counts.",
			Sheet: brief.Sheet{
				Slots: []brief.Slot{
					{
						Name:      "essay",
						Required:  true,
						Forms:     []string{"pdf"},
						MaxBytes:  10_000_000,
						Words:     &brief.Range{Min: 120},
						TextLayer: true,
					},
				},
				Name:        "{family}_{course}_{title:dash}",
				Attempts:    brief.Attempts{Max: 2, Counts: "latest"},
				Report:      &brief.Report{Drafts: 2},
				Declaration: ownWork,
			},
		},
		{
			Key:          "wod-joints",
			Course:       "WOD130",
			Title:        "Joint drawings",
			Opens:        at(-5, "08:00"),
			Due:          at(soon, "18:00"),
			Late:         noLate,
			Points:       10,
			Weight:       25,
			Instructions: "Draw the three joints by hand and submit all drawings as one PDF.\nNothing is taken after the deadline.",
			Sheet:        brief.Sheet{Slots: handwork, Attempts: brief.Attempts{Max: 1}},
		},
		{
			Key:          "wod-moisture",
			Course:       "WOD130",
			Title:        "Moisture sheet",
			Opens:        at(2, "08:00"),
			Due:          at(8, "18:00"),
			Late:         noLate,
			Points:       10,
			Weight:       12,
			Instructions: "Weigh, dry, weigh again. Submit your hand calculations as one PDF.",
			Sheet:        brief.Sheet{Slots: handwork, Attempts: brief.Attempts{Max: 1}},
		},
		{
			Key:          "ita-lettera",
			Course:       "ITA202",
			Title:        "Lettera formale",
			Opens:        at(-7, "08:00"),
			Due:          at(2, "23:59"),
			Late:         perDay(5),
			Points:       30,
			Weight:       20,
			Turnaround:   slow,
			Instructions: "A formal letter to an office of your choice.\nIt is checked for similarity.",
			Sheet: brief.Sheet{
				Slots:       onePDF,
				Attempts:    brief.Attempts{Max: 2, Counts: "latest", Invitation: true},
				Report:      &brief.Report{Drafts: 2},
				Declaration: ownWork,
			},
		},
		{
			Key:          "ita-racconto",
			Course:       "ITA202",
			Title:        "Racconto breve",
			Opens:        at(-14, "08:00"),
			Due:          at(5, "23:59"),
			Late:         perDay(5),
			Points:       30,
			Weight:       25,
			Instructions: "A commentary on the short story of the fourth week.\nIt is checked for similarity; you may send a corrected version if you are invited to.",
			Sheet: brief.Sheet{
				Slots:       onePDF,
				Attempts:    brief.Attempts{Max: 2, Counts: "latest", Invitation: true},
				Report:      &brief.Report{Drafts: 2},
				Declaration: ownWork,
			},
		},
		{
			Key:          "prb-sheet-5",
			Course:       "PRB201",
			Title:        "Sheet 5",
			Opens:        at(-12, "00:00"),
			Due:          at(-2, "23:59"),
			Late:         noLate,
			Points:       10,
			Weight:       8,
			Instructions: "Ten exercises. Best of five attempts.",
			Sheet: brief.Sheet{
				Slots:    []brief.Slot{{Name: "sheet", Required: true, Forms: []string{"pdf"}}},
				Attempts: brief.Attempts{Max: 5, Counts: "best"},
			},
		},
		{
			Key:          "prb-sheet-6",
			Course:       "PRB201",
			Title:        "Sheet 6",
			Opens:        at(-1, "00:00"),
			Due:          at(5, "22:59"),
			Late:         noLate,
			Points:       10,
			Weight:       8,
			Instructions: "Ten exercises. Best of five attempts.",
			Sheet: brief.Sheet{
				Slots:    []brief.Slot{{Name: "sheet", Required: true, Forms: []string{"pdf"}}},
				Attempts: brief.Attempts{Max: 5, Counts: "best"},
			},
		},
		{
			Key:          "prb-sheet-7",
			Course:       "PRB201",
			Title:        "Sheet 7",
			Opens:        at(6, "00:00"),
			Due:          at(12, "22:59"),
			Late:         noLate,
			Points:       10,
			Weight:       8,
			Instructions: "Ten exercises. Best of five attempts.",
			Sheet: brief.Sheet{
				Slots:    []brief.Slot{{Name: "sheet", Required: true, Forms: []string{"pdf"}}},
				Attempts: brief.Attempts{Max: 5, Counts: "best"},
			},
		},
		{
			Key:          "fel-transect",
			Course:       "FEL118",
			Title:        "Transect data",
			Opens:        at(-15, "08:00"),
			Due:          at(4, "12:00"),
			Late:         perDay(10),
			Points:       20,
			Weight:       6,
			Instructions: "Your notes on the transect as PDF.\nThree attempts; the best counts.",
			Sheet:        brief.Sheet{Slots: onePDF, Attempts: brief.Attempts{Max: 3, Counts: "best"}},
		},
		{
			Key:          "fel-soundscape",
			Course:       "FEL118",
			Title:        "Piece 3, soundscape",
			Opens:        at(-3, "08:00"),
			Due:          at(5, "23:59"),
			Closes:       at(7, "23:59"),
			Late:         timing.Rule{Kind: timing.Fixed, Percent: 2, Of: "points"},
			Points:       20,
			Weight:       10,
			Instructions: "A recording of three minutes and your listening notes.\nLate: two points, once.",
			Sheet: brief.Sheet{Slots: []brief.Slot{
				{
					Name:     "recording",
					Required: true,
					Forms:    []string{"wav", "mp3", "m4a", "ogg"},
					MaxBytes: 50_000_000,
				},
				{Name: "notes", Required: true, Forms: []string{"pdf", "txt"}},
			}, Attempts: brief.Attempts{Max: 1}},
		},
		{
			Key:          "nav-passage",
			Course:       "NAV310",
			Title:        "Passage plan",
			Opens:        at(-1, "09:00"),
			Due:          at(6, "12:00"),
			Late:         noLate,
			Points:       25,
			Weight:       30,
			Instructions: "A passage plan for the outer harbour as one PDF.\nNo late work.",
			Sheet: brief.Sheet{
				Slots:    []brief.Slot{{Name: "plan", Required: true, Forms: []string{"pdf"}}},
				Attempts: brief.Attempts{Max: 1},
			},
		},
	}
	for i := range list {
		if list[i].Turnaround.FirstMinutes == 0 {
			list[i].Turnaround = anHour
		}
		list[i].Handouts = []api.Handout{}
	}
	return list
}

// work is how long things take Nerea and how far she is, in minutes.
var work = map[string][2]int{
	"hyd-lab-4": {
		240,
		110,
	},
	"hyd-essay":      {300, 0},
	"wod-joints":     {150, 140},
	"wod-moisture":   {120, 0},
	"prb-sheet-6":    {150, 0},
	"prb-sheet-7":    {150, 0},
	"fel-soundscape": {180, 30},
	"nav-passage":    {270, 0},
}
