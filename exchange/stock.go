package exchange

import (
	"encoding/csv"
	"io"
	"strconv"
	"strings"

	"largo/core/fault"
	"largo/core/gear"
)

// A stock table has one holding a row: the model's id, its maker and name for
// those who read it, the place and how many lie there.
var stockColumns = []string{"id", "maker", "name", "place", "count"}

// WriteStock writes holdings as CSV.
func WriteStock(w io.Writer, held []gear.Holding) error {
	out := csv.NewWriter(w)
	rows := [][]string{stockColumns}
	for _, h := range held {
		rows = append(rows, []string{h.Model.ID, h.Model.Maker, h.Model.Name, h.Place, strconv.Itoa(h.Count)})
	}
	if err := out.WriteAll(rows); err != nil {
		return err
	}
	return out.Error()
}

// ReadStock reads holdings of known models from CSV: all of them, or faults
// that each name their row. A count of 0 takes a holding away.
func ReadStock(r io.Reader, models []gear.Model) ([]gear.Holding, error) {
	byID := make(map[string]gear.Model, len(models))
	for _, m := range models {
		byID[m.ID] = m
	}
	in := csv.NewReader(io.LimitReader(r, MostBytes))
	in.TrimLeadingSpace = true
	head, err := in.Read()
	if err == io.EOF {
		return nil, fault.At("", "The file is empty.")
	} else if err != nil {
		return nil, csvFault(err)
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
	var held []gear.Holding
	var l fault.List
	for {
		row, err := in.Read()
		if err == io.EOF {
			return held, l.Err()
		} else if err != nil {
			return nil, csvFault(err)
		}
		line, _ := in.FieldPos(0)
		cell := func(name string) string { return strings.TrimSpace(row[at[name]]) }
		m, known := byID[cell("id")]
		if !known {
			l.Add("", "Row %d, column id: the library has no model %.60q.", line, cell("id"))
		}
		h := gear.Holding{Model: m, Place: cell("place")}
		if h.Count, err = whole(cell("count")); err != nil {
			l.Add("", "Row %d, column count: %s.", line, err)
		}
		for _, f := range CheckHolding(h) {
			l.Add("", "Row %d, column %s: %s", line, f.Field, f.Say)
		}
		held = append(held, h)
		if len(l) > 100 {
			return nil, l
		}
	}
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
