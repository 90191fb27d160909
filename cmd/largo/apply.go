package main

import (
	"errors"
	"io"
	"os"

	"github.com/spf13/cobra"

	"largo/core/fault"
	"largo/core/rig"
	"largo/exchange"
)

func applyCommand() *cobra.Command {
	var edit string
	c := &cobra.Command{
		Use:   "apply FILE --edit EDIT.json",
		Short: "Make an edit on a rig file: print the rig that comes of it",
		Long: "Make an edit on a rig file: print the rig that comes of it. The file itself stays as it is.\n\n" +
			"An edit is JSON, as the mends of `largo check --json` have it: {\"edit\": \"set pair\", \"with\": " +
			"{...}}.\nEither file may be - for standard input. Exits 1 when the edit cannot be made.",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			r, err := readRigFile(args[0], c.InOrStdin())
			if err != nil {
				return err
			}
			e, err := readEdit(edit, c.InOrStdin())
			if err != nil {
				return err
			}
			next, err := rig.Apply(r, e)
			if err != nil {
				return inWords(edit+" cannot be made:", err)
			}
			return exchange.WriteRig(c.OutOrStdout(), next)
		},
	}
	c.Flags().StringVar(&edit, "edit", "", "file of the edit")
	_ = c.MarkFlagRequired("edit")
	return c
}

// mostEdit bounds the file of an edit, in bytes: a restored rig is the largest.
const mostEdit = exchange.MostBytes + 1<<10

func readEdit(path string, stdin io.Reader) (rig.Edit, error) {
	in := stdin
	if path != "-" {
		f, err := os.Open(path)
		if err != nil {
			return nil, exit{1, err.Error()}
		}
		defer f.Close()
		in = f
	}
	b, err := io.ReadAll(io.LimitReader(in, mostEdit+1))
	if err != nil {
		return nil, err
	}
	if len(b) > mostEdit {
		return nil, exit{1, path + ": " + exchange.ErrTooBig.Error()}
	}
	e, err := rig.UnmarshalEdit(b)
	if err != nil {
		return nil, inWords(path+" cannot be read:", err)
	}
	return e, nil
}

// inWords is an error with all its faults, a line each.
func inWords(head string, err error) error {
	var faults fault.List
	if !errors.As(err, &faults) {
		return exit{1, head + " " + err.Error()}
	}
	for _, f := range faults {
		head += "\n  " + f.Say
		if f.Field != "" {
			head += " (" + f.Field + ")"
		}
	}
	return exit{1, head}
}
