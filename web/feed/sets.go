package feed

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"largo/core/feed"
	"largo/core/supply"
	"largo/core/unit"
	"largo/web/kit"
)

// riseUsual is the rise of the air that is asked for where nobody says another, K.
const riseUsual = 10.0

// heatRow is what stays behind as warmth at a place.
type heatRow struct{ Place, Watts, BTU, Air, Standby string }

// heats are what stays behind with ordinary programme, by place, and in all.
func heats(p *kit.Page, taken []supply.Taken, rise float64) (rows []heatRow) {
	all := supply.Warm{Place: "all together"}
	list := supply.Warmth(p.Rig(), taken, supply.Ordinary)
	for _, w := range list {
		all.Watts, all.Standby, all.Unsaid = all.Watts+w.Watts, all.Standby+w.Standby, all.Unsaid+w.Unsaid
	}
	if len(list) > 1 {
		list = append(list, all)
	}
	for _, w := range list {
		row := heatRow{w.Place, rounded(w.Watts).String(), unit.Number(math.Round(w.BTU()/10)*10) + " BTU/h",
			unit.Number(math.Round(w.Air(rise)/10)*10) + " m³/h", rounded(w.Standby).String()}
		if w.Place == "" {
			row.Place = "at no place on record"
		}
		if w.Unsaid > 0 && w.Standby == 0 {
			row.Standby = "not known"
		} else if w.Unsaid > 0 {
			row.Standby += fmt.Sprintf(", %d not known", w.Unsaid)
		}
		rows = append(rows, row)
	}
	return rows
}

// riseAsked is the rise of the air that the address asks for, K.
func riseAsked(p *kit.Page) float64 {
	if k, err := strconv.ParseFloat(strings.TrimSpace(p.Ask.Get("rise")), 64); err == nil && k >= 1 && k <= 40 {
		return k
	}
	return riseUsual
}

// setRow is a generator or a battery with what is asked of it.
type setRow struct {
	Name, Is, Music, Dense, Reserve string
	Gives, Apparent, Lasts, Fuel    kit.Sum
}

func setRows(p *kit.Page, v *feed.Verdict) (rows []setRow) {
	for _, s := range append(v.Sets(), v.Backed()...) {
		place := feed.PlaceOf(s.Node) + ", as a set"
		row := setRow{Name: s.Name, Is: string(s.Model.Kind), Music: rounded(s.Asked[supply.Ordinary]).String() + ", " +
			unit.Number(math.Round(s.VA[supply.Ordinary]/10)*10) + " VA",
			Dense: rounded(s.Asked[supply.Dense]).String(), Reserve: "not known", Lasts: p.Sum(place, s.Lasts)}
		if s.Gives.Key != "" {
			row.Gives, row.Apparent = p.Sum(place, s.Gives), p.Sum(place, s.Apparent)
		}
		if s.Fuel.Key != "" {
			row.Fuel = p.Sum(place, s.Fuel)
		}
		if s.Gives.Known() && s.Gives.Value > 0 {
			row.Reserve = fmt.Sprintf("%.0f %%", 100*(1-float64(s.Asked[supply.Dense])/s.Gives.Value))
		}
		rows = append(rows, row)
	}
	return rows
}
