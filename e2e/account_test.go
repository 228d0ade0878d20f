package e2e

import (
	"archive/zip"
	"bytes"
	"encoding/base64"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/demo"
	"orario/e2e/browser"
)

// accountAndFiles changes the password, takes everything out, removes a file that was never sent, and, with a mailed
// link, sets the password anew.
func accountAndFiles(s *stage) {
	const fresh = "a-longer-tide-table"
	s.do(
		chromedp.EmulateViewport(1280, 800),
		s.open("/account"),
		browser.See(`//h2[.="Signed in"]`),
		browser.See(browser.Says("this one")),
	)
	s.accessible("account")
	s.do(
		chromedp.SendKeys(`//label[contains(., "As it is")]/following::input[1]`, "not this one"),
		chromedp.SendKeys(`//label[contains(., "The new one")]/following::input[1]`, fresh),
		browser.Press(browser.Button("Change it")),
		browser.See(browser.Says("This is not your password")),
		s.open("/account"),
		chromedp.SendKeys(`//label[contains(., "As it is")]/following::input[1]`, demo.Nerea.Password),
		chromedp.SendKeys(`//label[contains(., "The new one")]/following::input[1]`, fresh),
		browser.Press(browser.Button("Change it")),
		browser.See(browser.Says("Your password is changed")),
	)
	encoded, err := chromedp.Run(s.web, chromedp.Evaluate[string](`fetch("/api/export").then((a) => a.blob()).then(
		(b) => new Promise((done) => { const r = new FileReader();
			r.onload = () => done(r.result.split(",")[1]); r.readAsDataURL(b); }))`, chromedp.EvalAwaitPromise))
	require.NoError(s.t, err)
	data, err := base64.StdEncoding.DecodeString(encoded)
	require.NoError(s.t, err)
	out, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(s.t, err)
	assert.Greater(s.t, len(out.File), 30)

	s.do(
		s.open("/library"),
		browser.See(browser.Says("are used")),
		browser.Press(`//section//ul/li[contains(., "counts.csv")]//a`), // it was taken out of its bundle
		browser.Press(browser.Button("Remove for good")),
		browser.See(browser.Says("can not be had back")),
		browser.Press(browser.Button("Keep it")),
	)
	s.accessible("a file")

	s.do(
		s.open("/signin"),
		browser.Press(`//a[.="Forgotten the password?"]`),
		chromedp.SendKeys(`input[type=email]`, demo.Nerea.Email),
		browser.Press(browser.Button("Mail me a link")),
		browser.See(browser.Says("a link is on its way")),
		s.open("/reset#NOLONGERGOOD"),
		chromedp.SendKeys(`input[type=password]`, fresh),
		browser.Press(browser.Button("Set it")),
		browser.See(browser.Says("not good any more")),
	)
	s.accessible("a new password")
}
