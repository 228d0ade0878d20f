package imaging

import (
	"cmp"
	"image"
	"math"
	"slices"
)

// A Point is a place in a picture, in pixels from its upper left corner; the middle of the first pixel is 0.5, 0.5.
type Point struct{ X, Y float64 }

func (p Point) to(o Point) float64 { return math.Hypot(o.X-p.X, o.Y-p.Y) }

// between is the point that lies a share of the way to another.
func (p Point) between(o Point, share float64) Point {
	return Point{p.X + (o.X-p.X)*share, p.Y + (o.Y-p.Y)*share}
}

// A Quad is four corners, clockwise as they are seen, from the one that is nearest to the picture's upper left.
type Quad [4]Point

// scaled is the quad in a picture that is larger by a factor.
func (q Quad) scaled(by float64) Quad {
	for i := range q {
		q[i].X, q[i].Y = q[i].X*by, q[i].Y*by
	}
	return q
}

// area is in square pixels; negative where the corners run the other way round.
func (q Quad) area() (sum float64) {
	for i, p := range q {
		o := q[(i+1)%4]
		sum += p.X*o.Y - o.X*p.Y
	}
	return sum / 2
}

// Convex says that the corners run clockwise and none is bent in.
func (q Quad) Convex() bool {
	for i := range q {
		a, b, c := q[i], q[(i+1)%4], q[(i+2)%4]
		if (b.X-a.X)*(c.Y-b.Y)-(b.Y-a.Y)*(c.X-b.X) <= 0 {
			return false
		}
	}
	return true
}

// Whole is the quad of all of a picture.
func Whole(p image.Image) Quad {
	w, h := float64(p.Bounds().Dx()), float64(p.Bounds().Dy())
	return Quad{{0, 0}, {w, 0}, {w, h}, {0, h}}
}

// Sizes at which a page is looked for, and at which its sides are measured, in pixels of the longer side.
const (
	searchSide  = 640
	measureSide = 1800
)

// leastScore is the score under which no page is taken to be there. It was settled on half of the tests' synthesised
// photographs.
const leastScore = 2.0

// A candidate is four lines that may be the sides of a page.
type candidate struct {
	Quad
	sides [4]*run
	score float64
}

// FindPage finds the corners of the page in an upright photograph: of all the quadrangles that straight edges make, the
// one whose sides lie on edges from corner to corner and not beyond, that tells itself from what is around it, and that
// is bright and large. Corners may lie outside of the photograph. ok is false where there is none.
func FindPage(p *image.RGBA) (q Quad, ok bool) {
	list, step := planes(p, searchSide)
	list[0] = list[0].closed(2)
	for i := range list {
		list[i] = list[i].blurred(1)
	}
	w, h := list[0].w, list[0].h
	found := edges(list)
	sides := runs(straight(found, w, h), found, w, h)
	candidates := quads(sides, w, h)
	best := candidate{score: math.Inf(-1)}
	for _, c := range candidates {
		if c.score += c.seen(list); c.score > best.score {
			best = c
		}
	}
	if best.score < leastScore {
		return q, false
	}
	fine, fineStep := planes(p, measureSide)
	measured := measure(best.scaled(float64(step)/float64(fineStep)), fine)
	return measured.scaled(float64(fineStep)).ordered(), true
}

// ordered begins with the corner that is nearest to the picture's upper left.
func (q Quad) ordered() Quad {
	first := 0
	for i, p := range q {
		if p.X+p.Y < q[first].X+q[first].Y {
			first = i
		}
	}
	return Quad{q[first], q[(first+1)%4], q[(first+2)%4], q[(first+3)%4]}
}

// mostCandidates are looked at closely.
const mostCandidates = 80

// quads are the likeliest quadrangles that lines make, scored by how their sides lie on edges.
func quads(sides []run, w, h int) (list []candidate) {
	type pair struct{ a, b *run }
	var pairs []pair
	for i := range sides {
		for k := i + 1; k < len(sides); k++ {
			if turnedBy(sides[i].angle, sides[k].angle) < 50*math.Pi/180 {
				pairs = append(pairs, pair{&sides[i], &sides[k]})
			}
		}
	}
	for i, p := range pairs {
		for _, o := range pairs[i+1:] {
			if turnedBy(p.a.angle, o.a.angle) < 30*math.Pi/180 || turnedBy(p.b.angle, o.b.angle) < 30*math.Pi/180 ||
				turnedBy(p.a.angle, o.b.angle) < 30*math.Pi/180 || turnedBy(p.b.angle, o.a.angle) < 30*math.Pi/180 {
				continue
			}
			if c, ok := quadOf([4]*run{p.a, o.a, p.b, o.b}, w, h); ok {
				list = append(list, c)
			}
		}
	}
	slices.SortFunc(list, func(a, b candidate) int { return cmp.Compare(b.score, a.score) })
	return list[:min(len(list), mostCandidates)]
}

