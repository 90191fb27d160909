// Package match judges which amplifier drives which boxes, in which mode: the
// load against the least that is rated, the power against what the boxes are
// rated for under the chosen policy, the level where the audience is, and
// whether two channels may be bridged and what that would buy.
package match
