package convert

import (
	"archive/zip"
	"bytes"
	"compress/zlib"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"hash/crc32"
	"image"
	"image/png"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/hhrutter/tiff"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/inspect"
	"orario/internal/confine"
)

// pdfOf writes a PDF of the given objects, the first of which is the catalogue (ISO 32000-1, 7.5).
func pdfOf(objects ...string) []byte { return pdfWith("", objects...) }

// pdfWith is [pdfOf] with more in the trailer.
func pdfWith(trailer string, objects ...string) []byte {
	var b bytes.Buffer
	b.WriteString("%PDF-1.4\n")
	var at []int
	for n, o := range objects {
		at = append(at, b.Len())
		fmt.Fprintf(&b, "%d 0 obj\n%s\nendobj\n", n+1, o)
	}
	table := b.Len()
	fmt.Fprintf(&b, "xref\n0 %d\n0000000000 65535 f \n", len(objects)+1)
	for _, offset := range at {
		fmt.Fprintf(&b, "%010d 00000 n \n", offset)
	}
	fmt.Fprintf(&b, "trailer\n<</Size %d/Root 1 0 R%s>>\nstartxref\n%d\n%%%%EOF\n", len(objects)+1, trailer, table)
	return b.Bytes()
}

// zipOf packs parts, each so often repeated.
func zipOf(t *testing.T, parts map[string]io.Reader) []byte {
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for name, content := range parts {
		part, err := w.Create(name)
		require.NoError(t, err)
		_, err = io.Copy(part, content)
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return b.Bytes()
}

// repeated is a text so many times.
func repeated(text string, n int) io.Reader {
	return io.LimitReader(&again{text: []byte(text)}, int64(n*len(text)))
}

type again struct {
	text []byte
	at   int
}

func (a *again) Read(p []byte) (n int, err error) {
	for n < len(p) {
		c := copy(p[n:], a.text[a.at:])
		n, a.at = n+c, (a.at+c)%len(a.text)
	}
	return n, nil
}

const types = `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Override PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/></Types>`

// wordOf is a DOCX with a body.
func wordOf(t *testing.T, body io.Reader) []byte {
	return zipOf(t, map[string]io.Reader{
		"[Content_Types].xml": strings.NewReader(types),
		"word/document.xml": io.MultiReader(
			strings.NewReader(
				`<w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:body>`,
			),
			body,
			strings.NewReader(`</w:body></w:document>`),
		),
	})
}

// pngOf is a PNG of a size whose rows are given compressed (PNG, third edition, §5.3).
func pngOf(width, height uint32, idat []byte) []byte {
	var b bytes.Buffer
	b.WriteString("\x89PNG\r\n\x1a\n")
	chunk := func(kind string, data []byte) {
		_ = binary.Write(&b, binary.BigEndian, uint32(len(data)))
		b.WriteString(kind)
		b.Write(data)
		_ = binary.Write(&b, binary.BigEndian, crc32.ChecksumIEEE(append([]byte(kind), data...)))
	}
	head := binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(nil, width), height)
	chunk("IHDR", append(head, 8, 6, 0, 0, 0))
	chunk("IDAT", idat)
	chunk("IEND", nil)
	return b.Bytes()
}

func deflated(r io.Reader) []byte {
	var b bytes.Buffer
	w := zlib.NewWriter(&b)
	_, _ = io.Copy(w, r)
	_ = w.Close()
	return b.Bytes()
}

