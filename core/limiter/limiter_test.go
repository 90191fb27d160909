package limiter_test

import (
	"math"
	"strings"
	"testing"

	"largo/core/limiter"
	"largo/core/signal"
	"largo/core/thermal"
	"largo/core/unit"
)

func near(t *testing.T, what string, got, want, within float64) {
	t.Helper()
	if !(math.Abs(got-want) <= within) {
		t.Errorf("%s is %.5f, want %.5f ± %g", what, got, want, within)
	}
}

var slow = limiter.Limiter{Detector: limiter.RMS, Threshold: 10, Attack: 10, Release: 30}

// A step to 5 dB over the threshold, attack 10 s: 1 dB and nine tenths of the reduction,
// from at the threshold and from silence (worked out apart from this program).
func TestHowLongItTakes(t *testing.T) {
	near(t, "1 dB from the threshold", slow.Reaches(5, 1, 1), 1.2755, 5e-5)
	near(t, "90 % from the threshold", slow.Reaches(5, 1, 4.5), 18.386, 5e-4)
	near(t, "1 dB from silence", slow.Reaches(5, 0, 1), 5.0768, 5e-5)
	near(t, "90 % from silence", slow.Reaches(5, 0, 4.5), 22.187, 5e-4)
	if !math.IsInf(slow.Reaches(5, 0, 5), 1) || slow.Reaches(5, 2, 1) != 0 {
		t.Error("what is never reached, and what is there already")
	}
}

// The run does in time what the pole's closed form says: a sine of 1 kHz, 5 dB over.
func TestARunFollowsThePole(t *testing.T) {
	x := signal.Sine(1000, 1)
	volts := 10 * math.Sqrt2 * math.Pow(10, 5.0/20)
	c := limiter.Chain{Rate: signal.Rate, Limiters: []limiter.Limiter{slow}, Load: 8}
	tr, err := c.Run(limiter.Repeat(x, volts, 30*signal.Rate), 30, 3000)
	if err != nil {
		t.Fatal(err)
	}
	at := func(reduction float64) float64 {
		for _, m := range tr.Moments {
			if m.Reduction[0] >= reduction {
				return m.At
			}
		}
		return math.NaN()
	}
	near(t, "1 dB", at(1), 5.0768, 0.06)
	near(t, "4.5 dB", at(4.5), 22.187, 0.1)
	near(t, "first out", tr.Moments[0].Out, volts/math.Sqrt2, 0.05)
}

// The static curve: 3 to 1 leaves a third over the threshold; a knee of 6 dB turns down by
// knee/8 of the slope at the threshold (the quadratic that joins both lines).
func TestTheCurve(t *testing.T) {
	l := limiter.Limiter{Ratio: 3}
	near(t, "3 to 1, 6 dB over", l.Reduction(6), 4, 1e-9)
	l = limiter.Limiter{Knee: 6}
	near(t, "within the knee", l.Reduction(0), 0.75, 1e-9)
	near(t, "where it ends", l.Reduction(3), 3, 1e-9)
	near(t, "before it begins", l.Reduction(-3), 0, 1e-9)
}

// A sine that the amplifier clips hard tends to a square: twice the power at most, and no
// crest. A peak limiter before it lets no clip through once it has acted.
func TestAnAmplifierThatClips(t *testing.T) {
	x := signal.Sine(100, 1)
	c := limiter.Chain{Rate: signal.Rate, Clip: 10, Load: 8}
	tr, err := c.Run(limiter.Repeat(x, 1000, 2*signal.Rate), 2, 10)
	if err != nil {
		t.Fatal(err)
	}
	near(t, "power of a square", tr.Watts, 100.0/8, 0.1)
	near(t, "its crest", tr.Crest, 0, 0.05)
	c.Limiters = []limiter.Limiter{{Detector: limiter.Peak, Threshold: 9, Attack: 0.002, Release: 0.5}}
	tr, _ = c.Run(limiter.Repeat(x, 40, 2*signal.Rate), 2, 20)
	if last := tr.Moments[len(tr.Moments)-1]; last.Clipped > 0 || last.Peak > 9.6 || last.Reduction[0] < 12 {
		t.Errorf("%+v", last)
	}
}

