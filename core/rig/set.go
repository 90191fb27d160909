package rig

import "math/bits"

// Set is a set of indexes, as of the devices of a rig, a bit each.
type Set []uint64

// NewSets makes n empty sets of indexes below n, which lie together.
func NewSets(n int) []Set {
	words := (n + 63) / 64
	sets, all := make([]Set, n), make(Set, n*words)
	for i := range sets {
		sets[i] = all[i*words : (i+1)*words : (i+1)*words]
	}
	return sets
}

// Has tells whether an index is in the set.
func (s Set) Has(i int) bool { return s[i/64]&(1<<(i%64)) != 0 }

// Add puts an index into the set.
func (s Set) Add(i int) { s[i/64] |= 1 << (i % 64) }

// Each visits the indexes of the set, rising.
func (s Set) Each(yield func(int) bool) {
	for w, word := range s {
		for ; word != 0; word &= word - 1 {
			if !yield(64*w + bits.TrailingZeros64(word)) {
				return
			}
		}
	}
}
