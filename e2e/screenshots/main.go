// Command screenshots takes the pictures of the README from a running demo, or one picture of one page.
package main

import (
	"context"
	"flag"
	"fmt"
	"log"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/chromedp/chromedp"

	"orario/e2e/browser"
)

// A view of the demo; its path may name the assignment by its place in the list.
type view struct {
	name, path    string
	width, height int64
	dark          bool
	before        []browser.Step // once the page is there
}

func main() {
	base := flag.String("base", "http://127.0.0.1:8420", "address of the demo")
	out := flag.String("out", "docs/screenshots", "folder for the pictures")
	only := flag.String("only", "", "path of one page to take instead")
	width := flag.Int64("width", 1280, "of that page's window")
	height := flag.Int64("height", 800, "of that page's window")
	dark := flag.Bool("dark", false, "in the dark scheme")
	signedOut := flag.Bool("signed-out", false, "without signing in")
	email := flag.String("email", "", "of the account to sign in with, in place of the demo's")
	password := flag.String("password", "", "of that account")
	drag := flag.Float64("drag", 0, "pixels to drag the first slab by before")
	focus := flag.String("focus", "", "what to give the focus before, as a CSS selector")
	click := flag.String("click", "", "what to press before, as a CSS selector")
	flag.Parse()

	ctx, cancel := browser.New(context.Background())
	defer cancel()
	if err := chromedp.Do(ctx, chromedp.Navigate(*base+"/signin"), browser.See("//form")); err != nil {
		log.Fatalf("opening %s: %v", *base, err)
	}
	ctx, cancel = context.WithTimeout(ctx, 3*time.Minute)
	defer cancel()
	if !*signedOut {
		if err := signIn(ctx, *email, *password); err != nil {
			log.Fatalf("signing in: %v", err)
		}
	}
	views := mainViews
	if *only != "" {
		v := view{name: "look", path: *only, width: *width, height: *height, dark: *dark}
		if *drag != 0 {
			v.before = []browser.Step{browser.Drag("g[data-slab]", *drag), chromedp.Sleep(time.Second)}
		}
		if *focus != "" {
			v.before = []browser.Step{chromedp.Focus(*focus), chromedp.Sleep(500 * time.Millisecond)}
		}
		if *click != "" {
			v.before = []browser.Step{browser.Press(*click), chromedp.Sleep(800 * time.Millisecond)}
		}
		views = []view{v}
	}
	if err := os.MkdirAll(*out, 0o755); err != nil {
		log.Fatal(err)
	}
	for _, v := range views {
		picture, err := v.take(ctx, *base)
		if err != nil {
			log.Fatalf("%s: %v", v.name, err)
		}
		file := filepath.Join(*out, v.name+".png")
		if err := os.WriteFile(file, picture, 0o644); err != nil {
			log.Fatal(err)
		}
		fmt.Println(file)
	}
}

// signIn signs in with an account, or as the demo's student where none is given.
func signIn(ctx context.Context, email, password string) error {
	if email == "" {
		return chromedp.Do(ctx, browser.Press("form button[type=button]"), browser.See("//h1"))
	}
	return chromedp.Do(
		ctx,
		chromedp.SendKeys("input[type=email]", email),
		chromedp.SendKeys("input[type=password]", password+"\r"),
		browser.See("//h1[not(.='Sign in')]"),
		chromedp.Sleep(time.Second),
	)
}

