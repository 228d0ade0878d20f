package main

import (
	"crypto/ed25519"
	"encoding/json"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/inspect"
	"orario/core/receipt"
)

// run runs a command line as main does and gives the JSON that it prints, its exit code and its complaint.
func run(t *testing.T, args ...string) (out map[string]any, code int, complaint string) {
	t.Helper()
	text, code, complaint := runText(t, args...)
	if strings.TrimSpace(text) != "" {
		if text[0] == '[' {
			text = `{"list":` + text + `}`
		}
		require.NoError(t, json.Unmarshal([]byte(text), &out), text)
	}
	return out, code, complaint
}

func runText(t *testing.T, args ...string) (out string, code int, complaint string) {
	t.Helper()
	r, w, err := os.Pipe()
	require.NoError(t, err)
	stdout := os.Stdout
	os.Stdout = w
	printed := make(chan []byte)
	go func() {
		text, _ := io.ReadAll(r)
		printed <- text
	}()
	cmd := root()
	cmd.SetArgs(args)
	err = cmd.Execute()
	w.Close()
	os.Stdout = stdout
	out = string(<-printed)
	switch {
	case err == errNo:
		return out, 1, ""
	case err != nil:
		return out, 2, err.Error()
	}
	return out, 0, ""
}

func file(t *testing.T, name, content string) string {
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, []byte(content), 0o600))
	return path
}

func TestSimilarityCommand(t *testing.T) {
	passage := "habit is what remains of a decision when its reason is forgotten by everybody concerned"
	sources := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(sources, "deep"), 0o700))
	require.NoError(
		t,
		os.WriteFile(filepath.Join(sources, "deep", "b.txt"), []byte("Before. "+passage+". After."), 0o600),
	)
	essay := file(t, "essay.txt", "Ærlig talt: "+passage+", I think.")
	out, code, complaint := run(t, "similarity", "--against", sources, "--json", essay)
	require.Equal(t, 0, code, complaint)
	passages := out["passages"].([]any)
	require.Len(t, passages, 1)
	p := passages[0].(map[string]any)
	assert.Equal(t, "deep/b.txt", p["source"], "relative to the folder")
	text := []rune("Ærlig talt: " + passage + ", I think.")
	assert.Equal(t, passage, string(text[int(p["start"].(float64)):int(p["end"].(float64))]))
	assert.Equal(t, float64(len(text)), out["length"])
	assert.Equal(t, "rewrite", p["remedy"])
	_, code, complaint = run(t, "similarity", "--json", essay)
	assert.Equal(t, 2, code)
	assert.Contains(t, complaint, "--against")
	_, code, complaint = run(t, "similarity", "--against", sources, "no-such-file.txt")
	assert.Equal(t, 2, code)
	assert.Contains(t, complaint, "cannot be read")
}

func TestVerifyCommand(t *testing.T) {
	key := ed25519.NewKeyFromSeed(make([]byte, 32))
	essay := file(t, "essay.txt", "An essay.")
	r, err := receipt.Receipt{
		Site:       "S",
		Course:     "C",
		Assignment: "A",
		Attempt:    1,
		Student:    "1",
		Number:     "N-1",
		ReceivedAt: "2026-11-26T17:32:05Z",
		Key:        "k",
		Files:      []receipt.File{{Name: "essay.txt", Bytes: 9, SHA256: inspect.Digest([]byte("An essay."))}},
	}.Sign(key)
	require.NoError(t, err)
	text, err := json.Marshal(r)
	require.NoError(t, err)
	receiptFile := file(t, "r.json", string(text))
	keyFile := file(t, "k.pub", receipt.FormatKey(key.Public().(ed25519.PublicKey))+"\n")
	out, code, _ := run(t, "verify", "--json", "--key", keyFile, receiptFile, essay)
	assert.Equal(t, 0, code)
	assert.Equal(t, true, out["agrees"])
	out, code, _ = run(t, "verify", "--json", receiptFile, essay)
	assert.Equal(t, 0, code)
	assert.Contains(
		t,
		out["parts"],
		map[string]any{"part": "signature", "expected": "", "found": "not checked", "ok": true},
	)
	out, code, _ = run(t, "verify", "--json", "--key", keyFile, receiptFile, file(t, "essay.txt", "Another."))
	assert.Equal(t, 1, code)
	assert.Equal(t, false, out["agrees"])
	_, code, complaint := run(
		t,
		"verify",
		file(t, "r.json", strings.Replace(string(text), `"site"`, `"sight"`, 1)),
		essay,
	)
	assert.Equal(t, 2, code)
	assert.Contains(t, complaint, `"sight"`)
}

