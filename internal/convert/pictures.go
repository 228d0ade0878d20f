package convert

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	"image/png"
	"io"
	"os"
	"path/filepath"
	"slices"

	"golang.org/x/image/draw"
	"golang.org/x/image/tiff"

	"orario/core/imaging"
	"orario/core/inspect"
	"orario/core/wording"
	"orario/internal/confine"
)

// usualQuality of JPEG: text and drawings show no fringes.
const usualQuality = 88

// decodePictures are the pictures in a file, upright and on white.
func (t *Tools) decodePictures(ctx context.Context, f inspect.Named, kind string) (list []*image.RGBA, err error) {
	data := f.Data
	orientation := 1
	switch kind {
	case "heic":
		if data, err = t.fromHEIC(ctx, f.Data); err != nil { // it turns them by itself
			return nil, fmt.Errorf("%s does not open here: %w", f.Name, err)
		}
	case "tiff":
		return tiffPages(f)
	default:
		orientation = inspect.Orientation(kind, f.Data)
	}
	if err := bearable(f.Name, image.DecodeConfig, data, 0); err != nil {
		return nil, err
	}
	p, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return nil, fmt.Errorf("%s cannot be converted. The picture does not open: %w", f.Name, err)
	}
	return []*image.RGBA{imaging.Upright(imaging.OnWhite(p), orientation)}, nil
}

// mostPixels bounds the pictures of one file: they take four bytes each when they are open. A photograph of a telephone
// has up to fifty million.
const mostPixels = 100_000_000

// bearable refuses a picture that says it has more pixels than can be opened here, beside those that are open already.
func bearable(name string, read func(io.Reader) (image.Config, string, error), data []byte, open int) error {
	c, _, err := read(bytes.NewReader(data))
	if err != nil {
		return nil //nolint:nilerr // opening it will tell
	}
	if c.Width > 0 && c.Height > (mostPixels-open)/c.Width {
		return fmt.Errorf("%s cannot be opened. It has %d × %d pixels, and %d million are the most; make it smaller "+
			"on your computer", name, c.Width, c.Height, mostPixels/1_000_000)
	}
	return nil
}

func ofTIFF(r io.Reader) (image.Config, string, error) {
	c, err := tiff.DecodeConfig(r)
	return c, "tiff", err
}

// tiffPages are the pages of a TIFF (6.0, section 2): each has a directory that names the next one's place.
func tiffPages(f inspect.Named) (list []*image.RGBA, err error) {
	data := slices.Clone(f.Data)
	if len(data) < 8 {
		return nil, fmt.Errorf("%s cannot be converted. It is cut off", f.Name)
	}
	var order binary.ByteOrder = binary.LittleEndian
	if data[0] == 'M' {
		order = binary.BigEndian
	}
	seen, open := map[uint32]bool{}, 0
	for at := order.Uint32(data[4:]); at != 0 && !seen[at]; {
		seen[at] = true
		if int64(at)+2 > int64(len(data)) || len(seen) > 500 {
			return nil, fmt.Errorf("%s cannot be converted. It is cut off", f.Name)
		}
		order.PutUint32(data[4:], at)
		if err := bearable(f.Name, ofTIFF, data, open); err != nil {
			return nil, err
		}
		p, err := tiff.Decode(bytes.NewReader(data))
		if err != nil {
			return nil, fmt.Errorf("%s cannot be converted. Page %d does not open: %w", f.Name, len(seen), err)
		}
		open += p.Bounds().Dx() * p.Bounds().Dy()
		list = append(list, imaging.Upright(imaging.OnWhite(p), tiffOrientation(data, order, at)))
		next := int64(at) + 2 + 12*int64(order.Uint16(data[at:]))
		if next+4 > int64(len(data)) {
			break
		}
		at = order.Uint32(data[next:])
	}
	if len(list) == 0 {
		return nil, fmt.Errorf("%s cannot be converted. It holds no picture", f.Name)
	}
	return list, nil
}

// tiffOrientation is tag 274 of the directory at a place; 1 where it lacks.
func tiffOrientation(data []byte, order binary.ByteOrder, at uint32) int {
	for i := range int64(order.Uint16(data[at:])) {
		entry := int64(at) + 2 + 12*i
		if entry+12 <= int64(len(data)) && order.Uint16(data[entry:]) == 274 {
			return int(order.Uint16(data[entry+8:]))
		}
	}
	return 1
}

func (t *Tools) fromHEIC(ctx context.Context, data []byte) ([]byte, error) {
	return t.inFolder(ctx, func(work string) ([]byte, error) {
		if err := os.WriteFile(filepath.Join(work, "in.heic"), data, 0o600); err != nil {
			return nil, err
		}
		box := confine.Box{Work: work, Memory: maxMemory}
		_, err := box.Run(ctx, maxToolTime, nil, "heif-convert", "in.heic", "out.png")
		if err != nil {
			return nil, errors.New("it is damaged, or too new. Export it as JPEG where it was taken, and add that")
		}
		made, err := os.ReadFile(filepath.Join(work, "out.png"))
		if errors.Is(err, os.ErrNotExist) { // of several pictures it makes numbered ones
			return os.ReadFile(filepath.Join(work, "out-1.png"))
		}
		return made, err
	})
}

