package inspect

import (
	"bytes"
	"cmp"
	"encoding/binary"
	"errors"
	"image"
	"image/color"
	_ "image/gif" // a decoder
	"image/jpeg"
	"image/png"
	"slices"
	"strings"

	"github.com/bep/imagemeta"
	"golang.org/x/image/bmp"
	"golang.org/x/image/draw"
	"golang.org/x/image/tiff"
	_ "golang.org/x/image/webp" // a decoder
)

// mostDecoded bounds the memory that a decoded picture takes, in bytes; of larger ones size and orientation are known
// only. It is 50 million pixels of a photograph.
const mostDecoded = 150_000_000

// decoded is how much memory a picture takes when it is decoded.
func decoded(c image.Config) int {
	perPixel := 8
	switch c.ColorModel {
	case color.YCbCrModel:
		perPixel = 3
	case color.GrayModel:
		perPixel = 1
	case color.RGBAModel, color.NRGBAModel, color.CMYKModel:
		perPixel = 4
	}
	if _, ok := c.ColorModel.(color.Palette); ok {
		perPixel = 1
	}
	if c.Height > 0 && c.Width > mostDecoded/c.Height {
		return mostDecoded + 1
	}
	return c.Width * c.Height * perPixel
}

// longestSide is the size at which sharpness is measured, so that it does not depend on the camera.
const longestSide = 2000

func (f *Facts) picture(data []byte) {
	config, form, err := image.DecodeConfig(bytes.NewReader(data))
	if unusual(err) { // others may open it
		m := metadata(f.Kind, data)
		if f.Kind == "bmp" {
			m.width, m.height = bmpSize(data)
		}
		if m.width > 0 && m.height > 0 {
			f.Width, f.Height, f.Orientation = &m.width, &m.height, &m.orientation
		}
		f.ofPicture(m)
		f.problem("unsupported", "sharpness", "The picture is of a kind that is not looked at here: %v.", err)
		return
	}
	if err != nil {
		f.problem("damaged", "width", "The picture does not open: %v.", err)
		return
	}
	f.Width, f.Height = &config.Width, &config.Height
	m := metadata(form, data)
	f.Orientation = &m.orientation
	f.ofPicture(m)
	if decoded(config) > mostDecoded {
		f.problem("too_large", "sharpness", "The picture is too large to be looked at whole.")
		return
	}
	picture, _, err := image.Decode(bytes.NewReader(data))
	if unusual(err) {
		f.problem("unsupported", "sharpness", "The picture is of a kind that is not looked at here: %v.", err)
		return
	}
	if err != nil {
		f.problem("truncated", "sharpness", "The picture breaks off: %v.", err)
		return
	}
	grey := greyAt(picture, longestSide)
	f.Sharpness, f.Exposure = ref(laplacianVariance(grey)), ref(mean(grey))
}

