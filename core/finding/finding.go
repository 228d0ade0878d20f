// Package finding says how much something that was found matters.
package finding

// Weight is how much a finding matters. Only what must be fixed keeps work from being sent.
type Weight string

// The weights, the heaviest first.
const (
	Must   Weight = "must"
	Should Weight = "should"
	Note   Weight = "note"
)

// Rank puts weights in order: 0 for the heaviest.
func (w Weight) Rank() int {
	switch w {
	case Must:
		return 0
	case Should:
		return 1
	}
	return 2
}
