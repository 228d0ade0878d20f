package imaging

import (
	"image"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"golang.org/x/image/draw"
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

// BenchmarkPage makes a page of a photograph of 12 megapixels.
func BenchmarkPage(b *testing.B) {
	small := photograph(4).picture
	photo := image.NewRGBA(image.Rect(0, 0, 3000, 3000*small.Rect.Dy()/small.Rect.Dx()))
	draw.BiLinear.Scale(photo, photo.Rect, small, small.Rect, draw.Src, nil)
	q, ok := FindPage(photo)
	assert.True(b, ok)
	w, h := int(q[0].to(q[1])), int(q[1].to(q[2]))
	flat := Straighten(photo, q, w, h)
	b.Run("find", func(b *testing.B) {
		for b.Loop() {
			FindPage(photo)
		}
	})
	b.Run("straighten", func(b *testing.B) {
		for b.Loop() {
			Straighten(photo, q, w, h)
		}
		b.ReportMetric(float64(w*h)/1e6, "megapixels")
	})
	b.Run("clean", func(b *testing.B) {
		for b.Loop() {
			Clean(flat, DefaultStrength)
		}
	})
}
