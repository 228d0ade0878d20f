package imaging

import (
	"image"
	"image/color"
	"math"
	"math/rand/v2"
	"strings"

	"golang.org/x/image/draw"
	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"
)

// A shot is a synthesised photograph of a page with what is true of it.
type shot struct {
	picture    *image.RGBA
	corners    Quad
	proportion float64 // width over height
	flat       *image.RGBA
}

// sheet draws a page of text, w × h pixels.
func sheet(r *rand.Rand, w, h int) *image.RGBA {
	p := image.NewRGBA(image.Rect(0, 0, w, h))
	white := uint8(225 + r.IntN(31))
	draw.Draw(
		p,
		p.Rect,
		image.NewUniform(color.RGBA{white, white, uint8(max(0, int(white)-r.IntN(12))), 255}),
		image.Point{},
		draw.Src,
	)
	parsed, err := opentype.Parse(goregular.TTF)
	if err != nil {
		panic(err)
	}
	size := float64(h) / (42 + 16*r.Float64())
	face, err := opentype.NewFace(parsed, &opentype.FaceOptions{Size: size, DPI: 72})
	if err != nil {
		panic(err)
	}
	ink := color.RGBA{uint8(r.IntN(60)), uint8(r.IntN(60)), uint8(40 + r.IntN(90)), 255}
	d := font.Drawer{Dst: p, Src: image.NewUniform(ink), Face: face}
	words := strings.Fields(
		"the tide gauge at the north mole was read every hour and the heights of high water agree with the " +
			"printed table within four centimetres except in two nights with wind from the south west when the sea stood higher",
	)
	margin := float64(w) / 11
	for y := margin * 1.3; y < float64(h)-margin; y += size * 1.5 {
		if r.IntN(9) == 0 {
			continue
		}
		line, most := "", 0.85+0.15*r.Float64()
		for {
			next := line + words[r.IntN(len(words))] + " "
			if float64(d.MeasureString(next).Ceil()) > most*(float64(w)-2*margin) {
				break
			}
			line = next
		}
		d.Dot = fixed.P(int(margin), int(y))
		d.DrawString(line)
	}
	if r.IntN(4) == 0 { // a framed drawing
		x, y := w/5+r.IntN(w/8), h/3+r.IntN(h/8)
		frame := image.Rect(x, y, x+w/2, y+h/4)
		draw.Draw(p, frame, image.NewUniform(ink), image.Point{}, draw.Src)
		draw.Draw(p, frame.Inset(3), image.NewUniform(color.White), image.Point{}, draw.Src)
	}
	return p
}

// camera projects a page that lies before it, tilted and turned.
func camera(r *rand.Rand, w, h int, proportion float64) Quad {
	for {
		focal := (0.65 + 0.4*r.Float64()) * float64(max(w, h))
		tiltX, tiltY, spin := (r.Float64()-0.5)*0.9, (r.Float64()-0.5)*0.8, (r.Float64()-0.5)*0.7
		distance := 1.25 + 0.7*r.Float64()
		offX, offY := (r.Float64()-0.5)*0.15, (r.Float64()-0.5)*0.15
		var q Quad
		inside := true
		for i, c := range [4][2]float64{{-1, -1}, {1, -1}, {1, 1}, {-1, 1}} {
			x, y, z := c[0]*proportion/2, c[1]/2, 0.0
			x, y = x*math.Cos(spin)-y*math.Sin(spin), x*math.Sin(spin)+y*math.Cos(spin)
			y, z = y*math.Cos(tiltX)-z*math.Sin(tiltX), y*math.Sin(tiltX)+z*math.Cos(tiltX)
			x, z = x*math.Cos(tiltY)+z*math.Sin(tiltY), -x*math.Sin(tiltY)+z*math.Cos(tiltY)
			z += distance
			q[i] = Point{float64(w)/2 + focal*(x+offX)/z, float64(h)/2 + focal*(y+offY)/z}
			inside = inside && q[i].X > 8 && q[i].Y > 8 && q[i].X < float64(w)-8 && q[i].Y < float64(h)-8
		}
		if inside && q.area() > 0.2*float64(w*h) {
			return q
		}
	}
}

// photograph synthesises one: desk, clutter, a second sheet, the page, curl, fingers, uneven light, blur and noise.
func photograph(seed uint64) shot {
	r := rand.New(rand.NewPCG(seed, 77))
	w, h := 900, 1200
	if r.IntN(3) == 0 {
		w, h = h, w
	}
	proportion := []float64{210.0 / 297, 210.0 / 297, 8.5 / 11, 1.4, 0.62, 1}[r.IntN(6)]
	s := shot{proportion: proportion}
	s.flat = sheet(r, int(1500*min(1, proportion)), int(1500*min(1, proportion)/proportion))
	s.picture = desk(r, w, h)
	s.corners = camera(r, w, h, proportion)
	if r.IntN(4) == 0 {
		other := s.corners
		shift := Point{float64(r.IntN(300) - 150), float64(r.IntN(300) - 150)}
		for i := range other {
			other[i].X, other[i].Y = other[i].X+shift.X, other[i].Y+shift.Y
		}
		lay(s.picture, sheet(r, 700, 1000), other, 0, 0.9)
	}
	curl := 0.0
	if r.IntN(4) == 0 {
		curl = (r.Float64() - 0.5) * 0.03
	}
	lay(s.picture, s.flat, s.corners, curl, 1)
	if r.IntN(4) == 0 {
		finger(r, s.picture, s.corners)
	}
	develop(r, s.picture)
	return s
}

