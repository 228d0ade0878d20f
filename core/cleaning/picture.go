package cleaning

import (
	"bytes"
	"encoding/binary"
	"errors"
	"strings"
)

// jpeg takes a camera's words out of a JPEG (ITU-T T.81, annex B): the picture itself is copied byte for byte, with its
// orientation, resolution and colours.
func jpeg(data []byte, l *Log) ([]byte, error) {
	if len(data) < 4 || data[0] != 0xff || data[1] != 0xd8 {
		return nil, errors.New("the picture does not open")
	}
	out := bytes.NewBuffer(append([]byte{}, data[:2]...))
	at := 2
	for at+4 <= len(data) && data[at] == 0xff && data[at+1] != 0xda {
		size := 2 + int(binary.BigEndian.Uint16(data[at+2:]))
		if at+size > len(data) || size < 4 {
			return nil, errors.New("the picture breaks off")
		}
		segment, body := data[at:at+size], data[at+4:at+size]
		at += size
		switch marker := segment[1]; {
		case marker == 0xe1 && bytes.HasPrefix(body, []byte("Exif\x00\x00")):
			if tiff := exif(body[6:], l); tiff != nil {
				segment = binary.BigEndian.AppendUint16([]byte{0xff, 0xe1}, uint16(len(tiff)+8))
				segment = append(append(segment, "Exif\x00\x00"...), tiff...)
			} else {
				continue
			}
		case marker == 0xe1: // XMP and its like
			if xmp(body, l) {
				continue
			}
		case marker == 0xed, marker == 0xfe: // IPTC, comments
			if l.Takes(Metadata) {
				l.Took(Metadata, 1, map[byte]string{0xed: "IPTC", 0xfe: "comment"}[marker])
				continue
			}
		case marker > 0xe2 && marker < 0xee: // of makers; 0xee is needed to decode, 0xe2 holds the colours
			if l.Takes(Metadata) {
				l.Took(Metadata, 1, "")
				continue
			}
		}
		out.Write(segment)
	}
	if at >= len(data) {
		return nil, errors.New("the picture breaks off")
	}
	rest := data[at:]
	if end := bytes.LastIndex(rest, []byte{0xff, 0xd9}); end >= 0 && end+2 < len(rest) && l.Takes(Metadata) {
		l.Took(Metadata, 1, "what stands behind the picture's end")
		rest = rest[:end+2]
	}
	out.Write(rest)
	return out.Bytes(), nil
}

// xmp says whether a packet of XMP goes: if nothing that it could hold is kept.
func xmp(body []byte, l *Log) bool {
	if !l.Takes(Metadata) || !l.Takes(Position) || !l.Takes(Author) {
		return false
	}
	if bytes.Contains(body, []byte("GPSLatitude")) {
		l.Took(Position, 1, "XMP")
	}
	if bytes.Contains(body, []byte("dc:creator")) {
		l.Took(Author, 1, "XMP")
	}
	l.Took(Metadata, 1, "XMP")
	return true
}

// png takes the chunks of words, times and EXIF out of a PNG (W3C PNG, third edition, § 11.3).
func png(data []byte, l *Log) ([]byte, error) {
	const signature = "\x89PNG\r\n\x1a\n"
	if !bytes.HasPrefix(data, []byte(signature)) {
		return nil, errors.New("the picture does not open")
	}
	out := bytes.NewBufferString(signature)
	for at := 8; at < len(data); {
		if at+12 > len(data) {
			return nil, errors.New("the picture breaks off")
		}
		size := int64(binary.BigEndian.Uint32(data[at:])) + 12
		if int64(at)+size > int64(len(data)) {
			return nil, errors.New("the picture breaks off")
		}
		chunk, name := data[at:at+int(size)], string(data[at+4:at+8])
		at += int(size)
		switch name {
		case "tEXt", "zTXt", "iTXt", "tIME":
			word, _, _ := bytes.Cut(chunk[8:len(chunk)-4], []byte{0})
			kind := Metadata
			if strings.EqualFold(string(word), "author") {
				kind = Author
			}
			if name == "tIME" {
				word = []byte("time")
			}
			if l.Takes(kind) {
				l.Took(kind, 1, string(word))
				continue
			}
		case "eXIf":
			if exif(chunk[8:len(chunk)-4], l) == nil {
				continue
			}
		}
		out.Write(chunk)
		if name == "IEND" {
			break
		}
	}
	return out.Bytes(), nil
}

// tags that stay, since the picture is shown by them: orientation and resolution of the first directory.
var shownBy = map[uint16]bool{0x0112: true, 0x011a: true, 0x011b: true, 0x0128: true, 0x0213: true}

// kindOfTag is what a tag of EXIF (CIPA DC-008) tells.
func kindOfTag(tag uint16) string {
	switch tag {
	case 0x8825:
		return Position
	case 0x013b, 0x8298, 0x9c9d, 0xa430: // artist, copyright, XP author, camera owner
		return Author
	}
	return Metadata
}

// An entry of a directory: tag, type, count, and the value or where it stands.
type entry struct {
	tag, form uint16
	count     uint32
	value     []byte // of the size that form and count say
	at        int    // where the entry stands
}

var sizes = map[uint16]int64{1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8}

