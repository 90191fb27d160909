package main

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/signal"
	"path/filepath"
	"sync"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"largo/demo/tour"
	"largo/store"
	"largo/store/cluster"
	"largo/web"
)

// settings of the server, from flags and environment; flags win.
type settings struct {
	addr     string
	data     string // folder of the project's own cluster
	database string // URL of a database kept by somebody else
	logLevel string
	tour     bool // load the demo tour into an empty database
}

func serveCommand(use, short string, tour bool) *cobra.Command {
	s := settings{tour: tour}
	c := &cobra.Command{
		Use:   use,
		Short: short,
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			ctx, stop := signal.NotifyContext(c.Context(), os.Interrupt, syscall.SIGTERM, syscall.SIGHUP)
			defer stop()
			return s.run(ctx, c.OutOrStdout())
		},
	}
	f := c.Flags()
	f.StringVar(&s.addr, "addr", orDefault("LARGO_ADDR", "127.0.0.1:8035"),
		"address to serve on; loopback only (LARGO_ADDR)")
	f.StringVar(&s.data, "data", orDefault("LARGO_DATA", ".largo"), "folder of the database cluster (LARGO_DATA)")
	f.StringVar(&s.database, "database", os.Getenv("LARGO_DATABASE"),
		"URL of a PostgreSQL database to use instead of a cluster of our own (LARGO_DATABASE)")
	f.StringVar(&s.logLevel, "log", orDefault("LARGO_LOG", "warn"), "debug, info, warn or error (LARGO_LOG)")
	return c
}

func orDefault(name, usual string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return usual
}

// run serves until the context ends, then lets open requests finish and stops
// what it started, in that order.
func (s settings) run(ctx context.Context, out io.Writer) error {
	var level slog.Level
	if err := level.UnmarshalText([]byte(s.logLevel)); err != nil {
		return exit{1, fmt.Sprintf("%q is not a log level", s.logLevel)}
	}
	log := slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: level}))
	listener, err := listen(s.addr)
	if err != nil {
		return err
	}
	defer listener.Close()
	var options []web.Option
	dsn := s.database
	if dsn == "" {
		db, err := cluster.Start(ctx, cluster.Options{Dir: dataFolder(s.data), Log: log})
		if err != nil {
			return exit{1, err.Error()}
		}
		defer func() {
			if err := db.Stop(); err != nil {
				log.Error("stopping the database", "error", err)
			}
		}()
		if err := db.CreateDatabase(ctx, databaseName); err != nil {
			return err
		}
		dsn, options = db.DSN(databaseName), append(options, web.WithDatabase(db.State))
	}
	st, err := store.Open(ctx, dsn)
	if err != nil {
		return err
	}
	defer st.Close()
	if s.tour {
		if err := tour.Load(ctx, st); err != nil {
			return fmt.Errorf("loading the demo tour: %w", err)
		}
	}
	site, err := web.New(st, log, options...)
	if err != nil {
		return err
	}
	beside, end := context.WithCancel(ctx)
	var all sync.WaitGroup
	all.Go(func() { site.Run(beside) })
	defer all.Wait()
	defer end()
	fmt.Fprintf(out, "Largo is at http://%s (Ctrl C stops it)\n", listener.Addr())
	return serveUntil(ctx, listener, site, site.EndStreams)
}

// databaseName is the database within the cluster.
const databaseName = "largo"

// dataFolder is where the cluster lies: the folder asked for, or, where root
// asks for one that the database's own user cannot reach (a home is closed to
// others), one of its own under /var/lib.
func dataFolder(asked string) string {
	abs, err := filepath.Abs(asked)
	if err != nil || os.Geteuid() != 0 {
		return asked
	}
	if _, ok := cluster.Reachable(abs); ok {
		return abs
	}
	sum := sha256.Sum256([]byte(abs))
	return filepath.Join("/var/lib/largo", hex.EncodeToString(sum[:6]))
}

// listen refuses any address but loopback: there are no accounts yet.
func listen(addr string) (net.Listener, error) {
	host, _, err := net.SplitHostPort(addr)
	if err != nil {
		return nil, exit{1, fmt.Sprintf("%q is not an address; write it as 127.0.0.1:8035", addr)}
	}
	if ip := net.ParseIP(host); host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return nil, exit{1, fmt.Sprintf("Largo serves this machine alone, as it has no accounts yet; %s is not a "+
			"loopback address", host)}
	}
	l, err := net.Listen("tcp", addr)
	if errors.Is(err, syscall.EADDRINUSE) {
		return nil, exit{1, fmt.Sprintf("%s is taken, perhaps by another Largo; choose another with --addr", addr)}
	}
	return l, err
}

// serveUntil serves until the context ends. Then ending is called, by which
// open streams end, and all other requests are answered.
func serveUntil(ctx context.Context, l net.Listener, h http.Handler, ending func()) error {
	srv := &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second, ReadTimeout: time.Minute,
		WriteTimeout: time.Minute, IdleTimeout: 2 * time.Minute}
	srv.RegisterOnShutdown(ending)
	failed := make(chan error, 1)
	go func() { failed <- srv.Serve(l) }()
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	grace, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
	defer cancel()
	if err := srv.Shutdown(grace); !errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	slog.Warn("a request was not answered within 10 s of the end, and is cut off")
	return srv.Close()
}
