package browser

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"

	"github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
)

// Complaints are what pages write into the console as errors: exceptions, answers of 400 and above, and what scripts
// say.
type Complaints struct {
	mu   sync.Mutex
	list []string
}

// Listen collects the complaints of a browser's page.
func Listen(ctx context.Context) (*Complaints, error) {
	c := &Complaints{}
	return c, chromedp.Listen(ctx, func(ev any) {
		switch e := ev.(type) {
		case *log.EventEntryAdded:
			if e.Entry.Level == log.EntryLevelError {
				c.add(e.Entry.Text + " " + e.Entry.URL)
			}
		case *runtime.EventExceptionThrown:
			text := e.ExceptionDetails.Text
			if x := e.ExceptionDetails.Exception; x != nil {
				text += " " + x.Description
			}
			c.add(text)
		case *runtime.EventConsoleAPICalled:
			if e.Type == runtime.ConsoleAPICalledTypeError {
				var said []string
				for _, a := range e.Args {
					said = append(said, strings.TrimSpace(fmt.Sprint(string(a.Value), " ", a.Description)))
				}
				c.add(strings.Join(said, " "))
			}
		}
	})
}

func (c *Complaints) add(text string) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.list = append(c.list, text)
}

// But gives the complaints that hold none of some words, and forgets all.
func (c *Complaints) But(provoked ...string) []string {
	c.mu.Lock()
	defer c.mu.Unlock()
	list := slices.DeleteFunc(c.list, func(text string) bool {
		return slices.ContainsFunc(provoked, func(words string) bool { return strings.Contains(text, words) })
	})
	c.list = nil
	return list
}
