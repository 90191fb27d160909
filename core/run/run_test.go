package run_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"largo/core/order"
	"largo/core/run"
	"largo/core/unit"
)

// setup is a source of 10 s, a desk of 60 s and an amplifier of 5 s that waits for both, a lamp
// that is free, and behind a board a stage box and its amplifier.
func setup(sort run.Sort) run.Setup {
	step := func(name string, takes unit.Second, loud bool) run.Step {
		return run.Step{Step: order.Step{Switch: name, Loud: loud, Items: []order.Item{{Tag: name, Takes: takes}}}}
	}
	s := run.Setup{Sort: sort, Title: "T", Revision: 3, Steps: []run.Step{step("SOURCE", 10, false), step("DESK", 60,
		false),
		step("A1", 5, true), step("LAMP", 1, false), step("BOARD", 5, false), step("A2", 5, true)}}
	s.Steps[2].Circuit, s.Steps[2].Peak, s.Steps[5].Circuit, s.Steps[5].Peak = "K1", 40, "K1", 40
	s.Waits = []run.Wait{{First: 0, Then: 1, After: 5, Why: order.Usually}, {First: 0, Then: 2, After: 10,
		Why: order.Kicks},
		{First: 1, Then: 2, After: 60, Why: order.Kicks}, {First: 4, Then: 5, After: 5, Why: order.Feeds},
		{First: 1, Then: 5, After: 60, Why: order.Kicks}}
	return s
}

type clock struct {
	t   *testing.T
	now int64
	run.Run
}

func begun(t *testing.T, sort run.Sort) *clock {
	c := &clock{t: t, now: 1_000_000, Run: run.Run{Setup: setup(sort)}}
	if err := c.Check(); err != nil {
		t.Fatal(err)
	}
	return c
}

func (c *clock) wait(s int64) *clock { c.now += s * 1000; return c }

func (c *clock) try(k run.Kind, step int) error {
	return c.Take(run.Event{Kind: k, Step: step, By: "Ines", At: c.now, Wrong: run.NoLamp}, c.now)
}

func (c *clock) do(k run.Kind, step int) *clock {
	c.t.Helper()
	if err := c.try(k, step); err != nil {
		c.t.Fatalf("%s %d: %v", k, step, err)
	}
	return c
}

func (c *clock) refused(k run.Kind, step int, says string) {
	c.t.Helper()
	if err := c.try(k, step); err == nil || !strings.Contains(err.Error(), says) {
		c.t.Errorf("%s %d: %v, want %q", k, step, err, says)
	}
}

func (c *clock) is(step int, want run.Status) {
	c.t.Helper()
	if got := c.States(c.now)[step]; got.Status != want {
		c.t.Errorf("%s is %s, want %s: %+v", c.Steps[step].Switch, got.Status, want, got)
	}
}

// A hold opens when the time has passed and what must be seen was confirmed, not before.
func TestTheHold(t *testing.T) {
	c := begun(t, run.Start)
	c.is(0, run.Ready)
	c.is(3, run.Ready)
	c.refused(run.Throw, 2, "A1 waits for SOURCE and DESK")
	c.do(run.Throw, 0)
	c.refused(run.Throw, 1, "waits for SOURCE")
	c.wait(5).do(run.Throw, 1) // what is only usual need not have settled
	c.refused(run.See, 0, "5 s are left")
	c.refused(run.Throw, 0, "thrown by Ines already")
	c.wait(5).do(run.See, 0)
	c.wait(60)
	c.is(1, run.Look)
	c.is(2, run.Waiting) // its time has passed, and nobody saw it
	c.do(run.See, 1)
	c.is(2, run.Ready)
	c.do(run.Throw, 2).wait(5).do(run.See, 2).do(run.Throw, 4).wait(5).do(run.See, 4)
	c.do(run.Throw, 5).wait(5).do(run.See, 5).do(run.Throw, 3).wait(1).do(run.See, 3)
	if ended, stopped := c.Ended(); !ended || stopped || c.Says(c.now) != "All is up." {
		t.Error(c.Says(c.now))
	}
	c.refused(run.Throw, 3, "is over")
}

// Against its plan: what was thrown twice says so, and its time is from the second.
func TestTimes(t *testing.T) {
	c := begun(t, run.Start)
	c.do(run.Throw, 0).wait(12).do(run.Trouble, 0).do(run.Again, 0).do(run.Throw, 0).wait(11).do(run.See,
		0).do(run.Leave, 3)
	got := c.Times()
	if len(got) != 2 || got[0].Took != 11 || got[0].Planned != 10 || got[0].Tries != 2 || !got[1].Left {
		t.Errorf("%+v", got)
	}
}

// Two on one circuit wake a breath apart; the desk holds and lets go; stopped, it is over.
func TestHoldStopAndBreath(t *testing.T) {
	c := begun(t, run.Start)
	c.do(run.Throw, 0).wait(5).do(run.Throw, 1).do(run.Throw, 4).wait(60).do(run.See, 0).do(run.See, 1).do(run.See, 4)
	c.do(run.Throw, 2).wait(1)
	c.refused(run.Throw, 5, "on the same circuit")
	c.wait(2).do(run.Hold, -1)
	c.refused(run.Throw, 5, "The desk holds")
	c.do(run.Resume, -1).do(run.Throw, 5)
	c.refused(run.Resume, -1, "Nobody holds")
	c.do(run.Stop, -1)
	if c.Says(c.now) != "Stopped after 3 of 6 switches." {
		t.Error(c.Says(c.now))
	}
}

