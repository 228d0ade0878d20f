// Package browser drives headless Chromium for the journeys and the pictures.
package browser

import (
	"context"
	"strings"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
)

// A Step is something that is done in the browser.
type Step = chromedp.Action[chromedp.Void]

// New starts a browser with an empty profile; cancel ends it.
func New(parent context.Context) (context.Context, context.CancelFunc) {
	options := append(
		chromedp.DefaultExecAllocatorOptions[:],
		chromedp.NoSandbox,
		chromedp.NoFirstRun,
		chromedp.Flag("disable-background-networking", true),
		chromedp.Flag("disable-component-update", true),
		chromedp.Flag("disable-sync", true),
		// What stands in for camera, microphone and screen, and a person who allows it.
		chromedp.Flag("use-fake-device-for-media-stream", true),
		chromedp.Flag("use-fake-ui-for-media-stream", true),
	)
	allocator, end := chromedp.NewExecAllocator(parent, options...)
	ctx, cancel := chromedp.NewContext(allocator)
	return ctx, func() { cancel(); end() }
}

// Window sets the size of the page, and the scheme that the system asks for.
func Window(width, height int64, dark bool) Step {
	return chromedp.Func(func(ctx context.Context, _ *chromedp.Target) error {
		_, err := chromedp.Call(ctx, emulation.SetDeviceMetricsOverride, emulation.SetDeviceMetricsOverrideParams{
			Width: width, Height: height, DeviceScaleFactor: 1, Mobile: width < 700,
		})
		if err != nil {
			return err
		}
		scheme := "light"
		if dark {
			scheme = "dark"
		}
		_, err = chromedp.Call(
			ctx,
			emulation.SetEmulatedMedia,
			emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{
				{Name: "prefers-color-scheme", Value: scheme}, {Name: "prefers-reduced-motion", Value: "reduce"},
			}},
		)
		return err
	})
}

// See waits until a selector finds something visible: XPath, or CSS that is no plain word, since a plain
// word is looked for in the text, too.
func See(selector string) Step { return chromedp.WaitVisible(selector) }

// Press clicks what a selector finds, once it is visible. What is drawn anew between finding and clicking it is
// looked for again.
func Press(selector string) Step {
	return chromedp.Func(func(ctx context.Context, _ *chromedp.Target) (err error) {
		for range 3 {
			err = chromedp.Do(ctx, chromedp.ScrollIntoView(selector), chromedp.Click(selector, chromedp.NodeVisible))
			if err == nil || !strings.Contains(err.Error(), "Could not find node") {
				break
			}
		}
		return err
	})
}

// PressUntil presses, again every few seconds as a person would, until what is to come of it is there: a click is lost
// where the page moves under it, or a message lies over the button for a moment.
func PressUntil(selector, then string) Step { return until(Press(selector), then) }

// DragUntil drags, again as [PressUntil] presses.
func DragUntil(selector string, by float64, then string) Step { return until(Drag(selector, by), then) }

func until(act Step, then string) Step {
	return chromedp.Func(func(ctx context.Context, _ *chromedp.Target) (err error) {
		for range 5 {
			if err = chromedp.Do(ctx, act); err != nil {
				return err
			}
			wait, stop := context.WithTimeout(ctx, 6*time.Second)
			err = chromedp.Do(wait, See(then))
			stop()
			if err == nil {
				return nil
			}
		}
		return err
	})
}

// Button is the selector of a button or link with exactly that text.
func Button(text string) string {
	return `//*[(self::button or self::a) and normalize-space(.)="` + text + `"]`
}

// Says is the selector of an element whose own text holds some words.
func Says(words string) string { return `//*[text()[contains(., "` + words + `")]]` }

// Swipe moves one finger sideways over what a CSS selector finds.
func Swipe(selector string, by float64) Step {
	return chromedp.Func(func(ctx context.Context, _ *chromedp.Target) error {
		if _, err := chromedp.Call(
			ctx,
			emulation.SetTouchEmulationEnabled,
			emulation.SetTouchEmulationEnabledParams{Enabled: true},
		); err != nil {
			return err
		}
		at, err := middle(ctx, selector)
		if err != nil {
			return err
		}
		touch := func(kind input.DispatchTouchEventType, points ...*input.TouchPoint) error {
			_, err := chromedp.Call(
				ctx,
				input.DispatchTouchEvent,
				input.DispatchTouchEventParams{Type: kind, TouchPoints: points},
			)
			return err
		}
		err = touch(input.DispatchTouchEventTypeTouchStart, &input.TouchPoint{X: at[0], Y: at[1]})
		for n := 1.0; n <= 5 && err == nil; n++ {
			err = touch(input.DispatchTouchEventTypeTouchMove, &input.TouchPoint{X: at[0] + by*n/5, Y: at[1]})
		}
		if err == nil {
			err = touch(input.DispatchTouchEventTypeTouchEnd)
		}
		if err != nil {
			return err
		}
		_, err = chromedp.Call(
			ctx,
			emulation.SetTouchEmulationEnabled,
			emulation.SetTouchEmulationEnabledParams{Enabled: false},
		)
		return err
	})
}

// middle is the point in the middle of what a CSS selector finds.
func middle(ctx context.Context, selector string) ([]float64, error) {
	return chromedp.Run(
		ctx,
		chromedp.Evaluate[[]float64](
			`(() => { const at = document.querySelector("`+selector+`"); at.scrollIntoView({ block: "center" });
			const b = at.getBoundingClientRect(); return [b.left + b.width / 2, b.top + b.height / 2]; })()`,
		),
	)
}

// Drop lets go of files and folders, as a file manager does, over what a CSS selector finds.
func Drop(selector string, paths ...string) Step {
	return chromedp.Func(func(ctx context.Context, _ *chromedp.Target) error {
		at, err := middle(ctx, selector)
		if err != nil {
			return err
		}
		data := &input.DragData{Files: paths, Items: []*input.DragDataItem{}, DragOperationsMask: 1} // copy
		for _, kind := range []input.DispatchDragEventType{
			input.DispatchDragEventTypeDragEnter, input.DispatchDragEventTypeDragOver, input.DispatchDragEventTypeDrop,
		} {
			_, err := chromedp.Call(ctx, input.DispatchDragEvent, input.DispatchDragEventParams{
				Type: kind, X: at[0], Y: at[1], Data: data,
			})
			if err != nil {
				return err
			}
		}
		return nil
	})
}

// Drag takes what a CSS selector finds by its middle and lets go of it some pixels to the side.
func Drag(selector string, by float64) Step {
	return chromedp.Func(func(ctx context.Context, _ *chromedp.Target) error {
		at, err := middle(ctx, selector)
		if err != nil {
			return err
		}
		return chromedp.Do(ctx, chromedp.DragAndDropXY(at[0], at[1], at[0]+by, at[1]))
	})
}
