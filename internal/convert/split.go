package convert

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"github.com/pdfcpu/pdfcpu/pkg/api"

	"orario/core/inspect"
	"orario/core/naming"
)

// mostParts bounds what a PDF is split into.
const mostParts = 300

// Split makes several PDFs of one: each of so many pages, or each as long as it stays below so many bytes; the other
// of the two is 0. A page that has more bytes alone is [Over].
func (t *Tools) Split(ctx context.Context, f inspect.Named, every int, maxBytes int64) ([]inspect.Named, error) {
	if (every > 0) == (maxBytes > 0) {
		return nil, errors.New("split by a number of pages or by a size")
	}
	count, err := api.PageCount(bytes.NewReader(f.Data), plainPDF())
	if err != nil {
		return nil, fmt.Errorf("%s is no PDF that opens", f.Name)
	}
	if every > 0 && (count+every-1)/every > mostParts {
		return nil, fmt.Errorf("that would be more than %d files; take more pages for each", mostParts)
	}
	stem, _ := naming.Split(f.Name)
	var parts []inspect.Named
	_, err = t.inFolder(ctx, func(work string) ([]byte, error) {
		if err := os.WriteFile(filepath.Join(work, "in.pdf"), f.Data, 0o600); err != nil {
			return nil, err
		}
		for from := 1; from <= count; {
			to, data, err := upTo(ctx, work, from, count, every, maxBytes)
			if err != nil {
				return nil, err
			}
			if len(parts) == mostParts {
				return nil, fmt.Errorf("that would be more than %d files; allow more bytes for each", mostParts)
			}
			parts = append(parts, inspect.Named{Name: fmt.Sprintf("%s-%d.pdf", stem, len(parts)+1), Data: data})
			from = to + 1
		}
		return nil, nil
	})
	return parts, err
}

// upTo takes the pages of one part, from a page on.
func upTo(ctx context.Context, work string, from, count, every int, maxBytes int64) (to int, data []byte, err error) {
	pages := func(last int) ([]byte, error) {
		err := qpdf(ctx, work, "--warning-exit-0", "in.pdf", "--pages", ".", fmt.Sprintf("%d-%d", from, last), "--",
			"part.pdf")
		if err != nil {
			return nil, err
		}
		return os.ReadFile(filepath.Join(work, "part.pdf"))
	}
	if every > 0 {
		to = min(count, from+every-1)
		data, err = pages(to)
		return to, data, err
	}
	// The size grows with the pages: the last page that fits is searched for by halving.
	for low, high := from, count; low <= high; {
		middle := (low + high) / 2
		part, err := pages(middle)
		switch {
		case err != nil:
			return 0, nil, err
		case int64(len(part)) <= maxBytes:
			to, data, low = middle, part, middle+1
		case middle == from:
			return 0, nil, fmt.Errorf("page %d alone does not fit: %w", from, Over{int64(len(part)), maxBytes})
		default:
			high = middle - 1
		}
	}
	return to, data, nil
}
