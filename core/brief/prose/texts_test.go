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

// Whole texts with decoys: nine of ten items are right, and of the due times told hardly one is wrong. None of them is
// the work of anybody but the tests' writer, who mended the reader by them.
func TestWholeTexts(t *testing.T) {
	data, err := os.ReadFile("testdata/texts.txt")
	require.NoError(t, err)
	now := monday(t)
	var right, wanted, found, dues, wrongDues float64
	for _, block := range strings.Split(string(data), "=====\n")[1:] {
		text, list, _ := strings.Cut(block, "\n> ")
		reading := Read(text, now)
		used := make([]bool, len(reading.Found))
		asked := len(reading.Unsettled)
		for line := range strings.SplitSeq(strings.TrimSpace(list), "\n") {
			kind, value, _ := strings.Cut(strings.TrimPrefix(line, "> "), " ")
			var want any
			require.NoError(t, json.Unmarshal([]byte(value), &want), line)
			wanted++
			if kind == "?" && asked > 0 {
				asked--
				right, found = right+1, found+1
				continue
			}
			for i, item := range reading.Found {
				var got any
				raw, err := json.Marshal(item.Value)
				require.NoError(t, err)
				require.NoError(t, json.Unmarshal(raw, &got))
				if !used[i] && item.Kind == kind && agrees(want, got) {
					used[i] = true
					right++
					break
				}
			}
		}
		found += float64(len(used))
		for i, item := range reading.Found {
			if item.Kind == "due" {
				dues++
				if !used[i] {
					wrongDues++
					t.Logf("due %v in %.60q", item.Value, text)
				}
			}
		}
	}
	t.Logf("precision %.3f, recall %.3f; of %.0f due times %.0f wrong", right/found, right/wanted, dues, wrongDues)
	assert.Greater(t, right/found, 0.93)
	assert.Greater(t, right/wanted, 0.88)
	assert.LessOrEqual(t, wrongDues/dues, 0.05)
}
