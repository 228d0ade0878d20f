// Package archive packs files into ZIP archives and unpacks them (PKWARE's APPNOTE 6.3.10), without trusting what an
// archive says of itself: neither its names nor its sizes.
package archive

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"path"
	"strings"
	"time"
	"unicode"

	"orario/core/inspect"
	"orario/core/naming"
)

// Limits of what is unpacked.
const (
	MostFiles = 200
	MostBytes = 256 << 20 // of all files
	mostRatio = 200       // of a file's bytes to those it takes in the archive; text reaches some 30
	leastBomb = 1 << 20   // below which no ratio is a bomb
)

// Pack puts files into an archive under their base names, in their order. Names that are there already get a number.
func Pack(files []inspect.Named, now time.Time) (data []byte, names []string, err error) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	taken := map[string]bool{}
	for _, f := range files {
		name := Distinct(base(f.Name), taken)
		to, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: now})
		if err == nil {
			_, err = to.Write(f.Data)
		}
		if err != nil {
			return nil, nil, fmt.Errorf("packing %s: %w", f.Name, err)
		}
		names = append(names, name)
	}
	if err := z.Close(); err != nil {
		return nil, nil, fmt.Errorf("packing: %w", err)
	}
	return b.Bytes(), names, nil
}

// base is the last part of a name, without characters that cannot be seen, such as breaks of lines.
func base(name string) string {
	return strings.Map(func(c rune) rune {
		if unicode.IsControl(c) {
			return '-'
		}
		return c
	}, path.Base(strings.ReplaceAll(name, `\`, "/")))
}

// Distinct is a name that was not taken yet, whatever its case; it is taken then.
func Distinct(name string, taken map[string]bool) string {
	stem, ext := naming.Split(name)
	if ext != "" {
		ext = "." + ext
	}
	for n := 2; taken[strings.ToLower(name)]; n++ {
		name = fmt.Sprintf("%s-%d%s", stem, n, ext)
	}
	taken[strings.ToLower(name)] = true
	return name
}

// A Skipped entry is one that is not unpacked, and why.
type Skipped struct{ Name, Why string }

// Unpack takes all files out of an archive, as [Each] does.
func Unpack(data []byte) (files []inspect.Named, skipped []Skipped, err error) {
	skipped, err = Each(data, func(f inspect.Named) error {
		files = append(files, f)
		return nil
	})
	if err != nil {
		return nil, nil, err
	}
	return files, skipped, nil
}

// Each takes the files out of an archive one after the other, so that one alone is held at a time, under the names in
// it without their folders; those that are there already get a number. What systems add for themselves is left out,
// and so is what would lie outside of the archive's folder, is encrypted, or is no file; each with the reason. An
// archive that holds too much is an error, and so is one of do; what came before was taken then.
func Each(data []byte, do func(inspect.Named) error) (skipped []Skipped, err error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, fmt.Errorf("the archive does not open; fetch it again from where it came")
	}
	taken := map[string]bool{}
	var all int64
	files := 0
	for _, f := range z.File {
		name := strings.ReplaceAll(f.Name, `\`, "/")
		if strings.HasSuffix(name, "/") || ofSystem(name) {
			continue
		}
		if why := unsafe(f, name); why != "" {
			skipped = append(skipped, Skipped{name, why})
			continue
		}
		if files++; files > MostFiles {
			return nil, fmt.Errorf(
				"more than %d files are packed in it; unpack it on your computer, and add those that you need",
				MostFiles,
			)
		}
		content, err := read(f, MostBytes-all)
		if err != nil {
			return nil, fmt.Errorf("%s in the archive: %w", name, err)
		}
		all += int64(len(content))
		if err := do(inspect.Named{Name: Distinct(base(name), taken), Data: content}); err != nil {
			return nil, err
		}
	}
	return skipped, nil
}

// ofSystem says whether an entry is what a system keeps beside files and nobody packed (common practice).
func ofSystem(name string) bool {
	base := path.Base(name)
	return strings.HasPrefix(name, "__MACOSX/") || base == ".DS_Store" || base == "Thumbs.db" || base == "desktop.ini"
}

func unsafe(f *zip.File, name string) string {
	for part := range strings.SplitSeq(name, "/") {
		if part == ".." {
			return "its path leads out of the archive"
		}
	}
	switch {
	case strings.HasPrefix(name, "/") || len(name) > 1 && name[1] == ':':
		return "its path leads out of the archive"
	case !f.Mode().IsRegular():
		return "it is no file but a link or a device"
	case f.Flags&1 != 0:
		return "it is encrypted; unpack it on your computer with its password"
	}
	return ""
}

// read reads one file of at most so many bytes; what it really has counts, and not what the archive says.
func read(f *zip.File, most int64) ([]byte, error) {
	from, err := f.Open()
	if err != nil {
		return nil, fmt.Errorf("it cannot be read: %w", err)
	}
	defer from.Close()
	if packed := int64(f.CompressedSize64); packed*mostRatio > leastBomb {
		most = min(most, packed*mostRatio)
	} else {
		most = min(most, leastBomb)
	}
	content, err := io.ReadAll(io.LimitReader(from, most+1))
	if err != nil {
		return nil, fmt.Errorf("it is damaged: %w", err)
	}
	if int64(len(content)) > most {
		return nil, fmt.Errorf("it unpacks to more than it should; this is no archive to trust")
	}
	return content, nil
}
