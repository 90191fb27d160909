package match

import (
	"fmt"
	"math"
	"slices"

	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
	"largo/core/words"
)

// Area is listeners whom some boxes are for, with what reaches them. Levels are
// added within an area alone: who sits in one is not helped by another.
type Area struct {
	Name    rig.Aim
	Level   reckon.Figure // its full-range boxes at full power, dB SPL
	Subs    reckon.Figure // its subwoofers at full power, dB SPL
	Average reckon.Figure // of ordinary programme
	Spare   reckon.Figure // average over the wanted level
	Silent  []string      // for it, that nothing feeds, or that are driven by nothing
	Unknown []string      // for it, whose level is not known
}

// Title is the area in words.
func (a Area) Title() string {
	switch a.Name {
	case rig.Audience:
		return "audience"
	case rig.OnStage:
		return "stage"
	}
	return string(a.Name)
}

// Figures lists the figures of an area by their keys.
func (a Area) Figures() []reckon.Figure {
	if a.Name == rig.OnStage { // monitors are for those beside them; no wanted level is theirs
		return []reckon.Figure{a.Level}
	}
	return []reckon.Figure{a.Level, a.Average, a.Spare, a.Subs}
}

// Partial tells whether something of the area is silent or not known: what its
// boxes give together is then a lower bound, and nothing is to spare.
func (a Area) Partial() bool { return len(a.Silent)+len(a.Unknown) > 0 }

// lacks says why nothing can be said to spare.
func (a Area) lacks() string {
	switch {
	case len(a.Silent) > 0:
		return words.List(a.Silent) + " " + words.Is(len(a.Silent)) + " silent"
	case len(a.Unknown) > 0:
		return "the level of " + words.List(a.Unknown) + " is not known"
	}
	return ""
}

// Decides is the area that decides whether the rig is loud enough: the poorest of
// the audience, one of which something is silent or unknown before all others.
func (v *Verdict) Decides() Area {
	if v.Poorest >= 0 && v.Poorest < len(v.Areas) {
		return v.Areas[v.Poorest]
	}
	const none = "no box for the audience is driven"
	a := Area{Level: reckon.Unknown("together", "L", "level of all boxes at full power", none),
		Subs: reckon.Unknown("subs", "Lsub", "level of the subwoofers at full power",
			"no subwoofer for the audience is driven")}
	a.Average, a.Spare = spare(rig.Brief{}, a)
	return a
}

// heard is a box that plays for an area: a passive one by its weakest way, or an
// active one.
type heard struct {
	*rig.Device
	programme string
	sub       bool
	level     *reckon.Figure
	box       *Box // of a passive one
}

// Heard lists the passive boxes that play for the main audience and carry more
// than the low end.
func (v *Verdict) Heard() []*Box {
	var boxes []*Box
	for _, h := range v.playing() {
		if h.box != nil && !h.sub && h.Aim() == rig.Audience {
			boxes = append(boxes, h.box)
		}
	}
	return boxes
}

// playing lists what plays. A box of several ways is heard as its weakest: each
// carries a band of its own, and the processor turns the stronger down to it
// (common practice, no source).
func (v *Verdict) playing() []heard {
	n := len(v.Active)
	for i := range v.Outputs {
		n += len(v.Outputs[i].Boxes)
	}
	all, at := make([]heard, 0, n), map[string]int{} // where the boxes of several ways stand
	for i := range v.Outputs {
		o := &v.Outputs[i]
		if !o.Live || o.Arrives == "" || o.Dead != "" {
			continue
		}
		for i := range o.Boxes {
			b := &o.Boxes[i]
			k, known := at[b.Tag]
			switch {
			case !known:
				if b.Way != "" {
					at[b.Tag] = len(all)
				}
				all = append(all, heard{b.Device, o.Arrives, b.Speaker.Sub, &b.Level, b})
			case all[k].level.Known() && (!b.Level.Known() || b.Level.Value < all[k].level.Value):
				all[k].level, all[k].box = &b.Level, b
			}
		}
	}
	for i := range v.Active {
		if a := &v.Active[i]; a.Arrives != "" {
			all = append(all, heard{a.Device, a.Arrives, a.Box.Sub, &a.Level, nil})
		}
	}
	return all
}

