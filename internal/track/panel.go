package track

import (
	"fmt"
	"strings"
	"time"

	"orario/core/timing"
	"orario/core/wording"
)

func (t *tracked) dueText() string {
	left := t.line.Due.Sub(t.Now)
	text := "due, in " + wording.Span(left)
	if left < 0 {
		text = "was due " + wording.Span(-left) + " ago"
	}
	switch {
	case t.line.HardStop:
		return text + " · nothing is taken late"
	case t.line.Closes != nil:
		return text + " · late " + t.line.Price + " until " + t.local(*t.line.Closes)
	}
	return text + " · late " + t.line.Price
}

// sum writes how send-by comes about; the larger of margin and need counts.
func (t *tracked) sum() []string {
	minutes := map[string]time.Duration{}
	for _, c := range t.Because {
		minutes[c.Part] = time.Duration(c.Minutes) * time.Minute
	}
	lines := []string{t.local(t.line.Due) + " due"}
	need := minutes["transfer"] + minutes["report"] + minutes["fix"]
	if minutes["margin"] >= need {
		lines = append(lines, "− "+wording.Span(minutes["margin"])+" your margin")
		if need > 0 {
			lines = append(lines, "("+wording.Span(need)+" would do: "+t.needs(minutes)+")")
		}
	} else {
		if minutes["report"] > 0 {
			lines = append(lines, "− "+wording.Span(minutes["report"])+" for a report", "− "+wording.Span(minutes["fix"])+" to correct after it")
		}
		lines = append(lines, "− "+wording.Span(minutes["transfer"])+" to send twice if need be")
	}
	if t.Crowded {
		lines = append(lines, "The hour is crowded, so sending is reckoned slow.")
	}
	return lines
}

func (t *tracked) needs(minutes map[string]time.Duration) string {
	var parts []string
	if minutes["report"] > 0 {
		parts = append(parts, "a report "+wording.Span(minutes["report"]), "correcting "+wording.Span(minutes["fix"]))
	}
	return strings.Join(append(parts, "sending "+wording.Span(minutes["transfer"])), ", ")
}

func (t *tracked) submitPanel() SubmitPanel {
	p := SubmitPanel{Button: "Submit", Declaration: t.Sheet.Declaration}
	n := len(t.Items)
	files := fmt.Sprintf("%d files", n)
	if n == 1 {
		files = "1 file"
	}
	if !t.bySite() {
		p.Button = "Note it as sent"
		p.Sentence = "No connected site takes this one: send it as the instructions say, then note here when you did."
		if n > 0 {
			p.Sentence = fmt.Sprintf("Orario has %s ready for you to download under the names above. Send them as the instructions say, then note here when you did.", files)
		}
		if t.NotedSent() {
			p.Sentence = fmt.Sprintf("You noted it as sent %s. Nothing shows it yet.", t.local(*t.Noted.At))
		}
		return p
	}
	if may, why := t.MayGoOn(); !may {
		p.Shut, p.Sentence = true, "Nothing more can be sent: "+why+"."
		return p
	}
	if t.Sending {
		p.Shut, p.Sentence = true, "It is on its way."
		return p
	}
	of := ""
	if most := t.Sheet.Attempts.Max; most > 0 {
		of = fmt.Sprintf(" of %d", most)
	}
	if n == 0 {
		p.Sentence = fmt.Sprintf("Nothing is in the bundle yet. It will go to the %s as attempt %d%s.", t.Site.Name, t.Attempt, of)
		return p
	}
	left := t.line.Due.Sub(t.Now)
	when := wording.Span(left) + " before due"
	if left < 0 {
		cost := t.Window.Cost(t.Now, t.Late, t.Assignment.Points, t.Assignment.Points)
		when = fmt.Sprintf("%s after due, which costs up to %g points", wording.Span(-left), cost)
	}
	verb := "go"
	if n == 1 {
		verb = "goes"
	}
	p.Sentence = fmt.Sprintf("%s %s to the %s as attempt %d%s, %s.", strings.ToUpper(files[:1])+files[1:], verb, t.Site.Name, t.Attempt, of, when)
	p.Button = fmt.Sprintf("Submit %s to %s", files, t.Course.Code)
	if must := t.line.MustFix; must == 1 {
		p.Sentence += " One thing must be fixed first."
	} else if must > 1 {
		p.Sentence += fmt.Sprintf(" %d things must be fixed first.", must)
	} else {
		p.Ready = true
		if state, _ := t.Window.At(t.Now, t.Late); state == timing.NotOpen {
			p.Ready = false
		}
	}
	return p
}
