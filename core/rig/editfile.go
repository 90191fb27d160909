package rig

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"largo/core/fault"
)

// An edit can be sent and kept: as {"edit": "connect", "with": {...}}, under the
// name that it bears in this list.
var editKinds = map[string]reflect.Type{
	"batch":            reflect.TypeFor[Batch](),
	"set brief":        reflect.TypeFor[SetBrief](),
	"set wishes":       reflect.TypeFor[SetWishes](),
	"set policies":     reflect.TypeFor[SetPolicies](),
	"add devices":      reflect.TypeFor[AddDevices](),
	"change device":    reflect.TypeFor[ChangeDevice](),
	"remove device":    reflect.TypeFor[RemoveDevice](),
	"connect":          reflect.TypeFor[Connect](),
	"disconnect":       reflect.TypeFor[Disconnect](),
	"set swapped":      reflect.TypeFor[SetSwapped](),
	"set pair":         reflect.TypeFor[SetPair](),
	"set limiter":      reflect.TypeFor[SetLimiter](),
	"set knob":         reflect.TypeFor[SetKnob](),
	"set order":        reflect.TypeFor[SetOrder](),
	"set lead":         reflect.TypeFor[SetLead](),
	"set leads":        reflect.TypeFor[SetLeads](),
	"set limits":       reflect.TypeFor[SetLimits](),
	"set pad":          reflect.TypeFor[SetPad](),
	"set port":         reflect.TypeFor[SetPort](),
	"set phantom":      reflect.TypeFor[SetPhantom](),
	"record reading":   reflect.TypeFor[RecordReading](),
	"replace model":    reflect.TypeFor[ReplaceModel](),
	"restore":          reflect.TypeFor[Restore](),
	"hang":             reflect.TypeFor[Hang](),
	"mirror left":      reflect.TypeFor[MirrorLeft](),
	"place on drawing": reflect.TypeFor[PlaceOnDrawing](),
	"tidy drawing":     reflect.TypeFor[TidyDrawing](),
	"set place":        reflect.TypeFor[SetPlace](),
	"set switch":       reflect.TypeFor[SetSwitch](),
	"set case":         reflect.TypeFor[SetCase](),
	"set people":       reflect.TypeFor[SetPeople](),
	"change supply":    reflect.TypeFor[ChangeSupply](),
	"remove supply":    reflect.TypeFor[RemoveSupply](),
	"set supplies":     reflect.TypeFor[SetSupplies](),
	"plug mains":       reflect.TypeFor[PlugMains](),
	"lift earth":       reflect.TypeFor[LiftEarth](),
}

// editNames are the names by type.
var editNames = func() map[reflect.Type]string {
	names := make(map[reflect.Type]string, len(editKinds))
	for name, t := range editKinds {
		names[t] = name
	}
	return names
}()

// EditNames lists what edits there are, in the order of the alphabet.
func EditNames() []string {
	var names []string
	for name := range editKinds {
		names = append(names, name)
	}
	slices.Sort(names)
	return names
}

type editFile struct {
	Edit string          `json:"edit"`
	With json.RawMessage `json:"with,omitempty"`
}

// MarshalEdit writes an edit as data.
func MarshalEdit(e Edit) ([]byte, error) {
	name, known := editNames[reflect.TypeOf(e)]
	if !known {
		return nil, fmt.Errorf("the edit %T has no name in editKinds", e)
	}
	with, err := json.Marshal(e)
	if err != nil {
		return nil, err
	}
	return json.Marshal(editFile{name, with})
}

// UnmarshalEdit reads an edit that was written as data. What it may do to a rig
// is judged when it is made.
func UnmarshalEdit(b []byte) (Edit, error) { return unmarshalEdit(b, 0) }

// deepestBatch bounds batches within batches.
const deepestBatch = 4

func unmarshalEdit(b []byte, depth int) (Edit, error) {
	var f editFile
	if err := strictly(b, &f); err != nil {
		return nil, fault.At("edit", "This is no edit: %s.", err)
	}
	t, known := editKinds[f.Edit]
	if !known {
		return nil, fault.At("edit", "There is no edit %.40q; there are %s.", f.Edit, strings.Join(EditNames(), ", "))
	}
	if t == reflect.TypeFor[Batch]() {
		return unmarshalBatch(f.With, depth)
	}
	v := reflect.New(t)
	if len(f.With) > 0 {
		if err := strictly(f.With, v.Interface()); err != nil {
			return nil, fault.At("with", "The edit %q cannot be read: %s.", f.Edit, err)
		}
	}
	return v.Elem().Interface().(Edit), nil
}

func strictly(b []byte, into any) error {
	dec := json.NewDecoder(bytes.NewReader(b))
	dec.DisallowUnknownFields()
	return dec.Decode(into)
}

type batchFile struct {
	Saying string            `json:"saying"`
	Edits  []json.RawMessage `json:"edits"`
}

// MarshalJSON writes a batch with its edits as data.
func (b Batch) MarshalJSON() ([]byte, error) {
	f := batchFile{Saying: b.Saying, Edits: []json.RawMessage{}}
	for _, e := range b.Edits {
		one, err := MarshalEdit(e)
		if err != nil {
			return nil, err
		}
		f.Edits = append(f.Edits, one)
	}
	return json.Marshal(f)
}

func unmarshalBatch(with []byte, depth int) (Edit, error) {
	if depth >= deepestBatch {
		return nil, fault.At("with", "Batches stand in each other more than %d deep.", deepestBatch)
	}
	var f batchFile
	if err := strictly(with, &f); err != nil {
		return nil, fault.At("with", "The batch cannot be read: %s.", err)
	}
	b := Batch{Saying: f.Saying}
	for i, one := range f.Edits {
		e, err := unmarshalEdit(one, depth+1)
		if err != nil {
			return nil, fmt.Errorf("edit %d of the batch: %w", i+1, err)
		}
		b.Edits = append(b.Edits, e)
	}
	return b, nil
}
