package desk

import (
	"fmt"
	"strings"
	"time"

	"orario/core/agenda"
	"orario/core/coursework"
	"orario/core/wording"
)

// Submit says what pressing Submit will do.
type Submit struct {
	Sentence    string `json:"sentence"`
	Button      string `json:"button"`
	Ready       bool   `json:"ready"`
	Why         string `json:"why"`  // it is not ready, beside the button
	Shut        bool   `json:"shut"` // nothing can be sent here any more
	Declaration string `json:"declaration"`
	Mark        string `json:"mark"` // of the bundle as it is shown
}

func dueText(e *agenda.Entry) string {
	left := e.Window.Due.At().Sub(e.Now)
	text := "due, in " + wording.Span(left)
	if left < 0 {
		text = "was due " + wording.Span(-left) + " ago"
	}
	price := coursework.Price(e.Late)
	switch closes := e.Window.Closes; {
	case price == coursework.NothingLate:
		return text + " · " + price
	case closes != nil:
		return text + " · late " + price + " until " + e.Local(closes.At())
	}
	return text + " · late " + price
}

// sum writes how send-by comes about; the larger of margin and need counts. There is none where nothing more can be
// sent.
func sum(e *agenda.Entry) []string {
	_, sent := e.Part.Last()
	if may, _ := e.MayGoOn(); !may || e.Part.Noted != nil || sent && !e.Preparing() {
		return []string{}
	}
	minutes := map[string]time.Duration{}
	for _, c := range e.Because {
		minutes[c.Part] = time.Duration(c.Minutes) * time.Minute
	}
	less := func(d time.Duration, what string) string { return "− " + wording.Span(d) + " " + what }
	lines := []string{e.Local(e.Window.Due.At()) + " due"}
	need := minutes["transfer"] + minutes["report"] + minutes["fix"]
	if minutes["margin"] >= need {
		lines = append(lines, less(minutes["margin"], "your margin"))
		if need > 0 {
			lines = append(lines, "("+wording.Span(need)+" would do: "+needs(minutes)+")")
		}
	} else {
		if minutes["report"] > 0 {
			lines = append(lines, less(minutes["report"], "for a report"), less(minutes["fix"], "to correct after it"))
		}
		lines = append(lines, less(minutes["transfer"], "to send twice if need be"))
	}
	if e.Crowded {
		lines = append(lines, "The hour is crowded, so sending is reckoned slow.")
	}
	return lines
}

func needs(minutes map[string]time.Duration) string {
	var parts []string
	if minutes["report"] > 0 {
		parts = append(parts, "a report "+wording.Span(minutes["report"]), "correcting "+wording.Span(minutes["fix"]))
	}
	return strings.Join(append(parts, "sending "+wording.Span(minutes["transfer"])), ", ")
}

func submit(e *agenda.Entry) Submit {
	if !e.BySite() {
		return noteInstead(e)
	}
	p := Submit{Button: "Submit", Declaration: e.Sheet.Declaration, Mark: e.Mark()}
	if may, why := e.MayGoOn(); !may {
		p.Shut, p.Sentence = true, "Nothing more can be sent: "+why+"."
		return p
	}
	if e.Sending {
		p.Shut, p.Sentence = true, "It is on its way."
		return p
	}
	of, n := "", len(e.Items)
	if most := e.Sheet.Attempts.Max; most > 0 {
		of = fmt.Sprintf(" of %d", most)
	}
	if n == 0 {
		p.Sentence = fmt.Sprintf(
			"Nothing is in the bundle yet. It will go to the %s as attempt %d%s.",
			e.Course.Site.Name,
			e.Number,
			of,
		)
		p.Why = "Add a file first."
		return p
	}
	files, verb := wording.Count(n, "file", "files"), "go"
	if n == 1 {
		verb = "goes"
	}
	p.Sentence = fmt.Sprintf(
		"%s %s to the %s as attempt %d%s, %s.",
		files,
		verb,
		e.Course.Site.Name,
		e.Number,
		of,
		when(e),
	)
	p.Button = fmt.Sprintf("Submit %s to %s", files, e.Course.Code)
	p.Why = e.MaySend(true)
	p.Ready = p.Why == ""
	return p
}

// when is how far from due it would go out.
func when(e *agenda.Entry) string {
	left := e.Window.Due.At().Sub(e.Now)
	if left >= 0 {
		return beforeOrAfter(left)
	}
	cost := e.Window.Cost(e.Now, e.Late, e.Points, e.Points)
	return fmt.Sprintf("%s, which costs up to %g points", beforeOrAfter(left), cost)
}

// noteInstead: no connected site takes it, so the student sends it and notes that she did.
func noteInstead(e *agenda.Entry) Submit {
	p := Submit{
		Button:      "Note it as sent",
		Declaration: e.Sheet.Declaration,
		Sentence:    "No connected site takes this one: send it as the instructions say, then note here when you did.",
	}
	if n := len(e.Items); n > 0 {
		p.Sentence = fmt.Sprintf(
			"Orario has %s ready for you to download under the names above. "+
				"Send them as the instructions say, then note here when you did.",
			wording.Count(n, "file", "files"),
		)
	}
	if e.Part.Noted != nil {
		p.Sentence = fmt.Sprintf("You noted it as sent %s. Nothing shows it yet.", e.Local(e.Part.Noted.At))
	}
	return p
}
