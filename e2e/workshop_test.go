package e2e

import (
	"archive/zip"
	"bytes"
	"context"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/demo"
	"orario/e2e/browser"
)

// tool opens a tool of the Workshop.
func tool(name string) browser.Step {
	return browser.Press(`//button[@aria-expanded="false"][b[.="` + name + `"]]`)
}

// choose lays one file on the bench.
func choose(name string) browser.Step {
	return browser.Press(`//button[@aria-pressed="false"][contains(., "` + name + `")]`)
}

// answer is where an answer is typed, once what was kept of it is there.
const answer = `//*[@id="bench"]//*[@aria-label="Your answer"]`

const inBundle = `//h2[.="In the bundle"]`

// bring brings a file into the tray.
func (s *stage) bring(name string, data []byte) browser.Step {
	return chromedp.SetUploadFiles(`[data-testid=tray-picker]`, []string{s.file(name, data)}, chromedp.NodeReady)
}

// draw draws a line with the mouse over what a CSS selector finds, by shares of its size.
func draw(selector string, from, to [2]float64) browser.Step {
	return chromedp.Func(func(ctx context.Context, _ *chromedp.Target) error {
		box, err := chromedp.Run(ctx, chromedp.Evaluate[[]float64](`(() => { const e = document.querySelector(`+"`"+selector+"`"+
			`); e.scrollIntoView({block: "center"}); const b = e.getBoundingClientRect(); return [b.x, b.y, b.width, b.height]; })()`))
		if err != nil {
			return err
		}
		mouse := func(kind input.DispatchMouseEventType, x, y float64) error {
			_, err := chromedp.Call(ctx, input.DispatchMouseEvent, input.DispatchMouseEventParams{
				Type: kind, X: box[0] + x*box[2], Y: box[1] + y*box[3], Button: input.MouseButtonLeft, ClickCount: 1,
			})
			return err
		}
		err = mouse(input.DispatchMouseEventTypeMousePressed, from[0], from[1])
		for n := 1.0; n <= 8 && err == nil; n++ {
			err = mouse(input.DispatchMouseEventTypeMouseMoved,
				from[0]+(to[0]-from[0])*n/8, from[1]+(to[1]-from[1])*n/8)
		}
		if err != nil {
			return err
		}
		return mouse(input.DispatchMouseEventTypeMouseReleased, to[0], to[1])
	})
}

// atTheBench makes files of files: typed, written on, converted, cleaned, unpacked; each looked at before it is taken.
func atTheBench(s *stage) {
	s.do(
		s.open("/"),
		browser.Press(`//td//a[.="Sheet 6"]`),
		browser.Press(browser.Button("make one in the Workshop")),
		browser.See(`//h1[.="Workshop"]`),
		browser.See(browser.Says("The bundle is empty")),
	)
	s.accessible("the Workshop, empty")
	s.do(
		tool("Type"),
		browser.See(answer), // what was kept is there
		chromedp.SendKeys(answer, "# Sheet 6\rThe **mean** is 3.4, of $x_1$ and $x_2$"), // by Markdown's marks
		browser.See(`//h1[.="Sheet 6"]`),
		browser.See(`//strong[.="mean"]`),
		browser.See(`//*[@data-latex="x_2"]//*[@class="katex"]`),
		browser.Press(browser.Button("Footnote")),
		chromedp.SendKeys(`//label[.="Words of the footnote"]/following::input[1]`, "Read at noon.\r"),
		browser.See(`//ol//li[.="Read at noon."]`),
		chromedp.KeyEvent(" as told"),
		browser.See(`//p[contains(., "as told")]`),
		browser.Press(browser.Button("Table")),
		chromedp.KeyEvent("Station\tHeight\tSpread"),
		browser.See(`//th[.="Spread"]`),
		browser.Press(browser.Button("Markdown")), // and by its source
		browser.See(`//textarea[contains(., "$x_1$") and contains(., "[^1]: Read at noon.") and contains(., "| Station")]`),
		browser.Press(browser.Button("Markdown")),
		browser.See(`//*[@data-latex="x_1"]`),
		browser.See(browser.Says("Kept.")),
	)
	s.accessible("Type")
	s.do(
		browser.Press(browser.Button("Make a file of it")),
		browser.See(browser.Says("not in the bundle yet")),
		browser.See(`canvas[aria-label="Page 1 of Sheet 6.pdf"]`),
		browser.Press(browser.Button("Put it into the bundle")),
		browser.See(inBundle),
		browser.Press(browser.Button("Undo")),
		browser.See(browser.Says("not in the bundle yet")),
		chromedp.WaitNotPresent(`//button[@aria-pressed][contains(., "Sheet 6.pdf")]`), // the tray has given it back
		chromedp.Sleep(300*time.Millisecond),
		browser.Press(browser.Button("Put it into the bundle")),
		browser.See(inBundle),
	)
	s.writeOnIt()
	s.twoTabs()
	s.cleanAndUnpack()
	s.ofTheLibrary()
	s.dropped()
}

