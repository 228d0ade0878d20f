package imaging

import (
	"image"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
)

func randomGrey(seed uint64, w, h int) *image.Gray {
	r := rand.New(rand.NewPCG(seed, 3))
	g := image.NewGray(image.Rect(0, 0, w, h))
	for i := range g.Pix {
		if g.Pix[i] = uint8(150 + r.IntN(100)); r.IntN(4) == 0 {
			g.Pix[i] = uint8(r.IntN(90))
		}
	}
	return g
}

// The definition, summed up pixel by pixel: Sauvola and Pietikäinen (2000), eq. 5.
func TestSauvolaIsAsDefined(t *testing.T) {
	const window, k = 7, 0.34
	g := randomGrey(1, 31, 23)
	got := Sauvola(g, window, k)
	for y := range 23 {
		for x := range 31 {
			var values []float64
			for dy := -window / 2; dy <= window/2; dy++ {
				for dx := -window / 2; dx <= window/2; dx++ {
					if p := image.Pt(x+dx, y+dy); p.In(g.Rect) {
						values = append(values, float64(g.GrayAt(p.X, p.Y).Y))
					}
				}
			}
			m, s := 0.0, 0.0
			for _, v := range values {
				m += v / float64(len(values))
			}
			for _, v := range values {
				s += (v - m) * (v - m) / float64(len(values))
			}
			want := uint8(0)
			if float64(g.GrayAt(x, y).Y) > m*(1+k*(math.Sqrt(s)/128-1)) {
				want = 255
			}
			assert.Equal(t, want, got.GrayAt(x, y).Y, "%d, %d", x, y)
		}
	}
}

// The definition: no level has a larger variance between the classes, Otsu (1979), eqs. 13 and 18; and two clear heaps
// are parted between them.
func TestOtsuIsAsDefined(t *testing.T) {
	g := randomGrey(2, 40, 40)
	between := func(level int) float64 {
		var n, sum [2]float64
		for _, v := range g.Pix {
			class := 0
			if int(v) > level {
				class = 1
			}
			n[class]++
			sum[class] += float64(v)
		}
		if n[0] == 0 || n[1] == 0 {
			return 0
		}
		w0 := n[0] / (n[0] + n[1])
		return w0 * (1 - w0) * math.Pow(sum[0]/n[0]-sum[1]/n[1], 2)
	}
	got := Otsu(g)
	for level := range 256 {
		assert.LessOrEqual(t, between(level), between(int(got))+1e-9)
	}
	assert.True(t, got >= 85 && got < 150, "%d", got)
}

func TestCleaningWhitensPaperAndKeepsInk(t *testing.T) {
	s := photograph(3)
	q := s.corners
	flat := Straighten(s.picture, q, 700, int(700/s.proportion))
	for strength, least := range map[float64]float64{0.5: 0.8, 1: 0.85} {
		white, black := 0, 0
		out := Clean(flat, strength)
		for i := 0; i < len(out.Pix); i += 4 {
			if out.Pix[i] > 235 {
				white++
			} else if out.Pix[i] < 110 {
				black++
			}
		}
		n := float64(len(out.Pix) / 4)
		assert.Greater(t, float64(white)/n, least, "strength %g", strength)
		assert.Greater(t, float64(black)/n, 0.01, "strength %g", strength)
	}
	assert.Equal(t, flat, Clean(flat, 0))
}

func TestUprightFollowsTheStandard(t *testing.T) {
	// CIPA DC-008, tag 274: where the 0th row and the 0th column of what is stored are seen.
	p := image.NewRGBA(image.Rect(0, 0, 3, 2))
	p.Pix[0] = 200   // 0th row, 0th column
	p.Pix[4*2] = 100 // 0th row, last column
	for orientation, want := range map[int][2]image.Point{
		1: {{0, 0}, {2, 0}}, 2: {{2, 0}, {0, 0}}, 3: {{2, 1}, {0, 1}}, 4: {{0, 1}, {2, 1}},
		5: {{0, 0}, {0, 2}}, 6: {{1, 0}, {1, 2}}, 7: {{1, 2}, {1, 0}}, 8: {{0, 2}, {0, 0}},
	} {
		got := Upright(p, orientation)
		assert.EqualValues(t, 200, got.RGBAAt(want[0].X, want[0].Y).R, "orientation %d", orientation)
		assert.EqualValues(t, 100, got.RGBAAt(want[1].X, want[1].Y).R, "orientation %d", orientation)
	}
	assert.Equal(t, Upright(p, 6), Turn(p, 90))
}

// Pages before a camera whose corners are known: the formula gives their proportion back.
func TestProportionOfKnownPages(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 5))
	for range 200 {
		proportion := 0.5 + 0.7*r.Float64()
		q := camera(r, 1600, 1200, proportion)
		assert.InEpsilon(t, proportion, Proportion(q, 1600, 1200), 0.06)
	}
}

func TestClarityTellsBlur(t *testing.T) {
	p := sheet(rand.New(rand.NewPCG(1, 1)), 1130, 1600)
	sharp, ok := Clarity(p)
	assert.True(t, ok)
	last := sharp
	for _, r := range []int{1, 2, 4} {
		blurred := image.NewRGBA(p.Rect)
		for c := range 3 {
			channel := newPlane(p.Rect.Dx(), p.Rect.Dy())
			for i := range channel.pix {
				channel.pix[i] = float32(p.Pix[4*i+c])
			}
			channel = channel.blurred(r)
			for i, v := range channel.pix {
				blurred.Pix[4*i+c] = uint8(v)
			}
		}
		got, _ := Clarity(blurred)
		t.Logf("means of %d pixels: %.4f, sharp %.4f", 2*r+1, got, sharp)
		assert.Less(t, got, 0.7*last)
		last = got
	}
	_, ok = Clarity(image.NewRGBA(image.Rect(0, 0, 50, 50)))
	assert.False(t, ok)
}

func TestLinesRunAcrossOrDown(t *testing.T) {
	for seed := range uint64(6) {
		s := photograph(300 + seed)
		flat := Clean(Straighten(s.picture, s.corners, 700, int(700/s.proportion)), DefaultStrength)
		across, down := Lines(flat), Lines(Turn(flat, 90))
		assert.Greater(t, across, 1.5, "seed %d", seed)
		assert.InEpsilon(t, 1, across*down, 0.2)
	}
	assert.Equal(t, 1.0, Lines(OnWhite(image.NewRGBA(image.Rect(0, 0, 40, 40)))), "nothing is written on it")
}
