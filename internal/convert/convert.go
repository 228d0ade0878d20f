// Package convert runs outside programs on students' files: LibreOffice and poppler, qpdf and ghostscript, ffmpeg,
// libheif and tesseract. Each run is confined by bubblewrap (no network, a read-only system, a folder of its own) and
// bounded in memory and time, since a file can hold anything.
package convert

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"time"

	"orario/core/inspect"
	"orario/internal/confine"
)

// Limits of one run.
const (
	maxMemory  = 4 << 30 // bytes of address space
	maxTime    = 90 * time.Second
	maxPDFTime = 20 * time.Second

	maxPDFMemory = 1 << 30 // bytes of address space
)

// Tools are the outside programs, ready to use. The zero value is not; see [New].
type Tools struct {
	dir     string
	offices [atOnce]*office
	free    chan *office      // those that nobody uses
	locks   [atOnce]io.Closer // of their folders
	shows   chan struct{}     // held by who opens a picture to show it
}

// atOnce is how many documents LibreOffice converts at a time, each in a sandbox of its own: one that hangs leaves
// the other to go on.
const atOnce = 2

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
	sweep(dir)
	t := &Tools{dir: dir, free: make(chan *office, atOnce), shows: make(chan struct{}, atOnce)}
	for n := range t.offices {
		work, err := os.MkdirTemp(dir, "office-")
		if err == nil {
			t.offices[n] = newOffice(work)
			t.locks[n], err = confine.Hold(work)
		}
		if err != nil {
			return nil, fmt.Errorf("making a folder for conversions: %w", err)
		}
		t.free <- t.offices[n]
	}
	return t, nil
}

// Close ends what runs and removes its files.
func (t *Tools) Close() {
	for n, o := range t.offices {
		o.close()
		_ = t.locks[n].Close()
	}
}

// Warm starts the office program, so that the first conversions do not wait for it.
func (t *Tools) Warm() {
	for _, o := range t.offices {
		o.warm()
	}
}

// ToPDF makes a PDF of a document of some kind (package inspect). It takes a second or two, and up to
// 90 s for a document that is hard to lay out; after that it gives up. The time begins when those that came before are
// done. The document is not changed.
func (t *Tools) ToPDF(ctx context.Context, kind string, data []byte) ([]byte, error) {
	job, err := officeJobOf(kind, data)
	if err != nil {
		return nil, err
	}
	job.to = "pdf"
	return t.byOffice(ctx, job)
}

func (t *Tools) byOffice(ctx context.Context, j officeJob) ([]byte, error) {
	var o *office
	select {
	case o = <-t.free:
		defer func() { t.free <- o }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	made, err := o.convert(ctx, maxTime, j)
	if errors.Is(err, context.DeadlineExceeded) && ctx.Err() == nil {
		return nil, fmt.Errorf(
			"the conversion took longer than %s; export it from the program it was made with",
			maxTime,
		)
	}
	return made, err
}

// Text reads the prose out of a file of some kind.
func (t *Tools) Text(ctx context.Context, kind string, data []byte) (string, error) {
	if kind != "pdf" {
		return inspect.Text(kind, data)
	}
	pages, err := t.PDFPages(ctx, data)
	return strings.Join(pages, "\n"), err
}

// sweep removes the folders that processes of before left when they were killed. The office's folder is locked while
// its process lives; the others are there for seconds.
func sweep(dir string) {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return
	}
	for _, e := range entries {
		path := filepath.Join(dir, e.Name())
		kind, _, _ := strings.Cut(e.Name(), "-")
		info, err := e.Info()
		if err != nil || !e.IsDir() || time.Since(info.ModTime()) < time.Minute {
			continue
		}
		switch kind {
		case "look", "pdf":
			if time.Since(info.ModTime()) > time.Hour {
				_ = os.RemoveAll(path)
			}
		case "office":
			if lock, err := confine.Hold(path); err == nil {
				_ = os.RemoveAll(path)
				_ = lock.Close()
			}
		}
	}
}
