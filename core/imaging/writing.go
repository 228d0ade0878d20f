package imaging

import (
	"image"
	"slices"
)

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

// Standing tells which end of a page whose lines run across it is up, from 1 (it stands upright) to -1 (on its head):
// letters of most scripts that have upper and lower case reach far more often above their middle zone than below it
// (Caprari 2000, “Algorithm for text page up/down orientation determination”, shows it for English). Around 0, and
// where there are fewer than a dozen pieces of lines, nothing is told.
func Standing(p *image.RGBA) float64 {
	list, _ := planes(p, 1700)
	g := list[0]
	margin := min(g.w, g.h) / 20
	above, below, lines := 0.0, 0.0, 0
	const strips = 6 // so that lines which are not quite level keep their zones
	for s := range strips {
		left := margin + (g.w-2*margin)*s/strips
		right := margin + (g.w-2*margin)*(s+1)/strips
		ink := make([]float64, g.h)
		for y := margin; y < g.h-margin; y++ {
			for _, v := range g.pix[y*g.w+left : y*g.w+right] {
				ink[y] += max(0, 200-float64(v))
			}
		}
		a, b, n := zones(ink)
		above, below, lines = above+a, below+b, lines+n
	}
	if lines < 12 || above+below == 0 {
		return 0
	}
	return (above - below) / (above + below)
}

// zones sums the ink beside the middle zones of the lines of a strip: as far above as each zone is high, and below.
func zones(ink []float64) (above, below float64, lines int) {
	dense := slices.Clone(ink)
	slices.Sort(dense)
	level := dense[len(dense)*95/100] * 0.5
	if level == 0 {
		return 0, 0, 0
	}
	for y := 0; y < len(ink); {
		if ink[y] < level {
			y++
			continue
		}
		from := y
		for y < len(ink) && ink[y] >= level {
			y++
		}
		height := y - from
		if height < 4 || height > len(ink)/20 || from < height || y+height > len(ink) {
			continue
		}
		lines++
		for d := range height {
			above += ink[from-1-d]
			below += ink[y+d]
		}
	}
	return above, below, lines
}
