package courier

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"time"

	api "orario/internal/courier/campusapi"
)

// Bounds of what a site may answer, unpacked: all that it publishes of a student's courses is a megabyte or two, a
// receipt a few kilobytes.
const (
	mostAnswer  = 16 << 20
	mostReceipt = 1 << 20
)

// ErrTooLong says that an answer goes on where no course site's does.
var ErrTooLong = errors.New("what the site answers is longer than any course site's answer")

// bounded ends an answer that is longer than most bytes with [ErrTooLong], before it is read whole.
type bounded struct {
	http.RoundTripper
	most int64
}

func (b bounded) RoundTrip(r *http.Request) (*http.Response, error) {
	answer, err := b.RoundTripper.RoundTrip(r)
	if err == nil {
		answer.Body = &limited{answer.Body, b.most}
	}
	return answer, err
}

// limited reads at most rest bytes; where there are more it fails.
type limited struct {
	io.ReadCloser
	rest int64
}

func (l *limited) Read(p []byte) (int, error) {
	n, err := l.ReadCloser.Read(p)
	if l.rest -= int64(n); l.rest < 0 {
		return 0, ErrTooLong
	}
	return n, err
}

// mostRedirects bounds how often a site may send one on.
const mostRedirects = 5

// sameOrigin follows a site to other addresses of its own only: the token is for nobody else.
func sameOrigin(r *http.Request, via []*http.Request) error {
	if first := via[0].URL; r.URL.Scheme != first.Scheme || r.URL.Host != first.Host {
		return fmt.Errorf("the site sends on to %s, which is not followed: %w", r.URL.Host, ErrForeign)
	}
	if len(via) >= mostRedirects {
		return fmt.Errorf("the site sends on without end: %w", ErrForeign)
	}
	return nil
}

// Handout opens a file that was given out, of so many bytes; it has to be closed. Reading fails where it is longer, or
// stands still for a minute.
func (s *Site) Handout(ctx context.Context, digest string, bytes int64) (io.ReadCloser, error) {
	ctx, cancel := context.WithCancel(ctx)
	watch := time.AfterFunc(stall, cancel)
	end := func() { watch.Stop(); cancel() }
	r, err := api.NewGetHandoutRequest(s.base, digest)
	if err != nil {
		end()
		return nil, fmt.Errorf("fetching a handout: %w", err)
	}
	s.sign(r)
	files := &http.Client{CheckRedirect: sameOrigin}
	answer, err := files.Do(r.WithContext(ctx))
	if err != nil {
		end()
		return nil, fmt.Errorf("fetching a handout: %w", err)
	}
	if err := good("fetching a handout", status(answer.StatusCode), nil); err != nil {
		answer.Body.Close()
		end()
		return nil, err
	}
	return &flowing{limited{answer.Body, bytes}, watch, end}, nil
}

type status int

func (s status) StatusCode() int { return int(s) }

// flowing is a body that ends when nothing comes any more.
type flowing struct {
	limited
	watch *time.Timer
	end   func()
}

func (f *flowing) Read(p []byte) (int, error) {
	n, err := f.limited.Read(p)
	f.watch.Reset(stall)
	return n, err
}

func (f *flowing) Close() error {
	f.end()
	return f.limited.Close()
}
