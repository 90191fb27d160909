package bench

import (
	"context"
	"errors"
	"fmt"
	"time"

	"largo/core/bench"
	"largo/core/fault"
	"largo/exchange"
	"largo/store"
	"largo/web/kit"
)

// asked is how often a probe is asked; of two servers one keeps its answer.
const asked = 30 * time.Second

// follow asks the probes of the sessions that are on until the context ends, whoever looks
// on or nobody.
func follow(ctx context.Context, s *kit.Server) {
	kit.Every(ctx, asked, func(at time.Time) { AskAll(ctx, s, at) })
}

// AskAll asks the probe of every session that is on, once, and keeps what they answer.
func AskAll(ctx context.Context, s *kit.Server, at time.Time) {
	ids, err := s.Store.AskedSessions(ctx)
	if err != nil {
		if ctx.Err() == nil {
			s.Log.WarnContext(ctx, "no probe is asked", "error", err)
		}
		return
	}
	for _, id := range ids {
		if err := askOne(ctx, s.Store, id, at); err != nil && ctx.Err() == nil {
			s.Log.WarnContext(ctx, "a probe was not read", "session", id, "error", err)
		}
	}
}

func askOne(ctx context.Context, st *store.Store, id int64, at time.Time) error {
	h, err := st.HeatedSession(ctx, id)
	if err != nil {
		return err
	}
	p, err := exchange.AskProbe(ctx, h.Setup.Ask)
	if err != nil {
		return err
	}
	e := bench.Event{Kind: bench.Read, At: at.Unix(), By: "the probe", Auto: true, Air: p.Air, Volts: p.Volts,
		Amps: p.Amps}
	for i := range e.Probe {
		if h.Setup.Probes[i] != "" {
			e.Probe[i] = p.Probe[i]
		}
	}
	by := store.Command{ID: kit.SlotID(fmt.Sprintf("probe %d", id), asked, at), Author: "the probe"}
	err = st.AddEvent(ctx, by, id, e, at.Unix())
	var faults fault.List
	if errors.As(err, &faults) {
		return nil // what no driver reads, or has read already, is not kept
	}
	return err
}
