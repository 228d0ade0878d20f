package prose

import (
	"encoding/json"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var choice = regexp.MustCompile(`\[([^\[\]]*\|[^\[\]]*)\]`)

// crossings are the sentences of a template, each choice in turn; of many, mostCrossings spread over all of them.
func crossings(template string) (out []string) {
	total := 1
	for _, m := range choice.FindAllStringSubmatch(template, -1) {
		total *= strings.Count(m[1], "|") + 1
	}
	step := 1
	if total > mostCrossings {
		step = total/mostCrossings*2 + 1 // odd, so that the turns of even choices differ
	}
	for k := range min(total, mostCrossings) {
		turn := k * step % total
		text := choice.ReplaceAllStringFunc(template, func(words string) string {
			list := strings.Split(words[1:len(words)-1], "|")
			word := list[turn%len(list)]
			turn /= len(list)
			return word
		})
		text = strings.NewReplacer(`\n`, "\n", "⟦", "[", "⟧", "]").Replace(text)
		if at := strings.Index(text, "essay"); strings.Contains(text, "BULLET") {
			text = strings.ReplaceAll(text, "BULLET", text[strings.LastIndexByte(text[:at], '\n')+1:at])
		}
		out = append(out, text)
	}
	return out
}

const mostCrossings = 150

// Each word goes with all others that stand beside it. The words are common practice; of some crossings, which nobody
// would write, the reader makes nothing.
func TestCrossedWordings(t *testing.T) {
	data, err := os.ReadFile("testdata/crossed.txt")
	require.NoError(t, err)
	now := monday(t)
	var right, all float64
	for line := range strings.Lines(string(data)) {
		parts := strings.SplitN(strings.TrimRight(line, "\n"), " | ", 3)
		if len(parts) < 3 || strings.HasPrefix(line, "#") {
			continue
		}
		var wrong []string
		texts := crossings(parts[2])
		for _, text := range texts {
			got := "-"
			for _, item := range Read(text, now).Found {
				if item.Kind == parts[0] {
					value, err := json.Marshal(item.Value)
					require.NoError(t, err)
					got = strings.TrimPrefix(got+" "+string(value), "- ")
				}
			}
			if got != parts[1] && (got == "-" || parts[1] == "-" || !sameJSON(got, parts[1])) {
				wrong = append(wrong, text+" -> "+got)
			}
		}
		right, all = right+float64(len(texts)-len(wrong)), all+float64(len(texts))
		if len(wrong) > 0 {
			t.Logf("%d of %d: %s", len(wrong), len(texts), wrong[0])
		}
	}
	t.Logf("%.0f of %.0f", right, all)
	assert.Greater(t, right/all, 0.99)
}
