package exchange

import (
	"io"
	"iter"
	"strconv"
	"strings"

	"largo/core/fault"
	"largo/core/gear"
)

// A stock table has one holding a row: the model's id, its maker and name for
// those who read it, the place and how many lie there.
var stockColumns = []string{"id", "maker", "name", "place", "count"}

// WriteStock writes holdings as CSV.
func WriteStock(w io.Writer, held []gear.Holding) error { return writeCSV(w, stockRows(held)) }

// WriteStockWorkbook writes holdings as an XLSX workbook with one sheet.
func WriteStockWorkbook(w io.Writer, held []gear.Holding) error {
	return writeWorkbook(w, "stock", stockRows(held))
}

func stockRows(held []gear.Holding) iter.Seq[[]string] {
	return func(yield func([]string) bool) {
		if !yield(stockColumns) {
			return
		}
		for _, h := range held {
			if !yield([]string{h.Model.ID, h.Model.Maker, h.Model.Name, h.Place, strconv.Itoa(h.Count)}) {
				return
			}
		}
	}
}

// ReadStock reads holdings of known models from CSV or an XLSX workbook: all
// of them, or faults that each name their row and column. A count of 0 takes
// a holding away.
func ReadStock(r io.Reader, models []gear.Model) (held []gear.Holding, err error) {
	err = readTable(r, func(next nextRow) (err error) {
		held, err = readStockRows(models, next)
		return err
	})
	return held, err
}

func readStockRows(models []gear.Model, next nextRow) ([]gear.Holding, error) {
	byID := make(map[string]gear.Model, len(models))
	for _, m := range models {
		byID[m.ID] = m
	}
	at, err := stockHead(next)
	if err != nil {
		return nil, err
	}
	var held []gear.Holding
	var l fault.List
	seen := map[[2]string]int{} // by model and place, the row
	for {
		row, line, err := next()
		if err == io.EOF {
			return held, l.Err()
		} else if err != nil {
			return nil, err
		}
		h := readHolding(row, at, line, byID, &l)
		if before := seen[[2]string{h.Model.ID, h.Place}]; before > 0 && h.Model.ID != "" {
			l.Add("", "Row %d: row %d says already how many of %s lie there.", line, before, h.Model.ID)
		}
		seen[[2]string{h.Model.ID, h.Place}] = line
		held = append(held, h)
		if len(l) > mostFaults {
			return nil, l
		}
	}
}

// stockHead finds the columns of a stock table.
func stockHead(next nextRow) (map[string]int, error) {
	head, _, err := next()
	if err == io.EOF {
		return nil, fault.At("", "The file is empty.")
	} else if err != nil {
		return nil, err
	}
	at := map[string]int{}
	for i, name := range head {
		at[strings.ToLower(strings.TrimSpace(strings.TrimPrefix(name, "\ufeff")))] = i
	}
	for _, needed := range []string{"id", "place", "count"} {
		if _, ok := at[needed]; !ok {
			return nil, fault.At("", "Row 1: the column %q is missing.", needed)
		}
	}
	return at, nil
}

func readHolding(row []string, at map[string]int, line int, byID map[string]gear.Model, l *fault.List) gear.Holding {
	cell := func(name string) string {
		if at[name] >= len(row) { // a workbook ends a row at its last cell
			return ""
		}
		return strings.TrimSpace(row[at[name]])
	}
	m, known := byID[cell("id")]
	if !known {
		l.Add("", "Row %d, column id: the library has no model %.60q.", line, cell("id"))
	}
	h := gear.Holding{Model: m, Place: cell("place")}
	var err error
	if h.Count, err = whole(cell("count")); err != nil {
		l.Add("", "Row %d, column count: %s.", line, err)
	}
	for _, f := range CheckHolding(h) {
		l.Add("", "Row %d, column %s: %s", line, f.Field, f.Say)
	}
	return h
}

// CheckHolding faults a place without a name and a count that cannot be.
func CheckHolding(h gear.Holding) fault.List {
	var l fault.List
	l.CheckName("place", "The place", h.Place, 60, true)
	if h.Count < 0 || h.Count > gear.MostHeld {
		l.Add("count", "%d of them cannot be right: give 0 to %d.", h.Count, gear.MostHeld)
	}
	return l
}

// StockChange is a holding that a stock table would make another.
type StockChange struct {
	Model         gear.Model
	Place         string
	Before, After int
}

// DiffStock tells what a stock table would change of what is held, and how
// many of its rows stand there already.
func DiffStock(have, read []gear.Holding) (changes []StockChange, same int) {
	now := make(map[[2]string]int, len(have))
	for _, h := range have {
		now[[2]string{h.Model.ID, h.Place}] = h.Count
	}
	for _, h := range read {
		if before := now[[2]string{h.Model.ID, h.Place}]; before != h.Count {
			changes = append(changes, StockChange{h.Model, h.Place, before, h.Count})
		} else {
			same++
		}
	}
	return changes, same
}
