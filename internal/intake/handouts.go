package intake

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"

	"orario/core/archive"
	"orario/core/inspect"
	"orario/core/naming"
	"orario/core/wording"
	"orario/internal/courier"
)

// fetchHandouts fetches what is new. An assignment whose handout does not arrive whole is left out, the others go on.
func (y *sync) fetchHandouts(
	ctx context.Context,
	site Site,
	assignments []courier.Assignment,
) (whole []courier.Assignment, err error) {
	fetched := map[string]bool{}
	for _, a := range assignments {
		err := func() error {
			for _, h := range a.Handouts {
				if y.handed[h.Digest] || fetched[h.Digest] {
					continue
				}
				if err := y.fetchHandout(ctx, site, h); err != nil {
					return err
				}
				fetched[h.Digest] = true
			}
			return nil
		}()
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if err != nil {
			y.leaveOut(a.Title, err)
			y.lookAgain(handoutAgain)
			continue
		}
		whole = append(whole, a)
	}
	return whole, nil
}

// How long what could not be taken over is left alone, unless the site publishes something else: a handout that did not
// arrive, and an assignment that cannot be used, which a later program may be able to use.
const (
	handoutAgain = 5 * time.Minute
	unsoundAgain = 6 * time.Hour
)

// lookAgain has all of the site read once more after a time, at the latest.
func (y *sync) lookAgain(after time.Duration) {
	if at := y.Now().Add(after); y.again == nil || at.Before(*y.again) {
		y.again = &at
	}
}

// mostHandout bounds a handout, as files that are added are bounded.
const mostHandout = 512 << 20

func (y *sync) fetchHandout(ctx context.Context, site Site, h courier.Handout) error {
	if h.Bytes < 0 || h.Bytes > mostHandout {
		return fmt.Errorf("the handout %s is said to have %d bytes; at most %s are fetched", h.Name, h.Bytes,
			wording.Bytes(mostHandout))
	}
	content, err := site.Handout(ctx, h.Digest, h.Bytes)
	if err != nil {
		return fmt.Errorf("the handout %s cannot be fetched", h.Name)
	}
	defer content.Close()
	digest, _, err := y.Contents.Put(ctx, content)
	if errors.Is(err, courier.ErrTooLong) || err == nil && digest != h.Digest {
		return fmt.Errorf("the handout %s did not arrive whole", h.Name)
	}
	if err != nil {
		return fmt.Errorf("keeping a handout: %w", err)
	}
	return y.lookInside(ctx, h.Name, digest)
}

// mostInside bounds the archives that are looked into.
const mostInside = 100 << 20

// lookInside notes what a handout holds that is an archive. One that cannot be unpacked stays as it is.
func (y *sync) lookInside(ctx context.Context, name, digest string) error {
	if _, ext := naming.Split(name); !strings.EqualFold(ext, "zip") {
		return nil
	}
	content, err := y.Contents.Open(ctx, digest, 0)
	if err != nil {
		return fmt.Errorf("reading a handout: %w", err)
	}
	data, err := io.ReadAll(io.LimitReader(content, mostInside))
	if err != nil {
		return fmt.Errorf("reading a handout: %w", err)
	}
	inside := map[string]string{}
	_, err = archive.Each(data, func(f inspect.Named) error {
		inside[inspect.Digest(f.Data)] = f.Name
		return nil
	})
	if err == nil { // of another one its student is told when she unpacks it
		y.inside[digest] = inside
	}
	return nil
}

// holds is what is kept of what a handout holds; {} where it is no archive or was not fetched now.
func (y *sync) holds(digest string) json.RawMessage {
	text, err := json.Marshal(y.inside[digest])
	if err != nil || len(y.inside[digest]) == 0 {
		return json.RawMessage("{}")
	}
	return text
}
