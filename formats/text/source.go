package text

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"

	"yugen/core/signal"
	"yugen/formats"
)

// row is a record with the line it began on.
type row struct {
	line   int
	fields []string
}

// source gives the rows of a text one by one, so that a long one never stands in memory as text fields.
type source struct {
	reader *csv.Reader // nil where no field is quoted, as in most: lines are then parted by their mark alone, which is several times as fast
	rest   []byte
	mark   string
	line   int
	fields []string
	rows   int
}

func newSource(data []byte) *source {
	if bytes.IndexByte(data, '"') < 0 {
		return &source{rest: data, mark: string(delimiter(data))}
	}
	reader := csv.NewReader(bytes.NewReader(data))
	reader.Comma = delimiter(data)
	reader.FieldsPerRecord = -1
	reader.LazyQuotes = true
	reader.TrimLeadingSpace = true
	reader.ReuseRecord = true
	return &source{reader: reader}
}

// next is the next row, whose fields hold only until the one after it; io.EOF at the end.
func (s *source) next() (row, error) {
	line, fields, err := s.read()
	if err != nil {
		return row{}, err
	}
	if len(fields) > maxColumns {
		return row{}, &formats.Error{Line: line, Reason: fmt.Sprintf("there are %d columns; at most %d are read", len(fields), maxColumns)}
	}
	if s.rows++; s.rows > signal.MaxPoints {
		return row{}, &formats.Error{Line: line, Reason: fmt.Sprintf("there are more than %d lines", signal.MaxPoints)}
	}
	for i := range fields {
		fields[i] = strings.TrimSpace(fields[i])
	}
	return row{line, fields}, nil
}

// read gives the fields of the next line that is not empty.
func (s *source) read() (line int, fields []string, err error) {
	if s.reader != nil {
		fields, err = s.reader.Read()
		var parse *csv.ParseError
		if errors.As(err, &parse) {
			return 0, nil, &formats.Error{Line: parse.Line, Reason: parse.Err.Error()}
		}
		if err == nil {
			line, _ = s.reader.FieldPos(0)
		}
		return line, fields, err
	}
	for len(s.rest) > 0 {
		var bare []byte
		bare, s.rest, _ = bytes.Cut(s.rest, []byte("\n"))
		s.line++
		text := string(bytes.TrimSuffix(bare, []byte("\r")))
		if text == "" {
			continue
		}
		s.fields = s.fields[:0]
		for more := true; more; {
			var field string
			field, text, more = strings.Cut(text, s.mark)
			s.fields = append(s.fields, field)
		}
		return s.line, s.fields, nil
	}
	return 0, nil, io.EOF
}

// delimiter is what most of the lines are parted by. A tab, semicolon or bar wins over a comma, which may be the decimal mark.
func delimiter(data []byte) rune {
	lines := bytes.SplitN(data, []byte("\n"), 60)
	for _, d := range []rune{'\t', ';', '|'} {
		n := 0
		for _, l := range lines {
			if bytes.ContainsRune(l, d) {
				n++
			}
		}
		if 2*n > len(lines) {
			return d
		}
	}
	return ','
}
