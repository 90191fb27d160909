package main

import (
	"context"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/signal"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"largo/core/thermal"
	"largo/standin"
)

// simulated is a simulated driver with its probes, from flags.
type simulated struct {
	osc, web                 string
	volts, ohms, rating, air float64
	noise, drift, speed      float64
	fault                    string
	faultAt                  time.Duration
	seed                     uint64
}

func simulateCommand() *cobra.Command {
	c := &cobra.Command{Use: "simulate",
		Short: "Stand in for devices outside: a probe on a driver that heats, a mains meter"}
	o := simulated{}
	probe := &cobra.Command{
		Use:   "probe",
		Short: "A driver that heats, with two probes and a clamp, over OSC and HTTP",
		Long: "Heat a simulated driver and answer what its probes read, as docs/probe.md says: over OSC 1.0 (UDP) and\n" +
			"over HTTP with JSON, on this machine alone. POST volts=… to the HTTP address sets the volts; so does the OSC\n" +
			"message /probe/drive. Runs until Ctrl C.",
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			ctx, stop := signal.NotifyContext(c.Context(), os.Interrupt, syscall.SIGTERM)
			defer stop()
			if err := o.run(ctx, c); err != nil {
				return exit{1, err.Error()}
			}
			return nil
		},
	}
	f := probe.Flags()
	f.StringVar(&o.osc, "osc", "127.0.0.1:9030", "address for OSC, loopback only")
	f.StringVar(&o.web, "http", "127.0.0.1:9031", "address for HTTP, loopback only")
	f.Float64Var(&o.volts, "volts", 0, "volts rms at the driver from the start")
	f.Float64Var(&o.rating, "rating", 300, "its continuous rating, W")
	f.Float64Var(&o.ohms, "ohms", 5.6, "its coil at 20 °C, Ω")
	f.Float64Var(&o.air, "air", 20, "the air around it, °C")
	f.Float64Var(&o.noise, "noise", thermal.ProbeDoubt, "of a temperature, K as a standard deviation")
	f.Float64Var(&o.drift, "drift", 0, "of the first probe, K an hour")
	f.Float64Var(&o.speed, "speed", 1, "times as fast as the clock")
	f.StringVar(&o.fault, "fault", "", "of the first probe: falls, freeze or loose")
	f.DurationVar(&o.faultAt, "fault-after", 30*time.Minute, "when it fails, by the driver's own time")
	f.Uint64Var(&o.seed, "seed", 1, "another number makes another noise")
	c.AddCommand(probe, meterCommand())
	return c
}

func (o simulated) run(ctx context.Context, c *cobra.Command) error {
	if !(o.rating > 0 && o.speed > 0 && o.noise >= 0 && o.volts >= 0 && o.volts <= 500) {
		return fmt.Errorf("rating and speed are over 0, noise not under it, volts 0 to 500")
	}
	d := &standin.Driver{Body: thermal.Beforehand(o.rating, o.ohms, thermal.Copper).Body, Air: o.air, Noise: o.noise,
		Drift: o.drift, Ratio: 1.25, Speed: o.speed, Fault: standin.Fault(o.fault), FaultAt: o.faultAt}
	if err := d.Begin(time.Now(), o.seed); err != nil {
		return err
	}
	if o.volts > 0 {
		d.Drive(time.Now(), o.volts)
	}
	web, err := listen(o.web)
	if err != nil {
		return err
	}
	defer web.Close()
	osc, err := listenOSC(o.osc)
	if err != nil {
		return err
	}
	fmt.Fprintf(c.OutOrStdout(), "A driver heats at http://%s and osc://%s (Ctrl C stops it)\n", web.Addr(),
		osc.LocalAddr())
	server := &http.Server{Handler: d, ReadHeaderTimeout: 5 * time.Second}
	stop := context.AfterFunc(ctx, func() { _ = server.Close() })
	defer stop()
	failed := make(chan error, 1)
	go func() { failed <- d.ServeOSC(ctx, osc) }()
	if err := server.Serve(web); err != nil && ctx.Err() == nil {
		return err
	}
	return <-failed
}

func listenOSC(addr string) (net.PacketConn, error) {
	host, _, err := net.SplitHostPort(addr)
	if ip := net.ParseIP(host); err != nil || ip == nil || !ip.IsLoopback() {
		return nil, fmt.Errorf("%q is no loopback address; write it as 127.0.0.1:9030", addr)
	}
	return net.ListenPacket("udp", addr)
}
