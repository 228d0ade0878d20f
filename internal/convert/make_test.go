package convert

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"os/exec"
	"strings"
	"testing"

	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/inspect"
)

// half is a picture whose left half is red and whose right half is see-through.
func half(t testing.TB) []byte {
	p := image.NewNRGBA(image.Rect(0, 0, 40, 20))
	for y := range 20 {
		for x := range 20 {
			p.Set(x, y, color.NRGBA{200, 0, 0, 255})
		}
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, p))
	return b.Bytes()
}

func file(name string, data []byte) inspect.Named { return inspect.Named{Name: name, Data: data} }

func makes(t *testing.T, x *Tools, to string, w Wishes, files ...inspect.Named) *Made {
	t.Helper()
	m, err := x.Make(context.Background(), files, to, w)
	require.NoError(t, err)
	assert.NotEmpty(t, m.Did)
	return m
}

// What a page would fetch is not even given to LibreOffice, whichever way the conversion is asked for.
func TestPagesFetchNothing(t *testing.T) {
	x := tools(t)
	for kind, text := range map[string]string{
		"html": `<link href="https://a.example/s.css"><p style="background:url(//a.example/b)">Tides</p>` +
			`<img src="file:///etc/passwd"><iframe src="/etc/passwd"></iframe><script>fetch("a.example")</script>`,
		"md":  "Tides ![a](https://a.example/p.png)\n",
		"txt": "Tides \u00e9 <img src='a.example'>",
	} {
		job, err := x.officeJobOf(context.Background(), file("in."+kind, []byte(text)), kind, Wishes{})
		require.NoError(t, err, kind)
		if kind == "md" {
			read, err := inspect.Text("docx", job.data)
			require.NoError(t, err)
			assert.Equal(t, "Tides a", strings.TrimSpace(read))
			assert.NotContains(t, unzipped(t, job.data), "a.example")
			continue
		}
		assert.Contains(t, string(job.data), "Tides", kind)
		for _, fetched := range []string{"src=", "url(", "<link", "<iframe", "<script"} {
			if kind != "txt" || fetched != "src=" { // there it is text
				assert.NotContains(t, string(job.data), fetched, kind)
			}
		}
		assert.NotContains(t, string(job.data), "<img src", kind)
	}
	utf16 := []byte("\xff\xfeT\x00i\x00d\x00e\x00s\x00 \x00\xe9\x00")
	pdf, err := x.ToPDF(context.Background(), "txt", utf16)
	require.NoError(t, err)
	text, err := x.Text(context.Background(), "pdf", pdf)
	require.NoError(t, err)
	assert.Equal(t, "Tides é", strings.TrimSpace(text))
}

func TestFilesBecomeOtherForms(t *testing.T) {
	x := tools(t)
	ctx := context.Background()
	text := func(pdf []byte) string {
		got, err := x.Text(ctx, "pdf", pdf)
		require.NoError(t, err)
		return got
	}
	md := file("notes.md",
		[]byte("# Tides\n\nHigh *water* at noon.\n\n| a | b |\n|---|---|\n| 1 | 2 |\n\n![x](/etc/passwd)\n"))
	for name, f := range map[string]inspect.Named{
		"Markdown": md,
		"text":     file("a.txt", []byte("Tides\r\n\r\nHigh water at noon, 2 é.\r\n")),
		"a table":  file("a.csv", []byte("Tides;High water\n1;2\n")),
		"HTML":     file("a.html", []byte(`<title>no</title><h1>Tides</h1><p>High water 2</p><img src="file:///etc/passwd">`)),
	} {
		t.Run(name, func(t *testing.T) {
			got := text(makes(t, x, "pdf", Wishes{}, f).Data)
			for _, word := range []string{"Tides", "High", "2"} {
				assert.Contains(t, got, word)
			}
			assert.NotContains(t, got, "root:")
		})
	}
	word := makes(t, x, "docx", Wishes{}, md).Data
	assert.Equal(t, "docx", inspect.Kind("a.docx", word))
	again := makes(t, x, "odt", Wishes{}, file("a.docx", word)).Data
	written, err := inspect.Text("odt", again)
	require.NoError(t, err)
	assert.Contains(t, written, "High water at noon.")

	pages := makes(t, x, "pdf", Wishes{}, md, file("p.png", half(t)), file("b.txt", []byte("third page"))).Data
	n, err := api.PageCount(bytes.NewReader(pages), plainPDF())
	require.NoError(t, err)
	assert.Equal(t, 3, n)
	picked := makes(t, x, "pdf", Wishes{Pages: "3,1", Turn: 90}, file("all.pdf", pages)).Data
	facts := inspect.File("x.pdf", picked)
	assert.Equal(t, 2, *facts.Pages)
	assert.Greater(t, facts.PageSizes[0].Width, facts.PageSizes[0].Height, "turned")
	assert.Less(t, strings.Index(text(picked), "third"), strings.Index(text(picked), "Tides"))
	archive := makes(t, x, "pdf", Wishes{PDFA: true}, file("all.pdf", pages)).Data
	assert.True(t, bytes.Contains(archive, []byte("pdfaid:part='2'")), "ISO 19005-2, 6.6.4")
	assert.True(t, bytes.Contains(archive, []byte("/GTS_PDFA1")), "ISO 19005-2, 6.2.3")
}

