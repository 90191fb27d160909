package main

import (
	"fmt"
	"math"
	"os"

	"github.com/spf13/cobra"

	"largo/core/supply"
	"largo/core/unit"
	"largo/exchange"
)

func hearCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "hear FILE",
		Short: "Listen to a recording of any length: its crest, and the part of full power that it averages",
		Long: "Listen to a WAV file to its end (16, 24, 32 bits or floating point; its first channel) and print how long\n" +
			"it is, its crest, and the part of the rated sine power that it averages where its peaks just do not clip. That\n" +
			"crest goes into a brief in place of the eighth that ordinary programme is taken for.\n\n" +
			"Exits 0 with the figures, 1 where it is none, is cut off or is silent.",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			file, err := os.Open(args[0])
			if err != nil {
				return exit{1, err.Error()}
			}
			defer file.Close()
			h, err := exchange.HearWAV(file)
			if err != nil {
				return exit{1, fmt.Sprintf("%s: %s", args[0], err)}
			}
			_, err = fmt.Fprintf(c.OutOrStdout(), "%s, crest %s, %s of the rated sine power\n",
				unit.Second(math.Round(h.Seconds)), h.Crest(), unit.Ratio(supply.PartOf(h.Crest())))
			return err
		},
	}
}