// quadOf is the quadrangle of four lines, the sides in their order; ok is false where it can't be a page.
func quadOf(sides [4]*run, w, h int) (c candidate, ok bool) {
	for i := range sides {
		p, meets := sides[i].meet(sides[(i+1)%4].line)
		outX, outY := 0.2*float64(w), 0.2*float64(h)
		if !meets || p.X < -outX || p.Y < -outY || p.X > float64(w)+outX || p.Y > float64(h)+outY {
			return c, false
		}
		c.Quad[i] = p
	}
	// Side i runs from corner i-1 to corner i.
	c.sides = sides
	if c.area() < 0 {
		c.Quad = Quad{c.Quad[3], c.Quad[2], c.Quad[1], c.Quad[0]}
		c.sides = [4]*run{sides[0], sides[3], sides[2], sides[1]}
	}
	share := c.area() / float64(w*h)
	if !c.Convex() || share < 0.08 {
		return c, false
	}
	least, sum, beyond := 1.0, 0.0, 0.0
	for i, s := range c.sides {
		from, to := s.along(c.Quad[(i+3)%4]), s.along(c.Quad[i])
		if math.Abs(to-from) < 0.12*float64(min(w, h)) {
			return c, false
		}
		on := s.covered(from, to)
		least, sum = min(least, on), sum+on
		past := (to - from) * 0.14
		beyond += (s.covered(to+past*0.15, to+past) + s.covered(from-past*0.15, from-past)) / 2
	}
	if sum < 1.4 {
		return c, false
	}
	c.score = 1.5*sum/4 + 0.7*least - 0.5*beyond/4 + 0.9*math.Sqrt(min(share, 1))
	return c, true
}

// seen is what a quadrangle's look says for it: what lies on either side of its sides differs, and it is brighter
// within.
func (c *candidate) seen(list [3]plane) float64 {
	w, h := float64(list[0].w), float64(list[0].h)
	const steps, off = 24, 5.0
	differs, brighter, sides, strange := 0.0, 0.0, 0.0, 0.0
	for i := range c.Quad {
		a, b := c.Quad[(i+3)%4], c.Quad[i]
		length := a.to(b)
		nx, ny := -(b.Y-a.Y)/length, (b.X-a.X)/length // inwards, the corners running clockwise
		var in, out [3]float64
		n := 0.0
		var lights []float32 // just within
		for k := range steps {
			p := a.between(b, (float64(k)+0.5)/steps)
			x, y := p.X-off*nx, p.Y-off*ny
			if x < 0 || y < 0 || x >= w || y >= h || p.X < 0 || p.Y < 0 || p.X >= w || p.Y >= h {
				continue
			}
			for j, plane := range list {
				in[j] += float64(plane.between(p.X+off*nx, p.Y+off*ny))
				out[j] += float64(plane.between(x, y))
			}
			lights = append(lights, list[0].between(p.X+off*nx, p.Y+off*ny))
			n++
		}
		if n < steps/4 {
			continue
		}
		sides++
		strange += unlike(lights)
		light := (in[0] - out[0]) / n
		colour := 1.6 * math.Hypot(in[1]-out[1], in[2]-out[2]) / n
		differs += min(1, math.Hypot(light, colour)/30)
		brighter += min(1, max(-1, light/25))
	}
	if sides == 0 {
		return 0
	}
	return 0.6*differs/sides + 0.5*brighter/sides - 1.2*strange/sides
}

// unlike is the share of values that are far from the middle one: along a side, paper is of one brightness.
func unlike(values []float32) float64 {
	middle, n := quantile(slices.Clone(values), 0.5), 0
	for _, v := range values {
		if v < 0.8*middle || v > 1.25*middle {
			n++
		}
	}
	return float64(n) / float64(len(values))
}
