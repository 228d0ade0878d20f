package inspect

import (
	"bytes"
	"encoding/binary"
	"image"
	_ "image/gif"  // decoders
	_ "image/jpeg" //
	_ "image/png"  //

	_ "golang.org/x/image/bmp" //
	"golang.org/x/image/draw"
	_ "golang.org/x/image/tiff" //
	_ "golang.org/x/image/webp" //
)

// mostPixels bounds the pictures that are decoded; larger ones keep size and orientation only.
const mostPixels = 60_000_000

// longestSide is the size at which sharpness is measured, so that it does not depend on the camera.
const longestSide = 2000

func (f *Facts) picture(data []byte) {
	config, _, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		f.problem("damaged", "width", "The picture does not open: %v.", err)
		return
	}
	f.Width, f.Height = &config.Width, &config.Height
	orientation, position := exif(data)
	f.Orientation = &orientation
	f.HasPosition = ref(position || bytes.Contains(data, []byte("exif:GPSLatitude")))
	if config.Width*config.Height > mostPixels {
		f.problem("too_large", "sharpness", "The picture has over 60 million pixels.")
		return
	}
	picture, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		f.problem("truncated", "sharpness", "The picture breaks off: %v.", err)
		return
	}
	grey := greyAt(picture, longestSide)
	f.Sharpness, f.Exposure = ref(laplacianVariance(grey)), ref(mean(grey))
}

// greyAt is the Rec. 601 grey picture with at most side pixels on its longer side.
func greyAt(p image.Image, side int) *image.Gray {
	b := p.Bounds()
	w, h := b.Dx(), b.Dy()
	if longer := max(w, h); longer > side {
		w, h = max(1, w*side/longer), max(1, h*side/longer)
	}
	grey := image.NewGray(image.Rect(0, 0, w, h))
	draw.ApproxBiLinear.Scale(grey, grey.Bounds(), p, b, draw.Src, nil)
	return grey
}

// laplacianVariance is the focus measure of Pech-Pacheco et al. (2000): the variance of the
// 4-neighbour Laplacian. Pictures without an inner pixel have 0.
func laplacianVariance(g *image.Gray) float64 {
	w, h := g.Rect.Dx(), g.Rect.Dy()
	if w < 3 || h < 3 {
		return 0
	}
	var sum, squares float64
	for y := 1; y < h-1; y++ {
		above, row, below := g.Pix[(y-1)*g.Stride:], g.Pix[y*g.Stride:], g.Pix[(y+1)*g.Stride:]
		for x := 1; x < w-1; x++ {
			l := float64(int(above[x]) + int(below[x]) + int(row[x-1]) + int(row[x+1]) - 4*int(row[x]))
			sum += l
			squares += l * l
		}
	}
	n := float64((w - 2) * (h - 2))
	return squares/n - (sum/n)*(sum/n)
}

func mean(g *image.Gray) float64 {
	sum := 0
	for _, v := range g.Pix {
		sum += int(v)
	}
	return float64(sum) / 255 / float64(max(1, len(g.Pix)))
}

// exif reads orientation (1 where none is given) and whether a position is stored (CIPA DC-008,
// tags 0x0112 and 0x8825), from the first EXIF block of a picture.
func exif(data []byte) (orientation int, position bool) {
	orientation = 1
	at := bytes.Index(data, []byte("Exif\x00\x00"))
	tiff := data
	if at >= 0 {
		tiff = data[at+6:]
	} else if at = bytes.Index(data, []byte("eXIf")); at >= 0 {
		tiff = data[at+4:]
	}
	if len(tiff) < 8 {
		return
	}
	var order binary.ByteOrder
	switch string(tiff[:4]) {
	case "II*\x00":
		order = binary.LittleEndian
	case "MM\x00*":
		order = binary.BigEndian
	default:
		return
	}
	from := int(order.Uint32(tiff[4:]))
	if from < 8 || from+2 > len(tiff) {
		return
	}
	for i := range int(order.Uint16(tiff[from:])) {
		entry := from + 2 + 12*i
		if entry+12 > len(tiff) {
			return
		}
		switch order.Uint16(tiff[entry:]) {
		case 0x0112:
			if v := int(order.Uint16(tiff[entry+8:])); v >= 1 && v <= 8 {
				orientation = v
			}
		case 0x8825:
			position = true
		}
	}
	return
}
