package gear

import "largo/core/fault"

// Appliance is a load that makes no sound: a lamp, a dimmer, a kettle, a projector, a
// heater, a charger. What it takes is its intake.
type Appliance struct {
	Dimmer Answer `json:"dimmer,omitempty"` // it is one, or stands on one: it buzzes into what lies near
	Motor  Answer `json:"motor,omitempty"`  // has one, or a compressor: it starts with several times its current
}

func (a Appliance) check() fault.List { return checkRows(&a, applianceRows) }

var applianceSheet = []Section{{Title: "What it is",
	Entries: lift("appliance", "", func(m *Model) *Appliance { return m.Appliance }, applianceRows)}}

var applianceRows = []row[Appliance]{
	answer("dimmer", "dimmer", "Is a dimmer, or stands on one", func(a *Appliance) *Answer { return &a.Dimmer }),
	answer("motor", "motor", "Has a motor", func(a *Appliance) *Answer { return &a.Motor }),
}
