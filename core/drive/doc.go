// Package drive works out, once for each output and box, what it really gets: the
// ratings table, the mains at its outlet, the supply that its channels share, the
// load with all pieces of lead, and the limiter on record. Whatever shows such a
// figure reads it here.
//
// A load and a ratio are compared nominal with nominal, without leads: a lead
// excuses neither a load that is too low nor an amplifier that is too strong.
package drive
