package web

import (
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/finding"
	"largo/core/rig"
	"largo/core/start"
	"largo/core/survey"
)

func (s *Server) viewStart(p *page) error {
	plan := survey.Of[start.Verdict](p.report)
	wrong := map[string]bool{}
	for _, f := range p.report.At(finding.Start) {
		if f.Gravity == finding.Stop {
			wrong[f.At.Device] = true
		}
	}
	p.Body = p.orderView(plan.Steps, plan.Total, "Switch on", "start", plan.Own, wrong)
	return nil
}

func (s *Server) editOrder(c *gin.Context) {
	s.edit(c, finding.Start, "order", func(r rig.Rig, f *form) rig.Edit {
		var names []string
		for line := range strings.SplitSeq(c.PostForm("order"), "\n") {
			if line = strings.TrimSpace(line); line != "" {
				names = append(names, line)
			}
		}
		return rig.SetOrder{Order: names}
	})
}
