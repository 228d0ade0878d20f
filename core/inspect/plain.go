package inspect

import (
	"bytes"
	"encoding/csv"
	"errors"
	"io"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

// decode reads a plain text in whatever encoding it has: by its byte order mark, else UTF-8 if it is
// valid, else Windows-1252 (the usual one of old editors), whose extra characters tell it from ISO 8859-1.
func decode(data []byte) (text, encoding string, bom bool, err error) {
	switch {
	case bytes.HasPrefix(data, []byte("\xef\xbb\xbf")):
		return string(data[3:]), "utf-8", true, nil
	case bytes.HasPrefix(data, []byte("\xff\xfe")), bytes.HasPrefix(data, []byte("\xfe\xff")):
		order, name := unicode.LittleEndian, "utf-16le"
		if data[0] == 0xfe {
			order, name = unicode.BigEndian, "utf-16be"
		}
		out, err := unicode.UTF16(order, unicode.UseBOM).NewDecoder().Bytes(data)
		return string(out), name, true, err
	case utf8.Valid(data):
		for _, c := range data {
			if c >= utf8.RuneSelf {
				return string(data), "utf-8", false, nil
			}
		}
		return string(data), "us-ascii", false, nil
	}
	name := "iso-8859-1"
	for _, c := range data {
		if c >= 0x80 && c < 0xa0 {
			name = "windows-1252"
		}
	}
	out, err := charmap.Windows1252.NewDecoder().Bytes(data)
	return string(out), name, false, err
}

// textKind settles what a plain text is: a table if its records agree, else what its extension says.
func textKind(detected, ext string, data []byte) string {
	text, _, _, err := decode(data)
	if err != nil {
		return "txt"
	}
	table := detected == "csv" || detected == "tsv" || ext == "csv" || ext == "tsv" || ext == "tab"
	switch {
	case table && Delimiter(text) == '\t':
		return "tsv"
	case table:
		return "csv"
	case ext == "md" || ext == "markdown":
		return "md"
	}
	return "txt"
}

// Decoded is a plain text as UTF-8.
func Decoded(data []byte) (string, error) {
	text, _, _, err := decode(data)
	return text, err
}

// Delimiter is the one of comma, semicolon and tab that divides the first records most evenly.
func Delimiter(text string) rune {
	best, most := ',', 0
	lines := strings.SplitN(text, "\n", 11)
	for _, d := range []rune{',', ';', '\t'} {
		fewest := strings.Count(lines[0], string(d))
		for _, line := range lines[:min(len(lines), 10)] {
			if strings.TrimSpace(line) != "" {
				fewest = min(fewest, strings.Count(line, string(d)))
			}
		}
		if fewest > most {
			best, most = d, fewest
		}
	}
	return best
}

func (f *Facts) text(data []byte) {
	text, encoding, bom, err := decode(data)
	f.Encoding, f.BOM = &encoding, &bom
	if err != nil {
		f.problem("damaged", "encoding", "The text is not valid in the encoding it claims.")
		return
	}
	if f.Kind == "csv" || f.Kind == "tsv" {
		f.table(text)
		return
	}
	if f.Kind == "html" {
		if text, err = htmlText(text); err != nil {
			f.problem("damaged", "words", "The page cannot be read on: %v.", err)
			return
		}
	}
	f.Words = ref(countWords(text))
}

// table counts records and fields as RFC 4180 divides them.
func (f *Facts) table(text string) {
	r := csv.NewReader(strings.NewReader(text))
	r.Comma, r.FieldsPerRecord = Delimiter(text), -1
	rows, columns, ragged := 0, 0, 0
	for {
		record, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			f.problem("damaged", "rows", "The table cannot be read on: %v.", err)
			return
		}
		rows++
		if columns != 0 && len(record) != columns && ragged == 0 {
			ragged = rows
		}
		columns = max(columns, len(record))
	}
	f.Rows, f.Columns = &rows, &columns
	if ragged > 0 {
		f.problem("ragged", "columns", "Record %d has another number of fields than those before it.", ragged)
	}
}
