package calendar

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/timing"
)

func file(lines ...string) string {
	return "BEGIN:VCALENDAR\r\nVERSION:2.0\r\n" + strings.Join(lines, "\r\n") + "\r\nEND:VCALENDAR\r\n"
}

func event(lines ...string) string {
	return "BEGIN:VEVENT\r\n" + strings.Join(lines, "\r\n") + "\r\nEND:VEVENT"
}

func todo(lines ...string) string {
	return "BEGIN:VTODO\r\n" + strings.Join(lines, "\r\n") + "\r\nEND:VTODO"
}

func utc(text string) time.Time {
	t, err := time.Parse(time.RFC3339, text)
	if err != nil {
		panic(err)
	}
	return t
}

func list(t *testing.T, text string, from, to string) []Item {
	t.Helper()
	items, _, err := Read(text, Stretch{utc(from), utc(to), true}, nil)
	require.NoError(t, err)
	return items
}

// The rules of RFC 5545 §3.8.5.3 with the dates that it lists; times are of New York. A trailing + says that the
// RFC's list goes on.
func TestRulesOfTheStandard(t *testing.T) {
	zone, err := timing.Zone("America/New_York")
	require.NoError(t, err)
	for _, c := range []struct{ start, rule, want string }{
		{"19970902T090000", "FREQ=DAILY;COUNT=10", "9/2 9/3 9/4 9/5 9/6 9/7 9/8 9/9 9/10 9/11"},
		{"19970902T090000", "FREQ=DAILY;INTERVAL=10;COUNT=5", "9/2 9/12 9/22 10/2 10/12"},
		{"19970902T090000", "FREQ=DAILY;INTERVAL=2", "9/2 9/4 9/6 9/8 9/10 +"},
		{"19970902T090000", "FREQ=WEEKLY;COUNT=10", "9/2 9/9 9/16 9/23 9/30 10/7 10/14 10/21 10/28 11/4"},
		{
			"19970902T090000",
			"FREQ=WEEKLY;UNTIL=19971007T000000Z;WKST=SU;BYDAY=TU,TH",
			"9/2 9/4 9/9 9/11 9/16 9/18 9/23 9/25 9/30 10/2",
		},
		{
			"19970902T090000",
			"FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH",
			"9/2 9/4 9/16 9/18 9/30 10/2 10/14 10/16",
		},
		{"19970905T090000", "FREQ=MONTHLY;COUNT=10;BYDAY=1FR", "9/5 10/3 11/7 12/5 1/2 2/6 3/6 4/3 5/1 6/5"},
		{
			"19970907T090000",
			"FREQ=MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU",
			"9/7 9/28 11/2 11/30 1/4 1/25 3/1 3/29 5/3 5/31",
		},
		{"19970922T090000", "FREQ=MONTHLY;COUNT=6;BYDAY=-2MO", "9/22 10/20 11/17 12/22 1/19 2/16"},
		{"19970928T090000", "FREQ=MONTHLY;BYMONTHDAY=-3", "9/28 10/29 11/28 12/29 1/29 2/26 +"},
		{
			"19970930T090000",
			"FREQ=MONTHLY;COUNT=10;BYMONTHDAY=1,-1",
			"9/30 10/1 10/31 11/1 11/30 12/1 12/31 1/1 1/31 2/1",
		},
		{"19970610T090000", "FREQ=YEARLY;COUNT=4;BYMONTH=6,7", "6/10 7/10 6/10 7/10"},
		{"19970902T090000", "FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13", "9/2 2/13 3/13 11/13 8/13 10/13 +"},
		{"19970913T090000", "FREQ=MONTHLY;BYDAY=SA;BYMONTHDAY=7,8,9,10,11,12,13", "9/13 10/11 11/8 12/13 1/10 2/7 +"},
		{"19970904T090000", "FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3", "9/4 10/7 11/6"},
		{"19970929T090000", "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2", "9/29 10/30 11/27 12/30 1/29 2/26 +"},
		{"19970512T090000", "FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO", "5/12 5/11 5/17 +"},
		{"19970902T090000", "FREQ=HOURLY;INTERVAL=3;UNTIL=19970902T210000Z", "9/2 9/2 9/2"},
		{"20070115T090000", "FREQ=MONTHLY;BYMONTHDAY=15,30;COUNT=5", "1/15 1/30 2/15 3/15 3/30"},
	} {
		items := list(
			t,
			file(event("UID:a", "DTSTART;TZID=America/New_York:"+c.start, "RRULE:"+c.rule)),
			"1997-01-01T00:00:00Z",
			"2012-01-01T00:00:00Z",
		)
		want := strings.Fields(c.want)
		open := want[len(want)-1] == "+"
		if open {
			want = want[:len(want)-1]
			require.GreaterOrEqual(t, len(items), len(want), c.rule)
			items = items[:len(want)]
		}
		var got []string
		for _, i := range items {
			local := utc(i.Due).In(zone)
			got = append(got, local.Format("1/2"))
			if !strings.Contains(c.rule, "HOURLY") {
				assert.Equal(t, 9, local.Hour(), "nine in the morning on either side of the change of clocks")
			}
		}
		assert.Equal(t, want, got, c.rule)
	}
}

