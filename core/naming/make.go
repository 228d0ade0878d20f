package naming

import (
	"fmt"
	"strings"

	"orario/core/finding"

	"golang.org/x/text/unicode/norm"
)

// Make builds the name that a pattern asks for. Values are made sound and every repair is a problem;
// literals are never changed. A name over [MaxBytes] has its title shortened at a whole character.
// Plain asks for ASCII letters. A field that the pattern needs and fields lacks is an error.
func Make(p Pattern, fields Fields, plain bool) (string, []Problem, error) {
	pieces, problems, err := Pieces(p, fields, plain)
	var name strings.Builder
	for _, piece := range pieces {
		name.WriteString(piece.Text)
	}
	return name.String(), problems, err
}

// A Piece of a name: what a field gave, or with an empty Field what stands in the pattern as it is.
type Piece struct {
	Text  string `json:"text"`
	Field string `json:"field"`
}

// Pieces is the name that [Make] builds, in its pieces.
func Pieces(p Pattern, fields Fields, plain bool) ([]Piece, []Problem, error) {
	if !p.has("ext") && fields["ext"] != "" {
		p = append(p[:len(p):len(p)], part{literal: "."}, part{field: "ext"})
	}
	values := Fields{}
	var problems []Problem
	for _, field := range p.Needs() {
		value, ok := fields[field]
		if !ok {
			return nil, nil, fmt.Errorf("the pattern needs {%s}, which has no value", field)
		}
		if field == "ext" {
			value = strings.TrimPrefix(value, ".")
		}
		if plain {
			value, _ = Plain(value)
		}
		var repairs []Problem
		values[field], repairs = soundValue(field, value)
		problems = append(problems, repairs...)
	}
	name := p.fill(values)
	if over := len(name) - MaxBytes; over > 0 && p.has("title") {
		title := values["title"]
		for len(name) > MaxBytes && title != "" {
			title = title[:norm.NFC.LastBoundary([]byte(title))] // a letter goes with its marks
			values["title"] = strings.TrimRight(title, " .-_")
			name = p.fill(values)
		}
		problems = append(problems, Problem{
			"too_long",
			finding.Note,
			fmt.Sprintf(
				"The name would be %d bytes over the %d that file systems take; the title is shortened.",
				over,
				MaxBytes,
			),
		})
	}
	return p.pieces(values), append(problems, Lint(name, nil, plain)...), nil
}

func (p Pattern) fill(values Fields) string {
	var b strings.Builder
	for _, piece := range p.pieces(values) {
		b.WriteString(piece.Text)
	}
	return b.String()
}

func (p Pattern) pieces(values Fields) []Piece {
	list := make([]Piece, 0, len(p))
	for _, part := range p {
		if part.field == "" {
			list = append(list, Piece{Text: part.literal})
		} else {
			list = append(list, Piece{part.shaped(values[part.field]), part.field})
		}
	}
	return list
}
