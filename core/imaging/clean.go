package imaging

import (
	"image"
	"math"
)

// DefaultStrength is how much a page is cleaned where nothing else is asked for.
const DefaultStrength = 0.5

// Clean evens the light of a straightened page and sharpens its ink. Strength 0 leaves it as it is; up to 0.5 paper
// becomes white and the page keeps its colours; beyond, ink is told from paper more and more, until at 1 the page is
// black and white (Sauvola and Pietikäinen 2000).
func Clean(p *image.RGBA, strength float64) *image.RGBA {
	if strength <= 0 {
		return p
	}
	light := paperLight(p)
	evened := evening(min(1, 2*strength))
	out := image.NewRGBA(p.Rect)
	w := p.Rect.Dx()
	rows(p.Rect.Dy(), func(y int) {
		from, to := p.Pix[y*p.Stride:][:4*w], out.Pix[y*out.Stride:][:4*w]
		for c := range 3 {
			light.across(c, y, w, func(x, level int) {
				to[4*x+c] = evened[level][from[4*x+c]]
			})
		}
		for x := 3; x < 4*w; x += 4 {
			to[x] = 255
		}
	})
	if binary := min(1, 2*strength-1); binary > 0 {
		ink := Sauvola(grey(out), max(15, w/45)|1, 0.2)
		for i, v := range ink.Pix {
			for c := range 3 {
				out.Pix[4*i+c] = uint8(float64(out.Pix[4*i+c])*(1-binary) + float64(v)*binary + 0.5)
			}
		}
	}
	return out
}

// evening is what becomes of a value in a light, by the light in levels of a half.
func evening(even float64) *[512][256]uint8 {
	table := new([512][256]uint8)
	for level := range table {
		for v := range table[level] {
			white := min(255, float64(v)*250/max(40, float64(level)/2))
			white = min(255, max(0, (white-18)*255/(238-18))) // nearly white is paper, nearly black is ink
			table[level][v] = uint8(float64(v)*(1-even) + white*even + 0.5)
		}
	}
	return table
}

// A lighting is how bright paper is in each part of a page, by colour.
type lighting struct {
	block int
	bg    [3]plane
}

// across does something for each pixel of a row with its light, in levels of a half: the light between those of the
// blocks around it, which changes evenly from one block's middle to the next.
func (l *lighting) across(c, y, w int, do func(x, level int)) {
	size := float64(l.block)
	row := (float64(y)+0.5)/size - 0.5
	const one = 1 << 16 // in fixed point
	for x, block := 0, -1; x < w; block++ {
		from, to := float64(l.bg[c].between(float64(block), row)), float64(l.bg[c].between(float64(block+1), row))
		middle := (float64(block) + 0.5) * size
		step := int((to - from) / size * 2 * one)
		level := int((from+(to-from)*(float64(x)+0.5-middle)/size)*2*one) + one/2
		for end := min(w, int(math.Ceil(middle+size-0.5))); x < end; x++ {
			do(x, level>>16)
			level += step
		}
	}
}

// paperLight measures the light: of each block the brightness that nine tenths of it stay under, in a wide mean. A
// block without paper, in a picture say, takes half of the page's light at least.
func paperLight(p *image.RGBA) *lighting {
	w, h := p.Rect.Dx(), p.Rect.Dy()
	l := &lighting{block: max(8, max(w, h)/48)}
	bw, bh := (w+l.block-1)/l.block, (h+l.block-1)/l.block
	for c := range l.bg {
		l.bg[c] = newPlane(bw, bh)
		rows(bh, func(by int) {
			var counts [256]int
			for bx := range bw {
				clear(counts[:])
				n := 0
				for y := by * l.block; y < min(h, (by+1)*l.block); y += 2 {
					for x := bx * l.block; x < min(w, (bx+1)*l.block); x += 2 {
						counts[p.Pix[y*p.Stride+4*x+c]]++
						n++
					}
				}
				v := 255
				for left := n / 10; v > 0 && left >= counts[v]; v-- {
					left -= counts[v]
				}
				l.bg[c].pix[by*bw+bx] = float32(v)
			}
		})
		usual := quantile(append([]float32{}, l.bg[c].pix...), 0.6)
		for i, v := range l.bg[c].pix {
			l.bg[c].pix[i] = max(v, usual/2)
		}
		l.bg[c] = l.bg[c].extreme(1, true).mean(1)
	}
	return l
}

