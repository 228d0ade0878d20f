package brief

import (
	"fmt"
	"slices"
	"strings"

	"orario/core/brief/prose"
	"orario/core/timing"
)

// A Filled is what instructions that were read say about an assignment.
type Filled struct {
	Sheet  Sheet
	Parts  []Part // by due time; none: there is no due time
	Grace  int    // minutes
	Late   *timing.Rule
	Points float64
}

// A Part of an assignment has a window of its own: wall times, of which Opens and Closes may be empty. The name is
// empty where there is only one; of several no two have the same. Slots are there where something is asked of the
// part alone.
type Part struct {
	Name, Opens, Due, Closes string
	Slots                    []Slot
}

// Fill makes a sheet of what was found. Requirements of one thing go to the part or the slot of that name; the rest
// hold for every slot.
func Fill(items []prose.Item) Filled {
	f := Filled{Sheet: Sheet{Slots: []Slot{}}}
	parts := partNames(items)
	ofParts := func(i prose.Item) bool { return !IsTime(i.Kind) && slices.Contains(parts, i.Thing) }
	for _, i := range items {
		if names, ok := i.Value.([]string); ok && i.Kind == "slots" && !ofParts(i) {
			f.Sheet.Slots = append(f.Sheet.Slots, named(names)...)
		}
	}
	if len(f.Sheet.Slots) == 0 {
		f.Sheet.Slots = named([]string{"work"})
	}
	for _, i := range items {
		if !ofParts(i) {
			f.take(i)
		}
	}
	for _, i := range items {
		f.bound(i)
	}
	slices.SortStableFunc(f.Parts, func(a, b Part) int { return strings.Compare(a.Due, b.Due) })
	f.tellApart()
	for n := range f.Parts {
		of := func(i prose.Item) bool { return !ofParts(i) || i.Thing != f.Parts[n].Name }
		f.Parts[n].Slots = f.slotsOf(slices.DeleteFunc(slices.Clone(items), of))
	}
	return f
}

// partNames are the things that have a due time of their own, where there are several.
func partNames(items []prose.Item) (names []string) {
	dues := 0
	for _, i := range items {
		if i.Kind == "due" {
			dues++
			if i.Thing != "" {
				names = append(names, i.Thing)
			}
		}
	}
	if dues < 2 {
		return nil
	}
	return names
}

func named(names []string) (slots []Slot) {
	for _, name := range names {
		slots = append(slots, Slot{Name: name, Required: true})
	}
	return slots
}

// tellApart gives several parts names of which no two are the same.
func (f *Filled) tellApart() {
	if len(f.Parts) < 2 {
		return
	}
	seen := map[string]bool{}
	for n := range f.Parts {
		p := &f.Parts[n]
		if p.Name == "" || seen[p.Name] {
			p.Name = strings.TrimSpace(fmt.Sprintf("%s part %d", p.Name, n+1))
		}
		seen[p.Name] = true
	}
}

// slotsOf are the slots of a part of which something is asked alone; none where nothing is.
func (f *Filled) slotsOf(items []prose.Item) []Slot {
	if len(items) == 0 {
		return nil
	}
	of := Filled{Sheet: Sheet{Slots: slices.Clone(f.Sheet.Slots)}}
	for _, i := range items {
		if names, ok := i.Value.([]string); ok && i.Kind == "slots" {
			of.Sheet.Slots = named(names)
		}
	}
	for _, i := range items {
		i.Thing = ""
		of.take(i)
	}
	return of.Sheet.Slots
}

// bound gives the parts their opens and closes: that of their own name, else the one for all.
func (f *Filled) bound(i prose.Item) {
	at, ok := i.Value.(string)
	if !ok || i.Kind != "opens" && i.Kind != "closes" {
		return
	}
	named := i.Thing != "" && slices.ContainsFunc(f.Parts, func(p Part) bool { return p.Name == i.Thing })
	for n := range f.Parts {
		p := &f.Parts[n]
		switch {
		case named && p.Name != i.Thing:
		case i.Kind == "opens" && (named || p.Opens == ""):
			p.Opens = at
		case i.Kind == "closes" && (named || p.Closes == ""):
			p.Closes = at
		}
	}
}

func (f *Filled) take(i prose.Item) { kindOf(i.Kind).value.take(f, i) }

func lateRule(v prose.Late) *timing.Rule {
	rule := &timing.Rule{
		Kind:         v.Kind,
		Of:           v.Of,
		Hours:        v.Hours,
		Steps:        v.Steps,
		Cap:          v.Cap,
		Floor:        v.Floor,
		WeekendsFree: v.WeekendsFree,
	}
	if v.Percent != nil {
		rule.Percent = *v.Percent
	}
	return rule
}

// union adds what is not there yet: what two sentences accept is accepted.
func union(a, b []string) []string {
	out := slices.Clone(a)
	for _, s := range b {
		if !slices.Contains(out, s) {
			out = append(out, s)
		}
	}
	return out
}

// files leaves out forms that are not files.
func files(forms []string) []string {
	return slices.DeleteFunc(slices.Clone(forms), func(f string) bool { return f == "text" || f == "link" })
}

func whole(v *float64) int {
	if v == nil {
		return 0
	}
	return int(*v + 0.5)
}

// each changes the slots that a thing is meant by, or all.
func (f *Filled) each(thing string, change func(*Slot)) {
	named := false
	for i := range f.Sheet.Slots {
		if thing != "" && strings.Contains(f.Sheet.Slots[i].Name, thing) {
			change(&f.Sheet.Slots[i])
			named = true
		}
	}
	for i := range f.Sheet.Slots {
		if !named {
			change(&f.Sheet.Slots[i])
		}
	}
}
