package main

import (
	"encoding/json"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"largo/core/sum"
)

func sumCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use:   "sum QUESTION",
		Short: "Work out a sum: 3 x 8 ohm, 500 W 8 ohm, +4 dBu",
		Long: "Work out a sum from figures with their units, in any order, and print it with its working.\n\n" +
			kindsHelp() + "\nExits 0 with an answer, 1 where the question is none.",
		Args: cobra.MinimumNArgs(1),
		// "-10 dBV" is a figure and no flag
		DisableFlagParsing: true,
		RunE: func(c *cobra.Command, args []string) error {
			var words []string
			for _, a := range args {
				switch a {
				case "--json":
					asJSON = true
				case "-h", "--help":
					return c.Help()
				default:
					words = append(words, a)
				}
			}
			return runSum(c, strings.Join(words, " "), asJSON)
		},
	}
	return c
}

func kindsHelp() string {
	var b strings.Builder
	for _, k := range sum.Kinds {
		fmt.Fprintf(&b, "  %-26s %s: %s\n", k.Example, k.Name, k.Takes)
	}
	return b.String()
}

func runSum(c *cobra.Command, question string, asJSON bool) error {
	a := sum.Of(question)
	if asJSON {
		enc := json.NewEncoder(c.OutOrStdout())
		enc.SetIndent("", "  ")
		if err := enc.Encode(a); err != nil {
			return err
		}
	} else {
		s := sum.Show(question)
		fmt.Fprintln(c.OutOrStdout(), s.Says)
		for _, l := range s.Lines {
			fmt.Fprintf(c.OutOrStdout(), "  %-44s %s\n", l.Name, l.Working)
			if l.Note != "" {
				fmt.Fprintf(c.OutOrStdout(), "  %-44s %s\n", "", l.Note)
			}
		}
	}
	if len(a.Ignored) > 0 {
		c.PrintErrf("largo: not understood: %s\n", strings.Join(a.Ignored, ", "))
	}
	if !a.Understood() {
		return exit{1, ""}
	}
	return nil
}
