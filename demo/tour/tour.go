// Package tour loads the demo into a store.
package tour

import (
	"context"
	"fmt"

	"largo/demo"
	"largo/store"
)

// Load fills an empty database with the demo's gear and its four jobs; one
// that has a job already is left alone.
func Load(ctx context.Context, st *store.Store) error {
	jobs, err := st.Jobs(ctx)
	if err != nil || len(jobs) > 0 {
		return err
	}
	models, err := demo.Gear()
	if err != nil {
		return err
	}
	if err := st.SaveModels(ctx, models...); err != nil {
		return err
	}
	held, err := demo.Stock()
	if err != nil {
		return err
	}
	if err := st.SetStock(ctx, held...); err != nil {
		return err
	}
	rigs, err := demo.Rigs()
	if err != nil {
		return err
	}
	for i, r := range rigs {
		command := fmt.Sprintf("de300000-0000-4000-8000-%012d", i+1)
		if _, err := st.CreateJob(ctx, store.Change{Command: command, Rig: r, Said: "Loaded with the demo tour", Author: "demo"}); err != nil {
			return err
		}
	}
	return nil
}
