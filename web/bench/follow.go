package bench

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"

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
	tick := time.NewTicker(asked)
	defer tick.Stop()
	for {
		AskAll(ctx, s, time.Now())
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
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
	by := store.Command{ID: slotID(id, at), Author: "the probe"}
	err = st.AddEvent(ctx, by, id, e, at.Unix())
	var faults fault.List
	if errors.As(err, &faults) {
		return nil // what no driver reads, or has read already, is not kept
	}
	return err
}

// slotID is the id of one asking: the same for all servers that ask within one slot.
func slotID(session int64, at time.Time) string {
	sum := sha256.Sum256(fmt.Appendf(nil, "probe %d %d", session, at.Unix()/int64(asked/time.Second)))
	id := uuid.UUID(sum[:16])
	id[6], id[8] = id[6]&0x0f|0x40, id[8]&0x3f|0x80 // as a version 4
	return id.String()
}
