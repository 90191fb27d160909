package kit

import (
	"largo/core/gear"
	"largo/core/rig"
)

// ReadPair reads the setting of a pair of channels, from any stage that shows it.
func ReadPair(_ rig.Rig, f *Form) rig.Edit {
	return rig.SetPair{Tag: f.Text("tag"), Pair: f.Number("pair", "pairs"),
		Set: rig.Pair{Output: gear.Mode(f.Text("output")), Input: rig.InputMode(f.Text("input"))}}
}
