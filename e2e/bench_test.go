package e2e

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"orario/e2e/browser"
)

// BenchmarkDragging8x40 moves the Horizon of 8 courses and 320 assignments under the pointer, at every frame a
// bit, and says how many frames a second were drawn. The demo's own courses stand beside them.
func BenchmarkDragging8x40(b *testing.B) {
	s := raise(b)
	rows := []string{"title,course,due,opens,points"}
	for course := range 8 {
		for n := range 40 {
			due := time.Now().Add(time.Duration(n*57+course*5-200) * time.Hour)
			rows = append(
				rows,
				fmt.Sprintf(
					"Work %d,CRS %d,%s,%s,20",
					n,
					course,
					due.Format("2006-01-02T15:04"),
					due.AddDate(0, 0, -8).Format("2006-01-02T15:04"),
				),
			)
		}
	}
	s.do(
		s.open("/signin"),
		browser.Press(browser.Button("Look around as Nerea Quintal")),
		browser.See("//h1"),
		s.open("/calendars"),
		chromedp.SetUploadFiles(
			`[data-testid=calendar]`,
			[]string{s.file("all.csv", []byte(strings.Join(rows, "\n")))},
			chromedp.NodeReady,
		),
		browser.Press(
			`//button[starts-with(., "Take over")]`,
		),
		browser.See(browser.Says("Taken over")),
		s.open("/"),
		browser.See("g[data-slab]"),
	)
	const move = `new Promise(done => {
		const svg = document.querySelector("[aria-label='Assignments over time']"), box = svg.getBoundingClientRect(), gaps = [];
		const fire = (type, x) => svg.dispatchEvent(new PointerEvent(type, { bubbles: true, pointerId: 7, clientX: x, clientY: box.top + 60, buttons: 1 }));
		svg.setPointerCapture = () => {};
		let n = 0, last = performance.now();
		fire("pointerdown", box.left + 400);
		const frame = now => {
			if (n > 0) gaps.push(now - last);
			last = now;
			fire("pointermove", box.left + 400 + 300 * Math.sin(n / 20));
			if (++n < 180) requestAnimationFrame(frame);
			else { fire("pointerup", box.left + 400); gaps.sort((a, b) => a - b); done([1000 * gaps.length / gaps.reduce((a, b) => a + b, 0), gaps[Math.floor(gaps.length * 0.95)]]); }
		};
		requestAnimationFrame(frame);
	})`
	for range b.N {
		ctx, cancel := context.WithTimeout(s.web, 60*time.Second)
		got, err := chromedp.Run(ctx, chromedp.Evaluate[[]float64](move, chromedp.EvalAwaitPromise))
		cancel()
		require.NoError(b, err)
		b.ReportMetric(got[0], "frames/s")
		b.ReportMetric(got[1], "ms/frame-p95")
	}
}
