package kit

import (
	"context"
	"crypto/sha256"
	"fmt"
	"time"

	"github.com/google/uuid"
)

// Every does something at once and then again and again until the context ends, whoever looks
// on or nobody.
func Every(ctx context.Context, pause time.Duration, do func(at time.Time)) {
	tick := time.NewTicker(pause)
	defer tick.Stop()
	for {
		do(time.Now())
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// SlotID is the id of what is done once within each slot of time: the same for all servers, so
// that the first to do it keeps it.
func SlotID(what string, slot time.Duration, at time.Time) string {
	sum := sha256.Sum256(fmt.Appendf(nil, "%s %d", what, at.Unix()/int64(slot/time.Second)))
	id := uuid.UUID(sum[:16])
	id[6], id[8] = id[6]&0x0f|0x40, id[8]&0x3f|0x80 // as a version 4
	return id.String()
}
