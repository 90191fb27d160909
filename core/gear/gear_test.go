package gear

import (
	"math"
	"strings"
	"testing"
	"testing/quick"

	"largo/core/unit"
)

func near(t *testing.T, what string, got, want, tolerance float64) {
	t.Helper()
	if math.IsNaN(got) || math.Abs(got-want) > tolerance {
		t.Errorf("%s = %.5f, want %.5f", what, got, want)
	}
}

// stiff is an amplifier that holds its voltage: 400 W into 8, 800 W into 4.
var stiff = Amplifier{Channels: 2, Ratings: []Rating{
	{Mode: Separate, Load: 8, Power: 400, Driven: AllDriven}, {Mode: Separate, Load: 4, Power: 800, Driven: AllDriven},
}}

// soft sags: 400 W into 8, 600 W into 4, as a current-limited one does.
var soft = Amplifier{Channels: 2, Ratings: []Rating{
	{Mode: Separate, Load: 8, Power: 400}, {Mode: Separate, Load: 4, Power: 600}, {Mode: Bridged, Load: 8, Power: 1500},
}}

func TestPowerInto(t *testing.T) {
	for _, c := range []struct {
		what string
		amp  Amplifier
		mode Mode
		z    unit.Ohm
		want float64 // W; 0 for unknown
	}{
		{"as listed", stiff, Separate, 8, 400},
		{"as listed within half a percent", stiff, Separate, 7.97, 400},
		// A straight line of ln P over ln Z between 400 W/8 ohm and 800 W/4
		// ohm is constant voltage: 56.57 V, so 533.3 W into 6 ohm (P = U²/Z).
		{"between, stiff", stiff, Separate, 6, 400 * 8.0 / 6},
		{"between, soft", soft, Separate, math.Sqrt2 * 4, math.Sqrt(400 * 600)},
		{"above the highest, constant voltage", stiff, Separate, 16, 200},
		{"below the lowest, never", stiff, Separate, 2.67, 0},
		// Twice the voltage, four times the power in theory (physics): a stiff
		// amplifier gives 1600 W bridged into 8 ohm.
		{"bridged, stiff", stiff, Bridged, 8, 1600},
		{"bridged, below", stiff, Bridged, 4, 0},
		// The maker claims 1500 W; two channels into 4 ohm give 1200 W.
		{"bridged, claim not credited", soft, Bridged, 8, 1200},
	} {
		p := c.amp.PowerInto(c.mode, c.z)
		if c.want == 0 {
			if p.Known() {
				t.Errorf("%s: %s, want it unknown", c.what, p.Text())
			}
			continue
		}
		near(t, c.what, p.Value, c.want, 0.01)
		if p.Working() == "" || p.Source == "" {
			t.Errorf("%s: no working or source: %+v", c.what, p)
		}
	}
	near(t, "bridging a stiff amplifier buys", float64(unit.OfPower(stiff.PowerInto(Bridged, 8).Value/400)), 6.0206, 1e-3)
}

func TestPowerNeverRisesWithLoad(t *testing.T) {
	law := func(a, b uint8) bool {
		z1, z2 := 4+unit.Ohm(a)/8, 4+unit.Ohm(b)/8
		if z1 > z2 {
			z1, z2 = z2, z1
		}
		for _, amp := range []Amplifier{stiff, soft} {
			low, high := amp.PowerInto(Separate, z1), amp.PowerInto(Separate, z2)
			if high.Value > low.Value*1.0101 { // 0.5 % either way of a listed load
				return false
			}
		}
		return true
	}
	if err := quick.Check(law, nil); err != nil {
		t.Error(err)
	}
}

