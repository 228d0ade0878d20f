package convert

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/inspect"
)

// What LibreOffice writes of a text and of a table has the words, the rows and the author that they had.
func TestFactsOfFilesThatAnotherProgramWrote(t *testing.T) {
	x := tools(t)
	ctx := context.Background()
	word := makes(t, x, "docx", Wishes{Page: Page{Author: "Nerea Quintal"}},
		file("a.md", []byte("# Tides\n\nCafé at *high* water — 12 €, “said” Lídia.\n\n| a | b |\n|---|---|\n| 1 | two |\n"))).Data
	facts, err := x.Facts(ctx, "a.docx", word)
	require.NoError(t, err)
	rtf, err := x.byOffice(ctx, officeJob{name: "in.docx", data: word, to: "rtf", how: filters["rtf"]})
	require.NoError(t, err)
	of, err := x.Facts(ctx, "a.rtf", rtf)
	require.NoError(t, err)
	require.NotNil(t, of.Words)
	assert.Equal(t, *facts.Words, *of.Words)
	assert.Equal(t, "Nerea Quintal", *of.Author)
	text, err := inspect.Text("rtf", rtf)
	require.NoError(t, err)
	assert.Contains(t, text, "Café at high water — 12 €, “said” Lídia.")

	book, err := x.byOffice(ctx, officeJob{name: "in.csv", data: []byte("h,m,\n1,2,\n,,\n3,,x\n"), to: "ods"})
	require.NoError(t, err)
	of, err = x.Facts(ctx, "a.ods", book)
	require.NoError(t, err)
	assert.Equal(t, []int{4, 3}, []int{*of.Rows, *of.Columns})
	slides, err := x.byOffice(ctx, officeJob{name: "in.html", data: []byte("<h1>One two</h1>"), to: "odp", read: "HTML (StarWriter)"})
	if err == nil { // what cannot be made of a page here is made by hand below
		of, err = x.Facts(ctx, "a.odp", slides)
		require.NoError(t, err)
		assert.NotNil(t, of.Pages)
	}
}

// ISO 32000-1, 14.11.2: what lies outside of a page's crop box is not shown. The words are counted in a PDF that qpdf
// wrote out to be edited.
func TestWordsOfCroppedPagesAndOfDamagedFiles(t *testing.T) {
	x := tools(t)
	ctx := context.Background()
	pdf := makes(t, x, "pdf", Wishes{Page: Page{Author: "Nerea Quintal"}},
		file("a.md", []byte(strings.Repeat("One line of it.\n\n", 8)+"\n***\n\n"))).Data
	facts, err := x.Facts(ctx, "a.pdf", pdf)
	require.NoError(t, err)
	whole := *facts.Words
	work := t.TempDir()
	in, plain, out := filepath.Join(work, "in.pdf"), filepath.Join(work, "plain.pdf"), filepath.Join(work, "out.pdf")
	require.NoError(t, os.WriteFile(in, pdf, 0o600))
	require.NoError(t, exec.Command("qpdf", "--qdf", "--object-streams=disable", in, plain).Run())
	text, err := os.ReadFile(plain)
	require.NoError(t, err)
	cropped := bytes.Replace(text, []byte("/MediaBox"), []byte("/CropBox [0 720 595 842]\n  /MediaBox"), 1)
	require.NoError(t, os.WriteFile(plain, cropped, 0o600))
	_ = exec.Command("qpdf", "--warning-exit-0", plain, out).Run()
	cropped, err = os.ReadFile(out)
	require.NoError(t, err)
	facts, err = x.Facts(ctx, "a.pdf", cropped)
	require.NoError(t, err)
	assert.Positive(t, *facts.Words)
	assert.Less(t, *facts.Words, whole/2)
	assert.EqualValues(t, 1, *facts.TextLayerShare)

	// Wherever something in its middle is lost so that it does not open, what can be known stays known.
	var zeroed []byte
	for at := len(pdf) / 3; at < len(pdf)-1500; at += 400 {
		zeroed = bytes.Clone(pdf)
		copy(zeroed[at:], make([]byte, 600))
		if f := inspect.File("a.pdf", zeroed); f.Pages == nil {
			break
		}
	}
	facts, err = x.Facts(ctx, "a.pdf", zeroed)
	require.NoError(t, err)
	require.NotEmpty(t, facts.Problems)
	assert.Equal(t, "damaged", facts.Problems[0].Code)
	require.NotNil(t, facts.Pages)
	assert.Equal(t, 1, *facts.Pages)
	assert.Equal(t, "595 × 842", fmt.Sprintf("%.0f × %.0f", facts.PageSizes[0].Width, facts.PageSizes[0].Height))
	assert.NotNil(t, facts.Words)
	_, _, err = x.Clean(ctx, file("a.pdf", zeroed), "pdf", nil)
	assert.ErrorContains(t, err, "cannot be cleaned", "it is damaged all the same")
}
