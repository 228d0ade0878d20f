package compare_test

import (
	"fmt"

	"orario/core/compare"
)

func ExampleTexts() {
	s := compare.Texts("the tide rises at noon", "the tide falls at noon today")
	fmt.Println(s.Same, "kept,", s.Removed, "removed,", s.Added, "added")
	for _, c := range s.Changes {
		fmt.Printf("%q became %q\n", c.Before, c.After)
	}
	// Output:
	// 4 kept, 1 removed, 2 added
	// "rises" became "falls"
	// "" became "today"
}
