// Package tour loads the demo into a store.
package tour

import (
	"context"
	"errors"
	"fmt"
	"time"

	"largo/demo"
	"largo/store"
)

// Load fills an empty database with the demo's gear and its four jobs; one
// that has a job already is left alone.
func Load(ctx context.Context, st *store.Store) error {
	jobs, err := st.CountJobs(ctx)
	if err != nil || jobs > 0 {
		return err
	}
	models, err := demo.Gear()
	if err != nil {
		return err
	}
	changes := make([]store.ModelChange, len(models))
	for i, m := range models {
		changes[i].Model = m
	}
	by := func(n int) store.Command { return store.Command{ID: command(n), Author: "demo"} }
	if err := st.SaveModels(ctx, by(101), "Loaded with the demo tour", changes...); err != nil &&
		!errors.Is(err, store.ErrConflict) {
		return err // the library may have been loaded before
	}
	held, err := demo.Stock()
	if err != nil {
		return err
	}
	if err := st.SetStock(ctx, by(102), "Loaded with the demo tour", 0, held...); err != nil &&
		!errors.Is(err, store.ErrConflict) {
		return err
	}
	rigs, err := demo.Rigs()
	if err != nil {
		return err
	}
	for i, r := range rigs {
		if _, err := st.CreateJob(ctx, store.Change{Command: command(i + 1), Rig: r, Said: "Loaded with the demo tour",
			Author: "demo"}); err != nil {
			return err
		}
	}
	if err := runs(ctx, st, rigs, time.Now()); err != nil {
		return err
	}
	return heat(ctx, st, time.Now().Unix())
}

// heat keeps the sessions of the thermal bench.
func heat(ctx context.Context, st *store.Store, now int64) error {
	sessions, err := demo.Sessions(now)
	if err != nil {
		return err
	}
	for i, session := range sessions {
		if _, err := st.KeepSession(ctx, store.Command{ID: command(201 + i), Author: "demo"}, session, now); err != nil {
			return err
		}
	}
	return nil
}

// command is the id of one act of the loading, so that it is made once.
func command(n int) string { return fmt.Sprintf("de300000-0000-4000-8000-%012d", n) }