// unusual says that a decoder does not know a feature, and not that the picture is damaged.
func unusual(err error) bool {
	var ofJPEG jpeg.UnsupportedError
	var ofPNG png.UnsupportedError
	var ofTIFF tiff.UnsupportedError
	return errors.As(err, &ofJPEG) || errors.As(err, &ofPNG) || errors.As(err, &ofTIFF) ||
		errors.Is(err, bmp.ErrUnsupported)
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

// heic knows a picture of this form (ISO/IEC 23008-12) by what its boxes say; its pixels are not opened. Width and
// height are those that a decoder gives, turned as the boxes say; the orientation is that of EXIF.
func (f *Facts) heic(data []byte) {
	m := metadata("heic", data)
	if m.width <= 0 || m.height <= 0 {
		f.problem("damaged", "width", "The picture does not say how large it is.")
		return
	}
	f.Width, f.Height, f.Orientation = &m.width, &m.height, &m.orientation
	f.ofPicture(m)
}

// ofPicture adds where a picture was taken and by whom.
func (f *Facts) ofPicture(m stored) {
	f.HasPosition = &m.position
	f.people(m.author, m.personal)
}

// bmpSize is what the header of a BMP says, whatever its pixels are like; from its top or from its bottom.
func bmpSize(data []byte) (width, height int) {
	switch {
	case len(data) >= 26 && binary.LittleEndian.Uint32(data[14:]) == 12: // of OS/2
		return int(binary.LittleEndian.Uint16(data[18:])), int(binary.LittleEndian.Uint16(data[20:]))
	case len(data) >= 26:
		width = int(int32(binary.LittleEndian.Uint32(data[18:])))
		height = int(int32(binary.LittleEndian.Uint32(data[22:])))
		return width, max(height, -height)
	}
	return 0, 0
}

// Orientation is how a picture has to be turned to be seen as it was taken (EXIF, CIPA DC-008, tag 274), 1 to 8.
func Orientation(kind string, data []byte) int { return metadata(kind, data).orientation }

// holders are the forms that hold such data.
var holders = map[string]imagemeta.ImageFormat{
	"jpeg": imagemeta.JPEG, "png": imagemeta.PNG, "tiff": imagemeta.TIFF, "webp": imagemeta.WebP,
	"heic": imagemeta.HEIF,
}

// stored is what is stored with a picture's pixels.
type stored struct {
	width, height int // 0: not said
	orientation   int // 1 where none is given
	position      bool
	author        string
	personal      []Trait
}

// authorTags and personalTags are what EXIF, IPTC (IIM 4.2) and XMP call who took a picture, and what tells of her or
// of her camera.
var (
	authorTags   = []string{"Artist", "Byline", "By-line", "By-Line", "Creator", "creator"}
	personalTags = map[string]string{
		"CameraOwnerName": "owner", "OwnerName": "owner", "BodySerialNumber": "serial number",
		"SerialNumber": "serial number", "LensSerialNumber": "serial number of the lens", "Copyright": "rights",
		"CopyrightNotice": "rights", "Credit": "credit",
	}
)

// metadata reads what EXIF (CIPA DC-008), the form's own headers and, of a position, XMP say. What cannot be read tells
// nothing.
func metadata(form string, data []byte) stored {
	m := stored{orientation: 1, position: bytes.Contains(data, []byte("exif:GPSLatitude"))} // XMP in any form
	result, err := imagemeta.Decode(imagemeta.Options{
		R:           bytes.NewReader(data),
		ImageFormat: holders[form],
		Sources:     imagemeta.EXIF | imagemeta.IPTC | imagemeta.XMP | imagemeta.CONFIG,
		ShouldHandleTag: func(t imagemeta.TagInfo) bool {
			return t.Tag == "Orientation" || ofPosition(t) || slices.Contains(authorTags, t.Tag) ||
				personalTags[t.Tag] != ""
		},
		HandleTag: func(t imagemeta.TagInfo) error {
			if said := plain(t.Value); slices.Contains(authorTags, t.Tag) {
				m.author = cmp.Or(m.author, said)
				return nil
			} else if what := personalTags[t.Tag]; what != "" {
				if trait := (Trait{what, said}); !slices.Contains(m.personal, trait) {
					m.personal = append(m.personal, trait)
				}
				return nil
			}
			if v, ok := t.Value.(uint16); ok && v >= 1 && v <= 8 && !ofPosition(t) {
				m.orientation = int(v)
			}
			m.position = m.position || ofPosition(t)
			return nil
		},
		LimitNumTags: 5000,
	})
	if err == nil {
		m.width, m.height = result.ImageConfig.Width, result.ImageConfig.Height
	}
	return m
}

// plain is a value as a text: the first of several.
func plain(value any) string {
	switch v := value.(type) {
	case string:
		return strings.TrimSpace(strings.Trim(v, "\x00"))
	case []string:
		if len(v) > 0 {
			return strings.TrimSpace(v[0])
		}
	case []any:
		if len(v) > 0 {
			return plain(v[0])
		}
	}
	return ""
}

// ofPosition says that a tag tells where; cameras write others of the GPS directory, such as its version, without
// knowing that. The tags of the interoperability directory (CIPA DC-008 §4.6.7), which nearly every camera
// writes, have the same numbers and are called the same by the reader.
func ofPosition(t imagemeta.TagInfo) bool {
	if strings.Contains(t.Namespace, "Interoperability") {
		return false
	}
	switch t.Tag {
	case "GPSLatitude", "GPSLongitude", "GPSDestLatitude", "GPSDestLongitude", "GPSAreaInformation":
		return true
	}
	return false
}
