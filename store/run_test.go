package store_test

import (
	"context"
	"errors"
	"strings"
	"sync"
	"testing"
	"time"

	"largo/core/order"
	"largo/core/run"
	"largo/store"
	"largo/store/storetest"
)

func powerUp() run.Setup {
	step := func(name string) run.Step {
		return run.Step{Step: order.Step{Switch: name, Items: []order.Item{{Tag: name, Takes: 10}}}}
	}
	return run.Setup{Sort: run.Start, Title: "T", Steps: []run.Step{step("DESK"), step("A1")},
		Waits: []run.Wait{{First: 0, Then: 1, After: 10, Why: order.Kicks}}}
}

func runBy(n int, who string) store.Command { return store.Command{ID: command(700 + n), Author: who} }

// Two phones that confirm one step, on two servers at once, make one; the same act sent again is
// made once; what comes too early is refused and leaves nothing; a run is found by its job alone.
func TestARunIsKept(t *testing.T) {
	st := storetest.Open(t)
	ctx := t.Context()
	slug, err := st.CreateJob(ctx, store.Change{Command: command(700), Rig: rigs(t)[0], Said: "s", Author: "a"})
	if err != nil {
		t.Fatal(err)
	}
	id, err := st.BeginRun(ctx, runBy(1, "Ada"), slug, powerUp())
	if err != nil {
		t.Fatal(err)
	}
	if again, err := st.BeginRun(ctx, runBy(1, "Ada"), slug, powerUp()); err != nil || again != id {
		t.Errorf("%d, %v", again, err)
	}
	begun := time.Now().UnixMilli()
	at := func(s int64) func() int64 { return func() int64 { return begun + 1000*s } }
	beside := storetest.Beside(t, st)
	var both sync.WaitGroup
	for i, server := range []*store.Store{st, beside, st, beside} {
		both.Go(func() {
			e := run.Event{Kind: run.Throw, Step: 0}
			if err := server.RunEvent(context.Background(), runBy(10+i, "Phone"), slug, id, e, 0, at(60)); err != nil {
				t.Error(err)
			}
		})
	}
	both.Wait()
	early := st.RunEvent(ctx, runBy(20, "Ada"), slug, id, run.Event{Kind: run.See, Step: 0}, 0, at(65))
	if early == nil || !strings.Contains(early.Error(), "5 s are left") {
		t.Errorf("too early: %v", early)
	}
	// a phone without network saw it in its time, and says so half a minute later
	late := runBy(21, "Ada")
	for range 2 {
		if err := beside.RunEvent(ctx, late, slug, id, run.Event{Kind: run.See, Step: 0}, 25_000, at(100)); err != nil {
			t.Fatal(err)
		}
	}
	r, err := st.Run(ctx, slug, id)
	if err != nil || len(r.Events) != 2 || r.Events[0].By != "Phone" || r.Events[1].At != begun+75_000 {
		t.Errorf("%+v, %v", r.Events, err)
	}
	if _, err := st.Run(ctx, "saltpan-quay", id); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("of another job: %v", err)
	}
	if all, err := st.Runs(ctx, slug, 5); err != nil || len(all) != 1 ||
		all[0].Says(begun+101_000) != "1 of 2 switches are through." {
		t.Errorf("%+v, %v", all, err)
	}
	if _, err := st.BeginRun(ctx, runBy(30, "Ada"), slug, run.Setup{Sort: run.Start}); err == nil {
		t.Error("a run of nothing")
	}
}
