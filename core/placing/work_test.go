package placing

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestWhereAFileBelongs(t *testing.T) {
	day := func(n int) time.Time { return time.Date(2026, 12, n, 12, 0, 0, 0, time.UTC) }
	works := []Work{
		{1, 10, "HYD 214", "Lab 3: Growth curves", day(9)},
		{2, 20, "WOD 130", "Joint drawings", day(8)},
		{3, 30, "ITA 202", "A long story", day(7)},
		{4, 40, "HYD 214", "Lab 4: Tide tables", day(10)},
	}
	for _, c := range []struct {
		name, text string
		want       int64
	}{
		{"quintal_joint-drawings.pdf", "", 2},
		{"HYD214_tide.csv", "", 4},
		{"hyd-214 growth.xlsx", "", 1},
		{"scan0001.pdf", "WOD 130, sheet of joints", 2},
		{"notes.txt", "The tide tables of the harbour", 4},
		{"IMG_4711.jpg", "", 3}, // nothing is known: what is due first
		{"", "", 3},
		{"lab.pdf", "", 1}, // both labs; the earlier
		{"tide.pdf", "growth curves", 4},
	} {
		assert.Equal(t, c.want, Rank(c.name, c.text, works)[0].ID, "%s | %s", c.name, c.text)
	}
	assert.Empty(t, Rank("a.pdf", "", nil))
}