func TestWhatIsDue(t *testing.T) {
	items := list(t, file(
		"X-WR-CALNAME:Hydrography",
		"X-WR-TIMEZONE:Europe/Lisbon",
		todo(
			"UID:1",
			"SUMMARY:Lab\\, third",
			"DTSTART;TZID=Atlantic/Azores:20261026T080000",
			"DUE;TZID=Atlantic/Azores:20261106T235900",
			"STATUS:NEEDS-ACTION",
			"SEQUENCE:3",
			"CATEGORIES:HYD 214,labs",
		),
		todo("UID:2", "DTSTART:20261107T100000", "DURATION:P1DT2H"),
		todo("UID:3", "SUMMARY:Some day"),
		event("UID:4", "SUMMARY:Hand over", "DTSTART:20261108T120000Z", "DURATION:PT45M", "STATUS:TENTATIVE"),
		event("UID:5", "DTSTART;VALUE=DATE:20261109"),
		"BEGIN:VJOURNAL\r\nUID:6\r\nDTSTART:20261109T100000Z\r\nEND:VJOURNAL",
	), "2026-11-01T00:00:00Z", "2026-12-01T00:00:00Z")
	require.Len(t, items, 5)
	assert.Equal(t, "", items[0].Due, "a VTODO without any time comes first")
	assert.Equal(
		t,
		Item{
			UID:      "1",
			Title:    "Lab, third",
			Course:   "HYD 214",
			Due:      "2026-11-07T00:59:00Z",
			Opens:    "2026-10-26T09:00:00Z",
			Zone:     "Atlantic/Azores",
			Status:   "needs-action",
			Sequence: 3,
			Todo:     true,
		},
		items[1],
	)
	assert.Equal(t, "2026-11-08T12:00:00Z", items[2].Due, "start and duration")
	assert.True(t, items[2].Floating)
	assert.Equal(t, "Hydrography", items[2].Course)
	assert.Equal(t, "2026-11-08T12:45:00Z", items[3].End)
	assert.Equal(t, "UTC", items[3].Zone)
	assert.Equal(t, "tentative", items[3].Status)
	assert.Equal(t, "2026-11-09T23:59:00Z", items[4].Due, "a day is due at its end")
	assert.True(t, items[4].AllDay)
}