// picturesOf are the pages that a file's pictures make. A photograph that is upright already is not encoded anew.
func (t *Tools) picturesOf(ctx context.Context, f inspect.Named, kind string) (pages []PicturePage, err error) {
	if kind == "jpeg" && inspect.Orientation(kind, f.Data) == 1 {
		return []PicturePage{{JPEG: f.Data}}, nil
	}
	list, err := t.decodePictures(ctx, f, kind)
	if err != nil {
		return nil, err
	}
	for _, p := range list {
		data, err := asJPEG(p, usualQuality)
		if err != nil {
			return nil, err
		}
		pages = append(pages, PicturePage{JPEG: data})
	}
	return pages, nil
}

// shining is the picture in a PNG with what shines through in it.
func shining(f inspect.Named) ([]*image.RGBA, error) {
	if err := bearable(f.Name, image.DecodeConfig, f.Data, 0); err != nil {
		return nil, err
	}
	p, err := png.Decode(bytes.NewReader(f.Data))
	if err != nil {
		return nil, fmt.Errorf("%s cannot be converted. The picture does not open: %w", f.Name, err)
	}
	out := image.NewRGBA(image.Rect(0, 0, p.Bounds().Dx(), p.Bounds().Dy()))
	draw.Draw(out, out.Rect, p, p.Bounds().Min, draw.Src)
	return []*image.RGBA{imaging.Upright(out, inspect.Orientation("png", f.Data))}, nil
}

func asJPEG(p image.Image, quality int) ([]byte, error) {
	var b bytes.Buffer
	err := jpeg.Encode(&b, p, &jpeg.Options{Quality: quality})
	return b.Bytes(), err
}

// makePicture makes a JPEG or PNG of a picture, or of one page of a PDF.
func (t *Tools) makePicture(ctx context.Context, m *Made, f inspect.Named, kind, form string, w Wishes) error {
	var list []*image.RGBA
	var err error
	switch {
	case kind == "pdf":
		list, err = t.drawn(ctx, f, w.Pages)
	case w.Pages != "":
		return errors.New("pages can be chosen of a PDF only")
	case kind == "png" && form == "png": // what shines through stays so
		list, err = shining(f)
	default:
		list, err = t.decodePictures(ctx, f, kind)
	}
	if err != nil {
		return err
	}
	if len(list) > 1 {
		return fmt.Errorf("%s has %d pages, and a .%s holds one; make a PDF of it", f.Name, len(list), form)
	}
	p := list[0]
	if w.Turn != 0 {
		p = imaging.Turn(p, w.Turn)
		m.did("turned by %d degrees", w.Turn)
	}
	m.did("%s as .%s", f.Name, form)
	if form == "png" {
		var b bytes.Buffer
		err := png.Encode(&b, p)
		m.Data = b.Bytes()
		return err
	}
	return m.fitJPEG(p, w.MaxBytes)
}

// fitJPEG encodes a picture so that it fits: first with less quality, then smaller.
func (m *Made) fitJPEG(p *image.RGBA, most int64) error {
	least := int64(1) << 62
	for w := p.Rect.Dx(); ; w = w * 3 / 4 {
		h := max(1, p.Rect.Dy()*w/p.Rect.Dx())
		shown := p
		if w != p.Rect.Dx() {
			shown = image.NewRGBA(image.Rect(0, 0, w, h))
			draw.CatmullRom.Scale(shown, shown.Rect, p, p.Rect, draw.Src, nil)
		}
		for _, quality := range []int{usualQuality, 75, 60, 45, 30} {
			data, err := asJPEG(shown, quality)
			if err != nil {
				return err
			}
			if least = min(least, int64(len(data))); most == 0 || int64(len(data)) <= most {
				m.Data = data
				if most > 0 && (quality != usualQuality || shown != p) {
					m.did("made smaller, %s at %d × %d pixels, quality %d of 100",
						wording.Bytes(int64(len(data))), w, h, quality)
				}
				return nil
			}
		}
		if w < 64 || h < 64 {
			return Over{least, most}
		}
	}
}

// drawn is the page of a PDF that is chosen, as a picture of 200 dots per inch.
func (t *Tools) drawn(ctx context.Context, f inspect.Named, pages string) ([]*image.RGBA, error) {
	facts := inspect.File(f.Name, f.Data)
	if facts.Pages == nil {
		return nil, fmt.Errorf("%s cannot be converted", f.Name)
	}
	page := "1"
	if pages != "" {
		list, err := PageList(pages, *facts.Pages)
		if err != nil {
			return nil, err
		}
		page = list
	} else if *facts.Pages != 1 {
		return nil, fmt.Errorf("%s has %d pages; choose one with --pages", f.Name, *facts.Pages)
	}
	if _, err := fmt.Sscanf(page, "%d", new(int)); err != nil || len(page) > 6 || slices.Contains([]byte(page), ',') ||
		slices.Contains([]byte(page), '-') {
		return nil, errors.New("a picture holds one page; choose one, as in --pages 3")
	}
	data, err := t.inFolder(ctx, func(work string) ([]byte, error) {
		if err := os.WriteFile(filepath.Join(work, "in"), f.Data, 0o600); err != nil {
			return nil, err
		}
		_, err := confine.Box{Work: work, Memory: maxPDFMemory}.Run(ctx, maxToolTime, nil,
			"pdftoppm", "-png", "-singlefile", "-cropbox", "-r", "200", "-f", page, "-l", page, "in", "out")
		if err != nil {
			return nil, fmt.Errorf("drawing the page: %w", err)
		}
		return os.ReadFile(filepath.Join(work, "out.png"))
	})
	if err != nil {
		return nil, err
	}
	p, err := png.Decode(bytes.NewReader(data))
	if err != nil {
		return nil, fmt.Errorf("drawing the page: %w", err)
	}
	return []*image.RGBA{imaging.OnWhite(p)}, nil
}
