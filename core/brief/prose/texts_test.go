package prose

import (
	"encoding/json"
	"os"
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// agrees says whether a value has what is wanted: of objects the fields that are named, of names their text, of amounts
// their most.
func agrees(want, got any) bool {
	switch want := want.(type) {
	case map[string]any:
		fields, ok := got.(map[string]any)
		for name, value := range want {
			ok = ok && reflect.DeepEqual(value, fields[name])
		}
		return ok
	case float64:
		if amount, ok := got.(map[string]any); ok {
			return amount["max"] == want
		}
	}
	return reflect.DeepEqual(want, got)
}

// score is what a reading of the texts has right.
type score struct{ right, wanted, found, dues, wrongDues float64 }

// readTexts reads each text as transform leaves it, and compares with what is asked for in it.
// readTexts reads every nth of the texts.
func readTexts(t *testing.T, nth int, transform func(string) string) (s score) {
	data, err := os.ReadFile("testdata/texts.txt")
	require.NoError(t, err)
	now := monday(t)
	for n, block := range strings.Split(string(data), "=====\n")[1:] {
		if n%nth != 0 {
			continue
		}
		text, list, _ := strings.Cut(block, "\n> ")
		reading := Read(transform(text), now)
		used := make([]bool, len(reading.Found))
		asked := len(reading.Unsettled)
		for line := range strings.SplitSeq(strings.TrimSpace(list), "\n") {
			kind, value, _ := strings.Cut(strings.TrimPrefix(line, "> "), " ")
			if kind == "" {
				continue // nothing is asked for
			}
			var want any
			require.NoError(t, json.Unmarshal([]byte(value), &want), line)
			s.wanted++
			if kind == "?" && asked > 0 {
				asked--
				s.right, s.found = s.right+1, s.found+1
				continue
			}
			for i, item := range reading.Found {
				var got any
				raw, err := json.Marshal(item.Value)
				require.NoError(t, err)
				require.NoError(t, json.Unmarshal(raw, &got))
				if !used[i] && item.Kind == kind && agrees(want, got) {
					used[i] = true
					s.right++
					break
				}
			}
		}
		s.found += float64(len(used))
		for i, item := range reading.Found {
			if item.Kind == "due" {
				s.dues++
				if !used[i] {
					s.wrongDues++
					t.Logf("due %v in %.60q", item.Value, text)
				}
			}
		}
	}
	return s
}

// Whole texts with decoys: nine of ten items are right, and of the due times told hardly one is wrong. None of them is
// the work of anybody but the tests' writer, who mended the reader by them.
func TestWholeTexts(t *testing.T) {
	s := readTexts(t, 1, func(text string) string { return text })
	t.Logf("precision %.3f, recall %.3f; of %.0f due times %.0f wrong", s.right/s.found, s.right/s.wanted, s.dues, s.wrongDues)
	assert.Greater(t, s.right/s.found, 0.93)
	assert.Greater(t, s.right/s.wanted, 0.88)
	assert.LessOrEqual(t, s.wrongDues/s.dues, 0.05)
}

// wrapped breaks lines at a width, as mail programs do.
func wrapped(text string, width int) string {
	var out strings.Builder
	for line := range strings.Lines(text) {
		length := 0
		for i, word := range strings.SplitAfter(strings.TrimRight(line, "\n"), " ") {
			if i > 0 && length+len(strings.TrimRight(word, " ")) > width && !strings.HasPrefix(line, "|") {
				out.WriteByte('\n')
				length = 0
			}
			out.WriteString(word)
			length += len(word)
		}
		out.WriteByte('\n')
	}
	return out.String()
}

// How a text is set changes nothing of what it says.
func TestTextsSetOtherwise(t *testing.T) {
	const nth = 4
	plain := readTexts(t, nth, func(text string) string { return text })
	for name, transform := range map[string]func(string) string{
		"wrapped at 60": func(text string) string { return wrapped(text, 60) },
		"wrapped at 40": func(text string) string { return wrapped(text, 40) },
		"line ends":     func(text string) string { return strings.ReplaceAll(text, "\n", "\r\n") },
		"indented":      func(text string) string { return "    " + strings.ReplaceAll(text, "\n", "\n    ") },
		"empty lines":   func(text string) string { return strings.ReplaceAll(text, "\n", "\n\n") },
		"hard spaces": func(text string) string {
			return strings.NewReplacer(" pm", "\u00a0pm", " May", "\u00a0May").Replace(text)
		},
		"in small letters": strings.ToLower,
		"in capitals":      strings.ToUpper,
		"greeted": func(text string) string {
			return "Dear students,\n\nI hope that you had a good weekend. Below is what you asked for.\n\n" + text +
				"\n\nBest wishes\nA. Teacher\nRoom 4.11, Monday 10-12\n"
		},
	} {
		s := readTexts(t, nth, transform)
		t.Logf("%s: %.0f right of %.0f", name, s.right, plain.right)
		assert.GreaterOrEqual(t, s.right/plain.right, 0.95, name)
		assert.LessOrEqual(t, s.found/plain.found, 1.02, name)
	}
}