// grey is a picture's light (Rec. 601).
func grey(p *image.RGBA) *image.Gray {
	out := image.NewGray(image.Rect(0, 0, p.Rect.Dx(), p.Rect.Dy()))
	for y := range out.Rect.Dy() {
		for x := range out.Rect.Dx() {
			v := p.Pix[y*p.Stride+4*x:]
			out.Pix[y*out.Stride+x] = uint8((299*int(v[0]) + 587*int(v[1]) + 114*int(v[2]) + 500) / 1000)
		}
	}
	return out
}

// Sauvola tells ink (0) from paper (255): a pixel is ink if it is darker than m·(1 + k·(s/128 − 1)), m and s being
// mean and deviation of the window × window pixels around it, as far as they are in the picture (Sauvola and
// Pietikäinen 2000, “Adaptive document image binarization”, eq. 5, with R = 128). The window is odd. Time is
// O(pixels).
func Sauvola(g *image.Gray, window int, k float64) *image.Gray {
	w, h := g.Rect.Dx(), g.Rect.Dy()
	sums, squares := make([]uint64, (w+1)*(h+1)), make([]uint64, (w+1)*(h+1))
	for y := range h {
		var sum, square uint64
		for x := range w {
			v := uint64(g.Pix[y*g.Stride+x])
			sum, square = sum+v, square+v*v
			at := (y+1)*(w+1) + x + 1
			sums[at], squares[at] = sums[at-w-1]+sum, squares[at-w-1]+square
		}
	}
	out := image.NewGray(g.Rect)
	r := window / 2
	rows(h, func(y int) {
		top, bottom := max(0, y-r)*(w+1), min(h, y+r+1)*(w+1)
		for x := range w {
			left, right := max(0, x-r), min(w, x+r+1)
			n := float64((right - left) * (bottom - top) / (w + 1))
			m := float64(sums[bottom+right]-sums[bottom+left]-sums[top+right]+sums[top+left]) / n
			s2 := float64(squares[bottom+right]-squares[bottom+left]-squares[top+right]+squares[top+left])/n - m*m
			if float64(g.Pix[y*g.Stride+x]) > m*(1+k*(math.Sqrt(max(0, s2))/128-1)) {
				out.Pix[y*out.Stride+x] = 255
			}
		}
	})
	return out
}

// Otsu is the level that parts a picture's greys best into those up to it and those above: the one with the largest
// variance between both classes (Otsu 1979, “A threshold selection method from gray-level histograms”, eq. 18).
func Otsu(g *image.Gray) uint8 {
	var counts [256]float64
	total, n := 0.0, 0.0
	for y := range g.Rect.Dy() {
		for _, v := range g.Pix[y*g.Stride:][:g.Rect.Dx()] {
			counts[v]++
			total, n = total+float64(v), n+1
		}
	}
	best, level := -1.0, uint8(0)
	below, sum := 0.0, 0.0
	for v := range 255 {
		below, sum = below+counts[v], sum+float64(v)*counts[v]
		if below == 0 || below == n {
			continue
		}
		apart := sum/below - (total-sum)/(n-below)
		if between := below * (n - below) * apart * apart; between > best {
			best, level = between, uint8(v)
		}
	}
	return level
}

// Clarity is how sharply a page's ink is drawn: the variance of the Laplacian (Pech-Pacheco et al. 2000) over that of
// the light itself, at a size at which an A4 page is 1,600 pixels long. Whether the page is bright or has much on it
// hardly matters. An empty page has none: ok is false.
func Clarity(p *image.RGBA) (value float64, ok bool) {
	list, _ := planes(p, 1600)
	g := list[0].mean(1)
	var sum, square, lap2, n float64
	for y := 1; y < g.h-1; y++ {
		for x := 1; x < g.w-1; x++ {
			v := float64(g.pix[y*g.w+x])
			l := float64(g.at(x-1, y)+g.at(x+1, y)+g.at(x, y-1)+g.at(x, y+1)) - 4*v
			sum, square, lap2, n = sum+v, square+v*v, lap2+l*l, n+1
		}
	}
	if n == 0 {
		return 0, false
	}
	variance := square/n - (sum/n)*(sum/n)
	return lap2 / n / max(1, variance), variance > 60
}

// Brightness is how bright the paper of a page is, 0 to 1: the light that nine tenths of it stay under.
func Brightness(p *image.RGBA) float64 {
	list, _ := planes(p, 200)
	return float64(quantile(list[0].pix, 0.9)) / 255
}