// pictureInAnAnswer puts a picture of the bundle into a typed answer and makes a document of it, whose pages are shown.
func (s *stage) pictureInAnAnswer() {
	var drawing bytes.Buffer
	require.NoError(s.t, png.Encode(&drawing, image.NewGray(image.Rect(0, 0, 120, 80))))
	s.do(s.open("/"), browser.Press(`//td//a[.="Moisture sheet"]`), browser.See("#bundle"))
	desk, _, _ := strings.Cut(s.here(), "?")
	s.do(
		s.open(strings.TrimSuffix(desk, "#bundle")+"/workshop"),
		s.bring("the joint.png", drawing.Bytes()),
		browser.See(`//button[@aria-pressed][contains(., "the joint.png")]`),
		tool("Type"),
		browser.See(answer),
		chromedp.SendKeys(answer, "As drawn: "),
		browser.Press(browser.Button("Picture")),
		browser.Press(`//*[@role="menuitem"][.="the joint.png"]`),
		browser.See(answer+`//img[contains(@src, "/content?show=1")]`),
		browser.See(browser.Says("What the picture shows")),
		chromedp.SetValue(`//label[.="As"]/following::select[1]`, "docx"),
	)
	drawn, err := chromedp.Run(s.web, chromedp.Evaluate[bool](`document.querySelector("#bench img").naturalWidth > 0`))
	require.NoError(s.t, err)
	assert.True(s.t, drawn, "the picture is shown")
	s.do(
		browser.Press(browser.Button("Make a file of it")),
		browser.See(`//figcaption[contains(., "Moisture sheet")]`),
		browser.See(`canvas[aria-label^="Page 1 of"]`),
		browser.Press(browser.Button("Throw it away")),
		browser.See(answer),
	)
}

// dropped drops a folder on the bench, and a file beside all places for files, where nothing comes of it.
func (s *stage) dropped() {
	lab := filepath.Join(s.files, "lab")
	require.NoError(s.t, os.MkdirAll(filepath.Join(lab, "day 2"), 0o755))
	for name, text := range map[string]string{"readings.csv": "h,m\n1,2\n", "day 2/more readings.csv": "h,m\n3,4\n"} {
		require.NoError(s.t, os.WriteFile(filepath.Join(lab, name), []byte(text), 0o600))
	}
	s.do(
		browser.Drop("#bench", lab),
		browser.See(`//button[@aria-pressed][contains(., "more readings.csv")]`),
		browser.See(`//button[@aria-pressed][starts-with(normalize-space(.), "readings.csv")]`),
		browser.Drop("header", filepath.Join(lab, "readings.csv")),
		browser.See(`//h1[.="Workshop"]`),
	)
}