func TestInspectCommand(t *testing.T) {
	out, code, _ := run(t, "inspect", "--json", file(t, "a.csv", "a,b\n1,2\n"), file(t, "b.pdf", "%PDF-1.7 broken"))
	assert.Equal(t, 0, code, "damaged or not")
	list := out["list"].([]any)
	assert.Equal(t, 2.0, list[0].(map[string]any)["rows"])
	assert.NotEmpty(t, list[1].(map[string]any)["problems"])
	out, code, complaint := run(t, "inspect", "--json", "no-such-file")
	assert.Equal(t, 2, code)
	assert.Nil(t, out, "nothing on standard output")
	assert.Contains(t, complaint, "no-such-file cannot be read")

	in, err := os.Open(file(t, "typed.txt", "three words here"))
	require.NoError(t, err)
	stdin := os.Stdin
	os.Stdin = in
	defer func() { os.Stdin = stdin }()
	out, code, _ = run(t, "inspect", "--json", "-")
	assert.Zero(t, code)
	first := out["list"].([]any)[0].(map[string]any)
	assert.Equal(t, []any{"-", "txt", 3.0}, []any{first["file"], first["kind"], first["words"]})
}

// Too few or too many arguments are refused with how the command is written.
func TestHowCommandsAreWritten(t *testing.T) {
	for _, c := range []struct {
		args  []string
		write string
	}{
		{[]string{"inspect"}, "orario inspect FILE...|-"},
		{[]string{"convert", "a.docx"}, "orario convert IN... OUT"},
		{[]string{"clean", "a.docx", "b.docx", "c.docx"}, "orario clean"},
		{[]string{"brief"}, "orario brief FILE|-"},
	} {
		_, code, complaint := runText(t, c.args...)
		assert.Equal(t, 2, code, "%v", c.args)
		assert.Contains(t, complaint, "write it as: "+c.write)
	}
}

func TestNameCommand(t *testing.T) {
	fields := file(
		t,
		"f.json",
		`{"family":"Quintal","course":"HYD214","title":"Tide tables","attempt":2,"date":"2026-11-26","ext":"pdf"}`,
	)
	out, code, _ := run(
		t,
		"name",
		"--json",
		"--pattern",
		"{family}_{course}_{title:dash}_{attempt:00}",
		"--fields",
		fields,
	)
	assert.Equal(t, 0, code)
	assert.Equal(t, "Quintal_HYD214_tide-tables_02.pdf", out["name"])
	out, code, _ = run(
		t,
		"name",
		"--json",
		"--pattern",
		"{family}_{title:dash}",
		"--fields",
		fields,
		"--read",
		"Quintal_tides.pdf",
	)
	assert.Equal(t, 1, code)
	assert.Equal(t, false, out["agrees"])
	out, code, _ = run(t, "name", "--json", "--pattern", "{family}", "--fields", fields, "--beside", "QUINTAL.PDF")
	assert.Equal(t, 1, code)
	assert.Equal(t, "collides", out["problems"].([]any)[0].(map[string]any)["code"])
	for content, complaint := range map[string]string{`{"familiy":"x"}`: "familiy", `{"attempt":"2"}`: "whole number", `{"date":"26.11.2026"}`: "YYYY-MM-DD", `[]`: "no JSON object", `{}`: "{family}"} {
		_, code, said := run(t, "name", "--pattern", "{family}", "--fields", file(t, "f.json", content))
		assert.Equal(t, 2, code, content)
		assert.Contains(t, said, complaint)
	}
}

func TestTimingCommandRefusesUnclearDocuments(t *testing.T) {
	good := `{"zone":"UTC","due":"2026-11-06T12:00","points":10,"late":{"kind":"none"}}`
	out, code, complaint := run(t, "timing", "--json", file(t, "s.json", good))
	require.Equal(t, 0, code, complaint)
	assert.Equal(t, "2026-11-06T12:00:00Z", out["due"])
	assert.Equal(t, []any{}, out["curve"])
	for text, says := range map[string]string{
		strings.Replace(good, `"zone"`, `"Zone"`, 1): `"Zone"`, strings.Replace(good, `"points":10`, `"points":10,"points":9`, 1): "twice", good + "{}": "after", "{": "JSON",
		strings.Replace(good, `"none"`, `"per_day","of":"earned"`, 1):                        "late.percent",
		strings.Replace(good, `"none"`, `"steps","of":"earned","steps":[{"percent":5}]`, 1):  `"after_minutes" is required`,
		strings.Replace(good, `"points":10`, `"points":10,"margin_minutes":999999999999`, 1): "hundred years",
	} {
		_, code, complaint := run(t, "timing", "--json", file(t, "s.json", text))
		assert.Equal(t, 2, code, text)
		assert.Contains(t, complaint, says)
	}
}

