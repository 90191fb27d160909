package exchange

import "largo/core/gear"

// CellChange is one figure of a model before and after, as text.
type CellChange struct{ Column, Before, After string }

// DiffGear tells what a model of a file would change in the library's, figure
// by figure.
func DiffGear(before, after *gear.Model) []CellChange {
	var changes []CellChange
	for _, c := range gearColumns {
		if a, b := c.get(before), c.get(after); a != b {
			changes = append(changes, CellChange{c.name, a, b})
		}
	}
	return changes
}
