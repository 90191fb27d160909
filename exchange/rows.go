package exchange

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"errors"
	"io"
	"iter"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"largo/core/fault"
)

// nextRow gives the next row of a table and where it stands, or io.EOF.
type nextRow func() (row []string, line int, err error)

// Bounds of a table.
const (
	mostRows    = 50_000 // empty ones included, which spreadsheets leave behind
	mostColumns = 300
)

// csvRows reads a CSV file row by row, MostBytes at most.
func csvRows(r io.Reader) nextRow {
	limited := &io.LimitedReader{R: r, N: MostBytes + 1}
	in := csv.NewReader(&narrow{r: limited})
	in.TrimLeadingSpace, in.ReuseRecord = true, true
	return func() ([]string, int, error) {
		row, err := in.Read()
		if limited.N <= 0 {
			return nil, 0, ErrTooBig
		}
		if err != nil {
			return nil, 0, csvFault(err)
		}
		line, _ := in.FieldPos(0)
		if err := checkRow(row, line); err != nil {
			return nil, line, err
		}
		for i, cell := range row {
			row[i] = unquoted(cell)
		}
		return row, line, nil
	}
}

// narrow refuses a line of far more commas than a table has columns before
// the CSV reader makes cells of them.
type narrow struct {
	r            io.Reader
	line, commas int
}

func (n *narrow) Read(b []byte) (int, error) {
	read, err := n.r.Read(b)
	for _, c := range b[:read] {
		switch c {
		case '\n':
			n.line, n.commas = n.line+1, 0
		case ',':
			if n.commas++; n.commas > 20*mostColumns {
				return 0, fault.At("", "Row %d has thousands of columns; a table holds at most %d.", n.line+1, mostColumns)
			}
		}
	}
	return read, err
}

// checkRow judges the text of a row once, before anything is made of it.
func checkRow(row []string, line int) error {
	if line > mostRows {
		return fault.At("", "Row %d: a table holds at most %d rows.", line, mostRows)
	}
	if len(row) > mostColumns {
		return fault.At("", "Row %d has %d columns; a table holds at most %d.", line, len(row), mostColumns)
	}
	for i, cell := range row {
		if n := utf8.RuneCountInString(cell); n > mostText {
			return fault.At("", "Row %d, column %d holds %d characters; keep it to %d.", line, i+1, n, mostText)
		}
		if why := fault.Improper(cell); why != "" {
			if !utf8.ValidString(cell) {
				why += "; save the table as UTF-8, not as Latin-1 or the like"
			}
			return fault.At("", "Row %d, column %d %s.", line, i+1, why)
		}
	}
	return nil
}

// A cell that begins as a formula does would be worked out by whatever opens
// the table. It is written behind an apostrophe, which is taken off again when
// it is read; a plain number stays a number.

// formula tells whether a cell would be taken for a formula.
func formula(cell string) bool {
	if cell == "" || strings.IndexByte("=+-@\t\r", cell[0]) < 0 {
		return false
	}
	_, err := strconv.ParseFloat(cell, 64)
	return err != nil
}

func quoted(cell string) string {
	if formula(cell) || strings.HasPrefix(cell, "'") && formula(strings.TrimLeft(cell, "'")) {
		return "'" + cell
	}
	return cell
}

func unquoted(cell string) string {
	if rest, ok := strings.CutPrefix(cell, "'"); ok && formula(strings.TrimLeft(rest, "'")) {
		return rest
	}
	return cell
}

func csvFault(err error) error {
	var parse *csv.ParseError
	if errors.As(err, &parse) {
		return fault.At("", "Row %d, column %d: %s.", parse.Line, parse.Column, parse.Err)
	}
	return err
}

// mostUnfolded is what a workbook may unfold to, in bytes: a workbook of every
// model of a full library is half as large.
const mostUnfolded = 3 * MostBytes

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
	book, err := excelize.OpenReader(bytes.NewReader(b),
		excelize.Options{UnzipSizeLimit: mostUnfolded, UnzipXMLSizeLimit: mostUnfolded, RawCellValue: true})
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
			if line++; line > mostRows {
				return nil, line, fault.At("",
					"The workbook goes on after row %d, with empty rows too. Delete what stands below the table.", mostRows)
			}
			row, err := rows.Columns()
			if err != nil {
				return nil, line, fault.At("", "Row %d of the workbook cannot be read: %.80s.", line, err)
			}
			if err := checkRow(row, line); err != nil {
				return nil, line, err
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
	var cells []string
	for row := range rows {
		cells = cells[:0]
		for _, cell := range row {
			cells = append(cells, quoted(cell))
		}
		if err := out.Write(cells); err != nil {
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
