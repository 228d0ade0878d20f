// Package convert runs outside programs on students' files: LibreOffice and poppler. Each run is
// confined by bubblewrap (no network, a read-only system, a folder of its own) and bounded in memory
// and time, since a file can hold anything.
package convert

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"orario/core/inspect"
)

// Limits of one run.
const (
	maxMemory  = 4 << 30 // bytes of address space
	maxTime    = 90 * time.Second
	maxPDFTime = 20 * time.Second
	maxLook    = 5 * time.Second
)

// Tools are the outside programs, ready to use. The zero value is not; see [New].
type Tools struct {
	dir    string
	office *office
}

// New prepares the tools, which keep their files in dir. A program that lacks is found out when it is
// needed. Close ends the office program that is kept warm.
func New(dir string) (*Tools, error) {
	dir, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("making a folder for conversions: %w", err)
	}
	work, err := os.MkdirTemp(dir, "office-")
	if err != nil {
		return nil, fmt.Errorf("making a folder for conversions: %w", err)
	}
	return &Tools{dir, newOffice(work)}, nil
}

// Close ends what runs and removes its files.
func (t *Tools) Close() { t.office.close() }

// Warm starts the office program, so that the first conversion does not wait for it.
func (t *Tools) Warm() { t.office.warm() }

// ToPDF makes a PDF of a document of some kind (package inspect). It takes a second or two, and up to
// 90 s for a document that is hard to lay out; after that it gives up. The document is not changed.
func (t *Tools) ToPDF(ctx context.Context, kind string, data []byte) ([]byte, error) {
	ctx, cancel := context.WithTimeout(ctx, maxTime)
	defer cancel()
	pdf, err := t.office.convert(ctx, "in."+kind, data)
	if errors.Is(err, context.DeadlineExceeded) {
		return nil, fmt.Errorf("the conversion took longer than %s; export a PDF from your word processor", maxTime)
	}
	return pdf, err
}

// Text reads the prose out of a file of some kind.
func (t *Tools) Text(ctx context.Context, kind string, data []byte) (string, error) {
	if kind != "pdf" {
		return inspect.Text(kind, data)
	}
	pages, err := t.PDFPages(ctx, data)
	return strings.Join(pages, "\n"), err
}

// Facts are those of package inspect, with what only the text of a PDF's pages tells.
// Looking takes 5 s at the most; then the basic facts have to do.
func (t *Tools) Facts(ctx context.Context, name string, data []byte) *inspect.Facts {
	facts, _ := t.look(ctx, inspect.Stored{Name: name, Bytes: int64(len(data)), SHA256: inspect.Digest(data)}, data)
	return facts
}

// Look finds a stored file's facts and the text in it, at one look. Of a form that is not looked into only the first
// bytes are read, however large it is. An error is one of open or of reading.
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
	if !whole {
		return facts, "", nil
	}
	data := make([]byte, 0, file.Bytes)
	all := bytes.NewBuffer(append(data, head[:n]...))
	if _, err := all.ReadFrom(content); err != nil {
		return nil, "", err
	}
	facts, text := t.look(ctx, file, all.Bytes())
	return facts, text, nil
}

func (t *Tools) look(ctx context.Context, file inspect.Stored, data []byte) (*inspect.Facts, string) {
	ctx, cancel := context.WithTimeout(ctx, maxLook)
	defer cancel()
	found := make(chan *inspect.Facts, 1)
	go func() { found <- inspect.Whole(file, data) }()
	var facts *inspect.Facts
	select {
	case facts = <-found:
	case <-ctx.Done():
		return inspect.Basic(
			file,
			data,
			"too_large",
			fmt.Sprintf("Looking at it took longer than %s, so not all is known.", maxLook),
		), ""
	}
	if facts.Kind != "pdf" {
		text, err := inspect.Text(facts.Kind, data)
		if err != nil {
			text = "" // the facts tell what is wrong with it
		}
		return facts, text
	}
	if facts.Pages == nil {
		return facts, ""
	}
	pages, err := t.PDFPages(ctx, data)
	if err != nil {
		facts.Problems = append(
			facts.Problems,
			inspect.Problem{Code: "damaged", Fact: "words", Message: "The text of the pages cannot be read."},
		)
		return facts, ""
	}
	facts.AddPageTexts(pages)
	return facts, strings.Join(pages, "\n")
}

// PDFPages is the text of each page, in reading order, as poppler's pdftotext finds it.
func (t *Tools) PDFPages(ctx context.Context, data []byte) ([]string, error) {
	ctx, cancel := context.WithTimeout(ctx, maxPDFTime)
	defer cancel()
	work, err := os.MkdirTemp(t.dir, "pdf-")
	if err != nil {
		return nil, fmt.Errorf("reading a PDF: %w", err)
	}
	defer os.RemoveAll(work)
	if err := os.WriteFile(filepath.Join(work, "in.pdf"), data, 0o600); err != nil {
		return nil, fmt.Errorf("reading a PDF: %w", err)
	}
	cmd := confined(ctx, work, "pdftotext", "-enc", "UTF-8", "-eol", "unix", "in.pdf", "-")
	var out, problems bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &problems
	if err := cmd.Run(); err != nil {
		return nil, fmt.Errorf("pdftotext: %w: %s", err, strings.TrimSpace(problems.String()))
	}
	// Every page, the last one too, ends with a form feed.
	return strings.Split(strings.TrimSuffix(out.String(), "\f"), "\f"), nil
}

// confined is a command that sees the system read-only, one folder to write in, and nothing else.
func confined(ctx context.Context, work, program string, args ...string) *exec.Cmd {
	return exec.CommandContext(ctx, "bwrap", append([]string{
		"--ro-bind",
		"/usr",
		"/usr",
		"--ro-bind",
		"/etc",
		"/etc",
		"--symlink",
		"usr/bin",
		"/bin",
		"--symlink",
		"usr/lib",
		"/lib",
		"--symlink",
		"usr/lib64",
		"/lib64",
		"--ro-bind-try",
		"/var/cache/fontconfig",
		"/var/cache/fontconfig",
		"--proc",
		"/proc",
		"--dev",
		"/dev",
		"--tmpfs",
		"/tmp",
		"--bind",
		work,
		"/box",
		"--chdir",
		"/box",
		"--unshare-all",
		"--die-with-parent",
		"--new-session",
		"--clearenv",
		"--setenv",
		"HOME",
		"/box",
		"--setenv",
		"PATH",
		"/usr/bin:/bin",
		"--setenv",
		"LANG",
		"C.UTF-8",
		"prlimit",
		fmt.Sprintf("--as=%d", int64(maxMemory)),
		"--core=0",
		program,
	}, args...)...)
}
