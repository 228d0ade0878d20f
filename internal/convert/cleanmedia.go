package convert

import (
	"context"
	_ "embed" // coding.txt
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"

	"orario/core/cleaning"
	"orario/core/inspect"
	"orario/internal/confine"
)

// pictures are those whose metadata exiftool writes; sound and film are copied by ffmpeg, stream by stream.
var pictures = []string{"jpeg", "png", "webp", "heic", "tiff", "gif"}

// Cleans says whether there may be something to take out of files of a kind.
func Cleans(kind string) bool {
	return kind == "pdf" || cleaning.Cleans(kind) || slices.Contains(pictures, kind) || inspect.IsRecording(kind)
}

// cleanMedia takes out of a picture, sound or film what stands beside it: all but how it is shown (orientation,
// resolution, colours), and what is to be kept. What there is, and what was taken, is told by exiftool.
func (t *Tools) cleanMedia(ctx context.Context, kind string, data []byte, l *cleaning.Log) ([]byte, error) {
	return t.inFolder(ctx, func(work string) ([]byte, error) {
		in, out := "in."+kind, "out."+kind
		if err := os.WriteFile(filepath.Join(work, in), data, 0o600); err != nil {
			return nil, err
		}
		before, err := tagsOf(ctx, work, in)
		if err != nil {
			return nil, err
		}
		switch {
		case kind == "webp":
			err = os.WriteFile(filepath.Join(work, out), plainWebP(data, before, l), 0o600)
		case slices.Contains(pictures, kind):
			err = exiftool(ctx, work, slices.Concat(without(before, l), []string{"-o", out, in})...)
		default:
			err = copied(ctx, work, in, out, before, l)
		}
		if err != nil {
			return nil, err
		}
		after, err := tagsOf(ctx, work, out)
		if err != nil {
			return nil, err
		}
		for _, tag := range slices.Sorted(maps.Keys(before)) {
			if kind := kindOf(tag); after[tag] != before[tag] && tells(tag) && l.Takes(kind) {
				_, name, _ := strings.Cut(tag, ":")
				l.Took(kind, 1, name+": "+before[tag])
			}
		}
		return os.ReadFile(filepath.Join(work, out))
	})
}

// plainWebP leaves the chunks of EXIF and XMP out of a WebP (RFC 9649, 2.7), which the exiftool of Debian 12 does not
// write. A chunk with something in it that is kept stays whole.
func plainWebP(data []byte, tags map[string]string, l *cleaning.Log) []byte {
	const riff, flags, exif, xmp = 12, 20, 1 << 3, 1 << 2
	if len(data) < riff {
		return data
	}
	goes := map[string]byte{"EXIF": exif, "XMP ": xmp}
	for tag := range tags {
		xmpTag := strings.HasPrefix(tag, "XMP")
		switch {
		case tells(tag) && !l.Takes(kindOf(tag)) && xmpTag:
			delete(goes, "XMP ")
		case tells(tag) && !l.Takes(kindOf(tag)):
			delete(goes, "EXIF")
		}
	}
	turned := 0
	if o := inspect.File("in.webp", data).Orientation; o != nil {
		turned = *o
	}
	out := slices.Clone(data[:riff])
	for at := riff; at+8 <= len(data); {
		name := string(data[at : at+4])
		size := 8 + int(binary.LittleEndian.Uint32(data[at+4:]))
		size = min(size+size%2, len(data)-at)
		switch _, gone := goes[name]; {
		case !gone:
			out = append(out, data[at:at+size]...)
		case name == "EXIF" && turned > 1:
			out = append(out, turnedOnly(byte(turned))...)
			delete(goes, name)
		}
		at += size
	}
	if len(out) > flags && string(out[riff:riff+4]) == "VP8X" {
		for _, bit := range goes {
			out[flags] &^= bit
		}
	}
	binary.LittleEndian.PutUint32(out[4:], uint32(len(out)-8))
	return out
}

// turnedOnly is a chunk of EXIF with the orientation alone (CIPA DC-008, 4.6.2: a directory of one entry).
func turnedOnly(orientation byte) []byte {
	return append([]byte("EXIF\x1a\x00\x00\x00II*\x00\x08\x00\x00\x00\x01\x00\x12\x01\x03\x00\x01\x00\x00\x00"),
		orientation, 0, 0, 0, 0, 0, 0, 0)
}