func TestRatingsThatMayNotBePlannedWith(t *testing.T) {
	burst := Amplifier{Channels: 2, Ratings: []Rating{{Mode: Separate, Load: 8, Power: 900, Duration: Burst}}}
	if p := burst.PowerInto(Separate, 8); p.Known() {
		t.Errorf("a 20 ms burst was taken for continuous power: %s", p.Text())
	}
	both := Amplifier{Channels: 2, Ratings: []Rating{
		{Mode: Separate, Load: 8, Power: 500, Driven: OneDriven}, {Mode: Separate, Load: 8, Power: 420, Driven: AllDriven},
	}}
	near(t, "all channels driven wins", both.PowerInto(Separate, 8).Value, 420, 0)
	one := Amplifier{Channels: 2, Ratings: []Rating{{Mode: Separate, Load: 8, Power: 500, Driven: OneDriven}}}
	if p := one.PowerInto(Separate, 8); !strings.Contains(p.Note, "one channel driven") {
		t.Errorf("one channel driven passed without a word: %+v", p)
	}
}

func TestLeastLoad(t *testing.T) {
	near(t, "smallest rated", stiff.LeastLoad(Separate).Value, 4, 0)
	// Each side of a bridge sees half the load (physics).
	near(t, "bridged is twice", stiff.LeastLoad(Bridged).Value, 8, 0)
	a := stiff
	a.Least, a.Bridging.Least = unit.Of(unit.Ohm(2)), unit.Of(unit.Ohm(8))
	near(t, "maker's bridged where higher", a.LeastLoad(Bridged).Value, 8, 0)
	a.Bridging.Least = unit.Of(unit.Ohm(2))
	near(t, "never under twice the channel's", a.LeastLoad(Bridged).Value, 4, 0)
	if (&Amplifier{Channels: 2}).LeastLoad(Separate).Known() {
		t.Error("an amplifier without ratings has no known least load")
	}
}

func TestVoltageGain(t *testing.T) {
	a := stiff
	// gain = 20 lg(sqrt(P Z)/U): 400 W into 8 ohm is 56.57 V; from 1.4142 V
	// that is a gain of 40, 32.04 dB. At 4 ohm the same sensitivity would mean
	// the same volts only because the amplifier is stiff.
	a.Sensitivity, a.SensLoad = unit.Of(unit.Volt(math.Sqrt2)), unit.Of(unit.Ohm(8))
	near(t, "gain", a.VoltageGain().Value, 32.0412, 1e-4)
	a.SensLoad = unit.Given[unit.Ohm]{}
	if a.VoltageGain().Known() {
		t.Error("a sensitivity without its load gives no gain")
	}
	a.Gain = unit.Of(unit.Decibel(26))
	near(t, "a given gain", a.VoltageGain().Value, 26, 0)
}

func TestLoudspeakerPowerWords(t *testing.T) {
	w := func(p float64) unit.Given[unit.Watt] { return unit.Of(unit.Watt(p)) }
	// Programme is twice, peak four times continuous: common practice, no source.
	for _, c := range []struct {
		what string
		box  Loudspeaker
		want float64
	}{
		{"continuous", Loudspeaker{Drive: Drive{Continuous: w(350), Programme: w(700)}}, 350},
		{"programme", Loudspeaker{Drive: Drive{Programme: w(700)}}, 350},
		{"peak", Loudspeaker{Drive: Drive{Peak: w(1400)}}, 350},
		{"bare watts are peak", Loudspeaker{Drive: Drive{Bare: w(1000)}}, 250},
	} {
		near(t, c.what, c.box.ContinuousW().Value, c.want, 0)
	}
	if (&Loudspeaker{}).ContinuousW().Known() {
		t.Error("no rating is not zero watts")
	}
}

func TestSensitivityReference(t *testing.T) {
	// 2.83 V into 4 ohm is 2 W, so "97 dB 2.83 V" is 94 dB at 1 W (Ohm's law).
	box := Loudspeaker{Drive: Drive{Nominal: unit.Of(unit.Ohm(4)), Sensitivity: unit.Of(unit.Decibel(97)),
		SensitivityRef: TwoPointEight}}
	near(t, "97 dB for 2.83 V into 4 ohm", box.OneWattSensitivity().Value, 93.985, 1e-3)
	box.SensitivityRef = OneWatt
	near(t, "97 dB for 1 W", box.OneWattSensitivity().Value, 97, 0)
}

