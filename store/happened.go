package store

import (
	"encoding/json"
	"fmt"
)

// happened reads a set-up and what happened in it, as they are kept: of a bench, of a run. What a
// newer Largo wrote, or cannot be, is unreadable.
func happened[E any](setup interface{ Check() error }, doc []byte, events [][]byte, version, newest int) ([]E, error) {
	if version > newest {
		return nil, fmt.Errorf("%w: a newer Largo wrote it", ErrUnreadable)
	}
	if err := json.Unmarshal(doc, setup); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrUnreadable, err)
	}
	if err := setup.Check(); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrUnreadable, err)
	}
	list := make([]E, len(events))
	for i, b := range events {
		if err := json.Unmarshal(b, &list[i]); err != nil {
			return nil, fmt.Errorf("%w: event %d: %w", ErrUnreadable, i+1, err)
		}
	}
	return list, nil
}
