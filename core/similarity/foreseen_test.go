package similarity

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestWhatWasForeseen(t *testing.T) {
	borrowed, other := chapter(t, 5000, 60), chapter(t, 9000, 60)
	before := NewIndex([]Source{{Name: "a", Text: borrowed}})
	earlier := "Mine at first. " + borrowed + " Mine at last."
	// Since then a sentence was put in front, and the site takes the text out with other white space.
	now := "A new beginning, quite long. Mine at first.\n\n" + borrowed + "\n" + other
	after := NewIndex([]Source{{Name: "a", Text: borrowed}, {Name: "b", Text: other}})
	report := after.Check(now, Options{})
	assert.Len(t, report.Passages, 2)
	assert.Equal(t, []bool{true, false}, Foreseen(report, now, before.Check(earlier, Options{}), earlier))
	assert.Equal(t, []bool{false, false}, Foreseen(report, now, Report{}, ""))
}
