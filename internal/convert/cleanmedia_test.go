package convert

import (
	"context"
	"encoding/json"
	"fmt"
	"image"
	"image/jpeg"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/cleaning"
	"orario/core/inspect"
)

// tellsAll is what exiftool reads in a file, all of it as one text; the tags of how it is coded, too.
func tellsAll(t *testing.T, name string, data []byte) string {
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, data, 0o600))
	out, err := exec.Command("exiftool", "-j", "-G1", "-a", "-ee", path).Output()
	require.NoError(t, err)
	return string(out)
}

// made is a picture, sound or film with an author, a position and a camera's words in it, as far as its form takes them.
func made(t *testing.T, name string) []byte {
	dir := t.TempDir()
	path := filepath.Join(dir, name)
	run := func(program string, args ...string) {
		out, err := exec.Command(program, args...).CombinedOutput()
		require.NoError(t, err, "%s: %s", program, out)
	}
	_, ext, _ := strings.Cut(name, ".")
	switch ext {
	case "jpg", "png", "webp", "tiff":
		still := filepath.Join(dir, "still.jpg")
		f, err := os.Create(still)
		require.NoError(t, err)
		require.NoError(t, jpeg.Encode(f, image.NewGray(image.Rect(0, 0, 60, 40)), nil))
		require.NoError(t, f.Close())
		run("ffmpeg", "-v", "error", "-y", "-i", still, "-update", "1", path)
		run("exiftool", "-q", "-overwrite_original", "-n", "-Orientation=6", "-Artist=Nerea Quintal", "-XMP:Creator=Nerea Quintal",
			"-Make=Sextant", "-SerialNumber=SN-4711", "-GPSLatitude=38.7", "-GPSLatitudeRef=N", "-GPSLongitude=9.1", "-GPSLongitudeRef=W",
			"-XMP:GPSLatitude=38.7", "-XMP:GPSLongitude=-9.1", path)
	default:
		video := []string{}
		if ext == "mp4" || ext == "webm" || ext == "mov" {
			video = []string{"-f", "lavfi", "-i", "testsrc=size=64x48:duration=1:rate=5"}
		}
		args := append([]string{"-v", "error", "-y", "-f", "lavfi", "-i", "sine=frequency=440:duration=1"}, video...)
		args = append(args, "-metadata", "artist=Nerea Quintal", "-metadata", "comment=SN-4711", "-metadata", "location=+38.7-009.1/", path)
		run("ffmpeg", args...)
	}
	data, err := os.ReadFile(path)
	require.NoError(t, err)
	return data
}

func TestPicturesSoundAndFilmAreCleaned(t *testing.T) {
	x := tools(t)
	ctx := context.Background()
	for _, name := range []string{"a.jpg", "a.png", "a.webp", "a.tiff", "a.mp3", "a.wav", "a.m4a", "a.ogg", "a.mp4"} {
		t.Run(name, func(t *testing.T) {
			data := made(t, name)
			before := tellsAll(t, name, data)
			require.Contains(t, before, "Nerea Quintal")
			_, ext, _ := strings.Cut(name, ".")
			out, removed, err := x.Clean(ctx, inspect.Named{Name: name, Data: data}, ext, nil)
			require.NoError(t, err)
			after := tellsAll(t, name, out)
			for _, gone := range []string{"Nerea", "SN-4711", "Sextant", "GPSLatitude", "38.7", "+38"} {
				assert.NotContains(t, after, gone)
			}
			kinds := map[string]bool{}
			for _, r := range removed {
				kinds[r.Kind] = true
			}
			assert.True(t, kinds[cleaning.Author], "%v", removed)
			assert.True(t, kinds[cleaning.Position] || !strings.Contains(before, "GPSLatitude"), "%v", removed)
			is, was := inspect.File(name, out), inspect.File(name, data)
			assert.Equal(t, was.Kind, is.Kind)
			assert.Equal(t, was.Width, is.Width)
			assert.Equal(t, was.Orientation, is.Orientation, "it is shown as before")
			again, removed, err := x.Clean(ctx, inspect.Named{Name: name, Data: out}, ext, nil)
			require.NoError(t, err)
			assert.Empty(t, removed, "nothing is left to be taken")
			assert.NotEmpty(t, again)

			if ext == "webp" {
				return // what is kept keeps all of its chunk
			}
			kept, removed, err := x.Clean(ctx, inspect.Named{Name: name, Data: data}, ext, []string{cleaning.Author})
			require.NoError(t, err)
			after = tellsAll(t, name, kept)
			assert.Contains(t, after, "Nerea Quintal", "a kind that is kept stays")
			assert.NotContains(t, after, "GPSLatitude", "and all others go")
			assert.NotContains(t, after, "SN-4711", fmt.Sprint(removed))
		})
	}
}

// What exiftool's tags are called decides what they are told as.
func TestWhatATagTells(t *testing.T) {
	for tag, want := range map[string]string{
		"IFD0:Artist": cleaning.Author, "XMP-dc:Creator": cleaning.Author, "IPTC:By-line": cleaning.Author,
		"XMP-xmp:CreatorTool": cleaning.Metadata, "GPS:GPSLatitude": cleaning.Position, "XMP-exif:GPSLongitude": cleaning.Position,
		"IPTC:City": cleaning.Position, "IFD0:Make": cleaning.Metadata, "PNG:Comment": cleaning.Metadata,
	} {
		assert.True(t, tells(tag), tag)
		assert.Equal(t, want, kindOf(tag), tag)
	}
	for _, tag := range []string{"System:FileName", "IFD0:Orientation", "ICC_Profile:ProfileDescription", "Track1:TrackDuration"} {
		assert.False(t, tells(tag), tag)
	}
	_, err := json.Marshal(cleaning.Kinds)
	require.NoError(t, err)
}
