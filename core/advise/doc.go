// Package advise tries things out for one output that is there: what bridging, a
// bigger amplifier or another set of boxes would buy, what of the power and the
// grip arrives at the end of the line, and what level some figures would give.
// It changes nothing and finds nothing wrong; that is for core/match.
package advise
