package rig

import (
	"fmt"
	"slices"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/unit"
)

// Supply is a part of the tree that feeds the rig, from the source down to the
// outlets that devices are plugged into.
type Supply struct {
	Name     string                  `json:"name"`
	Sort     SupplySort              `json:"sort"`
	From     string                  `json:"from,omitempty"` // the supply that feeds it; a source has none
	Place    string                  `json:"place,omitempty"`
	Volts    unit.Given[unit.Volt]   `json:"volts,omitzero"`
	Current  unit.Given[unit.Ampere] `json:"current,omitzero"`  // that it carries, or a breaker trips above
	Residual unit.Given[unit.Ampere] `json:"residual,omitzero"` // that a residual-current device trips at

	// of a source: the generator or other gear of the rig that it comes from, its hertz, and
	// whether it has three phases
	Gear   string                 `json:"gear,omitempty"`
	Hertz  unit.Given[unit.Hertz] `json:"hertz,omitzero"`
	Phases int                    `json:"phases,omitempty"` // 1 or 3; 0 is 1
	// the phase that it takes, 1 to 3, of a source with three; 0: all, or that of what feeds it
	Phase   int                     `json:"phase,omitempty"`
	Curve   Curve                   `json:"curve,omitempty"`   // of a breaker
	Type    ResidualType            `json:"type,omitempty"`    // of a residual-current device
	Delayed bool                    `json:"delayed,omitempty"` // it waits for one behind it (type S)
	Earth   gear.Answer             `json:"earth,omitempty"`   // its outlets have protective earth
	Carries unit.Given[unit.Ampere] `json:"carries,omitzero"`  // of the house, already
	// of a feeder that is an extension lead
	Length   unit.Given[unit.Metre]            `json:"length,omitzero"`
	Area     unit.Given[unit.SquareMillimetre] `json:"area,omitzero"`
	OnReel   bool                              `json:"onReel,omitempty"` // it lies wound up
	Loaded   unit.Given[unit.Volt]             `json:"loaded,omitzero"`  // read while LoadedBy was drawn
	LoadedBy unit.Given[unit.Ampere]           `json:"loadedBy,omitzero"`
	Lamps    Lamps                             `json:"lamps,omitempty"`  // of the three-lamp tester
	Button   gear.Answer                       `json:"button,omitempty"` // the residual-current device trips by its button
}

// Curve is how a breaker trips at once.
type Curve string

// The curves: of IEC 60898-1, and the thermal-magnetic one of North America.
const (
	CurveB        Curve = "B"
	CurveC        Curve = "C"
	CurveD        Curve = "D"
	CurveAmerican Curve = "North American"
)

// Curves lists the choices.
var Curves = []Curve{CurveB, CurveC, CurveD, CurveAmerican}

// ResidualType is to which currents a residual-current device answers (IEC 60755): AC to
// those of a sine alone, A to those of rectifiers too, F to mixed frequencies, B to direct
// ones. GFCI is that of UL 943 class A.
type ResidualType string

// The types.
const (
	TypeAC ResidualType = "AC"
	TypeA  ResidualType = "A"
	TypeF  ResidualType = "F"
	TypeB  ResidualType = "B"
	GFCI   ResidualType = "GFCI class A"
)

// ResidualTypes lists the choices.
var ResidualTypes = []ResidualType{TypeAC, TypeA, TypeF, TypeB, GFCI}

// Lamps are those that a three-lamp tester shows lit, left to right, as "011"; "" where
// nobody tested: line to neutral, line to earth, neutral to earth.
type Lamps string

// AllLamps are what such a tester can show.
var AllLamps = []Lamps{"000", "001", "010", "011", "100", "101", "110", "111"}

// SupplySort is what a part of the supply is.
type SupplySort string

// The sorts, from the source down.
const (
	Source  SupplySort = "source"  // the house, a generator
	Feeder  SupplySort = "feeder"  // a lead or a distribution that feeds several
	Breaker SupplySort = "breaker" // of current or of residual current, or both
	Outlet  SupplySort = "outlet"
)

// SupplySorts lists the choices.
var SupplySorts = []SupplySort{Source, Feeder, Breaker, Outlet}

