package level

import (
	"fmt"

	"largo/core/level"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/unit"
	"largo/core/words"
	"largo/web/kit"
)

// besideView is what plays one programme to the same listeners, side by side.
type besideView struct {
	From, Aim string
	Rows      []kindView
}

type kindView struct {
	level.Kind
	Arrives, Waits string
	Does           string // what turning it down does, as its button says
	Turns          []moveRow
}

func besidesOf(p *kit.Page) (list []besideView) {
	v := survey.Of[level.Verdict](p.Report)
	for _, b := range level.Besides(rig.NewIndex(p.Rig()), v) {
		view := besideView{From: b.From, Aim: string(b.Aim)}
		for _, k := range b.Rows {
			view.Rows = append(view.Rows, kindOf(k))
		}
		list = append(list, view)
	}
	return list
}

func kindOf(k level.Kind) kindView {
	v := kindView{Kind: k, Arrives: milliseconds(k.Arrives)}
	if wait, known := k.Delay.Get(); known && wait > 0 {
		v.Waits = milliseconds(k.Delay)
	}
	if k.Matched() || len(k.Turn) == 0 {
		return v
	}
	for i := range k.Turn {
		v.Turns = append(v.Turns, moveOf(&k.Turn[i]))
	}
	v.Does = "Turn " + k.Turn[0].Name + " to " + k.Turn[0].Now.Signed()
	if len(k.Turn) > 1 {
		v.Does = fmt.Sprintf("Turn its %s down by %s", words.Small(words.Spell(len(k.Turn), "control", "controls")), k.Over)
	}
	return v
}

// milliseconds writes an arrival as delays are set.
func milliseconds(s unit.Given[unit.Second]) string {
	if v, known := s.Get(); known {
		return unit.Fixed(float64(1000*v), 1) + " ms"
	}
	return ""
}
