package agenda_test

import (
	"fmt"
	"time"

	"orario/core/agenda"
	"orario/core/coursework"
	"orario/core/timing"
)

func ExampleLay() {
	zone, _ := timing.Zone("Europe/Lisbon")
	window, _ := timing.ParseWindow("Europe/Lisbon", "", "2026-11-05T20:00", "", 0)
	course := &coursework.Course{Code: "HYD 214", Zone: zone}
	work := coursework.Coursework{
		Margin: 24 * time.Hour,
		Assignments: []*coursework.Assignment{{
			ID:     1,
			Course: course,
			Title:  "Ripple marks",
			Effort: coursework.Effort{Likely: 6 * 60},
			Parts:  []*coursework.Part{{Window: window}},
		}},
	}
	now := time.Date(2026, 11, 2, 12, 0, 0, 0, time.UTC)
	plan := agenda.Lay(agenda.Input{Now: now, Zone: zone, Settings: agenda.Usual, Standings: work.Stand(now)})

	fmt.Println(plan.Work())
	for _, block := range plan.Of(1).Blocks {
		fmt.Println(block.Start.Format("Mon 15:04"), "to", block.End.Format("15:04"))
	}
	fmt.Println("slack:", plan.Of(1).Slack)
	fmt.Println(plan.Moves()[0].Reason)
	// Output:
	// 6 h of work in 11 h of free time: it fits.
	// Mon 17:00 to 21:00
	// Tue 17:00 to 19:00
	// slack: 30 h
	// 6 h left to do. Sent by Wed 4 Nov 20:00 it is 24 h ahead of due.
}
