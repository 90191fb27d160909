package web

import (
	"fmt"

	"largo/core/strike"
	"largo/core/survey"
)

func (s *Server) viewStrike(p *page) error {
	plan := survey.Of[strike.Verdict](p.report)
	p.Verdict = "Nothing in the rig has a switch yet."
	if len(plan.Steps) > 0 {
		loud := 0
		for _, st := range plan.Steps {
			if st.Loud {
				loud++
			}
		}
		p.Verdict = fmt.Sprintf("%s off first; the rest once they are dead. %s in all.", plural(loud, "amplifier or active box", "amplifiers and active boxes"), plan.Total.Text())
	}
	p.Body = p.orderView(plan.Steps, plan.Total, "Switch off", "strike", false, nil)
	return nil
}
