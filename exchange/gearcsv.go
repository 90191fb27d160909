package exchange

import (
	"errors"
	"fmt"
	"io"
	"iter"
	"slices"
	"strconv"
	"strings"

	"largo/core/fault"
	"largo/core/gear"
)

// A gear table has one model a row and one figure a column, named in the
// first row. Columns may stand in any order; an empty cell is unknown. A row of
// a model that the library has changes what its cells say otherwise and leaves
// the rest alone: columns that the table lacks, curves, and where each
// unchanged figure came from.

// What a figure is called there, how it is written and read, package gear says in
// its tables of entries; a column is the same for all kinds that have it.

// modelCell is the cell of a model in a column.
func modelCell(m *gear.Model, column string) string {
	switch column {
	case "id":
		return m.ID
	case "kind":
		return string(m.Kind)
	}
	if e, has := gear.InColumn(m.Kind, column); has {
		return e.Cell(m)
	}
	return ""
}

// fillCell reads a cell into a model. Its id and kind are read before all others.
func fillCell(m *gear.Model, column, text string) error {
	if column == "id" || column == "kind" || text == modelCell(m, column) {
		return nil
	}
	e, has := gear.InColumn(m.Kind, column)
	if !has {
		return fmt.Errorf("no %s has such a figure; leave the cell empty", m.Kind)
	}
	return e.Fill(m, text)
}

// WriteGearTable writes models as CSV.
func WriteGearTable(w io.Writer, models []gear.Model) error {
	return writeCSV(w, gearRows(models))
}

// gearRows are the rows of a table of models, its head first.
func gearRows(models []gear.Model) iter.Seq[[]string] {
	return func(yield func([]string) bool) {
		columns := gear.Columns()
		if !yield(columns) {
			return
		}
		row := make([]string, len(columns))
		for i := range models {
			for j, column := range columns {
				row[j] = modelCell(&models[i], column)
			}
			if !yield(row) {
				return
			}
		}
	}
}

// mostModels bounds one file of models.
const mostModels = 10_000

// ReadGearTable reads models from CSV over those that the library has: all of
// them, or faults that each name their row and column.
func ReadGearTable(r io.Reader, have []gear.Model) ([]gear.Model, error) {
	return readGearRows(have, csvRows(r))
}

func readGearRows(have []gear.Model, next nextRow) ([]gear.Model, error) {
	head, _, err := next()
	if err == io.EOF {
		return nil, fault.At("", "The file is empty.")
	} else if err != nil {
		return nil, err
	}
	at, err := headColumns(head)
	if err != nil {
		return nil, err
	}
	byID := make(map[string]gear.Model, len(have))
	for _, m := range have {
		byID[m.ID] = m
	}
	var models []gear.Model
	var l fault.List
	seen := map[string]int{} // by id, the row
	for {
		row, line, err := next()
		if err == io.EOF {
			return models, l.Err()
		} else if err != nil {
			return nil, err
		}
		if len(models) >= mostModels {
			return nil, fault.At("", "Row %d: a table holds at most %d models.", line, mostModels)
		}
		m := readRow(row, at, line, byID, &l)
		if first := seen[m.ID]; first > 0 && m.ID != "" {
			l.Add("", "Row %d: its id, %.60q, is that of row %d already. Give one of them an id of its own, or another name.",
				line, m.ID, first)
		}
		seen[m.ID] = line
		models = append(models, m)
		if len(l) > mostFaults {
			return nil, l
		}
	}
}

// headColumns finds which column of the file is which of ours, −1 for none.
func headColumns(head []string) (map[string]int, error) {
	at := map[string]int{}
	var l fault.List
	for i, name := range head {
		name = strings.ToLower(strings.TrimSpace(strings.TrimPrefix(name, "\ufeff")))
		if _, twice := at[name]; twice {
			l.Add("", "Row 1, column %d: %.30q stands there a second time.", i+1, name)
		} else if !slices.Contains(gear.Columns(), name) {
			l.Add("", "Row 1, column %d: %.30q is no column of a gear table.", i+1, name)
		}
		at[name] = i
	}
	for _, needed := range []string{"kind", "maker", "name"} {
		if _, ok := at[needed]; !ok {
			l.Add("", "Row 1: the column %q is missing.", needed)
		}
	}
	return at, l.Err()
}

func readRow(row []string, at map[string]int, line int, have map[string]gear.Model, l *fault.List) gear.Model {
	cell := func(name string) string {
		if i, ok := at[name]; ok && i < len(row) {
			return strings.TrimSpace(row[i])
		}
		return ""
	}
	m, ok := gear.Blank(gear.Kind(cell("kind")))
	if !ok {
		l.Add("", "Row %d, column kind: %.30q is not a kind of gear.", line, cell("kind"))
		return m
	}
	id := cell("id")
	if id == "" {
		id = gear.IDOf(cell("maker"), cell("name"))
	}
	if old, known := have[id]; known && old.Kind == m.Kind {
		m = old.Clone()
	}
	before := len(*l)
	for _, column := range gear.Columns() {
		if _, stands := at[column]; !stands {
			continue
		}
		if err := fillCell(&m, column, cell(column)); err != nil {
			l.Add("", "Row %d, column %s: %s.", line, column, strings.TrimSuffix(err.Error(), "."))
		}
	}
	m.ID = id
	if err := m.Check(); err != nil && len(*l) == before {
		var faults fault.List
		errors.As(err, &faults)
		for _, f := range faults {
			l.Add("", "Row %d, %s: %s", line, f.Field, f.Say)
		}
	}
	return m
}

func whole(s string) (int, error) {
	n, err := strconv.Atoi(s)
	if err != nil {
		return 0, fmt.Errorf("%.20q is not a whole number", s)
	}
	return n, nil
}
