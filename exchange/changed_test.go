package exchange_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"runtime"
	"sort"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"largo/core/survey"
	"largo/exchange"
)

// The rigs of the demo are changed field by field: whatever stands anywhere in
// a rig file, reading it ends in a sentence or in a rig that can be surveyed
// and written again, soon, and without a panic.

// instances is how many places of one sort are changed, in all rigs together: with
// LARGO_ALL_CHANGES set, every one.
func instances() int {
	if os.Getenv("LARGO_ALL_CHANGES") != "" {
		return math.MaxInt
	}
	return 1
}

// strange is what is put in place of a field; changeMissing takes it out.
var strange = []any{nil, changeMissing{}, "", 0, -1, 1e300, 4000000000, []any{}, map[string]any{}, true, []any{nil},
	"\u202e", strings.Repeat("x", 5000),
	map[string]any{"value": 1, "from": strings.Repeat("y", 5000)}, 0.5, "unbekannt"}

type changeMissing struct{}

// spot is a place in a JSON document: its keys and indices.
type spot []any

// sort is a spot with all indices alike.
func (s spot) sort() string {
	parts := make([]string, len(s))
	for i, k := range s {
		if name, ok := k.(string); ok {
			parts[i] = name
		} else {
			parts[i] = "[]"
		}
	}
	return strings.Join(parts, ".")
}

// spotsOf lists every place in a document, at most some of one sort, with those seen before.
func spotsOf(doc any, most int, seen map[string]int) []spot {
	var all []spot
	var walk func(at any, here spot)
	visit := func(v any, next spot) {
		next = append(spot(nil), next...)
		if seen[next.sort()]++; seen[next.sort()] <= most {
			all = append(all, next)
		}
		walk(v, next)
	}
	walk = func(at any, here spot) {
		switch v := at.(type) {
		case map[string]any:
			keys := make([]string, 0, len(v))
			for k := range v {
				keys = append(keys, k)
			}
			sort.Strings(keys)
			for _, k := range keys {
				visit(v[k], append(here, k))
			}
		case []any:
			for i := range v {
				visit(v[i], append(here, i))
			}
		}
	}
	walk(doc, nil)
	return all
}

// changed is a document with another value at one place; what lies beside the
// way to it is shared with the old one.
func changed(doc any, at spot, to any) any {
	if len(at) == 0 {
		return to
	}
	switch v := doc.(type) {
	case map[string]any:
		next := make(map[string]any, len(v))
		for k, x := range v {
			next[k] = x
		}
		k := at[0].(string)
		if _, missing := to.(changeMissing); missing && len(at) == 1 {
			delete(next, k)
		} else {
			next[k] = changed(v[k], at[1:], to)
		}
		return next
	case []any:
		i := at[0].(int)
		next := append([]any(nil), v...)
		if _, missing := to.(changeMissing); missing && len(at) == 1 {
			return append(next[:i], next[i+1:]...)
		}
		next[i] = changed(v[i], at[1:], to)
		return next
	}
	return doc
}

func TestRigsChangedFieldByField(t *testing.T) {
	type change struct {
		doc any
		at  spot
		to  any
	}
	work := make(chan change, 64)
	var tried, read atomic.Int64
	var all sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		all.Go(func() {
			for c := range work {
				tried.Add(1)
				if took, ok := tryChanged(t, changed(c.doc, c.at, c.to),
					fmt.Sprintf("%v = %.40v", c.at, c.to)); took > time.Second {
					t.Errorf("%v = %.40v takes %s", c.at, c.to, took)
				} else if ok {
					read.Add(1)
				}
			}
		})
	}
	seen := map[string]int{} // of all rigs: most places are in every one of them
	for _, r := range tour(t) {
		var doc any
		if err := json.Unmarshal(written(t, r), &doc); err != nil {
			t.Fatal(err)
		}
		for _, at := range spotsOf(doc, instances(), seen) {
			for _, to := range strange {
				work <- change{doc, at, to}
			}
		}
	}
	close(work)
	all.Wait()
	if n := tried.Load(); n < 4000 {
		t.Errorf("only %d rigs were tried", n)
	}
	if share := float64(read.Load()) / float64(tried.Load()); share < 0.02 || share > 0.9 {
		t.Errorf("%s of the changed rigs were read: the changes say nothing", strconv.FormatFloat(100*share, 'f', 1, 64))
	}
	t.Logf("%d rigs, %d of them read", tried.Load(), read.Load())
}

func tryChanged(t *testing.T, doc any, what string) (took time.Duration, ok bool) {
	b, err := json.Marshal(doc)
	if err != nil {
		t.Error(err)
		return
	}
	begun := time.Now()
	defer func() {
		if p := recover(); p != nil {
			t.Errorf("%s: panic: %v", what, p)
		}
	}()
	r, err := exchange.ReadRig(bytes.NewReader(b))
	if err == nil {
		p := survey.Survey(r)
		for _, place := range p.Places() {
			for _, f := range place.Figures {
				_ = f.Text() + f.Working()
			}
		}
		_ = written(t, r)
	} else if !strings.Contains(err.Error(), " ") || len(err.Error()) > 20000 {
		t.Errorf("%s is refused with %.80q", what, err)
	}
	return time.Since(begun), err == nil
}

// FuzzReadChangedRig changes one place of a demo rig into anything that is JSON.
func FuzzReadChangedRig(f *testing.F) {
	var docs []any
	var spots [][]spot
	for i, r := range tour(f) {
		var doc any
		if err := json.Unmarshal(written(f, r), &doc); err != nil {
			f.Fatal(err)
		}
		docs, spots = append(docs, doc), append(spots, spotsOf(doc, math.MaxInt, map[string]int{}))
		for j, to := range strange[2:] {
			b, _ := json.Marshal(to)
			f.Add(uint8(i), uint16(j*97), string(b))
		}
	}
	f.Fuzz(func(t *testing.T, which uint8, where uint16, to string) {
		var v any
		if json.Unmarshal([]byte(to), &v) != nil {
			return
		}
		n := int(which) % len(docs)
		at := spots[n][int(where)%len(spots[n])]
		tryChanged(t, changed(docs[n], at, v), fmt.Sprintf("%v = %.80s", at, to))
	})
}

// FuzzReadGear: whatever the bytes, reading models ends in models that pass
// their own checks, or in an error.
func FuzzReadGear(f *testing.F) {
	for _, h := range hurtful(f) {
		if h.as == "gear" && len(h.file) < 4096 {
			f.Add(h.file)
		}
	}
	var b bytes.Buffer
	if err := exchange.WriteGear(&b, library(f)[:3]); err != nil {
		f.Fatal(err)
	}
	f.Add(b.Bytes())
	f.Fuzz(func(t *testing.T, b []byte) {
		models, err := exchange.ReadGear(bytes.NewReader(b))
		if err != nil {
			return
		}
		for _, m := range models {
			if err := m.Check(); err != nil {
				t.Fatal(err)
			}
			_ = m.Ports()
		}
	})
}
