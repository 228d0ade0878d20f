package inspect

import (
	"fmt"
	"strings"

	"orario/core/wording"
)

// Said are the facts that a student looks for, in words: amounts, size, author.
func (f *Facts) Said() []string {
	var parts []string
	for _, amount := range []struct {
		n         *int
		one, many string
	}{{f.Pages, "page", "pages"}, {f.Words, "word", "words"}, {f.Rows, "row", "rows"}, {f.Columns, "column",
		"columns"}} {
		if amount.n != nil {
			parts = append(parts, wording.Count(*amount.n, amount.one, amount.many))
		}
	}
	if f.Width != nil && f.Height != nil {
		parts = append(parts, wording.Thousands(*f.Width)+" × "+wording.Thousands(*f.Height)+" pixels")
	}
	if f.Seconds != nil {
		parts = append(parts, fmt.Sprintf("%d:%02d min", int(*f.Seconds)/60, int(*f.Seconds)%60))
	}
	lines := []string{strings.Join(append(parts, wording.Bytes(f.Bytes)), ", ")}
	if f.Author != nil && *f.Author != "" {
		lines = append(lines, "author “"+*f.Author+"”")
	}
	return lines
}
