package rig

import (
	"largo/core/gear"
	"sync"
)

// Index answers who is plugged into what, without searching. It is made once
// for a rig and read by every stage; it must not outlive a change of the rig.
type Index struct {
	Rig    Rig
	device map[string]int
	models []*gear.Model // by device
	ports  map[*gear.Model]portTable
	from   map[Ref][]*Link // by their start, in the order they were made
	into   map[Ref]int     // the link into an input
	reach  func() []Set    // worked out once
	ground sync.Map        // by signal, worked out when it is asked for
}

// NewIndex reads a rig once.
func NewIndex(r Rig) *Index {
	x := &Index{
		Rig:    r,
		device: make(map[string]int, len(r.Devices)),
		models: make([]*gear.Model, len(r.Devices)),
		from:   byStart(r.Links),
		into:   make(map[Ref]int, len(r.Links)),
	}
	byID := make(map[string]*gear.Model, len(r.Models))
	for i := range r.Models {
		byID[r.Models[i].ID] = &r.Models[i]
	}
	for i, d := range r.Devices {
		x.device[d.Tag] = i
		x.models[i] = byID[d.Model]
	}
	x.ports = portTables(r.Models)
	x.reach = sync.OnceValue(x.reachAll)
	for i, k := range r.Links {
		x.into[k.To] = i
	}
	return x
}

// Device gives a device and its model by tag; the model is nil when there is
// no such device.
func (x *Index) Device(tag string) (*Device, *gear.Model) {
	i, ok := x.device[tag]
	if !ok {
		return nil, nil
	}
	return &x.Rig.Devices[i], x.models[i]
}

// PassesMains tells whether the rig has gear that passes mains on.
func (x *Index) PassesMains() bool {
	for _, m := range x.models {
		if m != nil && m.Supply != nil {
			return true
		}
	}
	return false
}

// At is the index of a device by its tag; −1 where there is none.
func (x *Index) At(tag string) int {
	if i, ok := x.device[tag]; ok {
		return i
	}
	return -1
}

// ModelAt gives the model of the i-th device.
func (x *Index) ModelAt(i int) *gear.Model { return x.models[i] }

func (x *Index) port(r Ref) (gear.Port, bool) {
	_, m := x.Device(r.Device)
	if m == nil {
		return gear.Port{}, false
	}
	t := x.ports[m]
	i, ok := t.at[r.Port]
	if !ok {
		return gear.Port{}, false
	}
	return t.ports[i], true
}

// portTable is a model's connectors, and where each stands by its name.
type portTable struct {
	ports []gear.Port
	at    map[string]uint16
}

// portTables lists each model's connectors once, for they are asked for at
// every end of every lead.
func portTables(models []gear.Model) map[*gear.Model]portTable {
	tables := make(map[*gear.Model]portTable, len(models))
	for i := range models {
		t := portTable{ports: models[i].Ports()}
		t.at = make(map[string]uint16, len(t.ports))
		for n, p := range t.ports {
			t.at[p.Name] = uint16(n)
		}
		tables[&models[i]] = t
	}
	return tables
}

// Port gives what sort of connector a reference names.
func (x *Index) Port(r Ref) (gear.Port, bool) { return x.port(r) }

// From lists the links that leave a port, in the order they were made; the
// list is the index's own.
func (x *Index) From(r Ref) []*Link {
	return x.from[r]
}

// Into gives the link that feeds an input.
func (x *Index) Into(r Ref) (Link, bool) {
	i, ok := x.into[r]
	if !ok {
		return Link{}, false
	}
	return x.Rig.Links[i], true
}

// ChannelInput is the input that a channel of an amplifier listens to: its
// own, or its pair's first when the pair is bridged or in parallel.
func (x *Index) ChannelInput(d *Device, channel, channels int) Ref {
	if pair := channel / 2; pair < channels/2 {
		if p := d.PairSetting(pair); p.Output == gear.Bridged || p.Input == ParallelIn {
			channel = 2 * pair
		}
	}
	return Ref{d.Tag, gear.InputPort(channel)}
}

// Arrives names what arrives at an input: the output of the mixer,
// processor or source that feeds it, found through any link-throughs. It is
// empty when nothing feeds it.
func (x *Index) Arrives(input Ref) string {
	for range x.Rig.Links {
		up, fed := x.Into(input)
		if !fed {
			return ""
		}
		if p, _ := x.port(up.From); p.Dir != gear.Through {
			return up.From.Port
		}
		input = Ref{up.From.Device, gear.PoleIn(gear.PairOf(up.From.Port))}
	}
	return ""
}

