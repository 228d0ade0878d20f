package prose_test

import (
	"fmt"
	"time"

	"orario/core/brief/prose"
)

func ExampleRead() {
	now := time.Date(2026, 11, 2, 9, 0, 0, 0, time.UTC)
	text := "The report is due on Friday 13 November at 18:00. Submit one PDF, at most 2,000 words."
	for _, i := range prose.Read(text, now).Found {
		fmt.Printf("%s: %v\n", i.Kind, text[i.Start:i.End])
	}
	// Output:
	// due: Friday 13 November at 18:00
	// files: one PDF
	// forms: PDF
	// words: 2,000 words
}
