// Package typed reads a rig as it is said: devices one a line, "A1: 2 x 700 W 4 ohm"
// or "TOP 1 to 4: Brackwater Reed 10", and what feeds what, "RADIO > DESK > A1 > TOP 1
// to 4".
package typed

import (
	"fmt"
	"strings"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
)

// Library finds a model by what somebody typed of it, false where none is meant.
type Library func(text string) (gear.Model, bool)

// mostLines bounds what is read at once.
const mostLines = 100

// Read turns lines into one edit of a rig, and lists the models that it made of
// plates. Faults name the line.
func Read(r rig.Rig, library Library, text string) (rig.Edit, []gear.Model, error) {
	b := builder{rig: r.Clone(), library: library}
	var l fault.List
	lines := strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n")
	if len(lines) > mostLines {
		l.Add("lines", "%d lines at once are too many; give at most %d.", len(lines), mostLines)
		return nil, nil, l.Err()
	}
	for i, line := range lines {
		line = strings.TrimSpace(line)
		var err error
		switch {
		case line == "":
			continue
		case strings.Contains(line, ">"):
			err = b.chain(line)
		case strings.Contains(line, ":"):
			err = b.devices(line)
		default:
			err = fmt.Errorf("write a device as TOP 1 to 4: what it is, and what feeds what as DESK > A1 > TOP 1 to 4")
		}
		if err != nil {
			l.Add("lines", "Line %d, %.40q: %s", i+1, line, strings.TrimSuffix(err.Error(), ".")+".")
		}
	}
	if len(b.edits) == 0 && len(l) == 0 {
		l.Add("lines", "There is nothing on these lines.")
	}
	if err := l.Err(); err != nil {
		return nil, nil, err
	}
	return rig.Batch{Saying: fmt.Sprintf("Typed in %d lines", len(b.edits)), Edits: b.edits}, b.made, nil
}

// builder makes edits one after another, each on the rig that the last one left.
type builder struct {
	rig     rig.Rig
	library Library
	edits   []rig.Edit
	made    []gear.Model
}

func (b *builder) do(e rig.Edit) error {
	next, err := rig.Apply(b.rig, e)
	if err != nil {
		return err
	}
	b.rig, b.edits = next, append(b.edits, e)
	return nil
}

// devices reads "TOP 1 to 4: Brackwater Reed 10 for balcony at 12 m".
func (b *builder) devices(line string) error {
	names, what, _ := strings.Cut(line, ":")
	tags, err := rig.ExpandTags(names)
	if err != nil {
		return err
	}
	e := rig.AddDevices{Tags: tags}
	var distance unit.Given[unit.Metre]
	what, e.Aim, distance = aimOf(strings.TrimSpace(what))
	if e.Model, err = b.model(what); err != nil {
		return err
	}
	if err := b.do(e); err != nil {
		return err
	}
	if !distance.Known() {
		return nil
	}
	for _, tag := range tags {
		if err := b.do(rig.ChangeDevice{Tag: tag, NewTag: tag, Aim: e.Aim, Distance: distance}); err != nil {
			return err
		}
	}
	return nil
}

// aimOf takes "for the stage" and "at 12 m" off the end of what a device is.
func aimOf(what string) (rest string, aim rig.Aim, distance unit.Given[unit.Metre]) {
	if i := strings.LastIndex(what, " at "); i >= 0 {
		if m, err := unit.ParseMetre(what[i+4:]); err == nil {
			what, distance = strings.TrimSpace(what[:i]), unit.Of(m)
		}
	}
	if i := strings.LastIndex(what, " for "); i >= 0 {
		name := strings.TrimPrefix(strings.ToLower(strings.TrimSpace(what[i+5:])), "the ")
		if what = strings.TrimSpace(what[:i]); name != "audience" {
			aim = rig.Aim(name)
		}
	}
	return what, aim, distance
}

func (b *builder) model(what string) (gear.Model, error) {
	if m, known := b.library(what); known {
		return m, nil
	}
	m, err := gear.FromPlate(what)
	if err != nil {
		return gear.Model{}, err
	}
	if have, there := b.rig.Model(m.ID); there {
		return *have, nil
	}
	b.made = append(b.made, m)
	return m, nil
}

// chain reads "RADIO > DESK > A1 > TOP 1 to 4".
func (b *builder) chain(line string) error {
	parts := strings.Split(line, ">")
	for i := 1; i < len(parts); i++ {
		if err := b.join(strings.TrimSpace(parts[i-1]), strings.TrimSpace(parts[i])); err != nil {
			return err
		}
	}
	return nil
}

// join feeds every device of one list from those of another.
func (b *builder) join(from, to string) error {
	sources, err := rig.ExpandTags(from)
	if err != nil {
		return err
	}
	targets, err := rig.ExpandTags(to)
	if err != nil {
		return err
	}
	for _, tag := range append(append([]string{}, sources...), targets...) {
		if _, there := b.rig.Device(tag); !there {
			return fmt.Errorf("there is no device %.24q in this rig", tag)
		}
	}
	if hang, is := b.hanging(sources, targets); is {
		return b.do(hang)
	}
	for i, source := range sources {
		for j, target := range targets {
			if len(sources) > 1 && len(targets) > 1 && i != j%len(sources) {
				continue // one to one, as far as they go
			}
			if err := b.plug(source, target); err != nil {
				return err
			}
		}
	}
	return nil
}

// hanging spreads passive boxes over the free outputs of amplifiers, as many on each.
func (b *builder) hanging(sources, targets []string) (rig.Hang, bool) {
	e := rig.Hang{Boxes: targets}
	x := rig.NewIndex(b.rig)
	for _, tag := range targets {
		if _, m := x.Device(tag); m.Kind != gear.KindLoudspeaker || m.Loudspeaker.Active {
			return rig.Hang{}, false
		}
	}
	for _, tag := range sources {
		if _, m := x.Device(tag); m.Kind != gear.KindAmplifier {
			return rig.Hang{}, false
		}
		e.Outputs = append(e.Outputs, x.FreeOutputs(tag)...)
	}
	if n := len(e.Outputs); n > 0 {
		e.Each = (len(targets) + n - 1) / n
	}
	return e, len(e.Outputs) > 0
}

// plug feeds one device from another: a left and a right where both have them, else
// the first output that suits the next free input.
func (b *builder) plug(source, target string) error {
	x := rig.NewIndex(b.rig)
	_, m := x.Device(source)
	_, t := x.Device(target)
	var outs, ins []string
	for _, p := range m.Ports() {
		if p.Dir == gear.Out && p.Signal.Audio() && p.Signal != gear.Speaker {
			outs = append(outs, p.Name)
		}
	}
	for _, p := range t.Ports() {
		if _, fed := x.Into(rig.Ref{Device: target, Port: p.Name}); p.Dir == gear.In && p.Signal.Audio() && !fed {
			ins = append(ins, p.Name)
		}
	}
	if len(outs) == 0 || len(ins) == 0 {
		return fmt.Errorf("%s has no output that fits, or %s no free input", source, target)
	}
	pairs := [][2]string{{outs[0], ins[0]}}
	if right, paired := rig.RightOf(outs[0]); paired && len(outs) > 1 && outs[1] == right && len(ins) > 1 &&
		t.Kind != gear.KindLoudspeaker {
		pairs = append(pairs, [2]string{right, ins[1]})
	}
	for _, p := range pairs {
		if err := b.do(rig.Connect{Link: rig.Link{From: rig.Ref{Device: source, Port: p[0]},
			To: rig.Ref{Device: target, Port: p[1]}}}); err != nil {
			return err
		}
	}
	return nil
}