func TestChangedAndCancelledInstances(t *testing.T) {
	text := file(
		event(
			"UID:s",
			"RECURRENCE-ID:20261112T100000Z",
			"DTSTART:20261114T110000Z",
			"SUMMARY:Moved",
		), // before its series
		event(
			"UID:s",
			"SUMMARY:Weekly",
			"DTSTART:20261105T100000Z",
			"RRULE:FREQ=WEEKLY;COUNT=6",
			"EXDATE:20261119T100000Z",
		),
		event("UID:s", "RECURRENCE-ID:20261126T100000Z", "DTSTART:20261126T100000Z", "STATUS:CANCELLED"),
		event(
			"UID:s",
			"RECURRENCE-ID;RANGE=THISANDFUTURE:20261203T100000Z",
			"DTSTART:20261203T150000Z",
			"SUMMARY:Later",
		),
		event("UID:d", "SEQUENCE:1", "DTSTAMP:20260101T000000Z", "DTSTART:20261106T100000Z", "SUMMARY:Old"),
		event(
			"UID:d",
			"SEQUENCE:2",
			"DTSTAMP:20250101T000000Z",
			"DTSTART:20261107T100000Z",
			"SUMMARY:Newer by sequence",
		),
		event("UID:d", "SEQUENCE:2", "DTSTAMP:20250102T000000Z", "DTSTART:20261108T100000Z", "SUMMARY:Newest by stamp"),
	)
	var got []string
	for _, i := range list(t, text, "2026-11-01T00:00:00Z", "2027-01-01T00:00:00Z") {
		got = append(got, strings.Join([]string{i.Due, i.RecurrenceID, i.Title, i.Status}, "|"))
	}
	assert.Equal(t, []string{
		"2026-11-05T10:00:00Z|2026-11-05T10:00:00Z|Weekly|",
		"2026-11-08T10:00:00Z||Newest by stamp|",
		"2026-11-14T11:00:00Z|2026-11-12T10:00:00Z|Moved|",
		"2026-11-26T10:00:00Z|2026-11-26T10:00:00Z||cancelled",
		"2026-12-03T15:00:00Z|2026-12-03T10:00:00Z|Later|",
		"2026-12-10T15:00:00Z|2026-12-10T10:00:00Z|Later|",
	}, got)
}

// A zone of the file's own with the European rules must agree with the tz database, from winter to summer and
// back; a Windows name stands for CLDR's city.
func TestZones(t *testing.T) {
	own := `BEGIN:VTIMEZONE
TZID:Our zone
BEGIN:DAYLIGHT
TZOFFSETFROM:+0100
TZOFFSETTO:+0200
DTSTART:19810329T020000
RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU
END:DAYLIGHT
BEGIN:STANDARD
TZOFFSETFROM:+0200
TZOFFSETTO:+0100
DTSTART:19961027T030000
RRULE:FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU
END:STANDARD
END:VTIMEZONE`
	berlin, err := timing.Zone("Europe/Berlin")
	require.NoError(t, err)
	for day := 0; day < 400; day += 3 {
		wall := time.Date(2026, 1, 1+day, 2, 30, 0, 0, time.UTC)
		items := list(
			t,
			file(own, event("UID:a", "DTSTART;TZID=Our zone:"+wall.Format("20060102T150405"))),
			"2025-01-01T00:00:00Z",
			"2028-01-01T00:00:00Z",
		)
		require.Len(t, items, 1)
		assert.Equal(
			t,
			timing.Resolve(wall.Year(), wall.Month(), wall.Day(), 2, 30, 0, berlin).Format(time.RFC3339),
			items[0].Due,
			wall,
		)
	}
	items := list(
		t,
		file(
			event("UID:a", "DTSTART;TZID=GMT Standard Time:20260701T100000"),
			event("UID:b", "DTSTART;TZID=/example.net/20070129_1/Europe/Lisbon:20260701T100000"),
		),
		"2025-01-01T00:00:00Z",
		"2028-01-01T00:00:00Z",
	)
	assert.Equal(t, "Europe/London", items[0].Zone)
	assert.Equal(t, "2026-07-01T09:00:00Z", items[0].Due)
	assert.Equal(t, "Europe/Lisbon", items[1].Zone)
}

