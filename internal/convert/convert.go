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
	"slices"
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
	root    string // where each process has a folder of its own
	dir     string // this one's
	lock    io.Closer
	offices [atOnce]*office
	free    chan *office  // those that nobody uses
	shows   chan struct{} // held by who opens a picture to show it
}

// atOnce is how many documents LibreOffice converts at a time, each in a sandbox of its own: one that hangs leaves
// the other to go on.
const atOnce = 2

// New prepares the tools, which keep their files in a folder of their own within root. A program that lacks is found
// out when it is needed. Close ends the office program that is kept warm, and removes the folder.
func New(root string) (*Tools, error) {
	root, err := filepath.Abs(root)
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(root, 0o700); err != nil {
		return nil, fmt.Errorf("making a folder for conversions: %w", err)
	}
	t := &Tools{root: root, free: make(chan *office, atOnce), shows: make(chan struct{}, atOnce)}
	t.Sweep()
	if t.dir, err = os.MkdirTemp(root, "run-"); err == nil {
		t.lock, err = confine.Hold(t.dir)
	}
	for n := 0; n < atOnce && err == nil; n++ {
		var work string
		if work, err = os.MkdirTemp(t.dir, "office-"); err == nil {
			t.offices[n] = newOffice(work)
			t.free <- t.offices[n]
		}
	}
	if err != nil {
		return nil, fmt.Errorf("making a folder for conversions: %w", err)
	}
	return t, nil
}

// Close ends what runs and removes its files.
func (t *Tools) Close() {
	for _, o := range t.offices {
		o.close()
	}
	_ = os.RemoveAll(t.dir)
	_ = t.lock.Close()
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
	return t.laidOut(ctx, inspect.Named{Name: "in." + kind, Data: data}, kind, Wishes{})
}

func (t *Tools) laidOut(ctx context.Context, f inspect.Named, kind string, w Wishes) ([]byte, error) {
	job, err := t.officeJobOf(ctx, f, kind, w)
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

// justMade is how old a folder is at least before it is taken for left: between being made and being held it is
// nobody's.
const justMade = time.Minute

// Sweep removes the folders of processes that were killed. A process holds its own while it lives.
func (t *Tools) Sweep() {
	entries, err := os.ReadDir(t.root)
	if err != nil {
		return
	}
	for _, e := range entries {
		path := filepath.Join(t.root, e.Name())
		kind, _, _ := strings.Cut(e.Name(), "-")
		info, err := e.Info()
		if err != nil || !e.IsDir() || !slices.Contains([]string{"run", "look", "pdf", "office"}, kind) ||
			time.Since(info.ModTime()) < justMade {
			continue
		}
		if lock, err := confine.Hold(path); err == nil {
			_ = os.RemoveAll(path)
			_ = lock.Close()
		}
	}
}
