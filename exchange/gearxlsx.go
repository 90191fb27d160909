package exchange

import (
	"bytes"
	"errors"
	"io"
	"strconv"

	"github.com/xuri/excelize/v2"

	"largo/core/fault"
	"largo/core/gear"
)

// sheetName is the sheet of a workbook that holds the gear.
const sheetName = "gear"

// WriteGearWorkbook writes models as an XLSX workbook with one sheet, of the
// same columns as the CSV table. Numbers are written as numbers.
func WriteGearWorkbook(w io.Writer, models []gear.Model) (err error) {
	book := excelize.NewFile()
	defer func() { err = errors.Join(err, book.Close()) }()
	if err := book.SetSheetName(book.GetSheetName(0), sheetName); err != nil {
		return err
	}
	out, err := book.NewStreamWriter(sheetName)
	if err != nil {
		return err
	}
	row := make([]any, len(gearColumns))
	for i, c := range gearColumns {
		row[i] = c.name
	}
	if err := out.SetRow("A1", row); err != nil {
		return err
	}
	for i := range models {
		for j, c := range gearColumns {
			row[j] = cellOf(c.get(&models[i]))
		}
		if err := out.SetRow("A"+strconv.Itoa(i+2), row); err != nil {
			return err
		}
	}
	if err := out.Flush(); err != nil {
		return err
	}
	return book.Write(w)
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

// ReadGearWorkbook reads models from the first sheet of an XLSX workbook over
// those that the library has: all of them, or faults that each name their row
// and column.
func ReadGearWorkbook(r io.Reader, have []gear.Model) ([]gear.Model, error) {
	b, err := io.ReadAll(io.LimitReader(r, MostBytes+1))
	if err != nil {
		return nil, err
	}
	if len(b) > MostBytes {
		return nil, ErrTooBig
	}
	// A workbook is a ZIP archive: what it may unfold to is bounded too.
	book, err := excelize.OpenReader(bytes.NewReader(b), excelize.Options{UnzipSizeLimit: 16 * MostBytes, UnzipXMLSizeLimit: 4 * MostBytes, RawCellValue: true})
	if err != nil {
		return nil, fault.At("", "This is no workbook that can be read: %.80s.", err)
	}
	defer book.Close()
	rows, err := book.Rows(book.GetSheetName(0))
	if err != nil {
		return nil, fault.At("", "The first sheet of the workbook cannot be read: %.80s.", err)
	}
	defer rows.Close()
	line := 0
	return readGearRows(have, func() ([]string, int, error) {
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