func TestEveryRuleIsAnsweredOrRefused(t *testing.T) {
	for _, rule := range []string{
		"FREQ=SECONDLY", "FREQ=MINUTELY;BYMONTH=2;BYMONTHDAY=30", "FREQ=HOURLY;INTERVAL=24;BYHOUR=3", "FREQ=SECONDLY;BYSECOND=61", "FREQ=YEARLY;BYYEARDAY=366;BYMONTHDAY=1",
		"FREQ=DAILY;BYMONTH=13", "FREQ=SECONDLY;BYMONTH=2;BYDAY=MO;BYSETPOS=300", "FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30,31", "FREQ=DAILY;COUNT=99999999", "FREQ=WEEKLY;INTERVAL=999999999", "FREQ=MONTHLY;BYDAY=6MO", "FREQ=DAILY;BYDAY=",
		"FREQ=DAILY;BYYEARDAY=366;BYMONTH=1", "FREQ=SECONDLY;BYYEARDAY=366;BYMONTH=1", "FREQ=SECONDLY;BYHOUR=3;BYMINUTE=0;BYSECOND=0;COUNT=40000", "FREQ=MONTHLY;BYDAY=MO;BYSETPOS=40", "FREQ=SECONDLY;BYHOUR=3;BYMINUTE=0;BYSECOND=0",
	} {
		for _, start := range []string{"19700101T020000Z", "20260101T020000Z"} {
			began := time.Now()
			items, _, err := Read(
				file(event("UID:a", "DTSTART:"+start, "RRULE:"+rule)),
				Around(utc("2026-11-01T00:00:00Z")),
				nil,
			)
			assert.Less(t, time.Since(began), 4*time.Second, rule)
			if err == nil {
				assert.LessOrEqual(t, len(items), mostItems+1, rule)
			}
		}
	}
}

// What a file costs is bounded for all its entries together, and kept while it is read.
func TestAFileOfManyCostlyEntriesIsAnswered(t *testing.T) {
	many := func(n int, lines ...string) string {
		var events []string
		for i := range n {
			events = append(events, event(append([]string{fmt.Sprintf("UID:e%d", i)}, lines...)...))
		}
		return file(events...)
	}
	rdates := func(n int) string {
		var list []string
		for i := range n {
			list = append(
				list,
				utc("2026-11-01T00:00:00Z").Add(time.Duration(i)*time.Minute).Format("20060102T150405Z"),
			)
		}
		return strings.Join(list, ",")
	}
	changed := func(n int) string {
		events := []string{event("UID:a", "DTSTART:20261101T000000Z", "RRULE:FREQ=MINUTELY;INTERVAL=30;COUNT=9000")}
		for i := range n {
			at := utc("2026-11-01T00:00:00Z").Add(time.Duration(i) * 30 * time.Minute).Format("20060102T150405Z")
			more := ""
			if i%2 == 0 {
				more = ";RANGE=THISANDFUTURE"
			}
			events = append(events, event("UID:a", "RECURRENCE-ID"+more+":"+at, "DTSTART:"+at, "SUMMARY:moved"))
		}
		return file(events...)
	}
	for name, c := range map[string]struct {
		text  string
		items int // 0: refused
	}{
		"sixty rules by the minute": {many(60, "DTSTART:20200101T000000Z", "RRULE:FREQ=MINUTELY;INTERVAL=12"), 0},
		"rules that step by the second": {
			many(60, "DTSTART:20260101T000000Z", "RRULE:FREQ=SECONDLY;BYHOUR=3;BYMINUTE=0;BYSECOND=0"),
			0,
		},
		"rules of old times": {
			many(500, "DTSTART:01010101T000000Z", "RRULE:FREQ=DAILY;BYMONTH=1;BYMONTHDAY=1"),
			500,
		},
		"daily for two thousand years": {many(40, "DTSTART:01010101T000000Z", "RRULE:FREQ=DAILY"), 40 * 365},
		"sixty thousand dates": {
			file(event("UID:a", "DTSTART:20261101T000000Z", "RDATE:"+rdates(60_000))),
			60_000,
		},
		"the same dates three times": {
			file(
				event(
					"UID:a",
					"DTSTART:20261101T000000Z",
					"RDATE:"+rdates(9000),
					"RDATE:"+rdates(9000),
					"RDATE:"+rdates(9000),
				),
			),
			9000,
		},
		"as many exceptions as dates": {
			file(event("UID:a", "DTSTART:20261101T000000Z", "RDATE:"+rdates(20_000), "EXDATE:"+rdates(19_000))),
			1000,
		},
		"nine thousand changed": {changed(9000), 9000},
		"a busy student's year": {many(300, "DTSTART:20250901T090000Z", "RRULE:FREQ=WEEKLY"), 300 * 52},
	} {
		t.Run(name, func(t *testing.T) {
			var before, after runtime.MemStats
			runtime.ReadMemStats(&before)
			began := time.Now()
			items, _, err := Read(c.text, Around(utc("2026-11-01T00:00:00Z")), nil)
			runtime.ReadMemStats(&after)
			assert.Less(t, time.Since(began), 6*time.Second)
			assert.Less(t, (after.TotalAlloc-before.TotalAlloc)>>20, uint64(800), "MiB allocated in all")
			if c.items == 0 {
				assert.ErrorContains(t, err, "export a shorter stretch")
				return
			}
			require.NoError(t, err)
			assert.InDelta(t, c.items, len(items), float64(c.items)/20+300)
		})
	}
}

