package convert

import (
	"bytes"
	"context"
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"runtime/debug"
	"strconv"
	"strings"
	"time"

	"orario/core/inspect"
	"orario/internal/confine"
)

// Limits of one look at a file.
const (
	maxLook       = 5 * time.Second
	maxLookMemory = 256 << 20 // bytes that the garbage collector aims at
	maxLookData   = 448 << 20 // bytes of data at which the kernel ends it
)

// A seen is what the look inside the sandbox gives.
type seen struct {
	Facts   *inspect.Facts `json:"facts"`
	Text    string         `json:"text"`
	Cropped bool           `json:"cropped"`
}

// lookInside is set for the process that looks: this program itself, run in the sandbox.
const lookInside = "ORARIO_LOOK_INSIDE"

// What looks at a file is a process of its own, since a file can hold anything; it is this program again.
func init() {
	if os.Getenv(lookInside) == "" {
		return
	}
	debug.SetMemoryLimit(maxLookMemory)
	if err := inside(os.Stdin, os.Stdout); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	os.Exit(0)
}

func inside(ask io.Reader, answer io.Writer) error {
	var file inspect.Stored
	if err := json.NewDecoder(ask).Decode(&file); err != nil {
		return err
	}
	data, err := os.ReadFile("in")
	if err != nil {
		return err
	}
	s := seen{Facts: inspect.Whole(file, data)}
	s.Cropped = s.Facts.Cropped()
	if s.Facts.Kind != "pdf" {
		if s.Text, err = inspect.Text(s.Facts.Kind, data); err != nil {
			s.Text = "" // the facts tell what is wrong with it
		}
	}
	return json.NewEncoder(answer).Encode(s)
}

// Facts are those of package inspect, with what only the text of a PDF's pages tells.
// Looking takes 5 s at the most; then the basic facts have to do.
func (t *Tools) Facts(ctx context.Context, name string, data []byte) (*inspect.Facts, error) {
	file := inspect.Stored{Name: name, Bytes: int64(len(data)), SHA256: inspect.Digest(data)}
	facts, _, err := t.look(ctx, file, data)
	if err == nil && inspect.IsRecording(facts.Kind) {
		err = t.played(ctx, facts, bytes.NewReader(data))
	}
	return facts, err
}

// Look finds a stored file's facts and the text in it, at one look. Of a form that is not looked into only the first
// bytes are read, however large it is. What a file is to blame for is a problem among its facts, and so is
// [inspect.Unseen]: it cannot be looked at now, for a reason of ours. An error is one of open or of reading.
func (t *Tools) Look(
	ctx context.Context,
	file inspect.Stored,
	open func() (io.Reader, error),
) (*inspect.Facts, string, error) {
	content, err := open()
	if err != nil {
		return nil, "", err
	}
	head := make([]byte, inspect.HeadBytes)
	n, err := io.ReadFull(content, head)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
		return nil, "", err
	}
	facts, whole := inspect.Head(file, head[:n])
	if inspect.IsRecording(facts.Kind) {
		return facts, "", t.played(ctx, facts, io.MultiReader(bytes.NewReader(head[:n]), content))
	}
	if !whole {
		return facts, "", nil
	}
	data := make([]byte, 0, file.Bytes)
	all := bytes.NewBuffer(append(data, head[:n]...))
	if _, err := all.ReadFrom(content); err != nil {
		return nil, "", err
	}
	facts, text, err := t.look(ctx, file, all.Bytes())
	if err != nil && ctx.Err() == nil {
		facts, err = inspect.Basic(file, head[:n], inspect.Unseen, err.Error()), nil
	}
	return facts, text, err
}

func (t *Tools) look(ctx context.Context, file inspect.Stored, data []byte) (*inspect.Facts, string, error) {
	work, err := os.MkdirTemp(t.dir, "look-")
	if err != nil {
		return nil, "", fmt.Errorf("looking at a file: %w", err)
	}
	defer os.RemoveAll(work)
	if err := os.WriteFile(filepath.Join(work, "in"), data, 0o600); err != nil {
		return nil, "", fmt.Errorf("looking at a file: %w", err)
	}
	s, err := lookAt(ctx, work, file)
	var much confine.Costly
	switch {
	case errors.As(err, &much):
		return inspect.Basic(file, data, "too_large", string(much)), "", nil
	case err != nil:
		return nil, "", err
	}
	if s.Facts.Kind == "pdf" && s.Facts.Pages == nil && s.Facts.Encrypted == nil {
		t.mended(ctx, work, s.Facts)
	}
	if s.Facts.Kind != "pdf" || s.Facts.Pages == nil {
		return s.Facts, s.Text, nil
	}
	pages, err := t.pages(ctx, work, maxLook, s.Cropped)
	var exit *exec.ExitError
	switch {
	case errors.As(err, &much):
		s.Facts.Problems = append(s.Facts.Problems,
			inspect.Problem{Code: "too_large", Fact: "words", Message: string(much)})
	case errors.As(err, &exit):
		s.Facts.Problems = append(s.Facts.Problems,
			inspect.Problem{Code: "damaged", Fact: "words", Message: "The text of the pages cannot be read."})
	case err != nil:
		return nil, "", err
	default:
		s.Facts.AddPageTexts(pages)
	}
	return s.Facts, strings.Join(pages, "\n"), nil
}

