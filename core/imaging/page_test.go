package imaging

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

// worst is the distance of the corners from the true ones, the worst in parts of the page's width.
func worst(found, truth Quad) float64 {
	best := math.Inf(1)
	width := (truth[0].to(truth[1]) + truth[3].to(truth[2])) / 2
	for turn := range 4 {
		far := 0.0
		for i := range 4 {
			far = max(far, found[(i+turn)%4].to(truth[i])/width)
		}
		best = min(best, far)
	}
	return best
}

// photographs of each half. With 200 of each (go test -run Corners after raising it) the figures of docs/benchmarks.md.
const photographs = 24

// Synthesised photographs, of which the second half was never looked at while the search was settled.
func TestCornersOfPages(t *testing.T) {
	for name, from := range map[string]uint64{"settled on": 0, "kept aside": 1000} {
		near, shape := 0, 0
		for seed := range uint64(photographs) {
			s := photograph(from + seed)
			q, ok := FindPage(s.picture)
			far := 9.0
			if ok {
				far = worst(q, s.corners)
			}
			if far < 0.01 {
				near++
			}
			b := s.picture.Rect
			p := Proportion(q, b.Dx(), b.Dy())
			if paper := PaperOf(p); math.Abs(paper.Width/paper.Height/s.proportion-1) < 0.02 {
				shape++
			}
		}
		t.Logf("%s: corners within 1 %% on %d of %d, proportions within 2 %% on %d", name, near, photographs, shape)
		assert.GreaterOrEqual(t, near, photographs*78/100)
		assert.GreaterOrEqual(t, shape, photographs*78/100)
	}
}
