package gear

import (
	"errors"
	"slices"
	"strings"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/words"
	"largo/web/kit"
)

// The form of a model is drawn and read by the table of entries of its kind
// (core/gear): a figure added there stands on it.

// readModel reads the form over a model; whatever the form does not show stays.
func readModel(f *kit.Form, m gear.Model) gear.Model {
	m = m.Clone()
	for _, part := range gear.Sections(m.Kind) {
		for _, e := range part.Entries {
			if e.Label == "" {
				continue
			}
			if err := e.Type(&m, f.Text(e.Field)); err != nil {
				refuseAt(f, e.Field, err)
			}
		}
	}
	return m
}

// refuseAt takes over what is wrong with one field.
func refuseAt(f *kit.Form, name string, err error) {
	var l fault.List
	if !errors.As(err, &l) {
		f.Fault(name, "%s.", words.Capital(err.Error()))
		return
	}
	for _, x := range l {
		f.Fault(name, "%s", x.Say)
	}
}

// modelSections writes a model into its form: each group reads in one line and is opened
// to be changed; of a new model those are open that its plate tells.
func modelSections(p *kit.Page, m gear.Model, isNew bool) []section {
	var sections []section
	for _, part := range gear.Sections(m.Kind) {
		s := section{Title: part.Title, Note: part.Note, Steps: part.Steps, Only: string(part.Only), Known: onRecord(part, m),
			Open: isNew && !part.Later}
		for _, e := range part.Entries {
			if e.Label != "" {
				f := entryField(p, e, m)
				s.Fields, s.Open = append(s.Fields, f), s.Open || f.Fault != ""
			}
		}
		if len(s.Fields) > 0 {
			sections = append(sections, s)
		}
	}
	return sections
}

// onRecord is what is known of a group: figures with their names, the words of a choice,
// and by its name alone what is so.
func onRecord(part gear.Section, m gear.Model) (list []kit.Choice) {
	for _, e := range part.Entries {
		value := e.Typed(&m)
		chosen := slices.IndexFunc(e.Offered, func(o gear.Option) bool { return o.Value == value })
		if e.Label == "" || value == "" || chosen == 0 { // nobody has said so
			continue
		}
		one := kit.Choice{Label: e.Label, Value: strings.ReplaceAll(value, "\n", "; ")}
		if other, is := strings.CutPrefix(e.Label, "or: "); is {
			one.Label = words.Capital(other)
		}
		if chosen > 0 {
			one.Value = e.Offered[chosen].Label
		}
		if e.JSON == gear.JSONYesNo {
			one = kit.Choice{Value: e.Label}
		}
		if e.Form == gear.Lines {
			one.Label = "" // which tells how to write them
		}
		list = append(list, one)
	}
	return list
}

// entryField is the field of one entry.
func entryField(p *kit.Page, e gear.Entry, m gear.Model) kit.Field {
	if e.Form == gear.OneOfAll {
		offered := make([]kit.Choice, len(e.Offered))
		for i, o := range e.Offered {
			offered[i] = kit.Choice{Value: o.Value, Label: o.Label}
		}
		return p.Choose("model", e.Field, e.Label, e.Typed(&m), offered...)
	}
	f := p.Field("model", e.Field, e.Label, e.Typed(&m), e.Hint)
	if e.Form == gear.Lines {
		f.Kind = string(gear.Lines)
	}
	f.Required = e.Required
	return f
}

// atFields carries the core's faults to the fields of the form.
func atFields(err error) error {
	var l fault.List
	if !errors.As(err, &l) {
		return err
	}
	for i := range l {
		l[i].Field = gear.FieldOf(l[i].Field)
	}
	return l
}
