package e2e

import (
	"fmt"
	"io"
	"net/http"
	"strings"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/e2e/browser"
)

// in writes a day some days from now as people do: "12 December".
func in(days int) string { return time.Now().AddDate(0, 0, days).Format("2 January") }

func typeOne(s *stage) {
	s.do(
		s.open("/"),
		browser.See(`//h1[.="Next two weeks"]`),
		chromedp.KeyEvent("a"),
		browser.See(`//h1[.="Add an assignment"]`),
	)
	s.accessible("adding")
	s.do(
		chromedp.SendKeys(`input[required]`, "lab 5 HYD "+in(18)+" 18:00 20p pdf ~3h"),
		browser.See(`//dd[.="HYD 214, Hydrography"]`),
		browser.See(`//dd[.="20 points"]`),
		browser.Press(browser.Button("Go on with it")),
		browser.See(`//h1[.="A new assignment"]`),
		browser.See(`//p[.="PDF"]`),
	)
	s.accessible("a new assignment")
	// A course that is not known yet needs no more than its code.
	s.do(
		chromedp.SendKeys(`//label[.="Course"]/following::select[1]`, "a"),
		chromedp.SendKeys(`//label[.="New course"]/following::input[1]`, "BUO 7\r"),
		chromedp.WaitReady(`//option[.="BUO 7"]`),
		chromedp.SendKeys(`//label[.="Course"]/following::select[1]`, "HYD"),
	)
	s.do(
		browser.Press(browser.Button("Keep this assignment")),
		browser.See(`//h1[.="Lab 5"]`),
		browser.See(browser.Says("20 points")),
	)
	// A requirement is added in words, a due time moved in a date field, and both are there.
	s.do(
		browser.Press(browser.Button("Change the brief")),
		chromedp.SendKeys(`input[aria-label="anything"]`, "4 to 6 pages\r"),
		browser.See(`//p[.="4 to 6 pages"]`),
		browser.Press(browser.Button("Keep the changes")),
		browser.See(`//h1[.="Lab 5"]`),
		browser.See(`//span[.="4 to 6 pages"]`),
	)
	// What cannot be understood is said, with how to write it.
	s.do(
		browser.Press(browser.Button("Change the brief")),
		chromedp.SendKeys(`select[aria-label="Add a requirement"]`, "lateness"),
		browser.See(`input[aria-label="late"]`),
		chromedp.SendKeys(`input[aria-label="late"]`, "purple\r"),
		browser.See(browser.Says("10% per day, at most 50%")),
	)
	// Sent by hand and noted, it waits; the note can be taken back, and the assignment removed.
	s.do(
		browser.Press(browser.Button("Back to its Desk")),
		browser.Press(browser.Button("Note it as sent")),
		browser.See(browser.Says("Nothing shows it yet")),
		browser.Press(browser.Button("Take the note back")),
		browser.See(browser.Button("Note it as sent")),
		browser.Press(browser.Button("Change the brief")),
		browser.Press(browser.Button("Remove this assignment")),
		browser.Press(browser.Button("Really remove it")),
		browser.See(`//h1[.="Next two weeks"]`),
		chromedp.WaitNotPresent(`//td//a[.="Lab 5"]`),
	)
}

