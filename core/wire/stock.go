package wire

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
)

// Stock is what the company owns, by model.
type Stock struct {
	models []gear.Model
	owned  map[string]int
	places map[string]string
}

// StockOf adds up holdings by model.
func StockOf(held []gear.Holding) Stock {
	s := Stock{owned: map[string]int{}, places: map[string]string{}}
	for _, h := range held {
		if _, known := s.owned[h.Model.ID]; !known {
			s.models = append(s.models, h.Model)
		}
		s.owned[h.Model.ID] += h.Count
		if h.Count > 0 {
			s.places[h.Model.ID] = strings.TrimPrefix(fmt.Sprintf("%s, %d in %s", s.places[h.Model.ID], h.Count, h.Place), ", ")
		}
	}
	return s
}

// Need is how many of a model a rig takes, against what is owned.
type Need struct {
	Model gear.Model
	Need  int
	Owned int
	Where string // how many lie where
	Join  string // how a lead that is short can be joined from others; "" where it cannot or should not
}

// Short is how many are missing.
func (n Need) Short() int { return max(0, n.Need-n.Owned) }

// Needs counts the devices and the made-up leads of a rig against stock, in
// the order of the library.
func Needs(x *rig.Index, s Stock) []Need {
	used := x.Used()
	var needs []Need
	for _, m := range x.Rig.Models {
		n := Need{Model: m, Need: used[m.ID], Owned: s.owned[m.ID], Where: s.places[m.ID]}
		if m.Kind == gear.KindCable && n.Short() > 0 {
			n.Join = s.join(m, n.Short(), used)
		}
		needs = append(needs, n)
	}
	slices.SortStableFunc(needs, func(a, b Need) int {
		return cmp.Or(cmp.Compare(slices.Index(gear.Kinds, a.Model.Kind), slices.Index(gear.Kinds, b.Model.Kind)),
			cmp.Compare(a.Model.Title(), b.Model.Title()))
	})
	return needs
}

// Pads says what pads lie in the leads of a rig, as "2 of 20 dB"; "" where there are none.
func Pads(r rig.Rig) string {
	count := map[unit.Decibel]int{}
	for _, k := range r.Links {
		if pad, there := k.Pad.Get(); there {
			count[pad]++
		}
	}
	var parts []string
	for _, pad := range slices.Sorted(maps.Keys(count)) {
		parts = append(parts, fmt.Sprintf("%d of %s", count[pad], pad))
	}
	return strings.Join(parts, ", ")
}

// join finds two sorts of spare leads that together do for one that is short.
// Only microphone leads are joined: a joint in a speaker lead is a contact
// that heats and falls apart, one in a mains lead lies in the wet.
func (s Stock) join(short gear.Model, missing int, used map[string]int) string {
	length, known := short.Cable.Length.Get()
	if short.Cable.Sort != gear.MicCable || !known {
		return ""
	}
	best, over := "", unit.Metre(0)
	for i, a := range s.models {
		for _, b := range s.models[i:] {
			if !s.joins(a, b, short, missing, used) {
				continue
			}
			whole := a.Cable.Length.Or(0) + b.Cable.Length.Or(0)
			if whole >= length && (best == "" || whole-length < over) {
				best, over = fmt.Sprintf("join %s and %s, %s together", a.Name, b.Name, whole), whole-length
			}
		}
	}
	return best
}

func (s Stock) joins(a, b, short gear.Model, missing int, used map[string]int) bool {
	for _, m := range []gear.Model{a, b} {
		if m.Kind != gear.KindCable || m.ID == short.ID || m.Cable.Sort != gear.MicCable ||
			m.Cable.Ends != short.Cable.Ends || !m.Cable.Length.Known() {
			return false
		}
	}
	each := missing
	if a.ID == b.ID {
		each = 2 * missing
	}
	return s.owned[a.ID]-used[a.ID] >= each && s.owned[b.ID]-used[b.ID] >= missing
}

// Choose finds the lead of stock for a link: made for the signal, with the
// right plugs, with as many poles as its boxes have ways, a spare one, and the
// shortest that reaches. How far that is, is what was said; else what the
// leads between the same two places have; else 10 m between two places.
func Choose(x *rig.Index, k rig.Link, s Stock) (gear.Model, bool) {
	return s.choose(x, k, x.Used())
}

