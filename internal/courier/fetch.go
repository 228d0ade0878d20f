package courier

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"strings"
	"syscall"
	"time"
)

// Fetcher gets calendars from addresses that students give. Those of the server's own network are refused
// unless Internal.
type Fetcher struct{ Internal bool }

const (
	fetchTime = 20 * time.Second
	mostFetch = 10 << 20
	mostHops  = 5
)

// Fetch gets what stands at an http(s) address (webcal counts as https), at most 10 MB. What no repetition
// changes is [Refused].
func (f Fetcher) Fetch(ctx context.Context, address string) ([]byte, error) {
	target, err := FeedAddress(address)
	if err != nil {
		return nil, err
	}
	dialer := &net.Dialer{Timeout: fetchTime / 2, Control: f.guard}
	client := &http.Client{
		Timeout: fetchTime,
		Transport: &http.Transport{
			DialContext:       dialer.DialContext,
			DisableKeepAlives: true,
		}, // no proxy: the guard must see the real address
		CheckRedirect: func(r *http.Request, via []*http.Request) error {
			if len(via) >= mostHops || r.URL.Scheme != "http" && r.URL.Scheme != "https" {
				return Refused{
					"redirect",
					"The address leads elsewhere too often, or to something that is no web address.",
				}
			}
			return nil
		},
	}
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, target, nil)
	if err != nil {
		return nil, Refused{"address", fmt.Sprintf("%q is no web address.", address)}
	}
	request.Header.Set("Accept", "text/calendar, text/csv;q=0.5, */*;q=0.1")
	response, err := client.Do(request)
	var refused Refused
	if errors.As(err, &refused) {
		return nil, refused
	}
	if err != nil {
		return nil, fmt.Errorf("fetching the calendar: %w", err)
	}
	defer response.Body.Close()
	switch code := response.StatusCode; {
	case code == http.StatusUnauthorized || code == http.StatusForbidden || code == http.StatusNotFound ||
		code == http.StatusGone:
		return nil, Refused{
			"gone",
			fmt.Sprintf(
				"The address answers %d %s. Copy it anew from where it was given out.",
				code,
				http.StatusText(code),
			),
		}
	case code != http.StatusOK:
		return nil, fmt.Errorf("fetching the calendar: the address answers %d %s", code, http.StatusText(code))
	}
	data, err := io.ReadAll(io.LimitReader(response.Body, mostFetch+1))
	if err == nil && len(data) > mostFetch {
		return nil, Refused{"size", "The calendar has more than 10 MB. Choose one with less in it."}
	}
	return data, err
}

// FeedAddress checks the address of a calendar and writes it as one to fetch.
func FeedAddress(address string) (string, error) {
	at, err := url.Parse(strings.TrimSpace(address))
	if err == nil && at.Scheme == "webcal" {
		at.Scheme = "https"
	}
	if err != nil || at.Host == "" || at.Scheme != "http" && at.Scheme != "https" || at.User != nil ||
		len(address) > 1000 {
		return "", Refused{"address", "That is no address of a calendar. It begins with https:// or http://."}
	}
	return at.String(), nil
}

// inside are the networks that a server may stand in beside those that netip names: shared and benchmark
// space (RFC 6598, RFC 2544), and what stands for an address of IPv4 within IPv6 or for one of a site: IPv4-compatible
// (RFC 4291 §2.5.5.1), translated (RFC 6052, RFC 8215), 6to4 (RFC 3056), Teredo (RFC 4380), site-local (RFC 3879).
var inside = []netip.Prefix{
	netip.MustParsePrefix("0.0.0.0/8"),
	netip.MustParsePrefix("100.64.0.0/10"),
	netip.MustParsePrefix("192.0.0.0/24"),
	netip.MustParsePrefix("198.18.0.0/15"),
	netip.MustParsePrefix("240.0.0.0/4"),
	netip.MustParsePrefix("::/96"),
	netip.MustParsePrefix("64:ff9b::/96"),
	netip.MustParsePrefix("64:ff9b:1::/48"),
	netip.MustParsePrefix("2001::/32"),
	netip.MustParsePrefix("fec0::/10"),
	netip.MustParsePrefix("2002::/16"),
}

// guard looks at the address that is really connected to, after names were resolved.
func (f Fetcher) guard(_, address string, _ syscall.RawConn) error {
	if f.Internal {
		return nil
	}
	at, err := netip.ParseAddrPort(address)
	if err != nil {
		return fmt.Errorf("the address %q: %w", address, err)
	}
	ip := at.Addr().Unmap()
	refuse := !ip.IsGlobalUnicast() || ip.IsPrivate()
	for _, p := range inside {
		refuse = refuse || p.Contains(ip)
	}
	if refuse {
		return Refused{"internal", "That address lies inside the server's own network and is not fetched."}
	}
	return nil
}
