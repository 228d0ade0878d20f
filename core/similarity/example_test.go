package similarity_test

import (
	"fmt"

	"orario/core/similarity"
)

func ExampleIndex_Check() {
	source := "The lowest water that the table expects is called zero, and everything is measured upwards from it."
	index := similarity.NewIndex([]similarity.Source{{Name: "reader", Text: source}})
	report := index.Check("My notes begin here. "+source+" And here they end.", similarity.Options{})
	for _, p := range report.Passages {
		fmt.Println(p.Source, p.Start, p.End)
	}
	// Output: reader 21 119
}
