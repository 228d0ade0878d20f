package inspect_test

import (
	"fmt"

	"orario/core/inspect"
)

func ExampleFile() {
	f := inspect.File("tides.csv", []byte("time,height\n06:12,3.4\n"))
	fmt.Println(f.Kind, f.MediaType, f.Bytes, "bytes")
	f = inspect.File("tides.pdf", []byte("PK\x03\x04 this was a zip once"))
	fmt.Println(f.Kind, *f.ExtensionAgrees, f.Problems[0].Code)
	// Output:
	// csv text/csv 22 bytes
	// zip false damaged
}
