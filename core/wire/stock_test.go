package wire_test

import (
	"testing"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
	"largo/core/wire"
)

func micLead(id string, metres unit.Metre) gear.Model {
	return cable(id, gear.Cable{Sort: gear.MicCable, Ends: [2]gear.Connector{gear.XLR, gear.XLR}, Length: unit.Of(metres)})
}

func speakerLead(id string, metres unit.Metre, poles int) gear.Model {
	return cable(id, gear.Cable{Sort: gear.SpeakerCable, Ends: [2]gear.Connector{gear.TwistLock4, gear.TwistLock4},
		Length: unit.Of(metres), Area: unit.Of(unit.SquareMillimetre(2.5)), Poles: poles})
}

func TestChooseFromStock(t *testing.T) {
	stock := wire.StockOf([]gear.Holding{
		{Model: micLead("mic 5", 5), Place: "Truck", Count: 1}, {Model: micLead("mic 20", 20), Place: "Truck", Count: 3},
		{Model: micLead("mic 20", 20), Place: "Store", Count: 1},
		{Model: cable("gt 5", gear.Cable{Sort: gear.InstrumentCable, Ends: [2]gear.Connector{gear.XLR, gear.XLR},
			Length: unit.Of(unit.Metre(3))}), Count: 9},
		{Model: speakerLead("sp 10", 10, 2), Count: 5}, {Model: speakerLead("sp 10 four", 10, 4), Count: 5},
		{Model: speakerLead("none left", 10, 4), Count: 0},
	})
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Biamped(), "B1").Add(rigtest.Box("box"),
		"B2").Plug("A1/out A", "B1/in").Plug("A1/out B", "B2/in")
	link := func(to string) rig.Link { k, _ := rig.NewIndex(r.Rig).Into(rigtest.Ref(to)); return k }
	for _, c := range []struct{ to, want string }{
		{"A1/in 1", "mic 5"}, // at one place the shortest does, and balanced stays balanced
		{"B1/in", "sp 10 four"},
		{"B2/in", "sp 10"},
	} {
		m, ok := wire.Choose(rig.NewIndex(r.Rig), link(c.to), stock)
		if !ok || m.ID != c.want {
			t.Errorf("into %s: %q, want %q", c.to, m.ID, c.want)
		}
	}
	k := link("A1/in 2")
	k.Length = unit.Of(unit.Metre(6))
	if m, _ := wire.Choose(rig.NewIndex(r.Rig), k, stock); m.ID != "mic 20" {
		t.Errorf("6 m takes %q", m.ID)
	}
	e, ok := wire.TakeFromStock(rig.NewIndex(r.Rig), stock)
	if !ok {
		t.Fatal("nothing taken from stock")
	}
	r.Do(e)
	used := map[string]int{}
	for _, n := range wire.Needs(rig.NewIndex(r.Rig), stock) {
		used[n.Model.ID] = n.Need
		if n.Model.Kind == gear.KindCable && n.Short() > 0 {
			t.Errorf("took %d of %s, which has %d", n.Need, n.Model.ID, n.Owned)
		}
		if n.Model.ID == "mic 20" && n.Where != "3 in Truck, 1 in Store" {
			t.Errorf("mic 20 lies %q", n.Where)
		}
	}
	if used["mic 5"] != 1 || used["mic 20"] != 2 || used["gt 5"] != 0 || used["none left"] != 0 {
		t.Errorf("took %v", used)
	}
}

// Microphone leads may be joined, speaker leads better not (common practice,
// no source).
func TestJoins(t *testing.T) {
	long, speaker := micLead("mic 30", 30), speakerLead("sp 30", 30, 2)
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1").Plug("A1/out A", "B1/in").
		Do(rig.SetLead{To: rigtest.Ref("A1/in 1"), Stock: []gear.Model{long}}).Do(rig.SetLead{To: rigtest.Ref("B1/in"),
		Stock: []gear.Model{speaker}})
	held := func(n int) []gear.Holding {
		return []gear.Holding{{Model: micLead("mic 10", 10), Count: 4}, {Model: micLead("mic 20", 20), Count: n},
			{Model: micLead("mic 15", 15), Count: 2 * n},
			{Model: speakerLead("sp 20", 20, 2), Count: 9}, {Model: speakerLead("sp 10", 10, 2), Count: 9}}
	}
	join := func(n int) map[string]string {
		said := map[string]string{}
		for _, need := range wire.Needs(rig.NewIndex(r.Rig), wire.StockOf(held(n))) {
			said[need.Model.ID] = need.Join
		}
		return said
	}
	if said := join(1); said["mic 30"] != "join mic 10 and mic 20, 30 m together" || said["sp 30"] != "" {
		t.Errorf("joins %v", said)
	}
	if said := join(0); said["mic 30"] != "" {
		t.Errorf("with only four of 10 m: %v", said)
	}
}
