package imaging

import "image"

// Lines tells whether the lines of a page's writing run across it or down: how much more the ink changes from row to
// row than from column to column. Well over 1 they run across, well under 1 down; around 1, or on an empty page,
// nothing is told. Which end is up it does not say.
func Lines(p *image.RGBA) float64 {
	list, _ := planes(p, 900)
	g := list[0]
	margin := min(g.w, g.h) / 20 // edges of the paper are no writing
	rows, columns := make([]float64, g.h), make([]float64, g.w)
	for y := margin; y < g.h-margin; y++ {
		for x := margin; x < g.w-margin; x++ {
			if ink := 200 - float64(g.pix[y*g.w+x]); ink > 0 {
				rows[y] += ink
				columns[x] += ink
			}
		}
	}
	across, down := unrest(rows[margin:max(margin, g.h-margin)]), unrest(columns[margin:max(margin, g.w-margin)])
	if across+down == 0 {
		return 1
	}
	return (across + 0.01*down) / (down + 0.01*across)
}

// unrest is the mean square of how much values differ from those around them, over the square of their mean.
func unrest(values []float64) (sum float64) {
	mean := 0.0
	for _, v := range values {
		mean += v / float64(len(values))
	}
	if mean == 0 {
		return 0
	}
	const r = 4
	for i := r; i+r < len(values); i++ {
		d := (2*values[i] - values[i-r] - values[i+r]) / mean
		sum += d * d / float64(len(values))
	}
	return sum
}
