package prose

import (
	"encoding/json"
	"fmt"
)

// UnmarshalJSON reads an item back, its value by its kind.
func (i *Item) UnmarshalJSON(text []byte) error {
	var raw struct {
		Kind  string          `json:"kind"`
		Value json.RawMessage `json:"value"`
		Zone  string          `json:"zone"`
		Start int             `json:"start"`
		End   int             `json:"end"`
		Sure  float64         `json:"sure"`
	}
	if err := json.Unmarshal(text, &raw); err != nil {
		return err
	}
	*i = Item{Kind: raw.Kind, Zone: raw.Zone, Start: raw.Start, End: raw.End, Sure: raw.Sure}
	var err error
	switch i.Kind {
	case "due", "opens", "closes", "name", "route":
		i.Value, err = as[string](raw.Value)
	case "declaration", "text_layer":
		i.Value, err = as[bool](raw.Value)
	case "grace":
		i.Value, err = as[int](raw.Value)
	case "max_bytes", "max_total_bytes":
		i.Value, err = as[int64](raw.Value)
	case "points":
		i.Value, err = as[float64](raw.Value)
	case "forms", "slots":
		i.Value, err = as[[]string](raw.Value)
	case "pages", "words", "seconds", "files":
		i.Value, err = as[Bounds](raw.Value)
	case "attempts":
		i.Value, err = as[Attempts](raw.Value)
	case "report":
		i.Value, err = as[Report](raw.Value)
	case "style":
		i.Value, err = as[Style](raw.Value)
	case "late":
		i.Value, err = as[Late](raw.Value)
	default:
		err = fmt.Errorf("there is no requirement of the kind %q", i.Kind)
	}
	if err != nil {
		return fmt.Errorf("requirement %s: %w", i.Kind, err)
	}
	return nil
}

func as[T any](text json.RawMessage) (v T, err error) {
	err = json.Unmarshal(text, &v)
	return v, err
}