func pasteInstructions(s *stage) {
	text := "Rope splices\nWOD 130: Photograph three splices and send them as one PDF below 5 MB. Due 3/4 at noon. Worth 12 points. Late work loses 10% per day. Two attempts, the best counts."
	s.do(
		s.open("/add"),
		chromedp.SendKeys(`//textarea`, text),
		browser.Press(browser.Button("Read it")),
		browser.See(`//h1[.="What the instructions ask for"]`),
		browser.See(
			`//mark[.="5 MB" or contains(., "below 5 MB")]`,
		),
		browser.See(`//li[contains(., "one PDF below 5 MB")]`),
		browser.See(browser.Says("A due time is missing")),
	)
	s.accessible("what was read")
	row := func(label string) string { return `//li[span[.="` + label + `"]]` }
	s.do(
		chromedp.SendKeys(`//li[@data-question]//input`, in(20)+" 12:00\r"),
		browser.See(row("due")),
		chromedp.WaitNotPresent(`//li[@data-question]`),
		browser.Press(
			row("size")+`//button[.="Change"]`,
		),
		chromedp.SendKeys(`input[aria-label="max_bytes"]`, strings.Repeat("\b", 20)+"8 MB\r"),
		browser.See(`//p[.="at most 8 MB"]`),
		browser.Press(row("attempts")+`//button[.="Leave out"]`),
		chromedp.WaitNotPresent(row("attempts")),
	)
	// What lacks is chosen in the instructions, by keys here, and named with one press: the words from "Two" on.
	s.do(chromedp.Focus(`[aria-label^="The instructions; arrow keys"]`))
	from := len(strings.Fields(text[:strings.Index(text, "Two attempts")]))
	for range from + 1 {
		s.do(chromedp.KeyEvent(kb.ArrowRight))
	}
	for range len(strings.Fields(text)) - from - 1 {
		s.do(chromedp.KeyEvent(kb.ArrowRight, chromedp.KeyModifiers(chromedp.ModifierShift)))
	}
	s.do(
		browser.See(browser.Says("Two attempts, the best counts.")),
		browser.Press(`//*[@aria-label="What the chosen words say"]//button[.="attempts"]`),
		browser.See(row("attempts")+`//p[contains(., "2")]`),
		browser.Press(row("points")+`//button[.="Confirm"]`),
		browser.See(row("points")+`//span[.="confirmed"]`),
		browser.Press(browser.Button("Keep this assignment")),
		browser.See(`//h1[.="Rope splices"]`),
		browser.See(`//mark[contains(., "12 points")]`),
		browser.See(`//span[.="at most 8 MB"]`),
	)
	// The rest is confirmed at the Desk.
	s.do(
		browser.Press(`//button[starts-with(., "Confirm all")]`),
		chromedp.WaitNotPresent(`//button[starts-with(., "Confirm all")]`),
	)
	// The same out of a file.
	s.do(
		s.open("/add"),
		chromedp.SetUploadFiles(
			`[data-testid=instructions]`,
			[]string{s.file("knots.txt", []byte("Knots\nSubmit one PDF by "+in(21)+", 18:00. Worth 5 points."))},
			chromedp.NodeReady,
		),
		browser.See(`//h1[.="What the instructions ask for"]`),
		browser.See(`//p[.="5 points"]`),
	)
}

// ics is a calendar of things that are due in days from now.
func ics(items ...string) []byte {
	var b strings.Builder
	b.WriteString("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Alvarim//journey//EN\r\n")
	for _, i := range items {
		f := strings.Split(i, "|") // uid, days, title, more
		due := time.Now().AddDate(0, 0, len(f[1])).Format("20060102")
		fmt.Fprintf(
			&b,
			"BEGIN:VTODO\r\nUID:%s@alvarim.example\r\nDTSTAMP:20260101T000000Z\r\nDUE;TZID=Europe/Lisbon:%sT170000\r\nSUMMARY:%s\r\nCATEGORIES:HYD "+
				"214\r\n",
			f[0],
			due,
			f[2],
		)
		if f[3] != "" {
			b.WriteString(f[3] + "\r\n")
		}
		b.WriteString("END:VTODO\r\n")
	}
	b.WriteString("END:VCALENDAR\r\n")
	return []byte(b.String())
}