// exif writes the directories of EXIF anew with what is kept; nil: nothing is.
func exif(tiff []byte, l *Log) []byte {
	if len(tiff) < 8 {
		return nil
	}
	var order binary.ByteOrder = binary.LittleEndian
	if tiff[0] == 'M' {
		order = binary.BigEndian
	}
	first, next := directory(tiff, order, order.Uint32(tiff[4:]))
	if first == nil {
		return nil // what can't be read tells a reader nothing that is needed
	}
	if next != 0 && l.Takes(Metadata) {
		l.Took(Metadata, 1, "thumbnail")
	}
	var kept []entry
	took := func(kind string, tag uint16) { l.Took(kind, 1, tagNames[tag]) }
	for _, e := range first {
		switch kind := kindOfTag(e.tag); {
		case e.tag == 0x8769: // the directory of the exposure
			within, _ := directory(tiff, order, order.Uint32(append(e.value[:len(e.value):len(e.value)], 0, 0, 0, 0)))
			for _, inner := range within {
				if k := kindOfTag(inner.tag); l.Takes(k) && tagNames[inner.tag] != "" {
					took(k, inner.tag)
				}
			}
			if !l.Takes(Metadata) {
				kept = append(kept, e)
			}
		case shownBy[e.tag]:
			kept = append(kept, e)
		case l.Takes(kind):
			took(kind, e.tag)
		default:
			kept = append(kept, e)
		}
	}
	if !l.Takes(Metadata) || !l.Takes(Position) { // what is kept points into the bytes, which stay where they are
		return blanked(tiff, order, kept)
	}
	if len(kept) == 0 {
		return nil
	}
	return oneDirectory(order, kept)
}

// tagNames are those that are told.
var tagNames = map[uint16]string{
	0x8825: "position (GPS)", 0x013b: "artist", 0x8298: "copyright", 0x9c9d: "author", 0xa430: "camera's owner",
	0x010f: "maker", 0x0110: "camera", 0x0131: "software", 0x0132: "time", 0x9003: "time taken",
	0xa431: "serial number",
	0xa434: "lens", 0xa435: "lens's serial number", 0x010e: "description", 0x9286: "comment", 0x927c: "maker's note",
}

// directory reads the entries at a place; those that point out of the bytes are left out.
func directory(tiff []byte, order binary.ByteOrder, at uint32) (list []entry, next uint32) {
	if int64(at)+2 > int64(len(tiff)) {
		return nil, 0
	}
	n := int64(order.Uint16(tiff[at:]))
	end := int64(at) + 2 + 12*n
	if end+4 > int64(len(tiff)) {
		return nil, 0
	}
	for i := range n {
		raw := tiff[int64(at)+2+12*i:]
		e := entry{
			tag: order.Uint16(
				raw,
			), form: order.Uint16(raw[2:]), count: order.Uint32(raw[4:]), at: int(int64(at) + 2 + 12*i),
		}
		size := sizes[e.form] * int64(e.count)
		if size <= 4 {
			e.value = raw[8:12]
		} else if from := int64(order.Uint32(raw[8:])); size > 0 && from+size <= int64(len(tiff)) {
			e.value = tiff[from : from+size]
		} else {
			continue
		}
		list = append(list, e)
	}
	return list, order.Uint32(tiff[end:])
}

// oneDirectory writes one directory of its own.
func oneDirectory(order binary.ByteOrder, list []entry) []byte {
	out := []byte("II*\x00\x08\x00\x00\x00")
	if order == binary.ByteOrder(binary.BigEndian) {
		out = []byte("MM\x00*\x00\x00\x00\x08")
	}
	put16 := func(v uint16) { out = append(out, 0, 0); order.PutUint16(out[len(out)-2:], v) }
	put32 := func(v uint32) { out = append(out, 0, 0, 0, 0); order.PutUint32(out[len(out)-4:], v) }
	put16(uint16(len(list)))
	var behind []byte
	for _, e := range list {
		put16(e.tag)
		put16(e.form)
		put32(e.count)
		if len(e.value) <= 4 {
			out = append(out, e.value...)
			continue
		}
		put32(uint32(8 + 2 + 12*len(list) + 4 + len(behind)))
		behind = append(behind, e.value...)
	}
	put32(0)
	return append(out, behind...)
}

// blanked is EXIF with the entries of its first directory that go taken out in place, and their values made zero.
func blanked(tiff []byte, order binary.ByteOrder, kept []entry) []byte {
	out := bytes.Clone(tiff)
	at := order.Uint32(out[4:])
	all, _ := directory(out, order, at)
	stays := map[uint16]bool{}
	for _, e := range kept {
		stays[e.tag] = true
	}
	for _, e := range all {
		switch {
		case stays[e.tag]:
		case e.tag == 0x8825:
			wipe(out, order, order.Uint32(append(e.value[:len(e.value):len(e.value)], 0, 0, 0, 0)))
		default:
			clear(e.value)
		}
	}
	table := out[at+2:]
	n := 0
	for _, e := range all {
		if stays[e.tag] {
			copy(table[12*n:12*n+12], tiff[e.at:e.at+12])
			n++
		}
	}
	order.PutUint16(out[at:], uint16(n))
	clear(table[12*n : 12*n+4]) // no directory follows
	return out
}

// wipe makes a directory zero, with its values.
func wipe(tiff []byte, order binary.ByteOrder, at uint32) {
	list, _ := directory(tiff, order, at)
	for _, e := range list {
		clear(e.value)
	}
	for _, e := range list {
		clear(tiff[e.at : e.at+12])
	}
}
