package convert

import (
	"bytes"
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/cleaning"
	"orario/core/ink"
	"orario/core/inspect"
)

// aForm is a PDF (ISO 32000-1) with a filled field that only a reader draws, a note, a link, a program, a file, and an
// author.
func aForm() []byte {
	objects := []string{
		"<</Type/Catalog/Pages 2 0 R/AcroForm<</Fields[5 0 R]/DA(/Helv 12 Tf 0 g)/DR<</Font<</Helv 8 0 R>>>>>>" +
			"/OpenAction<</S/JavaScript/JS(app.alert\\(1\\))>>/Names<</EmbeddedFiles<</Names[(a.txt) 7 0 R]>>>>>>",
		"<</Type/Pages/Kids[3 0 R]/Count 1>>",
		"<</Type/Page/Parent 2 0 R/MediaBox[0 0 300 300]/Contents 4 0 R/Resources<</Font<</Helv 8 0 R>>>>/Annots[5 0 R 6 0 R 9 0 R]>>",
		"<</Length 47>>\nstream\nBT /Helv 14 Tf 20 200 Td (Visible words) Tj ET  \nendstream",
		"<</Type/Annot/Subtype/Widget/FT/Tx/T(name)/V(Filled in)/Rect[20 100 200 130]/F 4/DA(/Helv 12 Tf 0 g)/P 3 0 R>>",
		"<</Type/Annot/Subtype/Text/Contents(A secret note)/T(Rui)/Rect[10 10 30 30]>>",
		"<</Type/Filespec/F(a.txt)/EF<</F 10 0 R>>>>",
		"<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>",
		"<</Type/Annot/Subtype/Link/Rect[10 50 60 60]/A<</S/URI/URI(https://a.example/)>>>>",
		"<</Length 8>>\nstream\nattached\nendstream",
		"<</Author(Nerea)/Title(Tides)>>",
	}
	return pdfWith("/Info 11 0 R", objects...)
}

func TestAPDFIsCleaned(t *testing.T) {
	x := tools(t)
	ctx := context.Background()
	out, removed, err := x.Clean(ctx, file("form.pdf", aForm()), "pdf", nil)
	require.NoError(t, err)
	counts := map[string]int{}
	for _, r := range removed {
		counts[r.Kind] = r.Count
	}
	assert.Equal(t, map[string]int{
		cleaning.Comments: 1, cleaning.Author: 1, cleaning.Macros: 1, cleaning.Attachments: 1, cleaning.FormFields: 1,
	}, counts)
	text, err := x.Text(ctx, "pdf", out)
	require.NoError(t, err)
	assert.Contains(t, text, "Visible words")
	assert.Contains(t, text, "Filled in", "what the field says is on the page now")
	path := filepath.Join(t.TempDir(), "out.pdf")
	require.NoError(t, os.WriteFile(path, out, 0o600))
	open, err := exec.Command("qpdf", "--qdf", "--object-streams=disable", path, "-").Output()
	require.NoError(t, err)
	for _, gone := range []string{"secret", "Nerea", "JavaScript", "attached", "AcroForm", "Widget"} {
		assert.False(t, bytes.Contains(open, []byte(gone)), gone)
	}
	for _, stays := range []string{"https://a.example/", "Tides"} {
		assert.True(t, bytes.Contains(open, []byte(stays)), stays)
	}
	facts := inspect.File("out.pdf", out)
	assert.Equal(t, 0, *facts.FormFields)
	_, again, err := x.Clean(ctx, file("out.pdf", out), "pdf", nil)
	require.NoError(t, err)
	assert.Empty(t, again)

	kept, removed, err := x.Clean(
		ctx,
		file("form.pdf", aForm()),
		"pdf",
		[]string{cleaning.FormFields, cleaning.Comments},
	)
	require.NoError(t, err)
	assert.Len(t, removed, 3)
	assert.Equal(t, 1, *inspect.File("a.pdf", kept).FormFields)
	assert.Equal(t, 1, *inspect.File("a.pdf", kept).Annotations)
	_, _, err = x.Clean(ctx, file("form.pdf", aForm()), "docx", nil)
	assert.ErrorContains(t, err, "convert it first")
	_, _, err = x.Clean(ctx, file("form.pdf", aForm()[:300]), "pdf", nil)
	assert.ErrorContains(t, err, "cannot be cleaned")
}

// What stands in object streams (ISO 32000-1, 7.5.7), as most programs write PDFs today, is there afterwards.
func TestObjectStreamsKeepWhatTheyHold(t *testing.T) {
	x := tools(t)
	ctx := context.Background()
	m, err := x.Make(ctx, []inspect.Named{file("a.md", []byte("# Tides\n\nThe mole was surveyed."))}, "pdf", Wishes{})
	require.NoError(t, err)
	packed, err := x.rewritten(ctx, m.Data, "--object-streams=generate")
	require.NoError(t, err)
	cleaned, _, err := x.Clean(ctx, file("a.pdf", packed), "pdf", nil)
	require.NoError(t, err)
	written, err := x.Write(ctx, file("a.pdf", packed), ink.Sheet{Pages: []ink.Page{{Width: 595, Height: 842,
		Words: []ink.Words{{X: 300, Y: 300, Size: 12, Colour: "#000000", Text: "Seen."}}}}})
	require.NoError(t, err)
	for _, pdf := range [][]byte{cleaned, written} {
		text, err := x.Text(ctx, "pdf", pdf)
		require.NoError(t, err)
		assert.Contains(t, text, "The mole was surveyed.")
	}
}
