package contents_test

import (
	"bytes"
	"context"
	"io"
	"runtime"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/tus/tusd/v2/pkg/handler"

	"orario/core/inspect"
	"orario/internal/contents"
	"orario/internal/mariadb/mariadbtest"
)

var somebody = contents.WithOwner(context.Background(), "7")

func uploads(t testing.TB) contents.Uploads {
	return contents.Uploads{Store: contents.Store{DB: mariadbtest.Orario(t).SQL}}
}

// begin is a new upload of so many bytes.
func begin(t testing.TB, u contents.Uploads, size int) handler.Upload {
	up, err := u.NewUpload(somebody, handler.FileInfo{Size: int64(size), MetaData: handler.MetaData{"filename": "a"}})
	require.NoError(t, err)
	return up
}

func id(t testing.TB, up handler.Upload) string {
	info, err := up.GetInfo(somebody)
	require.NoError(t, err)
	return info.ID
}

// Pieces of any length, each by another process that knows only what is stored, make the same content.
func TestAnUploadComesInPiecesOfAnyLength(t *testing.T) {
	for name, c := range map[string]struct{ size, piece int }{
		"nothing":            {0, 1},
		"one byte":           {1, 1},
		"small odd pieces":   {10_007, 613},
		"just a row":         {1 << 20, 1 << 20},
		"a row and a byte":   {1<<20 + 1, 1 << 20},
		"across rows":        {3<<20 + 5, 700_001},
		"several rows each":  {5<<20 + 3, 2<<20 + 7},
		"all in one piece":   {3<<20 + 17, 1 << 30},
		"a byte then a row":  {1<<20 + 1, 1<<20 - 1},
		"pieces of 256 KiB":  {1<<20 + 9, 1 << 18},
		"halves of odd size": {99_999, 50_000},
	} {
		t.Run(name, func(t *testing.T) {
			u := uploads(t)
			data := noise(c.size)
			name := id(t, begin(t, u, c.size))
			for at := 0; at < c.size; {
				up, err := u.GetUpload(somebody, name)
				require.NoError(t, err)
				info, err := up.GetInfo(somebody)
				require.NoError(t, err)
				require.Equal(t, int64(at), info.Offset)
				to := min(c.size, at+c.piece)
				n, err := up.WriteChunk(somebody, int64(at), bytes.NewReader(data[at:to]))
				require.NoError(t, err)
				require.Equal(t, int64(to-at), n)
				at = to
			}
			done, err := u.Finished(somebody, "7", name)
			require.NoError(t, err)
			assert.Equal(
				t,
				[]any{inspect.Digest(data), int64(c.size), "a"},
				[]any{done.Digest, done.Bytes, done.MetaData["filename"]},
			)
			back, err := u.Read(somebody, done.Digest)
			require.NoError(t, err)
			assert.True(t, bytes.Equal(data, back))
			assert.Equal(t, (c.size+1<<20-1)>>20, count(t, u.Store, "content_chunk"), "all rows but the last are full")
		})
	}
}

func TestTwoWritersAtOneOffsetDoNotBothSucceed(t *testing.T) {
	u := uploads(t)
	data := noise(900_000)
	name := id(t, begin(t, u, len(data)))
	var wrote atomic.Int64
	var all sync.WaitGroup
	for range 6 {
		all.Go(func() {
			up, err := u.GetUpload(somebody, name)
			if err != nil {
				return
			}
			if _, err := up.WriteChunk(somebody, 0, bytes.NewReader(data)); err == nil {
				wrote.Add(1)
			}
		})
	}
	all.Wait()
	assert.Equal(t, int64(1), wrote.Load())
	done, err := u.Finished(somebody, "7", name)
	require.NoError(t, err)
	assert.Equal(t, inspect.Digest(data), done.Digest)
}

func TestTheSameContentTwiceIsKeptOnce(t *testing.T) {
	u := uploads(t)
	data := noise(1_500_000)
	for range 2 {
		_, err := u.Take(somebody, "a", bytes.NewReader(data), int64(len(data)))
		require.NoError(t, err)
	}
	_, _, err := u.Put(somebody, bytes.NewReader(data))
	require.NoError(t, err)
	assert.Equal(
		t,
		[]int{1, 2, 2},
		[]int{count(t, u.Store, "content"), count(t, u.Store, "content_chunk"), count(t, u.Store, "upload")},
	)
}

func TestAnUploadThatIsTakenBackLeavesNothingBehind(t *testing.T) {
	u := uploads(t)
	data := noise(1_500_000)
	up := begin(t, u, len(data))
	_, err := up.WriteChunk(somebody, 0, bytes.NewReader(data[:1_200_000]))
	require.NoError(t, err)
	require.NoError(t, u.AsTerminatableUpload(up).Terminate(somebody))
	require.NoError(t, u.AsTerminatableUpload(up).Terminate(somebody), "twice")
	assert.Equal(
		t,
		[]int{0, 0, 0},
		[]int{count(t, u.Store, "content"), count(t, u.Store, "content_chunk"), count(t, u.Store, "upload")},
	)

	finished := begin(t, u, len(data))
	_, err = finished.WriteChunk(somebody, 0, bytes.NewReader(data))
	require.NoError(t, err)
	require.NoError(t, u.AsTerminatableUpload(finished).Terminate(somebody))
	assert.Equal(t, 1, count(t, u.Store, "content"), "what it has become stays")
}