// ofTheLibrary makes a file of one of another assignment, which does not come into the bundle by that.
func (s *stage) ofTheLibrary() {
	s.do(
		browser.Press(`//button[@aria-pressed="true"][contains(., "lab.zip")]`), // off the bench
		browser.Press(`input[aria-label="From the Library"]`),
		chromedp.SendKeys(`input[aria-label="From the Library"]`, "glasswort"), // which it says, and not its name
		browser.Press(`//*[@role="option"][contains(., "transect notes v3.pdf")]`),
		browser.See(`//button[@aria-pressed="true"][contains(., "transect notes v3.pdf")]`),
	)
	s.accessible("a file of the Library on the bench")
	s.do(
		tool("Convert"),
		browser.Press(browser.Button("Convert to PDF")),
		browser.See(browser.Says("not in the bundle yet")),
		browser.Press(browser.Button("Put it into the bundle")),
		browser.See(inBundle),
		browser.See(`//button[@aria-pressed][contains(., "transect notes v3.pdf") and not(contains(., "Library"))]`),
	)
}

// writeOnIt writes on the page that was typed, with the pen and in words; what comes out can be read as text.
func (s *stage) writeOnIt() {
	page := `[aria-label="Pages to write on"] svg`
	s.do(
		choose("Sheet 6.pdf"),
		tool("Write on it"),
		browser.See(page),
		chromedp.Sleep(300*time.Millisecond),
		draw(page, [2]float64{0.2, 0.3}, [2]float64{0.5, 0.32}),
		browser.Press(`//label[.="Words"]`),
		draw(page, [2]float64{0.6, 0.3}, [2]float64{0.6, 0.3}),
		chromedp.SendKeys(`textarea[aria-label="Typed words"]`, "checked twice"),
		browser.See(browser.Says("Kept.")),
	)
	s.accessible("Write on it")
	s.do(
		s.open(s.here()), // days later
		browser.See(page+" path"),
		browser.Press(browser.Button("Make it part of the pages")),
		browser.See(browser.Says("part of the pages.")),
		browser.Press(browser.Button("Put it in the file's place")),
		browser.See(inBundle),
		browser.Press(browser.Button("See what the checks say")),
		browser.Press(browser.Button("Look at it")),
		browser.See(`//pre[contains(., "checked twice")]`),
	)
}

// here is the path of the page.
func (s *stage) here() string {
	at, err := chromedp.Run(s.web, chromedp.Evaluate[string](`location.pathname + location.search`))
	require.NoError(s.t, err)
	return at
}

// twoTabs types the same answer in two tabs: the second does not overwrite the first.
func (s *stage) twoTabs() {
	s.do(
		s.open("/"),
		browser.Press(`//td//a[.="Sheet 6"]`),
		browser.Press(browser.Button("make one in the Workshop")),
		tool("Type"),
		browser.See(`//*[@aria-label="Your answer"][contains(., "mean")]`),
	)
	path := s.here()
	other, end := chromedp.NewContext(s.web)
	defer end()
	other, cancel := context.WithTimeout(other, 40*time.Second)
	defer cancel()
	require.NoError(s.t, chromedp.Do(other,
		chromedp.Navigate(s.url+path), browser.See(`//*[@aria-label="Your answer"][contains(., "mean")]`),
		chromedp.SendKeys(answer, " Here too."), chromedp.Sleep(300*time.Millisecond),
		browser.See(browser.Says("Kept.")), chromedp.Sleep(1500*time.Millisecond)))
	s.do(
		chromedp.SendKeys(answer, " And there."),
		browser.See(browser.Says("written on in another tab")),
		browser.Press(browser.Button("Read the other’s")),
		browser.See(`//*[@aria-label="Your answer"][contains(., "Here too.")]`),
	)
}

