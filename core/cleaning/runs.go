package cleaning

import (
	"encoding/xml"
	"fmt"
	"slices"
	"strings"
)

// unhidden takes runs away that are not shown: as they say themselves (ECMA-376 part 1, § 17.3.2.41), else as their own
// style says, else as their paragraph's does.
func (c *container) unhidden(name string, l *Log) error {
	hidden, err := wordStyles(c.parts["word/styles.xml"])
	if err != nil {
		return fmt.Errorf("word/styles.xml cannot be read: %w", err)
	}
	type run struct {
		n            int
		said         tristate
		style, words string
	}
	return c.settle(name, func(fates map[int]fate) passage {
		var runs []run
		var paragraphs []string // their styles
		return passage{
			begins: func(n int, e xml.StartElement, parents []string) {
				switch name := e.Name.Local; {
				case name == "p":
					paragraphs = append(paragraphs, "")
				case name == "pStyle" && within(parents, "p", "pPr"):
					paragraphs[len(paragraphs)-1] = attribute(e, "val")
				case name == "r":
					runs = append(runs, run{n: n})
				case name == "vanish" && within(parents, "r", "rPr"):
					runs[len(runs)-1].said = onOff(e)
				case name == "rStyle" && within(parents, "r", "rPr"):
					runs[len(runs)-1].style = attribute(e, "val")
				}
			},
			text: func(text string, parents []string) {
				if within(parents, "t") {
					for i := range runs {
						runs[i].words += text
					}
				}
			},
			ends: func(name string) {
				if name == "p" && len(paragraphs) > 0 {
					paragraphs = paragraphs[:len(paragraphs)-1]
				}
				if name != "r" || len(runs) == 0 {
					return
				}
				r := runs[len(runs)-1]
				runs = runs[:len(runs)-1]
				of := ""
				if len(paragraphs) > 0 {
					of = paragraphs[len(paragraphs)-1]
				}
				if r.said == yes || r.said == unsaid && (hidden[r.style] || r.style == "" && hidden[of]) {
					fates[r.n] = drop
					l.Took(HiddenText, 1, r.words)
				}
			},
		}
	})
}

// conditional takes fields away that show one of two texts by a condition (§ 17.16.5.24): what they show stays, the
// condition and the text that is not shown go.
func (c *container) conditional(name string, l *Log) error {
	type field struct {
		code    string
		pieces  []int // of runs, from its beginning to its result
		results bool
	}
	return c.settle(name, func(fates map[int]fate) passage {
		var open []*field
		return passage{
			begins: func(n int, e xml.StartElement, parents []string) {
				if e.Name.Local == "fldSimple" && isConditional(attribute(e, "instr")) {
					fates[n] = unwrap
					l.Took(HiddenText, 1, attribute(e, "instr"))
				}
				if !within(parents, "r") || e.Name.Local == "rPr" {
					return
				}
				kind := attribute(e, "fldCharType")
				if kind == "begin" {
					open = append(open, &field{})
				}
				for _, f := range open {
					if !f.results || kind == "end" && f == open[len(open)-1] {
						f.pieces = append(f.pieces, n)
					}
				}
				if len(open) == 0 {
					return
				}
				switch f := open[len(open)-1]; kind {
				case "separate":
					f.results = true
				case "end":
					open = open[:len(open)-1]
					if isConditional(f.code) {
						l.Took(HiddenText, 1, f.code)
						for _, piece := range f.pieces {
							fates[piece] = drop
						}
					}
				}
			},
			text: func(text string, parents []string) {
				if within(parents, "instrText") && len(open) > 0 {
					open[len(open)-1].code += text
				}
			},
		}
	})
}

func isConditional(code string) bool {
	words := strings.Fields(code)
	return len(words) > 0 && strings.EqualFold(words[0], "IF")
}

// isFormControl are the properties of a content control that make it a field of a form (§ 17.5.2).
func isFormControl(e xml.StartElement) bool {
	return slices.Contains([]string{"text", "comboBox", "dropDownList", "date", "checkbox"}, e.Name.Local)
}

// controls takes content controls that are fields of a form away; what they hold stays.
func (c *container) controls(name string, l *Log) error {
	type control struct {
		is              bool
		itself, content int
		properties      []int
	}
	return c.settle(name, func(fates map[int]fate) passage {
		var open []*control
		return passage{
			begins: func(n int, e xml.StartElement, parents []string) {
				if e.Name.Local == "sdt" {
					open = append(open, &control{itself: n})
				}
				if len(open) == 0 {
					return
				}
				s := open[len(open)-1]
				switch e.Name.Local {
				case "sdtPr", "sdtEndPr":
					s.properties = append(s.properties, n)
				case "sdtContent":
					s.content = n
				}
				s.is = s.is || within(parents, "sdt", "sdtPr") && isFormControl(e)
			},
			ends: func(name string) {
				if name != "sdt" || len(open) == 0 {
					return
				}
				s := open[len(open)-1]
				if open = open[:len(open)-1]; !s.is {
					return
				}
				l.Took(FormFields, 1, "")
				fates[s.itself] = unwrap
				if s.content > 0 {
					fates[s.content] = unwrap
				}
				for _, n := range s.properties {
					fates[n] = drop
				}
			},
		}
	})
}
