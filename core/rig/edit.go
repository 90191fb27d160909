package rig

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/unit"
)

// Edit is one act of the technician. It says in a few words what it does, for
// the history; change makes it on a copy.
type Edit interface {
	Say() string
	change(*Rig) error
}

// Apply makes an edit. On an error the rig given back is the old one.
func Apply(r Rig, e Edit) (Rig, error) {
	next := r.Clone()
	if err := e.change(&next); err != nil {
		return r, err
	}
	if err := next.Check(); err != nil {
		var l fault.List
		if _, one := e.(leadEdit); one && errors.As(err, &l) {
			err = atForm(l)
		}
		return r, err
	}
	return next, nil
}

// leadEdit is an edit of one lead: the lead in question is the only one that
// can be wrong, so a fault of it stands at the form that made it.
type leadEdit interface{ oneLead() }

// Batch is several edits as one act: all are made or none.
type Batch struct {
	Saying string
	Edits  []Edit
}

// Say tells what the batch does.
func (b Batch) Say() string { return b.Saying }

func (b Batch) change(r *Rig) error {
	for _, e := range b.Edits {
		if err := e.change(r); err != nil {
			return err
		}
	}
	return nil
}

// SetBrief changes what the job asks for.
type SetBrief struct{ Brief Brief }

// Say tells what the edit does.
func (e SetBrief) Say() string { return "Changed the brief" }

func (e SetBrief) change(r *Rig) error {
	r.Brief = e.Brief
	return e.Brief.check().Err()
}

// SetWishes changes the power policy and the bridging school.
type SetWishes struct {
	Policy   Policy `json:"policy"`
	Bridging School `json:"bridging"`
}

// Say tells what the edit does.
func (e SetWishes) Say() string {
	return fmt.Sprintf("Policy %s, bridging %s", e.Policy, e.Bridging)
}

func (e SetWishes) change(r *Rig) error {
	r.Policy, r.Bridging = e.Policy, e.Bridging
	return nil
}

// SetLimits changes how low the limiters of the rig are to stand.
type SetLimits struct {
	Limits LimitPolicy `json:"limits,omitempty"`
}

// Say tells what the edit does.
func (e SetLimits) Say() string {
	if e.Limits == WholeRating {
		return "Limiters stand at the whole rating"
	}
	return "Limiters stand at " + string(e.Limits)
}

func (e SetLimits) change(r *Rig) error {
	r.Limits = e.Limits
	return nil
}

// AddDevices brings devices of one model into the rig.
type AddDevices struct {
	Model gear.Model `json:"model"`
	Tags  []string   `json:"tags"`
	Place string     `json:"place,omitempty"`
	Aim   Aim        `json:"aim,omitempty"`
}

// Say tells what the edit does.
func (e AddDevices) Say() string {
	return "Added " + strings.Join(e.Tags, ", ") + " (" + e.Model.Title() + ")"
}

func (e AddDevices) change(r *Rig) error {
	var l fault.List
	if len(e.Tags) == 0 {
		l.Add("tags", "Give at least one tag, as it stands on the tape; several with commas between.")
	}
	for _, tag := range e.Tags {
		CheckTag(&l, "tags", tag)
		if slices.ContainsFunc(r.Devices, func(d Device) bool { return strings.EqualFold(d.Tag, tag) }) {
			l.Add("tags", "Another device already bears the tag %q.", tag)
		}
	}
	l.CheckName("place", "The place", e.Place, 80, false)
	if len(l) > 0 {
		return l
	}
	r.bring([]gear.Model{e.Model})
	for _, tag := range e.Tags {
		d := Device{Tag: tag, Model: e.Model.ID, Place: e.Place}
		if e.Model.Kind == gear.KindLoudspeaker {
			d.setBox(BoxSettings{Aim: e.Aim})
		}
		r.Devices = append(r.Devices, d)
	}
	r.settle()
	return nil
}

// ChangeDevice renames a device or changes where it stands and what it is
// for. Its links follow a new tag.
type ChangeDevice struct {
	Tag      string                 `json:"tag"` // as it is
	NewTag   string                 `json:"newTag,omitempty"`
	Place    string                 `json:"place,omitempty"`
	Switch   string                 `json:"switch,omitempty"`
	Aim      Aim                    `json:"aim,omitempty"`
	Distance unit.Given[unit.Metre] `json:"distance,omitzero"`
	Poles    int                    `json:"poles,omitempty"` // that a box's selector puts it on
}

