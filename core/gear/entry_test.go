package gear_test

import (
	"strings"
	"testing"

	"largo/core/gear"
	"largo/demo"
)

// Each entry of each model of the demo library goes through its form and through
// its cell and comes back the same, where it comes from included.
func TestEntriesGoThereAndBack(t *testing.T) {
	models, err := demo.Gear()
	if err != nil {
		t.Fatal(err)
	}
	for _, m := range models {
		again, table := m.Clone(), m.Clone()
		for _, s := range gear.Sections(m.Kind) {
			for _, e := range s.Entries {
				if err := e.Type(&again, e.Typed(&m)); err != nil {
					t.Errorf("%s, %s: %q: %v", m.ID, e.Key, e.Typed(&m), err)
				}
				if err := e.Fill(&table, e.Cell(&m)); err != nil {
					t.Errorf("%s, %s: %q: %v", m.ID, e.Key, e.Cell(&m), err)
				}
			}
		}
		for _, s := range gear.Sections(m.Kind) {
			for _, e := range s.Entries {
				if got, want := e.Typed(&again), e.Typed(&m); got != want {
					t.Errorf("%s, %s: %q on its form came back as %q", m.ID, e.Key, want, got)
				}
				if got, want := e.Cell(&table), e.Cell(&m); got != want {
					t.Errorf("%s, %s: %q in its cell came back as %q", m.ID, e.Key, want, got)
				}
			}
		}
		if err := again.Check(); err != nil {
			t.Errorf("%s: %v", m.ID, err)
		}
	}
}

// Within a kind no two entries share a key, a field or a column; each column is
// one of the table's, and a fault of Check leads to the field of its entry.
func TestEntriesAreTold(t *testing.T) {
	columns := map[string]bool{}
	for _, c := range gear.Columns() {
		if columns[c] {
			t.Errorf("the column %s stands twice", c)
		}
		columns[c] = true
	}
	used := map[string]bool{"id": true, "kind": true}
	for _, k := range gear.Kinds {
		seen := map[string]bool{}
		for _, s := range gear.Sections(k) {
			for _, e := range s.Entries {
				for _, name := range []string{"key " + e.Key, "field " + e.Field, "column " + e.Column} {
					if seen[name] {
						t.Errorf("%s has the %s twice", k, name)
					}
					seen[name] = true
				}
				if !columns[e.Column] {
					t.Errorf("%s: %s has no column", k, e.Key)
				}
				used[e.Column] = true
				if got := gear.FieldOf(e.Key); got != e.Field {
					t.Errorf("%s: a fault at %s leads to the field %s, not %s", k, e.Key, got, e.Field)
				}
				if e.Form == gear.OneOfAll && len(e.Offered) < 2 {
					t.Errorf("%s: %s offers %v", k, e.Key, e.Offered)
				}
			}
		}
	}
	for c := range columns {
		if !used[c] {
			t.Errorf("no kind has the column %s", c)
		}
	}
}

// A figure outside its bounds is faulted at its key, on both sides; on them it
// is taken. The bounds are those that the fault names.
func TestBoundsOfEntries(t *testing.T) {
	for _, c := range []struct {
		kind                  gear.Kind
		field                 string
		low, high, less, more string
	}{
		{gear.KindAmplifier, "gain", "0 dB", "60 dB", "-0.1 dB", "60.1 dB"},
		{gear.KindAmplifier, "bridging.least", "1 ohm", "128 ohm", "0.9 ohm", "129 ohm"},
		{gear.KindLoudspeaker, "nominal", "1 ohm", "64 ohm", "0.9 ohm", "65 ohm"},
		{gear.KindLoudspeaker, "driver.qms", "0.1", "50", "0.09", "51"},
		{gear.KindAmplifier, "intake.leakage", "0", "100", "-0.1", "101"}, // mA
		{gear.KindAmplifier, "intake.inrushFor", "0", "10 s", "-1", "10.1 s"},
		{gear.KindGenerator, "apparent", "100 VA", "1000 kVA", "99 VA", "1001 kVA"},
		{gear.KindStageBox, "lines", "1", "128", "0", "129"},
		{gear.KindSwitch, "sockets", "2", "96", "1", "97"},
		{gear.KindCable, "length", "0.1 m", "500 m", "0.09 m", "501 m"},
	} {
		m, _ := gear.Blank(c.kind)
		m.ID, m.Maker, m.Name = "a", "A", "a"
		for _, s := range gear.Sections(c.kind) {
			for _, e := range s.Entries {
				if e.Field != c.field {
					continue
				}
				for text, good := range map[string]bool{c.low: true, c.high: true, c.less: false, c.more: false} {
					if err := e.Type(&m, text); err != nil {
						t.Fatal(err)
					}
					err := m.Check()
					if at := err != nil && strings.Contains(err.Error(), e.Key); at == good {
						t.Errorf("%s of %s: %v", e.Key, text, err)
					}
				}
			}
		}
	}
}
