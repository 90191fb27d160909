package tour

import (
	"context"
	"fmt"
	"time"

	"largo/core/rig"
	"largo/core/run"
	"largo/core/start"
	"largo/core/strike"
	"largo/core/survey"
	"largo/store"
)

// crew are those who run the tour's orders.
var crew = []string{"Isold Farrow", "Piet Hallam"}

// played is a run as people would do it: every five seconds a switch that may be thrown, each
// confirmed a moment after its time; trouble has it happen what goes wrong. It ends after so long.
func played(setup run.Setup, begun time.Time, lasts time.Duration, trouble map[string]run.Wrong) (run.Run, error) {
	r := run.Run{Setup: setup}
	const pace = 5000
	thrown := int64(0)
	for now := begun.UnixMilli(); now <= begun.Add(lasts).UnixMilli(); now += 1000 {
		for i, s := range r.States(now) {
			e := run.Event{Step: i, By: crew[i%len(crew)], At: now}
			name := r.Steps[i].Switch
			switch wrong, bad := trouble[name]; {
			case s.Status == run.Ready && now-thrown >= pace:
				e.Kind, thrown = run.Throw, now
			case s.Status == run.Look && bad:
				e.Kind, e.Wrong = run.Trouble, wrong
			case s.Status == run.Troubled && s.Wrong == run.NoLamp: // its plug was loose
				delete(trouble, name)
				e.Kind = run.Again
			case s.Status == run.Troubled:
				e.Kind = run.Leave
			case s.Status == run.Look:
				e.Kind = run.See
			default:
				continue
			}
			if err := r.Take(e, now); err != nil {
				return r, fmt.Errorf("%s of %s: %w", e.Kind, name, err)
			}
			break
		}
		if ended, _ := r.Ended(); ended {
			break
		}
	}
	return r, nil
}

// runs keeps runs of the tour: one that is done, one that met a fault, one in the middle.
func runs(ctx context.Context, st *store.Store, rigs []rig.Rig, now time.Time) error {
	boathouse, quay := survey.Survey(rigs[0]), survey.Survey(rigs[1])
	up := survey.Of[start.Verdict](boathouse).Run(boathouse.Input())
	all := []struct {
		slug    string
		setup   run.Setup
		ago     time.Duration
		lasts   time.Duration
		trouble map[string]run.Wrong
	}{
		{"wherry-lock-boathouse", up, 26 * time.Hour, time.Hour, nil},
		{"wherry-lock-boathouse", up, 2 * time.Hour, time.Hour, map[string]run.Wrong{"CUES": run.NoLamp, "A3": run.Trips}},
		{"wherry-lock-boathouse", survey.Of[strike.Verdict](boathouse).Run(boathouse.Input()), time.Hour, time.Hour, nil},
		{"saltpan-quay", survey.Of[start.Verdict](quay).Run(quay.Input()), 70 * time.Second, 60 * time.Second, nil},
	}
	for i, one := range all {
		begun := now.Add(-one.ago)
		one.setup.Revision = 1
		for _, p := range rigs[0].People {
			one.setup.Ring = append(one.setup.Ring, run.Contact{Name: p.Name, Role: p.Role, Number: p.Number})
		}
		r, err := played(one.setup, begun, one.lasts, one.trouble)
		if err != nil {
			return err
		}
		by := store.Command{ID: command(301 + i), Author: crew[0]}
		if _, err := st.KeepRun(ctx, by, one.slug, r, begun); err != nil {
			return err
		}
	}
	return nil
}