// byStart sorts links by their start, all in one list, so that asking for
// those of a port costs nothing.
func byStart(links []Link) map[Ref][]*Link {
	count := make(map[Ref]int, len(links))
	for _, k := range links {
		count[k.From]++
	}
	all, by := make([]*Link, len(links)), make(map[Ref][]*Link, len(count))
	next := 0
	for i := range links {
		k := &links[i]
		own, begun := by[k.From]
		if !begun {
			own = all[next : next : next+count[k.From]]
			next += count[k.From]
		}
		by[k.From] = append(own, k)
	}
	return by
}

// Rings tells whether signal comes back to any device.
func (x *Index) Rings() bool {
	feeds := make([]int, len(x.Rig.Devices)) // leads into a device from those not yet done
	for _, k := range x.Rig.Links {
		if p, _ := x.port(k.From); p.Signal.Audio() {
			feeds[x.device[k.To.Device]]++
		}
	}
	var done []int
	for i, n := range feeds {
		if n == 0 {
			done = append(done, i)
		}
	}
	next := x.next(gear.Signal.Audio)
	for n := 0; n < len(done); n++ {
		for _, to := range next[done[n]] {
			if feeds[to]--; feeds[to] == 0 {
				done = append(done, to)
			}
		}
	}
	return len(done) < len(feeds)
}

// next lists, by device index, where the links of some signals go on to.
func (x *Index) next(follow func(gear.Signal) bool) [][]int {
	next := make([][]int, len(x.Rig.Devices))
	for _, k := range x.Rig.Links {
		if p, _ := x.port(k.From); !follow(p.Signal) {
			continue
		}
		a, b := x.device[k.From.Device], x.device[k.To.Device]
		if p, _ := x.port(k.From); p.Signal == gear.Mains {
			next[a] = append(next[a], x.InCase(b)...) // one inlet feeds the whole case
			continue
		}
		next[a] = append(next[a], b)
	}
	if follow(gear.Mains) {
		x.plugged(next)
	}
	return next
}

// plugged adds what stands on outlets of a supply that comes from gear of the rig.
func (x *Index) plugged(next [][]int) {
	source := map[string]int{} // by outlet, the gear that it comes from
	for i := range x.Rig.Supplies {
		s := &x.Rig.Supplies[i]
		for range x.Rig.Supplies {
			if s.From == "" {
				break
			}
			for j := range x.Rig.Supplies {
				if x.Rig.Supplies[j].Name == s.From {
					s = &x.Rig.Supplies[j]
					break
				}
			}
		}
		if at, known := x.device[s.Gear]; known {
			source[x.Rig.Supplies[i].Name] = at
		}
	}
	if len(source) == 0 {
		return
	}
	for i := range x.Rig.Devices {
		if at, fed := source[x.Rig.Devices[i].Outlet]; fed {
			next[at] = append(next[at], x.InCase(i)...)
		}
	}
}

// Reach tells, by device index, whether signal from one device can reach
// another; itself only when signal comes back to it.
func (x *Index) Reach() []Set { return x.reach() }

func (x *Index) reachAll() []Set {
	next := x.next(gear.Signal.Audio) // mains and data are no signal
	all := NewSets(len(x.Rig.Devices))
	for i := range all {
		flood(next, i, all[i])
	}
	return all
}

// Supplies tells, by device index, what hangs on the mains that a device gives,
// however far down.
func (x *Index) Supplies(device int) Set {
	fed := make(Set, (len(x.Rig.Devices)+63)/64)
	flood(x.next(func(s gear.Signal) bool { return s == gear.Mains }), device, fed)
	return fed
}

// Networks tells, by device index, what boots over the network of a switch, however far down.
func (x *Index) Networks(device int) Set {
	fed := make(Set, (len(x.Rig.Devices)+63)/64)
	flood(x.next(func(s gear.Signal) bool { return s == gear.Data }), device, fed)
	return fed
}

func flood(next [][]int, from int, reached Set) {
	for _, to := range next[from] {
		if !reached.Has(to) {
			reached.Add(to)
			flood(next, to, reached)
		}
	}
}

// Used counts the devices and the made-up leads of a rig by their models.
func (x *Index) Used() map[string]int {
	used := map[string]int{}
	for _, d := range x.Rig.Devices {
		used[d.Model]++
	}
	for _, k := range x.Rig.Links {
		for _, id := range k.Cables {
			used[id]++
		}
	}
	return used
}

// StockOf gives the models of the made-up leads of a link, which would be
// forgotten when it is pulled.
func (x *Index) StockOf(k Link) []gear.Model {
	var models []gear.Model
	for _, id := range k.Cables {
		if m, ok := x.Rig.Model(id); ok {
			models = append(models, *m)
		}
	}
	return models
}
