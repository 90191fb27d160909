package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"

	"github.com/spf13/cobra"

	"largo/core/fault"
	"largo/core/finding"
	"largo/core/rig"
	"largo/core/stage"
	"largo/core/start"
	"largo/core/strike"
	"largo/core/survey"
	"largo/exchange"
)

func checkCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use:   "check FILE",
		Short: "Check a rig file: print its findings and figures",
		Long: "Check a rig file: print its findings and figures.\n\n" +
			"Exits 0 when nothing is at stop, 2 when something is, 1 when the file cannot be read.\nFILE may be - for " +
			"standard input.",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			report, err := readReport(args[0], c.InOrStdin())
			if err != nil {
				return err
			}
			if asJSON {
				err = writeJSON(c.OutOrStdout(), report)
			} else {
				err = writeText(c.OutOrStdout(), report)
			}
			if err == nil && finding.Worst(report.Findings) == finding.Stop {
				return exit{code: 2}
			}
			return err
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	return c
}

func readReport(path string, stdin io.Reader) (*survey.Report, error) {
	r, err := readRigFile(path, stdin)
	if err != nil {
		return nil, err
	}
	return survey.Survey(r), nil
}

// readRigFile reads a rig file, or standard input for "-".
func readRigFile(path string, stdin io.Reader) (rig.Rig, error) {
	in := stdin
	if path != "-" {
		f, err := os.Open(path)
		if err != nil {
			return rig.Rig{}, exit{1, err.Error()}
		}
		defer f.Close()
		in = f
	}
	r, err := exchange.ReadRig(in)
	var faults fault.List
	switch {
	case errors.As(err, &faults):
		return r, inWords(path+" cannot be read:", err)
	case err != nil:
		return r, exit{1, path + ": " + err.Error()}
	}
	return r, nil
}

func writeText(w io.Writer, p *survey.Report) error {
	out := &printer{w: w}
	out.line("%s", p.Rig().Brief.Title)
	for _, a := range p.Answers() {
		out.line("  %-8s %-5s %s", a.Stage.Title(), a.Worst, a.Says)
	}
	if len(p.Findings) == 0 {
		out.line("No findings.")
	}
	for _, alike := range finding.Alike(p.Findings) {
		out.findings(alike)
	}
	for _, place := range p.Places() {
		out.line("")
		out.line("%s", place.Name)
		for _, f := range place.Figures {
			if f.Key == "" {
				continue
			}
			out.line("  %-40s %12s   %s", f.Name, f.Text(), f.Working())
		}
	}
	for _, s := range survey.Of[start.Verdict](p).Steps {
		if s.Number == 1 {
			out.line("\nPower-up, not before the seconds given")
		}
		out.line("  %2d  %5.0f s  %-16s %s", s.Number, float64(s.At), s.Switch, s.Items[0].Look)
	}
	for _, s := range survey.Of[strike.Verdict](p).Steps {
		if s.Number == 1 {
			out.line("\nShutdown, not before the seconds given")
		}
		out.line("  %2d  %5.0f s  %-16s %s", s.Number, float64(s.At), s.Switch, s.Items[0].Look)
	}
	return out.err
}

// printer keeps the first error of many lines.
type printer struct {
	w   io.Writer
	err error
}

func (p *printer) line(format string, args ...any) {
	if p.err == nil {
		_, p.err = fmt.Fprintf(p.w, format+"\n", args...)
	}
}

// findings writes findings that say the same of different places.
func (p *printer) findings(alike []finding.Finding) {
	first := alike[0]
	p.line("")
	lead := fmt.Sprintf("%-5s %-7s ", first.Gravity, first.Danger)
	for _, f := range alike {
		p.line("%-14s%s", lead, f.What)
		lead = ""
		if len(alike) > 1 {
			p.mends(f)
		}
	}
	p.aside(first.Why)
	if len(alike) == 1 {
		p.mends(first)
	}
	p.aside(first.Advice)
	p.aside("[" + first.Code + "]")
}

func (p *printer) mends(f finding.Finding) {
	for _, m := range f.Mends {
		p.aside("mend: " + m.Label)
	}
}

// aside writes a line under a finding.
func (p *printer) aside(said string) {
	if said != "" {
		p.line("%14s%s", "", said)
	}
}

func writeJSON(w io.Writer, p *survey.Report) error {
	enc := json.NewEncoder(w)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	return enc.Encode(struct {
		Title    string            `json:"title"`
		Worst    finding.Gravity   `json:"worst"`
		Stages   []survey.Answer   `json:"stages"`
		Findings []finding.Finding `json:"findings"`
		Figures  []stage.Place     `json:"figures"`
		Start    any               `json:"start"`
		Strike   any               `json:"strike"`
	}{p.Rig().Brief.Title, finding.Worst(p.Findings), p.Answers(), p.Findings, p.Places(),
		survey.Of[start.Verdict](p).Steps, survey.Of[strike.Verdict](p).Steps})
}
