// Package storetest gives tests a real PostgreSQL: one server a test binary,
// started on first use, and one database a test.
package storetest

import (
	"context"
	"fmt"
	"os"
	"sync/atomic"
	"testing"

	"largo/store"
	"largo/store/cluster"
)

// Cluster is the server of this test binary.
var Cluster *cluster.Cluster

var databases atomic.Int64

// Main runs the tests of a package with a server; call it from TestMain.
func Main(m *testing.M) {
	os.Exit(run(m))
}

func run(m *testing.M) int {
	dir, err := os.MkdirTemp("", "largo-test-")
	if err == nil {
		defer os.RemoveAll(dir)
		err = os.Chmod(dir, 0o755)
	}
	if err == nil {
		Cluster, err = cluster.Start(context.Background(), cluster.Options{Dir: dir + "/db", NoFsync: true})
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "no database for the tests:", err)
		return 1
	}
	defer Cluster.Stop()
	return m.Run()
}

// Open gives a store on an empty database of its own.
func Open(t testing.TB) *store.Store {
	t.Helper()
	ctx := context.Background()
	name := fmt.Sprintf("test_%d", databases.Add(1))
	if err := Cluster.CreateDatabase(ctx, name); err != nil {
		t.Fatal(err)
	}
	s, err := store.Open(ctx, Cluster.DSN(name))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}