func TestPicturesAreWholeUprightAndOnWhite(t *testing.T) {
	x := tools(t)
	got, err := jpeg.Decode(bytes.NewReader(makes(t, x, "jpg", Wishes{Turn: 90}, file("p.png", half(t))).Data))
	require.NoError(t, err)
	assert.Equal(t, image.Rect(0, 0, 20, 40), got.Bounds())
	r, g, b, _ := got.At(10, 35).RGBA()
	assert.Greater(t, min(r, g, b), uint32(0xf000), "what shines through is white")
	turned, err := png.Decode(bytes.NewReader(makes(t, x, "png", Wishes{Turn: 90}, file("p.png", half(t))).Data))
	require.NoError(t, err)
	_, _, _, alpha := turned.At(10, 35).RGBA()
	assert.Less(t, alpha, uint32(0xf000), "but stays so in a PNG that is only turned")
	r, _, b, _ = got.At(10, 5).RGBA()
	assert.True(t, r > 0xb000 && b < 0x3000, "the left is at the top")
	big := image.NewRGBA(image.Rect(0, 0, 600, 400))
	for i := range big.Pix {
		big.Pix[i] = uint8(i * i * 7)
	}
	var noise bytes.Buffer
	require.NoError(t, png.Encode(&noise, big))
	small := makes(t, x, "jpg", Wishes{MaxBytes: 20_000}, file("n.png", noise.Bytes())).Data
	assert.LessOrEqual(t, len(small), 20_000)
	_, err = x.Make(context.Background(), []inspect.Named{file("n.png", noise.Bytes())}, "jpg", Wishes{MaxBytes: 100})
	var over Over
	require.ErrorAs(t, err, &over)
	assert.Greater(t, over.Least, int64(100))
}

func TestAZIPHoldsDistinctNamesInOrder(t *testing.T) {
	m := makes(
		t,
		tools(t),
		"zip",
		Wishes{},
		file("a/x.txt", []byte("1")),
		file("b/X.txt", []byte("2")),
		file("y.md", nil),
	)
	z, err := zip.NewReader(bytes.NewReader(m.Data), int64(len(m.Data)))
	require.NoError(t, err)
	var names []string
	for _, f := range z.File {
		names = append(names, f.Name)
	}
	assert.Equal(t, []string{"x.txt", "X-2.txt", "y.md"}, names)
}

func TestWhatCannotBeMadeIsRefused(t *testing.T) {
	x := tools(t)
	pdf := makes(t, x, "pdf", Wishes{}, file("p.png", half(t))).Data
	for name, c := range map[string]struct {
		files []inspect.Named
		to    string
		w     Wishes
		says  string
	}{
		"no such form":      {[]inspect.Named{file("a.txt", []byte("a"))}, "xyz", Wishes{}, "nothing can be made into .xyz"},
		"a text to sound":   {[]inspect.Named{file("a.txt", []byte("a"))}, "mp3", Wishes{}, "cannot be made into .mp3"},
		"two to one":        {[]inspect.Named{file("a.txt", []byte("a")), file("b.txt", []byte("b"))}, "docx", Wishes{}, "one PDF or one ZIP"},
		"no such page":      {[]inspect.Named{file("a.pdf", pdf)}, "pdf", Wishes{Pages: "2"}, "there is no page 2; there is 1 page"},
		"pages in words":    {[]inspect.Named{file("a.pdf", pdf)}, "pdf", Wishes{Pages: "all"}, "write them as 2-4,7"},
		"pages of a letter": {[]inspect.Named{file("a.txt", []byte("a"))}, "docx", Wishes{Pages: "1"}, "of a PDF only"},
		"turned by 45":      {[]inspect.Named{file("a.pdf", pdf)}, "pdf", Wishes{Turn: 45}, "90, 180 or 270"},
		"a picture cut off": {[]inspect.Named{file("p.png", half(t)[:60])}, "jpg", Wishes{}, "cannot be converted"},
		"a PDF cut off":     {[]inspect.Named{file("a.pdf", pdf[:300])}, "pdf", Wishes{}, "cannot be converted"},
		"nothing":           {[]inspect.Named{file("a.pdf", nil)}, "pdf", Wishes{}, "is empty"},
		"a smaller PNG":     {[]inspect.Named{file("p.png", half(t))}, "png", Wishes{MaxBytes: 9}, "can't be made smaller"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := x.Make(context.Background(), c.files, c.to, c.w)
			require.Error(t, err)
			assert.False(t, errors.As(err, &Over{}))
			assert.Contains(t, err.Error(), c.says)
		})
	}
}

// Sound that ffmpeg makes is measured by ffprobe again.
func TestSoundAndFilm(t *testing.T) {
	x := tools(t)
	wav, err := exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=frequency=440:duration=6", "-f", "wav", "-").
		Output()
	require.NoError(t, err)
	for _, to := range []string{"mp3", "m4a", "ogg", "flac"} {
		m := makes(t, x, to, Wishes{}, file("a.wav", wav))
		assert.Equal(t, to, inspect.Kind("a."+to, m.Data))
	}
	m := makes(t, x, "mp3", Wishes{MaxBytes: 30_000}, file("a.wav", wav))
	assert.LessOrEqual(t, len(m.Data), 30_000)
	_, err = x.Make(context.Background(), []inspect.Named{file("a.wav", wav)}, "mp3", Wishes{MaxBytes: 900})
	assert.ErrorAs(t, err, &Over{})
	_, err = x.Make(context.Background(), []inspect.Named{file("a.wav", wav)}, "mp4", Wishes{})
	assert.ErrorContains(t, err, "cannot be made into .mp4; choose mp3, m4a, ogg, wav, flac")
}
