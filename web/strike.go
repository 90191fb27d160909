package web

import (
	"largo/core/strike"
	"largo/core/survey"
)

func (s *Server) viewStrike(p *page) error {
	plan := survey.Of[strike.Verdict](p.report)
	p.Body = p.orderView(plan.Steps, plan.Total, "Switch off", "strike", false, nil)
	return nil
}
