package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"largo/core/gear"
	"largo/core/load"
	"largo/core/plan"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/unit"
	"largo/exchange"
)

type matchOptions struct {
	mps, stock, gear, aim, circuits string
	margin                          float64
	spare                           int
	noMirrors, asJSON               bool
	limit                           time.Duration
}

func matchCommand() *cobra.Command {
	var o matchOptions
	c := &cobra.Command{
		Use:   "match FILE",
		Short: "Find the best amplifiers for the boxes of a rig file",
		Long: "Find the best amplifiers for the boxes of a rig file, under the power policy and the bridging school that " +
			"it names:\n" +
			"from the amplifiers in the rig and, with --stock and --gear, from those owned.\n\n" +
			"Exits 0 with a plan, 2 when there is none, 1 when a file cannot be read. FILE may be - for standard input.",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error { return runMatch(c, args[0], o) },
	}
	f := c.Flags()
	f.StringVar(&o.mps, "mps", "", "write the problem to this file as free MPS, for any solver")
	f.BoolVar(&o.asJSON, "json", false, "print the plan as JSON")
	f.StringVar(&o.aim, "aim", string(plan.Fewest), "what to make best: "+joinAims())
	f.StringVar(&o.stock, "stock", "", "a stock list, CSV or XLSX")
	f.StringVar(&o.gear, "gear", "", "a file of models, JSON, that the stock list names")
	f.Float64Var(&o.margin, "margin", 0, "how far loads stay over the least, as 0.25")
	f.IntVar(&o.spare, "spare", 0, "amplifiers of each model to leave in the truck")
	f.StringVar(&o.circuits, "circuits", "", "what each circuit may carry in A, as 16,16")
	f.BoolVar(&o.noMirrors, "no-mirrors", false, "left may be driven otherwise than right")
	f.DurationVar(&o.limit, "limit", time.Minute, "time after which the best plan so far counts")
	return c
}

func joinAims() string {
	names := make([]string, len(plan.Aims))
	for i, a := range plan.Aims {
		names[i] = string(a)
	}
	return strings.Join(names, ", ")
}

func runMatch(c *cobra.Command, path string, o matchOptions) error {
	ctx := c.Context()
	if ctx == nil {
		ctx = context.Background()
	}
	report, err := readReport(path, c.InOrStdin())
	if err != nil {
		return err
	}
	aim := plan.Aim(o.aim)
	if !slices.Contains(plan.Aims, aim) {
		return exit{1, fmt.Sprintf("%q is no aim; choose one of: %s", o.aim, joinAims())}
	}
	w, owned, err := o.wishes(report.Rig())
	if err != nil {
		return err
	}
	x := report.Index
	outs := load.Outputs(x)
	groups, left := plan.GroupsOf(x, outs, w)
	if len(groups) == 0 {
		say := "there is no box to plan for"
		for _, l := range left {
			say += "\n  left out: " + l.Box + ": " + l.Why
		}
		return exit{2, say}
	}
	amps := plan.AmpsOf(x, outs, owned, nil, w)
	p := plan.NewProblem(groups, amps, w)
	p.Leads = plan.SpareLeads(x, owned)
	if o.mps != "" {
		if err := writeMPS(o.mps, p, aim); err != nil {
			return exit{1, err.Error()}
		}
	}
	ctx, stop := signal.NotifyContext(ctx, os.Interrupt)
	defer stop()
	ctx, cancel := context.WithTimeout(ctx, o.limit)
	defer cancel()
	solved, answer := p.Best(ctx, aim, nil)
	best := solved.Plan(x, answer)
	if best.X == nil {
		return noPlan(c.OutOrStdout(), ctx, report, p, best)
	}
	if o.asJSON {
		return planJSON(c.OutOrStdout(), best, left)
	}
	if err := planText(c.OutOrStdout(), best, left); err != nil {
		return err
	}
	return othersText(c.OutOrStdout(), best, solved.Others(ctx, answer, 3), x)
}

func (o matchOptions) wishes(r rig.Rig) (plan.Wishes, []gear.Holding, error) {
	w := plan.WishesOf(r)
	w.Margin, w.Spare, w.Mirrors = unit.Ratio(o.margin), o.spare, !o.noMirrors
	for part := range strings.SplitSeq(o.circuits, ",") {
		if strings.TrimSpace(part) == "" {
			continue
		}
		a, err := unit.ParseAmpere(part)
		if err != nil {
			return w, nil, exit{1, "--circuits: " + err.Error()}
		}
		w.Circuits = append(w.Circuits, a)
	}
	if o.stock == "" {
		return w, nil, nil
	}
	held, err := readStock(o.stock, o.gear)
	return w, held, err
}

func readStock(stock, models string) ([]gear.Holding, error) {
	if models == "" {
		return nil, exit{1, "--stock names models by their ids; give the file of models with --gear"}
	}
	g, err := os.Open(models)
	if err != nil {
		return nil, exit{1, err.Error()}
	}
	defer g.Close()
	known, err := exchange.ReadGear(g)
	if err != nil {
		return nil, exit{1, models + ": " + err.Error()}
	}
	s, err := os.Open(stock)
	if err != nil {
		return nil, exit{1, err.Error()}
	}
	defer s.Close()
	held, err := exchange.ReadStock(s, known)
	if err != nil {
		return nil, exit{1, stock + ": " + err.Error()}
	}
	return held, nil
}

