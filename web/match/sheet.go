package match

import (
	"strings"

	"largo/core/gear"
	"largo/core/load"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/survey"
	"largo/web/kit"
)

// sheetAmp is an amplifier as it has to be set before energising.
type sheetAmp struct{ Tag, Title, Place, Setting, Knobs, Drives string }

// onSheet puts the amplifiers on the sheet.
func onSheet(p *kit.Page) any {
	var amps []sheetAmp
	for i, d := range p.Rig().Devices {
		if m := p.Report.Index.ModelAt(i); m.Kind == gear.KindAmplifier {
			amps = append(amps, sheetAmp{d.Tag, m.Title(), d.Place, settings(&d, m), knobs(&d, m), drives(p, d.Tag)})
		}
	}
	return amps
}

func settings(d *rig.Device, m *gear.Model) string {
	var list []string
	for pair := range m.Amplifier.Pairs() {
		list = append(list, gear.ChannelName(2*pair)+gear.ChannelName(2*pair+1)+": "+pairText(d.PairSetting(pair)))
	}
	return strings.Join(list, "; ")
}

func knobs(d *rig.Device, m *gear.Model) string {
	var list []string
	for ch := range m.Amplifier.Channels {
		if down := d.KnobDown(ch); down != 0 {
			list = append(list, gear.ChannelName(ch)+" −"+down.String())
		}
	}
	switch len(list) {
	case 0:
		return "fully up"
	case m.Amplifier.Channels:
		return strings.Join(list, ", ")
	}
	return strings.Join(list, ", ") + "; others fully up"
}

func drives(p *kit.Page, tag string) string {
	var list []string
	for _, o := range survey.Of[match.Verdict](p.Report).Outputs {
		if o.At.Device == tag && len(o.Boxes) > 0 {
			boxes := strings.Join(load.Tags(o.Hung()), ", ")
			list = append(list, strings.TrimPrefix(o.At.Port, "out ")+": "+boxes+" ("+o.Nominal.Text()+")")
		}
	}
	return strings.Join(list, "; ")
}