func desk(r *rand.Rand, w, h int) *image.RGBA {
	p := image.NewRGBA(image.Rect(0, 0, w, h))
	base := [][3]float64{{96, 66, 44}, {60, 62, 66}, {150, 120, 90}, {205, 203, 198}, {30, 60, 80}, {120, 130, 120}}[r.IntN(6)]
	grain, turn := 4+18*r.Float64(), r.Float64()*3
	for y := range h {
		for x := range w {
			v := grain * math.Sin((float64(x)*math.Cos(turn)+float64(y)*math.Sin(turn))/17+3*math.Sin(float64(x-y)/190))
			for c := range 3 {
				p.Pix[y*p.Stride+4*x+c] = uint8(min(255, max(0, base[c]+v)))
			}
			p.Pix[y*p.Stride+4*x+3] = 255
		}
	}
	for range r.IntN(6) { // books, pens, cables
		x, y := r.IntN(w), r.IntN(h)
		c := color.RGBA{uint8(r.IntN(256)), uint8(r.IntN(256)), uint8(r.IntN(256)), 255}
		size := image.Pt(40+r.IntN(400), 20+r.IntN(500))
		draw.Draw(
			p,
			image.Rectangle{image.Pt(x, y), image.Pt(x, y).Add(size)},
			image.NewUniform(c),
			image.Point{},
			draw.Src,
		)
	}
	return p
}

// lay puts a sheet into the photograph, with a soft shadow beside it.
func lay(p, page *image.RGBA, q Quad, curl, light float64) {
	m := toQuad(q)
	inverse := inverted(m)
	pw, ph := float64(page.Rect.Dx()), float64(page.Rect.Dy())
	for y := range p.Rect.Dy() {
		for x := range p.Rect.Dx() {
			at := inverse.of(float64(x)+0.5, float64(y)+0.5)
			u, v := at.X, at.Y
			v += curl * math.Sin(u*math.Pi)
			pix := p.Pix[y*p.Stride+4*x:]
			if u < 0 || v < 0 || u > 1 || v > 1 {
				if far := max(-u, u-1, -v, v-1); far < 0.012 {
					for c := range 3 {
						pix[c] = uint8(float64(pix[c]) * (0.72 + 0.28*far/0.012))
					}
				}
				continue
			}
			var px [4]byte
			sample(page, u*pw-0.5, v*ph-0.5, px[:])
			for c := range 3 {
				pix[c] = uint8(float64(px[c]) * light)
			}
		}
	}
}

func inverted(m homography) homography {
	return homography{
		m[4]*m[8] - m[5]*m[7], m[2]*m[7] - m[1]*m[8], m[1]*m[5] - m[2]*m[4],
		m[5]*m[6] - m[3]*m[8], m[0]*m[8] - m[2]*m[6], m[2]*m[3] - m[0]*m[5],
		m[3]*m[7] - m[4]*m[6], m[1]*m[6] - m[0]*m[7], m[0]*m[4] - m[1]*m[3],
	}
}

func finger(r *rand.Rand, p *image.RGBA, q Quad) {
	at := q[0].between(q[1], 0.3+0.4*r.Float64())
	rx, ry := 40+30*r.Float64(), 60+60*r.Float64()
	for y := range p.Rect.Dy() {
		for x := range p.Rect.Dx() {
			dx, dy := (float64(x)-at.X)/rx, (float64(y)-at.Y)/ry
			if d := dx*dx + dy*dy; d < 1 {
				shade := 1 - 0.3*d
				copy(p.Pix[y*p.Stride+4*x:], []byte{uint8(224 * shade), uint8(172 * shade), uint8(140 * shade)})
			}
		}
	}
}

// develop gives the photograph uneven light, a little blur and noise.
func develop(r *rand.Rand, p *image.RGBA) {
	w, h := float64(p.Rect.Dx()), float64(p.Rect.Dy())
	gx, gy, dim := (r.Float64()-0.5)*0.7, (r.Float64()-0.5)*0.7, 0.6+0.4*r.Float64()
	noise := 2 + 7*r.Float64()
	blur := r.IntN(2)
	var list [3]plane
	for c := range list {
		list[c] = newPlane(p.Rect.Dx(), p.Rect.Dy())
		for i := range list[c].pix {
			list[c].pix[i] = float32(p.Pix[4*i+c])
		}
		if blur > 0 {
			list[c] = list[c].mean(1)
		}
	}
	for y := range p.Rect.Dy() {
		for x := range p.Rect.Dx() {
			light := dim * (1 + gx*(float64(x)/w-0.5) + gy*(float64(y)/h-0.5))
			for c := range 3 {
				v := float64(list[c].pix[y*p.Rect.Dx()+x])*light + noise*r.NormFloat64()
				p.Pix[y*p.Stride+4*x+c] = uint8(min(255, max(0, v)))
			}
		}
	}
}
