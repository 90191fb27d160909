package store

// Known is known, for the tests.
var Known = known
