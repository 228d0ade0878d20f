package calendar_test

import (
	"fmt"
	"time"

	"orario/core/calendar"
)

func ExampleRead() {
	text := "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:1\r\nSUMMARY:Sheet\r\n" +
		"DTSTART;TZID=Europe/Lisbon:20261102T200000\r\nDTEND;TZID=Europe/Lisbon:20261102T200000\r\n" +
		"RRULE:FREQ=WEEKLY;COUNT=2\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
	now := time.Date(2026, 11, 1, 0, 0, 0, 0, time.UTC)
	items, _, _ := calendar.Read(text, calendar.Around(now), nil)
	for _, i := range items {
		fmt.Println(i.Title, i.Due, i.Zone)
	}
	// Output:
	// Sheet 2026-11-02T20:00:00Z Europe/Lisbon
	// Sheet 2026-11-09T20:00:00Z Europe/Lisbon
}
