package convert

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/internal/confine"
)

func tools(t testing.TB) *Tools {
	t.Helper()
	tools, err := New(t.TempDir())
	require.NoError(t, err)
	t.Cleanup(tools.Close)
	return tools
}

// docx is the smallest document that ECMA-376 allows.
func docx(t testing.TB, paragraphs ...string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, part := range [][2]string{
		{"[Content_Types].xml", `<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Override PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/></Types>`},
		{"_rels/.rels", `<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="word/document.xml"/></Relationships>`},
		{"word/document.xml", `<?xml version="1.0"?><w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:body><w:p><w:r><w:t>` + strings.Join(paragraphs, `</w:t></w:r></w:p><w:p><w:r><w:t>`) + `</w:t></w:r></w:p></w:body></w:document>`},
	} {
		w, err := z.Create(part[0])
		require.NoError(t, err)
		_, err = w.Write([]byte(part[1]))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

func TestADocumentBecomesAPDFWithItsText(t *testing.T) {
	tools := tools(t)
	document := docx(t, "Tide tables of the harbour", "Low water at noon")
	pdf, err := tools.ToPDF(context.Background(), "docx", document)
	require.NoError(t, err)
	facts, err := tools.Facts(context.Background(), "tides.pdf", pdf)
	require.NoError(t, err)
	assert.Equal(t, "pdf", facts.Kind)
	assert.Equal(t, 1, *facts.Pages)
	assert.Equal(t, 9, *facts.Words)
	assert.Equal(t, 1.0, *facts.TextLayerShare)
	assert.Empty(t, *facts.FontsNotEmbedded)
	text, err := tools.Text(context.Background(), "pdf", pdf)
	require.NoError(t, err)
	assert.Contains(t, text, "Low water at noon")
	_, err = tools.ToPDF(context.Background(), "docx", document)
	assert.NoError(t, err, "and again")
}

func TestTheSandboxIsTight(t *testing.T) {
	secret := filepath.Join(t.TempDir(), "secret")
	require.NoError(t, os.WriteFile(secret, []byte("s"), 0o600))
	for _, attempt := range []string{"cat " + secret, "echo x > /usr/x", "cat < /dev/tcp/127.0.0.1/22", "cat /etc/passwd", "cat /etc/hostname", "head -c 1100000000 /dev/zero > big", "test $(ls /proc | grep -c '^[0-9]') -gt 9"} {
		err := confine.Box{Work: t.TempDir()}.Command(context.Background(), "bash", "-c", attempt).Run()
		assert.Error(t, err, attempt)
	}
	out, err := confine.Box{Work: t.TempDir()}.Command(
		context.Background(),
		"sh",
		"-c",
		"ls /sys/class/net 2>/dev/null; cat /proc/net/dev | tail -n +3",
	).Output()
	require.NoError(t, err)
	assert.NotContains(t, strings.ReplaceAll(string(out), "lo:", ""), ":", "no network device but loopback")
}

func TestConversionsEndInTime(t *testing.T) {
	tools := tools(t)
	ctx, cancel := context.WithTimeout(context.Background(), 50*time.Millisecond)
	defer cancel()
	_, err := tools.ToPDF(ctx, "docx", docx(t, strings.Repeat("word ", 200_000)))
	assert.Error(t, err)
	_, err = tools.ToPDF(context.Background(), "docx", docx(t, "still works"))
	assert.NoError(t, err)
	_, err = tools.ToPDF(context.Background(), "docx", []byte("PK\x03\x04 nothing"))
	assert.Error(t, err)
}

// While one document takes its time, another is made.
func TestALongConversionLetsAnotherOn(t *testing.T) {
	tools := tools(t)
	ctx, cancel := context.WithCancel(context.Background())
	long := make(chan error, 1)
	go func() {
		_, err := tools.ToPDF(ctx, "docx", docx(t, strings.Repeat("word ", 400_000)))
		long <- err
	}()
	time.Sleep(500 * time.Millisecond)
	_, err := tools.ToPDF(context.Background(), "docx", docx(t, "A page."))
	require.NoError(t, err)
	select {
	case err := <-long:
		t.Fatalf("the long one has ended already: %v", err)
	default:
	}
	cancel()
	assert.ErrorIs(t, <-long, context.Canceled)
}

// Conversions of short documents, as many at a time as are made: what a minute yields.
func BenchmarkConversionsAMinute(b *testing.B) {
	tools := tools(b)
	document := docx(b, "A page of text.", "Another paragraph.")
	b.SetParallelism(2)
	b.RunParallel(func(one *testing.PB) {
		for one.Next() {
			_, err := tools.ToPDF(context.Background(), "docx", document)
			require.NoError(b, err)
		}
	})
	b.ReportMetric(float64(b.N)/b.Elapsed().Minutes(), "files/min")
}

func BenchmarkToPDF(b *testing.B) {
	tools := tools(b)
	document := docx(b, "A page of text.", "Another paragraph.")
	for b.Loop() {
		_, err := tools.ToPDF(context.Background(), "docx", document)
		require.NoError(b, err)
		b.StopTimer()
		time.Sleep(3 * time.Second) // between two presses of a button
		b.StartTimer()
	}
}

// The sample files of the PDF library in use, counted and measured by poppler's pdfinfo.
// A picture of a kind that no decoder here knows is not damaged: others may open it. Its size is that of exiftool 12.57.
func TestUnusualPicturesAreNotDamaged(t *testing.T) {
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/hhrutter/tiff").Output()
	require.NoError(t, err)
	data, err := os.ReadFile(filepath.Join(strings.TrimSpace(string(dir)), "testdata", "zookeeper-cmyk.tiff"))
	require.NoError(t, err)
	facts, err := tools(t).Facts(context.Background(), "zoo.tiff", data)
	require.NoError(t, err)
	require.Len(t, facts.Problems, 1)
	assert.Equal(t, "unsupported", facts.Problems[0].Code)
	assert.Equal(t, []int{340, 216}, []int{*facts.Width, *facts.Height})
	assert.False(t, *facts.HasPosition)
}

// fontRow is a line of pdffonts, without fonts of Type 3, which are always in the file.
var fontRow = regexp.MustCompile(`^(\S+) +(?:Type 1C?|TrueType|CID \S+(?: \S+)?)(?: \(OT\))? .*? (yes|no) +(?:yes|no) +(?:yes|no) +\d+ +\d+\s*$`)

func TestFactsAgreeWithPoppler(t *testing.T) {
	tools := tools(t)
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/pdfcpu/pdfcpu").Output()
	require.NoError(t, err)
	files, err := filepath.Glob(filepath.Join(strings.TrimSpace(string(dir)), "pkg", "testdata", "*.pdf"))
	require.NoError(t, err)
	checked, named := 0, 0
	for _, file := range files {
		data, err := os.ReadFile(file)
		require.NoError(t, err)
		if len(data) > 1<<20 {
			continue
		}
		text, unreadable := exec.Command("pdfinfo", file).Output()
		facts, err := tools.Facts(context.Background(), file, data)
		require.NoError(t, err)
		if unreadable != nil || facts.Pages == nil {
			continue // one of both cannot open it, which is for another test
		}
		said := map[string]string{}
		for line := range strings.Lines(string(text)) {
			key, value, _ := strings.Cut(line, ":")
			said[key] = strings.TrimSpace(value)
		}
		assert.Equal(t, said["Pages"], fmt.Sprint(*facts.Pages), file)
		var width, height float64
		_, err = fmt.Sscanf(said["Page size"], "%f x %f", &width, &height)
		require.NoError(t, err, file)
		if said["Page rot"] == "90" || said["Page rot"] == "270" {
			width, height = height, width // poppler tells the size before turning
		}
		fonts, err := exec.Command("pdffonts", file).Output()
		require.NoError(t, err)
		for line := range strings.Lines(string(fonts)) { // name, type, encoding, emb, sub, uni, object
			if m := fontRow.FindStringSubmatch(line); m != nil && m[2] == "no" {
				_, plain, subset := strings.Cut(m[1], "+")
				named++
				assert.Contains(t, *facts.FontsNotEmbedded, map[bool]string{true: plain, false: m[1]}[subset], file)
			}
		}
		assert.InDelta(t, width, facts.PageSizes[0].Width, 0.6, file)
		assert.InDelta(t, height, facts.PageSizes[0].Height, 0.6, file)
		checked++
	}
	assert.Greater(t, checked, 20)
	assert.Greater(t, named, 10, "fonts that are not embedded")
}
