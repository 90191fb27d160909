package exchange_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"reflect"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/unit"
	"largo/demo"
	"largo/exchange"
)

func tour(t testing.TB) []rig.Rig {
	t.Helper()
	rs, err := demo.Rigs()
	if err != nil {
		t.Fatal(err)
	}
	return rs
}

func written(t testing.TB, r rig.Rig) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := exchange.WriteRig(&b, r); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func TestExportedAndImportedIsTheSameRig(t *testing.T) {
	for _, r := range append(tour(t), rig.NewRig(rig.Brief{Title: "Empty"})) {
		back, err := exchange.ReadRig(bytes.NewReader(written(t, r)))
		if err != nil {
			t.Fatalf("%s: %v", r.Brief.Title, err)
		}
		if len(r.Devices) > 0 && !reflect.DeepEqual(back, r) {
			t.Errorf("%s came back as another rig", r.Brief.Title)
		}
		if again := written(t, back); !bytes.Equal(again, written(t, r)) {
			t.Errorf("%s is written differently the second time", r.Brief.Title)
		}
	}
}

// The published schema (JSON Schema 2020-12) accepts what Largo writes, and
// refuses what it must.
// furnished is a rig of the tour with everything that stands beside devices.
func furnished(t *testing.T) rig.Rig {
	r, err := rig.Apply(tour(t)[0], rig.Batch{Edits: []rig.Edit{
		rig.SetSupplies{Supplies: []rig.Supply{{Name: "house", Sort: rig.Source, Volts: unit.Of(unit.Volt(230))},
			{Name: "board", Sort: rig.Breaker, From: "house", Place: "cellar", Current: unit.From(unit.Ampere(16), "plate"),
				Residual: unit.Of(unit.Ampere(0.03))},
			{Name: "wall", Sort: rig.Outlet, From: "board"}}},
		rig.SetPeople{People: []rig.Person{{Name: "Ada Wren", Role: "electrician", Number: "0000 17"}}},
		rig.SetPlace{Name: "cellar", To: rig.Place{Name: "cellar", Note: "down the ladder"}},
		rig.PlugMains{Tag: "DESK", Outlet: "wall"},
		rig.SetCase{Case: rig.Case{Name: "rack", Place: "cellar"}, Parts: []string{"DESK", "A1"}},
	}})
	if err != nil {
		t.Fatal(err)
	}
	return r
}

// A file of the first format is read for good: as the rig that it was, by a schema
// that stays published.
func TestTheFirstFormatIsRead(t *testing.T) {
	b, err := os.ReadFile("testdata/largo-rig-1.json")
	if err != nil {
		t.Fatal(err)
	}
	schema, err := jsonschema.NewCompiler().Compile("../docs/rig-file-1.schema.json")
	if err != nil {
		t.Fatal(err)
	}
	v, err := jsonschema.UnmarshalJSON(bytes.NewReader(b))
	if err != nil || schema.Validate(v) != nil {
		t.Errorf("%v, %v", err, schema.Validate(v))
	}
	old, err := exchange.ReadRig(bytes.NewReader(b))
	if err != nil {
		t.Fatal(err)
	}
	today := tour(t)[1]
	today.People, today.Supplies = nil, nil // the first format has none, and knows no levels
	today.Brief.Lasts = unit.Given[unit.Second]{}
	loads := func(kind gear.Kind) bool { return kind == gear.KindAppliance }
	today.Devices = slices.DeleteFunc(today.Devices, func(d rig.Device) bool {
		m, _ := today.Model(d.Model)
		return loads(m.Kind)
	})
	for i := range today.Devices {
		today.Devices[i].Outlet = ""
	}
	today.Models = slices.DeleteFunc(slices.Clone(today.Models), func(m gear.Model) bool { return loads(m.Kind) })
	for i := range today.Models {
		today.Models[i] = today.Models[i].Clone()
		today.Models[i].Intake.Earthed = ""
		none := unit.Given[unit.DBu]{}
		switch m := &today.Models[i]; {
		case m.Mixer != nil:
			m.Mixer.LargestOut, m.Mixer.Noise, m.Mixer.EIN = none, none, none
		case m.Processor != nil:
			m.Processor.LargestOut, m.Processor.LargestIn, m.Processor.Noise = none, none, none
			m.Processor.Latency = unit.Given[unit.Second]{}
		case m.Loudspeaker != nil:
			m.Loudspeaker.Latency = unit.Given[unit.Second]{}
		case m.Feed != nil:
			m.Feed.LargestOut = none
		case m.Amplifier != nil:
			m.Amplifier.NoiseUnder = unit.Given[unit.Decibel]{}
		}
	}
	if !reflect.DeepEqual(old, today) {
		t.Error("the rig of the first format is another than the one of today's")
	}
	mixed := bytes.Replace(b, []byte(`"devices"`), []byte(`"places":[],"devices"`), 1)
	if _, err := exchange.ReadRig(bytes.NewReader(mixed)); err == nil || !strings.Contains(err.Error(), "places") {
		t.Errorf("what the first format lacks was taken: %v", err)
	}
}

