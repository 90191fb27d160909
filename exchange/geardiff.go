package exchange

import "largo/core/gear"

// CellChange is one figure of a model before and after, as text.
type CellChange struct{ Column, Before, After string }

// DiffGear tells what a model of a file would change in the library's, figure
// by figure.
func DiffGear(before, after *gear.Model) []CellChange {
	var changes []CellChange
	for _, column := range gear.Columns() {
		if a, b := modelCell(before, column), modelCell(after, column); a != b {
			changes = append(changes, CellChange{column, a, b})
		}
	}
	return changes
}