// without are exiftool's arguments that take out of a picture all but what is kept.
func without(tags map[string]string, l *cleaning.Log) []string {
	list := []string{"-q", "-m", "-all=", "--icc_profile:all"}
	stay := []string{"-tagsfromfile", "@", "-Orientation", "-XResolution", "-YResolution", "-ResolutionUnit"}
	for _, tag := range slices.Sorted(maps.Keys(tags)) {
		switch {
		case !tells(tag):
		case l.Takes(kindOf(tag)):
			list = append(list, "-"+tag+"=") // a TIFF's own directory is no block that goes as a whole
		default:
			stay = append(stay, "-"+tag)
		}
	}
	return append(list, stay...)
}

// copied copies the pictures, sounds and words of a recording as they are; streams of other data, which cameras write
// positions into, stay behind.
func copied(ctx context.Context, work, in, out string, tags map[string]string, l *cleaning.Log) error {
	list := []string{"-v", "error", "-i", in, "-map", "0:v?", "-map", "0:a?", "-map", "0:s?", "-c", "copy",
		"-map_metadata", "-1", "-map_chapters", "-1", "-fflags", "+bitexact",
		"-flags:v", "+bitexact", "-flags:a", "+bitexact"}
	for _, tag := range slices.Sorted(maps.Keys(tags)) {
		_, name, _ := strings.Cut(tag, ":")
		if key, known := containerKeys[name]; known && !l.Takes(kindOf(tag)) {
			list = append(list, "-metadata", key+"="+tags[tag])
		}
	}
	return ffmpeg(ctx, work, inspect.Named{Name: in}, append(list, out))
}

// containerKeys are ffmpeg's names of what containers of sound and film tell (its documentation, "Metadata").
var containerKeys = map[string]string{
	"Title": "title", "Artist": "artist", "Author": "author", "Album": "album", "Comment": "comment",
	"Composer": "composer", "Copyright": "copyright", "Genre": "genre", "Year": "date",
}

func exiftool(ctx context.Context, work string, arguments ...string) error {
	_, err := confine.Box{Work: work, Memory: maxMemory}.Run(ctx, maxToolTime, nil, "exiftool", arguments...)
	var exit *exec.ExitError
	if errors.As(err, &exit) {
		return errors.New("what stands beside the picture cannot be written; convert it first")
	}
	return err
}

// tagsOf is everything that a file tells, by group and name.
func tagsOf(ctx context.Context, work, file string) (map[string]string, error) {
	box := confine.Box{Work: work, Memory: maxMemory}
	out, err := box.Run(ctx, maxToolTime, nil, "exiftool", "-j", "-G1", "-m", "-ee", file)
	var exit *exec.ExitError
	if err != nil && !errors.As(err, &exit) {
		return nil, err
	}
	var list []map[string]any
	if err := json.Unmarshal(out, &list); err != nil || len(list) != 1 {
		return nil, errors.New("it cannot be read what stands beside it")
	}
	tags := map[string]string{}
	for tag, value := range list[0] {
		tags[tag] = fmt.Sprint(value)
	}
	return tags, nil
}

// coding are the beginnings of tags that tell of the file and how it is coded, and not of anybody, one a line.
//
//go:embed coding.txt
var coding string

var apart = strings.Fields(coding)

// tells says whether a tag is about somebody or something, and not of how the file is coded.
func tells(tag string) bool {
	return !slices.ContainsFunc(apart, func(prefix string) bool { return strings.HasPrefix(tag, prefix) })
}

// kindOf is what a tag tells.
func kindOf(tag string) string {
	group, name, _ := strings.Cut(tag, ":")
	has := func(words ...string) bool {
		return slices.ContainsFunc(words, func(w string) bool { return strings.Contains(strings.ToLower(name), w) })
	}
	switch {
	case group == "GPS" || has("gps", "location", "latitude", "longitude", "city", "country", "sublocation"):
		return cleaning.Position
	case has("creatortool"):
		return cleaning.Metadata
	case has("artist", "author", "creator", "by-line", "copyright", "owner", "credit", "rights", "photographer"):
		return cleaning.Author
	}
	return cleaning.Metadata
}