// choose counts what it is told is used already.
func (s Stock) choose(x *rig.Index, k rig.Link, used map[string]int) (best gear.Model, found bool) {
	from, ok1 := x.Port(k.From)
	to, ok2 := x.Port(k.To)
	if !ok1 || !ok2 {
		return gear.Model{}, false
	}
	reach := unit.Metre(-1)
	for _, m := range s.models {
		c := m.Cable
		if m.Kind != gear.KindCable || s.owned[m.ID] <= used[m.ID] || !suits(c, k, from, to) {
			continue
		}
		if reach < 0 {
			reach = distance(x, k)
		}
		if c.Length.Or(0) < reach {
			continue
		}
		if !found || c.Before(*best.Cable) < 0 {
			best, found = m, true
		}
	}
	return best, found
}

// Offer is a made-up lead that could serve a link.
type Offer struct {
	Model gear.Model
	Spare int // not yet used in this rig
}

// Offers lists the leads of stock that are made for a link's signal and fit
// its sockets, the shortest first.
func Offers(x *rig.Index, k rig.Link, s Stock) []Offer {
	from, _ := x.Port(k.From)
	to, _ := x.Port(k.To)
	used := x.Used()
	var offers []Offer
	for _, m := range s.models {
		if m.Kind == gear.KindCable && suits(m.Cable, k, from, to) {
			offers = append(offers, Offer{m, s.owned[m.ID] - used[m.ID]})
		}
	}
	slices.SortStableFunc(offers, func(a, b Offer) int {
		return cmp.Compare(a.Model.Cable.Length.Or(0), b.Model.Cable.Length.Or(0))
	})
	return offers
}

// Model finds a model of the stock by its id.
func (s Stock) Model(id string) (gear.Model, bool) {
	for _, m := range s.models {
		if m.ID == id {
			return m, true
		}
	}
	return gear.Model{}, false
}

func suits(c *gear.Cable, k rig.Link, from, to gear.Port) bool {
	switch {
	case !c.Carries(from.Signal) || !c.Fits(from.Connector, to.Connector):
		return false
	case from.Balanced != gear.No && from.Signal.Audio() && from.Signal != gear.Speaker && c.Sort == gear.InstrumentCable:
		return false // it would unbalance a balanced line
	case to.Poles > 0 && c.Poles > 0 && !c.Reaches(to):
		return false
	case to.Way != "" && c.Poles == 0:
		return false
	}
	return c.Area.Or(0) >= k.Area.Or(0)
}

func distance(x *rig.Index, k rig.Link) unit.Metre {
	if l, known := k.Length.Get(); known {
		return l
	}
	from, _ := x.Port(k.From)
	if way, known := x.Ground(from.Signal).Between(k.From.Device, k.To.Device); known {
		return way
	}
	a, _ := x.Device(k.From.Device)
	b, _ := x.Device(k.To.Device)
	if a.Place == b.Place { // neither has one: the shortest does
		return 0
	}
	return rig.Apart
}

// TakeFromStock is the edit that gives every link without a made-up lead one
// of stock, where there is one; false when there is nothing to take.
func TakeFromStock(x *rig.Index, s Stock) (rig.Edit, bool) {
	leads := s.leadsFor(x, func(k rig.Link) bool { return len(k.Cables) == 0 })
	if len(leads) == 0 {
		return nil, false
	}
	return rig.SetLeads{Saying: fmt.Sprintf("Took %d leads from stock", len(leads)), Leads: leads}, true
}

// Hung is the act of hanging boxes with leads of stock for those that have none that
// reaches.
func Hung(r rig.Rig, e rig.Hang, s Stock) rig.Edit {
	after, err := rig.Apply(r, e)
	if err != nil {
		return e // which says what is wrong
	}
	leads := s.leadsFor(rig.NewIndex(after), func(k rig.Link) bool {
		return slices.Contains(e.Boxes, k.To.Device) && len(k.Cables) == 0 && !k.Length.Known() && k.Rides == (rig.Ref{})
	})
	if len(leads) == 0 {
		return e
	}
	return rig.Batch{Saying: e.Say(), Edits: []rig.Edit{e, rig.SetLeads{Leads: leads}}}
}

// leadsFor finds leads of stock for the links that want one.
func (s Stock) leadsFor(x *rig.Index, wants func(rig.Link) bool) (leads []rig.SetLead) {
	used := x.Used()
	for _, k := range x.Rig.Links {
		if !wants(k) || x.Inside(k) {
			continue
		}
		if m, ok := s.choose(x, k, used); ok {
			used[m.ID]++
			leads = append(leads, rig.SetLead{To: k.To, Stock: []gear.Model{m}, Via: k.Via, Swapped: k.Swapped})
		}
	}
	return leads
}
