package imaging

import (
	"image"
	"image/draw"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Pages of English by the tests' own font, other than those that the threshold was settled on, each
// also on its head; an empty page tells nothing.
func TestWhichEndIsUp(t *testing.T) {
	right := 0
	const pages = 40
	for seed := range uint64(pages) {
		p := sheet(rand.New(rand.NewPCG(seed, 5)), 1060, 1500)
		up, down := Standing(p), Standing(Turn(p, 180))
		assert.False(t, up < -0.15 || down > 0.15, "seed %d: %.2f and %.2f would be turned wrongly", seed, up, down)
		if up >= 0.15 && down <= -0.15 {
			right++
		}
	}
	t.Logf("%d of %d pages are told clearly", right, pages)
	assert.GreaterOrEqual(t, right, pages*9/10)
	assert.Zero(t, Standing(image.NewRGBA(image.Rect(0, 0, 600, 800))))
	blank := image.NewRGBA(image.Rect(0, 0, 600, 800))
	draw.Draw(blank, blank.Rect, image.White, image.Point{}, draw.Src)
	assert.Zero(t, Standing(blank))
}
