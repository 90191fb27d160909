package feed

import (
	"fmt"
	"math"

	"github.com/gin-gonic/gin"

	"largo/core/finding"
	"largo/core/rig"
	"largo/core/supply"
	"largo/core/unit"
	"largo/exchange"
	"largo/web/kit"
)

// hear takes the crest of the programme from a recording of the real material.
func hear(s *kit.Server, c *gin.Context) {
	heard, err := received(c)
	if kit.TooBig(err) {
		s.Fail(c, err)
		return
	}
	s.Edit(c, finding.Feed, "recording", func(r rig.Rig, f *kit.Form) rig.Edit {
		if err != nil {
			f.Fault("", "The recording was not taken: %s.", err)
			return nil
		}
		b := r.Brief
		b.Crest = unit.From(unit.Decibel(math.Round(float64(heard.Crest())*10)/10),
			fmt.Sprintf("a recording of %s", unit.Second(math.Round(heard.Seconds))))
		return rig.SetBrief{Brief: b}
	})
}

func received(c *gin.Context) (exchange.Heard, error) {
	file, err := kit.Uploaded(c)
	if err != nil {
		return exchange.Heard{}, err
	}
	defer file.Close()
	return exchange.HearWAV(file)
}

// crestSays is what the programme is taken for.
func crestSays(b rig.Brief) string {
	crest, known := b.Crest.Get()
	if !known {
		return "Ordinary programme is taken as an eighth of the rated sine power, 12 dB of crest."
	}
	says := fmt.Sprintf("Ordinary programme is taken with %s of crest, a part of %.2f of the rated sine power", crest,
		supply.PartOf(crest))
	if from := b.Crest.Origin(); from != "" {
		says += ", from " + from
	}
	return says + "."
}
