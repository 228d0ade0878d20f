package brief

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/brief/prose"
)

// Instructions with two due times become two parts, each with what is asked of it alone; a date of something else
// becomes none.
func TestTwoDatedPartsInInstructions(t *testing.T) {
	now := time.Date(2026, 11, 26, 10, 0, 0, 0, time.UTC)
	for name, c := range map[string]struct {
		text  string
		names [2]string
		dues  [2]string
		forms [2]string
	}{
		"by label": {
			"Part A: Derivation, due 4 December 2026, 18:00. Submit a PDF of at most 2 pages.\n" +
				"Part B: Program, due 11 December 2026, 23:59. Submit a ZIP.\n",
			[2]string{"Part A", "Part B"},
			[2]string{"2026-12-04T18:00", "2026-12-11T23:59"},
			[2]string{"pdf", "zip"},
		},
		"by heading": {
			"# Stage 1\nWrite the plan as a PDF.\nDue: 4 December 2026, 18:00\n\n" +
				"# Stage 2\nUpload the recording as MP3.\nDue: 11 December 2026, 12:00\n",
			[2]string{"Stage 1", "Stage 2"},
			[2]string{"2026-12-04T18:00", "2026-12-11T12:00"},
			[2]string{"pdf", "mp3"},
		},
		"by what is due, beside an excursion": {
			"The map is due on Friday 4 December 2026 at 18:00, as one PDF of at most 4 pages.\n" +
				"The field notebook is due on Friday 11 December 2026 at noon. It is a photographed notebook, as JPG.\n" +
				"We meet for the excursion on 1 December at 9:00. 20 points.\n",
			[2]string{"map", "notebook"},
			[2]string{"2026-12-04T18:00", "2026-12-11T12:00"},
			[2]string{"pdf", "jpeg"},
		},
	} {
		t.Run(name, func(t *testing.T) {
			f := FillAsked(Asked(prose.Read(c.text, now)))
			require.Len(t, f.Parts, 2)
			for n, p := range f.Parts {
				assert.Equal(t, c.names[n], p.Name)
				assert.Equal(t, c.dues[n], p.Due)
				require.Len(t, p.Slots, 1)
				assert.Equal(t, []string{c.forms[n]}, p.Slots[0].Forms)
			}
		})
	}
}