func TestPublishedSchema(t *testing.T) {
	c := jsonschema.NewCompiler()
	schema, err := c.Compile("../docs/rig-file.schema.json")
	if err != nil {
		t.Fatal(err)
	}
	value := func(b []byte) any {
		v, err := jsonschema.UnmarshalJSON(bytes.NewReader(b))
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
	for _, r := range tour(t) {
		if err := schema.Validate(value(written(t, r))); err != nil {
			t.Errorf("%s: %v", r.Brief.Title, err)
		}
	}
	models, err := demo.Gear()
	if err != nil {
		t.Fatal(err)
	}
	library := rig.NewRig(rig.Brief{Title: "Library"}) // more kinds than any rig of the tour
	library.Models = models
	if err := schema.Validate(value(written(t, library))); err != nil {
		t.Errorf("the demo library: %v", err)
	}
	if err := schema.Validate(value(written(t, furnished(t)))); err != nil {
		t.Errorf("a rig with cases, supplies and people: %v", err)
	}
	good := string(written(t, tour(t)[0]))
	for what, bad := range map[string]string{
		"another format": strings.Replace(good, "largo-rig/2", "largo-rig/9", 1),
		"a strange kind": strings.Replace(good, `"kind": "amplifier"`, `"kind": "toaster"`, 1),
		"a zero load":    strings.Replace(good, `"load": 8`, `"load": 0`, 1),
		"a strange word": strings.Replace(good, `"brief": {`, `"brief": {"colour": "red",`, 1),
	} {
		if bad == good {
			t.Fatalf("%s: nothing was changed", what)
		}
		if schema.Validate(value([]byte(bad))) == nil {
			t.Errorf("the schema takes %s", what)
		}
	}
}

func TestBadFilesAreRefusedInWords(t *testing.T) {
	good := string(written(t, tour(t)[0]))
	for _, c := range []struct{ what, file, say string }{
		{"nothing", "", "empty"},
		{"half a file", good[:len(good)/2], "ends in the middle, at line"},
		{"a picture", "\x89PNG\r\n\x1a\n", "not a JSON file: at line 1"},
		{"another format", `{"format": "spreadsheet/2"}`, `says format "spreadsheet/2"`},
		{"JSON of something else", `{"name": "x"}`, "no Largo file"},
		{"an array", `[1,2,3]`, "line 1"},
		{"an unknown field", strings.Replace(good, `"brief": {`, `"brief": {"colour": "red",`, 1), `"colour"`},
		{"text for a figure", strings.Replace(good, `"listeners": 140`, `"listeners": "many"`, 1), "line 7, column"},
		{"something behind it", good + "{}", "follows after the end"},
		{"a name of 10,000", strings.Replace(good, "Wherry Lock boathouse", strings.Repeat("x", 10000), 1),
			"10000 characters"},
		{"script in a name", strings.Replace(good, "Wherry Lock boathouse", "<script>alert(1)</script>", 1),
			"may not hold <"},
		{"zero ohms", strings.Replace(good, `"load": 8`, `"load": 0`, 1), "above 0 Ω"},
		{"an infinite figure", strings.Replace(good, `"load": 8`, `"load": 1e999`, 1), "line"},
		{"an unknown device", strings.Replace(good, `"device": "A1"`, `"device": "A9"`, 1), "A9"},
	} {
		_, err := exchange.ReadRig(strings.NewReader(c.file))
		if err == nil || !strings.Contains(err.Error(), c.say) {
			t.Errorf("%s: %.200v, want a sentence with %q", c.what, err, c.say)
		}
	}
}

func TestA50MegabyteFileIsNotRead(t *testing.T) {
	endless := &counting{}
	if _, err := exchange.ReadRig(endless); !errors.Is(err, exchange.ErrTooBig) {
		t.Errorf("%v, want ErrTooBig", err)
	}
	if endless.n > exchange.MostBytes+1<<20 {
		t.Errorf("%d bytes were read", endless.n)
	}
}

// counting is a file of spaces that never ends.
type counting struct{ n int }

func (c *counting) Read(b []byte) (int, error) {
	for i := range b {
		b[i] = ' '
	}
	c.n += len(b)
	return len(b), nil
}

func TestGearFile(t *testing.T) {
	b, err := os.ReadFile("../demo/gear.json")
	if err != nil {
		t.Fatal(err)
	}
	models, err := exchange.ReadGear(bytes.NewReader(b))
	if err != nil || len(models) < 15 {
		t.Errorf("%d models, %v", len(models), err)
	}
	if _, err := exchange.ReadGear(strings.NewReader(strings.Replace(string(b), `"power": 420`, `"power": 4`,
		1))); err == nil {
		t.Error("4 W into 8 Ω was taken for a power amplifier")
	}
}

// FuzzReadRig: whatever the bytes, reading ends in a rig that passes its own
// checks and can be surveyed and written again, or in an error.
func FuzzReadRig(f *testing.F) {
	for _, r := range tour(f) {
		f.Add(written(f, r))
	}
	seed(f, "rig")
	f.Add([]byte(`{"format":"largo-rig/1","brief":{"title":"T"},"models":[
		],"devices":[],"links":[]}`))
	f.Add([]byte(`{"format":"largo-rig/1","brief":{"title":"T"},"models":[{"id":"a","kind":"amplifier",
		"maker":"m","name":"n","amplifier":{"channels":1,"ratings":null}}],
		"devices":[{"tag":"A","model":"a"}],"links":null}`))
	f.Fuzz(func(t *testing.T, b []byte) {
		r, err := exchange.ReadRig(bytes.NewReader(b))
		if err != nil {
			return
		}
		p := survey.Survey(r)
		if _, err := json.Marshal(p.Places()); err != nil {
			t.Fatalf("a figure that cannot be written: %v", err)
		}
		back, err := exchange.ReadRig(bytes.NewReader(written(t, r)))
		if err != nil {
			t.Fatalf("what was read cannot be read again: %v", err)
		}
		if !bytes.Equal(written(t, back), written(t, r)) {
			t.Fatal("what was read is written differently the second time")
		}
	})
}

// seed adds the files that once hurt, the small ones.
func seed(f *testing.F, as string) {
	for _, h := range hurtful(f) {
		if h.as == as && len(h.file) < 4096 {
			f.Add(h.file)
		}
	}
}

// The published schema and the tables of entries say the same of each figure: its
// sort of value, its words, its bounds; neither has one that the other lacks.
func TestSchemaFollowsTheTables(t *testing.T) {
	b, err := os.ReadFile("../docs/rig-file.schema.json")
	if err != nil {
		t.Fatal(err)
	}
	var schema map[string]any
	if err := json.Unmarshal(b, &schema); err != nil {
		t.Fatal(err)
	}
	in := schemaOf{schema}
	said := map[string]bool{}
	for _, k := range gear.Kinds {
		for _, s := range gear.Sections(k) {
			for _, e := range s.Entries {
				said[e.Key] = true
				if is, want := in.at(e.Key), inSchema(e); e.JSON != gear.JSONOther && is != want {
					t.Errorf("%s is %q in the schema, %q in the table", e.Key, is, want)
				}
			}
		}
	}
	// what has a form of its own, and is checked where it is read
	for _, other := range []string{"id", "kind", "cable.ends", "loudspeaker.impedance", "loudspeaker.response"} {
		said[other] = true
	}
	for _, path := range in.leaves("", in.resolve(in.def("model"))) {
		if !said[path] {
			t.Errorf("%s is in the schema, and in no table", path)
		}
	}
}

// inSchema is what the schema has to say of an entry.
func inSchema(e gear.Entry) string {
	switch e.JSON {
	case gear.JSONFigure:
		return "given"
	case gear.JSONWords:
		return fmt.Sprintf("string of %d", e.Most)
	case gear.JSONYesNo:
		return "boolean"
	case gear.JSONWhole:
		return fmt.Sprintf("integer to %d", e.Most)
	case gear.JSONOneOf:
		var words []string
		for _, o := range e.Offered {
			words = append(words, o.Value)
		}
		slices.Sort(words)
		return "one of " + strings.Join(words, "|")
	}
	return ""
}

// schemaOf reads a schema by paths.
type schemaOf struct{ whole map[string]any }

func (s schemaOf) def(name string) map[string]any {
	return s.whole["$defs"].(map[string]any)[name].(map[string]any)
}

// resolve follows a reference, but to what a figure is.
func (s schemaOf) resolve(node map[string]any) map[string]any {
	if ref, ok := node["$ref"].(string); ok && ref != "#/$defs/given" {
		return s.def(strings.TrimPrefix(ref, "#/$defs/"))
	}
	return node
}

// at is what the schema says at a path below a model.
func (s schemaOf) at(path string) string {
	node := s.def("model")
	for part := range strings.SplitSeq(path, ".") {
		properties, _ := s.resolve(node)["properties"].(map[string]any)
		next, ok := properties[part].(map[string]any)
		if !ok {
			return "nothing"
		}
		node = next
	}
	node = s.resolve(node)
	switch {
	case node["$ref"] == "#/$defs/given":
		return "given"
	case node["enum"] != nil:
		var words []string
		for _, w := range node["enum"].([]any) {
			words = append(words, fmt.Sprint(w))
		}
		slices.Sort(words)
		return "one of " + strings.Join(words, "|")
	case node["type"] == "string":
		return fmt.Sprintf("string of %v", node["maxLength"])
	case node["type"] == "integer":
		return fmt.Sprintf("integer to %v", node["maximum"])
	}
	kind, _ := node["type"].(string)
	return kind
}

// leaves are the paths of all that is no object with properties of its own.
func (s schemaOf) leaves(path string, node map[string]any) []string {
	properties, _ := node["properties"].(map[string]any)
	if properties == nil {
		return []string{path}
	}
	var all []string
	for name, next := range properties {
		all = append(all, s.leaves(strings.TrimPrefix(path+"."+name, "."), s.resolve(next.(map[string]any)))...)
	}
	return all
}
