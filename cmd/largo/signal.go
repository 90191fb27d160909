package main

import (
	"fmt"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"largo/core/signal"
	"largo/core/unit"
	"largo/exchange"
)

// signalOptions are the flags of a test signal.
type signalOptions struct {
	out           string
	level, crest  float64
	seconds, fade float64
	hz, low, high float64
	seed          uint64
}

var signalKinds = []string{"sine", "sweep", "pink", "rating", "programme"}

func signalCommand() *cobra.Command {
	o := signalOptions{}
	c := &cobra.Command{
		Use:   "signal KIND --out FILE",
		Short: "Write a test signal as WAV: sine, sweep, pink noise, rating noise, programme-like noise",
		Long: "Write a test signal as a WAV file of 24 bits at 48 kHz, one channel.\n\n" +
			"  sine    of one frequency, --hz\n" +
			"  sweep   from --low to --high, each octave in the same time\n" +
			"  pink    noise of equal power in each octave\n" +
			"  rating  pink noise from --low to --high, 12 dB an octave, its peaks cut to --crest over its rms\n" +
			"  programme  noise that goes loud and soft, of a chosen --crest\n\n" +
			"The level is rms in dBFS by AES17: a sine of full scale is 0. It begins and ends in a fade. Turn everything\n" +
			"down before it is played: a tweeter stands a sine far shorter than music.\n\n" +
			"Exits 0 when the file is written and was read back alike, 1 where it cannot be.",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			if err := o.write(c, args[0]); err != nil {
				return exit{1, err.Error()}
			}
			return nil
		},
	}
	f := c.Flags()
	f.StringVar(&o.out, "out", "", "the file to write")
	f.Float64Var(&o.level, "level", -20, "rms level in dBFS")
	f.Float64Var(&o.seconds, "seconds", 30, "how long, 0.1 to 3600")
	f.Float64Var(&o.fade, "fade", 0.5, "how long it rises and falls, s")
	f.Float64Var(&o.hz, "hz", 1000, "frequency of a sine")
	f.Float64Var(&o.low, "low", 40, "lowest frequency of a sweep or a band")
	f.Float64Var(&o.high, "high", 400, "highest")
	f.Float64Var(&o.crest, "crest", 6, "peaks over rms of rating noise or programme, dB")
	f.Uint64Var(&o.seed, "seed", 1, "another number makes another noise")
	_ = c.MarkFlagRequired("out")
	return c
}

// check faults what no signal can be.
func (o signalOptions) check(kind string) error {
	inBand := func(hz float64) bool { return hz >= 10 && hz <= 20000 }
	switch {
	case !slices.Contains(signalKinds, kind):
		return fmt.Errorf("%.30q is no signal; it is one of %s", kind, strings.Join(signalKinds, ", "))
	case !(o.seconds >= 0.1 && o.seconds <= float64(signal.Longest)):
		return fmt.Errorf("a signal of %g s cannot be made: 0.1 to %g s", o.seconds, float64(signal.Longest))
	case !(o.level <= 0 && o.level >= -120):
		return fmt.Errorf("a level of %g dBFS cannot be right: -120 to 0", o.level)
	case kind == "sine" && !inBand(o.hz):
		return fmt.Errorf("a sine of %g Hz cannot be played: 10 to 20000 Hz", o.hz)
	case (kind == "sweep" || kind == "rating") && !(inBand(o.low) && inBand(o.high) && o.low < o.high):
		return fmt.Errorf("from %g to %g Hz is no band: it rises, within 10 to 20000 Hz", o.low, o.high)
	case (kind == "rating" || kind == "programme") && !(o.crest >= 3 && o.crest <= 20):
		return fmt.Errorf("a crest of %g dB cannot be right: 3 to 20", o.crest)
	case !(o.fade >= 0 && o.fade <= o.seconds/2):
		return fmt.Errorf("a fade of %g s does not fit into %g s twice", o.fade, o.seconds)
	}
	return nil
}

func (o signalOptions) make(kind string) []float64 {
	length := unit.Second(o.seconds)
	switch kind {
	case "sine":
		return signal.Sine(unit.Hertz(o.hz), length)
	case "sweep":
		return signal.Sweep(unit.Hertz(o.low), unit.Hertz(o.high), length)
	case "pink":
		return signal.Pink(o.seed, length)
	case "programme":
		return signal.Programme(o.seed, length, unit.Decibel(o.crest))
	}
	return signal.Crest(signal.Band(signal.Pink(o.seed, length), unit.Hertz(o.low), unit.Hertz(o.high)),
		unit.Decibel(o.crest))
}

// write makes the signal, writes it beside the file and puts it in its place once it was
// read back alike.
func (o signalOptions) write(c *cobra.Command, kind string) error {
	if err := o.check(kind); err != nil {
		return err
	}
	x, err := signal.At(o.make(kind), unit.Decibel(o.level))
	if err != nil {
		return err
	}
	levels := signal.Measure(x)
	part := o.out + ".part"
	if err := writeAndReadBack(part, signal.Fade(x, unit.Second(o.fade))); err != nil {
		_ = os.Remove(part)
		return err
	}
	if err := os.Rename(part, o.out); err != nil {
		_ = os.Remove(part)
		return err
	}
	_, err = fmt.Fprintf(c.OutOrStdout(), "%s: %s, %s rms, peaks %s, crest %s\n", o.out, unit.Second(o.seconds),
		levels.RMS.String()+"FS", levels.Peak.String()+"FS", levels.Crest)
	return err
}

func writeAndReadBack(path string, x []float64) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	if err := exchange.WriteWAV(f, signal.Rate, x); err != nil {
		_ = f.Close()
		return err
	}
	if err := f.Close(); err != nil {
		return err
	}
	back, err := os.Open(path)
	if err != nil {
		return err
	}
	defer func() { _ = back.Close() }()
	w, err := exchange.ReadWAV(back)
	if err != nil {
		return err
	}
	if len(w.Channels) != 1 || len(w.Channels[0]) != len(x) {
		return fmt.Errorf("what was written to %s is not what is read from it", path)
	}
	for i, v := range w.Channels[0] {
		if d := v - x[i]; d > 1e-6 || d < -1e-6 {
			return fmt.Errorf("sample %d of %s is read as another than was written", i, path)
		}
	}
	return nil
}
