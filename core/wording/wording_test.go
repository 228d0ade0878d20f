package wording_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"orario/core/wording"
)

func Example() {
	fmt.Println(
		wording.Span(81*time.Hour),
		"·",
		wording.Work(21*time.Hour+50*time.Minute),
		"·",
		wording.Bytes(2_350_000),
		"·",
		wording.Count(1200, "word", "words"),
	)
	// Output: 3 d 9 h · 21 h 50 min · 2.4 MB · 1,200 words
}

func TestAmounts(t *testing.T) {
	for _, c := range []struct{ name, got, want string }{
		{"less than an hour", wording.Span(5*time.Minute + 29*time.Second), "5 min"},
		{"whole hours", wording.Span(2 * time.Hour), "2 h"},
		{"below two days in hours", wording.Span(47*time.Hour + 59*time.Minute), "47 h 59 min"},
		{"from two days on in days", wording.Span(48 * time.Hour), "2 d 0 h"},
		{"work is never told in days", wording.Work(81 * time.Hour), "81 h"},
		{"much work is rounded", wording.Work(80*time.Hour + 40*time.Minute), "81 h"},
		{"bytes", wording.Bytes(999), "999 bytes"},
		{"kilobytes are rounded", wording.Bytes(1500), "2 kB"},
		{"a whole number of megabytes", wording.Bytes(10_000_000), "10 MB"},
		{"gigabytes", wording.Bytes(1_250_000_000), "1.2 GB"},
		{"one", wording.Count(1, "file", "files"), "1 file"},
		{"none", wording.Count(0, "file", "files"), "0 files"},
		{"a negative number", wording.Thousands(-123456), "-123,456"},
		{"a share", wording.OfTheCourse(2.04), "2 % of a course's mark"},
		{"a wall time", wording.Wall("2026-11-12T18:00"), "Thu 12 Nov 18:00"},
		{"no wall time", wording.Wall("soon"), "soon"},
		{"an accent", wording.Upper("élan"), "Élan"},
		{"nothing", wording.Upper(""), ""},
		{"a file's name", wording.Upper("photo.heic does not open"), "photo.heic does not open"},
		{"a short sentence", wording.Upper("no. It is not"), "No. It is not"},
		{"cut between letters", wording.Clip("éàü", 2), "éà"},
	} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, c.got) })
	}
}
