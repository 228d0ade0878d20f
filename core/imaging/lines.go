package imaging

import (
	"cmp"
	"math"
	"slices"
)

// An edge is a pixel at which light or colour changes most, with the direction of the change, 0 to π.
type edge struct {
	x, y, angle float64
	strength    float64
}

// A line is x·cos(angle) + y·sin(angle) = rho.
type line struct {
	angle, rho float64
	votes      float64
}

func (l line) normal() (nx, ny float64) { return math.Cos(l.angle), math.Sin(l.angle) }

// meet is where two lines cross; ok is false where they hardly do.
func (l line) meet(o line) (p Point, ok bool) {
	a, b := l.normal()
	c, d := o.normal()
	det := a*d - b*c
	if math.Abs(det) < 0.1 {
		return p, false
	}
	return Point{(l.rho*d - o.rho*b) / det, (a*o.rho - c*l.rho) / det}, true
}

// edges finds where the planes change: the strongest change of any of them, thinned across its direction (Canny 1986).
func edges(list [3]plane) []edge {
	w, h := list[0].w, list[0].h
	strength, angle := newPlane(w, h), newPlane(w, h)
	for i, p := range list {
		weight := float32(1)
		if i > 0 {
			weight = 1.6 // colour differences are smaller
		}
		for y := 1; y < h-1; y++ {
			for x := 1; x < w-1; x++ {
				a, b, c := p.pix[(y-1)*w+x-1:], p.pix[y*w+x-1:], p.pix[(y+1)*w+x-1:]
				gx := weight * (a[2] + 2*b[2] + c[2] - a[0] - 2*b[0] - c[0])
				gy := weight * (c[0] + 2*c[1] + c[2] - a[0] - 2*a[1] - a[2])
				if s := gx*gx + gy*gy; s > strength.pix[y*w+x] {
					strength.pix[y*w+x] = s
					angle.pix[y*w+x] = float32(math.Atan2(float64(gy), float64(gx)))
				}
			}
		}
	}
	for i, s := range strength.pix {
		strength.pix[i] = float32(math.Sqrt(float64(s)))
	}
	least := max(14, quantile(slices.Clone(strength.pix), 0.75))
	var out []edge
	for y := 2; y < h-2; y++ {
		for x := 2; x < w-2; x++ {
			s, t := strength.pix[y*w+x], float64(angle.pix[y*w+x])
			if s < least {
				continue
			}
			dx, dy := int(math.Round(math.Cos(t))), int(math.Round(math.Sin(t)))
			if s < strength.at(x+dx, y+dy) || s <= strength.at(x-dx, y-dy) {
				continue
			}
			if t < 0 {
				t += math.Pi
			}
			out = append(out, edge{float64(x), float64(y), t, float64(min(s, 160))})
		}
	}
	return out
}

// turnedBy is the angle between two directions that are the same turned by π.
func turnedBy(a, b float64) float64 {
	d := math.Mod(math.Abs(a-b), math.Pi)
	return min(d, math.Pi-d)
}

// Resolution of the search for lines.
const (
	angles   = 180
	rhoStep  = 2.0
	mostLine = 36 // lines that are looked at
)

// straight finds the lines on which most edges lie (Hough 1962; Duda and Hart 1972), each edge voting only for lines
// that run as it does.
func straight(list []edge, w, h int) []line {
	diagonal := math.Hypot(float64(w), float64(h))
	rhos := int(2*diagonal/rhoStep) + 3
	votes := make([]float64, angles*rhos)
	var cosines, sines [angles]float64
	for a := range angles {
		sines[a], cosines[a] = math.Sincos(float64(a) * math.Pi / angles)
	}
	for _, e := range list {
		at := int(math.Round(e.angle * angles / math.Pi))
		for d := -3; d <= 3; d++ {
			a := (at + d + angles) % angles
			r := int((e.x*cosines[a]+e.y*sines[a]+diagonal)/rhoStep + 0.5)
			votes[a*rhos+r] += 10 + e.strength/4
		}
	}
	var peaks []line
	for a := range angles {
		for r := 1; r < rhos-1; r++ {
			v := votes[a*rhos+r] + (votes[a*rhos+r-1]+votes[a*rhos+r+1])/2
			if votes[a*rhos+r] >= votes[a*rhos+r-1] && votes[a*rhos+r] > votes[a*rhos+r+1] && v > 300 {
				peaks = append(peaks, line{float64(a) * math.Pi / angles, float64(r)*rhoStep - diagonal, v})
			}
		}
	}
	slices.SortFunc(peaks, func(a, b line) int { return cmp.Compare(b.votes, a.votes) })
	var lines []line
	for _, p := range peaks {
		if !slices.ContainsFunc(lines, func(l line) bool { return near(l, p, w, h) }) {
			if lines = append(lines, p); len(lines) == mostLine {
				break
			}
		}
	}
	return lines
}

