package run

import "largo/core/order"

// New is the set-up of a run: the steps of an order with who waits for whom, and what is free at
// the end; why says why each of the ordered stands where it does.
func New(sort Sort, title string, plan order.Plan, steps, free []order.Step, why []string) Setup {
	s := Setup{Sort: sort, Title: title}
	at := map[int]int{} // of nodes
	for i, n := range plan.Sequence {
		at[n] = i
		step := Step{Step: steps[i]}
		if i < len(why) {
			step.Why = why[i]
		}
		s.Steps = append(s.Steps, step)
	}
	for _, f := range free {
		f.Number = len(s.Steps) + 1
		s.Steps = append(s.Steps, Step{Step: f, Free: true, Why: "Nothing waits for it, and it waits for nothing."})
	}
	for _, w := range plan.Waits {
		s.Waits = append(s.Waits, Wait{First: at[w.First], Then: at[w.Then], After: w.After, Why: w.Why})
	}
	return s
}
