package exchange_test

import (
	"bytes"
	"io"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/core/unit"
	"largo/demo"
	"largo/exchange"
)

func library(t testing.TB) []gear.Model {
	t.Helper()
	models, err := demo.Gear()
	if err != nil {
		t.Fatal(err)
	}
	return models
}

func table(t testing.TB, models []gear.Model) string {
	t.Helper()
	var b bytes.Buffer
	if err := exchange.WriteGearTable(&b, models); err != nil {
		t.Fatal(err)
	}
	return b.String()
}

// Written, read and written again, a table is the same to the letter; and no
// figure is lost on the way.
func TestGearTableRoundTrip(t *testing.T) {
	models := library(t)
	first := table(t, models)
	back, err := exchange.ReadGearTable(strings.NewReader(first), nil)
	if err != nil {
		t.Fatal(err)
	}
	if again := table(t, back); again != first {
		t.Error("written again, the table is another")
	}
	for i, m := range back {
		if len(m.Ports()) != len(models[i].Ports()) || m.Powered() != models[i].Powered() ||
			m.Wake.Settle.Known() != models[i].Wake.Settle.Known() {
			t.Errorf("%s came back as %+v", models[i].Title(), m)
		}
		if a := models[i].Amplifier; a != nil &&
			m.Amplifier.PowerInto(gear.Separate, 4).Value != a.PowerInto(gear.Separate, 4).Value {
			t.Errorf("%s gives another power", m.Title())
		}
	}
}

func TestGearTableFaultsNameRowAndColumn(t *testing.T) {
	head := "kind,maker,name,channels,ratings,nominal_ohm\n"
	for what, c := range map[string]struct{ file, say string }{
		"nothing":           {"", "empty"},
		"a strange column":  {"kind,maker,name,colour\n", `column 4: "colour" is no column`},
		"a column twice":    {"kind,maker,name,name\n", "column 4: \"name\" stands there a second time"},
		"no maker column":   {"kind,name\n", `"maker" is missing`},
		"a strange kind":    {head + "toaster,M,N,,,\n", "Row 2, column kind"},
		"text for a number": {head + "amplifier,M,N,two,,\n", "Row 2, column channels: \"two\""},
		"a bad rating":      {head + "amplifier,M,N,2,plenty,\n", "Row 2, column ratings"},
		"a table that falls steeply": {head + "amplifier,M,N,2,\"900 W into 8 ohm; 400 W into 4 ohm\",\n",
			"falls more than constant current"},
		"a figure of another": {head + "amplifier,M,N,2,,8\n",
			"Row 2, column nominal_ohm: no amplifier has such a figure"},
		"0 ohm in the 3rd row":   {head + "loudspeaker,M,A,,,8\nloudspeaker,M,B,,,0\n", "Row 3, loudspeaker.nominal"},
		"too few cells":          {head + "amplifier,M\n", "Row 2"},
		"a quote left open":      {head + "amplifier,\"M,N\n", "Row"},
		"script in a name":       {head + "amplifier,M,<script>,2,,\n", "may not hold"},
		"8 kW as 8 W in a table": {head + "amplifier,M,N,2,8 W into 8 ohm,\n", "write 8 kW"},
	} {
		models, err := exchange.ReadGearTable(strings.NewReader(c.file), nil)
		if err == nil || !strings.Contains(err.Error(), c.say) {
			t.Errorf("%s: %d models, %v; want a sentence with %q", what, len(models), err, c.say)
		}
	}
	endless := io.MultiReader(strings.NewReader("kind,maker,name\n"), &repeated{"loudspeaker,M,N\n"})
	if _, err := exchange.ReadGearTable(endless, nil); err == nil || !strings.Contains(err.Error(), "Row 3: its id") {
		t.Errorf("an endless table: %v", err)
	}
}

// A cell that begins as a formula does is written behind an apostrophe and read
// without it; a number stays a number.
func TestCellsAreNoFormulas(t *testing.T) {
	m := library(t)[0].Clone()
	for _, name := range []string{"=SUM(A1:A9)", "+CMD", "-2+3", "@home", "'=quoted", "'plain", "-3.5", "'' =x"} {
		m.Name, m.ID = name, "x"
		var b bytes.Buffer
		if err := exchange.WriteGearTable(&b, []gear.Model{m}); err != nil {
			t.Fatal(err)
		}
		for _, risky := range []string{",=", ",+", ",-2", ",@", "\"=", "\"+", "\"@"} {
			if strings.Contains(b.String(), risky) {
				t.Errorf("%q is written as a formula: %.120s", name, b.String())
			}
		}
		back, err := exchange.ReadGearTable(&b, nil)
		if err != nil || len(back) != 1 || back[0].Name != name {
			t.Errorf("%q came back as %+v, %v", name, back, err)
		}
	}
}

// repeated is a file of one line without end.
type repeated struct{ line string }

func (r *repeated) Read(b []byte) (int, error) { return copy(b, r.line), nil }

func FuzzReadGearTable(f *testing.F) {
	seed(f, "table")
	f.Add([]byte(table(f, library(f))))
	f.Add([]byte("kind,maker,name,ratings\namplifier,M,N,\"2 x 900 W into 4 ohm, bridged 1800 W into 8 ohm\"\n"))
	f.Fuzz(func(t *testing.T, b []byte) {
		models, err := exchange.ReadGearTable(bytes.NewReader(b), nil)
		if err != nil {
			return
		}
		back, err := exchange.ReadGearTable(strings.NewReader(table(t, models)), nil)
		if err != nil {
			t.Fatalf("what was read cannot be read again: %v", err)
		}
		if table(t, back) != table(t, models) {
			t.Fatal("what was read is written differently the second time")
		}
	})
}

// A table read over the library takes nothing away that it does not name:
// neither curves nor where an unchanged figure came from.
func TestGearTableOverTheLibrary(t *testing.T) {
	old := gear.Model{ID: "a-box", Kind: gear.KindLoudspeaker, Maker: "A", Name: "box",
		Loudspeaker: &gear.Loudspeaker{Link: true}}
	s := old.Loudspeaker
	s.Nominal, s.Least, s.Continuous = unit.From(unit.Ohm(8), "plate"), unit.From(unit.Ohm(6.4), "measured"),
		unit.Of(unit.Watt(300))
	s.Impedance = gear.Curve{{Hz: 20, Value: 9}, {Hz: 200, Value: 7}}
	back, err := exchange.ReadGearTable(
		strings.NewReader("kind,maker,name,least_z_ohm,continuous_w\nloudspeaker,A,box,6.1,\n"), []gear.Model{old})
	if err != nil {
		t.Fatal(err)
	}
	got := back[0].Loudspeaker
	if got.Nominal != s.Nominal || len(got.Impedance) != 2 || !got.Link {
		t.Errorf("what the table does not name was lost: %+v", got)
	}
	if got.Least != unit.Of(unit.Ohm(6.1)) || got.Continuous.Known() {
		t.Errorf("a cell changed and one emptied gave %s, %s", got.Least, got.Continuous)
	}
	if s.Least.Or(0) != 6.4 {
		t.Error("the library's own model was changed")
	}
}
