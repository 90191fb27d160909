package rig

import (
	"slices"
	"testing"
)

// A set holds what was put in and nothing else, across the ends of its words and
// beside its neighbours.
func TestSet(t *testing.T) {
	sets := NewSets(130)
	in := []int{0, 1, 63, 64, 127, 128, 129}
	for _, i := range in {
		sets[1].Add(i)
		sets[1].Add(i)
	}
	if got := slices.Collect(sets[1].Each); !slices.Equal(got, in) {
		t.Errorf("%v, want %v", got, in)
	}
	for i := range 130 {
		if sets[1].Has(i) != slices.Contains(in, i) || sets[0].Has(i) || sets[2].Has(i) {
			t.Errorf("%d is in the wrong set", i)
		}
	}
	for i := range sets[1].Each { // a visitor may stop
		if i == 63 {
			break
		}
	}
}
