package rig

import "largo/core/gear"

// Inside tells whether a link runs inside a case, from one of its parts to another:
// no lead that anybody packs or plugs.
func (x *Index) Inside(k Link) bool {
	from, to := x.device[k.From.Device], x.device[k.To.Device]
	return from != to && x.Rig.Devices[from].Case != "" && x.Rig.Devices[from].Case == x.Rig.Devices[to].Case
}

// InCase lists, by index, the parts of the case that a device is a part of, itself
// among them; itself alone when it is in none.
func (x *Index) InCase(device int) []int {
	name := x.Rig.Devices[device].Case
	if name == "" {
		return []int{device}
	}
	var parts []int
	for i := range x.Rig.Devices {
		if x.Rig.Devices[i].Case == name {
			parts = append(parts, i)
		}
	}
	return parts
}

// Inlet is the mains lead that feeds a device: into itself, or into another part of
// its case, which has one inlet. False where none is drawn.
func (x *Index) Inlet(d *Device) (Link, bool) {
	if k, fed := x.Into(Ref{Device: d.Tag, Port: gear.MainsPort}); fed || d.Case == "" {
		return k, fed
	}
	for _, i := range x.InCase(x.device[d.Tag]) {
		if k, fed := x.Into(Ref{Device: x.Rig.Devices[i].Tag, Port: gear.MainsPort}); fed && !x.Inside(k) {
			return k, true
		}
	}
	return Link{}, false
}

// OutletOf is the outlet of the supply that a device is plugged into, itself or as a
// part of a case; "" where that is not known.
func (x *Index) OutletOf(d *Device) string {
	if d.Outlet != "" || d.Case == "" {
		return d.Outlet
	}
	for _, i := range x.InCase(x.device[d.Tag]) {
		if outlet := x.Rig.Devices[i].Outlet; outlet != "" {
			return outlet
		}
	}
	return ""
}

// IntoCase is a change of a device that leaves it in the case of a name, out of the
// one it was in; "" for none. A case that is there keeps its place, and brings its new
// part there; a part that moves takes its case along.
func (r Rig) IntoCase(e ChangeDevice, name string) Edit {
	d, _ := r.Device(e.Tag)
	if name == d.Case && (name == "" || e.Place == d.Place) {
		return e
	}
	all := Batch{Saying: e.Say(), Edits: []Edit{e}}
	if d.Case != "" && d.Case != name {
		all.Saying = "Took " + e.NewTag + " out of the case " + d.Case
		all.Edits = append(all.Edits, SetCase{Case: r.caseOf(d.Case, d.Place), Parts: r.partsBut(d.Case, e.Tag)})
	}
	switch {
	case name == "":
		return all
	case name == d.Case:
		all.Edits = append(all.Edits, SetCase{Case: Case{name, e.Place}, Parts: append(r.partsBut(name, e.Tag), e.NewTag)})
		return all
	}
	all.Saying = "Put " + e.NewTag + " into the case " + name
	all.Edits = append(all.Edits, SetCase{Case: r.caseOf(name, e.Place), Parts: append(r.partsBut(name, e.Tag), e.NewTag)})
	return all
}

// caseOf is the case of a name, else a new one at a place.
func (r Rig) caseOf(name, place string) Case {
	for _, c := range r.Cases {
		if c.Name == name {
			return c
		}
	}
	return Case{name, place}
}

// partsBut are the tags of a case's parts, without one.
func (r Rig) partsBut(name, but string) (tags []string) {
	for _, d := range r.Devices {
		if d.Case == name && d.Tag != but {
			tags = append(tags, d.Tag)
		}
	}
	return tags
}
