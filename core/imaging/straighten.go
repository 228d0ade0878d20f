package imaging

import (
	"image"
	"math"
	"runtime"
	"sync"
)

// A homography maps points of one plane to another: x' = (m0 x + m1 y + m2) / (m6 x + m7 y + m8), y' likewise.
type homography [9]float64

// toQuad maps the unit square to a quad (Heckbert 1989, “Fundamentals of Texture Mapping and Image Warping”, § 2.2.3).
func toQuad(q Quad) homography {
	dx1, dx2 := q[1].X-q[2].X, q[3].X-q[2].X
	dy1, dy2 := q[1].Y-q[2].Y, q[3].Y-q[2].Y
	sx := q[0].X - q[1].X + q[2].X - q[3].X
	sy := q[0].Y - q[1].Y + q[2].Y - q[3].Y
	det := dx1*dy2 - dx2*dy1
	g, h := (sx*dy2-dx2*sy)/det, (dx1*sy-sx*dy1)/det
	return homography{
		q[1].X - q[0].X + g*q[1].X, q[3].X - q[0].X + h*q[3].X, q[0].X,
		q[1].Y - q[0].Y + g*q[1].Y, q[3].Y - q[0].Y + h*q[3].Y, q[0].Y,
		g, h, 1,
	}
}

func (m *homography) of(x, y float64) Point {
	d := m[6]*x + m[7]*y + m[8]
	return Point{(m[0]*x + m[1]*y + m[2]) / d, (m[3]*x + m[4]*y + m[5]) / d}
}

// Straighten lays a quad of a photograph flat, as a picture of w × h pixels; what lies outside of the photograph is
// white. Values between pixels are interpolated linearly.
func Straighten(p *image.RGBA, q Quad, w, h int) *image.RGBA {
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	m := toQuad(q)
	rows(h, func(y int) {
		row := out.Pix[y*out.Stride:]
		for x := range w {
			at := m.of((float64(x)+0.5)/float64(w), (float64(y)+0.5)/float64(h))
			sample(p, at.X-0.5, at.Y-0.5, row[4*x:4*x+4:4*x+4])
		}
	})
	return out
}

// rows does something for each row of a picture, on all processors.
func rows(h int, do func(y int)) {
	var all sync.WaitGroup
	parts := min(runtime.GOMAXPROCS(0), h)
	for n := range parts {
		all.Go(func() {
			for y := n * h / parts; y < (n+1)*h/parts; y++ {
				do(y)
			}
		})
	}
	all.Wait()
}

func sample(p *image.RGBA, x, y float64, to []byte) {
	w, h := p.Rect.Dx(), p.Rect.Dy()
	if x <= -1 || y <= -1 || x >= float64(w) || y >= float64(h) {
		to[0], to[1], to[2], to[3] = 255, 255, 255, 255
		return
	}
	x, y = max(x, 0), max(y, 0)
	x0, y0 := min(int(x), w-1), min(int(y), h-1)
	x1, y1 := min(x0+1, w-1), min(y0+1, h-1)
	fx, fy := int32((x-float64(x0))*256), int32((y-float64(y0))*256)
	upper, lower := p.Pix[y0*p.Stride:], p.Pix[y1*p.Stride:]
	a, b := upper[4*x0:4*x0+3:4*x0+3], upper[4*x1:4*x1+3:4*x1+3]
	c, d := lower[4*x0:4*x0+3:4*x0+3], lower[4*x1:4*x1+3:4*x1+3]
	for i := range 3 {
		top := int32(a[i])*(256-fx) + int32(b[i])*fx
		bottom := int32(c[i])*(256-fx) + int32(d[i])*fx
		to[i] = byte((top*(256-fy) + bottom*fy + 1<<15) >> 16)
	}
	to[3] = 255
}

// usualFocal is the focal length of a telephone's camera, in parts of the photograph's longer side (common practice: 26
// to 28 mm where the longer side of the frame is 36 mm). It is used where the perspective does not tell.
const usualFocal = 0.75

// Proportion is the true width of a flat rectangle over its height, seen as a quad in a photograph of w × h pixels
// whose axis goes through its middle (Zhang and He 2007, “Whiteboard scanning and image enhancement”, § 3). Where the
// sides run nearly parallel, the focal length is taken as that of usual cameras.
func Proportion(q Quad, w, h int) float64 {
	cx, cy := float64(w)/2, float64(h)/2
	at := func(p Point) [3]float64 { return [3]float64{p.X - cx, p.Y - cy, 1} }
	m1, m2, m3, m4 := at(q[0]), at(q[1]), at(q[3]), at(q[2])
	k2 := dot(cross(m1, m4), m3) / dot(cross(m2, m4), m3)
	k3 := dot(cross(m1, m4), m2) / dot(cross(m3, m4), m2)
	var n2, n3 [3]float64
	for i := range n2 {
		n2[i], n3[i] = k2*m2[i]-m1[i], k3*m3[i]-m1[i]
	}
	longer := float64(max(w, h))
	f2 := -(n2[0]*n3[0] + n2[1]*n3[1]) / (n2[2] * n3[2])
	if focal := math.Sqrt(f2) / longer; !(focal > 0.45 && focal < 2.2) || math.Abs(n2[2]) < 0.04 ||
		math.Abs(n3[2]) < 0.04 {
		f2 = usualFocal * usualFocal * longer * longer
	}
	size := func(n [3]float64) float64 { return (n[0]*n[0]+n[1]*n[1])/f2 + n[2]*n[2] }
	return math.Sqrt(size(n2) / size(n3))
}

func cross(a, b [3]float64) [3]float64 {
	return [3]float64{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
}

func dot(a, b [3]float64) float64 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }

// A Paper is a size of paper in points (72 to the inch), upright.
type Paper struct{ Width, Height float64 }

// The papers that are told by their proportions: ISO 216 A4 (210 × 297 mm) and Letter (ANSI Y14.1, 8.5 × 11 in).
var (
	A4     = Paper{210 / 25.4 * 72, 297 / 25.4 * 72}
	Letter = Paper{612, 792}
)

// PaperOf is the size of a page of some proportion (width over height): that of A4 or Letter where it has their shape
// within a thirtieth, turned if it lies on its side; else as long as A4 is.
func PaperOf(proportion float64) Paper {
	upright := min(proportion, 1/proportion)
	size := Paper{A4.Height * upright, A4.Height}
	for _, known := range []Paper{A4, Letter} {
		if math.Abs(upright*known.Height/known.Width-1) < 1.0/30 {
			size = known
		}
	}
	if proportion > 1 {
		return Paper{size.Height, size.Width}
	}
	return size
}