// cleanAndUnpack takes changes out of a document and makes a PDF of it, and unpacks a ZIP.
func (s *stage) cleanAndUnpack() {
	var packed bytes.Buffer
	z := zip.NewWriter(&packed)
	for _, name := range []string{"lab/readings.csv", "../../outside.txt"} {
		to, err := z.Create(name)
		require.NoError(s.t, err)
		_, err = to.Write([]byte("h,m\n1,2\n"))
		require.NoError(s.t, err)
	}
	require.NoError(s.t, z.Close())
	s.do(
		s.bring("draft.docx", demo.DOCX("nerea", "Draft", "Kept.", "[+ Not accepted.]")),
		choose("draft.docx"),
		tool("Clean"),
		browser.Press(browser.Button("Clean a copy")),
		browser.See(`//li[contains(., "tracked changes, accepted (1)")]`),
		browser.Press(browser.Button("Put it in the file's place")),
		browser.See(inBundle),
		choose("draft.docx"),
		tool("Convert"),
		browser.Press(browser.Button("Convert to PDF")),
		browser.See(`canvas[aria-label="Page 1 of draft.pdf"]`),
		browser.Press(browser.Button("Put it in the file's place")),
		browser.See(inBundle),
		s.bring("lab.zip", packed.Bytes()),
		choose("lab.zip"),
		tool("Unpack"),
		browser.Press(`//div/button[.="Unpack"]`),
		browser.See(`//li[contains(., "outside.txt was left out")]`),
		browser.See(`//span[contains(@class, "mono")][.="readings.csv"]`),
		browser.Press(browser.Button("Throw it away")),
		chromedp.WaitNotPresent(browser.Says("was left out")),
	)
}

// scanSearchable makes a searchable page of a photograph whose corner was drawn to where it is.
func scanSearchable(s *stage) {
	photo, err := demo.Photograph(4, 3, "Joint 4: bridle", "Stock 24 mm oak, three parts", "Shoulders square to the face")
	require.NoError(s.t, err)
	s.do(
		s.open("/"),
		browser.Press(`//td//a[.="Sheet 6"]`),
		browser.Press(browser.Button("make one in the Workshop")),
		s.bring("IMG_4714.jpg", photo),
		choose("IMG_4714.jpg"),
		tool("Scan"),
		chromedp.Focus(`circle[aria-label="Upper left corner"]`),
		chromedp.KeyEvent("\u0304"), // arrow right
		browser.Press(browser.Button("Make a page")),
		browser.See(`//li[contains(., "read in page 1")]`),
	)
	s.accessible("what was scanned")
	s.do(
		browser.Press(browser.Button("Put it in the file's place")),
		browser.See(inBundle),
	)
}

// recordAndCapture records a voice and takes a still of the screen, with what stands in for microphone and screen.
func recordAndCapture(s *stage) {
	s.do(
		s.open("/"),
		browser.Press(`//td//a[.="Piece 3, soundscape"]`),
		browser.Press(browser.Button("make one in the Workshop")),
		tool("Record"),
		browser.Press(browser.Button("Record")),
		browser.See(`//p[contains(., "0:02")]`),
		browser.Press(browser.Button("Pause")),
		browser.Press(browser.Button("Go on")),
	)
	s.accessible("Record")
	s.do(
		browser.Press(browser.Button("Stop")),
		browser.See(`audio[aria-label="What was recorded"]`),
		browser.Press(browser.Button("Put it into the bundle")),
		browser.See(`//button[contains(., "recording_")]`),
		// One that is left in the middle is not lost.
		browser.Press(browser.Button("Record")),
		browser.See(`//p[contains(., "0:04")]`),
		s.open("/"),
		browser.Press(`//td//a[.="Piece 3, soundscape"]`),
		browser.Press(browser.Button("make one in the Workshop")),
		tool("Record"),
		browser.See(`//h3[contains(., "Broke off")]`),
		browser.Press(browser.Button("Keep what there is")),
		browser.See(`//li[2]/button[contains(., "recording_")]`),
		tool("Capture"),
		browser.Press(browser.Button("Choose what is seen")),
		browser.See(`video[aria-label="What is seen now"]`),
		chromedp.Sleep(time.Second),
		browser.Press(browser.Button("Take it")),
		browser.See(`[data-testid=still] canvas`),
		browser.Press(`//label[.="Arrow"]`),
		draw(`[data-testid=still]`, [2]float64{0.3, 0.3}, [2]float64{0.5, 0.5}),
		browser.Press(`//label[.="Crop"]`),
		draw(`[data-testid=still]`, [2]float64{0.2, 0.2}, [2]float64{0.8, 0.8}),
	)
	s.accessible("Capture")
	s.do(
		browser.Press(browser.Button("Put it into the bundle")),
		browser.See(`//button[contains(., "FEL118_") and contains(., ".png")]`),
	)
}