// Whatever a file holds, looking at it is answered within seconds, with facts, and costs this process nothing but the
// file itself. The cases say what they attack.
func TestHostileFilesAreAnswered(t *testing.T) {
	page := "<</Type/Page/Parent 2 0 R/MediaBox[0 0 595 842]>>"
	nested := func(n int) string { return strings.Repeat("<w:p>", n) + strings.Repeat("</w:p>", n) }
	files := map[string][]byte{
		"count.pdf":   pdfOf("<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Count 2000000000/Kids[3 0 R]>>", page),
		"minus.pdf":   pdfOf("<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Count -1/Kids[3 0 R]>>", page),
		"circle.pdf":  pdfOf("<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Count 2/Kids[2 0 R 3 0 R]>>", page),
		"nopages.pdf": pdfOf("<</Type/Catalog>>"),
		"wide.pdf": pdfOf(
			"<</Type/Catalog/Pages 2 0 R>>",
			"<</Type/Pages/Count 1/Kids["+strings.Repeat("3 0 R ", 200_000)+"]>>",
			page,
		),
		"inflate.pdf": pdfOf(
			"<</Type/Catalog/Pages 2 0 R>>",
			"<</Type/Pages/Count 1/Kids[3 0 R]>>",
			page,
			stream(deflated(repeated("0 0 m ", 20_000_000))),
		),
		"text.docx":     wordOf(t, repeated("<w:p><w:r><w:t>word </w:t></w:r></w:p>", 1_000_000)),
		"bomb.docx":     wordOf(t, repeated(" ", 300_000_000)),
		"deep.docx":     wordOf(t, strings.NewReader(nested(300_000))),
		"entries.zip":   zipOf(t, entries(60_000)),
		"bomb.zip":      zipOf(t, map[string]io.Reader{"zeros": repeated("\x00", 200_000_000)}),
		"vast.png":      pngOf(2_000_000_000, 2_000_000_000, nil),
		"large.png":     pngOf(30_000, 30_000, deflated(repeated("\x00", 1000))),
		"rows.png":      pngOf(6_000, 6_000, deflated(repeated("\x00", 144_006_000))),
		"truncated.png": pngOf(600, 600, deflated(repeated("\x01", 100))),
		"words.txt":     bytes.Repeat([]byte("a "), 20_000_000),
		"long.csv":      append(bytes.Repeat([]byte("a,"), 5_000_000), '\n'),
		"quotes.csv":    append([]byte{'"'}, bytes.Repeat([]byte("\"\""), 8_000_000)...),
		"tags.html":     bytes.Repeat([]byte("<div>"), 2_000_000),
		"loop.tif":      []byte("II*\x00\x08\x00\x00\x00\x00\x00\x08\x00\x00\x00"),
		"nothing.jpg":   []byte("\xff\xd8\xff\xe1\xff\xff"),
	}
	tools, err := New(t.TempDir())
	require.NoError(t, err)
	defer tools.Close()
	for name, data := range files {
		t.Run(name, func(t *testing.T) {
			began := time.Now()
			file := inspect.Stored{Name: name, Bytes: int64(len(data)), SHA256: inspect.Digest(data)}
			facts, text, err := tools.Look(
				context.Background(),
				file,
				func() (io.Reader, error) { return bytes.NewReader(data), nil },
			)
			require.NoError(t, err)
			assert.Less(t, time.Since(began), 12*time.Second, "a look and the text of pages, 5 s each")
			assert.LessOrEqual(t, len(text), confine.MaxOutput)
			assert.Equal(t, int64(len(data)), facts.Bytes)
			if facts.Pages != nil {
				assert.LessOrEqual(t, *facts.Pages, 20_001)
			}
		})
	}
	left, err := filepath.Glob(filepath.Join(tools.dir, "look-*"))
	require.NoError(t, err)
	assert.Empty(t, left, "no folder is left behind")
}

func stream(data []byte) string {
	return fmt.Sprintf("<</Length %d/Filter/FlateDecode>>stream\n%s\nendstream", len(data), data)
}

func entries(n int) map[string]io.Reader {
	list := map[string]io.Reader{}
	for i := range n {
		list[fmt.Sprint("f", i)] = strings.NewReader("")
	}
	return list
}

