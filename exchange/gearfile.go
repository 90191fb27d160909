package exchange

import (
	"bufio"
	"bytes"
	"io"

	"largo/core/gear"
)

// ReadGearFile reads models in any of their forms, told by what the file begins
// with: JSON, a workbook, or a CSV table. The tables are read over the models
// that the library has.
func ReadGearFile(r io.Reader, have []gear.Model) ([]gear.Model, error) {
	whole := bufio.NewReader(r)
	if head, _ := whole.Peek(1); bytes.HasPrefix(head, []byte("{")) {
		return ReadGear(whole)
	}
	if isWorkbook(whole) {
		return ReadGearWorkbook(whole, have)
	}
	return ReadGearTable(whole, have)
}
