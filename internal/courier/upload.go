package courier

import (
	"context"
	"encoding/base64"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strconv"
	"time"
)

// An Upload is a file on its way into a draft, by tus 1.0.0.
type Upload struct {
	Draft      int64
	Slot, Name string
	Bytes      int64
	// Open gives the content from an offset on.
	Open func(offset int64) (io.Reader, error)
	// Sent is called with the bytes that the line has taken so far.
	Sent func(int64)
}

// stall is how long an upload may go without a byte being taken.
const stall = 60 * time.Second

// Begin makes an upload at the site and returns its address, at which [Site.Continue] goes on however
// often the line breaks.
func (s *Site) Begin(ctx context.Context, u Upload) (address string, err error) {
	ctx, cancel := context.WithTimeout(ctx, answerTime)
	defer cancel()
	r, err := s.tus(ctx, http.MethodPost, s.base+"/uploads/", nil)
	if err != nil {
		return "", err
	}
	r.Header.Set("Upload-Length", strconv.FormatInt(u.Bytes, 10))
	metadata := ""
	for key, value := range map[string]string{"draft": strconv.FormatInt(u.Draft, 10), "slot": u.Slot,
		"filename": u.Name} {
		if metadata != "" {
			metadata += ","
		}
		metadata += key + " " + base64.StdEncoding.EncodeToString([]byte(value))
	}
	r.Header.Set("Upload-Metadata", metadata)
	answer, err := s.http.Do(r)
	if err != nil {
		return "", fmt.Errorf("beginning an upload: %w", err)
	}
	answer.Body.Close()
	if answer.StatusCode != http.StatusCreated {
		return "", fmt.Errorf("beginning an upload: the site answered %s", answer.Status)
	}
	at, err := url.Parse(answer.Header.Get("Location"))
	if err != nil || at.Path == "" {
		return "", errors.New("beginning an upload: the site gave no address for it")
	}
	// Only the path counts: an upload never leaves the site that the token belongs to.
	return at.Path, nil
}

// Continue sends what the site does not have yet. [ErrUnknown] means that the upload is gone and has to
// be begun again.
func (s *Site) Continue(ctx context.Context, address string, u Upload) error {
	offset, err := s.offset(ctx, address)
	if err != nil || offset == u.Bytes {
		return err
	}
	content, err := u.Open(offset)
	if err != nil {
		return err
	}
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	watch := time.AfterFunc(stall, cancel)
	defer watch.Stop()
	u.Sent(offset)
	body := &counted{content, offset, func(n int64) { watch.Reset(stall); u.Sent(n) }}
	r, err := s.tus(ctx, http.MethodPatch, s.base+address, body)
	if err != nil {
		return err
	}
	r.ContentLength = u.Bytes - offset
	r.Header.Set("Content-Type", "application/offset+octet-stream")
	r.Header.Set("Upload-Offset", strconv.FormatInt(offset, 10))
	answer, err := s.http.Do(r)
	if err != nil {
		return fmt.Errorf("uploading %s: %w", u.Name, err)
	}
	answer.Body.Close()
	if answer.StatusCode != http.StatusNoContent {
		return fmt.Errorf("uploading %s: the site answered %s", u.Name, answer.Status)
	}
	return nil
}

func (s *Site) offset(ctx context.Context, address string) (int64, error) {
	ctx, cancel := context.WithTimeout(ctx, answerTime)
	defer cancel()
	r, err := s.tus(ctx, http.MethodHead, s.base+address, nil)
	if err != nil {
		return 0, err
	}
	answer, err := s.http.Do(r)
	if err != nil {
		return 0, fmt.Errorf("finding an upload: %w", err)
	}
	answer.Body.Close()
	switch answer.StatusCode {
	case http.StatusOK, http.StatusNoContent:
		return strconv.ParseInt(answer.Header.Get("Upload-Offset"), 10, 64)
	case http.StatusNotFound, http.StatusGone:
		return 0, ErrUnknown
	}
	return 0, fmt.Errorf("finding an upload: the site answered %s", answer.Status)
}

func (s *Site) tus(ctx context.Context, method, address string, body io.Reader) (*http.Request, error) {
	r, err := http.NewRequestWithContext(ctx, method, address, body)
	if err != nil {
		return nil, err
	}
	s.sign(r)
	r.Header.Set("Tus-Resumable", "1.0.0")
	return r, nil
}

type counted struct {
	io.Reader
	n    int64
	sent func(int64)
}

func (c *counted) Read(p []byte) (int, error) {
	n, err := c.Reader.Read(p)
	c.n += int64(n)
	c.sent(c.n)
	return n, err
}
