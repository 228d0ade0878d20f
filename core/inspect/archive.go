package inspect

import (
	"path"
	"slices"
	"strings"
)

// bombRatio is the compression above which an archive is taken for one made to fill disks; DEFLATE
// reaches 1,032 at the most (zlib's technical details), ordinary files stay under 100.
const bombRatio = 200

func (f *Facts) zip(data []byte) {
	z, err := openZip(data)
	if err != nil {
		f.problem("damaged", "entries", "The archive does not open: %v.", err)
		return
	}
	entries, nested, escaping, unpacked, encrypted := 0, 0, 0, int64(0), false
	for _, file := range z.File {
		name := strings.ReplaceAll(file.Name, `\`, "/")
		if path.IsAbs(name) || strings.HasPrefix(path.Clean(name), "..") || len(name) > 1 && name[1] == ':' {
			escaping++
		}
		encrypted = encrypted || file.Flags&1 != 0
		if strings.HasSuffix(name, "/") {
			continue
		}
		entries++
		unpacked += int64(file.UncompressedSize64)
		if slices.Contains([]string{"zip", "rar", "7z", "gz", "tar", "xz", "bz2"}, extension(name)) {
			nested++
		}
	}
	f.Entries, f.Nested, f.Escaping, f.UnpackedBytes, f.Encrypted = &entries, &nested, &escaping, &unpacked, &encrypted
	if escaping > 0 {
		f.problem("unsafe_archive", "escaping", "%d entries have paths that lead out of the archive.", escaping)
	}
	if unpacked > 1<<20 && unpacked/int64(len(data)) > bombRatio {
		f.problem("bomb", "unpacked_bytes", "The archive unpacks to %d times its size.", unpacked/int64(len(data)))
	}
}