func calendarTwice(s *stage) {
	give := func(name string, data []byte) browser.Step {
		return chromedp.SetUploadFiles(`[data-testid=calendar]`, []string{s.file(name, data)}, chromedp.NodeReady)
	}
	// Days are counted in dots.
	first := ics(
		"a|"+strings.Repeat(".", 15)+"|Buoy survey|",
		"b|"+strings.Repeat(".", 16)+"|Sounding log|",
		"c|"+strings.Repeat(".", 17)+"|Tide staff|",
	)
	s.do(s.open("/calendars"), give("due.ics", first), browser.See(`//td[.="Buoy survey"]`))
	s.accessible("calendars")
	s.do(browser.Press(browser.Button("Take over 3")), browser.See(browser.Says("Taken over: 3 new.")))
	second := ics(
		"a|"+strings.Repeat(".", 18)+"|Buoy survey|SEQUENCE:1",
		"b|"+strings.Repeat(".", 16)+"|Sounding log|",
		"c|"+strings.Repeat(".", 17)+"|Tide staff|STATUS:CANCELLED",
	)
	s.do(
		give("due.ics", second),
		browser.See(`//td[@data-now="changed"]`),
		browser.See(`//td[@data-now="cancelled"]`),
		browser.Press(browser.Button("Take over 3")),
		browser.See(browser.Says("Taken over: 1 changed, 1 cancelled, 1 as before.")),
	)
	s.do(
		s.open("/"),
		browser.See(`//section[@aria-label="Since you last looked"]//a[contains(., "Buoy survey is due")]`),
		chromedp.WaitNotPresent(`//td//a[.="Tide staff"]`),
	)
	count, err := chromedp.Run(
		s.web,
		chromedp.Evaluate[int](
			`[...document.querySelectorAll("td a")].filter(a => a.textContent === "Buoy survey").length`,
		),
	)
	require.NoError(s.t, err)
	assert.Equal(s.t, 1, count, "nothing comes twice")
	s.do(
		browser.Press(browser.Button("Seen")),
		chromedp.WaitNotPresent(`//section[@aria-label="Since you last looked"]`),
	)
	// What is no calendar is refused with what to do.
	s.do(
		s.open("/calendars"),
		give("no.ics", []byte("BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\n")),
		browser.See(`//div[@data-tone="trouble"]`),
	)
	// The student's own calendar, behind a secret address, until it is stopped.
	s.do(browser.Press(browser.Button("Make a secret address")), browser.See(`input[aria-label="Secret address"]`))
	link, err := chromedp.Run(
		s.web,
		chromedp.Evaluate[string](`document.querySelector('input[aria-label="Secret address"]').value`),
	)
	require.NoError(s.t, err)
	answer, err := http.Get(link)
	require.NoError(s.t, err)
	text, err := io.ReadAll(answer.Body)
	require.NoError(s.t, err)
	answer.Body.Close()
	assert.Contains(s.t, string(text), "SUMMARY:HYD 214 Buoy survey is due")
	assert.Contains(s.t, string(text), "BEGIN:VALARM")
	// Taken over as busy times from its own address, it is fetched by the server.
	s.do(
		chromedp.SendKeys(`//select[option[.="when I am busy"]]`, "when"),
		chromedp.SendKeys(`input[type=url]`, link),
		browser.Press(browser.Button("Look at it")),
		browser.Press(browser.Button("Keep these times free of work")),
		browser.See(browser.Says("are kept out of your plan")),
		browser.Press(
			`//ul/li[.//p[contains(., "/feed/")]]//button`,
		),
		chromedp.WaitNotPresent(`//ul/li//p[contains(., "/feed/")]`),
	)
	s.do(browser.Press(browser.Button("Stop it")), browser.See(browser.Button("Make a secret address")))
	answer, err = http.Get(link)
	require.NoError(s.t, err)
	answer.Body.Close()
	assert.Equal(s.t, http.StatusNotFound, answer.StatusCode)
}

func table(s *stage) {
	day := time.Now().AddDate(0, 0, 19).Format(time.DateOnly)
	csv := "Kurs;Aufgabe;Abgabe;Punkte\nWOD 130;Mortise;" + day + " 18:00;10\nKIT 9;Kite;" + day + ";5\n"
	choose := func(column, as string) browser.Step {
		return chromedp.SendKeys(`//select[@aria-label="Column `+column+` is"]`, as)
	}
	s.do(
		s.open("/calendars"),
		chromedp.SetUploadFiles(
			`[data-testid=calendar]`,
			[]string{s.file("plan.csv", []byte(csv))},
			chromedp.NodeReady,
		),
		browser.See(`//h2[.="Which column is which"]`),
		browser.See(browser.Says("needs the columns")),
		choose("Kurs", "course"),
		choose("Aufgabe", "title"),
		choose("Abgabe", "due"),
		browser.See(`//td[.="Mortise"]`),
		browser.See(`//td[.="KIT 9"]`),
		choose("Punkte", "points"),
		browser.Press(browser.Button("Take over 2")),
		browser.See(browser.Says("2 new")),
	)
	s.do(
		s.open("/courses"),
		browser.See(`//h3[.="KIT 9"]`),
		browser.Press(`//article[.//h3[.="KIT 9"]]//button[.="Set up"]`),
		chromedp.SendKeys(`//label[starts-with(., "Instructor")]/following::input[1]`, "Ines Rabal"),
	)
	s.accessible("setting a course up")
	s.do(
		browser.Press(browser.Button("Keep it so")),
		browser.See(browser.Says("Ines Rabal")),
		browser.Press(`//article[.//h3[.="KIT 9"]]//button[.="Archive"]`),
		browser.See(`//h2[.="Archived"]`),
	)
	s.do(s.open("/"), browser.See(`//td//a[.="Mortise"]`), chromedp.WaitNotPresent(`//td//a[.="Kite"]`))
}

