// Package brief is the room of the brief: what the job asks for.
package brief

import (
	"embed"
	"strconv"
	"strings"

	"largo/core/brief"
	"largo/core/finding"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/unit"
	"largo/web/kit"
)

//go:embed *.html
var files embed.FS

// Room is the room of this stage.
var Room = kit.Room{
	Name: string(finding.Brief), Files: files, View: view,
	Routes: func(r *kit.Routes) {
		r.Edit("/jobs/:job/brief", read, "brief")
		r.Edit("/jobs/:job/people", readPeople, "people")
	},
	Finds: []kit.FindItem{{Label: "Change the brief", Note: "act", Href: "/brief#brief-title"},
		{Label: "Who goes", Note: "act", Href: "/brief#people-people"}},
}

type body struct {
	Ruler                                    kit.Ruler
	Guess, Stay, Level, Average, Spare, Subs kit.Sum
	Form                                     []kit.Field
	People                                   kit.Field
	Outdoors, Room                           bool
	Area, Leq                                string      // that decides, and what is read there
	Others                                   []otherArea // of listeners
}

// otherArea is what reaches an area that does not decide.
type otherArea struct {
	Name           string
	Average, Spare kit.Sum
}

func view(s *kit.Server, p *kit.Page) error {
	b, v, m := p.Rig().Brief, survey.Of[brief.Verdict](p.Report), survey.Of[match.Verdict](p.Report)
	area := m.Decides()
	p.Body = body{
		Ruler: kit.LevelRuler(float64(b.Wanted.Or(0)), kit.ValueOf(area.Average), "rig"),
		Guess: p.Sum("job", v.Guess), Stay: p.Sum("job", v.Stay), Level: p.Sum("job", area.Level),
		Average: p.Sum("job", area.Average), Spare: p.Sum("job", area.Spare), Subs: p.Sum("job", area.Subs),
		Form: Fields(p, "brief", b), Outdoors: b.Outdoors, Area: area.Whom(), Leq: b.Weighting.Leq(),
		People: people(p),
		Room:   b.Volume.Known() && b.Reverberation.Known() && !b.Outdoors, Others: others(p, m, area),
	}
	return nil
}

func others(p *kit.Page, m match.Verdict, decides match.Area) []otherArea {
	var list []otherArea
	for _, a := range m.Areas {
		if a.Name != decides.Name && a.Name != rig.OnStage {
			list = append(list, otherArea{a.Whom(), p.Sum(a.Title(), a.Average), p.Sum(a.Title(), a.Spare)})
		}
	}
	return list
}

// Fields is the form of a brief, for a job there is and for a new one.
func Fields(p *kit.Page, form string, b rig.Brief) []kit.Field {
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
	return []kit.Field{
		title, p.Field(form, "place", "Place", b.Place, ""), date,
		p.Field(form, "listeners", "Listeners", listeners, "people"),
		p.Choose(form, "where", "Where", outdoors, kit.Choice{Value: "indoors", Label: "indoors"},
			kit.Choice{Value: "outdoors", Label: "outdoors"}),
		p.Choose(form, "programme", "To be heard", string(b.Programme),
			append([]kit.Choice{{Value: "", Label: "not said"}}, kit.Choices(rig.Programmes)...)...),
		p.Field(form, "wanted", "Wanted level, Leq", b.Wanted.Typed(), "as 95 dB; the lowest of law, licence and client"),
		p.Choose(form, "weighting", "read", string(b.Weighting), kit.Choice{Value: "", Label: "A-weighted"},
			kit.Choice{Value: string(rig.WeightC), Label: "C-weighted"}),
		p.Field(form, "wantedBy", "Who set it", b.WantedBy, ""),
		p.Field(form, "distance", "Read how far from the main boxes", b.Distance.Typed(), "as 12 m or 40 ft"),
		p.Field(form, "volume", "Volume of the room", b.Volume.Typed(), "m³ or ft³; without it direct sound alone counts"),
		p.Field(form, "reverberation", "Its reverberation time", b.Reverberation.Typed(), "as 1.6 s"),
		p.Field(form, "noise", "Its own noise, empty", b.Noise.Typed(), "dB(A), as 38"),
		p.Choose(form, "region", "Mains", string(b.Region),
			append([]kit.Choice{{Value: "", Label: "not known"}}, kit.Choices(rig.Regions)...)...),
		p.Field(form, "mains", "Circuits on site", b.Mains, "in words"),
		p.Field(form, "lasts", "How long it plays", b.Lasts.Typed(), "as 3 h; a load of three hours is a continuous one"),
		p.Field(form, "crest", "Crest of the programme", b.Crest.Typed(),
			"as 14 dB, of a recording; empty: an eighth of full"),
		p.Field(form, "air", "Air at the show", b.Air.Typed(), "as 12 °C"),
		p.Field(form, "humidity", "Its humidity", b.Humidity.Typed(), "as 75 %"),
		p.Field(form, "arrives", "The gear arrives at", b.Arrives.Typed(), "as 4 °C, after a night in the van"),
		p.Field(form, "altitude", "How high it lies", b.Altitude.Typed(), "as 900 m; a generator gives less up there"),
	}
}