// Steady volts through the chain heat the driver as the engine of heat does, and a limiter
// switched off that was leaned on by 6 dB lets four times the power through.
func TestTheCoil(t *testing.T) {
	body := thermal.Body{R20: 5.3, Alpha: thermal.Copper, C1: 110, R1: 0.22, C2: 5200, R2: 0.55}
	c := limiter.Chain{Rate: 8000, Load: 8, Body: &body, Air: 20}
	x := make([]float64, 8000)
	for i := range x {
		x[i] = 56.3915 * math.Sqrt2 * math.Sin(2*math.Pi*100*float64(i)/8000)
	}
	tr, err := c.Run(limiter.Repeat(x, 1, 900*8000), 900, 90)
	if err != nil {
		t.Fatal(err)
	}
	near(t, "coil after a quarter of an hour", tr.Hottest.Coil, 162.16, 0.1)
	near(t, "taken away", limiter.TakenAway(6.0206), 4, 1e-4)
}

// A piece that comes again and again is the same worked out in full: power, peak, what the
// limiters do in the end, the heat.
func TestAPieceAgainAndAgain(t *testing.T) {
	body := thermal.Beforehand(300, 5.6, thermal.Copper).Body
	x := signal.Programme(1, 5, 9)
	c := limiter.Chain{Rate: signal.Rate, Clip: 100, Load: 8, Body: &body, Air: 20, Limiters: []limiter.Limiter{
		{Detector: limiter.RMS, Threshold: 30, Attack: 2, Release: 5},
		{Detector: limiter.Peak, Threshold: 80, Attack: 0.01, Release: 0.2}}}
	whole, err := c.Run(limiter.Repeat(x, 300, 200*signal.Rate), 200, 40)
	again, err2 := c.Periodic(x, 300, 200, 30, 40)
	if err != nil || err2 != nil {
		t.Fatal(err, err2)
	}
	near(t, "power", again.Watts, whole.Watts, 0.003*whole.Watts)
	near(t, "peak", again.Peak, whole.Peak, 1e-9)
	near(t, "coil", again.Hottest.Coil, whole.Hottest.Coil, 1)
	near(t, "frame", again.Hottest.Frame, whole.Hottest.Frame, 0.1)
	near(t, "how long", again.Seconds, whole.Seconds, 1e-3)
	a, b := again.Moments[len(again.Moments)-1], whole.Moments[len(whole.Moments)-1]
	near(t, "turned down in the end", a.Reduction[0], b.Reduction[0], 0.2)
}

func TestWhatCannotBe(t *testing.T) {
	for say, l := range map[string]limiter.Limiter{"at 0 V": {Detector: limiter.RMS, Attack: 1, Release: 1},
		"rms or peak": {Threshold: 1, Attack: 1, Release: 1}, "attack 0": {Detector: limiter.Peak, Threshold: 1, Release: 1},
		"ratio of 0.5": {Detector: limiter.Peak, Threshold: 1, Attack: 1, Release: 1, Ratio: 0.5},
		"knee of -1":   {Detector: limiter.Peak, Threshold: 1, Attack: 1, Release: 1, Knee: -1}} {
		c := limiter.Chain{Rate: 48000, Load: 8, Limiters: []limiter.Limiter{l}}
		if _, err := c.Run(limiter.Repeat([]float64{0}, 1, 9), 1, 1); err == nil || !strings.Contains(err.Error(), say) {
			t.Errorf("%s: %v", say, err)
		}
	}
}

// An hour of programme through both limiters, with the driver's heat.
func BenchmarkAnHour(b *testing.B) {
	x := signal.Crest(signal.Pink(1, 20), unit.Decibel(12))
	body := thermal.Beforehand(300, 5.6, thermal.Copper).Body
	c := limiter.Chain{Rate: signal.Rate, Clip: 120, Load: 8, Body: &body, Air: 20, Limiters: []limiter.Limiter{
		{Detector: limiter.RMS, Threshold: 30, Attack: 10, Release: 30},
		{Detector: limiter.Peak, Threshold: 80, Attack: 0.01, Release: 0.2}}}
	for b.Loop() {
		if _, err := c.Run(limiter.Repeat(x, 400, 3600*signal.Rate), 3600, 720); err != nil {
			b.Fatal(err)
		}
	}
}
