package ink

import (
	"sync"

	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/sfnt"
)

var letters = sync.OnceValue(func() *sfnt.Font {
	f, err := sfnt.Parse(goregular.TTF)
	if err != nil {
		panic(err) // it is part of the program
	}
	return f
})

// lacking is the first letter of a text that the font has no shape for.
func lacking(text string) (letter rune, lacks bool) {
	var b sfnt.Buffer
	for _, r := range text {
		if r == '\n' {
			continue
		}
		if glyph, err := letters().GlyphIndex(&b, r); err != nil || glyph == 0 {
			return r, true
		}
	}
	return 0, false
}