func TestImpedanceTheRatingWasFiguredOn(t *testing.T) {
	box := Loudspeaker{Drive: Drive{Nominal: unit.Of(unit.Ohm(8)), Least: unit.Of(unit.Ohm(6.6)),
		Continuous: unit.Of(unit.Watt(450)), Standard: IEC}}
	near(t, "IEC 60268-5: rated impedance", box.RatedOn().Value, 8, 0)
	box.Standard = AES1984
	near(t, "AES2-1984: least impedance", box.RatedOn().Value, 6.6, 0)
	box.Least = unit.Given[unit.Ohm]{}
	// IEC 60268-5 lets the least be 20 % under the rated one (from memory).
	near(t, "unknown least", box.RatedOn().Value, 6.4, 1e-12)
}

func TestCheckFaultsTheImpossible(t *testing.T) {
	amp := func(change func(*Amplifier)) Model {
		a := Amplifier{Channels: 2, Ratings: []Rating{{Mode: Separate, Load: 8, Power: 400},
			{Mode: Separate, Load: 4, Power: 700}}}
		change(&a)
		return Model{ID: "x", Kind: KindAmplifier, Maker: "M", Name: "N", Amplifier: &a}
	}
	box := func(s Loudspeaker) Model {
		return Model{ID: "x", Kind: KindLoudspeaker, Maker: "M", Name: "N", Loudspeaker: &s}
	}
	for _, c := range []struct {
		what  string
		model Model
		say   string // "" for no fault
	}{
		{"a sound amplifier", amp(func(*Amplifier) {}), ""},
		{"zero ohms", amp(func(a *Amplifier) { a.Ratings[0].Load = 0 }), "above 0 Ω"},
		{"negative ohms", amp(func(a *Amplifier) { a.Ratings[0].Load = -8 }), "above 0 Ω"},
		{"not a number", amp(func(a *Amplifier) { a.Ratings[0].Load = unit.Ohm(math.NaN()) }), "above 0 Ω"},
		{"8 kW typed as W", amp(func(a *Amplifier) { a.Ratings[0].Power = 8 }), "write 8 kW"},
		{"8 kW typed as 8000 kW", amp(func(a *Amplifier) { a.Ratings[0].Power = 8e6 }), "more than any amplifier"},
		{"a table that falls steeply", amp(func(a *Amplifier) { a.Ratings[1].Power = 150 }),
			"falls more than constant current"},
		{"more than constant voltage", amp(func(a *Amplifier) { a.Ratings[1].Power = 900 }), "constant voltage"},
		{"the same load twice", amp(func(a *Amplifier) { a.Ratings[1].Load = 8 }), "rated twice"},
		{"no channels", amp(func(a *Amplifier) { a.Channels = 0 }), "channels"},
		{"a box of 0 ohm", box(Loudspeaker{Drive: Drive{Nominal: unit.Of(unit.Ohm(0))}}), "nominal impedance of 0 Ω"},
		{"a box of 8 kW", box(Loudspeaker{Drive: Drive{Continuous: unit.Of(unit.Watt(8000))}}), "continuous power"},
		{"least over nominal", box(Loudspeaker{Drive: Drive{Nominal: unit.Of(unit.Ohm(4)), Least: unit.Of(unit.Ohm(6))}}),
			"above the nominal"},
		{"peak under continuous", box(Loudspeaker{Drive: Drive{Continuous: unit.Of(unit.Watt(400)),
			Peak: unit.Of(unit.Watt(200))}}), "below the continuous"},
		{"an unknown box is no fault", box(Loudspeaker{}), ""},
		{"a kind without its part", Model{ID: "x", Kind: KindMixer, Maker: "M", Name: "N"}, "must describe that kind"},
		{"no kind", Model{ID: "x", Kind: "toaster", Maker: "M", Name: "N"}, "not a kind"},
	} {
		err := c.model.Check()
		switch {
		case c.say == "" && err != nil:
			t.Errorf("%s: refused: %v", c.what, err)
		case c.say != "" && (err == nil || !strings.Contains(err.Error(), c.say)):
			t.Errorf("%s: %v, want a sentence with %q", c.what, err, c.say)
		}
	}
}

