package main

import (
	"context"
	"fmt"
	"net/http"
	"os"
	"os/signal"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"largo/standin"
)

// meterCommand is a simulated mains meter.
func meterCommand() *cobra.Command {
	m := &standin.Meter{}
	var web, fault string
	var circuits []string
	c := &cobra.Command{
		Use:   "meter",
		Short: "A mains meter on several circuits, over HTTP",
		Long: "Answer volts, amperes and hertz of circuits as JSON, on this machine alone, as docs/feed.md says. Each\n" +
			"--circuit is its name, the ohms behind it and the amperes that flow, as L1:0.4:6. POST circuit=… and\n" +
			"amperes=… sets what flows. Runs until Ctrl C.",
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			ctx, stop := signal.NotifyContext(c.Context(), os.Interrupt, syscall.SIGTERM)
			defer stop()
			m.Fault = standin.MeterFault(fault)
			if err := serveMeter(ctx, c, m, web, circuits); err != nil {
				return exit{1, err.Error()}
			}
			return nil
		},
	}
	f := c.Flags()
	f.StringVar(&web, "http", "127.0.0.1:9032", "address, loopback only")
	f.StringArrayVar(&circuits, "circuit", []string{"L1:0.4:0", "L2:0.4:0", "L3:0.6:0"}, "name:ohms:amperes")
	f.Float64Var(&m.Volts, "volts", 230, "of the source, at rest")
	f.Float64Var(&m.Hertz, "hertz", 50, "of the source")
	f.Float64Var(&m.Noise, "noise", 0.2, "V, as a standard deviation")
	f.Float64Var(&m.Wander, "wander", 1, "V, slowly up and down")
	f.StringVar(&fault, "fault", "", "nonsense, late or mad")
	return c
}

func serveMeter(ctx context.Context, c *cobra.Command, m *standin.Meter, address string, circuits []string) error {
	for _, text := range circuits {
		name, rest, _ := strings.Cut(text, ":")
		ohms, amps, _ := strings.Cut(rest, ":")
		z, err1 := strconv.ParseFloat(ohms, 64)
		a, err2 := strconv.ParseFloat(amps, 64)
		if name == "" || err1 != nil || err2 != nil || !(z >= 0 && z < 100 && a >= 0 && a <= 2000) {
			return fmt.Errorf("%.60q: write a circuit as L1:0.4:6, its name, ohms and amperes", text)
		}
		m.Add(name, z, a)
	}
	web, err := listen(address)
	if err != nil {
		return err
	}
	fmt.Fprintf(c.OutOrStdout(), "A meter reads at http://%s (Ctrl C stops it)\n", web.Addr())
	server := &http.Server{Handler: m, ReadHeaderTimeout: 5 * time.Second}
	stop := context.AfterFunc(ctx, func() { _ = server.Close() })
	defer stop()
	if err := server.Serve(web); err != nil && ctx.Err() == nil {
		return err
	}
	return nil
}
