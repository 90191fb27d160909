package kit

import (
	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
)

// KnobField is the field of a channel's level control, dB below fully up; form tells it
// from others of the page.
func (p *Page) KnobField(form string, d *rig.Device, channel int) Field {
	down := ""
	if at, noted := d.Knob(channel); noted {
		down = unit.Of(at).Typed()
	}
	return p.Field(form, "down", "Knob "+gear.ChannelName(channel)+", dB down", down, "0 fully up")
}

// ReadKnob reads a level control as KnobField writes it; an empty one is forgotten.
func ReadKnob(_ rig.Rig, f *Form) rig.Edit {
	given := Given(f, "down", unit.ParseDecibel)
	down := given.Or(0)
	if down < 0 || down > 100 {
		f.Fault("down", "A level control stands 0 to 100 dB below fully up, not %s.", down)
	}
	return rig.SetKnob{Tag: f.Text("tag"), Set: rig.Knob{Channel: f.Number("channel", "channels"), Down: down},
		Forget: !given.Known()}
}
