package roster

import (
	"encoding/json"
	"fmt"

	lru "github.com/hashicorp/golang-lru/v2"

	"orario/core/brief"
	"orario/core/inspect"
	"orario/core/timing"
)

// A text is the JSON that an assignment is stored with.
type text struct{ sheet, own, late string }

// stored is what such a text says. It is shared between loads, and nobody changes it.
type stored struct {
	Sheet brief.Sheet
	Own   brief.Own
	Late  timing.Rule
}

// What was read lately is kept by its text, since reading it is a third of a load: some megabytes for the coursework of
// about a dozen students.
const kept = 4096

var (
	sheets, _ = lru.New[text, stored](kept)
	facts, _  = lru.New[string, *inspect.Facts](kept)
)

func sheet(t text) (stored, error) {
	if s, ok := sheets.Get(t); ok {
		return s, nil
	}
	var s stored
	for _, column := range []struct {
		text string
		into any
	}{{t.sheet, &s.Sheet}, {t.own, &s.Own}, {t.late, &s.Late}} {
		if len(column.text) <= len("{}") {
			continue // nothing is in it, as in most
		}
		if err := json.Unmarshal([]byte(column.text), column.into); err != nil {
			return s, fmt.Errorf("what is stored of it cannot be read: %w", err)
		}
	}
	if err := s.Late.Validate(); err != nil {
		return s, err
	}
	sheets.Add(t, s)
	return s, nil
}

// factsOf reads the facts of a version.
func factsOf(text json.RawMessage) (*inspect.Facts, error) {
	if f, ok := facts.Get(string(text)); ok {
		return f, nil
	}
	f := &inspect.Facts{}
	if err := json.Unmarshal(text, f); err != nil {
		return nil, fmt.Errorf("what is known of it cannot be read: %w", err)
	}
	facts.Add(string(text), f)
	return f, nil
}