// fromThePhone photographs a page with a second browser, which has only read the code.
func fromThePhone(s *stage) {
	s.do(
		s.open("/"),
		browser.Press(`//td//a[.="Sheet 6"]`),
		browser.Press(browser.Button("make one in the Workshop")),
		tool("Phone"),
		browser.Press(browser.Button("Show the code")),
		browser.See(`svg[aria-label^="QR code"]`),
	)
	s.accessible("Phone")
	address, err := chromedp.Run(s.web, chromedp.Evaluate[string](`document.querySelector("aside p.mono").textContent`))
	require.NoError(s.t, err)
	photo, err := demo.Photograph(5, -4, "Joint 5: mitre", "Spline of beech, 4 mm")
	require.NoError(s.t, err)
	phone := func(steps ...browser.Step) {
		ctx, end := browser.New(context.Background())
		defer end()
		ctx, cancel := context.WithTimeout(ctx, 40*time.Second)
		defer cancel()
		require.NoError(s.t, chromedp.Do(ctx, browser.Window(390, 844, false)))
		for _, step := range steps {
			require.NoError(s.t, chromedp.Do(ctx, step))
		}
	}
	phone(
		chromedp.Navigate(address),
		browser.See(`//h1[.="Sheet 6"]`),
		chromedp.SetUploadFiles(`[data-testid=camera]`, []string{s.file("IMG_0001.jpg", photo)}, chromedp.NodeReady),
		browser.See(browser.Says("is in the bundle")),
	)
	s.do(browser.See(`//button[contains(., "IMG_0001.jpg")]`)) // by itself
	phone(chromedp.Navigate(address), browser.See(browser.Says("another telephone has it")))
}

// byTheirButtons mends what the checks find by what stands beside it: changes taken out, a form, a newer version, a
// photograph, names. Photographs put together are a journey of their own.
func byTheirButtons(s *stage) {
	photo, err := demo.Photograph(6, 2, "Joint 6: lap", "Glued and pinned")
	require.NoError(s.t, err)
	row := func(name string) string {
		return `//section[@id="bundle"]//p[contains(., "` + name + `")]/ancestor::div[2]`
	}
	s.do(
		s.open("/"),
		browser.Press(`//td//a[.="Tide tables"]`),
		browser.Press(browser.Button("Take them out")),
		browser.See(browser.Says("Back to the original")),
		s.upload(s.file("tide lab FINAL2.docx", demo.DOCX("nerea", "Tide tables", "All of it anew. "+own))),
		browser.See(browser.Says("A newer version of it lies in the Library")),
		browser.Press(browser.Button("Put the newest in")),
		browser.See(browser.Says("the same file as")),
		browser.Press(`(`+row("FINAL2")+`//button[.="Take out"])[last()]`),
		chromedp.WaitNotPresent(browser.Says("the same file as")),
		browser.Press(browser.Button("Convert and rename")),
		browser.See(browser.Says("Back to the original")),
		s.upload(s.file("IMG_0600.jpg", photo)),
		browser.Press(browser.Button("Make a page of it")),
		browser.See(row("IMG_0600.pdf")+`//button[.="Back to the original"]`),
		browser.Press(`//section[@id="brief"]//button[.="Confirm"]`), // the habit that names follow
		browser.Press(browser.Button("Rename all 2")),
		chromedp.WaitNotPresent(browser.Button("Rename all 2")),
	)
	s.accessible("a bundle that was mended")
}
