package inspect

import (
	"strings"
	"testing"
)

func BenchmarkInspect(b *testing.B) {
	csv := []byte(strings.Repeat("10:15,3.21,a tide\n", 5000))
	pages := make([]string, 100)
	for name, data := range map[string][]byte{"pdf of 100 pages": pdfWith(pages...), "csv of 5000 rows": csv} {
		b.Run(name, func(b *testing.B) {
			b.SetBytes(int64(len(data)))
			for b.Loop() {
				File("file", data)
			}
		})
	}
}