func TestWhatCannotBeUsed(t *testing.T) {
	for text, says := range map[string]string{
		"": "no calendar",
		"BEGIN:VCALENDAR\nBEGIN:VEVENT\nUID:a\nDTSTART:2026":                     "cut off",
		file("BEGIN:VEVENT", "UID:a", "DTSTART:2026-11-05", "END:VEVENT"):        "20261105T235900",
		file(event("UID:a", "DTSTART:20261105T100000Z", "DURATION:1 hour")):      "P1DT2H30M",
		file(event("UID:a", "DTSTART:20261105T100000Z", "RRULE:FREQ=SOMETIMES")): "cannot be read",
		"BEGIN:VEVENT\nUID:a\nEND:VEVENT\n":                                      "outside",
	} {
		_, _, err := Read(text, Around(utc("2026-11-01T00:00:00Z")), nil)
		assert.ErrorContains(t, err, says)
	}
}

func TestOneBadEntryCostsOnlyItself(t *testing.T) {
	text := file(
		event("UID:good", "SUMMARY:Lab", "DTSTART:20261105T100000Z"),
		event("UID:rule", "SUMMARY:Seminar", "DTSTART:20261105T100000Z", "RRULE:FREQ=SOMETIMES"),
		event("UID:date", "SUMMARY:Excursion", "DTSTART:2026-11-05"),
		event("UID:instance", "SUMMARY:Course", "DTSTART:20261105T100000Z", "RRULE:FREQ=DAILY;COUNT=3"),
		event("UID:instance", "SUMMARY:Course, moved", "RECURRENCE-ID:yesterday", "DTSTART:20261106T110000Z"),
		"BEGIN:VTODO\nUID:todo\nSUMMARY:Sheet\nDUE:20261107T100000Z\nEND:VTODO",
	)
	items, left, err := Read(text, Around(utc("2026-11-01T00:00:00Z")), nil)
	require.NoError(t, err)
	var uids, out []string
	for _, i := range items {
		uids = append(uids, i.UID)
	}
	for _, l := range left {
		out = append(out, l.Title)
		assert.Error(t, l.Why)
	}
	assert.Equal(t, []string{"good", "todo"}, uids)
	assert.Equal(t, []string{"Seminar", "Excursion", "Course, moved"}, out)
}

