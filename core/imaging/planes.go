package imaging

import (
	"image"
	"slices"
)

// A plane is one channel of a picture, 0 to 255.
type plane struct {
	w, h int
	pix  []float32
}

func newPlane(w, h int) plane { return plane{w, h, make([]float32, w*h)} }

func (p plane) at(x, y int) float32 {
	return p.pix[min(max(y, 0), p.h-1)*p.w+min(max(x, 0), p.w-1)]
}

// between is the value at a place between pixels, by the four around it.
func (p plane) between(x, y float64) float32 {
	x0, y0 := int(x), int(y)
	if x < 0 {
		x0--
	}
	if y < 0 {
		y0--
	}
	fx, fy := float32(x-float64(x0)), float32(y-float64(y0))
	top := p.at(x0, y0)*(1-fx) + p.at(x0+1, y0)*fx
	return top*(1-fy) + (p.at(x0, y0+1)*(1-fx)+p.at(x0+1, y0+1)*fx)*fy
}

// planes are light (Rec. 601) and the two colour differences of a picture, made smaller by a whole number so that its
// longer side has side pixels at the most: each pixel is the mean of those it stands for. step is that number.
func planes(p *image.RGBA, side int) (list [3]plane, step int) {
	w, h := p.Rect.Dx(), p.Rect.Dy()
	step = max(1, (max(w, h)+side-1)/side)
	sw, sh := max(1, w/step), max(1, h/step)
	for i := range list {
		list[i] = newPlane(sw, sh)
	}
	n := float32(step * step)
	sums := make([]int, 3*sw)
	for y := range sh {
		clear(sums)
		for dy := range step {
			row := p.Pix[(y*step+dy)*p.Stride:]
			for x := range sw {
				var r, g, b int
				for block := row[4*x*step : 4*(x+1)*step]; len(block) >= 4; block = block[4:] {
					r, g, b = r+int(block[0]), g+int(block[1]), b+int(block[2])
				}
				sum := sums[3*x : 3*x+3 : 3*x+3]
				sum[0], sum[1], sum[2] = sum[0]+r, sum[1]+g, sum[2]+b
			}
		}
		for x := range sw {
			r, g, b := float32(sums[3*x])/n, float32(sums[3*x+1])/n, float32(sums[3*x+2])/n
			light := 0.299*r + 0.587*g + 0.114*b
			list[0].pix[y*sw+x], list[1].pix[y*sw+x], list[2].pix[y*sw+x] = light, 0.564*(b-light), 0.713*(r-light)
		}
	}
	return list, step
}

// extreme is the plane of the largest values within r pixels, or of the smallest.
func (p plane) extreme(r int, largest bool) plane {
	pick := func(a, b float32) float32 {
		if (b > a) == largest {
			return b
		}
		return a
	}
	across, out := newPlane(p.w, p.h), newPlane(p.w, p.h)
	for y := range p.h {
		for x := range p.w {
			v := p.pix[y*p.w+x]
			for d := -r; d <= r; d++ {
				v = pick(v, p.at(x+d, y))
			}
			across.pix[y*p.w+x] = v
		}
	}
	for y := range p.h {
		for x := range p.w {
			v := across.pix[y*p.w+x]
			for d := -r; d <= r; d++ {
				v = pick(v, across.at(x, y+d))
			}
			out.pix[y*p.w+x] = v
		}
	}
	return out
}

// closed is the plane without dark strokes of up to 2r pixels (a grey closing, Serra 1982), such as writing.
func (p plane) closed(r int) plane { return p.extreme(r, true).extreme(r, false) }

// blurred is the plane under a mean of 2r+1 pixels square, done twice, which is nearly a Gauss bell.
func (p plane) blurred(r int) plane {
	for range 2 {
		p = p.mean(r)
	}
	return p
}

// mean is the mean over 2r+1 pixels square, by running sums.
func (p plane) mean(r int) plane {
	n := float32(2*r + 1)
	across, out := newPlane(p.w, p.h), newPlane(p.w, p.h)
	for y := range p.h {
		var sum float32
		for x := -r; x <= r; x++ {
			sum += p.at(x, y)
		}
		for x := range p.w {
			across.pix[y*p.w+x] = sum / n
			sum += p.at(x+r+1, y) - p.at(x-r, y)
		}
	}
	sums := make([]float32, p.w)
	add := func(y int, sign float32) {
		row := across.pix[min(max(y, 0), p.h-1)*p.w:][:p.w]
		for x, v := range row {
			sums[x] += sign * v
		}
	}
	for y := -r; y <= r; y++ {
		add(y, 1)
	}
	for y := range p.h {
		row := out.pix[y*p.w:][:p.w]
		for x := range row {
			row[x] = sums[x] / n
		}
		add(y+r+1, 1)
		add(y-r, -1)
	}
	return out
}

// quantile is the value under which a share of the values lie; the list is sorted by it.
func quantile(values []float32, share float64) float32 {
	if len(values) == 0 {
		return 0
	}
	slices.Sort(values)
	return values[min(len(values)-1, int(share*float64(len(values))))]
}
