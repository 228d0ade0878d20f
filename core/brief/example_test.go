package brief_test

import (
	"fmt"
	"time"

	"orario/core/brief"
	"orario/core/brief/prose"
	"orario/core/inspect"
	"orario/core/naming"
	"orario/core/timing"
)

func ExampleCheck() {
	now := time.Date(2026, 11, 2, 9, 0, 0, 0, time.UTC)
	filled := brief.Fill(prose.Read("Submit a PDF of at most 8 pages, named Familyname_HYD214.pdf.", now).Found)
	window, _ := timing.ParseWindow("Europe/Lisbon", "", "2026-11-05T20:00", "", 0)
	pages := 9
	for _, f := range brief.Check(brief.Bundle{
		Sheet: filled.Sheet,
		Items: []brief.Item{{
			ID:    1,
			Slot:  filled.Sheet.Slots[0].Name,
			Name:  "Quintal_HYD214.pdf",
			Facts: &inspect.Facts{Kind: "pdf", Bytes: 1000, Pages: &pages},
		}},
		Fields: naming.Fields{"family": "Quintal"},
		Window: window,
		Now:    now,
		SendBy: now.Add(24 * time.Hour),
	}) {
		fmt.Println(f.Weight, f.Message)
	}
	// Output: must It has 9 pages; the brief asks for at most 8.
}
