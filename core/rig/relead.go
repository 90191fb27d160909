package rig

import (
	"cmp"
	"slices"

	"largo/core/gear"
	"largo/core/unit"
)

// Leads is what is at hand for plugging anew: the leads that are pulled, and those of
// stock that nothing uses.
type Leads struct {
	x      *Index
	ground *Ground
	own    map[Ref]int // the pulled lead of an input
	free   []atHand
}

// atHand is leads of one sort at hand.
type atHand struct {
	lead  Link       // what of a link is its lead
	cable gear.Cable // as long as all its pieces, as thin and as few of conductors as the least
	spare int
	stock []gear.Model
}

// LeadsAtHand lists the pulled leads of links, and spare ones of stock.
func (x *Index) LeadsAtHand(pulled []Link, spare []gear.Holding) *Leads {
	l := &Leads{x: x, ground: x.Ground(gear.Speaker), own: make(map[Ref]int, len(pulled))}
	for _, k := range pulled {
		l.own[k.To] = len(l.free)
		h := atHand{lead: Link{Swapped: k.Swapped, Length: k.Length, Area: k.Area, Cables: k.Cables, Via: k.Via},
			cable: gear.Cable{Length: x.LeadLength(k), Area: x.LeadArea(k)}, spare: 1, stock: x.StockOf(k)}
		for _, c := range x.Pieces(k) {
			if h.cable.Poles == 0 || c.Poles < h.cable.Poles {
				h.cable.Poles = c.Poles
			}
		}
		if k.Rides != (Ref{}) { // it has no lead of its own
			h = atHand{lead: Link{Rides: k.Rides}, cable: h.cable, spare: 1}
		}
		l.free = append(l.free, h)
	}
	for _, s := range spare {
		if c := s.Model.Cable; c != nil && c.Sort == gear.SpeakerCable && c.Length.Known() && s.Count > 0 {
			l.free = append(l.free, atHand{lead: Link{Cables: []string{s.Model.ID}}, cable: *c, spare: s.Count,
				stock: []gear.Model{s.Model}})
		}
	}
	return l
}

// Ground is what the leads of the rig tell of its spots.
func (l *Leads) Ground() *Ground { return l.ground }

// Plug gives links that are plugged anew their leads, the longest way first: the one
// that the input had where it runs between the same spots or reaches; else the shortest
// that reaches, the thicker of two. It gives the edits, and the links that no lead at
// hand reaches for, which are plugged without one. at tells the spot of a device; a new
// one has none in the index.
func (l *Leads) Plug(links []Link, at func(tag string) string) (edits []Edit, short []Link) {
	order := make([]int, len(links))
	for i := range order {
		order[i] = i
	}
	ways := make([]unit.Given[unit.Metre], len(links))
	for i, k := range links {
		if way, known := l.ground.Way(at(k.From.Device), at(k.To.Device)); known {
			ways[i] = unit.Of(way)
		}
	}
	slices.SortStableFunc(order, func(i, j int) int { return cmp.Compare(ways[j].Or(-1), ways[i].Or(-1)) })
	lead := make([]int, len(links)) // counted from 1; 0: none
	for _, sameEnds := range []bool{true, false} {
		for _, i := range order {
			if lead[i] == 0 {
				if lead[i] = l.take(links[i], ways[i], sameEnds, at) + 1; lead[i] > 0 {
					l.free[lead[i]-1].spare--
				}
			}
		}
	}
	for i, k := range links {
		if lead[i] == 0 {
			if own, had := l.own[k.To]; had && l.free[own].cable.Length.Known() {
				short = append(short, k)
			}
			edits = append(edits, Connect{Link: k})
			continue
		}
		h := &l.free[lead[i]-1]
		k.Swapped, k.Length, k.Area, k.Cables, k.Via, k.Rides = h.lead.Swapped, h.lead.Length, h.lead.Area, h.lead.Cables,
			h.lead.Via, h.lead.Rides
		if k.Rides != (Ref{}) && !l.sharable(k, links) {
			k.Rides = Ref{}
		}
		edits = append(edits, Connect{Link: k, Stock: h.stock})
	}
	return edits, short
}

// sharable tells whether the lead that a link shares still runs between the same devices.
func (l *Leads) sharable(k Link, links []Link) bool {
	host, there := l.x.Into(k.Rides)
	for _, anew := range links {
		if anew.To == k.Rides {
			host, there = anew, true
		}
	}
	return there && host.From.Device == k.From.Device
}

// take finds the lead for a link, −1 for none.
func (l *Leads) take(k Link, way unit.Given[unit.Metre], sameEnds bool, at func(string) string) int {
	if own, had := l.own[k.To]; had && l.free[own].spare > 0 {
		before, _ := l.x.Into(k.To)
		same := l.x.Spot(before.From.Device) == at(k.From.Device)
		if r := l.free[own].lead.Rides; r != (Ref{}) {
			if before.From.Device == k.From.Device {
				return own
			}
			return -1
		}
		if same || !sameEnds && (!way.Known() || !l.free[own].cable.Length.Known()) {
			return own
		}
	}
	if sameEnds || !way.Known() {
		return -1
	}
	best := -1
	for i := range l.free {
		h := &l.free[i]
		if length, known := h.cable.Length.Get(); h.spare == 0 || !known || length < way.Or(0) || !l.fits(h, k) {
			continue
		}
		if best < 0 || h.better(&l.free[best]) {
			best = i
		}
	}
	return best
}

// better tells whether one lead is preferred to another.
func (h *atHand) better(than *atHand) bool { return h.cable.Before(than.cable) < 0 }

// fits tells whether a lead has the plugs and the conductors for a link.
func (l *Leads) fits(h *atHand, k Link) bool {
	if h.lead.Rides != (Ref{}) {
		return false
	}
	to, _ := l.x.Port(k.To)
	from, known := l.x.Port(k.From)
	for _, m := range h.stock {
		if known && len(h.stock) == 1 && !m.Cable.Fits(from.Connector, to.Connector) {
			return false
		}
	}
	return h.cable.Poles == 0 || h.cable.Reaches(to)
}

// Shortest is the length and the conductor of the lead that a way would be given, were
// all of its sort free: what is at hand and reaches; else the bare way, and false.
func (l *Leads) Shortest(way unit.Metre, poles int) (unit.Metre, unit.SquareMillimetre, bool) {
	var best *atHand
	for i := range l.free {
		h := &l.free[i]
		if length, known := h.cable.Length.Get(); known && length >= way && h.lead.Rides == (Ref{}) && h.cable.Area.Known() &&
			(h.cable.Poles == 0 || h.cable.Poles >= 2*poles) && (best == nil || h.better(best)) {
			best = h
		}
	}
	if best == nil {
		return way, usualArea, false
	}
	return best.cable.Length.Or(0), best.cable.Area.Or(usualArea), true
}

// usualArea is the conductor taken for a lead of which nothing is known, only to tell
// the longer way from the shorter (common practice, no source).
const usualArea unit.SquareMillimetre = 2.5