func TestPlanCommand(t *testing.T) {
	tasks := `{"now":"2026-11-02T08:00:00Z","capacity":[{"start":"2026-11-02T16:00:00Z","end":"2026-11-02T20:00:00Z"},{"start":"2026-11-02T15:00:00+00:00","end":"2026-11-02T17:00:00Z"}],
		"tasks":[{"id":"a","deadline":"2026-11-02T18:00:00Z","minutes":180,"done_minutes":30},{"id":"b","deadline":"2026-11-02T19:00:00Z","minutes":120,"late_cost":4},
		{"id":"done","deadline":"2026-11-01T19:00:00Z","minutes":60,"done_minutes":60}]}`
	out, code, complaint := run(t, "plan", "--json", file(t, "t.json", tasks))
	require.Equal(t, 0, code, complaint)
	// By hand: 5 h of evening from 15:00; a takes 2 h 30 min, b ends at 19:30, half an hour late.
	assert.Equal(t, false, out["feasible"])
	assert.Equal(t, 30.0, out["max_late_minutes"])
	assert.Equal(
		t,
		map[string]any{
			"start":            "2026-11-02T08:00:00Z",
			"end":              "2026-11-02T19:00:00Z",
			"demand_minutes":   270.0,
			"capacity_minutes": 240.0,
		},
		out["overloaded"],
	)
	assert.Equal(t, []any{"a"}, out["fewest_late"], "the longest of those due until 19:00")
	assert.Equal(t, map[string]any{"tasks": []any{"a"}, "cost": 1.0}, out["cheapest_late"])
	list := out["tasks"].([]any)
	assert.Equal(
		t,
		map[string]any{
			"id":            "a",
			"finish":        "2026-11-02T17:30:00Z",
			"late_minutes":  0.0,
			"latest_start":  nil,
			"slack_minutes": nil,
		},
		list[0],
	)
	assert.Equal(
		t,
		map[string]any{
			"id":            "b",
			"finish":        "2026-11-02T19:30:00Z",
			"late_minutes":  30.0,
			"latest_start":  "2026-11-02T17:00:00Z",
			"slack_minutes": 540.0,
		},
		list[1],
	)
	assert.Equal(
		t,
		map[string]any{"id": "done", "finish": nil, "late_minutes": 0.0, "latest_start": nil, "slack_minutes": nil},
		list[2],
	)
	for from, to := range map[string]string{`"id":"b"`: `"id":"a"`, `"minutes":120`: `"minutes":-1`, `"minutes":180`: `"minutes":1.5`, `08:00:00Z`: `08:00:00`, `"deadline":"2026-11-02T18:00:00Z",`: ``} {
		_, code, complaint := run(t, "plan", file(t, "t.json", strings.Replace(tasks, from, to, 1)))
		assert.Equal(t, 2, code, to)
		assert.NotEmpty(t, complaint)
	}
}

func TestBriefCommand(t *testing.T) {
	out, code, complaint := run(
		t,
		"brief",
		"--json",
		"--now",
		"2026-11-02T09:00:00Z",
		"--zone",
		"Europe/Lisbon",
		file(t, "b.txt", "Größe egal. One PDF by Friday 6 November, 23:59 (Lisbon time), or next week?"),
	)
	require.Equal(t, 0, code, complaint)
	found := out["found"].([]any)
	require.Len(t, found, 3)
	assert.Equal(
		t,
		map[string]any{
			"kind":  "due",
			"value": "2026-11-06T23:59",
			"zone":  "Europe/Lisbon",
			"start": 23.0,
			"end":   60.0,
			"sure":  0.95,
		},
		found[2],
		"offsets count code points",
	)
	assert.Equal(t, []any{}, out["unsettled"])
	_, code, complaint = run(t, "brief", "--zone", "Lisbon", file(t, "b.txt", "x"))
	assert.Equal(t, 2, code)
	assert.Contains(t, complaint, "IANA")
}

func TestCalendarCommand(t *testing.T) {
	ics := "BEGIN:VCALENDAR\nBEGIN:VEVENT\nUID:a\nSUMMARY:Map\nDTSTART;VALUE=DATE:20261106\nRRULE:FREQ=WEEKLY;COUNT=3\nEND:VEVENT\nEND:VCALENDAR\n"
	out, code, complaint := run(
		t,
		"calendar",
		"--json",
		"--from",
		"2026-11-10T00:00:00Z",
		"--to",
		"2026-12-01T00:00:00Z",
		"--zone",
		"Atlantic/Azores",
		file(t, "c.ics", ics),
	)
	require.Equal(t, 0, code, complaint)
	list := out["list"].([]any)
	require.Len(t, list, 2)
	assert.Equal(
		t,
		map[string]any{
			"uid":           "a",
			"recurrence_id": "2026-11-13",
			"title":         "Map",
			"course":        "",
			"due":           "2026-11-14T00:59:00Z",
			"end":           "",
			"all_day":       true,
			"floating":      false,
			"opens":         "",
			"zone":          "Atlantic/Azores",
			"status":        "",
			"sequence":      0.0,
		},
		list[0],
	)
	out, code, _ = run(t, "calendar", "--json", file(t, "c.csv", "title,due\nMap,2026-11-06\n"))
	assert.Equal(t, 0, code)
	assert.Len(t, out["list"], 1)
	for name, content := range map[string]string{"c.ics": strings.TrimSuffix(ics, "END:VCALENDAR\n"), "c.csv": "title\nMap\n"} {
		_, code, complaint := run(t, "calendar", "--json", file(t, name, content))
		assert.Equal(t, 2, code)
		assert.NotEmpty(t, complaint)
	}
}