// Say tells what the edit does.
func (e ChangeDevice) Say() string {
	if e.NewTag != e.Tag {
		return "Renamed " + e.Tag + " to " + e.NewTag
	}
	return "Changed " + e.Tag
}

func (e ChangeDevice) change(r *Rig) error {
	i, err := r.mustFind(e.Tag)
	if err != nil {
		return err
	}
	var l fault.List
	CheckTag(&l, "tag", e.NewTag)
	if j := slices.IndexFunc(r.Devices, func(d Device) bool { return strings.EqualFold(d.Tag, e.NewTag) }); j >= 0 &&
		j != i {
		l.Add("tag", "Another device already bears the tag %q.", e.NewTag)
	}
	if m, known := e.Distance.Get(); known && (m < 0.2 || m > 500) {
		l.Add("distance", "A distance of %s cannot be right: give 0.2 m to 500 m.", m)
	}
	if len(l) > 0 {
		return l
	}
	d := &r.Devices[i]
	before := d.SwitchName()
	d.Tag, d.Place, d.Switch = e.NewTag, e.Place, e.Switch
	if m, ok := r.Model(d.Model); ok && m.Kind == gear.KindLoudspeaker {
		d.setBox(BoxSettings{e.Aim, e.Distance, e.Poles})
	}
	r.tags(func(tag *string) {
		if *tag == e.Tag {
			*tag = e.NewTag
		}
	})
	r.followSwitch(before, d.SwitchName())
	r.settle()
	return nil
}

// followSwitch keeps the crew's order true when a device changes its switch.
func (r *Rig) followSwitch(before, after string) {
	if before == after || len(r.Order) == 0 {
		return
	}
	still := r.wakes(before)
	r.Order = slices.DeleteFunc(slices.Clone(r.Order), func(s string) bool { return s == after && !still })
	for i, s := range r.Order {
		if s == before && !still {
			r.Order[i] = after
		}
	}
}

// wakes tells whether a switch wakes some device.
func (r *Rig) wakes(name string) bool {
	return slices.ContainsFunc(r.Devices, func(d Device) bool { return d.SwitchName() == name })
}

// RemoveDevice takes a device and its leads out of the rig.
type RemoveDevice struct{ Tag string }

// Say tells what the edit does.
func (e RemoveDevice) Say() string { return "Removed " + e.Tag }

func (e RemoveDevice) change(r *Rig) error {
	i, err := r.mustFind(e.Tag)
	if err != nil {
		return err
	}
	gone := r.Devices[i]
	r.Devices = slices.Delete(r.Devices, i, i+1)
	r.Links = slices.DeleteFunc(r.Links, func(k Link) bool { return k.From.Device == e.Tag || k.To.Device == e.Tag })
	r.tags(func(tag *string) { // what only runs through it goes on without it
		if *tag == e.Tag {
			*tag = ""
		}
	})
	r.forget()
	r.settle()
	if !r.wakes(gone.SwitchName()) {
		r.Order = slices.DeleteFunc(r.Order, func(s string) bool { return s == gone.SwitchName() })
	}
	return nil
}

// Connect plugs a lead in. Stock holds the models of the made-up leads that
// the link names.
type Connect struct {
	Link  Link         `json:"link"`
	Stock []gear.Model `json:"stock,omitempty"`
}

// Say tells what the edit does.
func (e Connect) Say() string {
	return "Plugged " + e.Link.From.String() + " into " + e.Link.To.String()
}

func (e Connect) change(r *Rig) error {
	r.bring(e.Stock)
	r.Links = append(r.Links, r.joined(e.Link))
	if d, there := r.Device(e.Link.To.Device); there && e.Link.To.Port == gear.MainsPort && d.Outlet != "" {
		return fault.At("to", "%s is plugged into the outlet %s, and has one mains inlet: take it off there first, on Feed.",
			d.Tag, d.Outlet)
	}
	return nil
}