// Files of several real producers, as the tests of a Go library keep them; among them RFC 5545 §4's examples.
func TestFilesOfRealProducers(t *testing.T) {
	root, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/arran4/golang-ical").Output()
	require.NoError(t, err)
	paths, err := filepath.Glob(filepath.Join(strings.TrimSpace(string(root)), "testdata", "*", "*.ics*"))
	require.NoError(t, err)
	require.Greater(t, len(paths), 12)
	all := 0
	for _, path := range paths {
		data, err := os.ReadFile(path)
		require.NoError(t, err)
		items, _, err := Read(
			string(data),
			Stretch{From: utc("1990-01-01T00:00:00Z"), To: utc("2040-01-01T00:00:00Z")},
			nil,
		)
		if err != nil { // some of these are kept because they cannot be read
			assert.Contains(t, path, "notworking", err.Error())
			continue
		}
		all += len(items)
		if strings.HasSuffix(path, "rfc5545sec4/input1.ics") {
			require.Len(t, items, 1)
			assert.Equal(t, "Networld+Interop Conference", items[0].Title)
			assert.Equal(t, "1996-09-18T14:30:00Z", items[0].Due)
			assert.Equal(t, "1996-09-20T22:00:00Z", items[0].End)
		}
		if strings.HasSuffix(path, "rfc5545sec4/input2.ics") {
			require.Len(t, items, 1)
			assert.Equal(t, "1998-03-12T13:30:00Z", items[0].Due, "8:30 of New York, by the file's own zone")
		}
	}
	assert.Greater(t, all, 8)
}

func TestTables(t *testing.T) {
	in := Stretch{utc("2026-01-01T00:00:00Z"), utc("2027-01-01T00:00:00Z"), true}
	items, err := FromTable(
		"due;title;zone;points\n2026-11-06T23:59;\"Tides; again\";Atlantic/Azores;20\n2026-11-05;Map;;\n",
		in,
		nil,
	)
	require.NoError(t, err)
	require.Len(t, items, 2)
	assert.Equal(t, Item{Title: "Map", Due: "2026-11-05T23:59:00Z", AllDay: true, Zone: "UTC", Row: 3}, items[0])
	assert.Equal(
		t,
		Item{Title: "Tides; again", Due: "2026-11-07T00:59:00Z", Zone: "Atlantic/Azores", Points: 20, Row: 2},
		items[1],
	)
	assert.Equal(
		t,
		[]string{"title", "due", "", "course"},
		Match([]string{"Assignment", "Deadline", "Remarks", "Module"}),
	)
	for text, says := range map[string]string{
		"title,due\nMap,soon\n": "row 2: due", "title,due\n,2026-11-05\n": "row 2: the title", "title\nMap\n": "title and due", "title,due,mark\n": `"mark"`, "title,due,zone\nMap,2026-11-05,Lisbon\n": "IANA", "": "empty",
	} {
		_, err := FromTable(text, in, nil)
		assert.ErrorContains(t, err, says)
	}
}

func FuzzRead(f *testing.F) {
	f.Add(
		file(
			event(
				"UID:a",
				"DTSTART;TZID=Europe/Lisbon:20261105T100000",
				"RRULE:FREQ=WEEKLY;BYDAY=TH",
				"EXDATE:20261112T100000Z",
			),
			todo("DUE;VALUE=DATE:20261105"),
		),
	)
	f.Add(
		file(
			"BEGIN:VTIMEZONE\nTZID:x\nBEGIN:STANDARD\nTZOFFSETFROM:+0000\nTZOFFSETTO:+0030\nDTSTART:19700101T000000\nEND:STANDARD\nEND:VTIMEZONE",
			event("DTSTART;TZID=x:20260101T000000", "RDATE:20260201T000000/PT1H"),
		),
	)
	within := Around(utc("2026-11-01T00:00:00Z"))
	f.Fuzz(func(t *testing.T, text string) {
		items, _, err := Read(text, within, nil)
		if err != nil && len(items) > 0 {
			t.Fatal("items beside an error")
		}
		for i := 1; i < len(items); i++ {
			if items[i].Due < items[i-1].Due {
				t.Fatal("out of order")
			}
		}
		_, _ = FromTable(text, within, nil)
	})
}

