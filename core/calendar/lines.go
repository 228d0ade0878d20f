package calendar

import (
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"
)

// component is a part of an iCalendar file: VCALENDAR, VEVENT, VTODO, VTIMEZONE and what is in them.
type component struct {
	name  string
	props []property
	first map[string]int // of each name, its place among the props; a component can hold very many
	parts []*component
}

func (c *component) add(p property) {
	if c.first == nil {
		c.first = map[string]int{}
	}
	if _, there := c.first[p.name]; !there {
		c.first[p.name] = len(c.props)
	}
	c.props = append(c.props, p)
}

// property is a content line (RFC 5545 §3.1). Names are in capitals.
type property struct {
	name, value string
	params      map[string]string
}

// parse reads the calendars of a file. Lines that are no content lines are left out, as real producers write
// such lines; components that are not closed are an error.
func parse(text string) ([]*component, error) {
	var calendars []*component
	var open []*component
	for line := range unfolded(text) {
		p, ok := contentLine(line)
		if !ok {
			continue
		}
		switch p.name {
		case "BEGIN":
			c := &component{name: strings.ToUpper(strings.TrimSpace(p.value))}
			if len(open) > 0 {
				parent := open[len(open)-1]
				parent.parts = append(parent.parts, c)
			} else if c.name == "VCALENDAR" {
				calendars = append(calendars, c)
			} else {
				return nil, fmt.Errorf("%s stands outside of a VCALENDAR", c.name)
			}
			open = append(open, c)
		case "END":
			name := strings.ToUpper(strings.TrimSpace(p.value))
			if len(open) == 0 || open[len(open)-1].name != name {
				return nil, fmt.Errorf("END:%s without its beginning", name)
			}
			open = open[:len(open)-1]
		default:
			if len(open) > 0 {
				c := open[len(open)-1]
				c.add(p)
			}
		}
	}
	if len(open) > 0 {
		return nil, fmt.Errorf("the file ends within a %s; it was cut off", open[len(open)-1].name)
	}
	if len(calendars) == 0 {
		return nil, errors.New("there is no calendar in it; an iCalendar file begins with BEGIN:VCALENDAR")
	}
	return calendars, nil
}

// unfolded joins lines that go on after a line break and a space.
func unfolded(text string) func(func(string) bool) {
	return func(yield func(string) bool) {
		text = strings.TrimPrefix(text, "\ufeff")
		current, folds := "", strings.Builder{}
		flush := func() bool {
			line := current
			if folds.Len() > 0 {
				line += folds.String()
				folds.Reset()
			}
			return line == "" || yield(line)
		}
		for line := range strings.SplitSeq(strings.ReplaceAll(text, "\r\n", "\n"), "\n") {
			line = strings.TrimSuffix(line, "\r")
			if line != "" && (line[0] == ' ' || line[0] == '\t') {
				folds.WriteString(line[1:])
				continue
			}
			if !flush() {
				return
			}
			current = line
		}
		flush()
	}
}

func contentLine(line string) (p property, ok bool) {
	if !utf8.ValidString(line) {
		line = strings.ToValidUTF8(line, "\ufffd")
	}
	i := strings.IndexAny(line, ";:")
	if i <= 0 {
		return p, false
	}
	p.name = strings.ToUpper(strings.TrimSpace(line[:i]))
	if k := strings.LastIndexByte(p.name, '.'); k >= 0 {
		p.name = p.name[k+1:] // a group, as some producers write
	}
	for line[i] == ';' {
		rest := line[i+1:]
		end, quoted := 0, false
		for end < len(rest) && (quoted || rest[end] != ';' && rest[end] != ':') {
			if rest[end] == '"' {
				quoted = !quoted
			}
			end++
		}
		if end == len(rest) {
			return p, false
		}
		if name, value, ok := strings.Cut(rest[:end], "="); ok {
			if p.params == nil {
				p.params = map[string]string{}
			}
			p.params[strings.ToUpper(name)] = strings.Trim(value, `"`)
		}
		i += 1 + end
	}
	p.value = line[i+1:]
	return p, true
}

// get is the first property of a name.
func (c *component) get(name string) (property, bool) {
	if n, there := c.first[name]; there {
		return c.props[n], true
	}
	return property{}, false
}

func (c *component) text(name string) string {
	p, _ := c.get(name)
	return unescape(p.value)
}

var escapes = strings.NewReplacer(`\\`, `\`, `\n`, "\n", `\N`, "\n", `\,`, ",", `\;`, ";")

func unescape(value string) string {
	if strings.IndexByte(value, '\\') < 0 {
		return value
	}
	return escapes.Replace(value)
}

// firstOf is the first of values separated by commas that are not escaped.
func firstOf(value string) string {
	for i := 0; i < len(value); i++ {
		if value[i] == '\\' {
			i++
		} else if value[i] == ',' {
			return unescape(value[:i])
		}
	}
	return unescape(value)
}
