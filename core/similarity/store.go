package similarity

import (
	"bufio"
	"encoding/binary"
	"errors"
	"fmt"
	"hash"
	"hash/crc32"
	"io"
	"slices"
)

// storeMark begins a stored index: its name and the version of its form.
const storeMark = "orario index 1\n"

// ErrDamaged is the answer to a stored index that is cut off, altered, or none.
var ErrDamaged = errors.New("the index is damaged")

// WriteTo stores the index, to be opened by [ReadIndex] without being built: the mark, then as little-endian numbers
// how many sources, bytes of normalised text and fingerprints there are; every source's name, kind and text with their
// lengths; the normalised text; where each source begins in it; the fingerprints and where each stands; and the
// CRC-32C of all of it.
func (x *Index) WriteTo(w io.Writer) (int64, error) {
	out := &summed{w: bufio.NewWriterSize(w, 1<<20), sum: crc32.New(castagnoli)}
	out.bytes([]byte(storeMark))
	for _, n := range []int{len(x.sources), len(x.norm), len(x.hashes)} {
		out.number(n)
	}
	for _, s := range x.sources {
		for _, text := range []string{s.Name, string(s.Kind), s.Text} {
			out.number(len(text))
			out.bytes([]byte(text))
		}
	}
	out.bytes(x.norm)
	for _, list := range [][]uint32{x.starts, x.hashes, x.at} {
		out.numbers(list)
	}
	out.bytes(binary.LittleEndian.AppendUint32(nil, out.sum.Sum32()))
	if out.err == nil {
		out.err = out.w.Flush()
	}
	return out.n, out.err
}

var castagnoli = crc32.MakeTable(crc32.Castagnoli)

// summed writes, counts and sums; after an error it does nothing.
type summed struct {
	w   *bufio.Writer
	sum hash.Hash32
	n   int64
	err error
}

func (s *summed) bytes(p []byte) {
	if s.err != nil {
		return
	}
	s.sum.Write(p)
	n, err := s.w.Write(p)
	s.n, s.err = s.n+int64(n), err
}

func (s *summed) number(n int) { s.bytes(binary.LittleEndian.AppendUint64(nil, uint64(n))) }

func (s *summed) numbers(list []uint32) {
	buffer := make([]byte, 0, 1<<16)
	for part := range slices.Chunk(list, 1<<14) {
		buffer = buffer[:0]
		for _, n := range part {
			buffer = binary.LittleEndian.AppendUint32(buffer, n)
		}
		s.bytes(buffer)
	}
}

// ReadIndex opens a stored index; what is damaged gives [ErrDamaged]. Time and memory are those of reading it.
func ReadIndex(r io.Reader) (*Index, error) {
	in := &summing{r: bufio.NewReaderSize(r, 1<<20), sum: crc32.New(castagnoli)}
	if string(in.bytes(uint64(len(storeMark)))) != storeMark {
		return nil, fmt.Errorf("it does not begin as one: %w", ErrDamaged)
	}
	sources, norm, prints := in.number(), in.number(), in.number()
	x := &Index{}
	for range sources {
		if in.err != nil {
			break
		}
		name, kind, text := in.text(), in.text(), in.text()
		x.sources = append(x.sources, Source{Name: name, Kind: Kind(kind), Text: text})
	}
	x.norm = in.bytes(norm)
	x.starts, x.hashes, x.at = in.numbers(sources), in.numbers(prints), in.numbers(prints)
	sum := in.sum.Sum32()
	if end := in.bytes(4); in.err != nil || binary.LittleEndian.Uint32(end) != sum {
		return nil, errors.Join(ErrDamaged, in.err)
	}
	if !x.sound() {
		return nil, ErrDamaged
	}
	x.lookUp()
	return x, nil
}

// sound says that nothing in the index points out of it.
func (x *Index) sound() bool {
	within := func(n uint32) bool { return int(n) < len(x.norm) }
	for _, list := range [][]uint32{x.starts, x.at} {
		if slices.ContainsFunc(list, func(n uint32) bool { return !within(n) }) {
			return false
		}
	}
	return slices.IsSorted(x.starts) && slices.IsSorted(x.hashes) &&
		(len(x.starts) == 0 || x.starts[0] == 0) && (len(x.norm) == 0 || len(x.starts) > 0)
}

// summing reads and sums; after an error it gives nothing.
type summing struct {
	r   *bufio.Reader
	sum hash.Hash32
	err error
}

// atOnce is how much is taken at once, so that a length that lies costs no more memory than there is to be read.
const atOnce = 1 << 24

func (s *summing) bytes(n uint64) []byte {
	var out []byte
	for n > 0 && s.err == nil {
		part := min(n, atOnce)
		at := len(out)
		out = slices.Grow(out, int(part))[:at+int(part)]
		_, s.err = io.ReadFull(s.r, out[at:])
		n -= part
	}
	if s.err != nil {
		return nil
	}
	s.sum.Write(out)
	return out
}

func (s *summing) number() uint64 {
	if p := s.bytes(8); s.err == nil {
		return binary.LittleEndian.Uint64(p)
	}
	return 0
}

func (s *summing) text() string { return string(s.bytes(s.number())) }

func (s *summing) numbers(n uint64) []uint32 {
	var out []uint32
	for n > 0 && s.err == nil {
		part := min(n, atOnce/4)
		p := s.bytes(4 * part)
		if s.err != nil {
			return nil
		}
		out = slices.Grow(out, int(part))
		for i := 0; i < len(p); i += 4 {
			out = append(out, binary.LittleEndian.Uint32(p[i:]))
		}
		n -= part
	}
	return out
}
