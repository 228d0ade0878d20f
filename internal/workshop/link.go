package workshop

import (
	"context"
	"crypto/sha256"
	"fmt"
	"net/url"
	"strings"
	"time"

	"orario/core/inspect"
	"orario/core/wording"
	"orario/internal/refusal"
)

const mostLink = 2000 // characters

// link makes a text file of an address: where it leads, when it was looked at and what was there then, so that a marker
// can tell later whether it has changed.
func (s Service) link(ctx context.Context, _ []inspect.Named, w Wishes, _ func(int, int)) (result, error) {
	address := strings.TrimSpace(w.URL)
	at, err := url.Parse(address)
	if err != nil || at.Host == "" || at.Scheme != "http" && at.Scheme != "https" || at.User != nil ||
		len(address) > mostLink || strings.ContainsAny(address, "\r\n") {
		return result{}, refusal.Say("that is no address of a page. It begins with https:// or http://")
	}
	when := s.Now().UTC().Format(time.RFC3339)
	said := fmt.Sprintf(
		"It did not answer on %s. Open it yourself, and look whether it is written as it should be.",
		when,
	)
	record := "Looked at " + when + ": it did not answer."
	data, err := s.Fetch(ctx, address)
	if ctx.Err() != nil {
		return result{}, ctx.Err()
	}
	if err == nil {
		record = fmt.Sprintf("Looked at %s: %d bytes, SHA-256 %x.", when, len(data), sha256.Sum256(data))
		said = "It answers, with " + wording.Bytes(int64(len(data))) + "."
	}
	if w.Name == "" {
		w.Name = "link-" + at.Hostname()
	}
	made := named(nil, w, "txt", []byte(address+"\n"+record+"\n"))
	return result{files: []inspect.Named{made}, said: []string{said}}, nil
}
