package reckon

import (
	"testing"

	"largo/core/unit"
)

func TestWorking(t *testing.T) {
	v := Of("v", "V", "long-term limit", unit.Watt(450).Across(8), "sqrt({P} × {Z})",
		In("P", "continuous power", unit.Watt(450), "sheet"), In("Z", "rated impedance", unit.Ohm(8), "sheet"))
	if got, want := v.Working(), "V = sqrt(P × Z) = sqrt(450 W × 8 Ω) = 60.0 V"; got != want {
		t.Errorf("got %q, want %q", got, want)
	}
	listed := Of("p", "P", "power", unit.Watt(650), "as listed")
	if got, want := listed.Working(), "P = as listed = 650 W"; got != want {
		t.Errorf("got %q, want %q", got, want)
	}
	missing := Unknown("g", "G", "gain", "the sheet gives neither gain nor sensitivity")
	if missing.Known() || missing.Text() != "unknown" {
		t.Errorf("%+v should be unknown", missing)
	}
	if got, want := missing.Working(), "G is unknown: the sheet gives neither gain nor sensitivity"; got != want {
		t.Errorf("got %q, want %q", got, want)
	}
	if got := v.Noting("a").Noting("").Noting("b").Note; got != "a b" {
		t.Errorf("notes join as %q", got)
	}
}