func TestUploadsAreTheirOwners(t *testing.T) {
	u := uploads(t)
	name := id(t, begin(t, u, 0))
	_, err := u.GetUpload(contents.WithOwner(context.Background(), "8"), name)
	assert.ErrorIs(t, err, handler.ErrNotFound)
	_, err = u.Finished(somebody, "8", name)
	assert.ErrorIs(t, err, contents.ErrNotFound)
	_, err = u.NewUpload(context.Background(), handler.FileInfo{Size: 1})
	assert.Error(t, err, "nobody's upload")
}

func TestPurgingTakesWhatNothingRefersTo(t *testing.T) {
	u := uploads(t)
	ctx := context.Background()
	const inUse = "version.digest"
	take := func(text string) string {
		digest, _, err := u.Put(ctx, bytes.NewReader([]byte(text)))
		require.NoError(t, err)
		return digest
	}
	used, left := take("in use"), take("left")
	_, err := u.DB.Exec(
		"INSERT INTO student (email, password_hash, family, given, number, zone) VALUES ('a', '', '', '', '', 'UTC')",
	)
	require.NoError(t, err)
	_, err = u.DB.Exec(
		"INSERT INTO version (student_id, name, digest, bytes, kind, facts, body, created_at) VALUES (1, 'a', ?, "+
			"6, 'txt', '{}', '', NOW(3))",
		used,
	)
	require.NoError(t, err)
	begun := begin(t, u, 2_000_000)
	_, err = begun.WriteChunk(somebody, 0, bytes.NewReader(noise(1_200_000)))
	require.NoError(t, err)
	_, err = u.Take(somebody, "a", bytes.NewReader([]byte("uploaded and left")), 17)
	require.NoError(t, err)

	purge := func(ahead time.Duration) [2]int {
		uploads, gone, err := u.Purge(ctx, time.Now().Add(ahead), inUse)
		require.NoError(t, err)
		return [2]int{uploads, gone}
	}
	assert.Equal(t, [2]int{0, 0}, purge(23*time.Hour), "what is new stays, whoever uses it")
	assert.Equal(t, [2]int{1, 2}, purge(25*time.Hour), "the finished upload with its content, and what was left")
	assert.Equal(t, [2]int{1, 1}, purge(8*24*time.Hour), "the one that was left in the middle, with its rows")
	assert.Equal(
		t,
		[]int{1, 1, 0},
		[]int{count(t, u.Store, "content"), count(t, u.Store, "content_chunk"), count(t, u.Store, "upload")},
	)
	_, err = u.Read(ctx, used)
	assert.NoError(t, err)
	_, err = u.Read(ctx, left)
	assert.ErrorIs(t, err, contents.ErrNotFound)
}

// What was there for long without use counts as new when it comes again, so that it is not purged before it is used.
func TestAContentThatComesAgainIsNotPurged(t *testing.T) {
	u := uploads(t)
	ctx := context.Background()
	_, _, err := u.Put(ctx, bytes.NewReader([]byte("again")))
	require.NoError(t, err)
	_, err = u.DB.Exec("UPDATE content SET created_at = created_at - INTERVAL 30 DAY")
	require.NoError(t, err)
	digest, _, err := u.Put(ctx, bytes.NewReader([]byte("again")))
	require.NoError(t, err)
	_, gone, err := u.Purge(ctx, time.Now(), "version.digest")
	require.NoError(t, err)
	assert.Zero(t, gone)
	_, err = u.Read(ctx, digest)
	assert.NoError(t, err)
}

// BenchmarkUpload200MB uploads 200 MB and, for comparison within the same run, inserts as much in rows of the same size.
// The ratio of the speeds, and the largest heap seen on the way, are reported.
func BenchmarkUpload200MB(b *testing.B) {
	const size = 200 << 20
	u := uploads(b)
	data := noise(1 << 20)
	peak := func() uint64 {
		var m runtime.MemStats
		runtime.ReadMemStats(&m)
		return m.HeapInuse
	}
	var plain, uploaded time.Duration
	var before, most uint64
	for n := 0; b.Loop(); n++ {
		begun := time.Now()
		for row := range size >> 20 {
			_, err := u.DB.Exec(
				"INSERT INTO content_chunk (content_id, n, data) VALUES (?, ?, ?)",
				1_000_000+n,
				row,
				data,
			)
			require.NoError(b, err)
		}
		plain += time.Since(begun)
		runtime.GC()
		before = peak()
		begun = time.Now()
		_, err := u.Take(
			somebody,
			"a",
			&counted{left: size, each: func() { most = max(most, peak()) }, data: data, n: byte(n)},
			size,
		)
		require.NoError(b, err)
		uploaded += time.Since(begun)
	}
	b.ReportMetric(plain.Seconds()/uploaded.Seconds(), "of-plain-inserts")
	b.ReportMetric(float64(size)*float64(b.N)/1e6/uploaded.Seconds(), "MB/s")
	b.ReportMetric(float64(most-min(most, before))/1e6, "MB-heap-above")
}

// counted gives so many bytes, different ones each time, and looks up now and then.
type counted struct {
	left, given int
	each        func()
	data        []byte
	n           byte
}

func (c *counted) Read(p []byte) (int, error) {
	if c.left == 0 {
		return 0, io.EOF
	}
	n := copy(p[:min(len(p), c.left)], c.data)
	p[0] = c.n + byte(c.left>>20)
	c.left -= n
	if c.given += n; c.given > 32<<20 {
		c.given = 0
		c.each()
	}
	return n, nil
}