// What is our own failure is an error, and never a fault of the file.
func TestAFailureOfOursIsNotTheFilesFault(t *testing.T) {
	tools, err := New(t.TempDir())
	require.NoError(t, err)
	defer tools.Close()
	data := pdfOf(
		"<</Type/Catalog/Pages 2 0 R>>",
		"<</Type/Pages/Count 1/Kids[3 0 R]>>",
		"<</Type/Page/Parent 2 0 R/MediaBox[0 0 595 842]>>",
	)
	look := func() error {
		_, err := tools.Facts(context.Background(), "a.pdf", data)
		return err
	}
	require.NoError(t, look())
	t.Run("no sandbox", func(t *testing.T) {
		t.Setenv("PATH", t.TempDir())
		assert.ErrorContains(t, look(), "the sandbox cannot be had")
	})
	t.Run("no folder", func(t *testing.T) {
		dir := tools.dir
		tools.dir = filepath.Join(dir, "gone")
		defer func() { tools.dir = dir }()
		assert.ErrorIs(t, look(), os.ErrNotExist)
	})
	t.Run("stopped", func(t *testing.T) {
		ctx, cancel := context.WithCancel(context.Background())
		cancel()
		_, err := tools.Facts(ctx, "a.pdf", data)
		assert.ErrorIs(t, err, context.Canceled)
	})
	t.Run("reading it", func(t *testing.T) {
		broken := errors.New("the database is gone")
		_, _, err := tools.Look(
			context.Background(),
			inspect.Stored{Name: "a.pdf", Bytes: 9},
			func() (io.Reader, error) { return nil, broken },
		)
		assert.ErrorIs(t, err, broken)
	})
}

// A picture that says it is enormous is refused before it is opened: a PNG (ISO/IEC 15948) and a TIFF of some bytes.
func TestEnormousPicturesAreNotOpened(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewGray(image.Rect(0, 0, 1, 1))))
	large := bytes.Clone(b.Bytes())
	binary.BigEndian.PutUint32(large[16:], 60_000) // width and height of IHDR, and its CRC
	binary.BigEndian.PutUint32(large[20:], 60_000)
	binary.BigEndian.PutUint32(large[29:], crc32.ChecksumIEEE(large[12:29]))
	b.Reset()
	require.NoError(t, tiff.Encode(&b, image.NewGray(image.Rect(0, 0, 3, 5)), nil))
	wide := b.Bytes()
	changed := 0
	for at := int(binary.LittleEndian.Uint32(wide[4:])) + 2; at+12 <= len(wide); at += 12 {
		if tag := binary.LittleEndian.Uint16(wide[at:]); tag == 256 || tag == 257 { // ImageWidth, ImageLength
			binary.LittleEndian.PutUint16(wide[at+8:], 60_000)
			changed++
		}
	}
	require.Equal(t, 2, changed)
	x := tools(t)
	for _, f := range []inspect.Named{file("a.png", large), file("a.tiff", wide)} {
		_, err := x.Show(context.Background(), f)
		assert.ErrorContains(t, err, "60000 × 60000 pixels", f.Name)
		_, err = x.Scan(context.Background(), []inspect.Named{f}, ScanWishes{Strength: 0.5})
		assert.ErrorContains(t, err, "make it smaller", f.Name)
	}
}

// Markdown that takes its parser without end is given up; what people write is not.
func TestMarkdownThatNeverEndsIsRefused(t *testing.T) {
	x := tools(t)
	typesetTime = 2 * time.Second
	defer func() { typesetTime = maxPDFTime }()
	for says, text := range map[string]string{
		"took too long": strings.Repeat("> ", 500_000),
		"split it":      strings.Repeat("word ", 1_000_000),
	} {
		_, err := x.typeset(context.Background(), text, Page{}, nil)
		assert.ErrorContains(t, err, says)
	}
	page, err := x.typeset(context.Background(),
		"> A quotation\n> > in one\n\n"+strings.Repeat("[a](https://a.example/) ", 300), Page{}, nil)
	require.NoError(t, err)
	assert.Equal(t, 300, strings.Count(unzipped(t, page), "<w:hyperlink"))
}
