package brief

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/brief/prose"
)

// An Ask is one requirement of the student's own brief: read in the instructions, or as she wrote it.
type Ask struct {
	Item    prose.Item `json:"item"`
	Thing   string     `json:"thing"` // what it is said of: a slot or a part; empty: everything
	From    string     `json:"from"`
	Settled bool       `json:"settled"`
}

// Yours is a requirement that the student says herself; nothing about it is in doubt.
func Yours(kind string, value any) Ask {
	return Ask{Item: prose.Item{Kind: kind, Value: value, Sure: 1}, From: FromYou, Settled: true}
}

// Said writes it as the brief shows it.
func (a Ask) Said() (label, text string) {
	label, text = Say(a.Item)
	if a.Thing != "" {
		text = a.Thing + ": " + text
	}
	return label, text
}

// Asked makes a brief of what was read; nothing in it is settled. What is said of a thing that is no slot of
// its own holds for everything; times keep the name of their part.
func Asked(r prose.Reading) []Ask {
	var slots []string
	for _, i := range r.Found {
		if names, ok := i.Value.([]string); ok && i.Kind == "slots" {
			slots = append(slots, names...)
		}
	}
	list := []Ask{}
	for _, i := range r.Found {
		a := Ask{Item: i, Thing: i.Part, From: FromText}
		if i.Part == "" && IsTime(i.Kind) ||
			slices.ContainsFunc(slots, func(slot string) bool { return strings.Contains(slot, i.Thing) }) {
			a.Thing = i.Thing
		}
		list = append(list, a)
	}
	return list
}

// Singly says whether a requirement is confirmed by itself and not together with others: a time when something is due,
// begins or ends, since a wrong one costs most; and what another one of its kind and thing contradicts.
func Singly(a Ask, all []Ask) bool {
	_, text := a.Said()
	return IsTime(a.Item.Kind) || slices.ContainsFunc(all, func(o Ask) bool {
		_, other := o.Said()
		return o.Item.Kind == a.Item.Kind && o.Thing == a.Thing && other != text
	})
}

// FillAsked is [Fill] of a brief.
func FillAsked(asks []Ask) Filled {
	var items []prose.Item
	for _, a := range asks {
		i := a.Item
		i.Thing = a.Thing
		items = append(items, i)
	}
	return Fill(items)
}

// Reread understands a requirement of a kind as the student writes it, short or in a sentence; with an
// empty kind the first that is found, a bare time being due. The span is that of the words.
func Reread(kind, words string, now time.Time) (prose.Item, error) {
	words = strings.TrimSpace(words)
	if kind == "name" && strings.Contains(words, "{") {
		return prose.Item{Kind: kind, Value: words, Sure: 1}, nil
	}
	tries, of := []string{words}, kindOf(cmp.Or(kind, "due"))
	for _, l := range of.leads {
		tries = append(tries, l+words, l+words+of.tail)
	}
	var question string
	for _, try := range tries {
		r := prose.Read(try+".", now)
		for _, i := range r.Found {
			if IsTime(kind) && IsTime(i.Kind) {
				i.Kind = kind // a time is the same however it is called
			}
			if i.Kind == kind || kind == "" {
				i.Start, i.End, i.Sure = 0, 0, 1
				return i, nil
			}
		}
		if len(r.Unsettled) > 0 && question == "" {
			question = r.Unsettled[0].Question
		}
	}
	if question != "" {
		return prose.Item{}, fmt.Errorf("“%s” is not settled yet: %s", words, question)
	}
	label, _ := Say(prose.Item{Kind: kind})
	return prose.Item{}, fmt.Errorf(
		"“%s” could not be read as %s; write it as instructions would, such as “%s”",
		words,
		orText(label, "a requirement"),
		cmp.Or(kindOf(kind).Example, "at most 10 MB"),
	)
}

// IsTime says whether requirements of a kind are times of a window.
func IsTime(kind string) bool { return kind == "due" || kind == "opens" || kind == "closes" }
