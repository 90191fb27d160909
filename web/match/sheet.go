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
	list := make([]string, m.Amplifier.Channels)
	noted := 0
	for ch := range list {
		down, known := d.Knob(ch)
		switch list[ch] = gear.ChannelName(ch) + " −" + down.String(); {
		case !known:
			list[ch] = gear.ChannelName(ch) + " not recorded"
		case down == 0:
			list[ch] = gear.ChannelName(ch) + " fully up"
		}
		if known {
			noted++
		}
	}
	if noted == 0 {
		return "not recorded"
	}
	return strings.Join(list, ", ")
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