func BenchmarkRead10000Events(b *testing.B) {
	var lines []string
	for i := range 10_000 {
		lines = append(
			lines,
			event(
				fmt.Sprintf("UID:%d@alvarim.example", i),
				fmt.Sprintf("DTSTART;TZID=Europe/Lisbon:2026%02d%02dT100000", 1+i%12, 1+i%28),
				"DURATION:PT1H30M",
				"SUMMARY:Lecture",
				"DESCRIPTION:Something longer that is",
				"  folded over two lines",
			),
		)
	}
	text := file(lines...)
	within := Around(utc("2026-07-01T00:00:00Z"))
	b.SetBytes(int64(len(text)))
	for b.Loop() {
		if _, _, err := Read(text, within, nil); err != nil {
			b.Fatal(err)
		}
	}
}

// BenchmarkManyDates reads one event with so many dates added one by one: four times as many take four times as long.
func BenchmarkManyDates(b *testing.B) {
	for _, n := range []int{15_000, 60_000} {
		lines := []string{"BEGIN:VEVENT", "UID:a", "DTSTAMP:20200101T000000Z", "DTSTART:20200101T000000Z", "SUMMARY:x"}
		for i := range n {
			lines = append(lines, "RDATE:"+utc("2020-01-01T00:00:00Z").Add(time.Duration(i)*time.Hour).Format("20060102T150405Z"))
		}
		text := file(append(lines, "END:VEVENT")...)
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			for b.Loop() {
				if _, _, err := Read(text, Around(utc("2022-07-01T00:00:00Z")), nil); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

func TestWhatIsWrittenCanBeRead(t *testing.T) {
	due := utc("2026-11-06T18:00:00Z")
	text := Write("Orario", []Entry{
		{
			UID:     "1-due@orario",
			Title:   "Tides; a long title, with signs that must be escaped and folded since it is longer than a line",
			Course:  "HYD 214",
			Start:   due,
			Alarm:   time.Hour,
			Changed: due,
		},
		{
			UID:     "1-plan@orario",
			Title:   "Work",
			Start:   due.Add(-5 * time.Hour),
			End:     due.Add(-3 * time.Hour),
			Busy:    true,
			Changed: due,
		},
	})
	items := list(t, text, "2026-11-01T00:00:00Z", "2026-12-01T00:00:00Z")
	require.Len(t, items, 2)
	assert.Equal(t, "2026-11-06T15:00:00Z", items[0].End)
	assert.Equal(
		t,
		"Tides; a long title, with signs that must be escaped and folded since it is longer than a line",
		items[1].Title,
	)
	assert.Equal(t, "HYD 214", items[1].Course)
	assert.Contains(t, text, "TRIGGER:-PT60M")
}

// RFC 5545 §3.1: every line ends by CRLF, and neither is found elsewhere; §3.3.11: no control characters in a text.
func TestWhatIsWrittenHasLinesAsTheStandardSays(t *testing.T) {
	due := utc("2026-11-06T18:00:00Z")
	text := Write("Orario\rX", []Entry{{
		UID: "1@orario", Title: "One\rBEGIN:VEVENT\r\nTwo\nThree\x00\x07", Course: "A\rB", Text: "a\rb", Link: "https://o.example/\r\nX:Y",
		Start: due, Alarm: time.Hour, Changed: due,
	}})
	lines := strings.Split(text, "\r\n")
	assert.Greater(t, len(lines), 10)
	for _, line := range lines {
		assert.NotContains(t, line, "\r")
		assert.NotContains(t, line, "\n")
		assert.NotContains(t, line, "\x00")
		assert.LessOrEqual(t, len(line), 75)
	}
	assert.Equal(t, 1, strings.Count(text, "\r\nBEGIN:VEVENT"))
	items := list(t, text, "2026-11-01T00:00:00Z", "2026-12-01T00:00:00Z")
	require.Len(t, items, 1)
	assert.Equal(t, "One\nBEGIN:VEVENT\nTwo\nThree", items[0].Title)
}
