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
