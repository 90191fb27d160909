package wire

import (
	"fmt"

	"largo/core/drive"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
)

// inlets judges what each device is plugged into: the voltage that arrives there,
// and its frequency.
func inlets(x *rig.Index) []finding.Finding {
	var fs []finding.Finding
	hertz := frequency(x.Rig)
	for i := range x.Rig.Devices {
		d, m := &x.Rig.Devices[i], x.ModelAt(i)
		if !m.Powered() && (m.Supply == nil || m.Kind.Generates()) {
			continue
		}
		if supply := drive.AtInlet(x, d); supply.Known() {
			if f, wrong := wrongVoltage(d, m, unit.Volt(supply.Value)); wrong {
				f.Figures = append(f.Figures, supply)
				fs = append(fs, f)
			}
		}
		if tied, known := m.Intake.TiedTo.Get(); known && hertz != 0 && tied != hertz {
			f := at(rig.Ref{Device: d.Tag, Port: gear.MainsPort}, "wire.mains-frequency", finding.Sound, finding.Stop)
			f.What = fmt.Sprintf("%s has a motor or clock tied to mains of %s, and the place has %s.", d.Tag, tied, hertz)
			f.Why = fmt.Sprintf("It runs at %s %% of its speed, and plays in another key or gets too hot.",
				unit.Number(100*float64(hertz/tied)))
			f.Advice = "Take one made for these mains; no transformer changes the frequency."
			fs = append(fs, f)
		}
	}
	return fs
}

// frequency is that of the mains of the place, 0 where it is not known.
func frequency(r rig.Rig) unit.Hertz {
	m, _ := r.Brief.Region.Mains()
	return m.Hertz
}

func wrongVoltage(d *rig.Device, m *gear.Model, volts unit.Volt) (finding.Finding, bool) {
	why := m.RefusesSupply(volts)
	if why == "" {
		return finding.Finding{}, false
	}
	f := at(rig.Ref{Device: d.Tag, Port: gear.MainsPort}, "wire.mains-voltage", finding.Gear, finding.Stop)
	f.What = fmt.Sprintf("%s must not be plugged in here: %s.", d.Tag, why)
	f.Why = "On too much its supply burns; on too little it stays dark, or draws more than its fuse holds."
	f.Advice = "Look for a selector of its voltage, or take a transformer or gear for these mains."
	if !m.Intake.VoltsLow.Known() && !m.Intake.VoltsHigh.Known() {
		f.Code, f.Gravity = "wire.mains-unproved", finding.Mend
		f.What = fmt.Sprintf("Nothing shows that %s may be plugged in here: %s.", d.Tag, why)
		f.Advice = "Read its plate for the range it works on, and note it with the model."
	}
	return f, true
}
