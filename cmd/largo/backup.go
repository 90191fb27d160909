package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"maps"
	"os"
	"os/signal"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"largo/store"
	"largo/store/cluster"
)

func backupCommand() *cobra.Command {
	var at place
	var replace bool
	c := &cobra.Command{
		Use:   "backup FILE",
		Short: "Copy all jobs with their history, the library and the stock into one file",
		Long: "Copy all jobs with their history, the library with its curves, and the stock into one file.\n\n" +
			"A running Largo goes on meanwhile. The file is written whole or not at all; FILE may be - for standard output.",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			return at.with(c.Context(), func(ctx context.Context, st *store.Store) error {
				return backup(ctx, st, args[0], replace, c.OutOrStdout(), c.ErrOrStderr())
			})
		},
	}
	at.flags(c)
	c.Flags().BoolVar(&replace, "replace", false, "write over a file that is there already")
	return c
}

func backup(ctx context.Context, st *store.Store, path string, replace bool, out, aside io.Writer) error {
	if path == "-" {
		rows, err := st.Backup(ctx, out)
		if err == nil {
			fmt.Fprintf(aside, "%d rows copied.\n", rows)
			err = st.NoteBackup(ctx, path)
		}
		return err
	}
	if _, err := os.Stat(path); err == nil && !replace {
		return exit{1, path + " is there already; choose another name, or write over it with --replace"}
	}
	// beside its place first, so that a backup that breaks off leaves the last one whole
	f, err := os.CreateTemp(filepath.Dir(path), ".largo-backup-")
	if err != nil {
		return exit{1, err.Error()}
	}
	defer os.Remove(f.Name())
	defer f.Close()
	rows, err := st.Backup(ctx, f)
	if err == nil {
		err = errors.Join(f.Sync(), f.Close())
	}
	if err == nil {
		err = os.Rename(f.Name(), path)
	}
	if err != nil {
		return exit{1, "No backup was made: " + err.Error()}
	}
	fmt.Fprintf(out, "%s: %d rows copied. Keep it on another machine.\n", path, rows)
	return st.NoteBackup(ctx, path)
}

func restoreCommand() *cobra.Command {
	var at place
	var replace bool
	c := &cobra.Command{
		Use:   "restore FILE",
		Short: "Bring a backup back into an empty database",
		Long: "Bring a backup back into an empty database: all of it, or nothing.\n\n" +
			"Where something is kept already it is refused, unless --replace says that all of that may be thrown away.",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			in := c.InOrStdin()
			if args[0] != "-" {
				f, err := os.Open(args[0])
				if err != nil {
					return exit{1, err.Error()}
				}
				defer f.Close()
				in = f
			}
			return at.with(c.Context(), func(ctx context.Context, st *store.Store) error {
				done, err := st.Restore(ctx, in, replace)
				if errors.Is(err, store.ErrNotEmpty) {
					return exit{1, err.Error() + ". With --replace it is thrown away first"}
				} else if err != nil {
					return exit{1, err.Error()}
				}
				fmt.Fprintf(c.OutOrStdout(), "Restored what was kept on %s:\n",
					done.At.Local().Format("2 January 2006 at 15:04:05"))
				for _, table := range slices.Sorted(maps.Keys(done.Rows)) {
					fmt.Fprintf(c.OutOrStdout(), "  %6d %s\n", done.Rows[table], strings.ReplaceAll(table, "_", " "))
				}
				return nil
			})
		},
	}
	at.flags(c)
	c.Flags().BoolVar(&replace, "replace", false, "throw away what is kept there now")
	return c
}

// place is where a database lies, as the flags of a command say.
type place struct{ data, database string }

func (p *place) flags(c *cobra.Command) {
	c.Flags().StringVar(&p.data, "data", orDefault("LARGO_DATA", ".largo"), "folder of the database cluster (LARGO_DATA)")
	c.Flags().StringVar(&p.database, "database", os.Getenv("LARGO_DATABASE"),
		"URL of a PostgreSQL database to use instead of a cluster of our own (LARGO_DATABASE)")
}

// with opens the database, of a running Largo or of one started for the
// purpose, and closes it again.
func (p *place) with(ctx context.Context, act func(context.Context, *store.Store) error) error {
	if ctx == nil {
		ctx = context.Background()
	}
	ctx, stop := signal.NotifyContext(ctx, os.Interrupt, syscall.SIGTERM)
	defer stop()
	dsn := p.database
	if dsn == "" {
		db, err := cluster.Start(ctx, cluster.Options{Dir: dataFolder(p.data), Log: slog.New(slog.DiscardHandler)})
		switch {
		case errors.Is(err, cluster.ErrInUse):
			if dsn, err = cluster.Running(dataFolder(p.data), databaseName); err != nil {
				return exit{1, err.Error()}
			}
		case err != nil:
			return exit{1, err.Error()}
		default:
			defer func() { _ = db.Stop() }()
			if err := db.CreateDatabase(ctx, databaseName); err != nil {
				return err
			}
			dsn = db.DSN(databaseName)
		}
	}
	opening, cancel := context.WithTimeout(ctx, time.Minute)
	defer cancel()
	st, err := store.Open(opening, dsn)
	if err != nil {
		return exit{1, err.Error()}
	}
	defer st.Close()
	return act(ctx, st)
}
