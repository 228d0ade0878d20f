// Package naming makes file names from a course's pattern, reads given names against it, and says
// whether a name is sound on every system.
//
// A pattern is text with fields in braces, each with an optional form: {family:upper}_{course}_{title:dash}.
// Whatever is not a field is literal.
package naming

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode"
)

// Fields are the values of a pattern's fields; date is YYYY-MM-DD, ext has no dot.
type Fields map[string]string

// Known lists the names that fields may have.
var Known = []string{
	"family",
	"given",
	"initials",
	"number",
	"course",
	"section",
	"assignment",
	"title",
	"slot",
	"attempt",
	"date",
	"ext",
}

// ParseFields reads fields from a JSON object: attempt is a number, date is YYYY-MM-DD, the others are
// texts. An unknown key is an error.
func ParseFields(text []byte) (Fields, error) {
	d := json.NewDecoder(bytes.NewReader(text))
	d.UseNumber()
	var values map[string]any
	if err := d.Decode(&values); err != nil {
		return nil, fmt.Errorf("it is no JSON object of fields: %w", err)
	}
	if d.More() {
		return nil, errors.New("there is text after the JSON document")
	}
	fields := Fields{}
	for key, value := range values {
		if !slices.Contains(Known, key) {
			return nil, fmt.Errorf("unknown field %q; known are %s", key, strings.Join(Known, ", "))
		}
		switch v := value.(type) {
		case string:
			if key == "attempt" {
				return nil, errors.New("attempt is a whole number, without quotation marks")
			}
			if _, err := time.Parse(time.DateOnly, v); key == "date" && err != nil {
				return nil, fmt.Errorf("date %q is not written YYYY-MM-DD", v)
			}
			fields[key] = v
		case json.Number:
			if n, err := v.Int64(); key != "attempt" || err != nil || n < 0 {
				return nil, fmt.Errorf("%s is not a value for the field %q", v, key)
			}
			fields[key] = v.String()
		default:
			return nil, fmt.Errorf("the field %q has to be a text", key)
		}
	}
	return fields, nil
}

// A Pattern is the parsed form of a naming pattern.
type Pattern []part

type part struct {
	literal string
	field   string // empty for a literal
	form    string
}

var (
	zeros    = regexp.MustCompile(`^0+$`)
	dateForm = regexp.MustCompile(`^(YYYY|YY|MM|DD|[^A-Za-z{}])+$`)
)

// Parse reads a pattern. Braces that do not pair, unknown fields and unknown forms are errors.
func Parse(pattern string) (Pattern, error) {
	var p Pattern
	for rest := pattern; rest != ""; {
		open := strings.IndexAny(rest, "{}")
		if open < 0 {
			p = append(p, part{literal: rest})
			break
		}
		if rest[open] == '}' {
			return nil, fmt.Errorf("pattern %q: a } without its {", pattern)
		}
		if open > 0 {
			p = append(p, part{literal: rest[:open]})
		}
		end := strings.IndexAny(rest[open+1:], "{}")
		if end < 0 || rest[open+1+end] == '{' {
			return nil, fmt.Errorf("pattern %q: a { without its }", pattern)
		}
		field, form, _ := strings.Cut(rest[open+1:open+1+end], ":")
		if !slices.Contains(Known, field) {
			return nil, fmt.Errorf(
				"pattern %q: unknown field {%s}; known are %s",
				pattern,
				field,
				strings.Join(Known, ", "),
			)
		}
		if !formFits(field, form) {
			return nil, fmt.Errorf("pattern %q: unknown form %q of {%s}", pattern, form, field)
		}
		p = append(p, part{field: field, form: form})
		rest = rest[open+end+2:]
	}
	return p, nil
}

func formFits(field, form string) bool {
	switch form {
	case "", "upper", "lower", "title", "dash", "underscore", "none":
		return !strings.HasSuffix(field+":"+form, ":") || form == ""
	}
	if field == "date" {
		return dateForm.MatchString(form)
	}
	return zeros.MatchString(form)
}

// Needs lists the fields that the pattern uses, each once.
func (p Pattern) Needs() []string {
	var names []string
	for _, part := range p {
		if part.field != "" && !slices.Contains(names, part.field) {
			names = append(names, part.field)
		}
	}
	return names
}

func (p Pattern) has(field string) bool { return slices.Contains(p.Needs(), field) }

// shaped gives a value the form that the pattern asks for.
func (q part) shaped(value string) string {
	switch q.form {
	case "":
		return value
	case "upper":
		return strings.ToUpper(value)
	case "lower":
		return strings.ToLower(value)
	case "title":
		return titled(value)
	case "dash":
		return strings.Join(words(strings.ToLower(value)), "-")
	case "underscore":
		return strings.Join(words(strings.ToLower(value)), "_")
	case "none":
		return strings.Join(words(value), "")
	}
	if q.field == "date" {
		if len(value) != len("2006-01-02") {
			return value
		}
		return strings.NewReplacer("YYYY", value[:4], "YY", value[2:4], "MM", value[5:7], "DD", value[8:]).
			Replace(q.form)
	}
	for len(value) < len(q.form) {
		value = "0" + value
	}
	return value
}

func titled(value string) string {
	first := true
	return strings.Map(func(r rune) rune {
		if !unicode.IsLetter(r) && !unicode.IsDigit(r) && !unicode.IsMark(r) && r != '\'' && r != '’' {
			first = true
			return r
		}
		if first {
			first = false
			return unicode.ToTitle(r)
		}
		return unicode.ToLower(r)
	}, value)
}

// words splits at everything that is neither letter, digit, mark nor apostrophe; apostrophes vanish.
func words(value string) []string {
	value = strings.NewReplacer("'", "", "’", "").Replace(value)
	return strings.FieldsFunc(value, func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r) && !unicode.IsMark(r)
	})
}