var mainViews = []view{
	{name: "horizon", path: "/", width: 1280, height: 800},
	{name: "horizon-dark", path: "/", width: 1280, height: 800, dark: true},
	{name: "horizon-phone", path: "/", width: 390, height: 844},
	{name: "desk", path: "desk:Tide tables", width: 1280, height: 800},
	{name: "desk-phone", path: "desk:Joint drawings", width: 390, height: 844},
	{name: "own-check", path: "check:Tide tables", width: 1280, height: 800},
	{name: "reading-room", path: "reading:Racconto breve", width: 1280, height: 800},
	{name: "ledger", path: "/ledger", width: 1280, height: 800},
	{name: "receipt", path: "receipt", width: 1280, height: 800},
	{name: "library", path: "/library", width: 1280, height: 800},
	{name: "version", path: "version", width: 1280, height: 800},
	{name: "courses", path: "/courses", width: 1280, height: 800},
	{name: "account", path: "/account", width: 1280, height: 800},
	{name: "plan", path: "/plan", width: 1280, height: 800},
	{name: "week", path: "/week", width: 1280, height: 800},
	{
		name:   "add",
		path:   "/add",
		width:  1280,
		height: 800,
		before: []browser.Step{
			chromedp.SendKeys("input[required]", "lab 5 HYD 18 Dec 23:59 20p pdf ~3h"),
			chromedp.Sleep(700 * time.Millisecond),
		},
	},
	{name: "change", path: "change:Log of lights", width: 1280, height: 800},
	{
		name: "workshop", path: "desk:Joint drawings", width: 1280, height: 800,
		before: []browser.Step{
			browser.Press(browser.Button("make one in the Workshop")),
			browser.Press(browser.Button("Choose all")),
			browser.Press(`//button[b[.="Scan"]]`),
			browser.See(`svg circle`),
			chromedp.Sleep(500 * time.Millisecond),
		},
	},
	{
		name:   "tried",
		path:   "/",
		width:  1280,
		height: 800,
		before: []browser.Step{browser.Drag("g[data-slab]", 120), chromedp.Sleep(time.Second)},
	},
}

// follow goes where a link leads.
func follow(base, link string) browser.Step {
	return chromedp.Func(func(ctx context.Context, _ *chromedp.Target) error {
		to, err := chromedp.Run(ctx, chromedp.AttributeValue(link, "href"))
		if err != nil {
			return err
		}
		return chromedp.Do(ctx, chromedp.Navigate(base+to.Value))
	})
}

func (v view) take(ctx context.Context, base string) ([]byte, error) {
	steps := []browser.Step{browser.Window(v.width, v.height, v.dark)}
	do := func(more ...browser.Step) { steps = append(steps, more...) }
	settle := chromedp.Sleep(900 * time.Millisecond)
	kind, title, _ := strings.Cut(v.path, ":")
	switch kind {
	case "desk", "reading", "check":
		do(
			chromedp.Navigate(base+"/"),
			browser.See("//h1"),
			browser.Press(`//td//a[.="`+title+`"]`),
			browser.See("#brief"),
			settle,
		)
		if kind == "reading" {
			do(
				follow(base, browser.Button("Open the reading room")),
				browser.See(`//span[starts-with(@id,"passage-")]`),
			)
		}
		if kind == "check" {
			do(
				follow(base, `//section[@id="compare"]//a[.="Read it"]`),
				browser.See(`//span[starts-with(@id,"passage-")]`),
			)
		}
	case "change":
		do(
			chromedp.Navigate(base+"/"),
			browser.See("//h1"),
			browser.Press(`//td//a[.="`+title+`"]`),
			browser.Press(browser.Button("Change the brief")),
			browser.See("//mark"),
		)
	case "version":
		file := `//main//a[starts-with(@href, "/library/")]`
		do(chromedp.Navigate(base+"/library"), browser.See(file), follow(base, file), browser.See("//h2"))
	case "receipt":
		do(chromedp.Navigate(base+"/ledger"), browser.See("//ol//a"), follow(base, "//ol//a"), browser.See("//article"))
	default:
		do(chromedp.Navigate(base+v.path), browser.See("//h1"))
	}
	do(settle)
	do(v.before...)
	if err := chromedp.Do(ctx, steps...); err != nil {
		return nil, err
	}
	return chromedp.Run(ctx, chromedp.CaptureScreenshot())
}