// joined is a new link, in the lead of one that is there where it goes on from a box
// beside it: a link-through passes all its poles on by one lead. One that brings a
// lead of its own keeps it.
func (r *Rig) joined(k Link) Link {
	d, there := r.Device(k.From.Device)
	m, _ := r.Model(d.Model)
	if !there || m == nil || m.Kind != gear.KindLoudspeaker || m.Loudspeaker.Active || len(k.Cables) > 0 ||
		k.Length.Known() || k.Rides != (Ref{}) {
		return k
	}
	for _, host := range r.Links {
		if host.From.Device == k.From.Device && host.To.Device == k.To.Device && host.Rides == (Ref{}) &&
			host.To.Port != k.To.Port && gear.PairOf(host.From.Port) > 0 && gear.PairOf(k.From.Port) > 0 {
			k.Rides = host.To
			break
		}
	}
	return k
}

func (Connect) oneLead() {}

// SetSwapped says whether the lead into an input has its conductors exchanged.
type SetSwapped struct {
	To      Ref  `json:"to"`
	Swapped bool `json:"swapped,omitempty"`
}

// Say tells what the edit does.
func (e SetSwapped) Say() string {
	if e.Swapped {
		return "The lead into " + e.To.String() + " swaps polarity"
	}
	return "The lead into " + e.To.String() + " is straight"
}

func (e SetSwapped) change(r *Rig) error {
	for i := range r.Links {
		if r.Links[i].To == e.To {
			r.Links[i].Swapped = e.Swapped
			return nil
		}
	}
	return fault.At("to", "Nothing is plugged into %s.", clip(e.To))
}

// Disconnect pulls the lead out of an input.
type Disconnect struct{ To Ref }

// Say tells what the edit does.
func (e Disconnect) Say() string { return "Unplugged " + e.To.String() }

func (e Disconnect) change(r *Rig) error {
	before := len(r.Links)
	r.Links = slices.DeleteFunc(r.Links, func(k Link) bool { return k.To == e.To })
	if len(r.Links) == before {
		return fault.At("to", "Nothing is plugged into %s.", clip(e.To))
	}
	for i := range r.Links { // what rode in it has a lead of its own
		if r.Links[i].Rides == e.To {
			r.Links[i].Rides = Ref{}
		}
	}
	r.forget()
	return nil
}

// SetPair sets the output and input mode of a pair of channels.
type SetPair struct {
	Tag  string `json:"tag"`
	Pair int    `json:"pair,omitempty"` // from 0
	Set  Pair   `json:"set"`
}

// Say tells what the edit does.
func (e SetPair) Say() string {
	return fmt.Sprintf("Set %s %s%s %s, input %s", e.Tag, gear.ChannelName(2*e.Pair), gear.ChannelName(2*e.Pair+1),
		e.Set.Output, e.Set.Input)
}

func (e SetPair) change(r *Rig) error {
	i, err := r.mustFind(e.Tag)
	if err != nil {
		return err
	}
	m, ok := r.Model(r.Devices[i].Model)
	if !ok || m.Kind != gear.KindAmplifier || e.Pair < 0 || e.Pair >= m.Amplifier.Pairs() {
		return fault.At("pair", "%s has no such pair of channels.", e.Tag)
	}
	r.Devices[i].setPair(e.Pair, e.Set)
	return nil
}

// SetLimiter records what the limiter of an output is set to; both unknown
// takes the record away.
type SetLimiter struct {
	Tag string  `json:"tag"`
	Set Limiter `json:"set"`
	Why string  `json:"why,omitempty"` // for those who find it later
}

// Say tells what the edit does.
func (e SetLimiter) Say() string {
	why := ""
	if e.Why != "" {
		why = ": " + e.Why
	}
	if !e.Set.RMS.Known() && !e.Set.Peak.Known() {
		return "Took the limiter of " + e.Tag + " " + e.Set.Port + " off the record" + why
	}
	return fmt.Sprintf("Limiter of %s %s at %s rms, %s peak%s", e.Tag, e.Set.Port, e.Set.RMS, e.Set.Peak, why)
}

