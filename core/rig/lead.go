package rig

import (
	"fmt"
	"slices"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/unit"
)

// host is the link whose lead a link runs in: itself, unless it shares another's.
func (x *Index) host(k Link) Link {
	if k.Rides == (Ref{}) {
		return k
	}
	if host, there := x.Into(k.Rides); there {
		return host
	}
	return k
}

// Pieces are the made-up leads that a link is joined from, from its output
// on; none when it is not taken from stock.
func (x *Index) Pieces(k Link) []*gear.Cable {
	k = x.host(k)
	if len(k.Cables) == 0 {
		return nil
	}
	pieces := make([]*gear.Cable, len(k.Cables))
	for i, id := range k.Cables {
		m, _ := x.Rig.Model(id)
		pieces[i] = m.Cable
	}
	return pieces
}

// LeadLength is the length of a link in m: what was said, or that of its
// pieces together.
func (x *Index) LeadLength(k Link) unit.Given[unit.Metre] {
	k = x.host(k)
	if len(k.Cables) == 0 {
		return k.Length
	}
	var whole unit.Metre
	for _, c := range x.Pieces(k) {
		l, known := c.Length.Get()
		if !known {
			return unit.Given[unit.Metre]{}
		}
		whole += l
	}
	return unit.From(whole, "stock")
}

// LeadArea is the conductor of a link in mm²: what was said, or the thinnest
// of its pieces.
func (x *Index) LeadArea(k Link) unit.Given[unit.SquareMillimetre] {
	k = x.host(k)
	if len(k.Cables) == 0 {
		return k.Area
	}
	thinnest := unit.Given[unit.SquareMillimetre]{}
	for _, c := range x.Pieces(k) {
		a, known := c.Area.Get()
		if !known {
			return unit.Given[unit.SquareMillimetre]{}
		}
		if !thinnest.Known() || a < thinnest.Or(a) {
			thinnest = unit.From(a, "stock")
		}
	}
	return thinnest
}

func (r Rig) checkLead(l *fault.List, path string, k Link) {
	if len(k.Cables) > 4 {
		l.Add(path+".cables", "A lead joined from %d pieces cannot be right: give at most 4.", len(k.Cables))
	}
	for _, id := range k.Cables {
		if m, ok := r.Model(id); !ok || m.Kind != gear.KindCable {
			l.Add(path+".cables", "There is no lead %.60q in this rig.", id)
		}
	}
	if len(k.Cables) > 0 && (k.Length.Known() || k.Area.Known()) {
		l.Add(path+".length", "A lead from stock has a length and a conductor of its own; leave these empty.")
	}
	if k.Rides != (Ref{}) {
		r.checkRides(l, path+".rides", k)
	}
	if k.Via == "" {
		return
	}
	d, ok := r.Device(k.Via)
	if m, _ := r.Model(d.Model); !ok || m.Kind != gear.KindStageBox {
		l.Add(path+".via", "%.30q is no stage box or multicore of this rig.", k.Via)
	}
}

// checkRides faults a link that shares the lead of one that is not there, runs
// between other devices, or shares one itself.
func (r Rig) checkRides(l *fault.List, path string, k Link) {
	i := slices.IndexFunc(r.Links, func(o Link) bool { return o.To == k.Rides })
	switch {
	case i < 0:
		l.Add(path, "Nothing is plugged into %s, whose lead it would share.", clip(k.Rides))
	case r.Links[i].From.Device != k.From.Device || r.Links[i].To.Device != k.To.Device || k.Rides == k.To:
		l.Add(path, "One lead runs between two devices; the one into %s runs between others.", clip(k.Rides))
	case r.Links[i].Rides != (Ref{}):
		l.Add(path, "The link into %s shares a lead itself.", clip(k.Rides))
	case len(k.Cables) > 0 || k.Length.Known() || k.Area.Known():
		l.Add(path, "What shares a lead has none of its own; leave its leads, length and conductor empty.")
	}
}

// bring takes models into the rig that it does not hold yet, as they are
// today.
func (r *Rig) bring(models []gear.Model) {
	for _, m := range models {
		if _, have := r.Model(m.ID); !have {
			r.Models = append(r.Models, m)
		}
	}
}

// forget drops the models that nothing in the rig is of any more.
func (r *Rig) forget() {
	used := make(map[string]bool, len(r.Models))
	for _, d := range r.Devices {
		used[d.Model] = true
	}
	for _, k := range r.Links {
		for _, id := range k.Cables {
			used[id] = true
		}
	}
	r.Models = slices.DeleteFunc(r.Models, func(m gear.Model) bool { return !used[m.ID] })
}