func dragAndKeep(s *stage) {
	s.do(s.open("/"), browser.See(`//h1[.="Next two weeks"]`), browser.See(`g[data-slab]`))
	s.do(browser.DragUntil("g[data-slab]", 90, `//h2[.="Tried, not saved"]`))
	s.do(browser.See(`g[data-slab][data-pinned="true"]`))
	s.accessible("a tried plan")
	s.do(
		browser.Press(browser.Button("Leave it as it was")),
		chromedp.WaitNotPresent(`//h2[.="Tried, not saved"]`),
		chromedp.WaitNotPresent(`g[data-pinned="true"]`),
	)
	s.do(browser.DragUntil("g[data-slab]", 90, `//h2[.="Tried, not saved"]`))
	s.do(
		browser.Press(browser.Button("Keep this plan")),
		browser.See(browser.Says("The plan is kept.")),
		s.open("/"),
		browser.See(`g[data-slab][data-pinned="true"]`),
	)
	// The stretch of time moves under the pointer, and a drag opens nothing.
	s.do(browser.Drag(`[aria-label='Assignments over time']`, 200))
	s.do(
		browser.See(`//h1[.="Two weeks"]`),
		browser.Press(browser.Button("now")),
		browser.See(`//h1[.="Next two weeks"]`),
	)
	// Hovering tells the whole story.
	s.do(
		chromedp.Evaluate[chromedp.Void](
			`document.querySelector("g[data-line]").dispatchEvent(new PointerEvent("pointerover", { bubbles: true, clientX: 400, clientY: 300 }))`,
		),
		browser.See(`[role=tooltip]`),
	)
	// On the plan's page the slab is let go again.
	s.do(
		s.open("/plan"),
		browser.See(`//h1[.="Plan"]`),
		browser.Press(browser.Button("Let go")),
		browser.See(`//h2[.="Tried, not saved"]`),
		browser.Press(browser.Button("Keep this plan")),
		browser.See(browser.Says("The plan is kept.")),
		chromedp.WaitNotPresent(browser.Button("Let go")),
	)
}

// hours sets the most hours of work a day.
func (s *stage) hours(most string) {
	s.do(s.open("/settings"), browser.See(`//h1[.="Your hours and reminders"]`))
	s.do(
		chromedp.SendKeys(`//label[.="At most so many hours a day"]/following::input[1]`, "\b\b\b"+most),
		browser.Press(browser.Button("Keep these settings")),
		browser.See(browser.Says("The plan goes by it")),
	)
}

func tooMuch(s *stage) {
	s.hours("0.5")
	s.do(s.open("/plan"), browser.See(`//h2[.="It does not all fit"]`), browser.See(browser.Says("too much by")))
	s.accessible("an overloaded plan")
	s.do(
		browser.Press(browser.Button("Ask for more time here")),
		browser.See(`//h2[.="More time"]`),
		browser.See(`//textarea[contains(., "May I send it until")]`),
	)
	s.accessible("asking for more time")
	s.do(browser.Press(browser.Button("I have asked")), browser.See(browser.Says("Asked for.")))
	s.do(
		chromedp.SetUploadFiles(
			`[data-testid=proof]`,
			[]string{s.file("answer.txt", []byte("You may."))},
			chromedp.NodeReady,
		),
		browser.See(browser.Button("answer.txt")), // the button beside it moves, and must have come to rest
		chromedp.SendKeys(`//label[.="What was said"]/following::input[1]`, "until then, by mail"),
		browser.PressUntil(browser.Button("Apply it"), browser.Says("Granted until")),
		browser.See(browser.Button("The proof of it")),
		browser.See(browser.Says("More time was granted.")),
		browser.Press(browser.Button("Take it back")),
	)
	s.hours("5")
	// All of it fits then; only in the last minutes before 18:00 the joint drawings do not any more.
	s.do(
		s.open("/plan"),
		browser.See(`//*[text()[contains(., "it fits") or contains(., "More time for 1 assignment makes")]]`),
	)
}

