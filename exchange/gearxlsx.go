package exchange

import (
	"io"

	"largo/core/gear"
)

// WriteGearWorkbook writes models as an XLSX workbook with one sheet, of the
// same columns as the CSV table.
func WriteGearWorkbook(w io.Writer, models []gear.Model) error {
	return writeWorkbook(w, "gear", gearRows(models))
}

// ReadGearWorkbook reads models from the first sheet of an XLSX workbook over
// those that the library has: all of them, or faults that each name their row
// and column.
func ReadGearWorkbook(r io.Reader, have []gear.Model) (models []gear.Model, err error) {
	err = readWorkbook(r, func(next nextRow) (err error) {
		models, err = readGearRows(have, next)
		return err
	})
	return models, err
}
