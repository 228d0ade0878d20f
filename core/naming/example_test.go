package naming_test

import (
	"fmt"

	"orario/core/naming"
)

func ExampleMake() {
	pattern, _ := naming.Parse("{family}_{course}_{slot}.{ext}")
	fields := naming.Fields{"family": "Ávila", "course": "HYD214", "slot": "report", "ext": "pdf"}
	name, problems, _ := naming.Make(pattern, fields, true)
	fmt.Println(name, len(problems))
	agrees, parts, _ := naming.Read(pattern, fields, true, "Avila_HYD241_report.pdf")
	for _, p := range parts {
		if !p.OK {
			fmt.Printf("%v: the %s is %s, not %s\n", agrees, p.Field, p.Found, p.Expected)
		}
	}
	// Output:
	// Avila_HYD214_report.pdf 0
	// false: the course is HYD241, not HYD214
}
