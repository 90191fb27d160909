package gear_test

import (
	"fmt"
	"reflect"
	"testing"

	"largo/core/gear"
	"largo/demo"
)

// Nothing that a copy of a model holds may be the original's: every pointer
// and every list is another, however deep. A list that is added to a part and
// forgotten in Clone fails here.
func TestCloneSharesNothing(t *testing.T) {
	models, err := demo.Gear()
	if err != nil {
		t.Fatal(err)
	}
	full := gear.Model{Loudspeaker: &gear.Loudspeaker{Drive: gear.Drive{Impedance: gear.Curve{{Hz: 1}},
		Driver: &gear.Driver{}}, Response: gear.Curve{{Hz: 1}},
		Ways: []gear.Way{{Drive: gear.Drive{Impedance: gear.Curve{{Hz: 2}}, Driver: &gear.Driver{}}}}},
		Amplifier: &gear.Amplifier{Ratings: []gear.Rating{{}}, Bridging: gear.Bridging{Pairs: []string{"A+B"}}}}
	for _, m := range append(models, full) {
		twin := m.Clone()
		if !reflect.DeepEqual(m, twin) {
			t.Errorf("%s: its copy is another", m.ID)
		}
		sharesNothing(t, m.ID, reflect.ValueOf(m), reflect.ValueOf(twin))
	}
}

func sharesNothing(t *testing.T, path string, a, b reflect.Value) {
	t.Helper()
	switch a.Kind() {
	case reflect.Pointer, reflect.Slice:
		if a.IsNil() || a.Kind() == reflect.Slice && a.Len() == 0 {
			return
		}
		if a.Pointer() == b.Pointer() {
			t.Errorf("%s is shared with the copy", path)
		}
		if a.Kind() == reflect.Pointer {
			sharesNothing(t, path, a.Elem(), b.Elem())
			return
		}
		for i := range a.Len() {
			sharesNothing(t, fmt.Sprintf("%s[%d]", path, i), a.Index(i), b.Index(i))
		}
	case reflect.Struct:
		for i := range a.NumField() {
			sharesNothing(t, path+"."+a.Type().Field(i).Name, a.Field(i), b.Field(i))
		}
	}
}