// Read reads the form of briefFields.
func Read(f *kit.Form, old rig.Brief) rig.Brief {
	return rig.Brief{
		Title: f.Text("title"), Place: f.Text("place"), Date: f.Text("date"), Listeners: f.Number("listeners", "people"),
		Outdoors: f.Text("where") == "outdoors", Programme: rig.Programme(f.Text("programme")),
		Wanted: kit.KeepOrigin(old.Wanted, kit.Given(f, "wanted", unit.ParseDecibel)), WantedBy: f.Text("wantedBy"),
		Distance:      kit.KeepOrigin(old.Distance, kit.Given(f, "distance", unit.ParseMetre)),
		Weighting:     rig.Weighting(f.Text("weighting")),
		Volume:        kit.KeepOrigin(old.Volume, kit.Given(f, "volume", unit.ParseVolume)),
		Reverberation: kit.KeepOrigin(old.Reverberation, kit.Given(f, "reverberation", unit.ParseSecond)),
		Noise:         kit.KeepOrigin(old.Noise, kit.Given(f, "noise", unit.ParseDecibel)),
		Region:        rig.Region(f.Text("region")), Mains: f.Text("mains"),
		Lasts:    kit.KeepOrigin(old.Lasts, kit.Given(f, "lasts", unit.ParseSecond)),
		Crest:    kit.KeepOrigin(old.Crest, kit.Given(f, "crest", unit.ParseDecibel)),
		Air:      kit.KeepOrigin(old.Air, kit.Given(f, "air", unit.ParseCelsius)),
		Humidity: kit.KeepOrigin(old.Humidity, kit.Given(f, "humidity", unit.ParseRatio)),
		Arrives:  kit.KeepOrigin(old.Arrives, kit.Given(f, "arrives", unit.ParseCelsius)),
		Altitude: kit.KeepOrigin(old.Altitude, kit.Given(f, "altitude", unit.ParseMetre)),
	}
}

func read(r rig.Rig, f *kit.Form) rig.Edit {
	return rig.SetBrief{Brief: Read(f, r.Brief)}
}

// people is the field of those who go.
func people(p *kit.Page) kit.Field {
	lines := make([]string, len(p.Rig().People))
	for i, one := range p.Rig().People {
		lines[i] = one.Line()
	}
	f := p.Field("people", "people", "People, one a line", strings.Join(lines, "\n"),
		"as Ada Fenn, sound, 0700 900123: name, what they do, the number to ring")
	f.Kind = "lines"
	return f
}

func readPeople(_ rig.Rig, f *kit.Form) rig.Edit {
	people, err := rig.ParsePeople(f.Gin.PostForm("people"))
	if err != nil {
		f.Refuse(err)
		return nil
	}
	return rig.SetPeople{People: people}
}