// hear gathers what reaches each area.
func (v *Verdict) hear(x *rig.Index) {
	playing := v.playing()
	plays := make(map[string]bool, len(playing))
	var areas []rig.Aim
	note := func(aim rig.Aim) {
		if !slices.Contains(areas, aim) {
			areas = append(areas, aim)
		}
	}
	for i := range playing {
		plays[playing[i].Tag] = true
		note(playing[i].Aim())
	}
	var silent []*rig.Device
	for i := range x.Rig.Devices {
		d, m := &x.Rig.Devices[i], x.ModelAt(i)
		if m.Loudspeaker != nil && !plays[d.Tag] {
			note(d.Aim())
			silent = append(silent, d)
		}
	}
	slices.SortStableFunc(areas, func(a, b rig.Aim) int { return rank(a) - rank(b) })
	v.Areas, v.Poorest = make([]Area, 0, len(areas)), -1
	for _, aim := range areas {
		v.Areas = append(v.Areas, area(x.Rig.Brief, aim, playing, silent))
		if aim == rig.OnStage {
			continue
		}
		if i := len(v.Areas) - 1; v.Poorest < 0 || poorer(v.Areas[i], v.Areas[v.Poorest]) {
			v.Poorest = i
		}
	}
}

// rank sorts the main audience first and the stage last.
func rank(a rig.Aim) int {
	switch a {
	case rig.Audience:
		return 0
	case rig.OnStage:
		return 2
	}
	return 1
}

func poorer(a, b Area) bool {
	if a.Partial() != b.Partial() {
		return a.Partial()
	}
	if a.Average.Known() != b.Average.Known() {
		return !a.Average.Known()
	}
	return a.Average.Value < b.Average.Value
}

func area(b rig.Brief, aim rig.Aim, playing []heard, silent []*rig.Device) Area {
	a := Area{Name: aim}
	for _, d := range silent {
		if d.Aim() == aim {
			a.Silent = append(a.Silent, d.Tag)
		}
	}
	var subs, counted sum
	for _, h := range playing {
		if h.Aim() != aim {
			continue
		}
		counts := !h.sub || b.Weighting == rig.WeightC
		if counts && !h.level.Known() {
			a.Unknown = append(a.Unknown, h.Tag)
		}
		if h.sub {
			subs.add(h)
		}
		if counts {
			counted.add(h)
		}
	}
	a.Level = counted.figure("together", "L", "level of all boxes at full power", "no box for "+a.Whom()+" is driven")
	a.Subs = subs.figure("subs", "Lsub", "level of the subwoofers at full power",
		"no subwoofer for "+a.Whom()+" is driven")
	a.Average, a.Spare = spare(b, a)
	return a
}

// Whom is the area as a sentence names it.
func (a Area) Whom() string {
	switch a.Name {
	case rig.Audience, rig.OnStage:
		return "the " + a.Title()
	}
	return a.Title()
}

// sum adds levels: in step those of subwoofers of one programme at one place, all
// others as powers. Full-range boxes side by side overlap in part of their band
// alone, so nothing more is promised of them.
type sum struct {
	together       []cluster // of subwoofers
	apart          float64   // energy of all else
	boxes, unknown int
}

// cluster is boxes that move as one.
type cluster struct {
	programme, place string
	pressure         float64
	n                int
}

func (s *sum) add(h heard) {
	s.boxes++
	if !h.level.Known() {
		s.unknown++
		return
	}
	if !h.sub {
		s.apart += math.Pow(10, h.level.Value/10)
		return
	}
	pressure := math.Pow(10, h.level.Value/20)
	for i := range s.together {
		if c := &s.together[i]; c.programme == h.programme && c.place == h.Place {
			c.pressure, c.n = c.pressure+pressure, c.n+1
			return
		}
	}
	s.together = append(s.together, cluster{h.programme, h.Place, pressure, 1})
}

func (s *sum) figure(key, symbol, name, lacks string) reckon.Figure {
	switch {
	case s.boxes == 0:
		return reckon.Unknown(key, symbol, name, lacks)
	case s.unknown == s.boxes:
		return reckon.Unknown(key, symbol, name, "the level of no box is known")
	}
	energy, inStep := s.apart, 0
	for _, c := range s.together {
		energy += c.pressure * c.pressure
		if c.n > 1 {
			inStep += c.n
		}
	}
	n := float64(s.boxes - s.unknown)
	f := reckon.Of(key, symbol, name, unit.Decibel(10*math.Log10(energy)), "10 lg Σ 10^(Li/10) over {n}",
		reckon.Count("n", "boxes", n)).Because("powers of boxes that stand apart")
	switch {
	case inStep > 0 && len(s.together) == 1 && s.apart == 0:
		f.Formula = "20 lg Σ 10^(Li/20) over {n}"
		f = f.Noting("They add in step while they stand close together; spread out they add as powers, up to half of that.").
			Because("pressures in step")
	case inStep > 0:
		f.Formula = "10 lg Σ (Σ 10^(Li/20))² over {n}"
		f = f.Noting("Subwoofers of one programme at one place add in step, all else as powers.").
			Because("pressures in step within a place, powers between places")
	}
	if s.unknown > 0 {
		f = f.Noting(fmt.Sprintf("%s left out, because the level is unknown.", words.Count(s.unknown, "box", "boxes")))
	}
	return f
}
