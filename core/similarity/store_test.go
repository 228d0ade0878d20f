package similarity

import (
	"bytes"
	"flag"
	"runtime"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func stored(t testing.TB, x *Index) []byte {
	var b bytes.Buffer
	n, err := x.WriteTo(&b)
	require.NoError(t, err)
	require.EqualValues(t, b.Len(), n)
	return b.Bytes()
}

func TestAStoredIndexAnswersTheSame(t *testing.T) {
	sources := []Source{
		{Name: "a", Text: chapter(t, 1000, 900)},
		{Name: "empty"},
		{Name: "é", Text: chapter(t, 5000, 900), Kind: Own},
	}
	built := NewIndex(sources)
	opened, err := ReadIndex(bytes.NewReader(stored(t, built)))
	require.NoError(t, err)
	document := chapter(t, 20_000, 300) + " " + chapter(t, 1200, 60) + " " + chapter(t, 5100, 60)
	want := built.Check(document, Options{})
	require.Len(t, want.Passages, 2)
	assert.Equal(t, want, opened.Check(document, Options{}))
	none, err := ReadIndex(bytes.NewReader(stored(t, NewIndex(nil))))
	require.NoError(t, err)
	assert.Empty(t, none.Check(document, Options{}).Passages)
}

// Every cut and every altered byte is noticed.
func TestADamagedIndexIsRefused(t *testing.T) {
	whole := stored(t, NewIndex([]Source{{Name: "a", Text: chapter(t, 1000, 12)}}))
	for at := range whole {
		_, err := ReadIndex(bytes.NewReader(whole[:at]))
		require.ErrorIs(t, err, ErrDamaged, "cut at %d", at)
		altered := bytes.Clone(whole)
		altered[at] ^= 0x80
		_, err = ReadIndex(bytes.NewReader(altered))
		require.ErrorIs(t, err, ErrDamaged, "altered at %d", at)
	}
}

var papers = flag.Int("papers", 10_000, "of 2,000 words each in BenchmarkStored")

// BenchmarkStored opens a stored index, and says what it takes to have it: go test -bench Stored -papers 100000
func BenchmarkStored(b *testing.B) {
	sources := collection(b, *papers)
	began := time.Now()
	index := NewIndex(sources)
	building := time.Since(began)
	document := chapter(b, 10_000, 5000)
	index.Check(document, Options{})
	began = time.Now()
	index.Check(document, Options{})
	checking := time.Since(began)
	file := stored(b, index)
	index, sources = nil, nil // their memory is free from here on
	var opened *Index
	var err error
	for b.Loop() {
		opened, err = ReadIndex(bytes.NewReader(file))
		require.NoError(b, err)
	}
	runtime.GC()
	var memory runtime.MemStats
	runtime.ReadMemStats(&memory)
	b.ReportMetric(building.Seconds(), "s-to-build")
	b.ReportMetric(float64(checking.Microseconds())/1e3, "ms-a-check")
	b.ReportMetric(float64(len(file))/1e6, "MB-file")
	b.ReportMetric(float64(int(memory.HeapAlloc)-len(file))/1e6, "MB-opened")
	runtime.KeepAlive(opened)
	runtime.KeepAlive(file)
}