// SetLead changes what lead feeds an input: leads of stock, or a length and a
// conductor; the multicore that it runs in; and its polarity.
type SetLead struct {
	To      Ref                               `json:"to"`
	Stock   []gear.Model                      `json:"stock,omitempty"` // the made-up leads, joined in this order
	Length  unit.Given[unit.Metre]            `json:"length,omitzero"`
	Area    unit.Given[unit.SquareMillimetre] `json:"area,omitzero"`
	Via     string                            `json:"via,omitempty"`
	Swapped bool                              `json:"swapped,omitempty"`
}

// Say tells what the edit does.
func (e SetLead) Say() string { return "Changed the lead into " + e.To.String() }

func (e SetLead) change(r *Rig) error { return SetLeads{Leads: []SetLead{e}}.change(r) }

func (SetLead) oneLead() {}

// SetLeads changes many leads in one act.
type SetLeads struct {
	Saying string    `json:"saying,omitempty"`
	Leads  []SetLead `json:"leads,omitempty"`
}

// Say tells what the edit does.
func (e SetLeads) Say() string { return e.Saying }

func (e SetLeads) change(r *Rig) error {
	into := make(map[Ref]int, len(r.Links))
	for i, k := range r.Links {
		into[k.To] = i
	}
	for _, lead := range e.Leads {
		i, plugged := into[lead.To]
		if !plugged {
			return fault.At("to", "Nothing is plugged into %s.", clip(lead.To))
		}
		r.bring(lead.Stock)
		k := &r.Links[i]
		k.Cables = nil
		for _, m := range lead.Stock {
			k.Cables = append(k.Cables, m.ID)
		}
		if len(lead.Stock) > 0 || lead.Length.Known() || lead.Area.Known() {
			k.Rides = Ref{} // it has a lead of its own now
		}
		k.Length, k.Area, k.Via, k.Swapped = lead.Length, lead.Area, lead.Via, lead.Swapped
	}
	r.forget()
	return nil
}

// SetPhantom switches phantom power at a microphone input.
type SetPhantom struct {
	At Ref  `json:"at"`
	On bool `json:"on,omitempty"`
}

// Say tells what the edit does.
func (e SetPhantom) Say() string {
	if e.On {
		return "Phantom power on at " + e.At.String()
	}
	return "Phantom power off at " + e.At.String()
}

func (e SetPhantom) change(r *Rig) error {
	i, err := r.mustFind(e.At.Device)
	if err != nil {
		return err
	}
	r.Devices[i].setDesk(func(d *DeskSettings) {
		d.Phantom = without(d.Phantom, func(port string) bool { return port == e.At.Port })
		if e.On {
			d.Phantom = append(d.Phantom, e.At.Port)
		}
	})
	return nil
}

// Spot is where a device stands on the drawing, in its units from the top
// left.
type Spot struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
}

// largestSpot bounds the drawing.
const largestSpot = 20000

// PlaceOnDrawing moves a device on the drawing; nil lets it find its own
// place again.
type PlaceOnDrawing struct {
	Tag string `json:"tag"`
	At  *Spot  `json:"at,omitempty"`
}

// Say tells what the edit does.
func (e PlaceOnDrawing) Say() string { return "Moved " + e.Tag + " on the drawing" }

func (e PlaceOnDrawing) change(r *Rig) error {
	i, err := r.mustFind(e.Tag)
	if err != nil {
		return err
	}
	r.Devices[i].Spot = e.At
	return nil
}

// TidyDrawing lets every device find its own place on the drawing again.
type TidyDrawing struct{}

// Say tells what the edit does.
func (TidyDrawing) Say() string { return "Tidied the drawing" }

func (TidyDrawing) change(r *Rig) error {
	for i := range r.Devices {
		r.Devices[i].Spot = nil
	}
	return nil
}

func (d *Device) checkDrawn(l *fault.List, m *gear.Model) {
	if s := d.Spot; s != nil && !(s.X >= 0 && s.X <= largestSpot && s.Y >= 0 && s.Y <= largestSpot) {
		l.Add("spot", "%s cannot stand at %g, %g: the drawing goes from 0 to %d.", d.Tag, s.X, s.Y, largestSpot)
	}
	d.checkPorts(l, m)
	for _, port := range d.phantom() {
		p, ok := m.Port(port)
		if !ok || p.Signal != gear.Mic || p.Dir != gear.In || m.Mixer == nil || m.Mixer.Phantom == gear.No {
			l.Add("mixer.phantom", "%s cannot give phantom power at %.30q.", d.Tag, port)
		}
	}
}

// atForm brings the faults of links to the fields of the form that made one.
func atForm(l fault.List) error {
	for i := range l {
		field := l[i].Field
		for j := len(field) - 1; j >= 0; j-- {
			if field[j] == '.' {
				l[i].Field = field[j+1:]
				break
			}
		}
	}
	return l.Err()
}

func (k Link) String() string { return fmt.Sprintf("%s to %s", k.From, k.To) }
