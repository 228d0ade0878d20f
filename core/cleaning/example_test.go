package cleaning_test

import (
	"fmt"

	"orario/core/cleaning"
)

func ExampleLog() {
	l := cleaning.NewLog([]string{cleaning.Comments})
	fmt.Println(l.Takes(cleaning.Comments), l.Takes(cleaning.Author))
	l.Took(cleaning.Author, 1, "Nerea Quintal")
	l.Took(cleaning.Author, 1, "Nerea Quintal")
	for _, r := range l.Removed() {
		fmt.Println(r.Sentence())
	}
	// Output:
	// false true
	// Taken out: names of authors (2): Nerea Quintal
}

func ExampleClean() {
	l := cleaning.NewLog(nil)
	_, err := cleaning.Clean("zip", nil, "zip", l)
	fmt.Println(err)
	text, _ := cleaning.Clean("txt", []byte("Nothing but what is seen."), "txt", l)
	fmt.Println(string(text), l.Removed())
	// Output:
	// a file of the kind zip cannot be cleaned; convert it first
	// Nothing but what is seen. []
}