func (e SetLimiter) change(r *Rig) error {
	var l fault.List
	if l.CheckName("why", "The reason", e.Why, mostWhy, false); len(l) > 0 {
		return l
	}
	i, err := r.mustFind(e.Tag)
	if err != nil {
		return err
	}
	r.Devices[i].setAmp(func(a *AmpSettings) {
		a.Limiters = without(a.Limiters, func(l Limiter) bool { return l.Port == e.Set.Port })
		if e.Set.RMS.Known() || e.Set.Peak.Known() {
			a.Limiters = append(a.Limiters, e.Set)
		}
	})
	return nil
}

// mostWhy is how long the reason of a limiter may be.
const mostWhy = 120

// RecordReading keeps what an ohmmeter showed across the line of an output;
// an unknown one takes the record away.
type RecordReading struct {
	At Ref                 `json:"at"`
	DC unit.Given[unit.DC] `json:"dc,omitzero"`
}

// Say tells what the edit does.
func (e RecordReading) Say() string { return fmt.Sprintf("Line of %s reads %s", e.At, e.DC) }

func (e RecordReading) change(r *Rig) error {
	i, err := r.mustFind(e.At.Device)
	if err != nil {
		return err
	}
	r.Devices[i].setAmp(func(a *AmpSettings) {
		a.Readings = without(a.Readings, func(r Reading) bool { return r.Port == e.At.Port })
		if z, known := e.DC.Get(); known {
			a.Readings = append(a.Readings, Reading{e.At.Port, z})
		}
	})
	return nil
}

// SetKnob records how far a level control is turned down, 0 for fully up, or
// forgets what was on record of it.
type SetKnob struct {
	Tag    string `json:"tag"`
	Set    Knob   `json:"set"`
	Forget bool   `json:"forget,omitempty"`
}

// Say tells what the edit does.
func (e SetKnob) Say() string {
	name := fmt.Sprintf("Level control %s of %s", gear.ChannelName(e.Set.Channel), e.Tag)
	switch {
	case e.Forget:
		return name + " is on record no more"
	case e.Set.Down == 0:
		return name + " fully up"
	}
	return name + " at −" + e.Set.Down.String()
}

func (e SetKnob) change(r *Rig) error {
	i, err := r.mustFind(e.Tag)
	if err != nil {
		return err
	}
	r.Devices[i].setAmp(func(a *AmpSettings) {
		a.Knobs = without(a.Knobs, func(k Knob) bool { return k.Channel == e.Set.Channel })
		if !e.Forget {
			a.Knobs = append(a.Knobs, e.Set)
		}
	})
	return nil
}

// SetOrder records the crew's own order of switches; none means derived.
type SetOrder struct{ Order []string }

// Say tells what the edit does.
func (e SetOrder) Say() string {
	if len(e.Order) == 0 {
		return "Went back to the derived power-up order"
	}
	return "Changed the power-up order"
}

func (e SetOrder) change(r *Rig) error {
	r.Order = slices.Clone(e.Order)
	return nil
}

// ReplaceModel changes the figures of a model within this rig.
type ReplaceModel struct{ Model gear.Model }

// Say tells what the edit does.
func (e ReplaceModel) Say() string { return "Changed the figures of " + e.Model.Title() }

func (e ReplaceModel) change(r *Rig) error {
	for i := range r.Models {
		if r.Models[i].ID == e.Model.ID {
			r.Models[i] = e.Model
			return nil
		}
	}
	return fault.At("model", "There is no model %.60q in this rig.", e.Model.ID)
}

// Restore goes back to the rig of an earlier revision, as one edit more.
type Restore struct {
	Rig Rig    `json:"rig"`
	Of  string `json:"of,omitempty"` // which, in words
}

// Say tells what the edit does.
func (e Restore) Say() string { return "Went back to " + e.Of }

func (e Restore) change(r *Rig) error {
	*r = e.Rig.Clone()
	return nil
}

// without is a list without some of it, as a list of its own.
func without[T any](list []T, gone func(T) bool) []T {
	return slices.DeleteFunc(slices.Clone(list), gone)
}

func (r *Rig) mustFind(tag string) (int, error) {
	i := r.find(tag)
	if i < 0 {
		return 0, fault.At("tag", "There is no device %.40q in this rig.", tag)
	}
	return i, nil
}