func writeMPS(path string, p plan.Problem, aim plan.Aim) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	return errors.Join(exchange.WriteMPS(f, p.Judged(aim), "made least: "+string(aim)+
		", the second aim scaled below one step of the first"), f.Close())
}

func noPlan(out io.Writer, ctx context.Context, report *survey.Report, p plan.Problem, best plan.Plan) error {
	if !best.Proved {
		return exit{2, "no plan was found in the time given, and it is not proved that there is none"}
	}
	say := "no choice of these amplifiers drives all boxes as wished; this is proved"
	for _, why := range p.Unsuited() {
		say += "\n  " + why
	}
	build := func(w plan.Wishes, amps []plan.Stocked) plan.Problem {
		groups, _ := plan.GroupsOf(report.Index, load.Outputs(report.Index), w)
		return plan.NewProblem(groups, amps, w)
	}
	for _, set := range plan.GiveUp(ctx, p.Wishes, p.Amps, build) {
		say += "\n  there is one without: " + strings.Join(set, ", and ")
	}
	return exit{2, say}
}

func planText(w io.Writer, p plan.Plan, left []plan.Left) error {
	out := &printer{w: w}
	t := p.Totals
	out.line("%d amplifiers, %s, %s on ordinary music, least power %.2f times the rating; %s: %s", t.Amplifiers,
		t.Weight, t.Draw, t.Ratio, p.Aim, p.Off())
	for _, said := range p.Says() {
		out.line("%s", said)
	}
	for _, a := range p.Amps {
		note := ""
		if a.New {
			note = " (not in the rig yet)"
		}
		out.line("\n%s  %s%s", a.Tag, a.Model.Title(), note)
		for _, o := range a.Outputs {
			out.line("  %-9s %-9s %-8s %-8s %.2f times  %s", o.Port, o.Mode, o.Load, o.Power, o.Ratio,
				strings.Join(o.Hung(), ", "))
		}
	}
	for _, l := range left {
		out.line("\nleft out: %s: %s", l.Box, l.Why)
	}
	return out.err
}

// othersText names the next plans by the same aim that take other amplifiers, and
// what stays in the truck as a spare.
func othersText(w io.Writer, best plan.Plan, others []plan.Answer, x *rig.Index) error {
	out := &printer{w: w}
	for _, said := range best.Covers() {
		out.line("\n%s", said)
	}
	for i, a := range others {
		if i == 0 {
			out.line("\nother sound plans:")
		}
		out.line("  %s", best.Problem.Plan(x, a).Text())
	}
	return out.err
}

func planJSON(w io.Writer, p plan.Plan, left []plan.Left) error {
	type output struct {
		Port  string    `json:"port"`
		Mode  gear.Mode `json:"mode"`
		Boxes []string  `json:"boxes"`
		Way   string    `json:"way,omitempty"`
		Load  unit.Ohm  `json:"load"`
		Power unit.Watt `json:"power"`
		Ratio float64   `json:"ratio"`
		Feed  string    `json:"feed,omitempty"`
	}
	type amplifier struct {
		Tag     string   `json:"tag"`
		Model   string   `json:"model"`
		New     bool     `json:"new,omitempty"`
		Hired   bool     `json:"hired,omitempty"`
		Outputs []output `json:"outputs"`
	}
	amps := []amplifier{}
	for _, a := range p.Amps {
		amp := amplifier{Tag: a.Tag, Model: a.Model.ID, New: a.New, Hired: a.Hired, Outputs: []output{}}
		for _, o := range a.Outputs {
			feed := ""
			if o.Feed.Port != "" {
				feed = o.Feed.String()
			}
			amp.Outputs = append(amp.Outputs, output{o.Port, o.Mode, o.Tags, o.Way, o.Load, o.Power, o.Ratio, feed})
		}
		amps = append(amps, amp)
	}
	enc := json.NewEncoder(w)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	return enc.Encode(struct {
		Aim        plan.Aim      `json:"aim"`
		Proved     bool          `json:"proved"`
		Gap        float64       `json:"gap"`
		Amplifiers int           `json:"amplifiers"`
		Weight     unit.Kilogram `json:"weight"`
		Draw       unit.Ampere   `json:"draw"`
		Hire       unit.Money    `json:"hire"`
		Bridged    int           `json:"bridged"`
		Ratio      float64       `json:"ratio"`
		Plan       []amplifier   `json:"plan"`
		Leads      plan.Dealt    `json:"leads"` // how boxes share outputs, by their leads
		Says       []string      `json:"says"`
		Left       []plan.Left   `json:"left,omitempty"`
	}{p.Aim, p.Proved, min(p.Gap, 1e9), p.Totals.Amplifiers, p.Totals.Weight, p.Totals.Draw, p.Totals.Hire,
		p.Totals.Bridged, p.Totals.Ratio, amps, p.Dealt, p.Says(), left})
}
