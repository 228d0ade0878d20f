package calendar

import (
	"fmt"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
)

// An Entry is something to be written into a calendar file.
type Entry struct {
	UID, Title, Course, Text, Link string
	Start, End                     time.Time // an End before Start or none: a moment
	Busy                           bool      // the time is taken
	Alarm                          time.Duration
	Changed                        time.Time
}

// Write makes an iCalendar file of entries; name is what calendar programs show.
func Write(name string, entries []Entry) string {
	c := ics.NewCalendarFor("Orario")
	c.SetMethod(ics.MethodPublish)
	c.SetXWRCalName(plain(name))
	c.SetRefreshInterval("PT1H")
	for _, e := range entries {
		v := c.AddEvent(e.UID)
		v.SetDtStampTime(e.Changed.UTC())
		v.SetSummary(plain(e.Title))
		v.SetStartAt(e.Start.UTC())
		if e.End.After(e.Start) {
			v.SetEndAt(e.End.UTC())
		}
		if e.Course != "" {
			v.AddProperty(ics.ComponentPropertyCategories, plain(e.Course))
		}
		if e.Text != "" {
			v.SetDescription(plain(e.Text))
		}
		if e.Link != "" {
			v.SetURL(strings.ReplaceAll(plain(e.Link), "\n", ""))
		}
		v.SetTimeTransparency(ics.TransparencyTransparent)
		if e.Busy {
			v.SetTimeTransparency(ics.TransparencyOpaque)
		}
		if e.Alarm > 0 {
			a := v.AddAlarm()
			a.SetAction(ics.ActionDisplay)
			a.SetTrigger(fmt.Sprintf("-PT%dM", int(e.Alarm.Minutes())))
			a.SetProperty(ics.ComponentPropertyDescription, plain(e.Title))
		}
	}
	return c.Serialize(ics.WithNewLineWindows) // RFC 5545 §3.1: lines end by CRLF, on every system
}

// plain takes out of a text what must not stand in one (RFC 5545 §3.3.11: TSAFE-CHAR): a line ends by LF alone until
// it is escaped, and no other control character is there.
func plain(text string) string {
	text = strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(text)
	return strings.Map(func(r rune) rune {
		if r < ' ' && r != '\n' && r != '\t' || r == 0x7f {
			return -1
		}
		return r
	}, text)
}
