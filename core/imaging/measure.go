package imaging

import (
	"math"
	"slices"
)

// measure finds a quad's corners to a part of a pixel: along each side the strongest change across it is looked for,
// and lines are laid through those places. Paper curls, so at each corner only the part of its two sides that is near
// counts, if it agrees with the whole.
func measure(q Quad, list [3]plane) Quad {
	size := math.Sqrt(math.Abs(q.area()))
	for _, reach := range []float64{0.02, 0.008} {
		var places [4][]Point
		for i := range q {
			places[i] = across(q[(i+3)%4], q[i], reach*size, list)
		}
		var whole [4]line
		for i := range q {
			l, ok := through(places[i], 0.004*size)
			if !ok {
				l = lineOf(q[(i+3)%4], q[i])
			}
			whole[i] = l
		}
		for i := range q {
			if p, ok := whole[i].meet(whole[(i+1)%4]); ok && p.to(q[i]) < 0.06*size {
				q[i] = p
			}
		}
		if reach < 0.01 {
			q = q.curled(places, size)
		}
	}
	return q
}

// curled moves each corner to where the near parts of its sides meet.
func (q Quad) curled(places [4][]Point, size float64) Quad {
	out := q
	for i := range q {
		near := func(side int) []Point {
			far := q[(side+3)%4].to(q[side]) * 0.38
			return slices.DeleteFunc(slices.Clone(places[side]), func(p Point) bool { return p.to(q[i]) > far })
		}
		a, okA := through(near(i), 0.0025*size)
		b, okB := through(near((i+1)%4), 0.0025*size)
		if !okA || !okB {
			continue
		}
		if p, ok := a.meet(b); ok && p.to(q[i]) < 0.025*size {
			out[i] = p
		}
	}
	return out
}

// across are the places of the strongest change across a side, at most so far from it; those beyond the picture are
// left out.
func across(a, b Point, reach float64, list [3]plane) (places []Point) {
	w, h := float64(list[0].w), float64(list[0].h)
	length := a.to(b)
	if length < 20 {
		return nil
	}
	nx, ny := -(b.Y-a.Y)/length, (b.X-a.X)/length
	n := int(min(160, max(40, length/6)))
	const half = 0.5
	for k := range n {
		share := 0.02 + 0.96*(float64(k)+half)/float64(n)
		p := a.between(b, share)
		best, bestAt := 0.0, math.NaN()
		profile := func(d float64) (v [3]float64) {
			for j, plane := range list {
				for _, s := range []float64{-3, -1, 1, 3} { // a little along the side, so that noise weighs less
					x, y := p.X+d*nx+s*ny, p.Y+d*ny-s*nx
					v[j] += float64(plane.between(x-half, y-half)) / 4
				}
			}
			return v
		}
		for d := -reach; d <= reach; d++ {
			x, y := p.X+d*nx, p.Y+d*ny
			if x < 3 || y < 3 || x > w-3 || y > h-3 {
				continue
			}
			in, out := profile(d+1.5), profile(d-1.5)
			change := math.Hypot(in[0]-out[0], 1.6*math.Hypot(in[1]-out[1], in[2]-out[2]))
			if in[0] < out[0] { // paper is mostly brighter than what it lies on
				change *= 0.6
			}
			change *= 1 - 0.3*math.Abs(d)/reach
			if change > best {
				best, bestAt = change, d
			}
		}
		if best > 3 {
			places = append(places, Point{p.X + bestAt*nx, p.Y + bestAt*ny})
		}
	}
	return places
}

func lineOf(a, b Point) line {
	angle := math.Atan2(b.Y-a.Y, b.X-a.X) + math.Pi/2
	return line{angle: angle, rho: a.X*math.Cos(angle) + a.Y*math.Sin(angle)}
}

// through is the line through most of the places, within some tolerance: first the best of many through two of them
// (RANSAC, Fischler and Bolles 1981, all pairs of a fixed sample), then by least squares through those that agree.
func through(places []Point, tolerance float64) (l line, ok bool) {
	if len(places) < 8 {
		return l, false
	}
	tolerance = max(1, tolerance)
	agree := func(l line) (n int) {
		nx, ny := l.normal()
		for _, p := range places {
			if math.Abs(nx*p.X+ny*p.Y-l.rho) <= tolerance {
				n++
			}
		}
		return n
	}
	most := 0
	for i := 0; i < len(places); i += max(1, len(places)/16) {
		for k := i + len(places)/5; k < len(places); k += max(1, len(places)/16) {
			if candidate := lineOf(places[i], places[k]); agree(candidate) > most {
				l, most = candidate, agree(candidate)
			}
		}
	}
	if most < max(8, len(places)/3) {
		return l, false
	}
	for range 3 {
		nx, ny := l.normal()
		var n, sx, sy, sxx, sxy, syy float64
		for _, p := range places {
			if math.Abs(nx*p.X+ny*p.Y-l.rho) <= tolerance {
				n, sx, sy = n+1, sx+p.X, sy+p.Y
				sxx, sxy, syy = sxx+p.X*p.X, sxy+p.X*p.Y, syy+p.Y*p.Y
			}
		}
		if n >= 6 {
			l = leastSquares(n, sx, sy, sxx, sxy, syy, l)
		}
	}
	return l, true
}
