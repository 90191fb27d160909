package wire_test

import (
	"slices"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/wire"
)

// One side of a bridge is turned, and only one. Pin 1 screen, 2 hot, 3 cold is
// IEC 60268-12 (from memory); the rest is common practice, no source.
func TestHookUpTurnsOneSideOnce(t *testing.T) {
	amp := func(change func(*gear.Amplifier)) gear.Model {
		return rigtest.Amp("amp", func(a *gear.Amplifier) { a.Bridging.Switch = ""; change(a) })
	}
	for _, c := range []struct {
		what  string
		model gear.Model
		want  gear.Inversion
		leads int // with pins exchanged
		says  string
	}{
		{"a switch", amp(func(a *gear.Amplifier) { a.Bridging.Switch = gear.Yes }), gear.BySwitch, 0, "Leave in 2 empty"},
		{"one channel inverted inside", amp(func(a *gear.Amplifier) { a.Bridging.Inverted = gear.Yes }), gear.Inside, 0,
			"straight leads"},
		{"balanced XLR", amp(func(a *gear.Amplifier) { a.Sockets = gear.Sockets{In: gear.XLR, Balanced: gear.Yes} }),
			gear.ByLead, 1, "2 and 3 exchanged"},
		{"balanced jack", amp(func(a *gear.Amplifier) { a.Sockets = gear.Sockets{In: gear.Jack, Balanced: gear.Yes} }),
			gear.ByLead, 1, "2 and 3 exchanged"},
		{"phono", amp(func(a *gear.Amplifier) { a.Sockets = gear.Sockets{In: gear.Phono} }), gear.ByStage, 0,
			"inverting stage"},
		{"nothing known", amp(func(*gear.Amplifier) {}), gear.NotKnown, 1, "2 and 3 exchanged"},
	} {
		d := rig.Device{Tag: "A1"}
		h := wire.HookUpOf(&d, &c.model, 0, []string{"SUB"}, nil)
		all := strings.Join(h.Steps, " ")
		if h.Inverts != c.want || !strings.Contains(all, c.says) {
			t.Errorf("%s: turned %s; steps %s", c.what, h.Inverts, all)
		}
		if exchanged := slices.IndexFunc(h.Sheets, exchangesHotAndCold) >= 0; exchanged != (c.leads == 1) {
			t.Errorf("%s: a lead that exchanges hot and cold: %v", c.what, exchanged)
		}
		if !strings.Contains(h.Steps[0], "mains out") || !strings.Contains(h.Steps[0], "at zero") {
			t.Errorf("%s begins with %q", c.what, h.Steps[0])
		}
		if h.Hot != [2]string{"A +", "B +"} || !strings.Contains(all, "Nothing on a minus terminal") {
			t.Errorf("%s: the load goes between %v", c.what, h.Hot)
		}
	}
}

// exchangesHotAndCold tells whether the last plug of a lead has hot and cold
// the other way round than the one before it.
func exchangesHotAndCold(s wire.BuildSheet) bool {
	at := map[string][]string{}
	for _, p := range s.Pins {
		at[p.Conductor] = p.At
	}
	hot, cold := at["hot"], at["cold"]
	return len(hot) == 3 && hot[1] == cold[2] && hot[2] == cold[1] && hot[1] != hot[2]
}

func TestBridgedTwistLocksUseNoMinusPole(t *testing.T) {
	m := rigtest.Amp("amp", func(a *gear.Amplifier) { a.Channels = 4; a.Sockets.Out = gear.TwistLock4 })
	box := &gear.Loudspeaker{Sockets: gear.Sockets{In: gear.TwistLock4}}
	d := rig.Device{Tag: "A2"}
	h := wire.HookUpOf(&d, &m, 1, nil, box)
	if h.Hot != [2]string{"C 1+", "D 1+"} || h.Load != [2]string{"1+", "1−"} {
		t.Errorf("%v to %v", h.Hot, h.Load)
	}
	lead := h.Sheets[0]
	for _, p := range lead.Pins {
		for i, at := range p.At[:2] {
			if strings.Contains(at, "−") {
				t.Errorf("%s stands on a minus pole of %s", p.Conductor, lead.Ends[i])
			}
		}
	}
	if lead.Pins[0].At[2] != "1+" || lead.Pins[1].At[2] != "1−" || !strings.Contains(lead.Tag, "BRIDGE ONLY") {
		t.Errorf("%+v", lead)
	}
}
