package web

import (
	"strconv"

	"github.com/gin-gonic/gin"

	"largo/core/brief"
	"largo/core/finding"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/unit"
)

type briefView struct {
	Ruler                                    ruler
	Guess, Stay, Level, Average, Spare, Subs sum
	Form                                     []field
	Outdoors                                 bool
}

func (s *Server) viewBrief(p *page) error {
	b, v, m := p.job.Rig.Brief, survey.Of[brief.Verdict](p.report), survey.Of[match.Verdict](p.report)
	p.Body = briefView{
		Ruler: levelRuler(float64(b.Wanted.Or(0)), valueOf(m.Average)),
		Guess: p.sum("job", v.Guess), Stay: p.sum("job", v.Stay), Level: p.sum("job", m.Level), Average: p.sum("job", m.Average), Spare: p.sum("job", m.Spare), Subs: p.sum("job", m.Subs),
		Form: briefFields(p, "brief", b), Outdoors: b.Outdoors,
	}
	return nil
}

// briefFields is the form of a brief, for a job there is and for a new one.
func briefFields(p *page, form string, b rig.Brief) []field {
	listeners := ""
	if b.Listeners > 0 {
		listeners = strconv.Itoa(b.Listeners)
	}
	outdoors := "indoors"
	if b.Outdoors {
		outdoors = "outdoors"
	}
	date := p.Field(form, "date", "Date", b.Date, "")
	date.Kind = "date"
	title := p.Field(form, "title", "Title", b.Title, "")
	title.Required = true
	return []field{
		title, p.Field(form, "place", "Place", b.Place, ""), date,
		p.Field(form, "listeners", "Listeners", listeners, "people"),
		p.Choose(form, "where", "Where", outdoors, choice{Value: "indoors", Label: "indoors"}, choice{Value: "outdoors", Label: "outdoors"}),
		p.Choose(form, "programme", "To be heard", string(b.Programme), append([]choice{{Value: "", Label: "not said"}}, choices(rig.Programmes)...)...),
		p.Field(form, "wanted", "Wanted level, LAeq", typed(b.Wanted), "as 95 dB; the lowest of law, licence and client"),
		p.Field(form, "wantedBy", "Who set it", b.WantedBy, ""),
		p.Field(form, "distance", "Read how far from the main boxes", typed(b.Distance), "as 12 m or 40 ft"),
		p.Choose(form, "region", "Mains", string(b.Region), append([]choice{{Value: "", Label: "not known"}}, choices(rig.Regions)...)...),
		p.Field(form, "mains", "Circuits on site", b.Mains, "in words"),
	}
}

// readBrief reads the form of briefFields.
func readBrief(f *form, old rig.Brief) rig.Brief {
	return rig.Brief{
		Title: f.text("title"), Place: f.text("place"), Date: f.text("date"), Listeners: f.number("listeners", "people"),
		Outdoors: f.text("where") == "outdoors", Programme: rig.Programme(f.text("programme")),
		Wanted: keepOrigin(old.Wanted, given(f, "wanted", unit.ParseDecibel)), WantedBy: f.text("wantedBy"),
		Distance: keepOrigin(old.Distance, given(f, "distance", unit.ParseMetre)), Region: rig.Region(f.text("region")), Mains: f.text("mains"),
	}
}

func (s *Server) editBrief(c *gin.Context) {
	s.edit(c, finding.Brief, "brief", func(r rig.Rig, f *form) rig.Edit {
		return rig.SetBrief{Brief: readBrief(f, r.Brief)}
	})
}
