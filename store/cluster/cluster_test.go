package cluster

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
)

func start(t *testing.T) *Cluster {
	t.Helper()
	dir, err := os.MkdirTemp("", "largo-cluster-")
	if err == nil {
		err = os.Chmod(dir, 0o755)
	}
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { os.RemoveAll(dir) })
	c, err := Start(context.Background(), Options{Dir: filepath.Join(dir, "db"), NoFsync: true})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = c.Stop() })
	return c
}

func answers(c *Cluster) bool {
	ctx, cancel := context.WithTimeout(context.Background(), time.Second)
	defer cancel()
	conn, err := pgx.Connect(ctx, c.DSN("postgres"))
	if err != nil {
		return false
	}
	return conn.Close(ctx) == nil
}

func until(t *testing.T, what string, so func() bool) {
	t.Helper()
	for range 400 {
		if so() {
			return
		}
		time.Sleep(50 * time.Millisecond)
	}
	t.Fatalf("%s: not within 20 s", what)
}

// A server that ends by itself, or is killed outright, is started again on the
// same port; meanwhile it is said what happens. Stopped, it stays stopped.
func TestADeadServerIsStartedAgain(t *testing.T) {
	c := start(t)
	port := c.Port
	for _, s := range []syscall.Signal{syscall.SIGKILL, syscall.SIGQUIT, syscall.SIGTERM} {
		first := c.Process()
		if err := syscall.Kill(first, s); err != nil {
			t.Fatal(err)
		}
		until(t, "it is said that it ended", func() bool {
			return strings.Contains(c.State(), "being started again") || c.Process() != first && c.Process() != 0
		})
		until(t, "another server", func() bool { return c.Process() != first && c.Process() != 0 && answers(c) })
		until(t, "all is well", func() bool { return c.State() == "" })
	}
	if c.Port != port {
		t.Errorf("it came back on another port, %d", c.Port)
	}
	if err := c.Stop(); err != nil {
		t.Fatal(err)
	}
	time.Sleep(3 * leastPause)
	if c.Process() != 0 || answers(c) {
		t.Error("stopped, it was started again")
	}
}

// The binaries of the version that made the cluster are used where several are
// installed, and a missing one is named.
func TestTheVersionThatMadeTheCluster(t *testing.T) {
	defer func(before string) { binaries = before }(binaries)
	binaries = t.TempDir()
	for _, v := range []string{"13", "15", "9.6"} {
		bin := filepath.Join(binaries, v, "bin")
		if err := os.MkdirAll(bin, 0o755); err != nil {
			t.Fatal(err)
		}
		for _, name := range []string{"postgres", "initdb"} {
			if err := os.WriteFile(filepath.Join(bin, name), nil, 0o755); err != nil {
				t.Fatal(err)
			}
		}
	}
	data := t.TempDir()
	if bin, err := findBinaries(data); err != nil || bin != filepath.Join(binaries, "15", "bin") {
		t.Errorf("a new cluster is made by %s, %v", bin, err)
	}
	made := func(version string) {
		if err := os.WriteFile(filepath.Join(data, "PG_VERSION"), []byte(version+"\n"), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	made("13")
	if bin, err := findBinaries(data); err != nil || bin != filepath.Join(binaries, "13", "bin") {
		t.Errorf("a cluster of 13 is run by %s, %v", bin, err)
	}
	made("17")
	if _, err := findBinaries(data); err == nil || !strings.Contains(err.Error(), "PostgreSQL 17") ||
		!strings.Contains(err.Error(), "15, 13, 9.6 is") {
		t.Errorf("a missing version: %v", err)
	}
}

func TestAFullDiskIsNamed(t *testing.T) {
	full := errors.New(`the database did not start: FATAL:  could not write lock file "postmaster.pid": ` +
		`No space left on device`)
	if said := whyNot(full, time.Second); !strings.Contains(said, "disk is full") {
		t.Error(said)
	}
	if said := whyNot(errors.New("anything else"), time.Second); strings.Contains(said, "disk") {
		t.Error(said)
	}
}

// Another process reaches a running cluster by its folder.
func TestRunning(t *testing.T) {
	c := start(t)
	dsn, err := Running(c.dir, "postgres")
	if err != nil || dsn != c.DSN("postgres") {
		t.Errorf("%q, %v", dsn, err)
	}
	if _, err := Running(t.TempDir(), "postgres"); err == nil {
		t.Error("a cluster in an empty folder")
	}
	if _, err := Start(context.Background(), Options{Dir: c.dir}); !errors.Is(err, ErrInUse) {
		t.Errorf("a second one in the same folder: %v", err)
	}
}
