// Package plan works out which amplifiers, in which modes, drive all boxes of a
// rig at the least number, weight, current or hire, and proves that it is the
// least: every way that core/match would let pass is an option of a linear
// programme in whole numbers, which core/milp solves.
package plan