func TestPorts(t *testing.T) {
	m := Model{Kind: KindAmplifier, Amplifier: &Amplifier{Channels: 3}}
	var names []string
	for _, p := range m.Ports() {
		names = append(names, p.Name)
	}
	if got, want := strings.Join(names, ","), "in 1,in 2,in 3,out A,out B,out C,out A+B,mains"; got != want {
		t.Errorf("ports %s, want %s", got, want)
	}
	active := Model{Kind: KindLoudspeaker, Loudspeaker: &Loudspeaker{Active: true, Link: true}}
	if p, ok := active.Port("link"); !ok || p.Signal != Line || p.Dir != Through {
		t.Errorf("an active box links line level through: %+v", p)
	}
	if !active.Powered() || !active.MakesSound() {
		t.Error("an active box has a switch and makes sound")
	}
}

// 2.5 mm² copper by IEC 60028 is 6.8966, 7.7097 and 8.2517 Ω/km at 20, 50 and
// 70 °C; IEC 60228 lets class 5 have 7.98 Ω/km at 20 °C (from memory), the 11 to
// 16 % more of flexible lead.
func TestLeadsByTheStandards(t *testing.T) {
	for celsius, want := range map[float64]float64{20: 6.8966, 50: 7.7097, 70: 8.2517} {
		if got := float64(LoopResistance(1000, 2.5, celsius)) / 2; math.Abs(got-want) > 1e-4 {
			t.Errorf("2.5 mm² at %g °C: %.4f Ω/km, want %.4f", celsius, got, want)
		}
	}
	if more := 7.98/(float64(LoopResistance(1000, 2.5, 20))/2) - 1; more < 0.11 || more > 0.16 {
		t.Errorf("class 5 is %.1f %% above solid copper", 100*more)
	}
}

// At another supply an unregulated amplifier gives the square of the voltage's
// ratio, and on mains that it does not work on nobody knows. What a circuit sustains
// is U I λ less idle, times the efficiency: 120 V 15 A 1170 W at 65 % and 1620 W at
// 90 %, 230 V 16 A 2392 and 3312 W at a power factor of 1 and no idle draw; at 0.65
// and 60 W idle (2392 − 60) × 0.65 = 1515.8 W.
func TestSupplyAndWall(t *testing.T) {
	m := Model{Kind: KindAmplifier, Amplifier: &Amplifier{Channels: 2, Supply: unit.Of(unit.Volt(230)),
		Ratings: []Rating{{Mode: Separate, Load: 8, Power: 400}, {Mode: Separate, Load: 8, Power: 700, Duration: Burst}}}}
	p := m.Amplifier.PowerInto(Separate, 8)
	if got := m.AtSupply(p, 207); math.Abs(got.Value-324) > 1e-9 { // 0.9² of 400 W
		t.Errorf("at 207 V: %s", got.Text())
	}
	if got := m.AtSupply(p, 120); got.Known() || !strings.Contains(got.Lacks, "rated at 230") {
		t.Errorf("an amplifier of 230 V on 120 V gives %s (%s)", got.Text(), got.Lacks)
	}
	m.Intake.Corrected, m.Intake.VoltsLow, m.Intake.VoltsHigh = Yes, unit.Of(unit.Volt(90)), unit.Of(unit.Volt(264))
	if got := m.AtSupply(p, 120); got.Value != 400 {
		t.Errorf("regulated at 120 V: %s", got.Text())
	}
	if got := m.AtSupply(p, 300); got.Known() || !strings.Contains(got.Lacks, "up to 264") {
		t.Errorf("at 300 V: %s (%s)", got.Text(), got.Lacks)
	}
	if b := m.Amplifier.BurstInto(Separate, 8); b.Value != 700 || p.Value != 400 {
		t.Errorf("burst %s, continuous %s", b.Text(), p.Text())
	}
	for _, c := range []struct {
		efficiency, factor unit.Ratio
		idle               unit.Watt
		amps               unit.Ampere
		volts              unit.Volt
		want               float64
	}{{0.65, 1, 0, 15, 120, 1170}, {0.9, 1, 0, 15, 120, 1620}, {0.65, 1, 0, 16, 230, 2392}, {0.9, 1, 0, 16, 230, 3312},
		{0.65, 0.65, 60, 16, 230, 1515.8}} {
		got := (Draw{Efficiency: c.efficiency, Factor: c.factor, Idle: c.idle}).WallGives(c.amps, c.volts)
		if math.Abs(got.Value-c.want) > 1e-6 {
			t.Errorf("%s at %s, %s: %s, want %g W", c.amps, c.volts, c.efficiency, got.Text(), c.want)
		}
	}
}

