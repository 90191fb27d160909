package store_test

import (
	"context"
	"errors"
	"sync"
	"testing"

	"largo/core/bench"
	"largo/core/unit"
	"largo/demo"
	"largo/store"
	"largo/store/storetest"
)

const benchNow = int64(1_800_000_000)

func heating(n int) store.Command { return store.Command{ID: command(500 + n), Author: "Ines"} }

func frame(t unit.Celsius, at int64) bench.Event {
	return bench.Event{Kind: bench.Read, At: at, Probe: [2]unit.Given[unit.Celsius]{unit.Of(t)}}
}

// What happened in a session comes back as it was, in order; the same act sent twice, or
// to two servers at once, is kept once; what cannot have happened leaves nothing.
func TestASessionIsKept(t *testing.T) {
	st := storetest.Open(t)
	ctx := t.Context()
	all, err := demo.Sessions(benchNow)
	if err != nil {
		t.Fatal(err)
	}
	id, err := st.KeepSession(ctx, heating(1), all[1], benchNow)
	if err != nil {
		t.Fatal(err)
	}
	if again, err := st.KeepSession(ctx, heating(1), all[1], benchNow); err != nil || again != id {
		t.Errorf("%d, %v", again, err)
	}
	h, err := st.HeatedSession(ctx, id)
	if err != nil || len(h.Events) != len(all[1].Events) || bench.Of(&h.Session, benchNow).End != bench.Of(&all[1],
		benchNow).End {
		t.Fatalf("%d events of %d, %v", len(h.Events), len(all[1].Events), err)
	}
	beside := storetest.Beside(t, st)
	var both sync.WaitGroup
	for _, server := range []*store.Store{st, beside, st, beside} {
		both.Go(func() {
			if err := server.AddEvent(context.Background(), heating(2), id, frame(70, benchNow+30), benchNow+60); err != nil {
				t.Error(err)
			}
		})
	}
	both.Wait()
	if err := st.AddEvent(ctx, heating(3), id, frame(2000, benchNow+60), benchNow+60); err == nil {
		t.Error("2,000 °C is kept")
	}
	if h, _ = st.HeatedSession(ctx, id); len(h.Events) != len(all[1].Events)+1 || h.Events[len(h.Events)-1].By != "Ines" {
		t.Errorf("%d events", len(h.Events))
	}
	if err := st.AddEvent(ctx, heating(4), 99, frame(20, benchNow), benchNow); !errors.Is(err, store.ErrNotFound) {
		t.Error(err)
	}
}

// A set-up changes as long as it can be; sessions are found by their model, and those with
// a probe to ask until they end.
func TestSetUpAndFound(t *testing.T) {
	st := storetest.Open(t)
	ctx := t.Context()
	all, _ := demo.Sessions(benchNow)
	id, err := st.KeepSession(ctx, heating(1), all[1], benchNow)
	if err != nil {
		t.Fatal(err)
	}
	if err := st.SetUp(ctx, heating(2), id, func(h *store.Heated) error {
		h.Setup.Ask = "osc://127.0.0.1:9"
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	if err := st.SetUp(ctx, heating(3), id, func(h *store.Heated) error { h.Setup.Zone = 99999; return nil }); err == nil {
		t.Error("a clock 27 hours off UTC is kept")
	}
	if ids, err := st.AskedSessions(ctx); err != nil || len(ids) != 1 || ids[0] != id {
		t.Errorf("%v, %v", ids, err)
	}
	if err := st.AddEvent(ctx, heating(4), id, bench.Event{Kind: bench.End, At: benchNow}, benchNow); err != nil {
		t.Fatal(err)
	}
	if ids, _ := st.AskedSessions(ctx); len(ids) != 0 {
		t.Errorf("ended, and still asked: %v", ids)
	}
	if list, unread, err := st.HeatedSessions(ctx, all[1].Setup.Model, 9); err != nil || unread != 0 || len(list) != 1 {
		t.Errorf("%d, %d, %v", len(list), unread, err)
	}
	if list, _, _ := st.HeatedSessions(ctx, "another", 9); len(list) != 0 {
		t.Errorf("%d of another model", len(list))
	}
}