// Trouble is never a dead end: once more, or left off, with all that hangs on it; and what would
// kick through something live stays off until that is off again.
func TestTrouble(t *testing.T) {
	c := begun(t, run.Start)
	c.do(run.Throw, 4).do(run.Trouble, 4)
	c.is(4, run.Troubled)
	if got := c.Without(4); got != "A2 stays off with it; the rest goes on." {
		t.Error(got)
	}
	c.do(run.Leave, 4)
	c.is(5, run.Left)
	c.do(run.Throw, 0).wait(10).do(run.Trouble, 0).do(run.Again, 0).do(run.Throw, 0).wait(10).do(run.See, 0)
	c.do(run.Throw, 1).do(run.Trouble, 1).do(run.Leave, 1)
	c.is(2, run.Ready) // what is off sends nothing
	c.do(run.Throw, 2).do(run.Again, 1)
	c.refused(run.Throw, 1, "A1 is on already")
	c.do(run.Again, 2).do(run.Throw, 1)
	c.is(2, run.Waiting)
}

// In a strike what is left has its plug pulled, and dies in its time.
func TestStrikeLeaves(t *testing.T) {
	c := &clock{t: t, now: 1, Run: run.Run{Setup: setup(run.Strike)}}
	c.Waits = []run.Wait{{First: 2, Then: 1, After: 30, Why: order.Kicks}}
	c.do(run.Leave, 2)
	c.refused(run.Throw, 1, "waits for A1")
	up := setup(run.Start)
	for _, w := range run.Wrongs {
		if off, on := c.Advice(w), up.Advice(w); off == "" || on == "" || (off == on) != (w == run.Smells) {
			t.Errorf("%s: %q in a strike, %q in a start", w, off, on)
		}
	}
	c.wait(30).do(run.Throw, 1)
}

// A thousand runs with whatever people tap and whatever goes wrong: nothing loud is thrown before
// all that reaches it was seen, or is off; no step is thrown or seen twice; and each run can end.
func TestAThousandRuns(t *testing.T) {
	kinds := []run.Kind{run.Throw, run.Throw, run.Throw, run.See, run.See, run.See, run.Trouble, run.Again, run.Leave,
		run.Hold,
		run.Resume}
	many := uint64(1000)
	if testing.Short() { // under the race detector, where there is one goroutine to look at
		many = 50
	}
	for seed := range many {
		r := rand.New(rand.NewPCG(seed, 13))
		c := begun(t, run.Start)
		for range 60 {
			c.now += int64(r.IntN(20_000))
			before := c.States(c.now)
			e := run.Event{Kind: kinds[r.IntN(len(kinds))], Step: r.IntN(len(c.Steps)), By: fmt.Sprint("P", r.IntN(3)),
				At: c.now - int64(r.IntN(3000)), Wrong: run.Wrongs[r.IntN(4)]}
			made := c.Made(e)
			if c.Take(e, c.now) != nil {
				continue
			}
			if made {
				t.Fatalf("seed %d: %s of %s was made twice", seed, e.Kind, c.Steps[e.Step].Switch)
			}
			if e.Kind == run.Throw {
				for _, w := range c.Waits {
					if s := before[w.First]; w.Then == e.Step && w.Seen() && s.Status != run.Done && s.Status != run.Left {
						t.Fatalf("seed %d: %s was thrown while %s is %s", seed, c.Steps[e.Step].Switch, c.Steps[w.First].Switch,
							s.Status)
					}
				}
			}
		}
		finish(t, seed, c)
	}
}

// finish brings a run to its end by what it offers.
func finish(t *testing.T, seed uint64, c *clock) {
	for range 100 {
		if ended, _ := c.Ended(); ended {
			return
		}
		if c.Held() {
			c.do(run.Resume, -1)
		}
		c.wait(61)
		for i, s := range c.States(c.now) {
			switch s.Status {
			case run.Ready:
				if c.try(run.Throw, i) != nil && c.wait(3).try(run.Throw, i) != nil {
					_ = c.try(run.Leave, i)
				}
			case run.Look:
				_ = c.try(run.See, i)
			case run.Troubled:
				_ = c.try(run.Leave, i)
			}
		}
	}
	t.Fatalf("seed %d: a dead end: %+v", seed, c.States(c.now))
}

func TestBadSetups(t *testing.T) {
	for what, change := range map[string]func(s *run.Setup){"nothing to do": func(s *run.Setup) { s.Steps = nil },
		"a wait for itself": func(s *run.Setup) { s.Waits[0].Then = 0 },
		"of nothing":        func(s *run.Setup) { s.Waits[0].First = 99 },
		"no sort":           func(s *run.Setup) { s.Sort = "show" }} {
		s := setup(run.Start)
		if change(&s); s.Check() == nil {
			t.Errorf("%s was taken", what)
		}
	}
}
