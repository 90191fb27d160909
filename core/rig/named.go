package rig

import (
	"fmt"
	"slices"
	"strings"

	"largo/core/fault"
)

// What a rig holds beside its devices has a name of its own, by which devices and
// each other name it. What nothing names any more, and nothing but its name is
// known of, goes of itself.

// Place is a spot on site: devices, switches and outlets stand in it.
type Place struct {
	Name string `json:"name"`
	Note string `json:"note,omitempty"` // how to find it
}

// Switch is one that feeds several devices at once: a strip, the switch of a rack,
// a key.
type Switch struct {
	Name  string `json:"name"`
	Place string `json:"place,omitempty"`
	Looks string `json:"looks,omitempty"` // as "red rocker under the lid"
}

// Case is one physical thing with several devices as its parts, as a mixer with
// amplifiers inside: one inlet, one switch.
type Case struct {
	Name  string `json:"name"`
	Place string `json:"place,omitempty"`
}

// Person is somebody of the crew, or to ring.
type Person struct {
	Name   string `json:"name"`
	Role   string `json:"role,omitempty"`
	Number string `json:"number,omitempty"`
}

// placeNames visits every place of the rig that names a place. A new field that
// does belongs here: renaming follows it.
func (r *Rig) placeNames(visit func(name *string)) {
	for i := range r.Devices {
		visit(&r.Devices[i].Place)
	}
	for i := range r.Switches {
		visit(&r.Switches[i].Place)
	}
	for i := range r.Cases {
		visit(&r.Cases[i].Place)
	}
	for i := range r.Supplies {
		visit(&r.Supplies[i].Place)
	}
}

// settle takes in what devices name for the first time, and drops what nothing
// names any more and nothing but its name is known of.
func (r *Rig) settle() {
	var places, switches []string
	r.placeNames(func(name *string) { places = append(places, *name) })
	for _, d := range r.Devices {
		switches = append(switches, d.Switch)
	}
	r.Places = settled(r.Places, places, func(p Place) string { return p.Name },
		func(p Place) bool { return p.Note == "" },
		func(name string) Place { return Place{Name: name} })
	r.Switches = settled(r.Switches, switches, func(s Switch) string { return s.Name },
		func(s Switch) bool { return s.Place == "" && s.Looks == "" }, func(name string) Switch { return Switch{Name: name} })
}

func settled[T any](list []T, named []string, name func(T) string, bare func(T) bool, begin func(string) T) []T {
	wanted := make(map[string]bool, len(named))
	for _, n := range named {
		wanted[n] = n != ""
	}
	list = without(list, func(v T) bool { return bare(v) && !wanted[name(v)] })
	for _, v := range list {
		delete(wanted, name(v))
	}
	for _, n := range named { // in their order, each once
		if wanted[n] {
			list = append(list, begin(n))
			delete(wanted, n)
		}
	}
	return list
}

// checkNamed faults what is named twice, and names that lead nowhere.
func (r Rig) checkNamed(l *fault.List) {
	places := checkNames(l, "places", "The place", 80, r.Places, func(p Place) string { return p.Name })
	checkNames(l, "switches", "The switch", 40, r.Switches, func(s Switch) string { return s.Name })
	checkNames(l, "cases", "The case", 40, r.Cases, func(c Case) string { return c.Name })
	checkNames(l, "people", "The name", 60, r.People, func(p Person) string { return p.Name })
	stands := func(path, place string) {
		if place != "" && !places[place] {
			l.Add(path, "There is no place %.60q in this rig.", place)
		}
	}
	for i, p := range r.Places {
		l.CheckName(fmt.Sprintf("places[%d].note", i), "How to find it", p.Note, 200, false)
	}
	for i, s := range r.Switches {
		stands(fmt.Sprintf("switches[%d].place", i), s.Place)
		l.CheckName(fmt.Sprintf("switches[%d].looks", i), "What it looks like", s.Looks, 120, false)
	}
	for i, c := range r.Cases {
		stands(fmt.Sprintf("cases[%d].place", i), c.Place)
	}
	for i, p := range r.People {
		l.CheckName(fmt.Sprintf("people[%d].role", i), "What somebody does", p.Role, 60, false)
		l.CheckName(fmt.Sprintf("people[%d].number", i), "A number", p.Number, 40, false)
	}
	for i, s := range r.Supplies {
		stands(fmt.Sprintf("supplies[%d].place", i), s.Place)
	}
	r.checkSupplies(l)
}

func checkNames[T any](l *fault.List, list, what string, most int, of []T, name func(T) string) map[string]bool {
	seen := make(map[string]bool, len(of))
	for i, v := range of {
		path := fmt.Sprintf("%s[%d].name", list, i)
		l.CheckName(path, what, name(v), most, true)
		if seen[name(v)] {
			l.Add(path, "%q stands there a second time.", name(v))
		}
		seen[name(v)] = true
	}
	return seen
}

