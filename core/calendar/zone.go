package calendar

import (
	_ "embed"
	"encoding/binary"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/timing"
)

//go:embed windowszones.tsv
var windowsList string

var windows = func() map[string]string {
	out := map[string]string{}
	for line := range strings.Lines(windowsList) {
		if name, zone, ok := strings.Cut(strings.TrimSpace(line), "\t"); ok {
			out[name] = zone
		}
	}
	return out
}()

// zones finds the zones of a calendar.
type zones struct {
	own      map[string]*component // VTIMEZONE by TZID
	made     map[string]*time.Location
	floating *time.Location
	budget   budget // of the file
}

// find is the zone of a TZID and its name: an IANA name, also behind a producer's prefix; else the file's own
// definition; else a Windows name.
func (z *zones) find(tzid string) (*time.Location, string, bool) {
	if zone, err := timing.Zone(tzid); err == nil {
		return zone, tzid, true
	}
	if made, ok := z.made[tzid]; ok {
		return made, tzid, made != nil
	}
	for rest := tzid; strings.Contains(rest, "/"); {
		_, rest, _ = strings.Cut(rest, "/")
		if zone, err := timing.Zone(rest); err == nil && strings.Contains(rest, "/") {
			return zone, rest, true
		}
	}
	if c, ok := z.own[tzid]; ok {
		zone, err := z.location(tzid, c)
		if err == nil {
			z.made[tzid] = zone
			return zone, tzid, true
		}
		if name := c.text("X-LIC-LOCATION"); name != "" {
			if zone, err := timing.Zone(name); err == nil {
				return zone, name, true
			}
		}
	}
	if name, ok := windows[tzid]; ok {
		zone, err := timing.Zone(name)
		return zone, name, err == nil
	}
	return nil, "", false
}

// change is an instant from which a zone has another offset.
type change struct {
	at     int64 // Unix seconds
	offset int   // seconds east of UTC
	dst    bool
	name   string
}

// lastYear is up to when a VTIMEZONE's rules are laid out.
const lastYear = 2100

// location makes a zone of a VTIMEZONE (RFC 5545 §3.6.5).
func (z *zones) location(name string, c *component) (*time.Location, error) {
	var changes []change
	before := 0
	first := int64(1<<62 - 1)
	for _, part := range c.parts {
		if part.name != "STANDARD" && part.name != "DAYLIGHT" {
			continue
		}
		from, err := utcOffset(part.text("TZOFFSETFROM"))
		if err != nil {
			return nil, err
		}
		to, err := utcOffset(part.text("TZOFFSETTO"))
		if err != nil {
			return nil, err
		}
		start, _ := part.get("DTSTART")
		at, _, err := dateTime(start.value)
		if err != nil {
			return nil, err
		}
		onsets := []time.Time{at}
		for _, p := range part.props {
			switch p.name {
			case "RRULE":
				all, err := z.budget.rule(
					p.value,
					at,
					func(t time.Time) time.Time { return t.Add(time.Duration(from) * time.Second) },
					at,
					time.Date(lastYear, 1, 1, 0, 0, 0, 0, time.UTC),
				)
				if err != nil {
					return nil, err
				}
				onsets = append(onsets, all...)
			case "RDATE":
				for value := range strings.SplitSeq(p.value, ",") {
					t, _, err := dateTime(value)
					if err != nil {
						return nil, err
					}
					onsets = append(onsets, t)
				}
			}
		}
		for _, onset := range onsets {
			seconds := onset.Unix() - int64(from)
			changes = append(changes, change{seconds, to, part.name == "DAYLIGHT", part.text("TZNAME")})
			if seconds < first {
				first, before = seconds, from
			}
		}
	}
	if len(changes) == 0 {
		return nil, fmt.Errorf("the zone %s has no offsets", name)
	}
	slices.SortStableFunc(changes, func(a, b change) int { return int(min(1, max(-1, a.at-b.at))) })
	changes = slices.CompactFunc(changes, func(a, b change) bool { return a.at == b.at })
	return time.LoadLocationFromTZData(name, tzif(before, changes))
}

// tzif writes changes of offset in the format of RFC 8536, version 2.
func tzif(before int, changes []change) []byte {
	type kind struct {
		offset int
		dst    bool
	}
	kinds := []kind{{before, false}}
	var at, index []byte
	for _, c := range changes {
		k := kind{c.offset, c.dst}
		i := slices.Index(kinds, k)
		if i < 0 {
			i, kinds = len(kinds), append(kinds, k)
		}
		at = binary.BigEndian.AppendUint64(at, uint64(c.at))
		index = append(index, byte(i))
	}
	header := func(version byte, n, kinds, chars int) []byte {
		out := append([]byte("TZif"), version)
		out = append(out, make([]byte, 15)...)
		for _, count := range []int{0, 0, 0, n, kinds, chars} {
			out = binary.BigEndian.AppendUint32(out, uint32(count))
		}
		return out
	}
	out := header('2', 0, 1, 1) // an empty part for readers of version 1
	out = append(out, 0, 0, 0, 0, 0, 0, 0)
	out = append(out, header('2', len(changes), len(kinds), 4)...)
	out = append(append(out, at...), index...)
	for _, k := range kinds {
		out = binary.BigEndian.AppendUint32(out, uint32(int32(k.offset)))
		dst := byte(0)
		if k.dst {
			dst = 1
		}
		out = append(out, dst, 0)
	}
	return append(out, "own\x00\n\n"...)
}

func utcOffset(text string) (int, error) {
	if len(text) != 5 && len(text) != 7 || text[0] != '+' && text[0] != '-' {
		return 0, fmt.Errorf("the offset %q is not written like +0100", text)
	}
	n := 0
	for i := 1; i < len(text); i += 2 {
		if text[i] < '0' || text[i] > '9' || text[i+1] < '0' || text[i+1] > '9' {
			return 0, fmt.Errorf("the offset %q is not written like +0100", text)
		}
		n = n*60 + int(text[i]-'0')*10 + int(text[i+1]-'0')
	}
	if len(text) == 5 {
		n *= 60
	}
	if n > 24*3600 {
		return 0, errors.New("an offset of more than a day")
	}
	if text[0] == '-' {
		n = -n
	}
	return n, nil
}