// near says that two lines are hardly to be told apart within a picture.
func near(a, b line, w, h int) bool {
	if turnedBy(a.angle, b.angle) > 6*math.Pi/180 {
		return false
	}
	x, y := float64(w)/2, float64(h)/2
	apart := func(l, o line) float64 {
		nx, ny := l.normal()
		d := l.rho - nx*x - ny*y
		px, py := x+d*nx, y+d*ny // the point of l that is nearest to the middle
		ox, oy := o.normal()
		return math.Abs(ox*px + oy*py - o.rho)
	}
	return min(apart(a, b), apart(b, a)) < 7
}

// A run is a line with how much of it, up to each of its points, is on edges.
type run struct {
	line
	from  float64 // where it begins, along it
	sums  []float64
	index int
}

// along is the place of a point along a line.
func (l line) along(p Point) float64 {
	nx, ny := l.normal()
	return -ny*p.X + nx*p.Y
}

// runs measures on which parts of the lines edges lie that run as they do; the lines are fitted to those edges.
func runs(lines []line, list []edge, w, h int) []run {
	diagonal := math.Hypot(float64(w), float64(h))
	out := make([]run, len(lines))
	for i, l := range lines {
		for range 2 {
			l = fitted(l, list)
		}
		r := run{line: l, from: -diagonal, sums: make([]float64, int(2*diagonal)+2), index: i}
		nx, ny := l.normal()
		for _, e := range list {
			if turnedBy(e.angle, l.angle) < 14*math.Pi/180 && math.Abs(nx*e.x+ny*e.y-l.rho) < 2.2 {
				at := int(l.along(Point{e.x, e.y}) + diagonal)
				for d := -1; d <= 1; d++ { // edges have gaps of a pixel
					r.sums[min(max(at+d+1, 1), len(r.sums)-1)] = 1
				}
			}
		}
		for k := 1; k < len(r.sums); k++ {
			r.sums[k] += r.sums[k-1]
		}
		out[i] = r
	}
	return out
}

// fitted is the line that fits the edges near it best, by least squares across it.
func fitted(l line, list []edge) line {
	nx, ny := l.normal()
	var n, sx, sy, sxx, sxy, syy float64
	for _, e := range list {
		if turnedBy(e.angle, l.angle) < 10*math.Pi/180 && math.Abs(nx*e.x+ny*e.y-l.rho) < 3 {
			n, sx, sy = n+1, sx+e.x, sy+e.y
			sxx, sxy, syy = sxx+e.x*e.x, sxy+e.x*e.y, syy+e.y*e.y
		}
	}
	if n < 20 {
		return l
	}
	return leastSquares(n, sx, sy, sxx, sxy, syy, l)
}

// leastSquares is the line through points of which these are the sums; its direction is that of l.
func leastSquares(n, sx, sy, sxx, sxy, syy float64, l line) line {
	mx, my := sx/n, sy/n
	a := math.Atan2(2*(sxy/n-mx*my), sxx/n-mx*mx-syy/n+my*my)/2 + math.Pi/2 // across the longest spread
	if math.Cos(a-l.angle) < 0 {
		a += math.Pi
	}
	return line{a, mx*math.Cos(a) + my*math.Sin(a), l.votes}
}

// covered is the share of a stretch along the line that lies on edges.
func (r *run) covered(from, to float64) float64 {
	if to < from {
		from, to = to, from
	}
	a := min(max(int(from-r.from), 0), len(r.sums)-1)
	b := min(max(int(to-r.from), 0), len(r.sums)-1)
	if b <= a {
		return 0
	}
	return (r.sums[b] - r.sums[a]) / float64(b-a)
}
