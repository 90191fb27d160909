package rig

import (
	"encoding/json"
	"os"
	"path/filepath"
	"reflect"
	"regexp"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/core/unit"
)

// sampleEdits is one edit of each kind, with everything said.
func sampleEdits() []Edit {
	length, area := unit.From(unit.Metre(5), "label"), unit.Of(unit.SquareMillimetre(2.5))
	model := gear.Model{ID: "m", Kind: gear.KindDI, Maker: "M", Name: "N", DI: &gear.DI{Channels: 1}}
	at := Ref{"A1", "out A"}
	edits := []Edit{
		SetBrief{full().Brief}, SetWishes{Within, Never}, SetLimits{HalfRating},
		SetPolicies{map[Part]Policy{HighWays: TenthOver}},
		AddDevices{Model: model, Tags: []string{"A"}, Place: "p", Aim: OnStage},
		ChangeDevice{Tag: "A", NewTag: "B", Place: "p", Switch: "s", Aim: OnStage, Distance: length}, RemoveDevice{"A"},
		Connect{Link: full().Links[0], Stock: []gear.Model{model}},
		Disconnect{at}, SetSwapped{at, true}, SetPair{"A", 1, Pair{gear.Bridged, ParallelIn}},
		SetLimiter{Tag: "A", Set: Limiter{"out A", unit.Of(unit.Volt(9)), unit.Of(unit.Volt(18))}},
		SetKnob{"A", Knob{1, 3}, false}, SetOrder{[]string{"A", "B"}},
		SetLead{To: at, Stock: []gear.Model{model}, Length: length, Area: area, Via: "S", Swapped: true},
		SetLeads{"s", []SetLead{{To: at, Via: "S"}}}, SetPhantom{at, true},
		SetPad{at, unit.Of(unit.Decibel(20))},
		SetPort{"A", PortSetting{Port: "in 1", Gain: unit.Of(unit.Decibel(30)), Kind: Voice}}, RecordReading{at,
			unit.Of(unit.Open)},
		ReplaceModel{model}, Restore{full(), "revision 3"},
		Hang{[]string{"B1"}, 1, []Ref{at}, 2}, MirrorLeft{[]string{"L"}}, PlaceOnDrawing{"A", &Spot{1, 2}}, TidyDrawing{},
		SetPlace{"p", Place{"q", "n"}}, SetSwitch{Switch{"s", "p", "red"}}, SetCase{Case{"c", "p"}, []string{"A"}},
		SetPeople{full().People}, SetSupplies{full().Supplies},
		ChangeSupply{"wall", full().Supplies[0]}, RemoveSupply{"wall"}, PlugMains{"A", "wall"}, LiftEarth{"A", true},
	}
	return append(edits, Batch{"all", append([]Edit(nil), edits[:3]...)})
}

// Every edit that there is has a name, and comes back from its data as it was.
func TestEditsAreData(t *testing.T) {
	seen := map[reflect.Type]bool{}
	for _, e := range sampleEdits() {
		seen[reflect.TypeOf(e)] = true
		b, err := MarshalEdit(e)
		if err != nil {
			t.Errorf("%T: %v", e, err)
			continue
		}
		back, err := UnmarshalEdit(b)
		if err != nil || !reflect.DeepEqual(back, e) || back.Say() != e.Say() {
			t.Errorf("%s came back as %+v, %v", b, back, err)
		}
	}
	sources, _ := filepath.Glob("*.go")
	for _, path := range sources {
		b, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		for _, m := range regexp.MustCompile(`func \((?:\w+ )?(\w+)\) change\(`).FindAllStringSubmatch(string(b), -1) {
			found := false
			for kind := range seen {
				found = found || kind.Name() == m[1]
			}
			if !found {
				t.Errorf("the edit %s of %s is not among the samples, or has no name in editKinds", m[1], path)
			}
		}
	}
	if len(seen) != len(editKinds) {
		t.Errorf("%d kinds of edits are tried, %d have a name", len(seen), len(editKinds))
	}
}

func TestEditsThatAreNone(t *testing.T) {
	deep := `{"edit":"tidy drawing"}`
	for range 6 {
		deep = `{"edit":"batch","with":{"saying":"s","edits":[` + deep + `]}}`
	}
	for text, say := range map[string]string{
		``: "no edit", `{"edit":"explode"}`: "There is no edit",
		`{"edit":"remove device","with":{"tug":"A"}}`:      "cannot be read",
		`{"edit":"remove device","with":7}`:                "cannot be read",
		`{"edit":"batch","with":{"edits":[{"edit":"x"}]}}`: "edit 1 of the batch", deep: "more than 4 deep",
		`{"edit":"restore","also":1}`: "no edit",
	} {
		if e, err := UnmarshalEdit([]byte(text)); err == nil || !strings.Contains(err.Error(), say) {
			t.Errorf("%.60s: %v, %v; want %q", text, e, err, say)
		}
	}
	if _, err := MarshalEdit(nil); err == nil {
		t.Error("no edit has a name")
	}
	if !json.Valid(must(MarshalEdit(TidyDrawing{}))) {
		t.Error("no JSON")
	}
}

func must(b []byte, err error) []byte {
	if err != nil {
		panic(err)
	}
	return b
}