// checkSupplies faults a supply that is no tree: each part but a source is fed by
// one other, an outlet feeds devices alone, and nothing feeds itself.
func (r Rig) checkSupplies(l *fault.List) {
	checkNames(l, "supplies", "The supply", 60, r.Supplies, func(s Supply) string { return s.Name })
	byName := make(map[string]Supply, len(r.Supplies))
	for _, s := range r.Supplies {
		byName[s.Name] = s
	}
	for i, s := range r.Supplies {
		path := fmt.Sprintf("supplies[%d]", i)
		if !slices.Contains(SupplySorts, s.Sort) {
			l.Add(path+".sort", "A supply is a source, a feeder, a breaker or an outlet, not %.20q.", s.Sort)
		}
		from, fed := byName[s.From]
		switch {
		case s.Sort == Source && s.From != "":
			l.Add(path+".from", "%s is a source; nothing feeds it.", s.Name)
		case s.Sort != Source && s.From == "":
			l.Add(path+".from", "%s is fed by nothing; say what feeds it.", s.Name)
		case s.From != "" && !fed:
			l.Add(path+".from", "There is no supply %.60q in this rig.", s.From)
		case fed && from.Sort == Outlet:
			l.Add(path+".from", "%s is an outlet: a device is plugged into it, not another part of the supply.", s.From)
		case fed && roundAgain(byName, s):
			l.Add(path+".from", "%s would feed itself.", s.Name)
		}
		if v, known := s.Volts.Get(); known && (v < 50 || v > 1000) {
			l.Add(path+".volts", "A supply of %s cannot be right: give 50 V to 1000 V.", v)
		}
		if a, known := s.Current.Get(); known && (a < 0.5 || a > 2000) {
			l.Add(path+".current", "A current of %s cannot be right: give 0.5 A to 2000 A.", a)
		}
		if a, known := s.Residual.Get(); known && (a < 0.001 || a > 3) {
			l.Add(path+".residual", "A residual current of %s cannot be right: give 1 mA to 3 A.", a)
		}
		s.checkParts(l, path)
		if d, there := r.Device(s.Gear); s.Gear != "" {
			if m, _ := r.Model(d.Model); !there || m == nil || m.Supply == nil {
				l.Add(path+".gear", "%.30q is no gear of this rig that gives mains.", s.Gear)
			}
		}
	}
}

// checkParts faults what only some parts of a supply have, and figures that cannot be.
func (s *Supply) checkParts(l *fault.List, path string) {
	oneOf(l, path+".curve", s.Curve, Curves)
	oneOf(l, path+".type", s.Type, ResidualTypes)
	oneOf(l, path+".lamps", s.Lamps, AllLamps)
	oneOf(l, path+".earth", s.Earth, []gear.Answer{gear.Yes, gear.No})
	oneOf(l, path+".button", s.Button, []gear.Answer{gear.Yes, gear.No})
	supplyWithin(l, path+".hertz", "A frequency", s.Hertz, 16, 400)
	supplyWithin(l, path+".carries", "A current of the house", s.Carries, 0, 2000)
	supplyWithin(l, path+".loaded", "A voltage under load", s.Loaded, 20, 1000)
	supplyWithin(l, path+".loadedBy", "A load", s.LoadedBy, 0.1, 2000)
	supplyWithin(l, path+".length", "A lead", s.Length, 0.1, 1000)
	supplyWithin(l, path+".area", "A conductor", s.Area, 0.1, 400)
	switch {
	case s.Gear != "" && s.Sort != Source:
		l.Add(path+".gear", "Only a source comes from gear of the rig; %s is a %s.", s.Name, s.Sort)
	case s.Phases != 0 && s.Phases != 1 && s.Phases != 3:
		l.Add(path+".phases", "A source has one phase or three, not %d.", s.Phases)
	case s.Phases != 0 && s.Sort != Source:
		l.Add(path+".phases", "How many phases there are is said of the source, not of %s.", s.Name)
	case s.Phase < 0 || s.Phase > 3:
		l.Add(path+".phase", "A phase is 1, 2 or 3, not %d.", s.Phase)
	case s.Curve != "" && s.Sort != Breaker:
		l.Add(path+".curve", "Only a breaker has a curve; %s is a %s.", s.Name, s.Sort)
	case s.Type != "" && !s.Residual.Known():
		l.Add(path+".residual", "Say at what current the residual-current device of %s trips.", s.Name)
	case s.OnReel && s.Sort != Feeder:
		l.Add(path+".onReel", "Only a lead lies on a reel; %s is a %s.", s.Name, s.Sort)
	case s.Loaded.Known() != s.LoadedBy.Known():
		l.Add(path+".loaded", "A voltage under load is read with its amperes: give both, or neither.")
	}
}

func supplyWithin[T unit.Quantity](l *fault.List, field, what string, g unit.Given[T], low, high T) {
	if v, known := g.Get(); known && !(v >= low && v <= high) {
		l.Add(field, "%s of %s cannot be right: give %s to %s.", what, v, low, high)
	}
}

// roundAgain tells whether going up from a supply comes round to it.
func roundAgain(byName map[string]Supply, s Supply) bool {
	at := s
	for range byName {
		up, fed := byName[at.From]
		if !fed {
			return false
		}
		if at = up; at.Name == s.Name {
			return true
		}
	}
	return false
}