// checkWhere faults what a device says of where it is and the rig does not hold.
func (r Rig) checkWhere(l *fault.List, d *Device) {
	has := func(field, what, name string, known bool) {
		if name != "" && !known {
			l.Add(field, "There is no %s %.60q in this rig.", what, name)
		}
	}
	has("place", "place", d.Place, slices.ContainsFunc(r.Places, func(p Place) bool { return p.Name == d.Place }))
	has("switch", "switch", d.Switch, slices.ContainsFunc(r.Switches, func(s Switch) bool { return s.Name == d.Switch }))
	has("case", "case", d.Case, slices.ContainsFunc(r.Cases, func(c Case) bool { return c.Name == d.Case }))
	has("outlet", "outlet", d.Outlet,
		slices.ContainsFunc(r.Supplies, func(s Supply) bool { return s.Name == d.Outlet && s.Sort == Outlet }))
}

// SetPlace renames a place, which everything in it follows, or notes how to find
// it. A place of another name that is there already is joined.
type SetPlace struct {
	Name string `json:"name"` // as it is; one that is not there yet is begun
	To   Place  `json:"to"`
}

// Say tells what the edit does.
func (e SetPlace) Say() string {
	if e.Name != e.To.Name {
		return "Renamed the place " + e.Name + " to " + e.To.Name
	}
	return "Changed the place " + e.Name
}

func (e SetPlace) change(r *Rig) error {
	r.Places = without(r.Places, func(p Place) bool { return p.Name == e.Name || p.Name == e.To.Name })
	r.Places = append(r.Places, e.To)
	r.placeNames(func(name *string) {
		if *name == e.Name {
			*name = e.To.Name
		}
	})
	r.settle()
	return nil
}

// SetSwitch says where a switch that several devices share is, and what it looks
// like.
type SetSwitch struct {
	Set Switch `json:"set"`
}

// Say tells what the edit does.
func (e SetSwitch) Say() string { return "Changed the switch " + e.Set.Name }

func (e SetSwitch) change(r *Rig) error {
	i := slices.IndexFunc(r.Switches, func(s Switch) bool { return s.Name == e.Set.Name })
	if i < 0 {
		return fault.At("name", "No device shares a switch %.40q.", e.Set.Name)
	}
	r.Switches[i] = e.Set
	r.settle()
	return nil
}

// SetCase makes devices the parts of one case, those alone; without any the case
// is taken apart.
type SetCase struct {
	Case  Case     `json:"case"`
	Parts []string `json:"parts,omitempty"` // their tags
}

// Say tells what the edit does.
func (e SetCase) Say() string {
	if len(e.Parts) == 0 {
		return "Took the case " + e.Case.Name + " apart"
	}
	return fmt.Sprintf("Put %d parts into the case %s", len(e.Parts), e.Case.Name)
}

func (e SetCase) change(r *Rig) error {
	r.Cases = without(r.Cases, func(c Case) bool { return c.Name == e.Case.Name })
	if len(e.Parts) > 0 {
		r.Cases = append(r.Cases, e.Case)
	}
	before := make([]string, len(r.Devices))
	for i := range r.Devices {
		if before[i] = r.Devices[i].SwitchName(); r.Devices[i].Case == e.Case.Name {
			r.Devices[i].Case = ""
		}
	}
	for _, tag := range e.Parts {
		i, err := r.mustFind(tag)
		if err != nil {
			return err
		}
		r.Devices[i].Case, r.Devices[i].Place = e.Case.Name, e.Case.Place
	}
	for i := range r.Devices {
		r.followSwitch(before[i], r.Devices[i].SwitchName())
	}
	r.settle()
	return nil
}

// mostPeople bounds the people of a job.
const mostPeople = 60

// ParsePeople reads people, one a line: a name, and behind commas what they do and the
// number to ring, as "Ada Fenn, sound, 0700 900123".
func ParsePeople(text string) ([]Person, error) {
	var people []Person
	var l fault.List
	for line := range strings.Lines(text) {
		parts := strings.Split(strings.TrimSpace(line), ",")
		p := Person{Name: strings.TrimSpace(parts[0])}
		for _, part := range parts[1:] {
			part = strings.TrimSpace(part)
			switch number := part != "" && strings.Trim(part, "+0123456789 /-()") == ""; {
			case part == "":
			case number && p.Number == "":
				p.Number = part
			case !number && p.Role == "":
				p.Role = part
			default:
				l.Add("people", "%.60q: write a name, what they do, and the number, with commas between.",
					strings.TrimSpace(line))
			}
		}
		if p != (Person{}) {
			people = append(people, p)
		}
	}
	if len(people) > mostPeople {
		l.Add("people", "%d people are more than a job takes; name at most %d.", len(people), mostPeople)
	}
	return people, l.Err()
}

// Line writes a person as ParsePeople reads one.
func (p Person) Line() string {
	line := p.Name
	for _, part := range []string{p.Role, p.Number} {
		if part != "" {
			line += ", " + part
		}
	}
	return line
}

// SetPeople says who goes, and whom to ring.
type SetPeople struct {
	People []Person `json:"people"`
}

// Say tells what the edit does.
func (SetPeople) Say() string { return "Changed who goes" }

func (e SetPeople) change(r *Rig) error {
	r.People = slices.Clone(e.People)
	return nil
}
