package cleaning

import (
	"encoding/xml"
	"slices"
)

// A tristate is a property that a style may say, deny, or leave to the style that it is based on.
type tristate int

const (
	unsaid tristate = iota
	yes
	no
)

// A style of a document, as far as it hides text.
type style struct {
	based  string
	hidden tristate
}

// hiddenStyles are the names of the styles that hide text, by themselves or by what they are based on.
func hiddenStyles(all map[string]style) map[string]bool {
	hidden := map[string]bool{}
	for name := range all {
		at := all[name]
		for depth := 0; at.hidden == unsaid && at.based != "" && depth < 50; depth++ {
			at = all[at.based]
		}
		hidden[name] = at.hidden == yes
	}
	return hidden
}

// onOff is a value of ST_OnOff (ECMA-376 part 1, § 22.9.2.7).
func onOff(e xml.StartElement) tristate {
	if slices.Contains([]string{"", "1", "true", "on"}, attribute(e, "val")) {
		return yes
	}
	return no
}

// wordStyles are the styles of a word processor's document (§ 17.7).
func wordStyles(content []byte) (map[string]bool, error) {
	all := map[string]style{}
	id := ""
	err := passage{begins: func(_ int, e xml.StartElement, parents []string) {
		s := all[id]
		switch {
		case e.Name.Local == "style" && within(parents, "styles"):
			id = attribute(e, "styleId")
			s = style{}
		case e.Name.Local == "basedOn" && within(parents, "style"):
			s.based = attribute(e, "val")
		case e.Name.Local == "vanish" && within(parents, "style", "rPr"):
			s.hidden = onOff(e)
		default:
			return
		}
		all[id] = s
	}}.through(content)
	return hiddenStyles(all), err
}

// openStyles are the styles of an OpenDocument text (part 1, § 16.2; text:display, § 20.400), by family and name.
func openStyles(contents ...[]byte) (map[string]bool, error) {
	all := map[string]style{}
	for _, content := range contents {
		key := ""
		err := passage{begins: func(_ int, e xml.StartElement, parents []string) {
			switch e.Name.Local {
			case "style":
				family := attribute(e, "family")
				key = family + "/" + attribute(e, "name")
				s := style{}
				if parent := attribute(e, "parent-style-name"); parent != "" {
					s.based = family + "/" + parent
				}
				all[key] = s
			case "text-properties":
				if !within(parents, "style") {
					return
				}
				s := all[key]
				switch attribute(e, "display") {
				case "none":
					s.hidden = yes
				case "true":
					s.hidden = no
				}
				all[key] = s
			}
		}}.through(content)
		if err != nil {
			return nil, err
		}
	}
	return hiddenStyles(all), nil
}
