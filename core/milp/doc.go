// Package milp solves small linear programmes in whole numbers exactly: by
// branch and bound over a dual simplex with bounds on every variable, on one
// dense table. It is made for some tens of rows and some hundreds of columns,
// of which the data are small whole numbers; it says what it has proved and,
// when it is stopped, how far it may be off.
//
// The method is that of the textbooks: R. J. Vanderbei, Linear Programming,
// chapters on the dual simplex method and on integer programming; A. Land and
// A. Doig, Econometrica 28 (1960). From memory.
package milp