func viewsAndBulk(s *stage) {
	s.do(
		s.open("/"),
		browser.See(`//h2[.="All assignments"]`),
		browser.Press(browser.Button("this week, to do")),
		browser.See(browser.Button("Forget this view")),
		s.open("/"),
		chromedp.SendKeys(`input[aria-label="Text"]`, "sheet"),
		chromedp.WaitNotPresent(`//td//a[.="Tide tables"]`),
		browser.See(`//td//a[.="Sheet 6"]`),
		browser.Press(browser.Button("Save this view")),
		chromedp.SendKeys(`input[aria-label="Name of the view"]`, "sheets\r"),
		browser.See(browser.Button("sheets")),
		browser.See(browser.Button("Forget this view")),
	)
	s.do(
		browser.Press(`input[aria-label="Choose Sheet 6"]`),
		browser.Press(`input[aria-label="Choose Sheet 7"]`),
		browser.See(browser.Says("chosen")),
	)
	s.accessible("several chosen")
	s.do(
		chromedp.SendKeys(`input[aria-label="Hours of work each"]`, "2\r"),
		browser.See(browser.Says("Done for 2 assignments.")),
	)
}

func keysAlone(s *stage) {
	s.do(
		s.open("/"),
		browser.See(`//h1[.="Next two weeks"]`),
		chromedp.KeyEvent("a"),
		browser.See(`//h1[.="Add an assignment"]`),
		chromedp.KeyEvent("chart table WOD "+in(22)+" 10:00\r"),
		browser.See(`//h1[.="A new assignment"]`),
		chromedp.KeyEvent("\r"),
		browser.See(`//h1[.="Chart table"]`),
		chromedp.KeyEvent("p"),
		browser.See(`//h1[.="Plan"]`),
		chromedp.KeyEvent("w"),
		browser.See(browser.Button("Print")),
		chromedp.KeyEvent("g"),
		browser.See(`//h1[.="Next two weeks"]`),
		chromedp.KeyEvent("3"),
		browser.See(`//h1[.="Next term"]`),
		chromedp.KeyEvent("2"),
		chromedp.KeyEvent("]"),
		browser.See(`//h1[.="Two weeks"]`),
		chromedp.KeyEvent("0"),
		browser.See(`//h1[.="Next two weeks"]`),
		chromedp.KeyEvent("j"),
		chromedp.KeyEvent("x"),
		browser.See(browser.Says("chosen")),
		chromedp.KeyEvent("\r"),
		browser.See("#bundle"),
	)
}

// everyPage is held against axe's rules and a phone's width.
func everyPage(s *stage) {
	pages := map[string]string{
		"/plan":      "Plan",
		"/week":      "",
		"/settings":  "Your hours and reminders",
		"/courses":   "Courses",
		"/add":       "Add an assignment",
		"/calendars": "Calendars and tables",
		"/":          "Next two weeks",
	}
	for path, title := range pages {
		see := browser.See(`//h1`)
		if title != "" {
			see = browser.See(`//h1[.="` + title + `"]`)
		}
		s.do(s.open(path), see)
		if path != "/add" && path != "/calendars" {
			s.accessible(path)
		}
		s.do(browser.Window(390, 844, false), chromedp.Sleep(200*time.Millisecond))
		wide, err := chromedp.Run(s.web, chromedp.Evaluate[int](`document.documentElement.scrollWidth`))
		require.NoError(s.t, err)
		assert.LessOrEqual(s.t, wide, 390, "%s is wider than a phone", path)
		s.do(browser.Window(1280, 800, false))
	}
	// The weekly sheet prints on one page.
	s.do(s.open("/week"), browser.See(browser.Button("Print")))
	assert.Equal(s.t, 1, s.printedPages(), "pages of the weekly sheet")
}
