// Package storetest gives tests a real PostgreSQL: one server a test binary,
// started on first use, and one database a test.
package storetest

import (
	"context"
	"fmt"
	"os"
	"sync"
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

// names are the databases of the stores that were opened.
var names sync.Map

// Open gives a store on an empty database of its own.
func Open(t testing.TB) *store.Store {
	t.Helper()
	name := fmt.Sprintf("test_%d", databases.Add(1))
	if err := Cluster.CreateDatabase(context.Background(), name); err != nil {
		t.Fatal(err)
	}
	return OpenNamed(t, name)
}

// Beside gives a second store on the database of another, as a second server
// has.
func Beside(t testing.TB, of *store.Store) *store.Store {
	t.Helper()
	name, _ := names.Load(of)
	return OpenNamed(t, name.(string))
}

// DSN is how to reach the database of a store from outside.
func DSN(of *store.Store) string {
	name, _ := names.Load(of)
	return Cluster.DSN(name.(string))
}

// OpenNamed gives a store on a database that is there.
func OpenNamed(t testing.TB, name string) *store.Store {
	t.Helper()
	s, err := store.Open(context.Background(), Cluster.DSN(name))
	if err != nil {
		t.Fatal(err)
	}
	names.Store(s, name)
	t.Cleanup(func() { s.Close() })
	return s
}
