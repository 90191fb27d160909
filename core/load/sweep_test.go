package load_test

import (
	"cmp"
	"fmt"
	"math"
	"math/cmplx"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/core/load"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

// cone is a 15-inch driver in its box by invented figures of the usual size.
func cone(re, fc, qms, qes, le float64) *gear.Driver {
	return &gear.Driver{Re: unit.Of(unit.Ohm(re)), Resonance: unit.Of(unit.Hertz(fc)), Qms: unit.Of(unit.Ratio(qms)),
		Qes: unit.Of(unit.Ratio(qes)), Inductance: unit.Of(unit.Ratio(le))}
}

// spice writes a cone as the circuit of its textbook model, between two nodes.
func spice(name, plus, minus string, d *gear.Driver) string {
	re, w0, qe, qm := float64(d.Re.Or(0)), 2*math.Pi*float64(d.Resonance.Or(0)), float64(d.Qes.Or(0)), float64(d.Qms.Or(0))
	return fmt.Sprintf("R%[1]s %[2]s %[1]sa %.9[4]g\nL%[1]s %[1]sa %[1]sb %.9[5]g\nRm%[1]s %[1]sb %[3]s "+
		"%.9[6]g\nCm%[1]s %[1]sb %[3]s %.9[7]g\nLm%[1]s %[1]sb %[3]s %.9[8]g\n",
		name, plus, minus, re, float64(d.Inductance.Or(0))/1000, re*qm/qe, qe/(w0*re), re/(w0*qe))
}

type network struct {
	what    string
	rig     func(*rigtest.Rig) *rigtest.Rig
	netlist string   // from node "out" to 0, driven with 1 V
	nodes   []string // the box of each sweep in its order, as a spice voltage
	at      string   // the output; "": A1/out A
}

func box(d *gear.Driver) gear.Model {
	return rigtest.Box(fmt.Sprint("cone", d.Re), func(s *gear.Loudspeaker) { s.Driver = d })
}

// lead plugs in a lead of a length and conductor.
func lead(r *rigtest.Rig, from, to string, length, area float64, series string) *rigtest.Rig {
	return r.Do(rig.Connect{Link: rig.Link{From: rigtest.Ref(from), To: rigtest.Ref(to), Series: series,
		Length: unit.Of(unit.Metre(length)), Area: unit.Of(unit.SquareMillimetre(area))}})
}

// ohms of a lead, by the reference: 2 × (1/58) × L/A at 20 °C (IEC 60028).
func ohms(length, area float64) float64 { return 2.0 / 58 * length / area }

func networks() []network {
	sub, top := cone(5.4, 48, 6.2, 0.38, 1.1), cone(6.1, 70, 4.0, 0.52, 0.6)
	return []network{
		{"one box on 30 m of 2.5 mm²", func(r *rigtest.Rig) *rigtest.Rig {
			return lead(r.Add(box(sub), "B1"), "A1/out A", "B1/in", 30, 2.5, "")
		}, fmt.Sprintf("Rl out n1 %.9g\n", ohms(30, 2.5)) + spice("d1", "n1", "0", sub), []string{"n1"}, ""},
		{"two boxes linked through", func(r *rigtest.Rig) *rigtest.Rig {
			r = lead(r.Add(box(sub), "B1", "B2"), "A1/out A", "B1/in", 20, 4, "")
			return lead(r, "B1/link", "B2/in", 5, 1.5, "")
		}, fmt.Sprintf("Rl out n1 %.9g\nRk n1 n2 %.9g\n", ohms(20, 4), ohms(5, 1.5)) + spice("d1", "n1", "0", sub) +
			spice("d2", "n2", "0", sub), []string{"n1", "n2"}, ""},
		{"two kinds side by side", func(r *rigtest.Rig) *rigtest.Rig {
			r = lead(r.Add(box(sub), "B1").Add(box(top), "B2"), "A1/out A", "B1/in", 10, 2.5, "")
			return lead(r, "A1/out A", "B2/in", 25, 1, "")
		}, fmt.Sprintf("Rl out n1 %.9g\nRk out n2 %.9g\n", ohms(10, 2.5), ohms(25, 1)) + spice("d1", "n1", "0", sub) +
			spice("d2", "n2", "0", top), []string{"n1", "n2"}, ""},
		{"two in series", func(r *rigtest.Rig) *rigtest.Rig {
			r = lead(r.Add(box(top), "B1", "B2"), "A1/out A", "B1/in", 8, 2.5, "s")
			return lead(r, "A1/out A", "B2/in", 8, 2.5, "s")
		}, fmt.Sprintf("Rl out n1 %.9g\nRk n2 n3 %.9g\n", ohms(8, 2.5), ohms(8, 2.5)) + spice("d1", "n1", "n2", top) +
			spice("d2", "n3", "0", top), []string{"n1,n2", "n3"}, ""},
		{"a chain of three and one beside it", func(r *rigtest.Rig) *rigtest.Rig {
			r = lead(r.Add(box(top), "B1", "B2", "B3").Add(box(sub), "S1"), "A1/out A", "B1/in", 15, 2.5, "")
			r = lead(r, "B1/link", "B2/in", 2, 2.5, "")
			r = lead(r, "B2/link", "B3/in", 2, 2.5, "")
			return lead(r, "A1/out A", "S1/in", 12, 4, "")
		}, fmt.Sprintf("Rl out n1 %.9g\nRa n1 n2 %.9g\nRb n2 n3 %.9g\nRs out n4 %.9g\n", ohms(15, 2.5), ohms(2, 2.5),
			ohms(2, 2.5), ohms(12, 4)) +
			spice("d1", "n1", "0", top) + spice("d2", "n2", "0", top) + spice("d3", "n3", "0", top) +
			spice("d4", "n4", "0", sub), []string{"n1", "n2", "n3", "n4"}, ""},
		{"four on one lead", func(r *rigtest.Rig) *rigtest.Rig {
			r = lead(r.Add(box(top), "B1", "B2", "B3", "B4"), "A1/out A", "B1/in", 30, 2.5, "")
			for i := 1; i < 4; i++ {
				r = lead(r, fmt.Sprintf("B%d/link", i), fmt.Sprintf("B%d/in", i+1), 10, 1.5, "")
			}
			return r
		}, fmt.Sprintf("Rl out n1 %.9g\nRa n1 n2 %.9g\nRb n2 n3 %.9[2]g\nRc n3 n4 %.9[2]g\n", ohms(30, 2.5),
			ohms(10, 1.5)) + spice("d1", "n1", "0", top) + spice("d2", "n2", "0", top) + spice("d3", "n3", "0", top) +
			spice("d4", "n4", "0", top), []string{"n1", "n2", "n3", "n4"}, ""},
		{"two strings side by side", func(r *rigtest.Rig) *rigtest.Rig {
			r = r.Add(box(top), "B1", "B2").Add(box(sub), "S1", "S2")
			for i, tag := range []string{"B1", "B2", "S1", "S2"} {
				r = lead(r, "A1/out A", tag+"/in", float64(5+5*i), 1.5, []string{"s", "s", "t", "t"}[i])
			}
			return r
		}, fmt.Sprintf("Ra out n1 %.9g\nRb n2 n3 %.9g\nRc out n4 %.9g\nRd n5 n6 %.9g\n", ohms(5, 1.5), ohms(10, 1.5),
			ohms(15, 1.5), ohms(20, 1.5)) + spice("d1", "n1", "n2", top) + spice("d2", "n3", "0", top) +
			spice("d3", "n4", "n5", sub) + spice("d4", "n6", "0", sub), []string{"n1,n2", "n3", "n4,n5", "n6"}, ""},
		{"a string of a box with another linked on", func(r *rigtest.Rig) *rigtest.Rig {
			r = r.Add(box(top), "B1", "B2").Add(box(sub), "S1")
			r = lead(r, "A1/out A", "B1/in", 12, 2.5, "s")
			r = lead(r, "A1/out A", "S1/in", 12, 2.5, "s")
			return lead(r, "B1/link", "B2/in", 20, 0.75, "")
		}, fmt.Sprintf("Ra out n1 %.9g\nRk n1 n2 %.9g\nRb nx n3 %.9g\n", ohms(12, 2.5), ohms(20, 0.75), ohms(12, 2.5)) +
			spice("d1", "n1", "nx", top) + spice("d2", "n2", "nx", top) + spice("d3", "n3", "0", sub),
			[]string{"n1,nx", "n2,nx", "n3"}, ""},
		{"a bridge, half of the lead in each conductor", func(r *rigtest.Rig) *rigtest.Rig {
			return lead(r.Add(box(sub), "B1"), "A1/out A+B", "B1/in", 25, 4, "")
		}, fmt.Sprintf("Ra out n1 %.9g\nRb m1 0 %.9[1]g\n", ohms(25, 4)/2) + spice("d1", "n1", "m1", sub),
			[]string{"n1,m1"}, "A1/out A+B"},
		{"two leads on a bridge, one with a box linked on", func(r *rigtest.Rig) *rigtest.Rig {
			r = lead(r.Add(box(sub), "B1", "B2").Add(box(top), "B3"), "A1/out A+B", "B1/in", 25, 2.5, "")
			r = lead(r, "B1/link", "B2/in", 5, 2.5, "")
			return lead(r, "A1/out A+B", "B3/in", 40, 2.5, "")
		}, fmt.Sprintf("Ra out n1 %.9g\nRb n1 n2 %.9g\nRc out n3 %.9g\n", ohms(25, 2.5), ohms(5, 2.5), ohms(40, 2.5)) +
			spice("d1", "n1", "0", sub) + spice("d2", "n2", "0", sub) + spice("d3", "n3", "0", top),
			[]string{"n1", "n2", "n3"}, "A1/out A+B"},
		{"a forked chain", func(r *rigtest.Rig) *rigtest.Rig {
			r = lead(r.Add(box(top), "B1", "B2", "B3").Add(box(sub), "S1"), "A1/out A", "B1/in", 18, 2.5, "")
			r = lead(r, "B1/link", "B2/in", 4, 1.5, "")
			r = lead(r, "B1/link", "S1/in", 9, 4, "")
			return lead(r, "S1/link", "B3/in", 3, 0.75, "")
		}, fmt.Sprintf("Ra out n1 %.9g\nRb n1 n2 %.9g\nRc n1 n3 %.9g\nRd n3 n4 %.9g\n", ohms(18, 2.5), ohms(4, 1.5),
			ohms(9, 4), ohms(3, 0.75)) + spice("d1", "n1", "0", top) + spice("d2", "n2", "0", top) +
			spice("d3", "n3", "0", sub) + spice("d4", "n4", "0", top), []string{"n1", "n2", "n3", "n4"}, ""},
	}
}

// Impedance at the amplifier and voltage at each box agree with ngspice
// (Debian) within 0.1 % for eleven networks of cones and leads, shared, linked,
// in series and bridged, at 31
// frequencies from 20 Hz to 20 kHz.
func TestSweepsAgreeWithSpice(t *testing.T) {
	if _, err := exec.LookPath("ngspice"); err != nil {
		t.Fatal("ngspice is not installed; make test installs it")
	}
	hz := load.Thirds(10)
	for _, n := range networks() {
		x := rig.NewIndex(n.rig(rigtest.New(t).Add(rigtest.Amp("amp"), "A1")).Rig)
		var out load.Output
		for _, o := range load.Outputs(x) {
			if o.At == rigtest.Ref(cmp.Or(n.at, "A1/out A")) {
				out = o
			}
		}
		s := load.SweepOutput(&out, hz, 20)
		if s.Lacks != "" || len(s.Boxes) != len(n.nodes) {
			t.Fatalf("%s: %q, %d boxes", n.what, s.Lacks, len(s.Boxes))
		}
		judge := runSpice(t, n)
		for i, f := range hz {
			agrees(t, fmt.Sprintf("%s, |Z| at %.0f Hz", n.what, f), cmplx.Abs(s.Z[i]), 1/judge[0][i])
			for b := range s.Boxes {
				agrees(t, fmt.Sprintf("%s, volts at %s at %.0f Hz", n.what, s.Boxes[b].Box.Tag, f),
					cmplx.Abs(s.Boxes[b].Volts[i]), judge[b+1][i])
			}
		}
	}
}

func agrees(t *testing.T, what string, got, want float64) {
	t.Helper()
	if math.IsNaN(got) || math.Abs(got/want-1) > 0.001 {
		t.Errorf("%s: %.6g, ngspice says %.6g", what, got, want)
	}
}

// runSpice gives the current of the source, then the voltages asked for, at
// each frequency.
func runSpice(t *testing.T, n network) [][]float64 {
	t.Helper()
	dir := t.TempDir()
	columns := "mag(i(v1))"
	for _, node := range n.nodes {
		columns += " mag(v(" + node + "))"
	}
	deck := "* " + n.what + "\nV1 out 0 AC 1\n" + n.netlist +
		".control\nset wr_singlescale\nac dec 10 20 20000\nwrdata " + filepath.Join(dir, "out") + " " + columns +
		"\nquit 0\n.endc\n.end\n"
	file := filepath.Join(dir, "deck.cir")
	if err := os.WriteFile(file, []byte(deck), 0o600); err != nil {
		t.Fatal(err)
	}
	if text, err := exec.Command("ngspice", "-b", file).CombinedOutput(); err != nil {
		t.Fatalf("ngspice: %v\n%s", err, text)
	}
	text, err := os.ReadFile(filepath.Join(dir, "out"))
	if err != nil {
		t.Fatal(err)
	}
	values := make([][]float64, 1+len(n.nodes))
	for line := range strings.Lines(string(text)) {
		for c, word := range strings.Fields(line) {
			v, err := strconv.ParseFloat(word, 64)
			if err != nil {
				t.Fatalf("ngspice wrote %q", line)
			}
			if c > 0 {
				values[c-1] = append(values[c-1], v)
			}
		}
	}
	return values
}

// A measured curve goes before everything, and stays at its ends beyond them.
func TestImpedanceOfACurve(t *testing.T) {
	d := &gear.Drive{Nominal: unit.Of(unit.Ohm(8)),
		Impedance: gear.Curve{{Hz: 100, Value: 6, Phase: 30}, {Hz: 400, Value: 24, Phase: -30}}}
	if z := d.ImpedanceAt(200); math.Abs(cmplx.Abs(z)-12) > 1e-9 || math.Abs(cmplx.Phase(z)) > 1e-9 {
		t.Errorf("half-way between 6 and 24 Ω is %v, want 12", z)
	}
	if z := d.ImpedanceAt(20); math.Abs(cmplx.Abs(z)-6) > 1e-9 {
		t.Errorf("below the curve: %v", z)
	}
	// at its resonance a cone is a resistance of Re (1 + Qms/Qes)
	if z := (&gear.Drive{Driver: cone(5, 50, 6, 0.5, 0)}).ImpedanceAt(50); math.Abs(real(z)-65) > 1e-6 ||
		math.Abs(imag(z)) > 1e-6 {
		t.Errorf("at resonance %v, want 65", z)
	}
}
