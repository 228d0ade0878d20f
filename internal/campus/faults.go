package campus

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"strings"
	"time"
)

// Faults are what can go wrong with a course site, switched on for practice.
type Faults struct {
	Slow   bool `json:"slow"`   // every request waits
	Refuse bool `json:"refuse"` // 503 to everything
	Cut    bool `json:"cut"`    // uploads break off half-way
	Lose   bool `json:"lose"`   // a final submit is done, its answer never arrives
}

// SetFaults switches faults on and off.
func (c *Campus) SetFaults(ctx context.Context, f Faults) error {
	text, err := json.Marshal(f)
	if err != nil {
		return err
	}
	return c.set(ctx, "faults", string(text))
}

func (c *Campus) faults(ctx context.Context) (f Faults, err error) {
	text, err := c.setting(ctx, "faults", "{}")
	if err != nil {
		return f, err
	}
	return f, json.Unmarshal([]byte(text), &f)
}

// slowness is how long a request waits on a slow campus.
const slowness = 1500 * time.Millisecond

// withFaults applies the faults to the interface and the uploads; the pages always work.
func (c *Campus) withFaults(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if !strings.HasPrefix(r.URL.Path, "/api/") && !strings.HasPrefix(r.URL.Path, "/uploads/") {
			next.ServeHTTP(w, r)
			return
		}
		f, err := c.faults(r.Context())
		if err != nil {
			http.Error(w, "the campus's settings cannot be read", http.StatusInternalServerError)
			return
		}
		if f.Slow {
			select {
			case <-time.After(slowness):
			case <-r.Context().Done():
				return
			}
		}
		switch {
		case f.Refuse:
			w.Header().Set("Retry-After", "5")
			http.Error(
				w,
				`{"code":"unavailable","reason":"The campus is not available at the moment."}`,
				http.StatusServiceUnavailable,
			)
		case f.Cut && r.Method == http.MethodPatch:
			r.Body = &cutBody{r.Body, r.ContentLength / 2}
			next.ServeHTTP(discard{http.Header{}}, r)
			panic(http.ErrAbortHandler)
		case f.Lose && strings.HasSuffix(r.URL.Path, "/submit"):
			next.ServeHTTP(discard{http.Header{}}, r)
			panic(http.ErrAbortHandler)
		default:
			next.ServeHTTP(w, r)
		}
	})
}

// cutBody ends with an error after some bytes, as a broken line does.
type cutBody struct {
	io.ReadCloser
	left int64
}

func (b *cutBody) Read(p []byte) (int, error) {
	if b.left <= 0 {
		return 0, errors.New("the line was cut")
	}
	n, err := b.ReadCloser.Read(p[:min(int64(len(p)), b.left)])
	b.left -= int64(n)
	return n, err
}

// discard is an answer that nobody gets.
type discard struct{ header http.Header }

func (d discard) Header() http.Header         { return d.header }
func (d discard) Write(p []byte) (int, error) { return len(p), nil }
func (d discard) WriteHeader(int)             {}
