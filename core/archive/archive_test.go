package archive_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io/fs"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/archive"
	"orario/core/inspect"
)

func Example() {
	data, names, _ := archive.Pack([]inspect.Named{
		{Name: "lab/tides.csv", Data: []byte("h,m\n")}, {Name: "Tides.csv", Data: []byte("h,m\n1,2\n")},
	}, time.Now())
	files, skipped, err := archive.Unpack(data)
	fmt.Println(names, len(files), len(skipped), err)
	// Output: [tides.csv Tides-2.csv] 2 0 <nil>
}

// entry is one file of an archive that is made here.
type entry struct {
	name string
	mode fs.FileMode
	data []byte
}

func packed(t testing.TB, entries ...entry) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, e := range entries {
		h := &zip.FileHeader{Name: e.name, Method: zip.Deflate}
		if e.mode != 0 {
			h.SetMode(e.mode)
		}
		to, err := z.CreateHeader(h)
		require.NoError(t, err)
		_, err = to.Write(e.data)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

func TestPathsThatEscapeAndWhatIsNoFileStayOut(t *testing.T) {
	files, skipped, err := archive.Unpack(packed(
		t,
		entry{name: "a/"},
		entry{name: "a/b.txt", data: []byte("b")},
		entry{name: "../c.txt"},
		entry{name: `..\d.txt`},
		entry{
			name: "/etc/e.txt",
		},
		entry{name: `C:\f.txt`},
		entry{name: "g", mode: fs.ModeSymlink | 0o777, data: []byte("/etc")},
		entry{name: "a/.DS_Store"},
		entry{name: "__MACOSX/a/._b.txt"},
		entry{name: "h..txt", data: []byte("h")},
	))
	require.NoError(t, err)
	var got []string
	for _, f := range files {
		got = append(got, f.Name)
	}
	assert.Equal(t, []string{"b.txt", "h..txt"}, got)
	got = nil
	for _, s := range skipped {
		got = append(got, s.Name)
	}
	assert.Equal(t, []string{"../c.txt", "../d.txt", "/etc/e.txt", "C:/f.txt", "g"}, got)
}

func TestBombs(t *testing.T) {
	_, _, err := archive.Unpack(packed(t, entry{name: "zeros", data: make([]byte, 64<<20)}))
	assert.ErrorContains(t, err, "unpacks to more than it should")
	var many []entry
	for i := range archive.MostFiles + 1 {
		many = append(many, entry{name: fmt.Sprint(i)})
	}
	_, _, err = archive.Unpack(packed(t, many...))
	assert.ErrorContains(t, err, "more than 200 files")

	// One that says that it is small. The size stands in the directory at the end (APPNOTE 4.3.12, offset 24).
	lying := packed(t, entry{name: "zeros", data: make([]byte, 4<<20)})
	at := bytes.LastIndex(lying, []byte("PK\x01\x02"))
	copy(lying[at+24:], []byte{10, 0, 0, 0})
	_, _, err = archive.Unpack(lying)
	assert.Error(t, err)
}

func FuzzUnpack(f *testing.F) {
	f.Add(packed(f, entry{name: "a/b.txt", data: []byte("b")}))
	f.Add([]byte("PK\x05\x06" + string(make([]byte, 18))))
	f.Fuzz(func(t *testing.T, data []byte) {
		files, _, err := archive.Unpack(data)
		if err != nil {
			return
		}
		for _, file := range files {
			assert.NotContains(t, file.Name, "/")
		}
	})
}

// A drive's letter leads out of the archive, and a colon elsewhere does not.
func TestADriveIsNoFolder(t *testing.T) {
	for name, out := range map[string]bool{"C:f.txt": true, "c:/f.txt": true, `Z:\\f.txt`: true, "ab:f.txt": false, "a/b:f.txt": false} {
		files, skipped, err := archive.Unpack(packed(t, entry{name: name, data: []byte("x")}))
		require.NoError(t, err)
		assert.Equal(t, out, len(skipped) == 1, name)
		assert.Equal(t, !out, len(files) == 1, name)
	}
}

func TestNamesInAnArchiveStandInOneLine(t *testing.T) {
	data, names, err := archive.Pack([]inspect.Named{{Name: "a\nb.txt"}, {Name: "dir/a\tb.txt"}, {Name: "a-b.txt"}}, time.Now())
	require.NoError(t, err)
	assert.Equal(t, []string{"a-b.txt", "a-b-2.txt", "a-b-3.txt"}, names)
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	_, err = z.Create("x/c\r\nd.txt")
	require.NoError(t, err)
	require.NoError(t, z.Close())
	files, _, err := archive.Unpack(b.Bytes())
	require.NoError(t, err)
	assert.Equal(t, "c--d.txt", files[0].Name)
	_, _, err = archive.Unpack(data)
	require.NoError(t, err)
}
