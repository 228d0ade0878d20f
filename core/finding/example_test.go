package finding_test

import (
	"fmt"
	"slices"

	"orario/core/finding"
)

func ExampleWeight_Rank() {
	found := []finding.Weight{finding.Note, finding.Must, finding.Should}
	slices.SortFunc(found, func(a, b finding.Weight) int { return a.Rank() - b.Rank() })
	fmt.Println(found)
	// Output: [must should note]
}