// SetSupplies says what feeds the rig. Devices on an outlet that is gone are on
// none that is known.
type SetSupplies struct {
	Supplies []Supply `json:"supplies"`
}

// Say tells what the edit does.
func (SetSupplies) Say() string { return "Changed the supply" }

func (e SetSupplies) change(r *Rig) error {
	r.Supplies = slices.Clone(e.Supplies)
	for i := range r.Devices {
		d := &r.Devices[i]
		if !slices.ContainsFunc(r.Supplies, func(s Supply) bool { return s.Name == d.Outlet }) {
			d.Outlet = ""
		}
	}
	r.settle()
	return nil
}

// ChangeSupply changes one part of the supply, or adds one where Name is empty; what it fed
// follows its new name.
type ChangeSupply struct {
	Name string `json:"name,omitempty"`
	To   Supply `json:"to"`
}

// Say tells what the edit does.
func (e ChangeSupply) Say() string {
	if e.Name == "" {
		return "Added " + e.To.Name + " to the supply"
	}
	return "Changed " + e.To.Name + " of the supply"
}

func (e ChangeSupply) change(r *Rig) error {
	if err := e.put(r); err != nil {
		return err
	}
	r.settle()
	var l fault.List
	r.checkSupplies(&l)
	return atForm(l)
}

func (e ChangeSupply) put(r *Rig) error {
	if e.Name == "" {
		r.Supplies = append(r.Supplies, e.To)
		return nil
	}
	i := slices.IndexFunc(r.Supplies, func(s Supply) bool { return s.Name == e.Name })
	if i < 0 {
		return fault.At("name", "There is no supply %.60q in this rig.", e.Name)
	}
	r.Supplies[i] = e.To
	for j := range r.Supplies {
		if r.Supplies[j].From == e.Name {
			r.Supplies[j].From = e.To.Name
		}
	}
	for j := range r.Devices {
		if r.Devices[j].Outlet == e.Name {
			r.Devices[j].Outlet = e.To.Name
		}
	}
	return nil
}

// RemoveSupply takes a part out of the supply; what it fed is fed by what fed it, and devices
// on it are on no outlet that is known.
type RemoveSupply struct {
	Name string `json:"name"`
}

// Say tells what the edit does.
func (e RemoveSupply) Say() string { return "Took " + e.Name + " out of the supply" }

func (e RemoveSupply) change(r *Rig) error {
	i := slices.IndexFunc(r.Supplies, func(s Supply) bool { return s.Name == e.Name })
	if i < 0 {
		return fault.At("name", "There is no supply %.60q in this rig.", e.Name)
	}
	gone := r.Supplies[i]
	left := slices.Delete(slices.Clone(r.Supplies), i, i+1)
	for j := range left {
		if left[j].From != e.Name {
			continue
		}
		if left[j].From = gone.From; gone.From == "" {
			left[j].Sort = Source // nothing is above it any more
			left[j].Curve, left[j].OnReel = "", false
		}
	}
	return SetSupplies{left}.change(r)
}

// PlugMains says which outlet a device is plugged into; none: it is not known.
type PlugMains struct {
	Tag    string `json:"tag"`
	Outlet string `json:"outlet,omitempty"`
}

// Say tells what the edit does.
func (e PlugMains) Say() string {
	if e.Outlet == "" {
		return e.Tag + " is on no outlet that is known"
	}
	return "Plugged " + e.Tag + " into the outlet " + e.Outlet
}

func (e PlugMains) change(r *Rig) error {
	i, err := r.mustFind(e.Tag)
	if err != nil {
		return err
	}
	for _, k := range r.Links {
		if k.To == (Ref{Device: e.Tag, Port: gear.MainsPort}) && e.Outlet != "" {
			return fault.At("outlet", "%s is plugged into %s, and has one mains inlet: pull that lead first, on Wire.", e.Tag,
				k.From)
		}
	}
	r.Devices[i].Outlet = e.Outlet
	return nil
}

// LiftEarth records that the protective earth of a device is lifted, or that it is not.
type LiftEarth struct {
	Tag    string `json:"tag"`
	Lifted bool   `json:"lifted,omitempty"`
}

// Say tells what the edit does.
func (e LiftEarth) Say() string {
	if e.Lifted {
		return "Recorded that the earth of " + e.Tag + " is lifted"
	}
	return "Recorded that " + e.Tag + " is plugged in with its earth"
}

func (e LiftEarth) change(r *Rig) error {
	i, err := r.mustFind(e.Tag)
	if err != nil {
		return err
	}
	r.Devices[i].Lifted = e.Lifted
	return nil
}
