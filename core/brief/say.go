package brief

import (
	"cmp"
	"fmt"
	"strings"
	"time"

	"orario/core/brief/prose"
	"orario/core/timing"
	"orario/core/wording"
)

// Forms writes forms of files to choose from: "PDF or DOCX".
func Forms(list []string) string {
	names := make([]string, len(list))
	for i, form := range list {
		names[i] = strings.ToUpper(form)
	}
	return strings.Join(names, " or ")
}

// Say writes a found requirement as the brief shows it.
func Say(i prose.Item) (label, text string) {
	k := kindOf(i.Kind)
	return cmp.Or(k.said, k.Name), k.value.say(i)
}

func place(zone string) string {
	return strings.ReplaceAll(zone[strings.LastIndexByte(zone, '/')+1:], "_", " ")
}

func sayLate(v prose.Late) string {
	of := map[string]string{"earned": "% of what was earned", "possible": "%", "points": " points"}[v.Of]
	text := "nothing is taken late"
	percent := 0.0
	if v.Percent != nil {
		percent = *v.Percent
	}
	switch v.Kind {
	case timing.Fixed:
		text = fmt.Sprintf("−%g%s", percent, of)
	case timing.PerDay:
		text = fmt.Sprintf("−%g%s a day", percent, of)
	case timing.PerHours:
		text = fmt.Sprintf("−%g%s per %g h", percent, of, v.Hours)
	case timing.Steps:
		var parts []string
		for _, s := range v.Steps {
			parts = append(
				parts,
				fmt.Sprintf("−%g%s from %s on", s.Percent, of, wording.Span(time.Duration(s.AfterMinutes)*time.Minute)),
			)
		}
		text = strings.Join(parts, ", ")
	}
	if v.Cap != nil {
		text += fmt.Sprintf(", at most %g%s", *v.Cap, map[bool]string{true: " points", false: "%"}[v.Of == "points"])
	}
	if v.Floor > 0 {
		text += fmt.Sprintf(", never below %g points", v.Floor)
	}
	if v.WeekendsFree {
		text += ", weekends free"
	}
	return text
}

func sayStyle(v prose.Style) string {
	var parts []string
	if v.Spacing > 0 {
		parts = append(parts, fmt.Sprintf("spacing %g", v.Spacing))
	}
	if v.Font != "" {
		parts = append(parts, v.Font)
	}
	if v.Size > 0 {
		parts = append(parts, fmt.Sprintf("%g pt", v.Size))
	}
	if v.Citations != "" {
		parts = append(parts, v.Citations+" citations")
	}
	return strings.Join(parts, ", ")
}

// wall is a wall time as a person writes it; other words stay.
func wall(s string) string {
	at, err := time.Parse("2006-01-02T15:04", s)
	if err != nil {
		return s
	}
	return at.Format("Mon 2 Jan 2006 15:04")
}
