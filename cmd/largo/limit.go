package main

import (
	"encoding/json"
	"fmt"
	"math"
	"os"

	"github.com/spf13/cobra"

	"largo/core/limiter"
	"largo/core/signal"
	"largo/core/thermal"
	"largo/core/unit"
	"largo/exchange"
)

// limitOptions are the flags of a programme through limiters.
type limitOptions struct {
	wav                           string
	crest, average, full, minutes float64
	rms, peak, attack, release    float64
	fast, letGo, ratio, knee      float64
	clip, load, rating, coil, air float64
	asJSON                        bool
}

func limitCommand() *cobra.Command {
	o := limitOptions{}
	c := &cobra.Command{
		Use:   "limit",
		Short: "Run a programme through limiters: what comes out, how hot coil and magnet get",
		Long: "Run a programme through a limiter for heat and one for peaks, an amplifier and a driver that heats, and\n" +
			"print what comes out. The programme is a WAV file, whose full scale is --full volts of the peak at the\n" +
			"amplifier's output, or noise of a chosen --crest whose average is --average volts rms without any limiter. The\n" +
			"limiter for heat has one pole on the square, that for peaks one on the magnitude; both look at what comes in.\n\n" +
			"Exits 0 with the figures, 1 where it cannot be run.",
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if err := o.run(c); err != nil {
				return exit{1, err.Error()}
			}
			return nil
		},
	}
	f := c.Flags()
	f.StringVar(&o.wav, "wav", "", "a WAV file of any length; its first channel is taken")
	f.Float64Var(&o.full, "full", 0, "V of the peak that full scale of the file is")
	f.Float64Var(&o.crest, "crest", 12, "of the noise, dB, where there is no file")
	f.Float64Var(&o.average, "average", 0, "its average, V rms")
	f.Float64Var(&o.minutes, "minutes", 60, "for how long")
	f.Float64Var(&o.rms, "rms", 0, "threshold of the limiter for heat, V rms; 0: none")
	f.Float64Var(&o.attack, "attack", 10, "its attack, s")
	f.Float64Var(&o.release, "release", 30, "its release, s")
	f.Float64Var(&o.peak, "peak", 0, "threshold of the limiter for peaks, V; 0: none")
	f.Float64Var(&o.fast, "peak-attack", 0.01, "its attack, s")
	f.Float64Var(&o.letGo, "peak-release", 0.1, "its release, s")
	f.Float64Var(&o.ratio, "ratio", 0, "dB in over dB out above the threshold; 0: nothing more comes out")
	f.Float64Var(&o.knee, "knee", 0, "dB over which they begin")
	f.Float64Var(&o.clip, "clip", 0, "where the amplifier clips, V rms of a sine; 0: never")
	f.Float64Var(&o.load, "load", 8, "load, Ω")
	f.Float64Var(&o.rating, "rating", 300, "continuous rating of the driver, W")
	f.Float64Var(&o.coil, "coil", 6, "its coil at 20 °C, Ω")
	f.Float64Var(&o.air, "air", 25, "air around it, °C")
	f.BoolVar(&o.asJSON, "json", false, "every moment as JSON")
	return c
}

func (o limitOptions) run(c *cobra.Command) error {
	if !(o.rating >= 1 && o.rating <= 10_000) || !(o.minutes > 0 && o.minutes <= 600) {
		return fmt.Errorf("a rating of %g W, %g minutes cannot be", o.rating, o.minutes)
	}
	body := thermal.Beforehand(o.rating, o.coil, thermal.Copper).Body
	chain := limiter.Chain{Rate: signal.Rate, Clip: o.clip * math.Sqrt2, Load: o.load, Body: &body, Air: o.air}
	for _, l := range []limiter.Limiter{{Detector: limiter.RMS, Threshold: o.rms, Attack: o.attack, Release: o.release},
		{Detector: limiter.Peak, Threshold: o.peak, Attack: o.fast, Release: o.letGo}} {
		if l.Ratio, l.Knee = o.ratio, o.knee; l.Threshold != 0 {
			chain.Limiters = append(chain.Limiters, l)
		}
	}
	source, length, done, err := o.programme(&chain)
	if err != nil {
		return err
	}
	defer done()
	trace, err := chain.Run(source, length, 240)
	if err != nil {
		return err
	}
	if o.asJSON {
		return json.NewEncoder(c.OutOrStdout()).Encode(trace)
	}
	return o.print(c, chain, trace)
}

// programme is the source, and how long it is.
func (o limitOptions) programme(chain *limiter.Chain) (limiter.Source, float64, func(), error) {
	if o.wav == "" {
		if !(o.average > 0 && o.average <= 1000) {
			return nil, 0, nil, fmt.Errorf("say with --average how many volts rms the programme has, or give a file")
		}
		x := signal.Programme(1, 20, unit.Decibel(o.crest))
		scale := o.average * math.Sqrt2 / math.Pow(10, float64(signal.Measure(x).RMS)/20)
		return limiter.Repeat(x, scale, int(o.minutes*60*signal.Rate)), o.minutes * 60, func() {}, nil
	}
	if !(o.full > 0 && o.full <= 2000) {
		return nil, 0, nil, fmt.Errorf("say with --full how many volts of the peak full scale of the file is")
	}
	file, err := os.Open(o.wav)
	if err != nil {
		return nil, 0, nil, err
	}
	w, err := exchange.OpenWAV(file)
	if err != nil {
		_ = file.Close()
		return nil, 0, nil, fmt.Errorf("%s: %w", o.wav, err)
	}
	chain.Rate = w.Rate
	return func(into []float64) (int, error) { return w.First(into, o.full) }, float64(w.Frames) / float64(w.Rate),
		func() { _ = file.Close() }, nil
}

func (o limitOptions) print(c *cobra.Command, chain limiter.Chain, t limiter.Trace) error {
	out := c.OutOrStdout()
	fmt.Fprintf(out, "%s: %s on average into %s, peaks %s, crest %s\n", unit.Second(math.Round(t.Seconds)),
		unit.Watt(t.Watts), unit.Ohm(o.load), unit.Volt(t.Peak), unit.Decibel(t.Crest))
	for i, l := range chain.Limiters {
		most := 0.0
		for _, m := range t.Moments {
			most = max(most, m.Reduction[i])
		}
		fmt.Fprintf(out, "the %s limiter at %s turns down %s at the most\n", l.Detector, unit.Volt(l.Threshold),
			unit.Decibel(most))
	}
	_, err := fmt.Fprintf(out,
		"the coil comes to %.0f °C, the magnet to %.0f °C, by what most drivers of that rating do\n",
		t.Hottest.Coil, t.Hottest.Frame)
	return err
}
