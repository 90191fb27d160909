package exchange

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"errors"
	"io"
	"iter"
	"strconv"

	"github.com/xuri/excelize/v2"

	"largo/core/fault"
)

// nextRow gives the next row of a table and where it stands, or io.EOF.
type nextRow func() (row []string, line int, err error)

// csvRows reads a CSV file row by row, MostBytes at most.
func csvRows(r io.Reader) nextRow {
	limited := &io.LimitedReader{R: r, N: MostBytes + 1}
	in := csv.NewReader(limited)
	in.TrimLeadingSpace = true
	return func() ([]string, int, error) {
		row, err := in.Read()
		if limited.N <= 0 {
			return nil, 0, ErrTooBig
		}
		if err != nil {
			return nil, 0, csvFault(err)
		}
		line, _ := in.FieldPos(0)
		return row, line, nil
	}
}

func csvFault(err error) error {
	var parse *csv.ParseError
	if errors.As(err, &parse) {
		return fault.At("", "Row %d, column %d: %s.", parse.Line, parse.Column, parse.Err)
	}
	return err
}

// readWorkbook reads the rows of the first sheet of an XLSX workbook, MostBytes
// at most.
func readWorkbook(r io.Reader, read func(nextRow) error) error {
	b, err := io.ReadAll(io.LimitReader(r, MostBytes+1))
	if err != nil {
		return err
	}
	if len(b) > MostBytes {
		return ErrTooBig
	}
	// A workbook is a ZIP archive: what it may unfold to is bounded too.
	book, err := excelize.OpenReader(bytes.NewReader(b), excelize.Options{UnzipSizeLimit: 16 * MostBytes, UnzipXMLSizeLimit: 4 * MostBytes, RawCellValue: true})
	if err != nil {
		return fault.At("", "This is no workbook that can be read: %.80s.", err)
	}
	defer book.Close()
	rows, err := book.Rows(book.GetSheetName(0))
	if err != nil {
		return fault.At("", "The first sheet of the workbook cannot be read: %.80s.", err)
	}
	defer rows.Close()
	line := 0
	return read(func() ([]string, int, error) {
		for rows.Next() {
			line++
			row, err := rows.Columns()
			if err != nil {
				return nil, line, fault.At("", "Row %d of the workbook cannot be read: %.80s.", line, err)
			}
			if len(row) > 0 { // spreadsheets leave empty rows behind
				return row, line, nil
			}
		}
		return nil, line, io.EOF
	})
}

// readTable reads the rows of a table in either form, told by what it begins
// with.
func readTable(r io.Reader, read func(nextRow) error) error {
	whole := bufio.NewReader(r)
	if isWorkbook(whole) {
		return readWorkbook(whole, read)
	}
	return read(csvRows(whole))
}

// isWorkbook tells whether a file begins as an archive does, which an XLSX
// workbook is and no table.
func isWorkbook(r *bufio.Reader) bool {
	head, _ := r.Peek(4)
	return bytes.HasPrefix(head, []byte("PK\x03\x04"))
}

// writeWorkbook writes rows as an XLSX workbook of one sheet. Numbers are
// written as numbers.
func writeWorkbook(w io.Writer, sheet string, rows iter.Seq[[]string]) (err error) {
	book := excelize.NewFile()
	defer func() { err = errors.Join(err, book.Close()) }()
	if err := book.SetSheetName(book.GetSheetName(0), sheet); err != nil {
		return err
	}
	out, err := book.NewStreamWriter(sheet)
	if err != nil {
		return err
	}
	var cells []any
	line := 0
	for row := range rows {
		line++
		cells = cells[:0]
		for _, text := range row {
			cells = append(cells, cellOf(text))
		}
		if err := out.SetRow("A"+strconv.Itoa(line), cells); err != nil {
			return err
		}
	}
	if err := out.Flush(); err != nil {
		return err
	}
	return book.Write(w)
}

// writeCSV writes rows as CSV.
func writeCSV(w io.Writer, rows iter.Seq[[]string]) error {
	out := csv.NewWriter(w)
	for row := range rows {
		if err := out.Write(row); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

// cellOf writes a number as a number, so that a workbook can add it up.
func cellOf(text string) any {
	if v, err := strconv.ParseFloat(text, 64); err == nil && strconv.FormatFloat(v, 'f', -1, 64) == text {
		return v
	}
	if text == "" {
		return nil
	}
	return text
}
