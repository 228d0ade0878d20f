package main

import (
	"image"
	"image/png"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestConvertCommandWritesWholeOrNothing(t *testing.T) {
	in, out := file(t, "a.txt", "Tides."), filepath.Join(t.TempDir(), "out.zip")
	said, code, complaint := runText(t, "convert", in, out)
	assert.Equal(t, 0, code, complaint)
	assert.Contains(t, said, "packed a.txt")
	before, err := os.ReadFile(out)
	require.NoError(t, err)
	_, code, complaint = runText(t, "convert", in, out)
	assert.Equal(t, 2, code)
	assert.Contains(t, complaint, "is there already")
	_, code, _ = runText(t, "convert", in, out, "--force")
	assert.Equal(t, 0, code)
	for _, args := range [][]string{
		{"convert", in, filepath.Join(filepath.Dir(out), "x.mp3")},
		{"convert", in, filepath.Join(filepath.Dir(out), "none", "x.zip")},
		{"convert", in, filepath.Dir(out)},
		{"convert", in, filepath.Join(filepath.Dir(out), "x.zip"), "--pages", "1"},
		{"scan", in, "-o", filepath.Join(filepath.Dir(out), "x.pdf")},
		{"scan", in, "-o", filepath.Join(filepath.Dir(out), "x.jpg")},
		{"clean", in, filepath.Join(filepath.Dir(out), "x.pdf")},
		{"clean", in, filepath.Join(filepath.Dir(out), "x.txt"), "--keep", "everything"},
	} {
		_, code, complaint := runText(t, args...)
		assert.Equal(t, 2, code, args)
		assert.NotEmpty(t, complaint, args)
	}
	entries, err := os.ReadDir(filepath.Dir(out))
	require.NoError(t, err)
	assert.Len(t, entries, 1, "nothing half written lies there")
	after, err := os.ReadFile(out)
	require.NoError(t, err)
	assert.Equal(t, len(before), len(after))
}

func TestScanAndCleanCommands(t *testing.T) {
	photo := filepath.Join(t.TempDir(), "empty.png")
	f, err := os.Create(photo)
	require.NoError(t, err)
	require.NoError(t, png.Encode(f, image.NewGray(image.Rect(0, 0, 60, 80))))
	require.NoError(t, f.Close())
	out, code, complaint := run(t, "scan", "--json", photo, "-o", filepath.Join(t.TempDir(), "out.pdf"))
	require.Equal(t, 0, code, complaint)
	page := out["pages"].([]any)[0].(map[string]any)
	assert.Equal(t, []any{"no_page", "dark"}, page["warnings"])
	assert.Len(t, page["corners"], 4)
	out, code, complaint = run(t, "clean", "--json", photo, filepath.Join(t.TempDir(), "clean.png"))
	require.Equal(t, 0, code, complaint)
	assert.Equal(t, []any{}, out["removed"])
}

func TestCheckCommand(t *testing.T) {
	asked := file(t, "brief.json", `{"slots":[{"name":"data","required":true,"forms":["csv"]},{"name":"text","required":true}],
		"name":"{family:lower}_{title:dash}","fields":{"family":"Quintal","title":"Tide tables"},
		"zone":"Europe/Lisbon","due":"2026-12-01T23:59"}`)
	table := file(t, "readings.csv", "a,b\n1,2\n")
	out, code, _ := run(t, "check", "--brief", asked, "--now", "2026-11-01T10:00", "--json", table)
	assert.Equal(t, 1, code)
	weights := map[string]string{}
	for _, f := range out["findings"].([]any) {
		f := f.(map[string]any)
		weights[f["code"].(string)] = f["weight"].(string)
		if f["code"] == "name" {
			assert.Equal(t, table, f["file"])
			assert.Equal(t, map[string]any{"slot": "data", "fix": "rename", "becomes": "quintal_tide-tables.csv"}, f["evidence"])
		}
	}
	assert.Equal(t, map[string]string{"slot_empty": "must", "name": "must"}, weights)
	_, code, _ = run(t, "check", "--brief", asked, "--now", "2027-01-01T10:00", "--json", table)
	assert.Equal(t, 1, code, "closed")
	plain := file(t, "plain.json", `{}`)
	out, code, _ = run(t, "check", "--brief", plain, "--json", file(t, "quintal_tides.csv", "a,b\n1,2\n"))
	assert.Equal(t, 0, code)
	assert.Equal(t, []any{}, out["findings"])
	for text, says := range map[string]string{
		`{"slot":[]}`:                      `"slot" is not known`,
		`{"slots":[{"name":""}]}`:          "each has a name",
		`{"name":"{family}"}`:              `fields lacks "family"`,
		`{"name":"{famly}"}`:               "famly",
		`{"due":"soon"}`:                   "soon",
		`{"late":{"kind":"sometimes"}}`:    "late",
		`{"slots":[{"name":"a"}],"x":1} x`: "not known",
	} {
		_, code, complaint := run(t, "check", "--brief", file(t, "b.json", text), table)
		assert.Equal(t, 2, code, text)
		assert.Contains(t, complaint, says)
	}
}