// lookAt runs this program in the sandbox of a folder that holds the file as "in".
func lookAt(ctx context.Context, work string, file inspect.Stored) (s seen, err error) {
	program, err := os.Executable()
	if err != nil {
		return s, fmt.Errorf("looking at a file: %w", err)
	}
	ask, err := json.Marshal(file)
	if err != nil {
		return s, err
	}
	box := confine.Box{Work: work, Data: maxLookData, Program: program, Env: map[string]string{lookInside: "1"}}
	out, err := box.Run(ctx, maxLook, bytes.NewReader(ask), "/program")
	if err != nil {
		return s, fmt.Errorf("looking at a file: %w", err)
	}
	if err := json.Unmarshal(out, &s); err != nil || s.Facts == nil {
		return s, errors.Join(errors.New("looking at a file: what looked gave no facts"), err)
	}
	return s, nil
}

// PDFPages is the text of each page, in reading order, as poppler's pdftotext finds it.
func (t *Tools) PDFPages(ctx context.Context, data []byte) ([]string, error) {
	work, err := os.MkdirTemp(t.dir, "pdf-")
	if err != nil {
		return nil, fmt.Errorf("reading a PDF: %w", err)
	}
	defer os.RemoveAll(work)
	if err := os.WriteFile(filepath.Join(work, "in"), data, 0o600); err != nil {
		return nil, fmt.Errorf("reading a PDF: %w", err)
	}
	return t.pages(ctx, work, maxPDFTime, false)
}

// pages is the text of the pages of the PDF that lies in a folder as "in"; of cropped ones only what is shown.
func (t *Tools) pages(ctx context.Context, work string, most time.Duration, cropped bool) ([]string, error) {
	args := []string{"-enc", "UTF-8", "-eol", "unix", "in", "-"}
	if cropped {
		args = append([]string{"-cropbox", "-bbox"}, args...)
	}
	out, err := confine.Box{Work: work, Memory: maxPDFMemory}.Run(ctx, most, nil, "pdftotext", args...)
	if err != nil {
		return nil, fmt.Errorf("pdftotext: %w", err)
	}
	if cropped {
		return wordsByPage(out)
	}
	// Every page, the last one too, ends with a form feed.
	return strings.Split(strings.TrimSuffix(string(out), "\f"), "\f"), nil
}

// wordsByPage reads what pdftotext says of every word and where it stands; words that stand higher begin a new line.
func wordsByPage(out []byte) (pages []string, err error) {
	var said struct {
		Pages []struct {
			Words []struct {
				Top  float64 `xml:"yMin,attr"`
				Text string  `xml:",chardata"`
			} `xml:"word"`
		} `xml:"body>doc>page"`
	}
	d := xml.NewDecoder(bytes.NewReader(out))
	d.Strict, d.Entity = false, xml.HTMLEntity
	if err := d.Decode(&said); err != nil {
		return nil, fmt.Errorf("pdftotext: %w", err)
	}
	for _, page := range said.Pages {
		var b strings.Builder
		for n, word := range page.Words {
			switch {
			case n == 0:
			case word.Top-page.Words[n-1].Top > 2:
				b.WriteByte('\n')
			default:
				b.WriteByte(' ')
			}
			b.WriteString(word.Text)
		}
		pages = append(pages, b.String())
	}
	return pages, nil
}

var (
	sayPages = regexp.MustCompile(`(?m)^Pages:\s+(\d+)`)
	saySize  = regexp.MustCompile(`(?m)^Page\s+\d+\s+size:\s+([\d.]+) x ([\d.]+) pts.*\nPage\s+\d+\s+rot:\s+(\d+)`)
	sayWho   = regexp.MustCompile(`(?m)^Author:\s+(.+)$`)
)

// mended adds what poppler, which mends what it reads, knows of a PDF that does not open otherwise: how many pages it
// has, how large they are, and who wrote it. The problem stays.
func (t *Tools) mended(ctx context.Context, work string, f *inspect.Facts) {
	box := confine.Box{Work: work, Memory: maxPDFMemory}
	out, err := box.Run(ctx, maxLook, nil, "pdfinfo", "-l", "20000", "in")
	found := sayPages.FindSubmatch(out)
	if err != nil || found == nil {
		return
	}
	n, err := strconv.Atoi(string(found[1]))
	if err != nil || n == 0 {
		return
	}
	f.Pages = &n
	for _, m := range saySize.FindAllSubmatch(out, -1) {
		width, _ := strconv.ParseFloat(string(m[1]), 64) // they are numbers
		height, _ := strconv.ParseFloat(string(m[2]), 64)
		if turned := string(m[3]); turned == "90" || turned == "270" {
			width, height = height, width
		}
		f.AddPageSize(width, height)
	}
	if who := sayWho.FindSubmatch(out); who != nil {
		author := string(who[1])
		f.Author = &author
	}
}
