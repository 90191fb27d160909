package main

import (
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"largo/core/signal"
	"largo/core/unit"
	"largo/exchange"
)

// signalOptions are the flags of a test signal.
type signalOptions struct {
	out string
	signal.Wanted
}

func signalCommand() *cobra.Command {
	o := signalOptions{Wanted: signal.Usual}
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
	f.Float64Var(&o.Level, "level", o.Level, "rms level in dBFS")
	f.Float64Var(&o.Seconds, "seconds", o.Seconds, "how long, 0.1 to 3600")
	f.Float64Var(&o.Fade, "fade", o.Fade, "how long it rises and falls, s")
	f.Float64Var(&o.Hz, "hz", o.Hz, "frequency of a sine")
	f.Float64Var(&o.Low, "low", o.Low, "lowest frequency of a sweep or a band")
	f.Float64Var(&o.High, "high", o.High, "highest")
	f.Float64Var(&o.Crest, "crest", o.Crest, "peaks over rms of rating noise or programme, dB")
	f.Uint64Var(&o.Seed, "seed", o.Seed, "another number makes another noise")
	_ = c.MarkFlagRequired("out")
	return c
}

// write makes the signal, writes it beside the file and puts it in its place once it was
// read back alike.
func (o signalOptions) write(c *cobra.Command, kind string) error {
	o.Kind = kind
	x, levels, err := o.Make()
	if err != nil {
		return err
	}
	part := o.out + ".part"
	if err := writeAndReadBack(part, x); err != nil {
		_ = os.Remove(part)
		return err
	}
	if err := os.Rename(part, o.out); err != nil {
		_ = os.Remove(part)
		return err
	}
	_, err = fmt.Fprintf(c.OutOrStdout(), "%s: %s, %s rms, peaks %s, crest %s\n", o.out, unit.Second(o.Seconds),
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