// A burst is what is held for a moment, so never less than what is held; at a load that
// no burst was rated at it says nothing (from memory).
func TestABurstIsNeverLessThanWhatIsHeld(t *testing.T) {
	a := Amplifier{Channels: 2, Ratings: []Rating{{Mode: Separate, Load: 8, Power: 400},
		{Mode: Separate, Load: 4, Power: 700}, {Mode: Separate, Load: 4, Power: 600, Duration: Burst}}}
	if b := a.BurstInto(Separate, 4); b.Value != 700 || !strings.Contains(b.Note, "600 W is less than what is held") {
		t.Errorf("a burst of 600 W over 700 W held: %s (%s)", b.Text(), b.Note)
	}
	if b := a.BurstInto(Separate, 8); b.Known() {
		t.Errorf("a burst at 4 ohm says %s of 8", b.Text())
	}
}

// The least impedance is that of the measured curve where there is one, whatever the
// sheet rounds it to; else the sheet's; else 80 % of nominal (IEC 60268-5, from memory).
func TestTheLeastImpedanceFollowsWhatWasMeasured(t *testing.T) {
	d := Drive{Nominal: unit.Of(unit.Ohm(8))}
	near(t, "of nominal", d.LeastZ().Value, 6.4, 1e-9)
	d.Least = unit.Of(unit.Ohm(6.1))
	near(t, "of the sheet", d.LeastZ().Value, 6.1, 1e-9)
	for hz := 20.0; hz <= 20000; hz *= 1.2 {
		d.Impedance = append(d.Impedance, Point{Hz: hz, Value: 5.7 + math.Pow(math.Log2(hz/200), 2)})
	}
	if z := d.LeastZ(); z.Value < 5.7 || z.Value > 5.75 {
		t.Errorf("measured %s, want the 5.7 Ω at the bottom of its curve", z.Text())
	}
}

// A linear output stage takes current as the voltage that it gives, so its efficiency
// falls as the root of the power: 60 % at full are 21.2 % at an eighth (class B into a
// resistance, physics); a class D one keeps its own.
func TestEfficiencyAtAnEighth(t *testing.T) {
	for class, want := range map[string]float64{"AB": 0.6 / math.Sqrt(8), "": 0.6 / math.Sqrt(8), "D": 0.85} {
		m := Model{Kind: KindAmplifier, Amplifier: &Amplifier{Channels: 2, Class: class,
			Ratings: []Rating{{Mode: Separate, Load: 8, Power: 400}}}}
		near(t, "class "+class, float64(m.Draw().Programme), want, 1e-9)
	}
}
